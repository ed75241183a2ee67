"""Lenses: named criteria on what is known of a piece."""
