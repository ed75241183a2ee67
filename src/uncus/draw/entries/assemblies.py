"""Sheets of assemblies: one entry a mark."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.gathering import of_assembly
from uncus.draw.kept import Standing, entry
from uncus.draw.piece_job import PieceJob
from uncus.draw.preset import preset_for
from uncus.job.records import Grid
from uncus.mark.lines import AssemblyLine
from uncus.shop.whereabouts import whereabouts
from uncus.steel.part import Part

KIND = "assembly"


def entries(of: Needs) -> Iterator[Entry]:
    """Assemblies in the order of their marks."""
    for line in of.lines:
        own = tuple(a.id for a in line.assemblies)
        if of.wanted.isdisjoint(own):
            continue
        standing = of.kept.standing(KIND, own, line.mark)
        members = tuple(m for id in own for m in of.shop.in_piece(id))
        title = f"{line.first.member.role} {line.first.member.section}"
        yield entry(_job(of, line, standing), title, KIND, members, own, standing)


def _job(of: Needs, line: AssemblyLine, standing: Standing) -> PieceJob:
    project = of.job.project
    first = next((a for a in line.assemblies if a.id == standing.drawn_from), line.first)
    role, hand = str(first.member.role), standing.hand
    grid = next(iter(of.job.all(Grid)), None)
    return PieceJob(
        name=line.mark,
        kind=KIND,
        subject=of_assembly(first, of.marks, of.shop, of.job),
        bill=_bill(of, [(of.marks.of_part(p.id), p.part) for p in first.pieces]),
        required=len(line.assemblies),
        role=role,
        places=tuple(dict.fromkeys(whereabouts(grid, a) for a in line.assemblies)),
        holds=first.holds,
        site_welds=first.site_welds,
        project=project.name,
        number=project.number,
        finish=first.main.part.finish,
        electrode=of.job.rules.electrode,
        units=project.units,
        content="",
        camber=first.member.camber,
        hand=hand,
        preset=preset_for(of.presets, KIND, role, hand.preset if hand else ""),
        since=standing.since,
    )


def _bill(of: Needs, parts: list[tuple[str, Part]]) -> tuple[tuple[str, Part, int], ...]:
    """Mark, part and number of each part, in the order they come."""
    counted: dict[str, tuple[Part, int]] = {}
    for mark, part in parts:
        counted[mark] = counted.get(mark, (part, 0))[0], counted.get(mark, (part, 0))[1] + 1
    return tuple((mark, part, n) for mark, (part, n) in counted.items())
