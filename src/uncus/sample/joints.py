"""One small job for each kind of joint: the members it needs and the joint, for pictures and trials."""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec
import numpy as np

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.frame.numbers.bracing import BRACING
from uncus.frame.numbers.kind import made as by_numbers
from uncus.job.forms import checked, fields
from uncus.job.records import (
    AnyRecord,
    Attachment,
    Connection,
    Double,
    End,
    Line,
    Member,
    Point,
    Project,
    Role,
    ShopRules,
    Turnbuckle,
    derived_id,
)
from uncus.units import Units

_LEVEL = 3000.0


def _column(section: str, roll: float = 90.0, top: float = 3800.0, id: str = "post") -> Member:
    return Member(id=id, role=Role.COLUMN, section=section, start=(0.0, 0.0, 0.0), end=(0.0, 0.0, top), roll=roll)


def _girder(section: str, z: float = _LEVEL, line: Line = Line.TOP) -> Member:
    return Member(id="post", role=Role.BEAM, section=section, start=(0.0, -900.0, z), end=(0.0, 900.0, z), line=line)


def _beam(section: str, turn: float = 0.0, slope: float = 0.0, id: str = "beam", z: float = _LEVEL,
    line: Line = Line.TOP) -> Member:  # fmt: skip
    t, s, long = math.radians(turn), math.radians(slope), 1500.0
    end: Point = (long * math.cos(s) * math.cos(t), long * math.cos(s) * math.sin(t), z + long * math.sin(s))
    return Member(id=id, role=Role.BEAM, section=section, start=(0.0, 0.0, z), end=end, line=line)


def _brace(section: str, to: Point, at: Point, id: str = "beam", double: Double | None = None) -> Member:
    return Member(id=id, role=Role.BRACE, section=section, start=at, end=to, double=double, line=Line.GAGE)


def _upper(section: str) -> Member:
    return Member(id="beam", role=Role.COLUMN, section=section, start=(0, 0, _LEVEL), end=(0, 0, 4400.0), roll=90.0)


def _foot() -> Connection:
    id = derived_id("connection", "post", End.LEFT)
    return Connection(id=id, kind="base plate", member="post", end=End.LEFT, params={"along": 762.0, "across": 762.0})


_PAIR = Double(stitches=0)
_TAB = Connection(id="tab", kind="shear tab", member="floor", end=End.LEFT, support="post")


def _cases() -> Iterator[tuple[str, list[AnyRecord], Connection]]:
    def joint(kind: str, support: str | None = "post", others: tuple[str, ...] = (), **params: object) -> Connection:
        return Connection(
            id="joint", kind=kind, member="beam", end=End.LEFT, support=support, others=others, params=params
        )

    w14, level = "W14X90", 2000.0
    yield "Shear tab to a flange", [_column(w14), _beam("W16X31")], joint("shear tab")
    yield "Shear tab, skewed 30°", [_column("W14X145"), _beam("W16X31", 30)], joint("shear tab", first=114.3)
    yield "Shear tab, skewed and sloping", [_column("W14X145"), _beam("W16X31", -25, 15)], joint("shear tab",
        first=127.0)  # fmt: skip
    yield "Shear tab to a girder", [_girder("W24X55"), _beam("W16X31")], joint("shear tab")
    yield "Extended to both flanges", [_girder("W24X55"), _beam("W16X31")], joint("shear tab", ends="past the flanges",
        reach="both flanges too", opposite="stiffener")  # fmt: skip
    yield "Double angle", [_column(w14), _beam("W16X31")], joint("double angle")
    both = [_girder("W24X55"), _beam("W16X31"), _beam("W16X31", 180, id="other")]
    other = Connection(id="other end", kind="double angle", member="other", end=End.LEFT, support="post")
    yield "Double angles sharing bolts", [*both, other], joint("double angle")
    yield "Double angle, welded", [_girder("W24X55"), _beam("W16X31")], joint("double angle", to_beam="welded")
    yield "Double angle, skewed 30°", [_girder("W24X55"), _beam("W16X31", 30)], joint("double angle")
    yield "Shear end plate", [_girder("W24X55"), _beam("W16X31", 20)], joint("shear end plate")
    yield "Seat", [_column(w14), _beam("W14X30")], joint("seat")
    yield "Seat on a slope", [_column(w14), _beam("W14X30", slope=12)], joint("seat")
    yield "Moment end plate", [_column(w14), _beam("W18X35")], joint("moment end plate")
    yield "Flange plates", [_column(w14), _beam("W18X35")], joint("flange plates", doubler="near side")
    yield "Flange plates to a web", [_column(w14, 0.0), _beam("W18X35")], joint("flange plates")
    yield "Welded moment", [_column(w14), _beam("W18X35")], joint("welded moment")
    yield "Welded moment to a web", [_column(w14, 0.0), _beam("W18X35")], joint("welded moment")
    yield "Knee with haunch", [_column("W14X53", top=_LEVEL), _beam("W14X22", slope=12)], joint("knee")
    yield "Apex", [_beam("W14X22", 180, -12, "post"), _beam("W14X22", slope=-12)], joint("apex", deep=150.0, long=600.0)
    yield "Column splice", [_column("W12X87", top=_LEVEL), _upper("W12X65")], joint("column splice")
    yield "Beam splice", [_beam("W16X31", 180, id="post"), _beam("W16X31")], joint("beam splice")
    yield "Brace splice, tube", [_beam("HSS6X6X1/4", 180, id="post", line=Line.CENTRE),
        _beam("HSS6X6X1/4", line=Line.CENTRE)], joint("brace splice")  # fmt: skip
    yield "Base plate", [_column("W10X49", id="beam", top=1200.0)], joint("base plate", None, rods=6, lug=127.0,
        grout=38.1)  # fmt: skip
    yield "Bearing on a wall", [_beam("W16X31")], joint("wall bearing", None)
    top = Member(id="beam", role=Role.COLUMN, section="W10X49", start=(0, 0, 4000.0), end=(0, 0, 2600.0))
    yield "Cap plate", [_girder("W16X40", 4500.0), top], joint("cap plate", stiffeners="two pairs")
    floor = _beam("W16X31", id="floor")
    at = (0.0, 0.0, _LEVEL - 200.0)
    yield (
        "Gusset at beam and column",
        [_column("W10X49", top=4600.0), floor, _TAB, _brace("L4X3X3/8", (1500.0, 0.0, 4100.0), at, double=_PAIR)],
        joint("corner gusset", others=("floor",)),
    )
    yield (
        "The same, slotted tube",
        [_column("W10X49", top=4600.0), floor, _TAB, _brace("HSS5X5X1/4", (1500.0, 0.0, 4100.0), at)],
        joint("corner gusset", others=("floor",), to_column="welded"),
    )
    rod = msgspec.structs.replace(_brace("ROD1", (3000.0, 0.0, 5200.0), at), line=Line.CENTRE, turnbuckle=Turnbuckle())
    yield (
        "Tie rod with a turnbuckle",
        [_column("W10X49", top=4600.0), floor, _TAB, rod],
        joint("corner gusset", others=("floor",)),
    )
    both_on = msgspec.structs.replace(_brace("L4X4X3/8", (1500.0, 0.0, 4100.0), at), line=Line.CENTRE, aside=47.3075)
    yield "Gusset and tab in one plate", [_column("W14X90", top=4600.0), floor, both_on], joint("gusset and tab",
        others=("floor",))  # fmt: skip
    floor_beam = msgspec.structs.replace(
        _girder("W18X35", line=Line.CENTRE), start=(-900.0, 0, _LEVEL), end=(900.0, 0, _LEVEL)
    )
    yield "Gusset on a beam", [floor_beam, _brace("WT5X15", (1300.0, 0.0, 4100.0),
        (0.0, 0.0, _LEVEL))], joint("side gusset")  # fmt: skip
    yield "Chevron gusset", [floor_beam, _brace("L3X3X1/4", (1300.0, 0.0, level), (0.0, 0.0, _LEVEL), double=_PAIR),
        _brace("L3X3X1/4", (0.0, 0.0, _LEVEL), (-1300.0, 0.0, level), "mate", _PAIR)], joint("chevron gusset",
        others=("mate",))  # fmt: skip
    middle, crossed = (0.0, 0.0, 3100.0), "L3X3X1/4"
    lengths: list[AnyRecord] = [
        _brace(crossed, middle, (-900.0, 0.0, 3700.0)),
        _brace(crossed, (900.0, 0.0, 2500.0), middle, "mate"),
        _brace(crossed, (900.0, 0.0, 3700.0), (-900.0, 0.0, 2500.0), "post"),
    ]
    yield "Braces that cross", lengths, msgspec.structs.replace(joint("crossing gusset", others=("mate",)),
        end=End.RIGHT)  # fmt: skip
    heavy = msgspec.structs.replace(_brace("W8X31", (1500.0, 0.0, 4100.0), at), line=Line.CENTRE)
    yield "I brace by claw angles", [_column("W10X49", top=4600.0), floor, _TAB, heavy], joint("corner gusset",
        others=("floor",))  # fmt: skip
    level_tab = Connection(id="other tab", kind="shear tab", member="other", end=End.LEFT, support="post")
    level_brace = msgspec.structs.replace(_brace("L4X4X3/8", (1300.0, 800.0, 2800.0), (0.0, 0.0, 2800.0)),
        line=Line.CENTRE, roll=90.0)  # fmt: skip
    yield "Gusset in plan", [_column("W10X49", top=3600.0), floor, _TAB, _beam("W16X31", 70, id="other"), level_tab,
        level_brace], joint("plan gusset", "floor", others=("other", "post"))  # fmt: skip
    yield "Gusset at a base", [_column("W10X49", top=1500.0), _foot(),
        _brace("L4X4X3/8", (1300.0, 0.0, 1300.0), (0.0, 0.0, 0.0))], joint("base gusset")  # fmt: skip
    yield "Through plate", [_column("HSS10X10X3/8"), _beam("W16X31"),
        _beam("W14X22", 180, id="mate")], joint("through plate", others=("mate",))  # fmt: skip
    chord = _girder("HSS8X8X3/8", line=Line.CENTRE)
    yield "Through plate, skewed", [_column("HSS10X10X3/8"), _beam("W16X31", 15)], joint("through plate")
    yield (
        "Webs welded to a chord",
        [
            chord,
            *(
                _brace("HSS4X4X1/4", (0.0, way * 1100.0, 4100.0), (0.0, 0.0, _LEVEL), id=name)
                for name, way in (("beam", 1.0), ("web", -1.0))
            ),
            Connection(id="web end", kind="welded end", member="web", end=End.LEFT, support="post"),
        ],
        joint("welded end"),
    )
    yield "A web that overlaps another", [chord, *(_brace("HSS4X4X1/4", (0.0, way * 640.0, 4150.0),
        (0.0, 0.0, _LEVEL + 40.0), id=name) for name, way in (("beam", 1.0), ("web", -1.0))),
        Connection(id="web end", kind="welded end", member="web", end=End.LEFT, support="post")], joint("welded end",
        others=("web",))  # fmt: skip
    pipe = _girder("PIPE8STD", line=Line.CENTRE)
    yield "A round web saddled to a round chord", [pipe,
        msgspec.structs.replace(_brace("HSS4.000X0.250", (0.0, 1100.0, 4100.0), (0.0, 0.0, _LEVEL)),
        line=Line.CENTRE)], joint("welded end")  # fmt: skip
    wall = Member(id="post", role=Role.EMBED, section="PL3/4X14", start=(0.0, 0.0, 2550.0), end=(0.0, 0.0, 3050.0),
        roll=180.0, aside=9.525)  # fmt: skip
    held = Attachment(id="anchors", kind="concrete anchors", member="post", params={"rows": 3})
    yield "A beam at a plate in a wall", [wall, held, _beam("W16X31")], joint("double angle", to_beam="welded",
        to_support="welded")  # fmt: skip
    yield "End tee on a tube", [_column(w14), _beam("HSS6X4X1/4", 15, z=2800.0, line=Line.CENTRE)], joint("end tee")


def _fixed() -> Iterator[tuple[str, Member, Attachment]]:
    """Each kind of attachment on a short member."""
    beam, tube = _beam("W16X31"), msgspec.structs.replace(_column("HSS8X8X3/8", top=1200.0), id="beam")
    wall = Member(
        id="beam", role=Role.EMBED, section="PL3/4X14", start=(0.0, 0.0, 0.0), end=(0.0, 0.0, 400.0), roll=180.0
    )
    row = {"by": "count", "count": 3, "first": 250.0, "last": 250.0}
    for kind, words, member, params in (
        ("stiffeners", "Stiffeners", beam, row),
        ("nailer holes", "Nailer holes, staggered", beam, {"stagger": "staggered"}),
        ("studs", "Studs", beam, {"spacing": 203.2}),
        ("shelf plates", "Shelf plates", beam, row),
        ("bearing plates", "Bearing plates", beam, row | {"holes": 17.4625}),
        ("joist seats", "Joist seats", beam, row),
        ("outriggers", "Outriggers", beam, row),
        ("lifting lugs", "Lifting lugs", beam, row | {"count": 2}),
        ("end plates", "End plates", tube, {}),
        ("vent holes", "Vent and drain holes", tube, {}),
        ("concrete anchors", "Plate in a wall with straps", wall, {"anchors": "straps"}),
        ("safety holes", "Safety holes", _column("W10X49", top=2200.0, id="beam"), {"by": "spacing"}),
    ):
        known = fields(ATTACHMENTS[kind].params)
        yield words, member, Attachment(id="joint", kind=kind, member="beam",
            params={k: v for k, v in params.items() if k in known})  # fmt: skip


def joints() -> list[tuple[str, list[AnyRecord]]]:
    """What each is called, and its records; the joint's or attachment's id is `joint`."""
    usual: list[AnyRecord] = [Project(name="Joints", number="-"), ShopRules()]
    made = [(words, [*usual, *members, joint]) for words, members, joint in _cases()]
    made += [(words, [*usual, member, fixed]) for words, member, fixed in _fixed()]
    bay = {"section": "L4X4X3/8", "crossing": "set off to either side"}
    corners = [np.array([-900.0, 0.0, 0.0]), np.array([900.0, 0.0, 1300.0])]
    one, two = by_numbers(BRACING, checked(BRACING.params, bay), corners, Units.IMPERIAL)
    bolts = Attachment(id="joint", kind="crossing bolts", member=one.id, mate=two.id)
    return [*made, ("Braces bolted back to back", [*usual, one, two, bolts])]
