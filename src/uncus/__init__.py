"""Uncus: structural steel detailing."""

__version__ = "0.4.0"
