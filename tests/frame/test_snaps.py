"""Snaps as a plan and an elevation see them: a pixel is 10 mm."""

import msgspec
import numpy as np
import pytest

from uncus.frame.grids import make_grid, runs
from uncus.frame.planes import level_plane, view_plane, wall_plane
from uncus.frame.snaps import Snap, SnapIndex, SnapKind, Wanted, closest
from uncus.job.records import Guide, Level, Member, Role


class View:
    """An orthographic sight: rows are right, up and towards the eye."""

    def __init__(self, *axes):
        self.axes = np.array(axes, dtype=float)

    def to_screen(self, points):
        local = np.asarray(points, dtype=float).reshape(-1, 3) @ self.axes.T
        return np.column_stack([local[:, 0] / 10, -local[:, 1] / 10, -local[:, 2]])

    def ray(self, x, y):
        right, up, back = self.axes
        return right * x * 10 - up * y * 10 + back * 1e6, -back

    def at(self, *point):
        x, y, _ = self.to_screen(point)[0]
        return x, y


PLAN = View((1, 0, 0), (0, 1, 0), (0, 0, 1))
FROM_EAST = View((0, 1, 0), (0, 0, 1), (1, 0, 0))
# Rafters in plan along y at x = 0 and 6000, rising from 6400 at y = 0 to 7924 at y = 6096: 1 in 4.
RAFTERS = [
    Member(id=f"r{x}", role=Role.RAFTER, section="W14X22", start=(x, 0, 6400), end=(x, 6096, 7924)) for x in (0, 6000)
]
BEAM = Member(id="b", role=Role.BEAM, section="W12X26", start=(0, 3000, 3000), end=(6000, 3000, 3000))
GRID = make_grid([6000.0], [6096.0])
EAVES = level_plane(Level(name="Eaves", elevation=6400.0))
FLOOR = level_plane(Level(name="Floor", elevation=3000.0))
THIRD = Guide(a=(0, 2032, 6400), b=(500, 2032, 6400))


def find(index, view, point, **wanted):
    return index.find(view.at(*point), view, Wanted(**wanted))


ROOF = SnapIndex(RAFTERS, GRID, EAVES, [THIRD])


@pytest.mark.parametrize("x", [0, 6000])
def test_a_plan_crossing_is_lifted_onto_the_sloping_member(x):
    """The guide at y = 2032 is a third of the way up: 6400 + 1524/3 = 6908, on both rafters."""
    snap = find(ROOF, PLAN, (x + 30, 2032 + 40, 0))
    assert snap.kind is SnapKind.LIFTED and snap.piece == f"r{x}"
    assert np.allclose(snap.point, (x, 2032, 6908))
    assert snap.words == "guide lifted onto rafter W14X22"


def test_the_same_crossing_on_the_plane_says_what_it_misses():
    snap = find(ROOF, PLAN, (0, 2032, 0), only=SnapKind.APPARENT)
    assert np.allclose(snap.point, (0, 2032, 6400)) and snap.words == "on the plane below rafter W14X22"
    held = find(ROOF, PLAN, (0, 2032, 0), held=True)
    assert np.allclose(held.point, (0, 2032, 6400)) and "dropped onto the plane" in held.words


@pytest.mark.parametrize(
    ("point", "kind", "there", "words"),
    [
        ((40, 40, 0), SnapKind.END, (0, 0, 6400), "left end of rafter W14X22"),
        ((6000, 6096, 0), SnapKind.GRID, (6000, 6096, 6400), "grid 2/B"),
        ((0, 3048, 0), SnapKind.MIDDLE, (0, 3048, 7162), "middle of rafter W14X22"),
        ((30, 4500, 0), SnapKind.NEAREST, (0, 4500, 6400), "nearest on grid line 1"),
        ((3000, 4000, 0), SnapKind.PLANE, (3000, 4000, 6400), "on the plane"),
        ((3000, 2040, 0), SnapKind.NEAREST, (3000, 2032, 6400), "nearest on guide"),
    ],
)
def test_what_a_pick_in_plan_takes(point, kind, there, words):
    snap = find(ROOF, PLAN, point)
    assert (snap.kind, snap.words) == (kind, words)
    assert np.allclose(snap.point, there, atol=0.06)


@pytest.mark.parametrize("only", [k for k in SnapKind if k not in (SnapKind.HOLE, SnapKind.CORNER, SnapKind.SQUARE)])
def test_forcing_a_kind_gives_that_kind_or_nothing(only):
    rng = np.random.default_rng(3)
    seen = 0
    for x, y in rng.uniform((-500, -500), (6500, 6600), (60, 2)).tolist() + [[0, 0], [0, 2032], [0, 3048], [6000, 0]]:
        snap = find(ROOF, PLAN, (x, y, 0), only=only)
        assert snap is None or snap.kind is only
        seen += snap is not None
    assert seen or only is SnapKind.CROSSING, f"nothing was ever {only}"


def test_square_to_a_line_from_the_point_before():
    snap = find(ROOF, PLAN, (3020, 2032, 0), last=(3000.0, 5000.0, 6400.0), only=SnapKind.SQUARE)
    assert np.allclose(snap.point, (3000, 2032, 6400)) and snap.words == "square to guide"
    # square to a sloping line is square in space: t = (p - a).d/d.d
    rafter = find(ROOF, PLAN, (0, 2870, 0), last=(3000.0, 3048.0, 6400.0), only=SnapKind.SQUARE)
    d = np.subtract(RAFTERS[0].end, RAFTERS[0].start)
    assert abs(np.subtract(rafter.point, (3000, 3048, 6400)) @ d) < 1e-6


def test_true_crossings_and_crossings_as_seen():
    brace = Member(id="v", role=Role.BRACE, section="L4X4X3/8", start=(0, 0, 3000), end=(6000, 6000, 3000))
    index = SnapIndex([BEAM, brace], None, FLOOR)
    # both middles are there too; the crossing is asked for by name
    snap = find(index, PLAN, (3000, 3000, 0), only=SnapKind.CROSSING)
    assert np.allclose(snap.point, (3000, 3000, 3000)) and "beam" in snap.words and "brace" in snap.words
    higher = SnapIndex([BEAM, msgspec.structs.replace(brace, start=(0, 0, 4000), end=(6000, 6000, 5000))], None, FLOOR)
    assert find(higher, PLAN, (3000, 3000, 0), only=SnapKind.CROSSING) is None
    lifted = find(higher, PLAN, (3000, 3000, 0), only=SnapKind.LIFTED)
    assert np.allclose(lifted.point, (3000, 3000, 4500)) and lifted.piece == "v"


def test_on_a_wall_grid_lines_are_plumb_and_levels_are_lines():
    wall = wall_plane(next(r for r in runs(GRID) if r.label == "2"))
    levels = [Level(name="Eaves", elevation=6400.0), Level(name="Slab", elevation=0.0)]
    index = SnapIndex([], GRID, wall, levels=levels)
    snap = find(index, FROM_EAST, (6000, 6096 + 30, 6400 - 20))
    assert snap.kind is SnapKind.CROSSING and np.allclose(snap.point, (6000, 6096, 6400))
    assert snap.words == "crossing of grid line B and level Eaves"
    nearest = find(index, FROM_EAST, (6000, 3000, 30))
    assert nearest.words == "nearest on level Slab" and np.allclose(nearest.point, (6000, 3000, 0))


def test_of_what_lies_behind_one_another_the_one_on_the_plane_wins_then_the_one_in_front():
    low = Member(id="low", role=Role.BEAM, section="W12X26", start=(1000, 1000, 0), end=(5000, 1000, 0))
    high = msgspec.structs.replace(low, id="high", start=(1000, 1000, 3000), end=(5000, 1000, 3000))
    higher = msgspec.structs.replace(low, id="higher", start=(1000, 1000, 9000), end=(5000, 1000, 9000))
    assert find(SnapIndex([low, high, higher], None, FLOOR), PLAN, (1000, 1000, 0)).piece == "high"
    assert find(SnapIndex([low, higher], None, FLOOR), PLAN, (1000, 1000, 0)).piece == "higher"


def test_further_points_and_an_empty_job():
    hole = Snap((100.0, 0.0, 3000.0), "hole 13/16 of beam", "b", SnapKind.HOLE)
    index = SnapIndex([], None, FLOOR)
    assert index.find(PLAN.at(130, 0, 0), PLAN, Wanted(), [hole]) == hole
    assert index.find(PLAN.at(900, 0, 0), PLAN, Wanted(), [hole]).kind is SnapKind.PLANE
    assert index.find(FROM_EAST.at(0, 0, 0), FROM_EAST, Wanted()) is None, "the plane is seen edge on"


def test_where_two_lines_come_nearest():
    t, s, away = closest((0, 0, 0), (10, 0, 0), (4, -5, 3), (4, 5, 3))
    assert (t, s, away) == pytest.approx((0.4, 0.5, 3))
    assert closest((0, 0, 0), (1, 0, 0), (0, 1, 0), (5, 1, 0)) is None


def test_what_is_clipped_away_is_not_snapped_to():
    """In plan, depth grows downwards: the rafter's end stands 6400 high, its middle 7162."""
    below = (-7000.0, 0.0)
    assert find(ROOF, PLAN, (0, 3048, 0), only=SnapKind.MIDDLE) is not None
    assert find(ROOF, PLAN, (0, 3048, 0), only=SnapKind.MIDDLE, seen=below) is None
    assert find(ROOF, PLAN, (0, 0, 0), only=SnapKind.END, seen=below) is not None
    assert find(ROOF, PLAN, (6000, 6096, 0), seen=(-100.0, 100.0)).kind is SnapKind.GRID, (
        "the work plane stays in reach"
    )


@pytest.mark.parametrize("degrees", [10.0, 30.0, 45.0])
def test_a_grid_line_on_a_wall_that_stands_skew_to_it_is_where_both_are(degrees):
    t = np.radians(degrees)
    along = np.array([np.cos(t), np.sin(t), 0.0])
    wall = view_plane((500.0, 200.0, 0.0), along, (0, 0, 1))
    index = SnapIndex([], GRID, wall, levels=[Level(name="Slab", elevation=0.0)])
    sight = View(along, (0, 0, 1), (np.sin(t), -np.cos(t), 0))
    for label, where in (("A", (0.0 - 200.0) / along[1]), ("2", (6000.0 - 500.0) / along[0])):
        there = np.array([500.0, 200.0, 0.0]) + where * along
        snap = find(index, sight, there)
        assert snap is not None and np.allclose(snap.point, there, atol=1e-6), label
        assert snap.words == f"crossing of grid line {label} and level Slab"
