"""Surfaces laid flat and folded again, by code that shares nothing with what laid them flat."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import how_many
from uncus.compose.development import Strip, blank_of, fold_angles, hull_strip, laid_flat, seams
from uncus.compose.ducts import SHAPES, outline
from uncus.connect.own_ends import own_ends
from uncus.frame.plates import plate_in
from uncus.shop.own_parts import own_part
from uncus.shop.records import body_of
from uncus.steel.flat import net_volume
from uncus.steel.forming import formed
from uncus.steel.solid import solid
from uncus.units import Units


def ring(flat, z, dx=0.0, dy=0.0, tilt=0.0):
    slope = math.tan(math.radians(tilt))
    return np.column_stack([flat[:, 0] + dx, flat[:, 1] + dy, z + flat[:, 0] * slope])


def turned(points, a, b, angle):
    """Points turned about the axis from a to b (quaternions: not how the product does it)."""
    axis = (b - a) / np.linalg.norm(b - a)
    w, v = math.cos(angle / 2), math.sin(angle / 2) * axis
    off = points - a
    twice = 2 * np.cross(v, off)
    return a + off + w * twice + np.cross(v, twice)


def folded_again(flat, strip):
    """The rulings of a pattern in space: fold after fold from the facet that stays, each turning all beyond it."""
    at = flat.place
    first = at.to_model(np.column_stack([flat.first[:, 0], np.zeros(len(flat.first)), flat.first[:, 1]]))
    last = at.to_model(np.column_stack([flat.last[:, 0], np.zeros(len(flat.last)), flat.last[:, 1]]))
    n = len(first)
    for k in range(n - 2, flat.root, -1):  # from the far end in: each fold turns what lies beyond it
        for ends in (first, last):
            ends[k + 1 :] = turned(ends[k + 1 :], first[k], last[k], flat.folds[k - 1])
    for k in range(1, flat.root + 1):
        for ends in (first, last):
            ends[:k] = turned(ends[:k], first[k], last[k], -flat.folds[k - 1])
    return max(np.abs(first - strip.first).max(), np.abs(last - strip.last).max())


def area(strip):
    """By triangles in space."""
    a, b, c, d = strip.first[:-1], strip.last[:-1], strip.first[1:], strip.last[1:]
    return sum(float(np.linalg.norm(np.cross(p - a, q - a), axis=1).sum()) / 2 for p, q in ((b, d), (d, c)))


@settings(max_examples=how_many(40, 600))
@given(
    st.sampled_from(SHAPES), st.sampled_from(SHAPES), st.floats(300, 1500), st.floats(150, 900), st.floats(250, 1500),
    st.floats(-200, 200), st.floats(-150, 150), st.floats(-15, 15), st.integers(8, 90), st.integers(2, 5),
)  # fmt: skip
def test_every_pattern_folds_to_its_surface(one, other, wide, deep, high, dx, dy, tilt, steps, pieces):
    rings = [
        ring(outline(one, wide, deep, 6, steps), 0.0),
        ring(outline(other, wide * 0.6, deep * 0.5, 5, steps), high, dx, dy, tilt),
    ]
    strip = hull_strip(*rings)
    whole = 0.0
    for part in seams(strip, pieces, ()):
        try:
            flat = laid_flat(part)
        except ValueError as refused:  # of few, a piece that goes round too far
            assert "part it into more pieces" in str(refused) and pieces < 5
            return
        assert folded_again(flat, part) < 0.1
        assert flat.area == pytest.approx(area(part), rel=1e-6)
        whole += flat.area
    assert whole == pytest.approx(area(strip), rel=1e-6)
    # nothing of either outline lies outside the surface
    for a, b, c in zip(strip.first[:-1], strip.last[:-1], strip.last[1:], strict=True):
        normal = np.cross(b - a, c - a)
        if np.linalg.norm(normal) > 1.0:
            side = (np.vstack(rings) - a) @ (normal / np.linalg.norm(normal))
            assert min(side.max(), -side.min()) < 0.05


@pytest.mark.parametrize("thickness", [3.0, 10.0])
@pytest.mark.parametrize("pieces", [2, 3])
def test_plates_of_a_surface_are_where_it_is_and_weigh_what_they_cover(thickness, pieces):
    strip = hull_strip(
        ring(outline("rectangle", 900, 700, 0, 36), 0.0), ring(outline("circle", 400, 0, 0, 36), 500, 80, 40)
    )
    for part in seams(strip, pieces, ()):
        flat = laid_flat(part)
        body = body_of(plate_in(flat.place, blank_of(flat, thickness), thickness, Units.METRIC))
        made, shift = own_part(body, "", own_ends(body))
        place = body.frame.moved((shift, 0.0, 0.0))
        spots = place.to_model(formed(made, [(x, 0.0, z) for x, z in made.outline]))
        wanted = np.vstack([part.first, part.last])
        assert max(np.linalg.norm(wanted - p, axis=1).min() for p in spots) < 0.1
        assert net_volume(made) == pytest.approx(area(part) * thickness, rel=1e-4)
        assert solid(made).volume() == pytest.approx(net_volume(made), rel=1e-3)


def test_a_cone_develops_as_its_formula_says():
    """A truncated cone's pattern is a ring's sector: radii by its slant, angle by its half angle."""
    low, high, tall = 600.0, 300.0, 500.0
    turn = np.radians(np.arange(0, 360, 2.0))
    rings = [
        np.column_stack([r * np.cos(turn), r * np.sin(turn), np.full(180, z)]) for r, z in ((low, 0.0), (high, tall))
    ]
    flats = [laid_flat(p) for p in seams(hull_strip(*rings), 3, ())]
    slant = math.hypot(low - high, tall)
    outer = slant * low / (low - high)
    lengths = sum(float(np.linalg.norm(np.diff(f.first, axis=0), axis=1).sum()) for f in flats)
    assert lengths == pytest.approx(2 * math.pi * low, rel=1e-4)
    assert sum(f.area for f in flats) == pytest.approx(math.pi * (low + high) * slant, rel=1e-4)
    for f in flats:  # all ends lie on two circles about one point
        k = f.root
        apex = f.first[k] + (f.last[k] - f.first[k]) * outer / slant
        assert np.linalg.norm(f.first - apex, axis=1) == pytest.approx(outer, rel=1e-6)


@pytest.mark.parametrize("slope", [0.0, 0.4, 1.0])
def test_a_cylinder_cut_aslant_develops_to_a_sine(slope):
    r, tall, n = 250.0, 900.0, 180
    phi = 2 * math.pi * np.arange(n + 1) / n
    base = np.column_stack([r * np.cos(phi), r * np.sin(phi), np.zeros(n + 1)])
    top = base + np.column_stack([np.zeros(n + 1), np.zeros(n + 1), tall + slope * r * np.cos(phi)])
    flat = laid_flat(Strip(base, top))
    xs = flat.first[:, 0] - flat.first[0, 0]
    assert xs[-1] == pytest.approx(2 * math.pi * r, rel=1e-4)
    high = flat.last[:, 1] - flat.first[:, 1]
    assert high == pytest.approx(tall + slope * r * np.cos(phi), rel=1e-6)
    assert flat.area == pytest.approx(2 * math.pi * r * tall, rel=1e-4)
    assert np.degrees(np.abs(fold_angles(Strip(base, top))).sum()) == pytest.approx(360 - 360 / n, rel=1e-6)


def test_a_strip_that_goes_too_far_round_is_to_be_parted():
    turn = np.radians(np.arange(0, 360, 4.0))
    round_ = np.column_stack([np.cos(turn), np.sin(turn)])
    strip = hull_strip(ring(900.0 * round_, 0.0), ring(200.0 * round_, 60.0))
    with pytest.raises(ValueError, match="part it into more pieces"):
        laid_flat(seams(strip, 1, ())[0])
    assert len([laid_flat(p) for p in seams(strip, 3, ())]) == 3
