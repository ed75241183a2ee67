"""Bars and plates cut from stock with little left over."""
