"""Simulated outside devices that ship with the program."""
