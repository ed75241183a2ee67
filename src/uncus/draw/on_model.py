"""The dimensions of a piece's own sheet, set on the piece in the model: the same rules, the same figures."""

from __future__ import annotations

from collections import defaultdict
from typing import NamedTuple

from uncus.draw.anchors import set_aside
from uncus.draw.annotation import Chain
from uncus.draw.by_hand import applied
from uncus.draw.gathering import of_assembly
from uncus.draw.kept import hands_of
from uncus.draw.legs import Leg, legs_of
from uncus.draw.preset import preset_for
from uncus.draw.rules import Sayings
from uncus.draw.seen import Seen
from uncus.draw.subject import Subject, of_part
from uncus.draw.views import in_view, points_of
from uncus.frame.placement import point_of
from uncus.job.job import Job
from uncus.job.records import Drawing, Point, SheetPreset
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel.forming import formed
from uncus.units import chain, format_length

_FIRST, _NEXT = 90.0, 75.0  # mm from the steel to the first line, and from one to the next


class Mark3(NamedTuple):
    """A dimension in the model: its line, the extension lines at its ends, its figure at `at`."""

    line: tuple[Point, Point]
    feet: tuple[tuple[Point, Point], ...]
    words: str
    at: Point


def dimensions_on(assembly: Assembly, job: Job, shop: Shop, marks: Marks) -> list[Mark3]:
    """Chains of the piece's front, top and bottom views, with what was done to them by hand on the sheet."""
    hand = hands_of(job, shop, marks).get(("assembly", marks.of_assembly(assembly.id)))
    subject, role = of_assembly(assembly, marks, shop, job), str(assembly.member.role)
    hand = set_aside(hand, subject)[0] if hand is not None else None
    legs = legs_of(subject, marks.of_part(assembly.main.id))
    if not legs:
        return _of_sheet(subject, assembly.main, job, hand, "assembly", role)
    pieces = {p.id: p for p in assembly.pieces[1:]}
    return [m for leg in legs for m in
        _of_sheet(leg.subject, pieces.get(leg.id, assembly.main), job, hand, "assembly", role, leg)]  # fmt: skip


def part_dimensions_on(assembly: Assembly, job: Job, shop: Shop, marks: Marks) -> list[Mark3]:
    """The same of the sheets of its parts, of each mark on the first of it; what is bought has no sheet."""
    found: list[Mark3] = []
    hands, shown = hands_of(job, shop, marks), set[str]()
    for piece in assembly.pieces:
        mark = marks.of_part(piece.id)
        if piece.part.item is not None or (mark and mark in shown):
            continue
        shown.add(mark)
        subject, hand = of_part(piece.part), hands.get(("part", mark))
        hand = set_aside(hand, subject)[0] if hand is not None else None
        found += _of_sheet(subject, piece, job, hand, "part", piece.words)
    return found


def _of_sheet(
    subject: Subject, piece: Piece, job: Job, hand: Drawing | None, kind: str, role: str, leg: Leg | None = None
) -> list[Mark3]:
    """The chains of one sheet, or of a leg on it, on the piece that is the main one of it."""
    if subject.stood is not None:
        return []  # its views are of the whole as it stands, not of one part laid flat
    edited = hand.edits if hand is not None else ()
    preset = preset_for(job.all(SheetPreset), kind, role, hand.preset if hand else "")
    sayings = Sayings()
    found: list[Mark3] = []
    for name in sorted(subject.views, key=lambda n: n != "front"):
        seen = Seen(subject, name, job.project.units, preset)
        named = leg.named(name) if leg is not None else ""
        edits = [e for e in edited if e.key.partition("|")[0] == (named or name)]
        kept = applied([in_view(one, named) for one in sayings.of(seen)], edits, points_of(seen)).annotations
        found += _of_view(seen, [a for a in kept if isinstance(a, Chain)], piece)
    return found


def _of_view(seen: Seen, chains: list[Chain], piece: Piece) -> list[Mark3]:
    part, place = piece.part, piece.placement
    (low, high), near = seen.main.depth_range, seen.main.y_range[0]

    def model(u: float, v: float) -> Point:
        local = {"front": (u, near, v), "top": (u, v, high), "bottom": (u, -v, low)}[seen.name]
        return point_of(place.to_model(formed(part, [local]))[0])

    edges = {"below": seen.low, "above": seen.high, "left": min(0.0, seen.left), "right": seen.right}
    lanes: dict[str, int] = defaultdict(int)
    found = []
    for one in sorted(chains, key=lambda c: c.rank):
        way = -1.0 if one.side in ("below", "left") else 1.0
        line = edges[one.side] + way * (_FIRST + _NEXT * lanes[one.side])
        lanes[one.side] += 1
        along = one.along_u

        def at(s: float, across: float, along: bool = along) -> Point:
            return model(s, across) if along else model(across, s)

        start, stops = one.stops[0], one.stops[1:]
        sizes = chain(one.places, seen.units)
        for n, stop in enumerate(stops):
            a = start.at if one.how == "running" else one.stops[n].at
            value = abs(stop.at - start.at) if one.how == "running" else sizes[n]
            feet = tuple((at(s, edges[one.side]), at(s, line)) for s in (a, stop.at))
            middle = at(stop.at, line + way * 25) if one.how == "running" else at((a + stop.at) / 2, line)
            found.append(Mark3((at(a, line), at(stop.at, line)), feet, one.words + format_length(value, seen.units),
                middle))  # fmt: skip
    return found
