"""Uncus: structural steel detailing."""

__version__ = "0.23.0"
