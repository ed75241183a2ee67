"""A fixed ladder: stiles, rungs, brackets to what it stands before, and a cage where it is to have one."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.catalog.sections import Form, section
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.stair_rules import NAMES, RULES
from uncus.compose.treads import folded_strip
from uncus.frame.placement import Placement, Vec, tidied
from uncus.job.blanks import HoleRow
from uncus.job.forms import About
from uncus.job.records import Climb, Role
from uncus.units import FOOT, counted, format_length, length_in_words

CAGE, OPEN = CAGED = ("a cage", "no cage")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    rule: Annotated[str, About("Held against", unit="choice", choices=NAMES)] = NAMES[1]
    width: Annotated[float, About("Between the stiles", low=200, high=1000)] = 406.4
    off: Annotated[float, About("Off the wall", low=0, high=1000,
        help="From the points, which lie on it, to the rungs' middle.")] = 177.8  # fmt: skip
    stile: Annotated[str, About("Stiles", unit="section", help="A flat.")] = "PL3/8X2-1/2"
    rung: Annotated[str, About("Rungs", unit="section", help="A round bar.")] = "ROD3/4"
    spacing: Annotated[float, About("Rungs apart, at most", low=150, high=500)] = 304.8
    over: Annotated[float, About("Stiles over the top", low=0, high=2000)] = 1066.8
    bracket: Annotated[float, About("Brackets at most apart", low=300, high=6000)] = 2438.4
    plate: Annotated[float, About("Brackets", low=4, high=25, help="Thickness.")] = 9.525
    hole: Annotated[float, About("Holes of brackets", low=6, high=30)] = 17.4625
    cage: Annotated[str, About("With", unit="choice", choices=CAGED)] = OPEN
    from_: Annotated[float, About("Cage begins over the foot", low=1000, high=6000, only=("cage", CAGE))] = 7 * FOOT
    hoop: Annotated[str, About("Hoops", unit="section", only=("cage", CAGE))] = "PL1/4X2"
    hoops: Annotated[float, About("Hoops at most apart", low=300, high=3000, only=("cage", CAGE))] = 4 * FOOT
    bar: Annotated[str, About("Cage bars", unit="section", only=("cage", CAGE), help="A round bar.")] = "ROD5/8"
    bars: Annotated[int, About("Bars round it", unit="count", low=3, high=11, only=("cage", CAGE))] = 7


def frame_of(given: Given) -> tuple[Placement, float]:
    """The ladder's frame - its foot on the wall, x to the right, y into the wall, z up - and how high it climbs."""
    foot, top, towards = given.points[:3]
    climb = float(top[2] - foot[2])
    if climb < 600.0:
        raise ValueError("its top is no higher than its foot; pick the foot first, then the top")
    out = towards - foot
    out = np.array([out[0], out[1], 0.0])
    long = float(np.linalg.norm(out))
    if long < 10.0:
        raise ValueError("the side that it is climbed from is no side; pick a point before the wall")
    into = -out / long
    up = np.array([0.0, 0.0, 1.0])
    return Placement(foot, np.column_stack([np.cross(into, up), into, up])), climb


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    at, climb = frame_of(given)
    s = section(p.stile)
    if s.form is not Form.FLAT:
        raise ValueError(f"its stiles are flats, which {p.stile} is not")
    half = p.width / 2 + s.b / 2
    for name, way in (("left", -1.0), ("right", 1.0)):
        a, b = (at.to_model((way * half, -p.off, z)) for z in (0.0, climb + p.over))
        parts.member(f"{name} stile", Role.RAIL, p.stile, a, b, at.y)
    n = math.ceil(climb / p.spacing - 1e-6)
    for k in range(1, n + 1):  # the last of them is level with the top
        key = f"rung {k}"
        a, b = (at.to_model((x, -p.off, climb * k / n)) for x in (-p.width / 2, p.width / 2))
        parts.member(key, Role.TREAD, p.rung, a, b)
        for name in ("left", "right"):
            parts.attach(f"{key} {name}", "welded on", key, f"{name} stile")
    _brackets(parts, at, climb, p, half)
    if p.cage == CAGE:
        _cage(parts, at, climb, p, half + s.b / 2)
    return parts.made


def _brackets(parts: Parts, at: Placement, climb: float, p: Params, half: float) -> None:
    """Bent plates from the stiles' outer sides to the wall, turned out along it with two holes."""
    s, t = section(p.stile), p.plate
    radius = usual_radius(parts.given.rules.plate_grade, t)
    wide, foot = 63.5, 2.5 * p.hole + radius + t + 2.0 * p.hole
    n = max(2, math.ceil(climb / p.bracket) + 1)
    reach = p.off + s.d / 2
    blank, starts = folded_strip(wide, [reach, foot], [90.0], t, 0, radius)
    z = starts[1] + (foot - radius - t) / 2
    blank = msgspec.structs.replace(blank, holes=(HoleRow(wide * 0.28, z, p.hole, columns=2, dx=wide * 0.44),)
        if wide > 2.6 * p.hole else (HoleRow(wide / 2, z, p.hole),))  # fmt: skip
    for k in range(n):
        high = 300.0 + (climb - 600.0) * k / (n - 1)
        for name, way in (("left", -1.0), ("right", 1.0)):
            x = way * (half + s.b / 2 + t / 2)
            # z to the wall, the near side outward, so that its foot turns out; x up or down to suit
            axes = np.column_stack([np.cross(-way * at.x, at.y), -way * at.x, at.y])
            low = -wide / 2 if float(axes[2, 0]) > 0 else wide / 2
            place = Placement(at.to_model((x, -p.off - s.d / 2, high + low)), axes)
            key = f"{name} bracket {k + 1}"
            parts.plate(key, Role.PLATE, place, blank, t)
            parts.attach(f"{key} weld", "welded on", key, f"{name} stile")
            parts.attach(f"{key} anchors", "anchored", key, deep=101.6)


def _cage(parts: Parts, at: Placement, climb: float, p: Params, outer: float) -> None:
    """Hoops from stile to stile and upright bars within them."""
    hoop, bar = section(p.hoop), section(p.bar)
    if hoop.form is not Form.FLAT or bar.form is not Form.ROUND:
        raise ValueError("its cage is of flat hoops and round bars; choose such sections")
    top = climb + p.over
    n = max(2, math.ceil((top - p.from_) / p.hoops) + 1)
    if top - p.from_ < 300.0:
        raise ValueError("its cage begins over its top; let it begin lower")
    radius = outer + hoop.b / 2
    axis = at.to_model((0.0, -p.off, 0.0))
    low, high = p.from_ + hoop.d / 2, top - hoop.d / 2
    for k in range(n):
        z = low + (high - low) * k / (n - 1)
        start = tidied(at.to_model((radius, -p.off, z)))
        climbs = Climb(float(axis[0]), float(axis[1]), -180.0)
        parts.climbing(f"hoop {k + 1}", Role.RAIL, p.hoop, start, 0.0, climbs)
        for name in ("left", "right"):
            parts.attach(f"hoop {k + 1} {name}", "welded on", f"hoop {k + 1}", f"{name} stile")
    inner = radius - hoop.b / 2 - bar.d / 2
    for k in range(p.bars):
        angle = math.pi * (k + 1) / (p.bars + 1)
        x, y = inner * math.cos(angle), -p.off - inner * math.sin(angle)
        a, b = (at.to_model((x, y, z)) for z in (p.from_, top))
        # so turned that the line along which it touches the hoops is one of its own
        out: Vec = at.axes @ np.array([math.cos(angle), -math.sin(angle), 0.0])
        key = parts.member(f"bar {k + 1}", Role.RAIL, p.bar, a, b, out)
        for h in range(n):
            parts.attach(f"{key} hoop {h + 1}", "welded on", key, f"hoop {h + 1}")


def told(given: Given) -> Iterator[Said]:
    """What of it breaks the rule chosen."""
    p: Params = given.params
    rule, (_, climb) = RULES[p.rule], frame_of(given)
    each = climb / math.ceil(climb / p.spacing - 1e-6)
    low, high = rule.rungs
    if not low - 0.5 <= each <= high + 0.5:
        is_, a, b = (length_in_words(v, given.units) for v in (each, low, high))
        yield Said(f"The rungs are {is_} apart; {rule.name} asks for {a} to {b}.")
    if p.over < rule.guard - 0.5:
        is_, least = (length_in_words(v, given.units) for v in (p.over, rule.guard))
        yield Said(f"The stiles run {is_} over the top; {rule.name} asks for {least}.")


def reading(given: Given) -> str:
    p: Params = given.params
    _, climb = frame_of(given)
    n = math.ceil(climb / p.spacing - 1e-6)
    return f"{counted(n, 'rung')}, {format_length(climb / n, given.units)} apart"


KIND = Compound(
    "ladder",
    "Ladder",
    Params,
    (
        "pick the foot, on the wall or edge that it stands before",
        "pick a point on the floor it leads to",
        "pick a point on the side that it is climbed from",
    ),
    build,
    "A fixed ladder with stiles, rungs, brackets and, where it is wanted, a cage.",
    climbs=1,
    told=told,
    reading=reading,
    metric={"rule": NAMES[2], "width": 400.0, "off": 200.0, "stile": "FL65X10", "rung": "RD20", "spacing": 280.0,
        "over": 1100.0, "bracket": 2000.0, "plate": 10.0, "hole": 14.0, "from_": 2200.0, "hoop": "FL50X6",
        "hoops": 1200.0, "bar": "RD16"},
)  # fmt: skip
