"""Connections: a file per kind, the office's rules, and the list of kinds."""
