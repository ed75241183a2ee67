"""Sheets on screen."""
