"""Uncus: structural steel detailing."""

__version__ = "0.1.0"
