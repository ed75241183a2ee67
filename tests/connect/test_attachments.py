"""Attachments follow their member's section, length and turning, and never hang in the air."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.connect.sound import beam, column, girder, placed, sound, wrong

from uncus.catalog.bought import bought
from uncus.catalog.sections import section
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.attachments.nailer_holes import Params as Nailers
from uncus.connect.attachments.nailer_holes import reading
from uncus.connect.kind import Body
from uncus.deliver.nc import Heading, nc_text
from uncus.deliver.nc_proof import differs
from uncus.frame.axes import member_frame
from uncus.job.forms import fields
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, End, Line, Project, Role, ShopRules
from uncus.job.start import usual_rules
from uncus.shop.shop import Shop, build
from uncus.standin.bench import read
from uncus.steel.features import Face
from uncus.steel.solid import mesh
from uncus.units import INCH, Units


def fitted(kind, member, params=None, *more) -> Shop:
    return Shop([ShopRules(), member, Attachment(id="c", kind=kind, member=member.id, params=params or {}), *more])


SECTIONS = ("W12X26", "W16X31", "C12X20.7", "HSS8X4X1/4", "WT6X20", "L4X4X3/8", "IPE300", "PL3/4X12")
OWN_HOLES = "anchored"  # goes through holes that its plate was given: test_contact.py
ALONE = [k.name for k in ATTACHMENTS.values() if k.crosses is None and k.name != OWN_HOLES]  # one member has them
VALUES = {
    "stiffeners": (
        {},
        {"sides": "near", "reach": "from the top"},
        {"by": "count", "count": 3, "reach": "from the bottom"},
    ),
    "end plates": ({}, {"ends": "left", "over": 12.0}),
    "nailer holes": ({}, {"into": "web"}, {"into": "both flanges", "stagger": "in line"}),
    "shelf plates": ({}, {"side": "both", "by": "spacing"}),
    "outriggers": ({"section": "C3X4.1"}, {"section": "C3X4.1", "side": "far"}),
    "lifting lugs": ({}, {"by": "places", "places": "4', 6'"}),
    "studs": ({}, {"spacing": 200.0}),
    "edge plates": ({}, {"side": "near side", "edge": 150.0, "longest": 1500.0}),
    "bought items": ({"code": "HOOK-120"}, {"code": "EYE-60", "by": "places", "places": "4', 6'"}),
    "bearing plates": (
        {},
        {"by": "count", "count": 3, "holes": 14.0, "aside": 3.0, "wide": 40.0},
        {"by": "places", "places": "2', 3'"},
    ),
    "joist seats": (
        {},
        {"by": "count", "count": 3, "height": 9.525, "slot": 0.0, "wide": 60.0},
        {"by": "places", "places": "2', 3'", "height": 150.0, "hole": 0.0},
    ),
    "concrete anchors": ({}, {"anchors": "straps", "side": "near"}, {"rows": 1, "columns": 1}),
    "vent holes": ({}, {"ends": "left", "across": "in the middle"}, {"sides": "top and bottom", "diameter": 16.0}),
    "safety holes": ({"by": "count"}, {"by": "places", "places": "42, 21"}),
}


@pytest.mark.sampled(4)
@pytest.mark.parametrize("slope", [0, 20])
@pytest.mark.parametrize("right", [False, True])
@pytest.mark.parametrize("name", SECTIONS)
@pytest.mark.parametrize("kind", ALONE)
def test_each_kind_is_sound_where_it_fits_and_says_so_where_not(kind, name, right, slope):
    member = beam(30, name, slope, right=right, roll=15.0)
    s = section(name)
    fits = ATTACHMENTS[kind].fits(Body(member, s, member_frame(member, s)))
    for params in VALUES[kind]:
        shop = fitted(kind, member, params)
        made = shop.connections["c"]
        if not fits:
            assert any("do not go on" in f for f in wrong(shop)) and not made.parts and not made.features
            continue
        if made.parts:
            sound(shop)
        assert made.parts or made.features or made.fasteners, wrong(shop)
        main = shop.assemblies["beam"].main
        if not wrong(shop):
            for hole in main.part.holes:
                assert 0 < hole.x < main.part.length


@pytest.mark.parametrize("kind", ALONE)
@given(length=st.floats(150.0, 6000.0), left=st.floats(0.0, 60.0), right=st.floats(0.0, 60.0))
def test_nothing_hangs_in_the_air_however_short_the_member(kind, length, left, right):
    """Every part touches the member it is on, or one that does; every hole is inside it, whatever its length."""
    member = beam(0, "W16X31", length=length, left_back=left, right_back=right)
    shop = fitted(kind, member, VALUES[kind][-1])
    assembly = shop.assemblies["beam"]
    main = placed(assembly.main)
    solids = [placed(piece) for piece in assembly.pieces[1:]]
    on = [body for body in solids if body.min_gap(main, 10.0) < 0.6]
    for body, piece in zip(solids, assembly.pieces[1:], strict=True):
        assert body in on or any(body.min_gap(other, 10.0) < 0.6 for other in on), piece.id
    for hole in assembly.main.part.holes:
        assert hole.d / 2 < hole.x < assembly.main.part.length - hole.d / 2
    for group in shop.connections["c"].fasteners:
        local = assembly.main.placement.to_local(np.array(group.points))
        assert (local[:, 0] > 0).all() and (local[:, 0] < assembly.main.part.length).all()


def test_stiffeners_stand_where_beams_frame_in_and_go_with_them():
    over = girder("W24X55")
    joist = beam(0, "W12X26", start=(0.0, 500.0))
    joint = Connection(id="j", kind="shear tab", member="beam", end=End.LEFT, support="support", params={"side": "far"})
    fixed = Attachment(id="c", kind="stiffeners", member="support", params={"by": "loads", "sides": "both"})
    job = Job([ShopRules(), over, joist, joint, fixed])
    shop = build(job)
    job.follow(shop.follow)

    def at() -> list[float]:
        pieces = [p for p in shop.assemblies["support"].pieces if p.maker == "c"]
        return [round(float(p.placement.origin[1]), 3) for p in pieces]

    assert at() == [500.0]
    with job.change("move") as change:
        change.put(msgspec.structs.replace(joist, start=(0.0, 900.0, 3000.0), end=(5000.0, 900.0, 3000.0)))
    assert at() == [900.0], "moving the beam moves the stiffener"
    with job.change("away") as change:
        change.drop("j")
    assert at() == [] and "Nothing frames into" in shop.connections["c"].findings[0].text
    job.undo()
    assert at() == [900.0]


def test_attachments_follow_the_section_and_come_back():
    member = beam(0, "W16X31")
    job = Job([ShopRules(), member, Attachment(id="c", kind="stiffeners", member="beam")])
    shop = build(job)
    job.follow(shop.follow)
    before = shop.assemblies["beam"]
    for change in ({"section": "W24X55"}, {"section": "HSS8X8X1/4"}, {"start": member.end, "end": member.start}):
        with job.change("x") as c:
            c.put(msgspec.structs.replace(job.records["beam"], **change))
        if change.get("section") == "W24X55":
            deep = section("W24X55")
            plate = next(p for p in shop.assemblies["beam"].pieces if p.maker == "c")
            assert plate.part.length == pytest.approx(deep.d - 2 * deep.tf, abs=0.01)
    assert wrong(shop), "a tube takes no stiffeners"
    for _ in range(3):
        job.undo()
    assert shop.assemblies["beam"] == before


def test_spreads_from_either_end_or_the_middle():
    """Places along a 5 m member, from its left end."""
    member = beam(0, "W16X31", length=5000.0)

    def xs(**params):
        made = fitted("nailer holes", member, {"into": "top flange", "rows": 1, **params}).connections["c"]
        return sorted(round(f.x, 1) for _, f in made.features)

    ends = {"first": 300.0, "last": 100.0}
    assert xs(by="spacing", spacing=1500.0, **ends) == [300.0, 1800.0, 3300.0, 4800.0]
    assert xs(by="spacing", spacing=1500.0, start="right end", **ends) == [200.0, 1700.0, 3200.0, 4700.0]
    assert xs(by="spacing", spacing=2000.0, start="centre", first=300.0, last=300.0) == [500.0, 2500.0, 4500.0]
    assert xs(by="count", count=3, **ends) == [300.0, 2600.0, 4900.0]
    assert xs(by="places", places="1m, 2@500mm") == [1000.0, 1500.0, 2000.0]
    assert xs(by="places", places="1m, 2@500mm", start="right end") == [3000.0, 3500.0, 4000.0]
    shop = fitted("nailer holes", member, {"by": "places", "places": "2m, 2m, 2m"})
    assert "1 of 3" in wrong(shop)[0]


@pytest.mark.parametrize(
    ("means", "each", "next_row"),
    [("along one row", 24 * INCH, 12 * INCH), ("from one row to the next", 48 * INCH, 24 * INCH)],
)
def test_a_staggered_spacing_shows_both_numbers_and_is_made_as_read(means, each, next_row):
    values = {"spacing": 24 * INCH, "means": means, "rows": 2}
    said = reading(Nailers(**values), Units.IMPERIAL)
    assert said == {"along one row": "2'-0 along one row, 1'-0 from one row to the next",
                    "from one row to the next": "4'-0 along one row, 2'-0 from one row to the next"}[means]  # fmt: skip
    made = fitted("nailer holes", beam(0, "W16X31"), values).connections["c"]
    rows = {}
    for _, hole in made.features:
        rows.setdefault(round(hole.w, 1), []).append(hole.x)
    one, two = (sorted(xs) for _, xs in sorted(rows.items()))
    assert np.diff(one) == pytest.approx(each) and np.diff(two) == pytest.approx(each)
    assert two[0] - one[0] == pytest.approx(next_row)


def test_safety_holes_are_above_each_floor():
    post = column("W10X49", id="post", roll=90)
    floor = beam(0, "W16X31", id="floor")
    joint = Connection(id="j", kind="shear tab", member="floor", end=End.LEFT, support="post")
    shop = fitted("safety holes", post, {"above": "21, 21"}, floor, joint)
    level = shop.body("floor").frame.origin[2]
    holes = sorted(h.x for h in shop.assemblies["post"].main.part.holes if h.d > 20.6)
    assert holes == pytest.approx([level + 21 * INCH, level + 42 * INCH], abs=0.01)


def test_an_end_with_a_joint_gets_no_end_plate():
    tube = beam(0, "HSS6X4X1/4", line=Line.CENTRE, z=2800.0, role=Role.BEAM)
    joint = Connection(id="j", kind="end tee", member="beam", end=End.LEFT, support="support")
    shop = fitted("end plates", tube, {}, column("W14X90", roll=90), joint)
    assert [p.id for p in shop.assemblies["beam"].pieces if p.maker == "c"] == ["c/right"]
    assert shop.assemblies["beam"].main.part.length < 5000.0 - 6.35


def test_every_kind_describes_itself():
    for kind in ATTACHMENTS.values():
        about = fields(kind.params)
        assert set(about) == set(kind.params.__struct_fields__), kind.name
        assert kind.help.endswith(".") and all(a.words for a in about.values())
        assert not [f for f in Face if f.value in about]


@pytest.mark.parametrize(
    ("name", "units", "d"),
    [
        ("HSS8X8X3/8", Units.IMPERIAL, 31.75),
        ("HSS4X4X1/4", Units.IMPERIAL, 25.4),
        ("HFRHS100X100X5", Units.METRIC, 20.0),
        ("CFRHS50X30X3", Units.METRIC, 12.0),
        ("PIPE4STD", Units.IMPERIAL, 31.75),
        ("HFCHS76.1X4", Units.METRIC, 20.0),
        ("HFRHS400X200X10", Units.METRIC, 60.0),
    ],
)
def test_vent_holes_are_as_large_as_the_zinc_wants_and_drain_every_corner(name, units, d):
    """ISO 14713-2: by the greater side, for one hole or two at each end; of a box diagonally opposite, at both ends
    turned."""
    member = beam(0, name, line=Line.CENTRE)
    shop = Shop(
        [Project(units=units), usual_rules(units), member, Attachment(id="c", kind="vent holes", member="beam")]
    )
    part = shop.assemblies["beam"].main.part
    assert not wrong(shop) and {h.d for h in part.holes} == {d}
    tube = part.section.form == "TUBE"
    assert len(part.holes) == (2 if tube else 4)
    if not tube:
        signs = {(h.x < part.length / 2, h.face, h.w > 0) for h in part.holes}
        assert signs == {
            (True, Face.WEB, True),
            (True, Face.BACK, False),
            (False, Face.WEB, False),
            (False, Face.BACK, True),
        }
    assert differs(part, read(nc_text(part, Heading("1", "1", "m", 1)))) is None


def test_vent_holes_that_do_not_fit_are_told():
    tube = beam(0, "HSS2X2X1/8", line=Line.CENTRE)
    for member, params in ((tube, {"diameter": 60.0}), (msgspec.structs.replace(tube, end=(50.0, 0.0, 3000.0)), {})):
        shop = fitted("vent holes", member, params)
        assert wrong(shop) and not shop.assemblies["beam"].main.part.holes


@pytest.mark.parametrize(
    ("name", "on", "low", "high"),
    [
        ("C15X33.9", "near side", 0.0, 0.0),  # a channel's back is flat from edge to edge
        ("C15X33.9", "far side", 1.0, 1.0),
        ("L8X8X5/8", "near side", 0.0, 0.0),
        ("L8X8X5/8", "far side", 1.0, 0.0),  # a fillet at its heel alone
        ("WT12X38", "near side", 0.0, 1.0),
        ("W16X31", "near side", 1.0, 1.0),
        ("W16X31", "far side", 1.0, 1.0),
        ("HSS12X6X3/8", "near side", None, None),
    ],
)
def test_bought_items_stand_on_the_flat_of_a_side_alone(name, on, low, high):
    """Moved up and down until a fillet is met, and not a mm before."""
    own, profile = section(name), bought("HOOK-120").profile
    tall = max(z for _, z in profile) - min(z for _, z in profile)
    clear = max(own.k, own.tf + own.r)
    least = -own.d / 2 + (own.r if low is None else low * clear) + tall / 2
    most = own.d / 2 - (own.r if high is None else high * clear) - tall / 2
    for at, fits in ((most - 0.5, True), (most + 0.5, False), (least + 0.5, True), (least - 0.5, False)):
        shop = fitted("bought items", beam(0, name), {"code": "HOOK-120", "on": on, "at": at})
        told = [f.text for f in shop.connections["c"].findings if "does not stand on the flat" in f.text]
        assert bool(told) is not fits, (at, told)


@pytest.mark.parametrize("side", ["near side", "far side"])
def test_an_edge_plate_laps_its_flange_and_no_more(side):
    """Up to the whole flange; and its face stands off the middle by no less than where the lap begins."""
    own, t = section("W12X26"), 6.35
    for edge, lap, fits in (
        (300.0, 100.0, True), (300.0, own.b + 40.0, True), (60.0, 100.0, True),
        (own.b / 2 - 40.0 + t - 0.5, 40.0, False), (own.b / 2 - 40.0 + t + 40.0, 40.0, True),
    ):  # fmt: skip
        params = {"side": side, "edge": edge, "lap": lap, "thickness": t}
        made = fitted("edge plates", beam(0, "W12X26"), params).connections["c"]
        told = [f.text for f in made.findings if "does not reach its flange" in f.text]
        assert bool(told) is not fits and bool(made.parts) is fits, (edge, lap, told)
        for part in made.parts:
            corners = mesh(part.part).points @ part.placement.axes.T + part.placement.origin
            across = corners[:, 1] * (-1.0 if side == "far side" else 1.0)  # a beam towards east has its far side north
            near, far = sorted((abs(across.min()), abs(across.max())))
            spread = float(np.ptp(corners[:, 1]))
            assert max(near, far) == pytest.approx(edge, abs=0.1)
            assert spread == pytest.approx(edge - own.b / 2 + min(lap, own.b), abs=0.1)


def test_bearing_plates_lie_on_the_flange_with_room_for_their_welds():
    shop = fitted("bearing plates", beam(0, "W16X31"), {"by": "count", "count": 2, "holes": 17.5})
    sound(shop)
    for piece in (p for p in shop.pieces() if p.maker == "c"):
        low = float(piece.placement.origin[2]) - piece.part.thickness / 2
        assert low == pytest.approx(3000.0) and len(piece.part.holes) == 2 and piece.part.width < section("W16X31").b
    for params in ({"wide": 140.0}, {"aside": 60.0}, {"holes": 30.0, "apart": 140.0}):
        assert wrong(fitted("bearing plates", beam(0, "W16X31"), params))


@pytest.mark.parametrize("height", [9.525, 63.5, 127.0])
def test_joist_seats_stand_as_high_as_asked_with_slots_the_way_joists_run(height):
    shop = fitted("joist seats", beam(0, "W16X31"), {"by": "count", "count": 2, "height": height})
    sound(shop)
    pieces = [p for p in shop.pieces() if p.maker == "c"]
    seats = [p for p in pieces if p.words == "joist seat"]
    assert len(seats) == 2 and len(pieces) - len(seats) == (4 if height > 10 else 0)
    for seat in seats:
        assert float(seat.placement.origin[2]) + seat.part.thickness / 2 == pytest.approx(3000.0 + height)
        assert sorted(h.x for h in seat.part.holes) == pytest.approx([88.9 - 44.45, 88.9 + 44.45])
        for hole in seat.part.holes:
            turn = np.radians(hole.angle)
            way = seat.placement.axes @ (np.cos(turn), 0.0, np.sin(turn))
            assert hole.slot > hole.d and abs(way[1]) == pytest.approx(1.0)  # across a beam towards east
    for upright in (p for p in pieces if p.words == "seat upright"):
        low, high = (float(upright.placement.to_model((0.0, 0.0, z))[2]) for z in upright.part.depth_range)
        assert (low, high) == pytest.approx((3000.0, 3000.0 + height - 9.525))
    for params, said in (
        ({"aside": 60.0}, "does not lie on the top"),
        ({"height": 15.0}, "no room for uprights"),
        ({"gage": 150.0}, "too near their ends"),
        ({"slot": 90.0}, "too near their edges"),
    ):
        assert any(said in text for text in wrong(fitted("joist seats", beam(0, "W16X31"), params)))
