"""Two plates that meet at an edge made one that is bent there: folded up, it lies where they lay."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from uncus.catalog.sections import section
from uncus.connect.own_ends import own_ends
from uncus.frame.outlines import rectangle, straight
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_in
from uncus.job.blanks import Blank, Corner, Fold, HoleRow
from uncus.job.errors import JobError
from uncus.job.records import Attachment
from uncus.shop.own_parts import own_part
from uncus.shop.records import body_of
from uncus.steel.edge_fold import bent_as_one, folded_of
from uncus.steel.solid import solid
from uncus.units import Units


def placed_solid(member):
    body = body_of(member)
    part, low = own_part(body, "", own_ends(body))
    place = body.along(low + part.length / 2).moved((low, 0.0, 0.0))
    return solid(part).transform(np.column_stack([place.axes, place.origin]))


def pair(turn, at, angle, sizes, off, gaps, thickness, flipped, arc=0.0):
    """One plate below a line along x, the other beyond it, bent up by an angle towards the near side; its far edge may
    be an arc."""
    (w1, h1), (w2, h2) = sizes
    first = Blank(rectangle((0.0, -h1), (w1, -gaps[0])), (), (HoleRow(50.0, -h1 / 2, 20.0),))
    one = plate_in(Placement(at, turn), first, thickness, Units.METRIC)
    a = math.radians(angle)
    z = turn[:, 2] * math.cos(a) - turn[:, 1] * math.sin(a)
    x = -turn[:, 0] if flipped else turn[:, 0]
    x0 = -off - w2 if flipped else off
    ring = [Corner(x0, gaps[1]), Corner(x0 + w2, gaps[1]), Corner(x0 + w2, h2, arc), Corner(x0, h2)]
    slot = HoleRow(x0 + w2 / 2, h2 / 2, 14.0, 30.0, 25.0)
    blank = Blank(tuple(ring), (straight([(x0 + 20, h2 - 60), (x0 + 50, h2 - 60), (x0 + 20, h2 - 40)]),), (slot,))
    other = plate_in(Placement(at, np.column_stack([x, np.cross(z, x), z])), blank, thickness, Units.METRIC)
    return one, other, z


@given(
    seed=st.integers(0, 10_000),
    angle=st.floats(12.0, 150.0),
    up=st.sampled_from([-1.0, 1.0]),
    flipped=st.booleans(),
    thickness=st.sampled_from([5.0, 10.0, 16.0]),
    off=st.floats(-60.0, 60.0),
    widths=st.tuples(st.floats(160.0, 600.0), st.floats(160.0, 600.0)),
    gaps=st.tuples(st.floats(0.0, 10.0), st.floats(0.0, 10.0)),
    arc=st.sampled_from([0.0, 0.3]),
)
def test_bent_up_it_lies_where_the_two_lay(seed, angle, up, flipped, thickness, off, widths, gaps, arc):
    turn = Rotation.random(random_state=seed).as_matrix()
    at = np.array([1000.0, -2000.0, 300.0])
    one, other, into = pair(
        turn, at, up * angle, ((widths[0], 250.0), (widths[1], 300.0)), off, gaps, thickness, flipped, arc
    )
    radius = 1.5 * thickness
    whole = folded_of(one, other, radius, Units.METRIC)
    assert whole.id == one.id and len(whole.blank.folds) == 1 and len(whole.blank.holes) == 2
    assert whole.blank.folds[0].angle == pytest.approx(up * angle, abs=1e-6)
    bent = placed_solid(whole)
    back = (radius + thickness / 2) * math.tan(math.radians(angle) / 2) + 0.5  # what the bend takes of each
    left = 0.0
    for plate, way in ((one, -turn[:, 2]), (other, into)):
        flat = placed_solid(plate).trim_by_plane(tuple(way), float(way @ at) + back)
        assert flat.volume() > 1000.0
        assert (flat - bent).volume() < 3e-5 * flat.volume() + 1.0
        left += flat.volume()
    zone = thickness * (math.radians(angle) * (radius + thickness / 2) + 1.0 + sum(gaps)) * max(widths)
    assert left < bent.volume() < left + zone + 1.0


TURN, AT = np.eye(3), np.zeros(3)
SIZES = ((300.0, 200.0), (300.0, 200.0))


FLAT = Blank(rectangle((0.0, 2.0), (300.0, 90.0)))


@pytest.mark.parametrize(
    ("other", "said"),
    [
        (plate_in(Placement(AT, TURN), FLAT, 10.0, Units.METRIC), "one plane"),
        (plate_in(Placement(AT, TURN), FLAT, 12.0, Units.METRIC), "one thickness"),
        (pair(TURN, AT, 90.0, SIZES, 320.0, (0.0, 0.0), 10.0, False)[1], "beside each other"),
        (pair(TURN, AT, 90.0, SIZES, 0.0, (0.0, 80.0), 10.0, False)[1], "No straight edge"),
        (pair(TURN, AT, 90.0, SIZES, 0.0, (0.0, -90.0), 10.0, False)[1], "No straight edge"),
        (pair(TURN, AT, 175.0, SIZES, 0.0, (0.0, 0.0), 10.0, False)[1], "no press bends that"),
    ],
)
def test_what_is_not_one_bent_plate_is_refused_with_the_reason(other, said):
    one = pair(TURN, AT, 90.0, SIZES, 0.0, (0.0, 0.0), 10.0, False)[0]
    with pytest.raises(JobError, match=said):
        folded_of(one, other, 15.0, Units.METRIC)


def test_a_third_plate_is_bent_on_and_one_at_a_flat_that_is_bent_up_is_refused():
    one, other, _ = pair(TURN, AT, 90.0, SIZES, 0.0, (0.0, 0.0), 10.0, False)
    whole = folded_of(one, other, 15.0, Units.METRIC)
    low = Placement((0.0, 0.0, -200.0), np.column_stack([[1.0, 0, 0], [0, 0, 1.0], [0, -1.0, 0]]))
    third = plate_in(low, Blank(rectangle((0.0, 0.0), (300.0, 90.0))), 10.0, Units.METRIC)
    for pair_ in ((whole, third), (third, whole)):
        made = folded_of(*pair_, 15.0, Units.METRIC)
        assert made.id == whole.id and sorted(f.angle for f in made.blank.folds) == pytest.approx([90.0, 90.0])
        assert (placed_solid(third).trim_by_plane((0, -1, 0), 25.0) - placed_solid(made)).volume() < 1.0
    far = (
        max(c.z for c in whole.blank.outline) + section(whole.section).d / 2 - 200.0
    )  # in the flat, where none is bent
    up = Placement((0.0, 0.0, far), np.column_stack([[1.0, 0, 0], [0, 0, 1.0], [0, -1.0, 0]]))
    beyond = plate_in(up, Blank(rectangle((0.0, 0.0), (300.0, 90.0))), 10.0, Units.METRIC)
    with pytest.raises(JobError, match="bent up already"):
        folded_of(whole, beyond, 15.0, Units.METRIC)


def test_what_was_fixed_to_the_second_is_fixed_to_the_whole_and_their_weld_goes():
    one, other, _ = pair(TURN, AT, 90.0, SIZES, 0.0, (0.0, 0.0), 6.0, False)
    between = Attachment(kind="welded on", member=other.id, mate=one.id)
    on = Attachment(kind="welded on", member=other.id, mate="beam")
    done = bent_as_one(one, other, Units.METRIC, "S355JR", ([], [between, on]))
    assert {one.id, on.id} == {r.id for r in done.put} and set(done.drop) == {other.id, between.id}
    assert next(r for r in done.put if r.id == on.id).members == (one.id, "beam")
    assert isinstance(done.put[0].blank.folds[0], Fold) and "90" in done.words
