"""The stretch of a long piece beside another holds all of it that the other comes near, and pairs alike along it are
one."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from tests.compose.cases import CASES, WINDING
from tests.compose.test_kinds import composite, job_of

from uncus.catalog.sections import section
from uncus.connect import clash
from uncus.connect.alike import WELDED, fitting_home
from uncus.connect.own_ends import own_ends
from uncus.connect.stretch import beside, stretch
from uncus.frame.placement import Placement
from uncus.job.records import Attachment, Double, Member, Role, Turnbuckle
from uncus.shop import joints
from uncus.shop.records import body_of
from uncus.shop.shop import build
from uncus.steel.features import Cope, EndCut, Face, Hole, Notch, Saddle
from uncus.steel.forming import Coil
from uncus.steel.part import plate, rolled
from uncus.steel.solid import solid

LONG = 4000.0
HOLES = [Hole(Face.WEB, x, 40.0, 22.0) for x in range(300, 3900, 450)]
NOTCH = Notch(Face.TOP, ((1700.0, -30.0), (1900.0, -30.0), (1900.0, 30.0), (1700.0, 30.0)))
WORKED = [*HOLES, NOTCH, Cope(False, False, 150.0, 50.0, 12.0), Cope(True, True, 90.0, 40.0, 12.0)]
SLOPING = EndCut(-20.0, 0.1, 0.4), EndCut(LONG, -0.2, -0.3, Saddle(60.0, 90.0, True))
STRAIGHT = {
    "beam": rolled(section("W16X31"), "A992", "", *SLOPING[:1], EndCut(LONG, 0.0, 0.3), WORKED)[0],
    "tube": rolled(section("HSS4.000X0.250"), "A500", "", *SLOPING)[0],
    "channel": rolled(section("C10X15.3"), "A36", "", EndCut(0.0), EndCut(LONG), HOLES)[0],
}
WOUND = {
    f"{shape} {turned}": rolled(
        section(shape), "A36", "", EndCut(0.0), EndCut(9000.0), (), Coil(radius, climb, hand, roll)
    )[0]
    for shape, radius, climb, hand, roll, turned in (
        ("C10X15.3", 900.0, 35.0, 1, 0.0, "left"),
        ("PL3/8X10", 1500.0, 20.0, -1, 0.0, "right"),
        ("HSS10X4X1/4", 700.0, 45.0, 1, 180.0, "turned"),
        ("C10X15.3", 1200.0, 0.5, -1, 90.0, "all but flat"),
    )
}
CUTTER = plate([(0.0, -60.0), (180.0, -60.0), (180.0, 60.0), (0.0, 60.0)], 30.0, "A36", "")


def shared(part, place, other, at):
    return placed(part, place) ^ placed(other, at)


def placed(part, at):
    return solid(part).transform(np.column_stack([at.axes, at.origin]))


def corners(part, at):
    low, high = (np.array(b) for b in clash.bounds(part))
    return at.to_model(np.array([np.where(take, high, low) for take in np.ndindex(2, 2, 2)]))


@given(
    name=st.sampled_from([*STRAIGHT, *WOUND]),
    seed=st.integers(0, 100_000),
    along=st.floats(-0.02, 1.02),
    off=st.tuples(st.floats(-250.0, 250.0), st.floats(-250.0, 250.0)),
)
def test_a_stretch_shares_with_its_neighbour_what_the_whole_does(name, seed, along, off):
    part = {**STRAIGHT, **WOUND}[name]
    turns = Rotation.random(2, random_state=seed).as_matrix()
    place = Placement((5000.0, -300.0, 800.0), turns[0])
    whole = solid(part)
    if part.coil is None:
        spot = np.array([along * part.length, *off])
    else:  # beside any of its turns
        points = np.asarray(whole.to_mesh64().vert_properties)[:, :3]
        spot = points[int(abs(along) * (len(points) - 1)) % len(points)] + (0.0, off[0] / 3, off[1] / 3)
    at = Placement(place.to_model(spot), turns[1])
    made, there = beside(part, place, corners(CUTTER, at))
    want, got = shared(part, place, CUTTER, at).volume(), shared(made, there, CUTTER, at).volume()
    assert got == pytest.approx(want, rel=1e-3 if part.coil is None else 0.02, abs=1.0 if part.coil is None else 300.0)
    assert made.length <= part.length
    if part.coil is None and 0.2 < along < 0.8:
        assert made.length < 0.3 * part.length and not made.copes


def test_a_stretch_keeps_the_work_that_lies_in_it_and_the_end_that_it_reaches():
    part, here = STRAIGHT["beam"], Placement.identity()

    def of(x):
        return beside(part, here, corners(CUTTER, Placement((x, 0.0, 0.0), np.eye(3))))

    middle, there = of(1700.0)
    assert there.origin[0] == pytest.approx(1650.0) and middle.length == pytest.approx(280.0)
    held = [h.x for h in part.holes if 1650.0 < h.x < 1930.0]
    assert [h.x + 1650.0 for h in middle.holes] == pytest.approx(held) and len(held) == 1
    assert len(middle.notches) == 1 and middle.left.square and middle.right.square
    assert len(part.holes) > 5 and not of(1500.0)[0].notches
    first, there = of(10.0)
    assert there.origin[0] == 0.0 and first.left == part.left and first.right.square and len(first.copes) == 1
    assert not first.copes[0].right and 240.0 <= first.length < 400.0
    last, there = of(3790.0)
    assert there.origin[0] + last.length == pytest.approx(part.length) and last.right.kz == part.right.kz
    assert last.left.square and [c.right for c in last.copes] == [True]


def test_of_a_pair_or_a_plate_all_is_taken():
    ends = {"role": Role.BEAM, "start": (0.0, 0.0, 0.0), "end": (5000.0, 0.0, 0.0)}
    spot = np.array([[2500.0, 0.0, 0.0]])
    pair = body_of(Member(section="L4X4X1/4", double=Double(), **ends))
    rod = body_of(Member(section="ROD1", turnbuckle=Turnbuckle(), **ends))
    single = body_of(Member(section="L4X4X1/4", left_back=40.0, **ends))
    assert stretch(pair, spot) is pair and stretch(rod, spot) is rod
    made = stretch(single, spot)
    assert made.length == pytest.approx(100.0) and made.record.left_back == 0.0
    assert made.frame.to_model((0.0, 1.0, 2.0)) == pytest.approx(single.frame.to_model((2450.0, 1.0, 2.0)))
    assert stretch(single, np.array([[60.0, 0.0, 0.0]])).record.left_back == 40.0
    steep = Member(role=Role.STRINGER, section="PL1/2X10", start=(0.0, 0.0, 0.0), end=(2000.0, 0.0, 2500.0),
        left_cut="level", right_cut="plumb")  # fmt: skip
    flat = body_of(steep)
    for x in (20.0, flat.length - 20.0):  # within what an end cuts off aslant
        near = stretch(flat, flat.frame.to_model([[x, 0.0, 0.0]]))
        left, right = (cut.x(np.zeros(2), np.array([-127.0, 127.0])) for cut in own_ends(near))
        assert near.length < flat.length / 2 and (left < right - 5.0).all()


def test_a_short_piece_and_one_bent_to_an_arc_are_taken_whole():
    here = Placement.identity()
    box = corners(CUTTER, here)
    assert beside(CUTTER, here, box) == (CUTTER, here)
    short = rolled(section("W8X18"), "A992", "", EndCut(0.0), EndCut(300.0))[0]
    assert beside(short, here, box)[0] is short


WHOLE_STAIR = ("winding stair", WINDING, {"risers": 30, "turn": 700.0})
RAIL = ("rail", ((0, 0, 0), (24_000, 0, 0)), {"between": "bars", "top": "HSS2X2X1/4", "posts": "HSS2X2X1/4",
    "middle": "HSS1-1/2X1-1/2X1/8"})  # fmt: skip


@pytest.mark.parametrize(("thing", "most"), [(WHOLE_STAIR, 12), (RAIL, 30)], ids=["stair", "rail"])
def test_what_is_welded_alike_along_one_length_is_made_once(thing, most):
    job = job_of(composite(*thing))
    shop = build(job)
    fittings = [shop.fitting(a) for a in job.all(Attachment) if a.kind == "welded on"]
    near = [joints._nearby(f) for f in fittings]
    keys = {fitting_home(n, WELDED if n is not f else None).key for n, f in zip(near, fittings, strict=True)}
    assert len(fittings) > 2 * most and len(keys) <= most


@pytest.mark.parametrize("n", [0, 9, 11, 15, 26, 36])
def test_what_is_welded_to_a_stretch_is_what_is_welded_to_the_whole(n, monkeypatch):
    job = job_of(composite(*CASES[n]))
    one = build(job)
    monkeypatch.setattr(joints, "_nearby", lambda fitting: fitting)
    other = build(job)
    for held in job.all(Attachment):
        ours, theirs = (shop.connections[held.id] for shop in (one, other))
        assert len(ours.welds) == len(theirs.welds) and len(ours.findings) == len(theirs.findings)
        for a, b in zip(ours.welds, theirs.welds, strict=True):
            assert a.size == b.size and set(a.joins) == set(b.joins)
            ring = np.linalg.norm(np.subtract(b.path[0], b.path[-1])) < 5.0  # which begins anywhere
            for end in () if ring else (0, -1):
                assert a.path[end] == pytest.approx(b.path[end], abs=0.01)
            lengths = [np.linalg.norm(np.diff(np.array(w.path), axis=0), axis=1).sum() for w in (a, b)]
            assert lengths[0] == pytest.approx(lengths[1], abs=0.05)
