"""Tern Point Boathouse: a rowing club's boat hall with a club room above and a pitched roof. All names are made up."""

import math
from functools import partial

import msgspec

from uncus.frame.grids import make_grid
from uncus.job.bought import BoughtItem, shipped_item
from uncus.job.records import (
    AnyRecord,
    Attachment,
    Connection,
    Double,
    End,
    Fact,
    Grid,
    Lens,
    Level,
    Line,
    Member,
    Project,
    Role,
    derived_id,
)
from uncus.job.start import SERIES, usual_rules
from uncus.sample.frames import connected, placed
from uncus.units import FOOT, INCH, Units

BAYS = (22 * FOOT, 20 * FOOT, 22 * FOOT)
AISLES = (20 * FOOT, 20 * FOOT)
FLOOR, EAVES, RIDGE = 12 * FOOT, 21 * FOOT, 26 * FOOT


_member = partial(placed, "boathouse")


def _columns(xs: list[float], ys: list[float]) -> list[Member]:
    tops = [EAVES, RIDGE, EAVES]
    found = [
        _member(Role.COLUMN, "W10X49" if y == ys[1] else "W10X39", (x, y, 0.0), (x, y, top), Line.CENTRE)
        for x in xs
        for y, top in zip(ys, tops, strict=True)
    ]
    under = FLOOR - 16.5 * INCH
    found += [
        _member(Role.POST, "HSS5X5X1/4", (x, y, 0.0), (x, y, under), Line.CENTRE)
        for x in (xs[0], xs[-1])
        for y in ((ys[0] + ys[1]) / 2, (ys[1] + ys[2]) / 2)
    ]
    return found


def _floor(xs: list[float], ys: list[float]) -> list[Member]:
    z = FLOOR
    found = [
        _member(Role.BEAM, "W16X31", (x, y0, z), (x, y1, z), lot="2")
        for x in xs
        for y0, y1 in zip(ys, ys[1:], strict=False)
    ]
    middles = [(a + b) / 2 for a, b in zip(ys, ys[1:], strict=False)]
    for x0, x1 in zip(xs, xs[1:], strict=False):
        found += [_member(Role.BEAM, "W12X26", (x0, y, z), (x1, y, z), lot="2") for y in ys]
        found += [_member(Role.BEAM, "W12X19", (x0, y, z), (x1, y, z), lot="2") for y in middles]
    return found


def _roof(xs: list[float], ys: list[float]) -> list[Member]:
    found = []
    for x in xs:
        found.append(_member(Role.RAFTER, "W14X22", (x, ys[0], EAVES), (x, ys[1], RIDGE), lot="3"))
        found.append(_member(Role.RAFTER, "W14X22", (x, ys[2], EAVES), (x, ys[1], RIDGE), lot="3"))
    pitch = math.degrees(math.atan2(RIDGE - EAVES, AISLES[0]))
    for x0, x1 in zip(xs, xs[1:], strict=False):
        for y in (ys[0], ys[2]):
            found.append(_member(Role.EAVES, "W10X22", (x0, y, EAVES - 6 * INCH), (x1, y, EAVES - 6 * INCH), lot="3"))
        found.append(
            _member(Role.EAVES, "W10X22", (x0, ys[1], RIDGE - 6 * INCH), (x1, ys[1], RIDGE - 6 * INCH), lot="3")
        )
        for share in (1 / 3, 2 / 3):
            z = EAVES + (RIDGE - EAVES) * share
            south, north = ys[0] + AISLES[0] * share, ys[2] - AISLES[1] * share
            found.append(_member(Role.PURLIN, "W8X18", (x0, south, z), (x1, south, z), roll=pitch, lot="3"))
            found.append(_member(Role.PURLIN, "W8X18", (x0, north, z), (x1, north, z), roll=-pitch, lot="3"))
    return found


def _braces(xs: list[float], ys: list[float]) -> list[Member]:
    """The middle bay braced under the floor: a pair of double angles to the south, a tube across to the north."""
    under = FLOOR - 6.1 * INCH
    left, right, middle = xs[1], xs[2], (xs[1] + xs[2]) / 2
    pair = partial(_member, Role.BRACE, "L3X3X1/4", line=Line.GAGE)
    found = [
        msgspec.structs.replace(pair(a, b), double=Double(gap=9.525, spacing=3 * FOOT))
        for a, b in (
            ((left, ys[0], 0.0), (middle, ys[0], under)),
            ((middle, ys[0], under), (right, ys[0], 0.0)),
        )
    ]
    found.append(_member(Role.BRACE, "HSS4X4X1/4", (left, ys[2], 0.0), (right, ys[2], under), Line.CENTRE))
    return found


def _arch(xs: list[float], ys: list[float]) -> Member:
    """A beam rolled to an arc over the club room's gable window, in the south bay of the first wall."""
    z = FLOOR + 5 * FOOT
    beam = _member(Role.BEAM, "W12X26", (xs[0], ys[0], z), (xs[0], ys[1], z), Line.CENTRE, lot="2")
    return msgspec.structs.replace(beam, bow=(0.0, 0.0, FOOT))


def _lattice(xs: list[float], ys: list[float]) -> tuple[list[Member], list[Connection]]:
    """A lattice girder of tubes, welded in the shop, over the club room's terrace doors in the north bay of the last
    wall."""
    x, low, high, panels = xs[-1], FLOOR + 5 * FOOT, FLOOR + 7 * FOOT, 5
    step = (ys[2] - ys[1]) / (panels + 1)
    feet = [ys[1] + step * (n + 0.5) for n in range(panels + 1)]
    heads = [ys[1] + step * (n + 1) for n in range(panels)]
    past = 6 * INCH  # the upper chord runs on past its last webs
    tube = partial(_member, Role.BEAM, "HSS6X4X1/4", line=Line.CENTRE, lot="2")
    chords = [tube((x, ys[1], low), (x, ys[2], low)), tube((x, heads[0], high), (x, heads[-1], high))]
    chords[1] = msgspec.structs.replace(chords[1], left_back=-past, right_back=-past)
    webs = [
        _member(Role.BRACE, "HSS2-1/2X2-1/2X1/4", (x, y0, low), (x, y1, high), Line.CENTRE, lot="2")
        for n, y1 in enumerate(heads)
        for y0 in (feet[n], feet[n + 1])
    ]
    welds = [
        Connection(
            id=derived_id("connection", m.id, end),
            kind="welded end",
            member=m.id,
            end=end,
            support=chord.id,
            locked=True,
        )
        for m in webs
        for end, chord in zip((End.LEFT, End.RIGHT), chords, strict=True)
    ]
    return [*chords, *webs], welds


def _fittings(members: list[Member], units: Units) -> list[Attachment]:
    """Bent plates that close the club room's floor along its south edge, and racks on two columns for the boats."""
    inch = 25.0 if units is Units.METRIC else INCH
    edges = [m for m in members if m.section == "W12X26" and m.start[1] == m.end[1] == 0.0]
    found = [
        Attachment(id=derived_id("edge", m.id), member=m.id, kind="edge plates",
            params={"side": "near side", "edge": 6 * inch, "held_back": (4.5 if units is Units.IMPERIAL else 6) * inch})
        for m in edges
    ]  # fmt: skip
    columns = [m for m in members if m.role is Role.COLUMN and m.start[1] > 0 and m.section == "W10X39"][1:3]
    racks = {
        "code": "RACK-600",
        "on": "bottom",
        "by": "places",
        "places": "3', 4', 2'-6" if units is Units.IMPERIAL else "900, 1200, 750",
    }
    hooks = {"code": "HOOK-120", "on": "top", "by": "places", "places": "5'" if units is Units.IMPERIAL else "1500"}
    for key, params in (("racks", racks), ("hooks", hooks)):
        found += [Attachment(id=derived_id(key, m.id), member=m.id, kind="bought items", params=params)
            for m in columns]  # fmt: skip
    return found


def _items() -> list[BoughtItem]:
    """The job's copies of what it uses out of the catalogue that ships."""
    return [item for code in ("RACK-600", "HOOK-120") if (item := shipped_item(code)) is not None]


METRIC = 25.0 / 25.4  # a foot is 300 mm and an inch 25 in the metric boathouse, so that all is whole there
_ABROAD = {
    "W10X49": "HEB300",
    "W10X39": "HEB280",
    "W16X31": "IPE400",
    "W14X22": "IPE330",
    "W12X26": "IPE300",
    "W12X19": "IPE270",
    "W10X22": "IPE240",
    "W8X18": "IPE220",
    "L3X3X1/4": "L80X80X8",
    "HSS6X4X1/4": "HFRHS150X100X6",
    "HSS5X5X1/4": "HFRHS120X120X6",
    "HSS4X4X1/4": "HFRHS100X100X6",
    "HSS2-1/2X2-1/2X1/4": "HFRHS60X60X5",
}


def _metric(member: Member) -> Member:
    """The same member of the European shapes nearest to it, where it is in the metric boathouse."""
    lengths = {name: tuple(round(v * METRIC, 3) for v in getattr(member, name)) for name in ("start", "end", "bow")} | {
        name: round(getattr(member, name) * METRIC, 3) for name in ("left_back", "right_back")
    }
    double = msgspec.structs.replace(member.double, gap=10.0, spacing=900.0) if member.double else None
    return msgspec.structs.replace(member, section=_ABROAD[member.section], double=double, **lengths)


def boathouse(units: Units = Units.IMPERIAL) -> list[AnyRecord]:
    """The boathouse alone, connected by rule and not yet marked: of American shapes in feet and inches, or of European
    ones in millimetres."""
    return connected(frame_records(units), without=("knee",))  # the rafters are pinned


def frame_records(units: Units) -> list[AnyRecord]:
    """Its records before its ends are connected."""
    scale = METRIC if units is Units.METRIC else 1.0
    grid = make_grid([v * scale for v in BAYS], [v * scale for v in AISLES])
    xs, ys = ([at / scale for at in (g.at for g in lines)] for lines in (grid.numbers, grid.letters))
    members = [*_columns(xs, ys), *_floor(xs, ys), *_roof(xs, ys), *_braces(xs, ys), _arch(xs, ys)]
    lattice, welds = _lattice(xs, ys)
    members += lattice
    fittings = _fittings(members, units)
    if units is Units.METRIC:
        members = [_metric(m) for m in members]
    levels = (("ground", "Slab", 0.0), ("floor", "Club room", FLOOR), ("eaves", "Eaves", EAVES))
    return [
        Project(name="Tern Point Boathouse", number="26-014", finish="one coat shop primer", units=units),
        usual_rules(units),
        *SERIES,
        Grid(id="grid", numbers=grid.numbers, letters=grid.letters),
        *(Level(id=f"level {id}", name=name, elevation=round(z * scale, 6)) for id, name, z in levels),
        Lens(id="lens columns", name="columns", rule=Fact("role", "is", "column")),
        Lens(id="lens roof", name="roof", rule=Fact("lot", "is", "3")),
        *_items(),
        *members,
        *fittings,
        *welds,
    ]
