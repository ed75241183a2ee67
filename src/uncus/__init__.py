"""Uncus: structural steel detailing."""

__version__ = "0.8.0"
