"""What goes out: NC, IFC, DXF, PDF, tables, and the package that holds them."""
