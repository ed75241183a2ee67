"""Rolls against vectors worked by hand; each working is beside its figure."""

import math

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from uncus.catalog.sections import section
from uncus.frame.axes import member_frame
from uncus.frame.moves import transformed, turn_about
from uncus.frame.neighbours import Segments
from uncus.frame.rerolling import amended
from uncus.frame.roll import (
    RollBy,
    Toes,
    bisecting,
    by_supports,
    square_to_flange,
    toes_now,
    toes_of,
    towards,
    turned_toes,
)
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Member, Role


def member(start, end, section="W8X18", role=Role.BEAM, **values):
    return Member(role=role, section=section, start=start, end=end, **values)


# Rafter along (0, 12, 5)/13. Its z at roll 0 is up less its part along x, made unit: (0, -5, 12)/13.
RAFTER = member((0, -12000, -5000), (0, 12000, 5000), "W14X22", Role.RAFTER)


def test_a_purlin_square_to_a_rafter_of_5_in_12():
    # Purlin along x: y0 = (0, 1, 0), z0 = (0, 0, 1). roll = atan2(-z.y0, z.z0) = atan2(5/13, 12/13).
    rolled = square_to_flange(member((-3000, 0, 0), (3000, 0, 0)), [RAFTER])
    assert rolled.member.roll == pytest.approx(math.degrees(math.atan2(5, 12)))
    assert np.allclose(member_frame(rolled.member, section("W8X18")).z, np.array([0, -5, 12]) / 13)
    assert "22.62°" in rolled.words and "rafter W14X22" in rolled.words


def test_a_purlin_askew_in_the_roof():
    # Along (3/5)(1, 0, 0) + (4/5)(0, 12, 5)/13, in the roof. x.up = 4/13, so |up - (x.up)x| = sqrt(1 - 16/169) and
    # z0 = (up - 4/13 x)/sqrt(153/169); y0 is level: (-48/65, 3/5, 0)/sqrt(153/169).
    # z = (0, -5, 12)/13: -z.y0 = (3/13)/sqrt(153/169), z.z0 = (12/13)/sqrt(153/169) since z.x = 0. tan(roll) = 3/12.
    end = tuple(3000 * c for c in (3 / 5, 48 / 65, 20 / 65))
    rolled = square_to_flange(member((0, 0, 0), end), [RAFTER])
    assert math.tan(math.radians(rolled.member.roll)) == pytest.approx(1 / 4)


def test_between_two_flanges_that_differ_it_lies_halfway():
    # normals (0, -5, 12)/13 and (0, 0, 1): the half angle of 22.62 degrees
    flat = member((5000, -9000, 0), (5000, 9000, 0), "W14X22", Role.RAFTER)
    rolled = square_to_flange(member((0, 0, 0), (5000, 0, 0)), [RAFTER, flat])
    assert rolled.member.roll == pytest.approx(math.degrees(math.atan2(5, 12)) / 2)
    assert "halfway" in rolled.words


HIP = member((0, 0, 0), (6000, 4000, 2000), "W12X26", Role.RAFTER)


def test_a_hip_between_unequal_slopes():
    # South slope z = y/2, n1 = (0, -1, 2)/sqrt 5; west slope z = x/3, n2 = (-1, 0, 3)/sqrt 10; they meet along (3, 2,
    # 1).
    # y0 = (-2, 3, 0)/sqrt 13 (level, to the left), and n.z0 = n_z / sqrt(13/14) for n square to x.
    # tan(roll) = -(n1 + n2).y0 / (n1 + n2).z0
    south = member((3000, 0, 0), (3000, 2000, 1000), role=Role.RAFTER)
    west = member((0, 1000, 0), (1500, 1000, 500), role=Role.RAFTER)
    y0 = (-3 / math.sqrt(5) + 2 / math.sqrt(10)) / math.sqrt(13)
    z0 = (2 / math.sqrt(5) + 3 / math.sqrt(10)) / math.sqrt(13 / 14)
    rolled = bisecting(HIP, [south, west])
    assert rolled.member.roll == pytest.approx(math.degrees(math.atan2(-y0, z0)))
    assert rolled.member.roll == pytest.approx(5.8715, abs=1e-3)
    assert "18.43°" in rolled.words and "26.57°" in rolled.words
    with pytest.raises(JobError, match="on each side"):
        bisecting(HIP, [south])


def test_a_valley_between_equal_slopes_stays_plumb():
    valley = member((0, 0, 0), (6000, 6000, 2000))
    left = member((3000, 3000, 1000), (3000, 6000, 2000))
    right = member((3000, 3000, 1000), (6000, 3000, 2000))
    assert bisecting(valley, [left, right]).member.roll == pytest.approx(0)


def test_supports_are_found_in_the_sample(job):
    members = job.all(Member)
    among = Segments(members)
    purlins = [m for m in members if m.role is Role.PURLIN]
    assert len(purlins) == 12
    for purlin in purlins:
        plain = msgspec.structs.replace(purlin, roll=0.0)
        assert by_supports(plain, among, RollBy.FLANGE).member.roll == pytest.approx(purlin.roll % 360)
        assert by_supports(purlin, among, RollBy.PLUMB).member.roll == 0
    column = next(m for m in members if m.role is Role.COLUMN)
    with pytest.raises(JobError, match="plumb"):
        by_supports(column, among, RollBy.FLANGE)
    with pytest.raises(JobError, match="Nothing stands"):
        by_supports(member((0, 0, 90_000), (5000, 0, 90_000)), among, RollBy.FLANGE)
    with pytest.raises(JobError, match="bisects nothing"):
        by_supports(member((0, 0, 90_000), (5000, 0, 90_000)), among, RollBy.BISECT)


@given(st.tuples(*[st.floats(-1e4, 1e4)] * 3), st.floats(-180, 180))
def test_towards_undoes_the_roll(end, roll):
    if math.dist(end, (0, 0, 0)) < 10:
        return
    m = member((0, 0, 0), end, roll=roll)
    z = member_frame(m, section("W8X18")).z
    assert (towards(m, z) - roll + 180) % 360 - 180 == pytest.approx(0, abs=1e-5)


@pytest.mark.parametrize("name", ["C10X15.3", "L6X4X1/2", "L4X4X3/8"])
@pytest.mark.parametrize("toes", list(Toes))
@pytest.mark.parametrize("end", [(5000, 0, 0), (0, -5000, 0), (3000, 3000, 1000)])
def test_toes_point_where_asked(name, toes, end):
    m = member((0, 9000, 3000), tuple(np.add((0, 9000, 3000), end)), name)
    rolled = turned_toes(m, toes, np.array([-4000.0, 0, 3000]), leg_up=True if name[0] == "L" else None)
    y = toes_of(rolled.member)
    inward = (-4000, 0, 0) - (np.asarray(m.start) + np.asarray(m.end)) / 2
    inward[2] = 0
    if toes is Toes.IN:
        assert y @ inward > 0
    elif toes is Toes.OUT:
        assert y @ inward < 0
    else:
        assert y[2] * (1 if toes is Toes.UP else -1) > 0.9
    if name[0] == "L" and toes in (Toes.IN, Toes.OUT):
        assert member_frame(rolled.member, section(name)).z[2] < -0.9, "the flat leg is up"
    assert f"toes {toes}" in rolled.words and toes_now(rolled.member, np.array([-4000.0, 0, 3000])) is toes


def test_what_has_no_toes_says_so():
    with pytest.raises(JobError, match="no toes"):
        turned_toes(member((0, 0, 0), (1000, 0, 0)), Toes.IN, np.zeros(3))
    with pytest.raises(JobError, match="in the middle"):
        turned_toes(member((-500, 0, 0), (500, 0, 0), "C10X15.3"), Toes.IN, np.zeros(3))


def following():
    """Two rafters of 5 in 12 with a purlin on them whose roll follows, and one whose roll was typed."""
    low = [replace(RAFTER, id=f"r{x}", start=(x, *RAFTER.start[1:]), end=(x, *RAFTER.end[1:])) for x in (-3000, 3000)]
    job = Job([*low, member((-3000, 0, 0), (3000, 0, 0), id="typed", roll=10.0)])
    job.amend(amended)
    plain = member((-3000, 1200, 500), (3000, 1200, 500), id="p")
    purlin = by_supports(plain, Segments([*job.all(Member), plain]), RollBy.FLANGE).member
    put(job, purlin)
    return job, purlin


def put(job, *records, drop=()):
    with job.change("Change") as change:
        for id in drop:
            change.drop(id)
        for record in records:
            change.put(record)


def test_a_roll_that_was_worked_out_follows_its_supports_in_the_same_step():
    job, purlin = following()
    assert purlin.roll == pytest.approx(math.degrees(math.atan2(5, 12))) and purlin.roll_by
    ends = [(y, 500 + (y - 1200) * 7 / 24) for y in (-12000, 12000)]  # steeper, about where the purlin rests
    put(job, *(replace(job.get(f"r{x}", Member), start=(x, *ends[0]), end=(x, *ends[1])) for x in (-3000, 3000)))
    now = job.get("p", Member)
    assert now.roll == pytest.approx(math.degrees(math.atan2(7, 24))) and now.roll_by
    assert job.can_undo == "Change; roll of 1 member worked out again"
    assert job.get("typed", Member).roll == 10.0
    job.undo()
    assert job.get("p", Member) == purlin
    job.redo()
    assert job.get("p", Member) == now


@pytest.mark.parametrize("what", ["all moved", "one moved", "turned by hand", "supports gone", "far away"])
def test_what_keeps_or_loses_a_roll_that_follows(what):
    job, purlin = following()
    every = job.all(Member)
    if what == "all moved":  # a motion of everything is no change of what rests on what
        put(job, *(transformed(m, turn_about((0, 0, 0), (0, 0, 1), 30)) for m in every))
        now = job.get("p", Member)
        assert now.roll == pytest.approx(purlin.roll) and now.roll_by and job.can_undo == "Change"
    elif what == "one moved":  # along the slope it rests as before; off it, on nothing
        put(job, replace(purlin, start=(-3000, 2400, 1000), end=(3000, 2400, 1000)))
        assert job.get("p", Member).roll == pytest.approx(purlin.roll) and job.get("p", Member).roll_by
        put(job, replace(purlin, start=(-3000, 0, 9000), end=(3000, 0, 9000)))
        assert job.get("p", Member).roll_by == "" and "nothing is under it any more" in job.can_undo
    elif what == "turned by hand":
        put(job, replace(purlin, roll=5.0))
        assert (job.get("p", Member).roll, job.get("p", Member).roll_by) == (5.0, "") and job.can_undo == "Change"
    elif what == "supports gone":
        put(job, drop=["r-3000", "r3000"])
        assert (job.get("p", Member).roll, job.get("p", Member).roll_by) == (purlin.roll, "")
        assert "roll of 1 member kept as it is" in job.can_undo
    else:
        put(job, member((90_000, 0, 0), (99_000, 0, 0), id="far"))
        assert job.get("p", Member) == purlin and job.can_undo == "Change"
