"""The sheets of one assembly or one part: views chosen, scale and shortening found, laid out, billed and titled."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property

import msgspec
import numpy as np

from uncus.draw.annotation import Annotation, Cut, Note
from uncus.draw.as_formed import formed_views
from uncus.draw.as_stood import stood_views
from uncus.draw.blocks import Block, packed
from uncus.draw.board import Board, shifted, united
from uncus.draw.border import bill, named, notes, revisions, scale_words
from uncus.draw.breaks import Shortening, shortening
from uncus.draw.by_hand import said, view_of
from uncus.draw.fans import fans
from uncus.draw.legs import Leg, legs_of, plan_view
from uncus.draw.lettering import Box
from uncus.draw.notes import note_lines
from uncus.draw.piece_job import PieceJob
from uncus.draw.projection import project
from uncus.draw.sheet import Frame, Primitive, Sheet, Spot, Text
from uncus.draw.subject import Fixed, Section, Subject
from uncus.draw.template import SMALL, Template, fill, template
from uncus.draw.views import FAN, Drawn, Told, fan_view, long_view, section_view, told_of
from uncus.steel.describe import billed_length, describe
from uncus.steel.features import Hole
from uncus.steel.flat import gross_weight, net_weight
from uncus.units import Units, format_length, format_weight

SCALES = {
    Units.IMPERIAL: (3, 4, 6, 8, 12, 16, 24, 32, 48, 64, 96),
    Units.METRIC: (2.5, 5, 7.5, 10, 15, 20, 25, 30, 40, 50, 75, 100),
}
_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"
# the largest of the scales of legs, and the least on many sheets
_OF_LEGS = {Units.IMPERIAL: (12, 32), Units.METRIC: (10, 30)}
_GAP = 9.0
_DEEPEST = 60.0  # mm of paper a member's depth may take: larger says no more
_WHOLE = 50.0  # mm apart, events that keep a stretch from being taken out
_PITCH = 2.0  # mm of paper between two rows of holes, or they cannot be told apart
_BESIDE = (64, 94, 124, 160)  # mm of room for the figures beside the views
_FIGURES = 15.0  # mm that the figures of a view take at least, beside it and under it
_SCARCE = 40  # mm of it that may do for a piece which cannot be made shorter


class _Page(msgspec.Struct):
    """Views of one sheet, each with its place."""

    placed: list[tuple[Drawn, float, float]]


def draw(job: PieceJob) -> Sheet:
    """A piece's first sheet, which most have alone."""
    return draw_all(job)[0]


def draw_all(job: PieceJob) -> tuple[Sheet, ...]:
    """The sheets of a piece: one, or as many as its views, bill and notes need."""
    paper = template(job.preset.paper or SMALL[job.units], job.preset.template)
    legs = legs_of(job.subject, job.bill[0][0])
    scale, pages = _by_legs(job, legs, paper.drawing) if legs else _laid_out(job, paper)
    rows, words = bill_rows(job), note_lines(job)
    sheets = []
    left_rows: list[Sequence[str]] = rows
    left_words = words
    made = list(job.hand.revisions) if job.hand else []
    for number in itertools.count(1):
        placed = pages[number - 1].placed if number <= len(pages) else []
        board = Board()
        top = paper.column[3]
        foot = revisions(board, paper.column, made) + 2
        if left_rows:
            top, left_rows = bill(board, paper.column, bill_heads(job.units), left_rows, "lrlrlr", foot + 8)
        if left_words and not left_rows:
            left_words = notes(board, paper.column, left_words, top, foot + 2)
        sheets.append((board, placed))
        if number >= len(pages) and not left_rows and not left_words:
            break
    lost = tuple(w for page in pages for drawn, _, _ in page.placed for w in drawn.lost) + _homeless(job, pages)
    found = []
    for number, (board, placed) in enumerate(sheets, 1):
        fill(board, paper, _title(job, paper, scale, number, len(sheets)))
        items: list[Primitive] = list(board.items)
        spots: list[Spot] = list(board.spots)
        frames: list[Frame] = []
        for drawn, dx, dy in placed:
            items += drawn.board.moved(dx, dy)
            spots += drawn.board.spots_moved(dx, dy)
            frames.append(shifted_frame(drawn.frame, dx, dy))
        name = job.name if len(sheets) == 1 else f"{job.name} ({number})"
        found.append(
            Sheet(name, job.role, job.kind, paper.width, paper.height, scale, tuple(items), job.content, tuple(spots),
                tuple(frames), lost, number, len(sheets))
        )  # fmt: skip
    return tuple(found)


def shifted_frame(frame: Frame, dx: float, dy: float) -> Frame:
    points = {k: (x + dx, y + dy, u, v) for k, (x, y, u, v) in frame.points.items()}
    box = shifted(frame.box, dx, dy)
    return msgspec.structs.replace(frame, x=frame.x + dx, y=frame.y + dy, box=box, points=points)


def _homeless(job: PieceJob, pages: Sequence[_Page]) -> tuple[str, ...]:
    """Edits of views that the sheet has no more."""
    there = {drawn.frame.name for page in pages for drawn, _, _ in page.placed}
    gone = tuple(said(e) for e in (job.hand.edits if job.hand else ()) if view_of(e) not in there)
    return gone + tuple(f"{said(e)} (made while the piece lay the other way round)" for e in job.aside)


# -- layout -------------------------------------------------------------------------------------------
class _Content:
    """What a piece's sheet shows and says, whatever its scale."""

    def __init__(self, job: PieceJob) -> None:
        self.job = job

    @cached_property
    def told(self) -> dict[str, Told]:
        return told_of(self.job.subject, self.job.subject.views, self.job.asked)

    @cached_property
    def fans(self) -> list[tuple[Fixed, ...]]:
        return fans(self.job.subject)

    @cached_property
    def sections(self) -> list[Section]:
        job = self.job
        found = job.subject.sections([f.id for fan in self.fans for f in fan])
        if job.hand and job.subject.main.section is not None:
            found = [*found, *(job.subject.section_at(x) for x in job.hand.sections if 0 < x < job.subject.main.length)]
        return [job.asked.cut(section, job.subject) for section in found]


def _laid_out(job: PieceJob, paper: Template) -> tuple[float, list[_Page]]:
    """The largest scale at which every view fits one sheet and reads; else more sheets at the largest that each view
    fits."""
    content = _Content(job)
    scales = [job.hand.scale] if job.hand and job.hand.scale else list(SCALES[job.units])
    wide = paper.drawing[2] - paper.drawing[0]
    readable = _readable(job.subject)
    spread: tuple[float, list[_Page]] | None = None
    for scale in scales:
        if job.subject.stood is None and job.subject.main.width / scale > _DEEPEST and scale != scales[-1]:
            continue
        tried: list[Shortening] = []
        for beside in _BESIDE:
            short = _shortened(job, scale, wide - beside)
            if short is None and beside == _BESIDE[0]:
                short = _shortened(job, scale, wide - _SCARCE)
            if short is None and scale != scales[-1]:
                break
            if (short or Shortening()) in tried:
                continue  # as short as it gets: the same views once more
            tried.append(short or Shortening())
            if scale != scales[-1] and not _has_room(job.subject, short or Shortening(), scale, paper.drawing):
                break  # however its figures lie
            rows = _views(content, scale, short or Shortening())
            pages = _paged(rows, paper.drawing)
            if pages is None:
                continue
            if len(pages) == 1 and (scale <= readable or spread is None):
                return scale, pages
            if spread is None:
                spread = scale, pages
            break
        if spread is not None and scale >= readable:
            break
    if spread is not None:
        return spread
    # nothing fits: what was asked for by hand is too large, or the paper too small; shown all the same, from the left
    rows = _views(content, scales[-1], _shortened(job, scales[-1], wide - _BESIDE[0]) or Shortening())
    return scales[-1], _one_each(rows, paper.drawing)


def _has_room(subject: Subject, short: Shortening, scale: float, area: Box) -> bool:
    """Whether the views along the piece go over one another on the paper, with the least that figures take."""
    wide, high = area[2] - area[0] - _FIGURES, area[3] - area[1]
    for name in subject.views if subject.stood is None else ("top", "front"):
        left, low, right, up = project(subject.bodies, name).box
        if (short.u(max(right, 0.0)) - min(left, 0.0)) / scale > wide:
            return False
        high -= (up - low) / scale + _FIGURES
    return high > 0.0


def _readable(subject: Subject) -> float:
    """The scale at which the nearest two rows of holes can still be told apart."""
    gaps = []
    for part, _ in subject.bodies:
        for values in (sorted(h.x for h in part.holes), sorted(h.w for h in part.holes)):
            gaps += [b - a for a, b in itertools.pairwise(values) if b - a > 10.0]
    return min([*gaps, 96.0 * _PITCH]) / _PITCH


def _shortened(job: PieceJob, scale: float, room: float) -> Shortening | None:
    """Stretches to take out, or None where the member does not fit even so."""
    subject = job.subject
    length = subject.main.length
    if subject.stood is not None:
        wide = max(b[2] - b[0] for b in (project(subject.bodies, name).box for name in ("top", "front")))
        return Shortening() if wide / scale <= room else None
    if not job.preset.shorten:
        return Shortening() if length / scale <= room else None
    events = [f.x for f in subject.main.features if isinstance(f, Hole)]
    for cope in subject.main.copes:
        events.append(length - cope.length if cope.right else cope.length)
    for notch in subject.main.notches if subject.main.section else ():
        events += [min(max(x, 0.0), length) for x, _ in notch.outline]
    for f in subject.fixed:
        near, far = f.box()
        events += [float(near[0]), float(far[0])]
    events += [x for x, _ in subject.levels] + [s.foot[0] for s in subject.studs]
    for x0, x1 in _slanting(subject):
        events += np.arange(x0, x1, _WHOLE).tolist()
    low, high = subject.main.depth_range
    for cut in (subject.main.left, subject.main.right):
        events += [cut.x(0, low), cut.x(0, high)]
    found = shortening(events, length, scale, room)
    return found if found.u(length) / scale <= room + 1 else None


def _slanting(subject: Subject) -> Iterator[tuple[float, float]]:
    """Stretches over which something runs on a slant: taken out of it, what is left would not meet."""
    main = subject.main
    if main.is_plate:
        for (x0, z0), (x1, z1) in itertools.pairwise((*main.outline, main.outline[0])):
            if abs(z1 - z0) > 0.5 < abs(x1 - x0):
                yield min(x0, x1), max(x0, x1)
    for f in subject.fixed:
        if 0.01 < abs(float(f.place.x[0])) < 0.9999:
            near, far = f.box()
            yield float(near[0]), float(far[0])


def _views(
    of: _Content, scale: float, short: Shortening, leg: Leg | None = None, letters: Iterator[str] | None = None
) -> tuple[list[Drawn], list[Drawn]]:
    """The views along the piece from the top down, and those across it; of a leg of it under its number."""
    job, subject, asked = of.job, of.job.subject, of.job.asked
    if subject.stood is not None:
        return stood_views(subject, job.bill[0][0], scale, asked)
    lettered = list(zip(of.sections, letters or itertools.cycle(_LETTERS), strict=False))
    cuts = [
        Cut(f"front|cut {s.view} {n}", x, letter)
        for s, letter in lettered
        if not s.at_end
        for n, x in enumerate((s.x, *s.others))
    ]
    along = {}
    for name, one in of.told.items():
        own = asked.scale(leg.named(name) if leg is not None else name, scale)
        closed = short if own == scale else _shortened(job, own, short.u(subject.main.length) / scale) or Shortening()
        more: list[Annotation] = list(cuts) if name == "front" else []
        if leg is not None and name == "front":
            more.append(Note("front|mark main", (subject.main.length / 2, 0.0), leg.mark))
        called = (leg.named(name), leg.words) if leg is not None else ("", "")
        along[name] = long_view(one, own, closed, asked, more, *called)
    across = [section_view(subject, s, letter, asked.scale(s.view, scale), asked) for s, letter in lettered]
    if of.fans:
        across.append(fan_view(subject, asked.scale(FAN, scale), asked))
    if subject.rolled_as is not None:
        usual = scale if subject.rolled_as.bends else _fine(subject, scale, job.units)
        across += formed_views(subject, asked.scale("as formed", usual), asked)
    for drawn in (*along.values(), *across):
        if drawn.frame.scale != scale:
            _own_scale(drawn, job.units)
    return [along[name] for name in dict.fromkeys(subject.views)], across


def _own_scale(drawn: Drawn, units: Units) -> None:
    """The scale of a view that is not the sheet's, under it."""
    x0, y0, x1, _ = drawn.board.extent()
    drawn.board.text(Text((x0 + x1) / 2, y0 - 3.5, f"scale {scale_words(drawn.frame.scale, units)}", 2.5, "c"))


def _fine(subject: Subject, scale: float, units: Units) -> float:
    """A rolled piece's shape is shown smaller, so that it is seen whole."""
    return next((s for s in SCALES[units] if s >= max(scale, subject.main.length / 150.0)), SCALES[units][-1])


def _rows(across: Iterable[Drawn], wide: float) -> list[list[Drawn]] | None:
    """Views across the piece in rows no wider than the paper; None where one alone is wider."""
    rows: list[list[Drawn]] = []
    used = 0.0
    for drawn in across:
        e = drawn.board.extent()
        if e[2] - e[0] > wide:
            return None
        if not rows or used + _GAP + e[2] - e[0] > wide:
            rows.append([])
            used = -_GAP
        rows[-1].append(drawn)
        used += _GAP + e[2] - e[0]
    return rows


def _paged(views: tuple[list[Drawn], list[Drawn]], area: Box) -> list[_Page] | None:
    """Views on as few sheets as they need: those along the piece together on the first; None where they do not fit."""
    x0, y0, x1, y1 = area
    along, across = views
    extents = [d.board.extent() for d in along]
    lefts, rights = [e[0] for e in extents], [e[2] for e in extents]
    tall = sum(e[3] - e[1] for e in extents) + _GAP * (len(along) - 1)
    if max(rights) - min(lefts) > x1 - x0 or tall > y1 - y0:
        return None
    rows = _rows(across, x1 - x0)
    if rows is None:
        return None
    heights = [max(e[3] - e[1] for e in (d.board.extent() for d in row)) for row in rows]
    if any(h > y1 - y0 for h in heights):
        return None
    sheets: list[list[int]] = [[]]
    room = y1 - y0 - tall
    for n, height in enumerate(heights):
        if height + _GAP > room:
            sheets.append([])
            room = y1 - y0 + _GAP
        sheets[-1].append(n)
        room -= height + _GAP
    pages = []
    for number, indexes in enumerate(sheets):
        first = along if number == 0 else []
        pages.append(_Page(_stacked(first, [rows[i] for i in indexes], area)))
    return pages


def _stacked(along: list[Drawn], rows: list[list[Drawn]], area: Box) -> list[tuple[Drawn, float, float]]:
    """Views of the whole piece over one another, their left ends in line; then the rows of views across it."""
    x0, y0, x1, y1 = area
    lines = [[d] for d in along] + rows
    extents = [[d.board.extent() for d in line] for line in lines]
    tall = [max(e[3] - e[1] for e in line) for line in extents]
    spare = (y1 - y0 - sum(tall) - _GAP * (len(lines) - 1)) / (len(lines) + 1)
    step = max(0.0, min(spare, 25))
    origin = 0.0
    if along:
        whole = united([line[0] for line in extents[: len(along)]])
        origin = x0 + (x1 - x0 - whole[2] + whole[0]) / 2 - whole[0]
    placed = []
    y = y1 - step
    for number, (line, own, height) in enumerate(zip(lines, extents, tall, strict=True)):
        wide = sum(e[2] - e[0] for e in own) + _GAP * (len(line) - 1)
        x = origin + own[0][0] if number < len(along) else x0 + (x1 - x0 - wide) / 2
        for drawn, e in zip(line, own, strict=True):
            placed.append((drawn, x - e[0], y - e[3]))
            x += e[2] - e[0] + _GAP
        y -= height + _GAP + step
    return placed


def _by_legs(job: PieceJob, legs: Sequence[Leg], area: Box) -> tuple[float, list[_Page]]:
    """The plan of what turns corners, and each leg with what stands beside it, at the largest scale at which all fit
    one sheet; else on more at one that still reads."""
    largest, least = _OF_LEGS[job.units]
    scales = [job.hand.scale] if job.hand and job.hand.scale else [s for s in SCALES[job.units] if s >= largest]
    spread: tuple[float, list[_Page]] | None = None
    for scale in scales:
        if spread is not None and scale > least:
            return spread
        blocks = _leg_blocks(job, legs, scale, area)
        laid = packed(blocks, area) if blocks is not None else None
        if laid is None:
            continue
        pages = [_Page(views) for views in laid]
        if len(pages) == 1:
            return scale, pages
        if spread is None or len(pages) < len(spread[1]):
            spread = scale, pages
    if spread is not None:
        return spread
    across = [plan_view(job.subject, legs, scales[-1], job.asked)]
    for leg in legs:
        views = _views(_Content(msgspec.structs.replace(job, subject=leg.subject)), scales[-1], Shortening(), leg)
        across += [*views[0], *views[1]]
    return scales[-1], _one_each(([], across), area)


def _leg_blocks(job: PieceJob, legs: Sequence[Leg], scale: float, area: Box) -> list[Block] | None:
    """The plan and the legs as blocks of views; None where one is wider than the paper."""
    wide = area[2] - area[0]
    letters = itertools.cycle(_LETTERS)
    found = [Block.of([(plan_view(job.subject, legs, scale, job.asked), 0.0, 0.0)])]
    for leg in legs:
        own = msgspec.structs.replace(job, subject=leg.subject)
        short = _shortened(own, scale, wide - _BESIDE[0])
        if short is None:
            return None
        along, across = _views(_Content(own), scale, short, leg, letters)
        rows = _rows(across, wide)
        if rows is None:
            return None
        found.append(Block.of(_stacked(along, rows, (0.0, 0.0, 0.0, 0.0))))
    return found


def _one_each(views: tuple[list[Drawn], list[Drawn]], area: Box) -> list[_Page]:
    """Each view on a sheet of its own, from the upper left."""
    pages = []
    for drawn in (*views[0], *views[1]):
        e = drawn.board.extent()
        pages.append(_Page([(drawn, area[0] - e[0], area[3] - e[3])]))
    return pages


# -- words --------------------------------------------------------------------------------------------
def _title(job: PieceJob, paper: Template, scale: float, number: int, of: int) -> dict[str, str]:
    made = [(p, n) for _, p, n in job.bill if p.item is None]
    each, net = (sum(weight(p) * n for p, n in made) for weight in (gross_weight, net_weight))
    units = job.units
    places = ", ".join(job.places[:4]) + (f" and {len(job.places) - 4} more" if len(job.places) > 4 else "")
    return {
        **named(job.name, job.hand, job.on),
        "sheet": f"{number} OF {of}",
        "project": f"{job.project}   {job.number}",
        "line 1": f"{job.required} REQUIRED   {format_weight(each, units)} EACH (GROSS), {format_weight(net, units)} "
        f"NET",
        "line 2": f"{job.role.upper()}   {job.bill[0][1].grade}",
        "line 3": f"PAINT: {job.finish.upper()}",
        "line 4": f"AT: {places}" if places else "",
        "scale": scale_words(scale, units),
        "paper": paper.name,
    }


def bill_heads(units: Units) -> Sequence[str]:
    return ("MARK", "NO", "DESCRIPTION", "LENGTH", "GRADE", "LB" if units is Units.IMPERIAL else "KG")


def bill_rows(job: PieceJob) -> list[Sequence[str]]:
    units = job.units
    rows: list[Sequence[str]] = []
    total = bought = 0.0
    for mark, part, number in job.bill:
        weight = gross_weight(part) * number
        total, bought = (total + weight, bought) if part.item is None else (total, bought + weight)
        shown = format_weight(weight, units).split()[0]
        rows.append(
            (mark, str(number), describe(part, units), format_length(billed_length(part), units), part.grade, shown)
        )
    if len(job.bill) > 1:
        rows.append(("", "", "", "", "total", format_weight(total, units).split()[0]))
    if bought:
        rows.append(("", "", "", "", "bought, in all", format_weight(bought, units).split()[0]))
    return rows
