"""Outlines of lines and arcs: to points and back again."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.frame.outlines import OutlineError, arc_through, circle, edges, points_of, polygon, radius_of, with_arcs
from uncus.job.blanks import Blank, Corner, HoleRow
from uncus.steel.features import Face, Notch, rounded

size = st.floats(20, 3000)


@given(size, st.floats(-2000, 2000), st.floats(-2000, 2000))
def test_a_circle_is_found_again_in_rounded_points(radius, x, z):
    points = rounded(Notch(Face.WEB, tuple(points_of(circle(x, z, radius))))).outline
    along = with_arcs(points)
    assert len(along) == 2
    assert radius_of(*along) == pytest.approx(radius, abs=0.01)
    assert polygon(circle(x, z, radius)).area == pytest.approx(math.pi * radius**2, rel=1e-4)


@given(size, size, st.floats(0.05, 0.95), st.floats(-1.5, 1.5))
def test_corners_and_an_arc_are_found_again(wide, high, share, bulge):
    bulge = 0.3 if abs(bulge) < 0.05 else bulge
    r = share * min(wide, high) / 2
    ring = (Corner(0, 0, round=r), Corner(wide, 0, clip=r), Corner(wide, high, bulge), Corner(0, high))
    try:
        polygon(ring)
    except OutlineError:
        return  # an arc bent in over its own edges
    wanted, found = edges(ring), with_arcs(points_of(ring))
    start = min(range(len(found)), key=lambda i: math.dist(found[i][:2], wanted[0][:2]))
    found = found[start:] + found[:start]
    halves = [e for e in found if min(math.dist(e[:2], w[:2]) for w in wanted) > 0.01]  # of more than half a circle
    assert len(found) - len(halves) == len(wanted) and len(halves) <= 1
    if not halves:
        assert [e.bulge for e in found] == pytest.approx([e.bulge for e in wanted], abs=2e-3)


@given(st.integers(3, 14), size)
def test_straight_sides_stay_straight(n, radius):
    turn = [2 * math.pi * k / n for k in range(n)]
    points = [(radius * math.cos(t), radius * math.sin(t)) for t in turn]
    assert [e.bulge for e in with_arcs(points)] == [0.0] * n


def test_an_edge_bends_through_the_point_that_was_picked():
    for by in ((50.0, 20.0), (50.0, -80.0), (10.0, 3.0)):
        bulge = arc_through((0.0, 0.0), by, (100.0, 0.0))
        points = points_of((Corner(0, 0, bulge), Corner(100, 0), Corner(50, 300 if by[1] < 0 else -300)))
        assert min(math.dist(p, by) for p in points) < 1.0
    assert arc_through((0.0, 0.0), (50.0, 0.0), (100.0, 0.0)) == 0.0


@pytest.mark.parametrize(
    ("ring", "said"),
    [
        ((Corner(0, 0), Corner(100, 100), Corner(100, 0), Corner(0, 100)), "crosses itself"),
        ((Corner(0, 0, round=80), Corner(100, 0), Corner(100, 50)), "more of an edge"),
        ((Corner(0, 0, round=60), Corner(100, 0, clip=60), Corner(100, 300), Corner(0, 300)), "meet on the edge"),
        ((Corner(0, 0, 0.5), Corner(100, 0, round=5), Corner(100, 100)), "two straight edges"),
        ((Corner(0, 0), Corner(0, 0), Corner(100, 0, clip=3), Corner(100, 9)), "lie on one another"),
    ],
)
def test_what_cannot_be_cut_is_refused_in_a_sentence(ring, said):
    with pytest.raises(OutlineError, match=said):
        polygon(ring)


def test_blanks_say_what_is_wrong_with_them():
    square = tuple(Corner(x, z) for x, z in ((0, 0), (300, 0), (300, 300), (0, 300)))
    assert Blank(square).problem() is None
    for wrong in (
        Blank(square[:2]),
        Blank((Corner(float("nan"), 0), *square[1:])),
        Blank(square, (), (HoleRow(50, 50, 0.1),)),
        Blank(square, (), (HoleRow(50, 50, 22, columns=9, dx=10),)),
        Blank(square, (), (HoleRow(50, 50, 22, columns=5000, rows=2),)),
        Blank(square * 600),
    ):
        assert wrong.problem()


@given(st.floats(-170, 170), st.integers(1, 5), st.integers(1, 4), st.booleans())
def test_a_plate_seen_from_its_other_side_is_the_same_plate(turn, columns, rows, twice):
    row = HoleRow(60, 40, 10, 30, 25, columns, rows, 45, 50, turn)
    blank = Blank((Corner(0, 0, 0.2), Corner(400, 0), Corner(350, 300, -0.1), Corner(0, 200)), (), (row,))
    other = blank.turned_end_for_end(400.0)
    there, here = polygon(other.outline), polygon(blank.outline)
    assert there.area == pytest.approx(here.area)
    spots = sorted((round(400 - x, 6), round(z, 6)) for x, z in other.holes[0].spots())
    assert spots == sorted((round(x, 6), round(z, 6)) for x, z in row.spots())
    if twice:
        assert polygon(other.turned_end_for_end(400.0).outline).symmetric_difference(here).area < 1e-6
