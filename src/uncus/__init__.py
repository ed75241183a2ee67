"""Uncus: structural steel detailing."""

__version__ = "0.9.0"
