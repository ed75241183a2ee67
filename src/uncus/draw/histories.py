"""A sheet has a life of its own: what was done to it by hand and what was sent of it are found again by its mark and
its pieces, whatever becomes of the piece that they were kept by; what was sent is never lost."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

import msgspec

from uncus.job.job import Job
from uncus.job.records import Drawing, Issue
from uncus.mark.lines import AssemblyLine, part_lines
from uncus.mark.marking import Marks


class Place(msgspec.Struct, frozen=True):
    """A sheet that there is now: its kind, its name and the pieces it shows."""

    kind: str
    name: str
    own: tuple[str, ...]


class History(msgspec.Struct, frozen=True, eq=False):
    """What is kept of one sheet, by the piece it was first kept by; `known`: its other pieces were noted as well. A
    sheet that was sent before copies were kept has neither kind nor piece, only its name."""

    kind: str
    piece: str
    sheet: str
    pieces: frozenset[str]
    known: bool
    drawing: Drawing | None
    issues: tuple[Issue, ...]

    @property
    def issue(self) -> Issue | None:
        return self.issues[-1] if self.issues else None


def kept(job: Job) -> list[History]:
    """Everything that is kept of sheets, in an order that hangs on nothing but what it is."""
    drawings = {(d.kind, d.piece): d for d in job.all(Drawing)}
    issues: dict[tuple[str, str], list[Issue]] = defaultdict(list)
    found = []
    for one in sorted(job.all(Issue), key=lambda i: (i.number, i.on)):
        if one.kind:
            issues[(one.kind, one.piece)].append(one)
        else:
            found.append(History("", "", one.sheet, frozenset(), False, None, (one,)))
    for kind, piece in sorted(drawings.keys() | issues.keys()):
        drawing, sent = drawings.get((kind, piece)), tuple(issues.get((kind, piece), ()))
        last = sent[-1] if sent else None
        noted = {*(drawing.pieces if drawing else ()), *(last.pieces if last else ())}
        sheet = last.sheet if last else drawing.sheet if drawing else ""
        found.append(History(kind, piece, sheet, frozenset(noted | {piece}), bool(noted), drawing, sent))
    return found


def matched(histories: Sequence[History], places: Iterable[Place]) -> dict[tuple[str, str], History]:
    """The history of each sheet, by kind and name. A sheet keeps the one of its name that shares a piece with it;
    else the one that shares the most; one whose pieces are all gone goes on with what is drawn anew under its name.
    Each goes to one sheet."""
    by_piece: dict[tuple[str, str], list[Place]] = defaultdict(list)
    by_name: dict[tuple[str, str], Place] = {}
    named: dict[str, Place] = {}
    for place in places:
        by_name[(place.kind, place.name)] = named[place.name] = place
        for piece in place.own:
            by_piece[(place.kind, piece)].append(place)
    claims: list[tuple[bool, int, str, str, History, Place]] = []
    for h in histories:
        if not h.kind and h.sheet in named:
            claims.append((True, 0, h.sheet, "", h, named[h.sheet]))  # after all that are known better
        shared: dict[str, int] = defaultdict(int)
        for piece in h.pieces:
            for place in by_piece.get((h.kind, piece), ()):
                shared[place.name] += 1
        if (h.kind, h.sheet) in by_name and (not shared or not h.known):
            shared[h.sheet] += 1
        for name, share in shared.items():
            claims.append((name != h.sheet, -share, h.sheet, h.piece, h, by_name[(h.kind, name)]))
    given: dict[tuple[str, str], History] = {}
    settled: set[tuple[str, str, str]] = set()
    for *_, h, place in sorted(claims, key=lambda c: (*c[:4], c[5].name)):
        at, own = (place.kind, place.name), (h.kind, h.piece, h.sheet if not h.kind else "")
        if at not in given and own not in settled:
            given[at] = h
            settled.add(own)
    return given


def current(job: Job, marks: Marks, lines: Sequence[AssemblyLine]) -> dict[tuple[str, str], History]:
    """The histories of all sheets of assemblies and of parts, by kind and mark."""
    histories = kept(job)
    return matched(histories, _places(marks, lines)) if histories else {}


def _places(marks: Marks, lines: Sequence[AssemblyLine]) -> list[Place]:
    """Every sheet that a job has of assemblies, by mark, and of their parts."""
    found = [Place("assembly", line.mark, tuple(a.id for a in line.assemblies)) for line in lines]
    parts = part_lines([a for line in lines for a in line.assemblies], marks)
    return found + [Place("part", line.mark, tuple(p.id for p in line.pieces)) for line in parts]
