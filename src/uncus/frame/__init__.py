"""Where members are: local axes, roll, offsets; grids, planes and snaps."""
