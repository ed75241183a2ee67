"""Uncus: structural steel detailing."""

__version__ = "0.12.0"
