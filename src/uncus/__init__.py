"""Uncus: structural steel detailing."""

__version__ = "0.20.0"
