"""Plates and ends welded and bolted on: wherever an edge lies on other steel, whichever way it stands."""

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import how_many

from uncus.frame.outlines import circle, rectangle
from uncus.frame.placement import Placement
from uncus.frame.plates import SIDES, parted, plate_in, with_blank, without
from uncus.job.blanks import Blank, Corner, Fold, HoleRow
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Attachment, Line, Member, Project, Role
from uncus.shop.shop import build
from uncus.units import Units

UPRIGHT = np.eye(3)  # x along, z up, seen from the south
FLAT = np.column_stack([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])  # seen from above
BEAM = Member(id="beam", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(4000, 0, 0), line=Line.TOP)


def plate(blank, at, axes=UPRIGHT, thickness=10.0, side=SIDES[0], id="plate"):
    made = plate_in(Placement(at, axes), blank, thickness, Units.METRIC, side)
    return msgspec.structs.replace(made, id=id)


def shop_of(*records):
    return build(Job([Project(units=Units.METRIC), *records]))


def welded(one, other, **params):
    return Attachment(id="weld", kind="welded on", member=one.id, mate=other.id, params=params)


def test_a_plate_on_its_edge_is_welded_both_sides_and_ships_with_what_it_stands_on():
    fin = plate(Blank(rectangle((0, 0), (300, 200))), (1000, 0, 0))
    shop = shop_of(BEAM, fin, welded(fin, BEAM))
    (weld,) = shop.connections["weld"].welds
    assert weld.sides == 2 and weld.length == pytest.approx(600)
    assert [len(a.pieces) for a in shop.shipped.values()] == [2] and list(shop.shipped) == ["beam"]
    apart = shop_of(BEAM, fin, welded(fin, BEAM, where="on site"))
    assert len(apart.shipped) == 2 and not apart.all_findings


def test_a_plate_that_lies_flat_is_welded_along_its_edges_on_the_steel():
    pad = plate(Blank(rectangle((0, -40), (200, 40))), (1000, 0, 5.0), FLAT)
    shop = shop_of(BEAM, pad, welded(pad, BEAM))
    assert sum(w.length for w in shop.connections["weld"].welds) == pytest.approx(560, abs=1)
    wide = plate(Blank(rectangle((0, -150), (200, 150))), (1000, 0, 5.0), FLAT)  # over both edges of the flange
    shop = shop_of(BEAM, wide, welded(wide, BEAM))
    assert sum(w.length for w in shop.connections["weld"].welds) == pytest.approx(2 * 200, abs=3)  # under it
    assert not shop.all_findings
    short = plate(Blank(rectangle((0, -150), (90, 150))), (1000, 0, 5.0), FLAT)  # wider than it is long: across
    shop = shop_of(BEAM, short, welded(short, BEAM))
    flange = shop.bodies["beam"].section.b
    assert sum(w.length for w in shop.connections["weld"].welds) == pytest.approx(2 * flange, abs=3)


def test_lengths_side_by_side_are_welded_along_and_not_at_their_flush_ends():
    angles = [
        Member(id=f"at {y}", role=Role.BEAM, section="L5X3-1/2X5/16", start=(a, y, 0), end=(b, y, 0), line=Line.CENTRE)
        for y, a, b in ((44.45, 0.0, 2000.0), (-44.45, 2000.0, 0.0))
    ]
    shop = shop_of(*angles, welded(*angles))
    welds = shop.connections["weld"].welds
    assert sorted({round(p[2]) for w in welds for p in w.path}) == [-64, 64] and len(welds) == 2
    assert all(w.length == pytest.approx(2000.0) for w in welds) and not shop.all_findings


@settings(max_examples=how_many(15, 200))
@given(st.floats(0, 359), st.sampled_from(["HSS4X4X1/4", "HSS3.500X0.216", "W8X18", "PL1/2X6", "L4X4X3/8"]))
def test_an_end_that_stands_on_a_plate_is_welded_round_whatever_way_both_are_turned(turn, name):
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    axes = np.column_stack([[c, s, 0.0], [0, 0, -1.0], [-s, c, 0.0]])
    base = plate(Blank(rectangle((-150, -150), (150, 150))), (500, 500, 0), axes)
    post = Member(id="post", role=Role.POST, section=name, start=(500, 500, 5), end=(500, 500, 1500), roll=turn / 2)
    shop = shop_of(base, post, welded(base, post))
    section = shop.bodies["post"].section
    around = {"HSS4X4X1/4": 372.0, "HSS3.500X0.216": np.pi * section.d, "W8X18": 930.0, "PL1/2X6": 152.4}
    found = sum(w.length / w.sides for w in shop.connections["weld"].welds)
    assert found == pytest.approx(around.get(name, 4 * section.d), rel=0.1)
    assert list(shop.shipped) == ["post"]


def test_what_does_not_touch_is_said_and_comes_back():
    fin = plate(Blank(rectangle((0, 0), (300, 200))), (1000, 0, 4.0))
    shop = shop_of(BEAM, fin, welded(fin, BEAM))
    assert ["No edge" in f.text for f in shop.all_findings] == [True]
    lost = shop_of(fin, welded(fin, BEAM))
    assert "is gone" in lost.all_findings[0].text


def test_bolts_go_through_a_plates_own_holes_and_drill_what_is_under_them():
    holes = HoleRow(30, -44, 22, columns=3, rows=2, dx=100, dz=88)
    pad = plate(Blank(rectangle((0, -75), (260, 75)), (), (holes,)), (1000, 0, 5.0), FLAT)
    bolts = Attachment(id="bolts", kind="bolted on", member=pad.id, mate="beam")
    shop = shop_of(BEAM, pad, bolts)
    made = shop.connections["bolts"]
    assert [f.size for f in made.fasteners] == ["M20"] * 6 and not shop.all_findings
    assert len(shop.assemblies["beam"].main.part.holes) == 6 == len(shop.assemblies["plate"].main.part.holes)
    high = msgspec.structs.replace(pad, start=(1000, 0, 8.0), end=(1260, 0, 8.0))
    assert "No hole" in shop_of(BEAM, high, bolts).all_findings[0].text


@pytest.mark.parametrize(("side", "down"), [("far", 1), ("near", -1)])
def test_anchors_go_through_a_plates_own_holes_into_the_concrete_on_the_side_that_was_said(side, down):
    holes = HoleRow(50, 50, 22, columns=2, rows=2, dx=200, dz=100)
    foot = plate(Blank(rectangle((0, 0), (300, 200)), (), (holes,)), (0, 0, 0), FLAT, 20.0)
    anchors = Attachment(id="a", kind="anchored", member=foot.id, params={"side": side, "deep": 200.0})
    shop = shop_of(foot, anchors)
    rods = shop.connections["a"].fasteners
    assert len(rods) == 4 and not shop.all_findings and {f.joins for f in rods} == {("plate",)}
    into = {round(float(np.array(f.axis)[2])) for f in rods}
    away = float(shop.assemblies["plate"].main.placement.y[2])
    assert into == {round(away) * down}
    lengths = {f.length for f in rods}
    assert all(one > 200 + 20 for one in lengths), "embedded, through the plate, and out of it"
    bare = plate(Blank(rectangle((0, 0), (300, 200))), (0, 0, 0), FLAT, 20.0)
    assert "no holes for anchors" in shop_of(bare, anchors).all_findings[0].text
    tight = plate(Blank(rectangle((0, 0), (300, 200)), (), (HoleRow(50, 50, 4),)), (0, 0, 0), FLAT, 20.0)
    assert "make it wider" in shop_of(tight, anchors).all_findings[0].text


@pytest.mark.parametrize("side", SIDES)
def test_thickness_lies_where_it_was_asked_and_stays_there_when_it_grows(side):
    thin = plate(Blank(rectangle((0, 0), (300, 200))), (0, 0, 0), side=side)
    thick = with_blank(thin, thin.blank, Units.METRIC, 30.0)
    ys = []
    for member in (thin, thick):
        piece = shop_of(member).assemblies["plate"].main
        y0, y1 = piece.part.y_range
        ys.append(sorted(float(piece.placement.to_model((0, y, 0))[1]) for y in (y0, y1)))
    wanted = {SIDES[0]: (-15, 15), SIDES[1]: (-30, 0), SIDES[2]: (0, 30)}[side]
    assert ys[1] == pytest.approx(wanted) and ys[1][0] <= ys[0][0] and ys[1][1] >= ys[0][1]


@settings(max_examples=how_many(25, 300))
@given(st.floats(0, 180), st.floats(-150, 150))
def test_cut_by_a_plane_its_pieces_are_the_whole(turn, off):
    ring = (Corner(0, 0, round=40), Corner(500, 0), Corner(500, 300, 0.3), Corner(0, 300))
    whole = plate(Blank(ring, (circle(250, 200, 60),), (HoleRow(60, 60, 20, columns=4, dx=100),)), (0, 0, 0))
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    pieces = parted(whole, np.array([250 + c * off, 0, 150 + s * off]), np.array([c, 0.0, s]), Units.METRIC)
    areas = []
    for n, member in enumerate(pieces):
        piece = shop_of(msgspec.structs.replace(member, id=f"p{n}")).assemblies[f"p{n}"]
        assert not piece.findings
        areas.append(piece.net)
    assert sum(areas) == pytest.approx(shop_of(whole).assemblies["plate"].net, rel=0.01)
    assert len(pieces) > 1


def test_what_another_part_covers_is_cut_out_of_it():
    import shapely

    whole = plate(Blank(rectangle((0, 0), (400, 200))), (0, 0, 0))
    (left,) = without(whole, shapely.box(300, -500, 900, 0), Units.METRIC)
    assert left.work_length == pytest.approx(400)
    halves = without(whole, shapely.box(150, -500, 250, 500), Units.METRIC)
    assert [m.work_length for m in halves] == pytest.approx([150, 150])
    with pytest.raises(JobError, match="Nothing would be left"):
        without(whole, shapely.box(-900, -900, 900, 900), Units.METRIC)


@pytest.mark.parametrize(
    ("folds", "said"),
    [
        ((Fold(150, 0, 150, 300, 90, 12), Fold(350, 300, 350, 0, -90, 12)), ""),
        ((Fold(150, 300, 150, 0, 90, 12), Fold(350, 0, 350, 300, 90, 12)), "turn the other's side"),
        ((Fold(150, 0, 150, 300, 90, 12), Fold(0, 150, 500, 150, 90, 12)), "run into one another"),
        ((Fold(900, 0, 900, 300, 90, 12),), "does not cross"),
    ],
)
def test_bends_are_put_in_order_or_refused(folds, said):
    bent = plate(Blank(rectangle((0, 0), (500, 300)), (), (HoleRow(60, 150, 22),), folds), (0, 0, 0))
    found = " ".join(f.text for f in shop_of(bent).all_findings)
    assert said in found if said else not found
