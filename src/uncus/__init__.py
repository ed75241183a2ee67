"""Uncus: structural steel detailing."""

__version__ = "0.18.0"
