"""Uncus: structural steel detailing."""

__version__ = "0.10.0"
