"""Uncus: structural steel detailing."""

__version__ = "0.11.0"
