"""Uncus: structural steel detailing."""

__version__ = "0.19.0"
