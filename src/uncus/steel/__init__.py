"""Parts with features, their outlines, solids and weights."""
