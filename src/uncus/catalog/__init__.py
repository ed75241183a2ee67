"""What can be bought: sections, grades, bolts, rods. Data files and look-ups."""
