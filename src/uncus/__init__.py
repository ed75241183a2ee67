"""Uncus: structural steel detailing."""

__version__ = "0.6.0"
