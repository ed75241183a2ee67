"""Uncus: structural steel detailing."""

__version__ = "0.2.0"
