"""Uncus: structural steel detailing."""

__version__ = "0.15.0"
