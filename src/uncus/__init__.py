"""Uncus: structural steel detailing."""

__version__ = "0.13.0"
