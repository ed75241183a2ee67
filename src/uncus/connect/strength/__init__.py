"""Strength of joints: limit states by AISC 360 and EN 1993-1-8, each with its formula, what was put in and the
result."""
