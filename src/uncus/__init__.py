"""Uncus: structural steel detailing."""

__version__ = "0.7.0"
