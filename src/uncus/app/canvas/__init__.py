"""The model view."""
