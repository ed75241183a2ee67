"""Uncus: structural steel detailing."""

__version__ = "0.14.0"
