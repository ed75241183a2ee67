"""Uncus: structural steel detailing."""

__version__ = "0.16.0"
