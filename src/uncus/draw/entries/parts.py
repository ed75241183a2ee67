"""Sheets of parts: one entry a mark of what is made in the shop."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from uncus.draw.anchors import lies_as, set_aside
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.kept import Standing, entry
from uncus.draw.piece_job import PieceJob
from uncus.draw.preset import preset_for
from uncus.draw.subject import of_part
from uncus.mark.lines import PartLine, part_lines
from uncus.mark.marking import Marks
from uncus.shop.pieces import Piece
from uncus.steel.forming import laid_flat

KIND = "part"


def entries(of: Needs) -> Iterator[Entry]:
    """Parts in the order of their marks; what is bought as it is has no sheet."""
    project = of.job.project
    for line in part_lines([a for owners in of.lines for a in owners.assemblies], of.marks):
        piece = line.first
        if piece.part.item is not None or of.wanted.isdisjoint(p.owner for p in line.pieces):
            continue
        own = tuple(p.id for p in line.pieces)
        standing = of.kept.standing(KIND, own, line.mark)
        piece = _drawn_from(line, standing)
        subject = of_part(piece.part)
        hand, aside = set_aside(standing.hand, subject) if standing.hand is not None else (None, ())
        job = PieceJob(
            name=line.mark,
            kind=KIND,
            subject=subject,
            bill=((line.mark, piece.part, 1),),
            required=len(line.pieces),
            role=piece.words,
            places=_on(line.pieces, of.marks),
            holds=(),
            site_welds=(),
            project=project.name,
            number=project.number,
            finish=piece.part.finish,
            electrode=of.job.rules.electrode,
            work=project.work,
            units=project.units,
            content="",
            hand=hand,
            aside=aside,
            preset=preset_for(of.presets, KIND, piece.words, hand.preset if hand else ""),
            since=standing.since,
        )
        standing = standing._replace(hand=standing.hand if aside else hand)
        yield entry(job, piece.words, KIND, tuple(dict.fromkeys(p.owner for p in line.pieces)), own, standing)


def _drawn_from(line: PartLine, standing: Standing) -> Piece:
    """The first, or one that lies as the one that the sheet was edited on."""
    hand = standing.hand
    if hand is None or not hand.anchors or lies_as(hand, laid_flat(line.first.part)):
        return line.first
    return next((p for p in line.pieces if lies_as(hand, laid_flat(p.part))), line.first)


def _on(pieces: Iterable[Piece], marks: Marks) -> tuple[str, ...]:
    """The assemblies a part goes into."""
    counts = Counter(marks.of_assembly(p.owner) for p in pieces)
    return tuple(f"{n} on {mark}" for mark, n in counts.items())
