"""Uncus: structural steel detailing."""

__version__ = "0.22.0"
