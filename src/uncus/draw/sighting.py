"""What a view frame sees of a building, made from its steel: pieces with what is said of them, site bolts and welds."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from uncus.connect.kinds import KINDS
from uncus.draw.sights import Spot, lines, placed, shown
from uncus.draw.view_job import Piece, Sight, SiteWeld
from uncus.frame.placement import Placement, Vec
from uncus.job.drawings import Drawing, Issue
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import End, Grid, Level, Member, Role, ViewFrame
from uncus.job.views import BRACES, STICKS, Showing
from uncus.lens.above import Above
from uncus.lens.criteria import lens_named, passes
from uncus.lens.facts import FACTS, Known, Measure
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.steel.joint import FastenerKind, Weld, WeldForm
from uncus.units import Units, format_length, format_weight

_ASLANT = 0.05  # of a brace's length that runs towards or away, from which it lies out of the view's plane
_TOGETHER = 250.0  # mm within which welds alike are told once
Test = Callable[[Assembly], bool]


class Building(NamedTuple):
    """A marked job with its steel: all pieces by their ids, bent ones' points, site bolts and welds in the model."""

    job: Job
    shop: Shop
    marks: Marks
    pieces: tuple[Assembly, ...]
    bent: Mapping[str, Vec]
    known: Known

    @classmethod
    def of(cls, job: Job, shop: Shop, marks: Marks, pieces: Iterable[Assembly]) -> Building:
        everything = tuple(sorted(pieces, key=lambda a: a.id))
        bent: dict[str, Vec] = {}
        for a in everything:
            body = shop.body(a.id)
            if body is not None and body.arc is not None:
                bent[a.id] = body.arc.points()
        return cls(job, shop, marks, everything, bent, Known.of(job, shop, Above()))


def sight(frame: ViewFrame, of: Building) -> Sight:
    """What a frame sees. A lens that cannot be asked is told, and shows all."""
    shows, wrong = frame.shows, list[str]()
    only, standing, heavy = (_lens(text, of, wrong) for text in (shows.only, shows.standing, shows.heavy))
    by_id = {a.id: a for a in of.pieces if only is None or only(a)}
    grid, levels = next(iter(of.job.all(Grid)), None), of.job.all(Level)
    found = []
    for one in shown(frame, (a.member for a in by_id.values()), of.bent):
        if (how := _brace(one.member, shows)) == BRACES[2]:
            continue
        a = by_id[one.member.id]
        piece = Piece(of.marks.of_assembly(a.id), one.member, one.path, tuple(_words(a, shows, of)),
            len(a.studs) if shows.studs else 0, _moments(a, of.shop) if shows.moments else (False, False),
            dashed=how == BRACES[1], standing=standing is not None and standing(a),
            heavy=heavy is not None and heavy(a))  # fmt: skip
        found.append(replace(piece, bodies=tuple(_bodies(a, frame))))
    there = {p.member.id for p in found}
    bolts, welds = _site_work(frame, of, there)
    return Sight(frame, (*found, *_beyond(frame, by_id, of, there)), lines(frame, grid, levels), bolts, welds,
        heavy=shows.heavy, standing=shows.standing, wrong=tuple(wrong))  # fmt: skip


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


def _words(a: Assembly, shows: Showing, of: Building) -> Iterator[str]:
    """What is said of a piece after its size."""
    units = of.job.project.units
    for name in shows.facts:
        fact = FACTS[name]
        value = fact.read(of.known, a)
        if isinstance(value, float):
            if value:
                said = format_weight(value, units) if fact.measure is Measure.WEIGHT else format_length(value, units)
                yield f"c={said}" if name == "camber" else said
        elif said := ", ".join(sorted(map(str, value))):
            yield f"LOT {said}" if name == "lot" else said.upper()


def _moments(a: Assembly, shop: Shop) -> tuple[bool, bool]:
    held = {c.end for c in shop.connections_at(a.id)
        if c.member == a.id and c.kind in KINDS and KINDS[c.kind].protects is not None}  # fmt: skip
    return End.LEFT in held, End.RIGHT in held


def _upright(frame: ViewFrame) -> Placement:
    """From the model to a view with its up along the third axis, as pieces are projected."""
    place = placed(frame)
    axes = np.column_stack([place.x, -place.z, place.y]).T
    return Placement(-axes @ place.origin, axes)


def _bodies(a: Assembly, frame: ViewFrame) -> Iterator[tuple]:  # type: ignore[type-arg]
    if frame.shows.steel == STICKS:
        return
    home = _upright(frame)
    for piece in a.pieces if frame.shows.fixed else a.pieces[:1]:
        yield piece.part, home @ piece.placement


def _beyond(frame: ViewFrame, by_id: Mapping[str, Assembly], of: Building, there: set[str]) -> Iterator[Piece]:
    """Steel behind the box as far as it is asked for."""
    if frame.shows.beyond <= 0.0:
        return
    deeper = replace(frame, behind=frame.behind + frame.shows.beyond)
    for one in shown(deeper, (a.member for id, a in by_id.items() if id not in there), of.bent):
        a = by_id[one.member.id]
        yield Piece("", one.member, one.path, bodies=tuple(_bodies(a, frame)), faint=True)


def _site_work(frame: ViewFrame, of: Building, there: set[str]) -> tuple[tuple[Spot, ...], tuple[SiteWeld, ...]]:
    """Site bolts and welds of the pieces shown, within the box."""
    shows, place = frame.shows, placed(frame)
    low = np.array([-frame.width / 2, -frame.height / 2, -frame.behind])
    high = np.array([frame.width / 2, frame.height / 2, frame.before])
    own = [a for a in of.pieces if a.id in there]

    def within(points: Sequence) -> Vec:  # type: ignore[type-arg]
        local = place.to_local(np.asarray(points, dtype=np.float64))
        return local[((local >= low) & (local <= high)).all(axis=1)][:, :2]

    bolts: set[Spot] = set()
    if shows.bolts:
        groups = (g for a in own for g in a.holds if g.field and g.kind is FastenerKind.BOLT and g.points)
        bolts = {(round(u, 1), round(v, 1)) for g in groups for u, v in within(g.points).tolist()}
    units, welds = of.job.project.units, defaultdict[tuple[str, int, int], list[Spot]](list)
    for weld in (w for a in own for w in a.site_welds) if shows.welds else ():
        for u, v in within([np.mean(weld.path, axis=0)]).tolist():
            key = weld_words(weld, units), round(u / _TOGETHER), round(v / _TOGETHER)
            welds[key].append((round(u, 1), round(v, 1)))
    told = [SiteWeld(spots[0], words + (f" ({len(spots)})" if len(spots) > 1 else ""))
        for (words, _, _), spots in sorted(welds.items())]  # fmt: skip
    return tuple(sorted(bolts)), tuple(told)


def weld_words(weld: Weld, units: Units) -> str:
    """A site weld in words: its size, what it is, and how long it is along one side."""
    if weld.form is WeldForm.GROOVE:
        return f"SITE WELD, COMPLETE PENETRATION x {format_length(weld.length / weld.sides, units)}"
    sides = " BOTH SIDES" if weld.sides == 2 else ""
    return f"SITE WELD {format_length(weld.size, units)} x {format_length(weld.length / weld.sides, units)}{sides}"
