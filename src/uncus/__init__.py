"""Uncus: structural steel detailing."""

__version__ = "0.21.0"
