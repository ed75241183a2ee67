"""What can be asked of a piece: each fact as words or as a number, and how a value is held against it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Sequence
from enum import StrEnum
from operator import attrgetter

import msgspec

from uncus.catalog.sections import Form, section
from uncus.connect.strength.design import NEAR, State
from uncus.frame.axes import is_vertical
from uncus.frame.placement import unit
from uncus.job.errors import JobError
from uncus.job.holds import held
from uncus.job.job import Job
from uncus.job.packages import Stage
from uncus.job.records import (
    Attachment,
    Connection,
    Crane,
    Drawing,
    Fact,
    Grid,
    Hold,
    Issue,
    LayDown,
    Level,
    Mark,
    Member,
    PieceProgress,
    Project,
    Role,
    ShopRules,
)
from uncus.lens.above import Above
from uncus.shop.lifting import LIFTING, lift, lifting
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.shop.whereabouts import whereabouts
from uncus.steel.joint import FastenerKind
from uncus.units import POUND, UnitError, Units, parse_length


class Relation(StrEnum):
    IS = "is"
    BEGINS = "begins"
    HAS = "has"
    OVER = "over"
    UNDER = "under"

    @property
    def words(self) -> str:
        return {"is": "is", "begins": "begins with", "has": "has in it", "over": "is over", "under": "is under"}[self]


class Known(msgspec.Struct, frozen=True, eq=False):
    """What facts are read from: a job and its steel."""

    job: Job
    shop: Shop
    levels: tuple[Level, ...]
    marks: dict[str, str]
    part_marks: dict[str, str]
    above: Above
    progress: dict[str, str] = {}

    @classmethod
    def of(cls, job: Job, shop: Shop, above: Above) -> Known:
        levels = tuple(sorted(job.all(Level), key=lambda level: level.elevation))
        marks = {m.piece: m.mark for m in job.all(Mark) if not m.part}
        marks |= {id: marks[root] for id, root in shop.carried.items() if root in marks}
        progress = {p.piece: str(p.stage) for p in job.all(PieceProgress)}
        return cls(job, shop, levels, marks, {m.piece: m.mark for m in job.all(Mark) if m.part}, above, progress)

    def mark(self, assembly: Assembly) -> str:
        return self.marks.get(assembly.id, "")

    def contributions(self, assembly: Assembly):  # type: ignore[no-untyped-def]
        for connection in self.shop.connections_at(assembly.id):
            made = self.shop.connections.get(connection.id)
            if made is not None:
                yield connection, made


class Measure(StrEnum):
    """What kind of number a fact is."""

    LENGTH = "length"
    WEIGHT = "weight"
    COUNT = "count"


class Asked(msgspec.Struct, frozen=True):
    """A fact: `read` gives the words a piece has for it (any of them may meet a lens), or one number (mm, kg).
    `reads` are the records it is read from beside the piece itself: when one of them changes, so may the fact of a
    piece that did not. `above`: it is handed down from rooms above this one, so it cannot decide what they are made
    from."""

    words: str
    read: Callable[[Known, Assembly], Iterable[str] | float]
    measure: Measure | None = None
    choices: tuple[str, ...] = ()
    help: str = ""
    reads: tuple[type, ...] = ()
    above: bool = False
    field: Callable[[Assembly], object] | None = None  # where the fact is a field of every piece: its one word


def _field(words: str, path: str, choices: tuple[str, ...] = (), help: str = "") -> Asked:
    """A fact that is a field of every piece, read for many at once."""
    field = attrgetter(path)
    return Asked(words, lambda _, a: (str(field(a)),), choices=choices, help=help, field=field)


_FAMILY = {
    Form.I: "I",
    Form.CHANNEL: "channel",
    Form.ANGLE: "angle",
    Form.TEE: "tee",
    Form.BOX: "tube",
    Form.TUBE: "round tube",
    Form.FLAT: "flat",
    Form.ROUND: "round bar",
}


def _shape(_: Known, a: Assembly) -> Iterable[str]:
    return (_FAMILY[section(a.member.section).form], *(["double angle"] if a.member.double else []))


def _level(known: Known, a: Assembly) -> Iterable[str]:
    """A plumb piece is on every level it stands at or passes; another on the one its ends are at, or between."""
    low, high = sorted((a.member.start[2], a.member.end[2]))
    upright = is_vertical(unit([e - s for s, e in zip(a.member.start, a.member.end, strict=True)]))
    if upright:
        return [x.name for x in known.levels if low - 300 <= x.elevation <= high + 300]
    at = [x.name for x in known.levels if low - 300 <= x.elevation <= high + 300]
    below = [x.name for x in known.levels if x.elevation <= high + 300]
    return at or below[-1:]


def _bolts(known: Known, a: Assembly) -> Iterable[str]:
    found = set()
    for _, made in known.contributions(a):
        for f in made.fasteners:
            if f.kind is FastenerKind.ROD:
                found.add("anchor rod")
            else:
                found.add("site" if f.field else "shop")
    return found or {"none"}


def _state(known: Known, a: Assembly) -> Iterable[str]:
    return ["marked" if known.mark(a) else "unmarked"]


def _strength(known: Known, a: Assembly) -> Iterable[str]:
    """How the joints at a piece's own ends fare under their loads."""
    found = set()
    for connection in known.shop.connections_at(a.id):
        made = known.shop.design(connection.id) if connection.member == a.id else None
        if made is None or made.state is State.NO_LOAD:
            continue
        if made.unchecked:
            found.add("not checked")
        if made.limits:
            found.add("fails" if made.used > 1.0 else "nearly used" if made.used > NEAR else "holds")
    return found or {"no loads"}


def _grid(known: Known, a: Assembly) -> Iterable[str]:

    return [whereabouts(next(iter(known.job.all(Grid)), None), a)]


_JOINTS = (Connection, Attachment, Member, ShopRules, Project)  # what joints at a piece may hang on
FACTS: dict[str, Asked] = {
    "role": _field("Role", "member.role", tuple(str(r) for r in Role)),
    "section": _field("Section", "member.section", help="W12X26, or begins with W12"),
    "shape": Asked("Shape", _shape, choices=(*_FAMILY.values(), "double angle")),
    "grade": _field("Grade", "main.part.grade"),
    "lot": _field("Lot", "member.lot"),
    "finish": _field("Finish", "main.part.finish"),
    "level": Asked("Level", _level, help="The level a piece is on; a column is on each it passes", reads=(Level,)),
    "place": Asked("Place", _grid, help="By the grid: 2/B, or has A", reads=(Grid,)),
    "mark": Asked("Mark", lambda k, a: (k.mark(a),), reads=(Mark,)),
    "joint": Asked("Connection", lambda k, a: {c.kind for c, _ in k.contributions(a)} or {"none"}, reads=_JOINTS),
    "attachment": Asked(
        "Attachment",
        lambda k, a: {x.kind for x in k.shop.attachments_at(a.id)} or {"none"},
        help="What is fixed along a piece, such as stiffeners",
        reads=_JOINTS,
    ),
    "part": Asked(
        "Part",
        lambda _, a: {p.words for p in a.pieces if not p.main} or {"none"},
        help="What is in a piece beside its own length, such as a shear tab",
        reads=_JOINTS,
    ),
    "part mark": Asked(
        "Part mark",
        lambda k, a: {k.part_marks.get(p.id, "") for p in a.pieces},
        help="Of any of its parts",
        reads=(Mark,),
    ),
    "bolts": Asked("Bolts", _bolts, choices=("site", "shop", "anchor rod", "none"), reads=_JOINTS),
    "held": Asked(
        "Held",
        lambda k, a: [h.question for h in held(k.job).get(a.id, ())] or ("no",),
        help="The question that holds a piece; no: none does",
        reads=(Hold,),
    ),
    "state": Asked("State", _state, choices=("marked", "unmarked"), reads=(Mark,)),
    "findings": Asked(
        "Findings",
        lambda k, a: ("some" if a.id in k.above.found else "none",),
        choices=("some", "none"),
        reads=_JOINTS,
        above=True,
    ),
    "strength": Asked(
        "Strength", _strength, choices=("fails", "not checked", "nearly used", "holds", "no loads"), reads=_JOINTS
    ),
    "sheet": Asked(
        "Sheet",
        lambda k, a: ("sent" if a.id in k.above.sent else "not sent",),
        choices=("sent", "not sent"),
        reads=(Mark, Issue, Drawing),
        above=True,
    ),
    "sheet state": Asked(
        "Sheet state",
        lambda k, a: (k.above.state(a.id),),
        choices=("current", "stale", "not sent"),
        help="Whether a piece's sheet would print as it last went out",
        reads=(Mark, Issue, Drawing, Project, Level, Grid, ShopRules),
        above=True,
    ),
    "worklist": Asked(
        "Worklist",
        lambda k, a: ("on" if a.id in k.above.listed else "off",),
        choices=("on", "off"),
        reads=(Mark, Issue, Drawing),
        above=True,
    ),
    "crane": Asked(
        "Crane",
        lambda k, a: (lifting(a, lift(a, k.job.all(Crane), k.job.all(LayDown))),),
        choices=LIFTING,
        help="Whether a crane on site lifts a piece from where it lies to where it stands",
        reads=(Crane, LayDown),
    ),
    "progress": Asked(
        "Progress",
        lambda k, a: (k.progress.get(a.id) or k.progress.get(k.shop.carried.get(a.id, ""), "not reported"),),
        choices=(*(str(s) for s in Stage), "not reported"),
        help="How far a piece is, as its fabricator says",
        reads=(PieceProgress,),
    ),
    "length": Asked("Cut length", lambda _, a: a.main.part.length, Measure.LENGTH),
    "weight": Asked("Weight", lambda _, a: a.lifted, Measure.WEIGHT, help="With what is bought and fixed to it"),
    "roll": Asked("Roll", lambda _, a: a.member.roll, Measure.COUNT),
    "camber": Asked("Camber", lambda _, a: a.member.camber, Measure.LENGTH),
    "seismic": Asked(
        "Seismic frame",
        lambda _, a: ("yes" if a.member.seismic else "no",),
        choices=("yes", "no"),
        help="Beams and braces that yield in an earthquake",
    ),
    "parts": Asked("Parts", lambda _, a: float(len(a.pieces)), Measure.COUNT),
}

_WORDS = (Relation.IS, Relation.BEGINS, Relation.HAS)
_NUMBERS = (Relation.IS, Relation.OVER, Relation.UNDER)


def relations(fact: str) -> tuple[Relation, ...]:
    """The relations that make sense for a fact."""
    return _NUMBERS if FACTS[fact].measure else _WORDS


def number(measure: Measure, text: str, units: Units) -> float:
    """A typed value in mm, kg or as it stands. Raises JobError."""
    try:
        if measure is Measure.LENGTH:
            return parse_length(text, units)
        match = re.fullmatch(r"(-?\d{1,20}(?:\.\d{1,20})?)\s*(lb|kg|t)?", text.strip())
        if match is None or (match[2] and measure is Measure.COUNT):
            raise UnitError(f"“{text}” is not a {'weight such as 200 lb' if measure is Measure.WEIGHT else 'number'}.")
        usual = ("lb" if units is Units.IMPERIAL else "kg") if measure is Measure.WEIGHT else ""
        return float(match[1]) * {"lb": POUND, "kg": 1.0, "t": 1000.0, "": 1.0}[match[2] or usual]
    except UnitError as error:
        raise JobError(str(error)) from None


def check(rule: Fact, units: Units = Units.IMPERIAL) -> None:
    """Raises JobError where a row asks for a fact nobody knows, in a way that makes no sense, or of no value."""
    asked = FACTS.get(rule.fact)
    if asked is None:
        raise JobError(f"A lens asks for “{rule.fact}”, which is not known; known are {', '.join(FACTS)}.")
    if rule.relation not in relations(rule.fact):
        can = ", ".join(relations(rule.fact))
        raise JobError(f"“{rule.fact}” cannot be asked with “{rule.relation}”; it can with {can}.")
    if asked.measure is not None:
        number(asked.measure, rule.value, units)


class _Said(dict[object, bool]):
    """Whether a word, or one of some, is what a row asks for, worked out once for the same words."""

    def __init__(self, test: Callable[[str], bool]) -> None:
        super().__init__()
        self._test = test

    def __missing__(self, words: object) -> bool:
        some = words if isinstance(words, tuple) else (words,)
        found = self[words] = any(self._test(str(word)) for word in some)
        return found


def meets(rule: Fact, units: Units) -> Callable[[Known, Sequence[Assembly]], list[bool]]:
    """Which of some pieces meet one row; words are compared without regard to case. Raises JobError."""
    check(rule, units)
    asked = FACTS[rule.fact]
    if asked.measure is not None:
        wanted = number(asked.measure, rule.value, units)
        # what is shown is rounded to a sixteenth or a pound: within half of that is the same
        near = {Measure.LENGTH: 0.8, Measure.WEIGHT: 0.25, Measure.COUNT: 0.005}[asked.measure]
        if rule.relation == Relation.OVER:
            least, most = math.nextafter(wanted, math.inf), math.inf
        elif rule.relation == Relation.UNDER:
            least, most = -math.inf, math.nextafter(wanted, -math.inf)
        else:
            least, most = wanted - near, wanted + near
        return lambda known, some: [least <= asked.read(known, a) <= most for a in some]  # type: ignore[operator]
    said, field = _Said(holds(rule)).__getitem__, asked.field
    if field is not None:
        return lambda known, some: list(map(said, map(field, some)))
    return lambda known, some: [said(tuple(asked.read(known, a))) for a in some]  # type: ignore[arg-type]


def holds(rule: Fact) -> Callable[[str], bool]:
    """Whether a word is what a row asks for."""
    value = rule.value.casefold()
    tests: dict[str, Callable[[str], bool]] = {
        Relation.IS: lambda text: text.casefold() == value,
        Relation.BEGINS: lambda text: text.casefold().startswith(value),
        Relation.HAS: lambda text: value in text.casefold(),
    }
    return tests[rule.relation]
