"""Uncus: structural steel detailing."""

__version__ = "0.5.0"
