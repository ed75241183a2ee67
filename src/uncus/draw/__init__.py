"""From pieces to paper: projection, dimensions, placement, sheets."""
