"""Lists: assemblies, parts, bolts."""
