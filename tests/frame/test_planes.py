import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.frame.grids import crossings, make_grid, runs
from uncus.frame.guides import all_round, at_angle, distance_to, parallel, square, stretch
from uncus.frame.planes import face_plane, kept_plane, level_plane, member_plane, three_points, view_plane, wall_plane
from uncus.frame.typed import retyped_point, typed_point
from uncus.job.errors import JobError
from uncus.job.records import Level
from uncus.units import UnitError, Units

FLOOR = level_plane(Level(name="Floor", elevation=3000.0))
GRID = make_grid([6000.0, 7200.0], [5000.0])
WALL = wall_plane(next(r for r in runs(GRID) if r.label == "2"))  # grid 2: upright through x = 6000
POINT = st.tuples(*[st.floats(-1e5, 1e5)] * 3).map(np.array)


@pytest.mark.parametrize(
    ("plane", "x", "y", "z"),
    [
        (FLOOR, (1, 0, 0), (0, 1, 0), (0, 0, 1)),
        (WALL, (0, 1, 0), (0, 0, 1), (1, 0, 0)),
        (face_plane((0, 0, 0), (0, -2, 0)), (1, 0, 0), (0, 0, 1), (0, -1, 0)),
        (face_plane((0, 0, 0), (0, 0, 9)), (1, 0, 0), (0, 1, 0), (0, 0, 1)),
        (three_points((1, 1, 1), (5, 1, 1), (3, 1, 9)), (1, 0, 0), (0, 0, 1), (0, -1, 0)),
        (view_plane((0, 0, 0), (0, 1, 0), (0, 0, 1)), (0, 1, 0), (0, 0, 1), (1, 0, 0)),
        (member_plane(WALL.base, "beam", flat=True), (0, 1, 0), (0, 0, 1), (1, 0, 0)),
    ],
)
def test_axes_of_planes(plane, x, y, z):
    assert np.allclose(plane.base.axes.T, [x, y, z])


@given(POINT, POINT, POINT, st.floats(-1e4, 1e4), POINT)
def test_three_points_make_a_plane_through_them_or_say_why_not(a, b, c, depth, p):
    try:
        plane = three_points(a, b, c)
    except JobError:
        sides = math.dist(a, b), math.dist(a, c), math.dist(b, c)
        off = np.linalg.norm(np.cross(b - a, c - a)) / max(sides[0], 1e-9)  # of the third from the line of the others
        assert min(sides) < 1.0 or off < 1.01 * max(1.0, 1e-5 * sides[1])
        return
    assert max(abs(plane.away(q)) for q in (a, b, c)) < 1e-5
    moved = plane.deeper(depth)
    assert moved.away(a) == pytest.approx(-depth, abs=1e-5)
    assert moved.away(moved.onto(p)) == pytest.approx(0, abs=1e-5)
    kept = kept_plane(moved.record("id", "mine"))
    assert kept.place.near(moved.place, 1e-6) and kept.name == "mine"


@pytest.mark.parametrize("points", [((0, 0, 0), (5, 0, 0), (9, 0, 0)), ((0, 0, 0), (0, 0, 0), (9, 9, 0))])
def test_points_in_line_make_no_plane(points):
    with pytest.raises(JobError, match=r"in line|the same"):
        three_points(*points)


def test_a_sight_line_meets_the_plane_where_it_lies():
    assert np.allclose(FLOOR.deeper(500).under((0, 0, 10_000), (0, 0, -1)), (0, 0, 3500))
    assert np.allclose(WALL.under((0, 10, 20), (1, 0, 0)), (6000, 10, 20))
    assert FLOOR.under((0, 0, 0), (1, 0, 0)) is None


LAST, POINTER = np.array([100.0, 200.0, 3000.0]), np.array([100.0, 900.0, 3000.0])


@pytest.mark.parametrize(
    ("text", "plane", "point"),
    [
        ("1500", FLOOR, (100, 1700, 3000)),
        ("-1500", FLOOR, (100, -1300, 3000)),
        ("2*750", FLOOR, (100, 1700, 3000)),
        ("1000 at 30", FLOOR, (100 + 500 * math.sqrt(3), 700, 3000)),
        ("1300 at 5:12", FLOOR, (1300, 700, 3000)),
        ("300, -400", FLOOR, (400, -200, 3000)),
        ("0, 0, 250", FLOOR, (100, 200, 3250)),
        (", 10", FLOOR, (100, 210, 3000)),
        ("10', 1m", FLOOR, (3148, 1200, 3000)),
        ("2/B", FLOOR, (6000, 5000, 3000)),
        ("2/b + 100, 200", FLOOR, (6100, 5200, 3000)),
        ("2/B + 1m at 90", FLOOR, (6000, 6000, 3000)),
        ("origin + 5, 6", FLOOR, (5, 6, 3000)),
        ("origin", FLOOR.deeper(10), (0, 0, 3010)),
        ("300, 400", WALL, (100, 500, 3400)),  # x along the wall (north), y up
        ("origin + 300, 400, 50", WALL, (6050, 300, 400)),
        ("2/A", WALL, (6000, 0, 0)),
        ("500 at 90", WALL, (100, 200, 3500)),
    ],
)
def test_typed_points(text, plane, point):
    found = typed_point(text, plane, GRID, Units.METRIC, LAST, POINTER)
    assert np.allclose(found, point, atol=1e-6)


@pytest.mark.parametrize(
    ("text", "last", "says"),
    [
        ("1500", None, "no point yet"),
        ("9/Z", LAST, "no grid crossing"),
        ("9/Z + 3, 4", LAST, "no grid crossing"),
        ("2/B + 300", LAST, "say which way"),
        ("1, 2, 3, 4", LAST, "more than three"),
        ("five", LAST, "not a length"),
        ("1m at noon", LAST, "not an angle"),
        ("1/B", LAST, "not on the work plane"),
    ],
)
def test_typed_points_that_cannot_be(text, last, says):
    with pytest.raises((UnitError, JobError), match=says):
        typed_point(text, WALL, GRID, Units.METRIC, last, POINTER)


@pytest.mark.parametrize(
    ("text", "point"),
    [
        ("1, 2, 3", (1, 2, 3)),
        (", , 4500", (7, 8, 4500)),
        ("-100, ,", (-100, 8, 9)),
        ("2/B", None),
        ("2/b, 3000", None),
        ("1, 2", "x, y, z"),
        ("9/Z", "x, y, z"),
        ("one, 2, 3", "not a length"),
    ],
)
def test_a_work_point_is_typed_anew_or_in_part(text, point):
    """As `x, y, z` from the grid's origin; what is left empty stays; a crossing gives x and y."""
    if isinstance(point, str):
        with pytest.raises(UnitError, match=point):
            retyped_point(text, (7, 8, 9), GRID, Units.METRIC)
        return
    x, y = next((x, y) for label, x, y in crossings(GRID) if label == "2/B")
    expected = point or (x, y, 3000 if "3000" in text else 9)
    assert retyped_point(text, (7, 8, 9), GRID, Units.METRIC) == pytest.approx(expected)


def test_a_length_needs_a_direction():
    with pytest.raises(JobError, match="direction"):
        typed_point("100", FLOOR, None, Units.METRIC, LAST, LAST)


A, B = np.array([0.0, 0, 3000]), np.array([4000.0, 0, 3000])


def test_guides_are_made_on_the_plane_from_other_lines():
    left = parallel(A, B, FLOOR, 500)
    assert left.a == (0, 500, 3000) and left.b == (4000, 500, 3000)
    assert distance_to(A, B, FLOOR, np.array([9.0, -70, 0])) == pytest.approx(-70)
    through = np.array([1000.0, 50, 3000])
    up = square(A, B, FLOOR, through)
    assert up.a == (1000, 50, 3000) and up.b == (1000, 4050, 3000)
    slanted = at_angle(A, B, FLOOR, through, 30)
    d = np.subtract(slanted.b, slanted.a)
    assert math.degrees(math.atan2(d[1], d[0])) == pytest.approx(30, abs=1e-4)
    a, b = stretch(left)
    assert a[0] < -90_000 and b[0] > 90_000 and a[1] == b[1] == 500
    ring = all_round([A, B, B + (0, 300, 0), A + (0, 300, 0)])
    assert len(ring) == 4 and not any(g.endless for g in ring) and ring[-1].b == ring[0].a
    # on a wall the same line runs out of the plane's square: its left is up
    assert parallel(np.array([6000.0, 0, 0]), np.array([6000.0, 900, 0]), WALL, 100).a == (6000, 0, 100)


@pytest.mark.parametrize(
    "make",
    [
        lambda: parallel(A, A, FLOOR, 5),
        lambda: square(np.zeros(3), np.array([0, 0, 900.0]), FLOOR, np.zeros(3)),
    ],
)
def test_lines_no_guide_can_be_made_from(make):
    with pytest.raises(JobError, match=r"no length|out of the work plane"):
        make()
