"""Frames from a few typed values: one file a kind, whose struct makes its form."""
