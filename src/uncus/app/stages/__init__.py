"""One file a stage: what its canvas holds."""
