from itertools import pairwise

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace

from uncus.catalog.sections import section
from uncus.frame.arcs import arc_of
from uncus.frame.axes import member_frame
from uncus.frame.cuts import (
    double_of,
    join,
    refuse_doubles,
    share_at_line,
    share_at_plane,
    shares_at_line,
    shares_at_plane,
    split,
    to_member,
    to_plane,
)
from uncus.frame.moves import flipped
from uncus.frame.neighbours import Segments
from uncus.frame.placement import Placement
from uncus.frame.planes import Plane, face_plane
from uncus.job.errors import JobError
from uncus.job.records import Connection, End, Line, Member, Role, Turnbuckle
from uncus.units import Units

MM = Units.METRIC
UP = np.array([0.0, 0, 1])


def beam(id, start, end, **values):
    return Member(**{"id": id, "role": Role.BEAM, "section": "W12X26", "start": start, "end": end} | values)


A = beam("a", (0, 0, 0), (6000, 0, 0), left_back=10, right_back=20, camber=12)
B = beam("b", (0, 1000, 0), (6000, 1000, 0))
JOIST = beam("j", (4000, 0, 0), (4000, 3000, 0))
JOINTS = [
    Connection(id="al", kind="shear tab", member="a", end=End.LEFT, support="col"),
    Connection(id="ar", kind="shear tab", member="a", end=End.RIGHT, support="col2"),
    Connection(id="jl", kind="shear tab", member="j", end=End.LEFT, support="a"),
]


def test_many_are_cut_by_many_and_keep_what_hangs_on_them():
    lines = [
        (np.array([2000.0, -500, 0]), np.array([2000.0, 5000, 0])),
        (np.array([5000.0, -500, 0]), np.array([5000.0, 500, 0])),
    ]
    members = [A, B, JOIST]
    shares = [[share_at_line(m, line, UP) for line in lines] for m in members]
    done = split(members, shares, JOINTS, {m.id: m for m in members})
    pieces = [r for r in done.put if isinstance(r, Member)]
    spans = sorted((m.start[1], m.start[0], m.end[0]) for m in pieces)
    assert spans == [(0, 0, 2000), (0, 2000, 5000), (0, 5000, 6000), (1000, 0, 2000), (1000, 2000, 6000)]
    first, middle, last = [m for m in pieces if m.start[1] == 0]
    assert (first.id, first.left_back, first.right_back, last.right_back, first.camber) == ("a", 10, 0, 20, 0)
    joints = {c.member: c for c in done.put if isinstance(c, Connection)}
    assert done.drop == ("ar",) and joints[last.id].support == "col2" and joints[last.id].end is End.RIGHT
    assert joints["j"].support == middle.id and "al" not in joints
    assert done.words == "2 cut into 5, their camber taken off; left: the beam W12X26 runs along the cut."


def test_a_plane_cuts_at_its_place():
    plane = face_plane((0, 0, 2500), (0, 0, 1))
    column = beam("c", (0, 0, 0), (0, 0, 4000), role=Role.COLUMN)
    assert share_at_plane(column, plane.base) == pytest.approx(0.625)
    assert share_at_plane(A, plane.base) is None
    done = split([column], [[share_at_plane(column, plane.base)]])
    assert [m.end[2] - m.start[2] for m in done.put] == [2500, 1500]


@pytest.mark.parametrize(
    ("shares", "says"), [([[1.5]], "ends before the cut"), ([[None]], "runs along"), ([[0.0001]], "ends before"),
        ([[]], "ends before")]
)  # fmt: skip
def test_nothing_cut_says_why(shares, says):
    with pytest.raises(JobError, match=says):
        split([A], shares)


GIRDER = beam("g", (2000, -3000, 0), (2000, 3000, 0))


def test_taken_to_a_member_at_the_nearer_end():
    short = beam("s", (0, 500, 0), (1500, 500, 0))
    long = beam("l", (0, 500, 0), (2600, 500, 0))
    beside = beam("p", (0, 0, 0), (0, 900, 0))
    done = to_member([long, short, GIRDER, beside], GIRDER, MM)
    assert [m.end for m in done.put] == [(2000, 500, 0)] * 2
    assert (
        done.words
        == "1 extended and 1 trimmed to the beam W12X26; left: the beam W12X26 is parallel to the beam W12X26."
    )
    from_right = beam("r", (1700, 800, 0), (6000, 800, 0))
    assert to_member([from_right], GIRDER, MM).put[0].start == (2000, 800, 0)
    sloping = beam("u", (0, 0, 1000), (1000, 0, 500))
    assert to_member([sloping], GIRDER, MM).put[0].end == (2000, 0, 0)
    plane = Placement((2500.0, 0, 0), np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]]))
    done = to_plane([short, B, GIRDER], plane, MM)
    assert (done.put[0].end, done.put[1].start) == ((2500, 500, 0), (2500, 1000, 0))
    assert done.words == "1 extended and 1 trimmed to the plane; left: the beam W12X26 runs along the plane."


@pytest.mark.parametrize(
    ("member", "says"),
    [
        (beam("p", (0, 0, 0), (0, 900, 0)), "parallel to"),
        (beam("o", (0, 0, 3000), (1000, 0, 3000)), "passes the beam W12X26 3000 off"),
        (beam("l", (0, 0, 0), (2000, 0, 0)), "ends at the beam W12X26 already"),
        (beam("f", (-200_000, 0, 0), (-199_000, 0, 0)), r"out of reach \(201000 away\)"),
    ],
)
def test_nothing_trimmed_says_why(member, says):
    with pytest.raises(JobError, match=says):
        to_member([member], GIRDER, MM)


@pytest.mark.parametrize(
    ("member", "says"), [(GIRDER, "runs along"), (beam("s", (0, 0, 0), (3000, 0, 0)), "ends at the plane already")]
)
def test_nothing_taken_to_a_plane_says_why(member, says):
    plane = Placement((3000.0, 0, 0), np.array([[0.0, 0, 1], [1, 0, 0], [0, 1, 0]]))
    with pytest.raises(JobError, match=says):
        to_plane([member], plane, MM)


def test_split_then_joined_is_what_it_was():
    done = split([B], [[0.25, 0.5]], JOINTS, {"b": B})
    whole = join([r for r in done.put if isinstance(r, Member)], [], MM)
    assert whole.put == (B,) and len(whole.drop) == 2
    assert "3 joined into one, 6000 long" in whole.words


def test_joined_members_keep_their_outer_connections():
    left, right = beam("l", (0, 0, 0), (2000, 0, 0)), beam("r", (2000, 0, 0), (5000, 0, 0), right_back=15)
    joints = [
        Connection(id="1", kind="shear tab", member="r", end=End.RIGHT, support="c"),
        Connection(id="2", kind="shear tab", member="r", end=End.LEFT, support="l"),
        Connection(id="3", kind="shear tab", member="j", end=End.LEFT, support="r"),
    ]
    done = join([left, right], joints, MM)
    whole, outer, hung = done.put
    assert (whole.end, whole.right_back) == ((5000, 0, 0), 15) and set(done.drop) == {"r", "1", "2"}
    assert (outer.member, outer.end, outer.support) == ("l", End.RIGHT, "c")
    assert (hung.id, hung.support) == ("3", "l")


@pytest.mark.parametrize(
    ("other", "says"),
    [
        (beam("x", (2000, 0, 0), (3000, 0, 0), section="W16X31"), "section differs"),
        (beam("x", (2000, 0, 0), (3000, 500, 0)), "does not run in line"),
        (beam("x", (2000, 50, 0), (3000, 50, 0)), "50 beside"),
        (beam("x", (3000, 0, 0), (2000, 0, 0)), "runs the other way"),
        (beam("x", (2500, 0, 0), (3000, 0, 0)), "a gap of 500"),
        (beam("x", (1500, 0, 0), (3000, 0, 0)), "an overlap of 500"),
    ],
)
def test_what_cannot_be_joined_says_why(other, says):
    first = beam("l", (0, 0, 0), (2000, 0, 0))
    for members in ([first, other], [other, first] if "way" not in says else [first, other]):
        with pytest.raises(JobError, match=says.split(" of ")[0] if members[0] is other else says):
            join(members, [], MM)
    with pytest.raises(JobError, match="two or more"):
        join([first], [], MM)


def test_a_member_on_another_is_refused_either_way_round():
    for new in (beam("n", A.start, A.end), beam("n", A.end, A.start, section="W16X31")):
        with pytest.raises(JobError, match="nothing was made"):
            refuse_doubles([new], [A, B])
    with pytest.raises(JobError, match="nothing was made"):
        refuse_doubles([beam("n", (1, 1, 1), (9, 9, 9)), beam("o", (9, 9, 9), (1, 1, 1))], [])
    refuse_doubles([msgspec.structs.replace(A, lot="2")], [A, B])  # a change of what is there is no double
    assert double_of([beam("n", A.start, A.end, rise=300)], [A]) is None


@pytest.mark.parametrize(
    ("start", "end", "doubled"),
    [
        ((5000, 0, 0), (9000, 0, 0), True),
        ((9000, 0, 0), (-500, 0, 0), True),
        ((1000, 0, 0), (2000, 0, 0), True),
        ((6000, 0, 0), (9000, 0, 0), False),
        ((5995, 0, 0), (9000, 0, 0), False),
        ((1000, 5, 0), (2000, 5, 0), False),
        ((1000, 0, 0), (2000, 900, 0), False),
        ((0, 0, 0), (0, 0, 3000), False),
    ],
)
def test_members_that_overlap_in_part_are_doubles_too(start, end, doubled):
    assert (double_of([beam("n", start, end)], [B, A]) is not None) == doubled


def test_what_a_plan_point_misses():
    rafter = beam("r", (0, 0, 6400), (0, 6096, 7924), role=Role.RAFTER)
    among = Segments([rafter, A])
    missed = among.passing(np.array([0.0, 2032, 6400]), UP)
    assert missed is not None and missed[0].id == "r" and missed[1] == pytest.approx(508)
    assert among.passing(np.array([0.0, 2032, 6908]), UP) is None, "it lands"
    assert among.passing(np.array([90.0, 2032, 6400]), UP) is None
    assert Segments([]).passing(np.zeros(3), UP) is None and not Segments([]).touched(np.zeros(3))
    assert [m.id for m in among.sloping.members] == ["r"]
    assert among.touched(np.array([100.0, 50, 0])) and not among.touched(np.array([100.0, 500, 0]))


def arched(bow, start=(0, 0, 0), end=(6000, 0, 0), **values):
    return Member(id="arch", role=Role.BEAM, section="W12X26", start=start, end=end, bow=bow, **values)


def axis_of(m):
    found = section(m.section)
    return arc_of(m, member_frame(m, found))


ARCHES = [
    arched((0, 0, 900)),
    arched((0, 700, 0)),
    arched((0, 0, -500), roll=90.0),
    arched((0, -300, 400), roll=30.0),
    arched((-200 * 0.6, 200 * 0.8, 500), end=(4000, 3000, 0), roll=0.0),
]


@pytest.mark.parametrize("arch", ARCHES)
@pytest.mark.parametrize("shares", [[0.5], [0.2, 0.7]])
def test_an_arc_is_cut_along_itself_and_joined_to_what_it_was(arch, shares):
    """Every piece lies where that length of the whole lay, its section turned as it was there."""
    done = split([arch], [shares])
    assert len(done.put) == len(shares) + 1
    whole = axis_of(arch)
    for piece, (a, b) in zip(done.put, pairwise([0.0, *shares, 1.0]), strict=True):
        own = axis_of(piece)
        assert own.length == pytest.approx(whole.length * (b - a), abs=0.01)
        assert own.radius == pytest.approx(whole.radius, rel=1e-5)
        for share in (0.0, 0.5, 1.0):
            here, there = own.length * share, whole.length * (a + (b - a) * share)
            one, other = own.at(here), whole.at(there)
            assert np.allclose(one.to_model((here, 0, 0)), other.to_model((there, 0, 0)), atol=0.01)
            assert np.allclose(one.axes, other.axes, atol=1e-5)
    again = join(list(done.put), (), Units.METRIC).put[0]
    assert np.allclose(np.subtract([again.start, again.end, again.bow], [arch.start, arch.end, arch.bow]), 0, atol=0.01)
    assert again.roll == pytest.approx(arch.roll, abs=1e-4)


def test_a_plane_may_cut_an_arc_twice_and_a_line_only_where_it_reaches():
    arch = ARCHES[0]
    low = Plane("low", Placement((0, 0, 450.0), np.eye(3)))
    found = shares_at_plane(arch, low.base)
    assert len(found) == 2 and sum(found) == pytest.approx(1.0)
    across = (np.array([1500.0, -500, 0]), np.array([1500.0, 500, 0]))
    (share,) = shares_at_line(arch, across, np.array([0, 0, 1.0]))
    assert split([arch], [[share]]).put[0].end[0] == pytest.approx(1500.0, abs=0.01)
    short = (np.array([1500.0, 100, 0]), np.array([1500.0, 500, 0]))
    assert shares_at_line(arch, short, np.array([0, 0, 1.0])) == []


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"line": Line.TOP}, "their line differs"),
        ({"bow": (0, 0, 950.0)}, "off the circle"),
        ({"section": "W12X30"}, "their section differs"),
        ({"bow": (0, 0, 0)}, "rolled to an arc"),
    ],
)
def test_arcs_that_are_not_one_are_not_joined(change, says):
    left, right = split([ARCHES[0]], [[0.5]]).put
    with pytest.raises(JobError, match=says):
        join([left, replace(right, **change)], (), Units.METRIC)
    high = replace(ARCHES[0], line=Line.TOP)
    with pytest.raises(JobError, match="not at its centre"):
        split([high], [[0.5]])
    with pytest.raises(JobError, match="not at its centre"):
        join([replace(left, line=Line.TOP), replace(right, line=Line.TOP)], (), Units.METRIC)
    with pytest.raises(JobError, match="a gap"):
        join([left, split([right], [[0.3]]).put[1]], (), Units.METRIC)


@pytest.mark.parametrize(
    ("at", "expected"), [(1000.0, [1000.0, None]), (4000.0, [None, 2500.0]), (None, [None, 1500.0])]
)
def test_a_cut_tie_rod_has_its_turnbuckle_where_it_was(at, expected):
    rod = Member(
        id="r", role=Role.BRACE, section="ROD1", start=(0, 0, 0), end=(6000.0, 0, 0), turnbuckle=Turnbuckle(at)
    )
    pieces = [r for r in split([rod], [[0.25]]).put if isinstance(r, Member)]
    assert [p.turnbuckle and p.turnbuckle.at for p in pieces] == expected
    (whole,) = (r for r in join(pieces, (), MM).put if isinstance(r, Member))
    at = 3000.0 if at is None else at
    assert whole.turnbuckle.at == at and flipped(whole).turnbuckle.at == 6000.0 - at, "and as it was once joined"
    with pytest.raises(JobError, match="both have a turnbuckle"):
        join([replace(p, turnbuckle=Turnbuckle(100.0)) for p in pieces], (), MM)
