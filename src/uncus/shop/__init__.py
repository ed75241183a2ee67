"""From records to steel: the whole derivation, and what a change touched."""
