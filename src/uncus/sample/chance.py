"""Joints drawn by lot: members of every form, skewed, sloping, rolled and turned end for end, with a kind and its
values."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from typing import Any

import msgspec

from uncus.catalog.bolts import bolt_sizes
from uncus.catalog.sections import Form, section
from uncus.connect.kinds import KINDS
from uncus.job.forms import About, fields, problem_of_value
from uncus.job.records import (
    AnyRecord,
    Connection,
    Double,
    End,
    Layout,
    Line,
    Member,
    Point,
    Project,
    Role,
    Turnbuckle,
    derived_id,
)
from uncus.job.start import usual_rules
from uncus.units import Units

_SHAPES = {
    Units.IMPERIAL: {
        "I": ("W8X18", "W10X49", "W12X26", "W14X22", "W14X90", "W16X31", "W18X35", "W21X44", "W24X84", "W8X31"),
        "channel": ("C8X11.5", "C12X20.7", "MC10X22"),
        "angle": ("L4X4X3/8", "L5X3X3/8", "L6X4X1/2"),
        "tee": ("WT5X15", "WT6X20"),
        "tube": ("HSS4X4X1/4", "HSS6X6X3/8", "HSS8X8X3/8", "HSS8X4X1/4", "HSS10X10X3/8"),
        "pipe": ("PIPE4STD", "PIPE6STD", "PIPE8STD"),
        "rod": ("ROD3/4", "ROD1", "ROD1-1/4"),
    },
    Units.METRIC: {
        "I": ("IPE200", "IPE300", "IPE400", "HEA200", "HEB240", "HEB300", "IPE500", "HEA160"),
        "channel": ("UPN200", "UPN160"),
        "angle": ("L4X4X3/8", "L6X4X1/2"),
        "tee": ("WT5X15",),
        "tube": ("HSS4X4X1/4", "HSS6X6X3/8", "HSS8X8X3/8"),
        "pipe": ("PIPE4STD", "PIPE6STD"),
        "rod": ("RD20", "RD24", "RD36"),
    },
}
_MIDDLE = (
    Form.I,
    Form.BOX,
    Form.TUBE,
    Form.TEE,
    Form.CHANNEL,
    Form.ROUND,
)  # braces whose middle lies on their work line
_LEVEL = 3000.0
_SQUARE = ("double angle", "seat", "flange plates", "moment end plate", "welded moment", "knee", "shear end plate")
_BRACES = ("angle", "angle", "tee", "channel", "tube", "pipe", "pair", "star", "I", "rod")


def drawn(seed: int) -> tuple[AnyRecord, ...]:
    """The records of a small job with one joint, `c`, and those it stands on."""
    return _Lot(random.Random(seed)).job()


class _Lot:
    def __init__(self, lot: random.Random) -> None:
        self.lot = lot
        self.units = lot.choice((Units.IMPERIAL, Units.IMPERIAL, Units.METRIC))
        self.right = lot.random() < 0.5

    def job(self) -> tuple[AnyRecord, ...]:
        name = self.lot.choice([n for n, kind in KINDS.items() if kind.carries])
        members, joints, roles = self._members(name)
        one = Connection(
            id="c",
            kind=name,
            member="beam",
            end=End.RIGHT if self.right else End.LEFT,
            params=self._values(name),
            **roles,
        )
        return (Project(units=self.units), usual_rules(self.units), *members, *joints, one)

    # -- members ------------------------------------------------------------------------------------------------
    def _members(self, kind: str) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        match kind:
            case "base plate":
                return [self._turned(self._post("beam"))], [], {"support": None}
            case "wall bearing":
                one = self._along(
                    "beam",
                    self._section("I", "I", "channel", "tube"),
                    (0.0, 0.0, _LEVEL),
                    self._away(self._lean(85), self._lean(20)),
                )
                return [one], [], {"support": None}
            case "column splice":
                return self._stacked()
            case "beam splice" | "brace splice" | "apex":
                return self._in_line(kind)
            case "cap plate":
                post = self._post("beam", top=_LEVEL)
                over = self._over(line=self.lot.choice((Line.BOTTOM, Line.CENTRE)))
                return [over, self._turned(post, high=True)], [], {"support": "support"}
            case "corner gusset" | "gusset and tab":
                return self._corner(kind == "gusset and tab")
            case "side gusset" | "chevron gusset":
                return self._on_beam(kind == "chevron gusset")
            case "base gusset":
                return self._at_foot()
            case "crossing gusset":
                return self._crossed()
            case "plan gusset":
                return self._planned()
        return self._framed(kind)

    def _section(self, *forms: str) -> str:
        return self.lot.choice(_SHAPES[self.units][self.lot.choice(forms)])

    def _post(self, id: str = "support", top: float = 6000.0) -> Member:
        roll = self.lot.choice((0.0, 0.0, 90.0, 90.0, 180.0, 30.0))
        shape = self._section("I", "I", "I", "tube", "pipe", "channel")
        return Member(id=id, role=Role.COLUMN, section=shape, start=(0, 0, 0), end=(0, 0, top), roll=roll)

    def _over(self, line: Line = Line.TOP) -> Member:
        shape, roll = self._section("I", "I", "I", "channel", "tube"), self.lot.choice((0.0,) * 8 + (180.0, 15.0))
        ends: list[Point] = [(0.0, -4000.0, _LEVEL), (0.0, 4000.0, _LEVEL)]
        if self.lot.random() < 0.5:
            ends.reverse()
        return Member(id="support", role=Role.BEAM, section=shape, start=ends[0], end=ends[1], line=line, roll=roll)

    def _framed(self, kind: str) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        square = kind in _SQUARE and self.lot.random() < 0.6
        support = self.lot.choice((self._post, self._post, self._over))()
        if square:
            roll = self.lot.choice((0.0, 90.0))
            support = msgspec.structs.replace(support, section=self._section("I"), roll=roll
                if support.role is Role.COLUMN else 0.0)  # fmt: skip
        if kind == "knee":
            support = msgspec.structs.replace(self._post(top=_LEVEL), section=self._section("I"), roll=90.0)
        forms = ("I", "I", "I", "channel", "tube", "pipe", "angle", "tee") if kind in ("welded end",
            "end tee") else ("I",) * 5 + ("channel", "tube")  # fmt: skip
        towards = self.lot.choice((0.0, 90.0, 180.0, 270.0))
        turn = towards + (0.0 if square else self._lean(85))
        slope = self.lot.uniform(2, 25) if kind == "knee" else 0.0 if square else self._lean(45)
        away = self._away(turn, slope)
        drop = self.lot.choice((0.0, 0.0, 0.0, -25.0, -150.0, 40.0))
        x, y = self._face(support, towards) if self.lot.random() < 0.6 else (0.0, 0.0)
        one = self._along("beam", self._section(*forms), (x, y, _LEVEL + drop), away)
        return [support, one], [], {"support": "support"}

    def _face(self, support: Member, towards: float) -> tuple[float, float]:
        """The middle of the side of a column that looks a way; the work point itself of a beam."""
        if support.role is not Role.COLUMN:
            return 0.0, 0.0
        s, t = section(support.section), math.radians(towards)
        out = s.d / 2 if (towards + support.roll) % 180.0 == 90.0 else 0.0 if s.flanged else s.b / 2
        return out * math.cos(t), out * math.sin(t)

    def _lean(self, most: float) -> float:
        """Degrees from square: none as often as not, small, or anything."""
        lot = self.lot.random()
        return 0.0 if lot < 0.5 else self.lot.uniform(-30, 30) if lot < 0.75 else self.lot.uniform(-most, most)

    def _away(self, turn: float, slope: float) -> Point:
        t, s = math.radians(turn), math.radians(slope)
        return (math.cos(s) * math.cos(t), math.cos(s) * math.sin(t), math.sin(s))

    def _along(self, id: str, shape: str, at: Point, away: Point, long: float = 5000.0, **more: Any) -> Member:
        there: Point = (at[0] + long * away[0], at[1] + long * away[1], at[2] + long * away[2])
        ends = (there, at) if self.right else (at, there)
        usual = {"line": Line.TOP, "role": Role.BEAM, "roll": self.lot.choice((0.0,) * 9 + (180.0, 90.0, 12.0))}
        return Member(id=id, section=shape, start=ends[0], end=ends[1], **{**usual, **more})

    def _turned(self, post: Member, high: bool = False) -> Member:
        """A post whose joint is at its low or high end, whichever of its ends that is."""
        low_first = self.right == high
        return post if low_first else msgspec.structs.replace(post, start=post.end, end=post.start)

    def _stacked(self) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        low, roll = self._section("I", "I", "tube"), self.lot.choice((0.0, 90.0))
        family = [s for s in _SHAPES[self.units]["I"] if abs(section(s).d - section(low).d) < 80] or [low]
        high = self.lot.choice([low, *family])
        under = Member(id="support", role=Role.COLUMN, section=low, start=(0, 0, 0), end=(0, 0, 4000.0), roll=roll)
        over = Member(id="beam", role=Role.COLUMN, section=high, start=(0, 0, 4000.0), end=(0, 0, 8000.0), roll=roll)
        return [under, self._turned(over)], [], {"support": "support"}

    def _in_line(self, kind: str) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        slope = self._lean(25) if kind != "apex" else self.lot.uniform(2, 25)
        back = -slope if kind != "apex" else slope if self.lot.random() < 0.5 else self.lot.uniform(2, 25)
        forms = _BRACES if kind == "brace splice" else ("I",)
        shape, more = self._brace(forms) if kind == "brace splice" else (self._section("I"), {})
        other = shape if self.lot.random() < 0.6 else self._section("I") if kind != "brace splice" else shape
        line = {"line": Line.CENTRE if kind == "brace splice" else Line.TOP, "roll": 0.0, **more}
        one = self._along("beam", shape, (0.0, 0.0, _LEVEL), self._away(0.0, slope), **line)
        two = self._along("support", other, (0.0, 0.0, _LEVEL), self._away(180.0, back), **line)
        if self.lot.random() < 0.5:
            two = msgspec.structs.replace(two, start=two.end, end=two.start)
        return [two, one], [], {"support": "support"}

    # -- braces -------------------------------------------------------------------------------------------------
    def _brace(self, forms: Sequence[str] = _BRACES) -> tuple[str, dict[str, Any]]:
        form = self.lot.choice(forms)
        if form in ("pair", "star"):
            layout = Layout.STAR if form == "star" else Layout.BACK_TO_BACK
            return self._section("angle"), {"double": Double(layout=layout)}
        if form == "rod" and self.lot.random() < 0.5:
            return self._section(form), {"turnbuckle": Turnbuckle()}
        return self._section(form), {}

    def _braced(self, id: str, at: Point, turn: float, slope: float, right: bool) -> Member:
        shape, more = self._brace()
        away = self._away(turn, slope)
        there: Point = (at[0] + 4500 * away[0], at[1] + 4500 * away[1], at[2] + 4500 * away[2])
        ends = (there, at) if right else (at, there)
        line = Line.CENTRE if section(shape).form in _MIDDLE else self.lot.choice((Line.GAGE, Line.CENTROID))
        return Member(id=id, role=Role.BRACE, section=shape, start=ends[0], end=ends[1], line=line, **more)

    def _corner(self, beside: bool) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        roll = self.lot.choice((0.0, 90.0))
        post = msgspec.structs.replace(self._post("post"), roll=roll)
        floor = Member(id="floor", role=Role.BEAM, section=self._section("I"), start=(0, 0, _LEVEL),
            end=(5000, 0, _LEVEL), line=Line.TOP)  # fmt: skip
        d = section(floor.section).d
        slope = self.lot.choice((-1, 1)) * self.lot.uniform(20, 72)
        one = self._braced("beam", (0.0, 0.0, _LEVEL - d / 2), 0.0, slope, self.right)
        if beside:  # a tube or a pair on a plate that lies along the beam's web
            web = (section(floor.section).tw + usual_rules(self.units).gusset_thickness) / 2
            one = msgspec.structs.replace(one, section=self._section("tube"), double=None, line=Line.CENTRE,
                aside=self.lot.choice((-web, web)))  # fmt: skip
            return [post, floor, one], [], {"support": "post", "others": ("floor",)}
        tab = Connection(id="tab", kind="shear tab", member="floor", end=End.LEFT, support="post")
        return [post, floor, one], [tab], {"support": "post", "others": ("floor",)}

    def _on_beam(self, two: bool) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        over = msgspec.structs.replace(self._over(Line.CENTRE), roll=0.0)
        up = self.lot.choice((-1, 1))
        at: Point = (0.0, 0.0, _LEVEL)
        one = self._braced("beam", at, 90.0, up * self.lot.uniform(25, 65), self.right)
        if not two:
            return [over, one], [], {"support": "support"}
        mate = self._braced("mate", at, 270.0, up * self.lot.uniform(25, 65), self.lot.random() < 0.5)
        return [over, one, mate], [], {"support": "support", "others": ("mate",)}

    def _at_foot(self) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        post = msgspec.structs.replace(self._post("post"), roll=self.lot.choice((0.0, 90.0)))
        one = self._braced("beam", (0.0, 0.0, 0.0), 0.0, self.lot.uniform(25, 65), self.right)
        foot = Connection(id=derived_id("connection", "post", End.LEFT), kind="base plate", member="post",
            end=End.LEFT, params={"along": 1300.0, "across": 1300.0})  # fmt: skip
        return [post, one], [foot], {"support": "post"}

    def _crossed(self) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        """Two lengths of a brace in one line, and another that runs through between them."""
        form = self.lot.choice(_BRACES)
        shape, more = self._brace((form,))
        line = {"line": Line.CENTRE, "roll": 0.0, "role": Role.BRACE, **more}
        rise, other = self.lot.uniform(15, 60), self.lot.uniform(15, 60)
        at: Point = (0.0, 0.0, _LEVEL)
        one = self._along("beam", shape, at, self._away(0.0, rise), **line)
        mate = self._along("mate", shape, at, self._away(180.0, -rise), **line)
        if self.lot.random() < 0.8:  # both lengths drawn the same way
            mate = msgspec.structs.replace(mate, start=mate.end, end=mate.start)
        far, near = self._away(0.0, -other), self._away(180.0, other)
        ends = [(4000 * d[0], 0.0, _LEVEL + 4000 * d[2]) for d in (near, far)]
        if self.lot.random() < 0.2:
            ends.reverse()
        through = Member(id="support", section=shape if self.lot.random() < 0.7 else self._brace((form,))[0],
            start=ends[0], end=ends[1], **line)  # fmt: skip
        return [through, one, mate], [], {"support": "support", "others": ("mate",)}

    def _planned(self) -> tuple[list[Member], list[Connection], dict[str, Any]]:
        """Two beams that meet, at a column or without one, and a level brace between them."""
        turn, at = self.lot.uniform(40, 150), self._away
        post = [self._post("post")] if self.lot.random() < 0.6 else []
        one = Member(id="one", role=Role.BEAM, section=self._section("I"), start=(0, 0, _LEVEL), end=(5000, 0, _LEVEL),
            line=Line.TOP, left_back=250.0 if post else 0.0)  # fmt: skip
        x, y, _ = at(turn, 0.0)
        two = msgspec.structs.replace(one, id="two", section=self._section("I"), end=(5000 * x, 5000 * y, _LEVEL),
            left_back=250.0 if post else 400.0)  # fmt: skip
        if not post:
            one = msgspec.structs.replace(one, start=(-2000.0, 0.0, _LEVEL))
        shape, more = self._brace(("angle", "channel", "tube", "pipe", "pair", "I"))
        away = at(turn * self.lot.uniform(0.3, 0.7), 0.0)
        line: dict[str, Any] = {"line": Line.CENTRE, "role": Role.BRACE, "roll": 0.0 if section(shape).form
            in (Form.BOX, Form.TUBE) else 90.0}  # fmt: skip
        brace = self._along("beam", shape, (0.0, 0.0, _LEVEL - self.lot.uniform(60, 200)), away, **line, **more)
        return [one, two, *post, brace], [], {"support": "one", "others": ("two", *(p.id for p in post))}

    # -- values -------------------------------------------------------------------------------------------------
    def _values(self, kind: str) -> dict[str, Any]:
        found = {}
        for name, about in fields(KINDS[kind].params).items():
            if self.lot.random() < 0.12:
                value = self._value(about)
                if value is not None and problem_of_value(about, value) is None:
                    found[name] = value
        return found

    def _value(self, about: About) -> Any:
        if about.choices:
            return self._choice(about.choices)
        if about.unit == "count":
            return self.lot.randint(int(about.low), min(int(about.high), int(about.low) + 6))
        if about.unit == "flag":
            return self.lot.random() < 0.5
        if about.unit == "length":
            low, high = max(about.low, 3.0), min(about.high, 60.0 * max(1.0, about.low / 6.0))
            return round(self.lot.uniform(low, max(low, high)), 1)
        if about.unit == "section":
            return self.lot.choice(("L4X3-1/2X1/4", "L4X4X3/8", "L6X4X1/2"))
        return None

    def _choice(self, choices: tuple[str, ...]) -> str:
        if choices == tuple(bolt_sizes()):
            inch = self.units is Units.IMPERIAL
            return self.lot.choice(("3/4", "7/8", "1") if inch else ("M16", "M20", "M24"))
        return self.lot.choice(choices)
