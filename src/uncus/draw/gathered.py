"""Several plates to a sheet: each flat in a cell of its own, at its own scale, with its mark, number and material."""

from __future__ import annotations

import math

import msgspec

from uncus.draw.board import Board
from uncus.draw.border import bill, named, notes, revisions
from uncus.draw.breaks import Shortening
from uncus.draw.notes import note_lines
from uncus.draw.piece_job import PieceJob
from uncus.draw.piece_sheet import SCALES, bill_heads, bill_rows, shifted_frame
from uncus.draw.sheet import Frame, Primitive, Sheet, Spot, Text
from uncus.draw.template import SMALL, fill, template
from uncus.draw.views import Drawn, long_view, told_of
from uncus.job.drawings import Drawing
from uncus.steel.describe import describe
from uncus.units import Units

_CAPTION = 7.0  # mm of a cell's foot for its words


class GatheredJob(msgspec.Struct, frozen=True):
    """Part sheets drawn as one: plain values, no job."""

    name: str
    jobs: tuple[PieceJob, ...]
    content: str
    hand: Drawing | None = None
    since: str = ""
    on: str = ""

    @property
    def units(self) -> Units:
        return self.jobs[0].units


def draw(job: GatheredJob) -> tuple[Sheet, ...]:
    """The sheet; a part that does not fit its cell at any scale raises ValueError with its mark."""
    first = job.jobs[0]
    paper = template(first.preset.paper or SMALL[job.units], first.preset.template)
    x0, y0, x1, y1 = paper.drawing
    across = math.ceil(math.sqrt(len(job.jobs)))
    down = math.ceil(len(job.jobs) / across)
    wide, high = (x1 - x0) / across, (y1 - y0) / down
    board = Board()
    top, left = bill(board, paper.column, bill_heads(job.units), [r for j in job.jobs for r in bill_rows(j)[:1]],
        "lrlrlr", paper.column[1] + 40)  # fmt: skip
    foot = revisions(board, paper.column, job.hand.revisions if job.hand else ()) + 2
    lines = list(dict.fromkeys(line for j in job.jobs for line in note_lines(j)))
    more = notes(board, paper.column, lines, top, foot)
    if left or more:
        raise ValueError(f"{job.name}: {len(job.jobs)} parts are too many for the column of one sheet; gather fewer")
    items: list[Primitive] = []
    spots: list[Spot] = list(board.spots)
    frames: list[Frame] = []
    scales = set()
    for n, one in enumerate(job.jobs):
        scale, drawn = _fitted(one, wide - 4, high - _CAPTION - 4)
        scales.add(scale)
        e = drawn.board.extent()
        cx, cy = x0 + wide * (n % across + 0.5), y1 - high * (n // across + 0.5) + _CAPTION / 2
        dx, dy = cx - (e[0] + e[2]) / 2, cy - (e[1] + e[3]) / 2
        items += drawn.board.moved(dx, dy)
        frames.append(msgspec.structs.replace(shifted_frame(drawn.frame, dx, dy), name=f"{one.name} front"))
        for s in drawn.board.spots_moved(dx, dy):
            spots.append(msgspec.structs.replace(s, key=f"{one.name} {s.key}"))
        part = one.subject.rolled_as or one.subject.main
        words = f"{one.name}   {one.required} REQUIRED   {describe(part, job.units)}   1:{scale:g}"
        board.text(Text(cx, y1 - high * (n // across + 1) + _CAPTION / 2 + 1, words, 2.5, "c", narrow=True))
    values = {
        **named(job.name, job.hand, job.on),
        "project": f"{first.project}   {first.number}",
        "line 1": f"{len(job.jobs)} PARTS",
        "line 3": f"PAINT: {first.finish.upper()}",
        "sheet": "1 OF 1",
        "scale": "AS NOTED",
        "paper": paper.name,
    }
    fill(board, paper, values)
    items = [*board.items, *items]
    return (Sheet(job.name, f"{len(job.jobs)} parts", "part", paper.width, paper.height, max(scales), tuple(items),
        job.content, tuple(spots), tuple(frames)),)  # fmt: skip


def _fitted(one: PieceJob, wide: float, high: float) -> tuple[float, Drawn]:
    """The part's front view at the largest scale that fits a cell."""
    scales = [one.hand.scale] if one.hand and one.hand.scale else SCALES[one.units]
    for scale in scales:
        drawn = long_view(told_of(one.subject, ["front"], one.asked)["front"], scale, Shortening(), one.asked)
        e = drawn.board.extent()
        if e[2] - e[0] <= wide and e[3] - e[1] <= high:
            return float(scale), drawn
    raise ValueError(f"{one.name} does not fit its place among others{' at its scale' if len(scales) == 1 else ''}")
