"""What a view frame sees of a building, made from its steel: pieces with what is said of them, site bolts and welds."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from uncus.connect.kinds import KINDS
from uncus.draw.sights import Spot, lines, placed, shown
from uncus.draw.view_job import Piece, Sight, SiteWeld
from uncus.frame.placement import Placement, Vec, point_of
from uncus.job.drawings import Drawing, Issue
from uncus.job.errors import JobError
from uncus.job.forms import fields
from uncus.job.job import Job
from uncus.job.records import End, Grid, Level, Member, Point, Role, ViewFrame
from uncus.job.views import BRACES, STICKS, Showing
from uncus.lens.above import Above
from uncus.lens.criteria import lens_named, passes
from uncus.lens.facts import FACTS, Known, Measure
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.steel.joint import FastenerKind, Fasteners, Weld, WeldForm
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh
from uncus.units import Units, format_length, format_weight

_ASLANT = 0.05  # of a brace's length that runs towards or away, from which it lies out of the view's plane
_MANY = 8  # places of bolts that are not the usual, more than which are said in the notes alone
_NAMED = 8  # marks that such a note names
_TOGETHER = 250.0  # mm within which welds, or bolts, alike are told once
Test = Callable[[Assembly], bool]


class Building(NamedTuple):
    """A marked job with its steel: all pieces by their ids, bent ones' points, site bolts and welds in the model."""

    job: Job
    shop: Shop
    marks: Marks
    pieces: tuple[Assembly, ...]
    bent: Mapping[str, Vec]
    known: Known
    usual_bolt: str  # size and grade that most of the site bolts are of; "" where there are none

    @classmethod
    def of(cls, job: Job, shop: Shop, marks: Marks, pieces: Iterable[Assembly]) -> Building:
        everything = tuple(sorted(pieces, key=lambda a: a.id))
        bent: dict[str, Vec] = {}
        for a in everything:
            body = shop.body(a.id)
            if body is not None and body.arc is not None:
                bent[a.id] = body.arc.points()
        sizes = Counter[str]()
        for group in (g for a in everything for g in a.holds if g.field and g.kind is FastenerKind.BOLT):
            sizes[f"{group.size} {group.grade}"] += len(group.points)
        usual = max(sizes, key=lambda kind: (sizes[kind], kind), default="")
        return cls(job, shop, marks, everything, bent, Known.of(job, shop, Above()), usual)


def sight(frame: ViewFrame, of: Building) -> Sight:
    """What a frame sees. A lens that cannot be asked is told, and shows all."""
    shows, wrong = frame.shows, list[str]()
    lenses = shows.only, shows.standing, shows.heavy, shows.other
    only, standing, heavy, other = (_lens(text, of, wrong) for text in lenses)
    facts = [name for name in shows.facts if _can_be_said(name, wrong)]
    by_id = {a.id: a for a in of.pieces if only is None or only(a)}
    grid, levels = next(iter(of.job.all(Grid)), None), of.job.all(Level)
    found = []
    for one in shown(frame, (a.member for a in by_id.values()), of.bent):
        if (how := _brace(one.member, shows)) == BRACES[2]:
            continue
        a = by_id[one.member.id]
        way = shows.other_steel if other is not None and other(a) else shows.steel
        moments = _moments(a, of.shop) if shows.moments else (False, False)
        piece = Piece(of.marks.of_assembly(a.id), one.member, one.path, tuple(_words(a, facts, of)),
            len(a.studs) if shows.studs else 0, moments, dashed=how == BRACES[1], way=way,
            standing=standing is not None and standing(a), heavy=heavy is not None and heavy(a),
            tabs=_tabs(a, frame, of) if shows.tabs else (0, 0))  # fmt: skip
        found.append(replace(piece, bodies=tuple(_bodies(a, frame, way))))
    there = {p.member.id for p in found}
    own = [a for a in of.pieces if a.id in there]
    bolts = _dots(frame, own, lambda g: shows.bolts and g.field)
    shop = _dots(frame, own, lambda g: shows.shop and not g.field)
    odd = _odd_bolts(frame, of, own) if shows.odd else []
    return Sight(frame, (*found, *_beyond(frame, by_id, of, there)), lines(frame, grid, levels), bolts, shop,
        tuple(_told_on_site(frame, of, own, odd if len(odd) <= _MANY else [])),
        heavy=shows.heavy, standing=shows.standing, wrong=tuple(wrong),
        notes=tuple(_of_bolts(frame, of, odd)))  # fmt: skip


def _lens(text: str, of: Building, wrong: list[str]) -> Test | None:
    if not text.strip():
        return None
    try:
        return passes(lens_named(of.job, text).rule, of.job, of.shop, before=(Drawing, Issue))
    except JobError as error:
        wrong.append(str(error))
        return None


def _brace(m: Member, shows: Showing) -> str:
    """How a member is shown: as a brace that lies out of the view's plane, or in full."""
    way = np.subtract(m.end, m.start)
    if m.role is not Role.BRACE or abs(float(way[2])) < _ASLANT * float(np.linalg.norm(way)):
        return BRACES[0]
    return shows.braces


def _can_be_said(name: str, wrong: list[str]) -> bool:
    """Whether lenses know a fact, and it is none that hangs on drawings themselves."""
    if name in FACTS and not FACTS[name].above:
        return True
    can = ", ".join(name for name, fact in FACTS.items() if not fact.above)
    wrong.append(f"It cannot say “{name}” of pieces; it can say {can}.")
    return False


def _words(a: Assembly, facts: Sequence[str], of: Building) -> Iterator[str]:
    """What is said of a piece after its size."""
    units = of.job.project.units
    for name in facts:
        fact = FACTS[name]
        value = fact.read(of.known, a)
        if isinstance(value, float):
            if value:
                said = _figure(value, fact.measure, units)
                yield f"c={said}" if name == "camber" else said
        elif said := ", ".join(sorted(map(str, value))):
            yield f"LOT {said}" if name == "lot" else said.upper()


def _figure(value: float, measure: Measure | None, units: Units) -> str:
    if measure is Measure.WEIGHT:
        return format_weight(value, units)
    return format_length(value, units) if measure is Measure.LENGTH else f"{value:g}"


def _tabs(a: Assembly, frame: ViewFrame, of: Building) -> tuple[int, int]:
    """On which side of a piece's line in the view the tabs at its ends stand: 1 at the left hand of who looks along it
    from its left end, -1 at the right."""
    place, m = placed(frame), a.member
    start, end = place.to_local(np.array([m.start, m.end]))[:, :2]
    run, found = end - start, {End.LEFT: 0, End.RIGHT: 0}
    long = float(np.hypot(*run))
    for c in of.shop.connections_at(a.id) if long > 1.0 else ():
        if c.member != a.id or c.kind not in KINDS or "side" not in fields(KINDS[c.kind].params):
            continue
        for piece in of.shop.made_by(c.id)[0]:
            if piece.part.is_plate:
                box = plain_mesh(piece.part).points
                off = place.to_local(piece.placement.to_model((box.min(axis=0) + box.max(axis=0)) / 2))[:2] - start
                aside = float(run[0] * off[1] - run[1] * off[0]) / long
                if abs(aside) > 1.0:
                    found[c.end] = 1 if aside > 0 else -1
                break
    return found[End.LEFT], found[End.RIGHT]


def _moments(a: Assembly, shop: Shop) -> tuple[bool, bool]:
    held = {c.end for c in shop.connections_at(a.id)
        if c.member == a.id and c.kind in KINDS and KINDS[c.kind].protects is not None}  # fmt: skip
    return End.LEFT in held, End.RIGHT in held


def _upright(frame: ViewFrame) -> Placement:
    """From the model to a view with its up along the third axis, as pieces are projected."""
    place = placed(frame)
    axes = np.column_stack([place.x, -place.z, place.y]).T
    return Placement(-axes @ place.origin, axes)


def _bodies(a: Assembly, frame: ViewFrame, way: str) -> Iterator[tuple[Part, Placement]]:
    if way == STICKS:
        return
    home = _upright(frame)
    for n, piece in enumerate(a.pieces):
        if frame.shows.main if n == 0 else frame.shows.fixed:
            yield piece.part, home @ piece.placement


def _beyond(frame: ViewFrame, by_id: Mapping[str, Assembly], of: Building, there: set[str]) -> Iterator[Piece]:
    """Steel behind the box as far as it is asked for."""
    if frame.shows.beyond <= 0.0:
        return
    deeper = replace(frame, behind=frame.behind + frame.shows.beyond)
    for one in shown(deeper, (a.member for id, a in by_id.items() if id not in there), of.bent):
        a = by_id[one.member.id]
        yield Piece("", one.member, one.path, bodies=tuple(_bodies(a, frame, frame.shows.steel)), faint=True,
            way=frame.shows.steel)  # fmt: skip


def _within(frame: ViewFrame, points: Sequence[Point]) -> list[Spot]:
    """Points as a view sees them, of those that lie in its box."""
    low = np.array([-frame.width / 2, -frame.height / 2, -frame.behind])
    high = np.array([frame.width / 2, frame.height / 2, frame.before])
    local = placed(frame).to_local(np.asarray(points, dtype=np.float64))
    found = local[((local >= low) & (local <= high)).all(axis=1)][:, :2].tolist()
    return [(round(u, 1), round(v, 1)) for u, v in found]


def _dots(frame: ViewFrame, own: Sequence[Assembly], wanted: Callable[[Fasteners], bool]) -> tuple[Spot, ...]:
    """Where bolts of some pieces are."""
    groups = (g for a in own for g in a.holds if g.kind is FastenerKind.BOLT and g.points and wanted(g))
    return tuple(sorted({spot for g in groups for spot in _within(frame, g.points)}))


class _Odd(NamedTuple):
    """Site bolts of a kind that is not the usual, those of one place: how many, and the mark of their piece."""

    at: Spot
    kind: str
    number: int
    mark: str


def _odd_bolts(frame: ViewFrame, of: Building, own: Sequence[Assembly]) -> list[_Odd]:
    found: dict[tuple[str, int, int], _Odd] = {}
    for a, group in ((one, g) for one in own for g in one.holds):
        if not group.field or group.kind is not FastenerKind.BOLT or not group.points:
            continue
        kind = f"{group.size} {group.grade}"
        for at in _within(frame, [point_of(np.mean(group.points, axis=0))]) if kind != of.usual_bolt else ():
            key = kind, round(at[0] / _TOGETHER), round(at[1] / _TOGETHER)
            there = found.get(key, _Odd(at, kind, 0, of.marks.of_assembly(a.id)))
            found[key] = there._replace(number=there.number + len(group.points))
    return sorted(found.values())


def _of_bolts(frame: ViewFrame, of: Building, odd: Sequence[_Odd]) -> Iterator[str]:
    """What the sheet says of site bolts: which are the usual, and of others that are at many places whose they are."""
    if of.usual_bolt and (odd or frame.shows.bolts):
        yield f"SITE BOLTS ARE {of.usual_bolt} UNLESS NOTED."
    kinds = sorted({one.kind for one in odd}) if len(odd) > _MANY else ()
    for kind in kinds:
        some = [one for one in odd if one.kind == kind]
        marks = sorted({one.mark for one in some}, key=natural)
        more = f" AND {len(marks) - _NAMED} MORE" if len(marks) > _NAMED else ""
        yield f"{sum(one.number for one in some)} SITE BOLTS ARE {kind}: AT {', '.join(marks[:_NAMED])}{more}."


def _told_on_site(frame: ViewFrame, of: Building, own: Sequence[Assembly], odd: Sequence[_Odd]) -> Iterator[SiteWeld]:
    """Site welds, those alike next to one another once, and bolts that are not the usual."""
    units, found = of.job.project.units, defaultdict[tuple[str, int, int], list[Spot]](list)
    for weld in (w for a in own for w in a.site_welds) if frame.shows.welds else ():
        for u, v in _within(frame, [point_of(np.mean(weld.path, axis=0))]):
            found[weld_words(weld, units), round(u / _TOGETHER), round(v / _TOGETHER)].append((u, v))
    for (words, _, _), spots in sorted(found.items()):
        yield SiteWeld(spots[0], words + (f" ({len(spots)})" if len(spots) > 1 else ""))
    for one in odd:
        yield SiteWeld(one.at, f"{one.number} - {one.kind}")


def weld_words(weld: Weld, units: Units) -> str:
    """A site weld in words: its size, what it is, and how long it is along one side."""
    if weld.form is WeldForm.GROOVE:
        return f"SITE WELD, COMPLETE PENETRATION x {format_length(weld.length / weld.sides, units)}"
    sides = " BOTH SIDES" if weld.sides == 2 else ""
    return f"SITE WELD {format_length(weld.size, units)} x {format_length(weld.length / weld.sides, units)}{sides}"
