"""The entries of the register, a file per kind of sheet; each gives its entries in the order people read them."""
