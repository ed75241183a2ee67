"""Sheets of assemblies: one entry a mark."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from msgspec.structs import replace

from uncus.draw.anchors import lies_as, set_aside
from uncus.draw.bracing import on_gussets
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.gathering import bases_of, framing_of, of_assembly, slips, zones_of
from uncus.draw.kept import Standing, entry
from uncus.draw.piece_job import PieceJob
from uncus.draw.preset import preset_for
from uncus.draw.site_work import some_bolts, some_welds
from uncus.job.holds import held_words
from uncus.job.records import Grid, Hold
from uncus.mark.lines import AssemblyLine
from uncus.shop.pieces import Assembly
from uncus.shop.whereabouts import whereabouts
from uncus.steel.forming import laid_flat
from uncus.steel.part import Part

KIND = "assembly"


def entries(of: Needs) -> Iterator[Entry]:
    """Assemblies in the order of their marks."""
    for line in of.lines:
        own = tuple(a.id for a in line.assemblies)
        if line.first.is_bought:  # it comes as it is
            continue
        if of.wanted.isdisjoint(own):
            continue
        standing = of.kept.standing(KIND, own, line.mark)
        members = tuple(m for id in own for m in of.shop.in_piece(id))
        title = f"{line.first.member.role} {line.first.member.section}"
        first = _drawn_from(line, standing)
        job = _job(of, line, first, standing)
        hand = standing.hand if job.aside else job.hand
        yield entry(job, title, KIND, members, own, standing._replace(drawn_from=first.id, hand=hand))


def _job(of: Needs, line: AssemblyLine, first: Assembly, standing: Standing) -> PieceJob:
    project = of.job.project
    role, subject = str(first.member.role), of_assembly(first, of.marks, of.shop, of.job)
    subject = replace(
        subject,
        framing=framing_of(line.assemblies, of.shop, of.marks),
        bracing=on_gussets(line.assemblies, of.shop),
        bases=bases_of(line.assemblies, of.shop),
        zones=zones_of(line.assemblies, of.shop),
    )
    hand, aside = set_aside(standing.hand, subject) if standing.hand is not None else (None, ())
    bolts, welds = some_bolts(line.assemblies), some_welds(line.assemblies)
    grid = next(iter(of.job.all(Grid)), None)
    return PieceJob(
        name=line.mark,
        kind=KIND,
        subject=subject,
        bill=_bill(of, [(of.marks.of_part(p.id), p.part) for p in first.pieces]),
        required=len(line.assemblies),
        role=role,
        places=tuple(dict.fromkeys(whereabouts(grid, a) for a in line.assemblies)),
        holds=tuple(g for g in first.holds if not (g.field and bolts)),
        site_welds=() if welds else first.site_welds,
        some_bolts=bolts,
        some_welds=welds,
        project=project.name,
        number=project.number,
        finish=first.main.part.finish,
        electrode=of.job.rules.electrode,
        slips=slips(first, of.shop),
        work=project.work,
        weld_tests=project.weld_tests,
        units=project.units,
        content="",
        camber=first.member.camber,
        hand=hand,
        aside=aside,
        preset=preset_for(of.presets, KIND, role, hand.preset if hand else ""),
        since=standing.since,
        held=_held(of, line),
    )


def _held(of: Needs, line: AssemblyLine) -> tuple[str, ...]:
    """The questions that hold pieces of a mark, in words, with how many pieces each holds."""
    many: Counter[int] = Counter()
    asked: dict[int, Hold] = {}
    for assembly in line.assemblies:
        own = {h.number: h for id in of.shop.in_piece(assembly.id) for h in of.holds.get(id, ())}
        many.update(own.keys())
        asked |= own
    of_all = len(line.assemblies)
    some = {n: f" ({many[n]} of {of_all})." if many[n] < of_all else "" for n in asked}
    return tuple(held_words(asked[n]) + some[n] for n in sorted(asked))


def _drawn_from(line: AssemblyLine, standing: Standing) -> Assembly:
    """The piece that a sheet is drawn from: the one that it was, as long as that is there; else one that lies as it."""
    own = next((a for a in line.assemblies if a.id == standing.drawn_from), line.first)
    hand = standing.hand
    if hand is None or not hand.anchors or hand.piece == own.id or lies_as(hand, laid_flat(own.main.part)):
        return own
    return next((a for a in line.assemblies if lies_as(hand, laid_flat(a.main.part))), own)


def _bill(of: Needs, parts: list[tuple[str, Part]]) -> tuple[tuple[str, Part, int], ...]:
    """Mark, part and number of each part, in the order they come."""
    counted: dict[str, tuple[Part, int]] = {}
    for mark, part in parts:
        counted[mark] = counted.get(mark, (part, 0))[0], counted.get(mark, (part, 0))[1] + 1
    return tuple((mark, part, n) for mark, (part, n) in counted.items())
