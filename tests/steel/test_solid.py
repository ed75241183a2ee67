"""Meshes of parts: which triangles meet where."""

import numpy as np

from uncus.steel.solid import plain_mesh, plain_sides


def test_triangles_share_a_side_where_they_meet_and_nowhere_else(sample):
    for part in {p.part for p in sample[1].pieces()}:
        triangles, numbers = plain_mesh(part).triangles, plain_sides(part)
        ends = np.sort(np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2), axis=2)
        flat = zip(numbers.ravel().tolist(), ends.reshape(-1, 2).tolist(), strict=True)
        sides = {(number, *pair) for number, pair in flat}
        assert len(sides) == len({n for n, *_ in sides}) == len({(a, b) for _, a, b in sides})
