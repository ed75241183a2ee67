"""Sameness, series and the marks of pieces."""
