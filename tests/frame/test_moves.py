"""Copying, turning and mirroring: the steel itself must land where the motion takes it, and come back as it was."""

import math

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.connect.sound import beam, column

from uncus.catalog.sections import section
from uncus.connect.mirror import mirrored as mirrored_by
from uncus.frame.axes import member_frame
from uncus.frame.carrying import along, copied, copies, flipped_with, moved
from uncus.frame.cuts import join, split
from uncus.frame.moves import (
    MOST,
    array,
    flipped,
    mirror_in,
    move_by,
    move_work_point,
    swaps_ends,
    transformed,
    turn_about,
)
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, End, Line, Member, Role, ShopRules, derived_id
from uncus.lens.office import connect
from uncus.shop.shop import build
from uncus.steel.profile import faces, outline
from uncus.steel.solid import plain_mesh
from uncus.units import Units

replace = msgspec.structs.replace
COORD = st.integers(-40, 40).map(lambda n: n * 127.0)
POINT = st.tuples(COORD, COORD, COORD)
SECTIONS = ("W12X26", "C10X15.3", "L6X4X1/2", "L4X4X3/8", "HSS6X6X1/4", "WT6X25", "PIPE4STD")
MEMBER = st.builds(
    Member,
    role=st.just(Role.BEAM),
    section=st.sampled_from(SECTIONS),
    start=POINT,
    end=POINT,
    roll=st.sampled_from([0.0, 22.5, 90.0, 180.0, 301.0]),
    line=st.sampled_from(list(Line)),
    rise=st.sampled_from([0.0, 50.0, -12.7]),
    left_back=st.sampled_from([0.0, 20.0]),
).filter(lambda m: m.work_length > 300)
AXIS = POINT.filter(lambda p: math.dist(p, (0, 0, 0)) > 1)


def steel(m: Member) -> np.ndarray:
    """Corners of the member's steel in the model, in an order that does not depend on its ends."""
    found = section(m.section)
    frame = member_frame(m, found)
    ring = np.array(outline(found).exterior.coords)[:-1]
    ends = [m.left_back, m.work_length - m.right_back]
    points = np.concatenate([frame.to_model(np.column_stack([np.full(len(ring), x), ring])) for x in ends])
    return points


def mirrored(record, turned):
    return mirrored_by(record, turned, ShopRules())


def same_steel(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two clouds of corners are the same points, in whatever order."""
    away = np.linalg.norm(a[:, None] - b[None], axis=2)
    return bool(away.min(axis=1).max() < 0.05 and away.min(axis=0).max() < 0.05)


def motions():
    return (
        st.builds(move_by, POINT)
        | st.builds(turn_about, POINT, AXIS, st.floats(-360, 360))
        | st.builds(mirror_in, POINT, AXIS)
    )


@given(MEMBER, motions())
def test_steel_lands_where_the_motion_takes_it(m, motion):
    expected = np.array([motion(p) for p in steel(m)])
    assert same_steel(steel(transformed(m, motion)), expected)


@given(MEMBER, POINT, AXIS, st.floats(-360, 360))
def test_there_and_back_gives_the_same_record(m, point, axis, degrees):
    for there, back in (
        (mirror_in(point, axis), mirror_in(point, axis)),
        (turn_about(point, axis, degrees), turn_about(point, axis, -degrees)),
        (move_by(point), move_by(np.negative(point))),
    ):
        again = transformed(transformed(m, there), back)
        assert same_record(again, m)


def same_record(a: Member, b: Member) -> bool:
    plain = {"start": (0, 0, 0), "end": (0, 0, 0), "roll": 0.0}
    near = math.dist(a.start, b.start) < 1e-3 and math.dist(a.end, b.end) < 1e-3
    return near and abs((a.roll - b.roll + 180) % 360 - 180) < 1e-3 and replace(a, **plain) == replace(b, **plain)


@given(MEMBER)
def test_flipped_ends_leave_the_steel_where_it_is(m):
    try:
        other = flipped(m)
    except JobError:
        assert section(m.section).form == "L" and (m.section == "L6X4X1/2" or m.line is not Line.CENTRE or m.rise)
        return
    assert other.start == m.end and other.left_back == m.right_back
    assert same_steel(steel(other), steel(m))
    assert same_record(flipped(other), m)


@given(st.lists(MEMBER, min_size=1, max_size=4), st.lists(motions(), min_size=1, max_size=3))
def test_copy_undo_and_redo_give_equal_records(members, moves):
    members = [replace(m, id=f"m{n}") for n, m in enumerate(members)]
    job = Job(members)
    before = dict(job.records)
    with job.change("copy") as change:
        for record in copies(members, moves):
            change.put(record)
    after = dict(job.records)
    assert len(after) == len(members) * (1 + len(moves)) and all(after[m.id] == m for m in members)
    job.undo()
    assert dict(job.records) == before
    job.redo()
    assert dict(job.records) == after


def _mesh_corners(shop, ids):
    out = []
    for id in ids:
        for piece in shop.assemblies[id].pieces:
            out.append(piece.placement.to_model(plain_mesh(piece.part).points))
    return np.concatenate(out)


@pytest.mark.parametrize("what", ["copied", "moved", "turned", "mirrored"])
def test_a_connected_bay_goes_with_its_connections(job, what):
    """The first bay of the sample, its copies connected as it is, plates and copes included."""
    members = [m for m in job.all(Member) if max(m.start[0], m.end[0]) < 7000]
    ids = {m.id for m in members}
    inner = [c for c in job.all(Connection) if c.member in ids and (c.support is None or c.support in ids)]
    motion = {
        "copied": move_by((0, 90_000, 0)),
        "moved": move_by((0, -50_000, 1000)),
        "turned": turn_about((90_000, 0, 0), (0, 0, 1), 90),
        "mirrored": mirror_in((40_000, 0, 0), (1, 0, 0)),
    }[what]
    before = _mesh_corners(build(Job([*members, *inner])), ids)
    made = copies(members, [motion], inner, mirrored)
    assert sum(isinstance(r, Connection) for r in made) == len(inner) > 30
    shop = build(Job(made))
    assert not shop.all_findings
    after = _mesh_corners(shop, shop.assemblies)
    expected = np.array([motion(p) for p in before])
    from scipy.spatial import cKDTree

    # a plate cut from the near side is the mirror image's: corners agree to what rounding features leaves
    assert cKDTree(after).query(expected)[0].max() < 0.6
    assert cKDTree(expected).query(after)[0].max() < 0.6


def test_a_mirrored_channel_is_turned_end_for_end_and_its_connections_with_it():
    c = Member(id="c", role=Role.BEAM, section="C10X15.3", start=(0, 0, 0), end=(3000, 0, 0), left_back=10)
    joint = Connection(id="j", kind="shear tab", member="c", end=End.LEFT, support="s", params={"rows": 2})
    motion = mirror_in((5000, 0, 0), (1, 0, 0))
    assert swaps_ends(c, motion)
    put, drop = moved([c], motion, [joint], mirrored)
    assert put[0].start == (7000, 0, 0) and put[0].end == (10000, 0, 0) and put[0].right_back == 10
    assert put[1].end is End.RIGHT and put[1].params == {"rows": 2}, "its web's back is where it was"
    assert drop == ["j"] and put[1].id == derived_id("connection", "c", End.RIGHT), "an id is made of member and end"
    again, _ = flipped_with(c, [joint], mirrored)
    assert again[1].end is End.RIGHT and again[1].params == {"rows": 2}


def marks(shop, ids) -> np.ndarray:
    """The middles of bolts, holes and plates at members: where all that is joined to them is."""
    out = [np.asarray(p) + np.asarray(g.axis) * g.grip / 2 for g in shop.fasteners() for p in g.points]
    for id in ids:
        out += [p.placement.to_model(plain_mesh(p.part).points.mean(axis=0)) for p in shop.assemblies[id].pieces]
        main = shop.assemblies[id].main
        for hole in main.part.holes:
            wall = faces(main.part.section)[hole.face]
            out.append(
                main.placement.to_model((hole.x, wall.mid, hole.w) if wall.upright else (hole.x, hole.w, wall.mid))
            )
    return np.array(out)


@pytest.mark.parametrize("section", ["W12X26", "C12X20.7"])
@pytest.mark.parametrize("side", ["near", "far", None])
@pytest.mark.parametrize("how", ["mirrored", "flipped", "turned"])
def test_what_is_joined_lands_where_its_steel_does(section, side, how):
    """A shear tab, stiffeners measured from one end and holes in one flange, in a mirror or with ends exchanged."""
    given = {"side": side} if side else {}
    steel = [column("W14X90", roll=90), beam(0, section)]
    joined = [
        Connection(id="c", kind="shear tab", member="beam", end=End.LEFT, support="support", params=given),
        Attachment(
            id="s", kind="stiffeners", member="beam", params={"sides": "far", "first": 700.0, "start": "right end"}
        ),
        Attachment(
            id="h",
            kind="nailer holes",
            member="beam",
            params={"into": "top flange" if section[0] == "W" else "web", "first": 500.0},
        ),
    ]
    before = build(Job([ShopRules(), *steel, *joined]))
    assert not before.all_findings
    motion = {"mirrored": mirror_in((1000.0, 0, 0), (0.3, 1.0, 0)),
        "turned": turn_about((0, 0, 0), (0, 0, 1), 70)}.get(how, move_by((0, 0, 0)))  # fmt: skip
    if how == "flipped":
        put, drop = flipped_with(steel[1], joined, mirrored)
    else:
        put, drop = moved(steel, motion, joined, mirrored)
    records = {r.id: r for r in (*steel, *joined) if r.id not in drop} | {r.id: r for r in put}
    after = build(Job([ShopRules(), *records.values()]))
    expected = np.array([motion(p) for p in marks(before, ["beam", "support"])])
    found = marks(after, ["beam", "support"])
    assert len(found) == len(expected) and same_steel(found, expected)


def test_pieces_of_a_split_member_have_their_own_rows():
    whole = Member(id="w", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(6000, 0, 0))
    fixed = Attachment(id="s", kind="stiffeners", member="w")
    done = split([whole], [[0.4]])
    (copy,) = along(done.pieces, [fixed])
    assert copy.id != "s" and copy.member == next(r.id for r in done.put if r.id != "w")
    other = next(r for r in done.put if r.id != "w")
    joined = join([r for r in done.put if isinstance(r, Member)], [], Units.METRIC, [fixed, copy])
    assert set(joined.drop) == {other.id, copy.id}, "one row for the whole again"
    kept = join([r for r in done.put if isinstance(r, Member)], [], Units.METRIC, [copy])
    assert [r.member for r in kept.put if isinstance(r, Attachment)] == ["w"]


@pytest.mark.parametrize(
    ("make", "says"),
    [
        (lambda: array(10_000_000, (1, 0, 0)), "more than the 20,000"),
        (lambda: array(0, (1000, 0, 0)), "at least one"),
        (lambda: array(5, (0, 0, 0.1)), "lie on one another"),
        (lambda: copies([Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(900, 0, 0))] * 3,
            array(MOST - 1, (99, 0, 0))), "59,997 members"),
    ],
)  # fmt: skip
def test_arrays_that_cannot_be(make, says):
    with pytest.raises(JobError, match=says):
        make()


def test_arrays_by_count_and_to_grid_crossings():
    assert [tuple(m.shift) for m in array(3, (0, 500, 0))] == [(0, 500, 0), (0, 1000, 0), (0, 1500, 0)]


def test_moving_a_ridge_point_takes_rafters_and_what_lands_on_them_along(job):
    members = job.all(Member)
    ridge = next(m.end for m in members if m.role is Role.RAFTER)
    higher = (ridge[0], ridge[1], ridge[2] + 600.0)
    changed = {m.id: m for m in move_work_point(members, ridge, higher)}
    rafters = [m for m in members if m.role is Role.RAFTER and m.end == ridge]
    assert len(rafters) == 2
    for r in rafters:
        assert changed[r.id].end == pytest.approx(higher) and changed[r.id].start == r.start
    column = next(m for m in members if m.role is Role.COLUMN and m.end == ridge)
    assert changed[column.id].end == pytest.approx(higher) and changed[column.id].start == column.start
    # purlins at thirds of the slope rise by 1/3 and 2/3 of 600 at their end on this frame, and not at the other
    for m in members:
        if m.role is Role.PURLIN and m.start[0] == ridge[0]:
            share = (m.start[2] - 21 * 304.8) / (5 * 304.8)
            assert changed[m.id].start[2] - m.start[2] == pytest.approx(600 * share, abs=1e-3)
            assert changed[m.id].end == m.end
    assert move_work_point(members, (1e5, 0, 0), (0, 0, 0)) == []
    short = Member(id="s", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(500, 0, 0))
    with pytest.raises(JobError, match="cannot go there"):
        move_work_point([short], (0, 0, 0), (500, 0, 0))


def test_a_flipped_beam_keeps_both_ends_and_a_new_joint_replaces_none(job):
    """Flipped with one end free: connecting the free end by rule must leave the other end's joint alone."""
    beam = next(m for m in job.all(Member) if m.section == "W12X26")
    ends = {c.end: c for c in job.all(Connection) if c.member == beam.id}
    with job.change("free the left, then flip") as change:
        change.drop(ends[End.LEFT].id)
        put, drop = flipped_with(beam, [ends[End.RIGHT]], mirrored)
        for id in drop:
            change.drop(id)
        for record in put:
            change.put(record)
    (made,) = connect(job, [beam.id]).made
    assert made.end is End.RIGHT and made.id not in job.records
    with job.change("connect") as change:
        change.put(made)
    found = {c.end: c.support for c in job.all(Connection) if c.member == beam.id}
    assert found == {End.LEFT: ends[End.RIGHT].support, End.RIGHT: ends[End.LEFT].support}
    assert not build(job).all_findings


def test_a_copied_beam_is_held_by_what_stands_there_as_its_own_supports_do():
    """Wherever along a like member; not by one of another section, beside the line, or turned otherwise."""
    ends = [
        Member(id=f"g{x}", role=Role.BEAM, section="W18X35", start=(x, 0, 3000), end=(x, 9000, 3000)) for x in (0, 6000)
    ]
    others = [
        replace(ends[0], id="like", start=(12_000, 1000, 3000), end=(12_000, 20_000, 3000)),
        replace(ends[1], id="heavier", section="W18X50", start=(18_000, 0, 3000), end=(18_000, 9000, 3000)),
        replace(ends[1], id="lying", roll=90.0, start=(24_000, 0, 3000), end=(24_000, 9000, 3000)),
        replace(ends[1], id="short", start=(30_000, 0, 3000), end=(30_000, 3000, 3000)),
    ]
    own = Member(id="b", role=Role.BEAM, section="W12X26", start=(0, 4000, 3000), end=(6000, 4000, 3000))
    joints = [
        Connection(id=f"c{e}", kind="shear tab", member="b", end=e, support=g.id)
        for e, g in zip(End, ends, strict=True)
    ]
    there = {m.id: m for m in (*ends, *others, own)}
    held = {}
    for shift in (6000, 12_000, 18_000, 24_000):
        made = copied([own], [move_by((shift, 0, 0))], joints, mirrored, there)
        held[shift] = {r.end: r.support for r in made.records if isinstance(r, Connection)}
        assert len(made.records) - 1 + len(made.left_out) == 2
    assert held == {
        6000: {End.LEFT: "g6000", End.RIGHT: "like"}, 12_000: {End.LEFT: "like"}, 18_000: {}, 24_000: {}}  # fmt: skip
