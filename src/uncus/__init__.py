"""Uncus: structural steel detailing."""

__version__ = "0.3.0"
