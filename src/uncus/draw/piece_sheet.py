"""The sheet of one assembly or one part: views chosen, scale and shortening found, laid out, billed and titled."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import msgspec

from uncus.draw.blocks import cut_mark, long_view, section_view
from uncus.draw.board import Board
from uncus.draw.border import SMALL, Paper, Title, bill, drawing_area, frame, notes, scale_words
from uncus.draw.breaks import Shortening, shortening
from uncus.draw.sheet import Sheet
from uncus.draw.subject import Subject
from uncus.steel.describe import billed_length, describe, forming_words
from uncus.steel.features import Hole
from uncus.steel.flat import gross_weight, net_weight
from uncus.steel.joint import Fasteners, Weld
from uncus.steel.part import Part
from uncus.units import Units, format_length, format_weight

SCALES = {Units.IMPERIAL: (3, 4, 8, 12, 16, 24, 32, 48, 64, 96), Units.METRIC: (2.5, 5, 10, 15, 20, 25, 50, 100)}
_GAP = 9.0
_DEEPEST = 60.0  # mm of paper a member's depth may take: larger says no more


class PieceJob(msgspec.Struct, frozen=True):
    """All a worker needs to draw one sheet: plain values, no job."""

    name: str
    kind: str  # assembly or part
    subject: Subject
    bill: tuple[tuple[str, Part, int], ...]  # mark, part, number in one piece
    required: int
    role: str
    places: tuple[str, ...]
    holds: tuple[Fasteners, ...]
    site_welds: tuple[Weld, ...]
    project: str
    number: str
    finish: str
    electrode: str
    units: Units
    content: str


def draw(job: PieceJob) -> Sheet:
    """The sheet of a piece."""
    paper = SMALL[job.units]
    scale, blocks = _laid_out(job, paper)
    board = Board()
    x0, y0, x1, y1 = drawing_area(paper)
    placed = _stack(blocks, len(job.subject.views), (x0, y0, x1, y1)) or []
    items = [item for block, dx, dy in placed for item in block.moved(dx, dy)]
    title = Title(job.name, job.project, job.number, _title_lines(job), scale_words(scale, job.units), paper.name)
    frame(board, paper, title)
    under = bill(board, paper, *_bill(job))
    notes(board, paper, _notes(job), under)
    return Sheet(job.name, job.role, job.kind, paper.width, paper.height, scale, (*board.items, *items), job.content)


def _laid_out(job: PieceJob, paper: Paper) -> tuple[float, list[list[Board]]]:
    """The largest scale at which every view fits, and the views in rows."""
    x0, y0, x1, y1 = drawing_area(paper)
    subject = job.subject
    scales = SCALES[job.units]
    chosen: tuple[float, list[list[Board]]] | None = None
    for scale in scales:
        deep = subject.main.width / scale
        if deep > _DEEPEST and scale != scales[-1]:
            continue
        for beside in (64, 94, 124):  # room for the figures beside the views
            short = _shortened(subject, scale, x1 - x0 - beside)
            if short is None and scale != scales[-1]:
                break
            chosen = scale, _blocks(job, scale, short or Shortening())
            if _stack(chosen[1], len(subject.views), (x0, y0, x1, y1)) is not None:
                return chosen
    assert chosen is not None
    return chosen


def _shortened(subject: Subject, scale: float, room: float) -> Shortening | None:
    """Stretches to take out, or None where the member does not fit even so."""
    length = subject.main.length
    events = [f.x for f in subject.main.features if isinstance(f, Hole)]
    for cope in subject.main.copes:
        events.append(length - cope.length if cope.right else cope.length)
    for notch in subject.main.notches if subject.main.section else ():
        events += [min(max(x, 0.0), length) for x, _ in notch.outline]
    for f in subject.fixed:
        near, far = f.box()
        events += [float(near[0]), float(far[0])]
    low, high = subject.main.depth_range
    for cut in (subject.main.left, subject.main.right):
        events += [cut.x(0, low), cut.x(0, high)]
    found = shortening(events, length, scale, room)
    return found if found.u(length) / scale <= room + 1 else None


def _blocks(job: PieceJob, scale: float, short: Shortening) -> list[list[Board]]:
    subject = job.subject
    sections = subject.sections
    done: set[object] = set()
    named = dict.fromkeys(subject.views)
    boards: dict[str, Board] = {}
    for name in sorted(named, key=lambda n: n != "front"):
        boards[name] = long_view(subject, name, scale, short, job.units, done)
    rows = [[boards[name]] for name in named]
    across: list[Board] = []
    letters = iter("ABCDEFGHJKLMNPQRSTUVWXYZ" * 4)
    high = subject.main.depth_range[1] / scale
    for section in sections:
        letter = next(letters)
        across.append(section_view(subject, section, letter, scale, job.units))
        if not section.at_end:
            for x in (section.x, *section.others):
                cut_mark(boards["front"], short.u(x) / scale, high + 1, -high - 1, letter)
    if across:
        rows.append(across)
    return rows


def _stack(
    rows: list[list[Board]], whole: int, area: tuple[float, float, float, float]
) -> list[tuple[Board, float, float]] | None:
    """Rows of boards from the top down, the first `whole` of them views of the whole piece; None where they do not fit."""
    x0, y0, x1, y1 = area
    extents = [[b.extent() for b in row] for row in rows]
    tall = [max(e[3] - e[1] for e in row) for row in extents]
    if sum(tall) + _GAP * (len(rows) - 1) > y1 - y0:
        return None
    # views of the whole piece stand over one another: their left ends (board x = 0) in line
    lefts = [e[0][0] for e in extents[:whole]]
    rights = [e[0][2] for e in extents[:whole]]
    if max(rights) - min(lefts) > x1 - x0:
        return None
    origin = x0 + (x1 - x0 - max(rights) + min(lefts)) / 2 - min(lefts)
    spare = (y1 - y0 - sum(tall) - _GAP * (len(rows) - 1)) / (len(rows) + 1)
    placed = []
    y = y1 - min(spare, 25)
    for number, (row, row_extents, height) in enumerate(zip(rows, extents, tall, strict=True)):
        wide = sum(e[2] - e[0] for e in row_extents) + _GAP * (len(row) - 1)
        if wide > x1 - x0:
            return None
        x = origin + row_extents[0][0] if number < whole else x0 + (x1 - x0 - wide) / 2
        for board, e in zip(row, row_extents, strict=True):
            placed.append((board, x - e[0], y - e[3]))
            x += e[2] - e[0] + _GAP
        y -= height + _GAP + min(spare, 25)
    return placed


def _title_lines(job: PieceJob) -> tuple[str, ...]:
    each = sum(gross_weight(p) * n for _, p, n in job.bill)
    net = sum(net_weight(p) * n for _, p, n in job.bill)
    units = job.units
    places = ", ".join(job.places[:4]) + (f" and {len(job.places) - 4} more" if len(job.places) > 4 else "")
    lines = [
        f"{job.required} REQUIRED   {format_weight(each, units)} EACH (GROSS), {format_weight(net, units)} NET",
        f"{job.role.upper()}   {job.bill[0][1].grade}",
        f"PAINT: {job.finish.upper()}",
    ]
    if places:
        lines.append(f"AT: {places}")
    return tuple(lines)


def _bill(job: PieceJob) -> tuple[Sequence[str], list[Sequence[str]], str]:
    units = job.units
    heads = ("MARK", "NO", "DESCRIPTION", "LENGTH", "GRADE", "LB" if units is Units.IMPERIAL else "KG")
    rows: list[Sequence[str]] = []
    total = 0.0
    for mark, part, number in job.bill:
        weight = gross_weight(part) * number
        total += weight
        shown = format_weight(weight, units).split()[0]
        rows.append(
            (mark, str(number), describe(part, units), format_length(billed_length(part), units), part.grade, shown)
        )
    if len(job.bill) > 1:
        rows.append(("", "", "", "", "total", format_weight(total, units).split()[0]))
    return heads, rows, "lrlrlr"


def _notes(job: PieceJob) -> list[str]:
    units = job.units
    holes = Counter(
        round(h.d, 2) for part_mark, part, n in job.bill for h in part.holes if not h.slot for _ in range(n)
    )
    lines = []
    if holes:
        common, _ = holes.most_common(1)[0]
        lines.append(f"HOLES {format_length(common, units)} DIA. UNLESS NOTED.")
        lines += [
            f"{n} HOLES {format_length(d, units)} DIA. IN {_where(job, d)}."
            for d, n in sorted(holes.items())
            if d != common
        ]
    slots = Counter(
        (round(h.d, 2), round(h.slot, 2)) for _, part, n in job.bill for h in part.holes if h.slot for _ in range(n)
    )
    lines += [
        f"{n} SLOTS {format_length(d, units)} x {format_length(s, units)}." for (d, s), n in sorted(slots.items())
    ]
    if any(f.weld for f in job.subject.fixed):
        lines.append(f"WELDS {job.electrode}XX FILLET, AS SYMBOLS.")
    bolts: Counter[tuple[str, str]] = Counter()
    for group in job.holds:
        words = f"{group.kind.upper()}S" if group.kind == "bolt" else "ANCHOR RODS"
        where = "SITE" if group.field else "SHOP"
        size = f"{group.size} {group.grade} x {format_length(group.length, units)}"
        bolts[(where, f"{words} {size}")] += len(group.points)
    lines += [f"{where}: {n} {words}." for (where, words), n in sorted(bolts.items())]
    for size in sorted({format_length(w.size, units) for w in job.site_welds}):
        lines.append(f"SITE WELDS {size} FILLET BOTH SIDES OF TABS, {job.electrode}XX.")
    radii = {round(c.radius, 1) for c in job.subject.main.copes}
    lines += [f"COPE RADIUS {format_length(r, units)}." for r in sorted(radii)]
    lines += [f"{mark}: {words}." for mark, part, _ in job.bill for words in forming_words(part, units)]
    if job.subject.main.section is not None:
        lines.append("LEFT END OF THE SHEET IS THE PIECE'S LEFT END.")
    return lines


def _where(job: PieceJob, d: float) -> str:
    marks = [mark for mark, part, _ in job.bill if any(abs(h.d - d) < 0.02 for h in part.holes)]
    return ", ".join(dict.fromkeys(marks))
