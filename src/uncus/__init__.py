"""Uncus: structural steel detailing."""

__version__ = "0.17.0"
