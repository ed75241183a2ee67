"""Sheets of an erector's views: as many views as belong together, laid out at a scale that fits; a view that is too
large for any paper parted at match lines."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.draw import view_lines
from uncus.draw.bearings import TALL
from uncus.draw.blocks import Block, packed
from uncus.draw.board import Board
from uncus.draw.border import named, scale_words
from uncus.draw.by_hand import said, view_of
from uncus.draw.erection import PARTED, SCALES, beside, marked
from uncus.draw.lettering import Box, width
from uncus.draw.parted import parted
from uncus.draw.piece_sheet import shifted_frame
from uncus.draw.sheet import Frame, Layer, Primitive, Sheet, Spot, Text
from uncus.draw.sights import Line, clipped, is_level, looking, shares
from uncus.draw.template import LARGE, SMALL, Template, fill, template
from uncus.draw.view_drawing import ViewPlan, stretches
from uncus.draw.view_job import Piece, Sight, ViewJob
from uncus.draw.views import Drawn
from uncus.frame.placement import Vec
from uncus.job.drawings import Moved
from uncus.units import Units, format_elevation

_NEAR = 3000.0  # mm from what is seen to a grid line or level that is drawn with it
_MARGIN = 150.0  # mm round what is seen
_TITLE = 12.0  # and under it for its title
_NEAREST = 6.0  # mm of paper past a view, where words are kept if there is no more
_WORDS = 60.0  # mm of paper past a view that its words may reach
_EACH = 250.0  # mm2 of paper that a piece with its words takes
_SMALL_TO = 130.0  # 1 to so much on the smaller paper at most
_MOST_PARTS = 12  # in one direction
_LEAST_KEY = 1.2  # mm of paper of a number on it
_KEY = 26.0  # mm of a key plan's longer side


class _Part(msgspec.Struct, frozen=True):
    """A window of a view that is drawn as one: its box, its place (column, row) among (columns, rows) of them; the
    sides at which others are beside it, and what those are called."""

    box: Box
    at: tuple[int, int] = (0, 0)
    of: tuple[int, int] = (1, 1)
    beside: tuple[tuple[str, str], ...] = ()


def draw(job: ViewJob) -> tuple[Sheet, ...]:
    """The sheets of some views that stand together; most have one."""
    bounds = [_bounds(s, _half_box(s)) for s in job.sights]
    for paper, most in ((template(SMALL[job.units]), _SMALL_TO), (template(LARGE[job.units]), math.inf)):
        for scale in SCALES[job.units]:
            if scale > min(most, PARTED[job.units]) or not _could_fit(job, bounds, scale, paper):
                continue
            if math.isfinite(most) and any(_crowded(*one, scale) for one in zip(job.sights, bounds, strict=True)):
                continue
            found = set[str]()
            drawn = [_drawn(job, n, _Part(box), lines, job.sights[n].frame.scale or scale, found)
                for n, (box, lines) in enumerate(bounds)]  # fmt: skip
            pages = packed([_blocked(job, d, n) for n, d in enumerate(drawn)], paper.drawing)
            if pages is not None and len(pages) == 1:
                return _sheets(job, paper, pages, scale, found)
    return _on_several(job, bounds)


def _crowded(sight: Sight, bounds: tuple[Box, list[Line]], scale: float) -> bool:
    """Whether a view has hardly room for what is said of its pieces; one that is askew, with all of a building behind
    one another, needs more."""
    (x0, y0, x1, y1), lines = bounds
    each = _EACH * (2.0 if any(line.askew for line in lines) else 1.0)
    own = sight.frame.scale or scale
    return len(sight.own) * each > (x1 - x0) * (y1 - y0) / own**2


def _on_several(job: ViewJob, bounds: Sequence[tuple[Box, list[Line]]]) -> tuple[Sheet, ...]:
    """Each view at the largest scale that the large paper takes, or parted; on as many sheets as that needs."""
    paper = template(LARGE[job.units])
    keys, scales = list[tuple[int, _Part]](), list[float]()
    for n, one in enumerate(bounds):
        scale, parts = _parted(job, n, one, paper)
        keys += [(n, part) for part in parts]
        scales += [scale] * len(parts)
    whole = all(part.of == (1, 1) for _, part in keys)
    numbers = {} if whole else {(n, part.at): at for at, (n, part) in enumerate(keys, 1)}
    blocks, found = list[Block](), set[str]()
    for (n, part), scale in zip(keys, scales, strict=True):
        box, own = bounds[n] if part.of == (1, 1) else _bounds(job.sights[n], part.box, part.box)
        window = msgspec.structs.replace(part, box=box, beside=tuple(_neighbours(job, n, part, numbers)))
        blocks.append(_on_paper(job, n, window, own, scale, found, paper))
    pages = packed(blocks, paper.drawing) if whole else None
    if pages is not None:
        return _sheets(job, paper, pages, max(scales), found)
    x0, _, x1, y1 = paper.drawing
    pages = [block.at((x0 + x1 - block.width) / 2, y1 - block.height - 4.0) for block in blocks]
    return _sheets(job, paper, pages, max(scales), found, keys)


def _on_paper(
    job: ViewJob, n: int, part: _Part, lines: list[Line], scale: float, found: set[str], paper: Template
) -> Block:
    """A window as a block; where its words would make it larger than the paper, they are kept nearer to it."""
    block = _blocked(job, _drawn(job, n, part, lines, scale, found), n)
    left, low, right, high = paper.drawing
    if block.width <= right - left and block.height <= high - low:
        return block
    x0, y0, x1, y1 = part.box
    spare = (right - left - (x1 - x0) / scale) / 2, (high - low - (y1 - y0) / scale - TALL - _TITLE) / 2
    near = max(_NEAREST, min(*spare, _WORDS) - 2.0)
    return _blocked(job, _drawn(job, n, part, lines, scale, found, near), n)


def _parted(job: ViewJob, n: int, bounds: tuple[Box, list[Line]], paper: Template) -> tuple[float, list[_Part]]:
    """The scale of a view and the windows it is parted into, at grid lines where there are some near."""
    box, lines = bounds
    own = job.sights[n].frame.scale
    wide, high = _room(paper, job.sights[n], bool(lines))
    for scale in [own] if own else [s for s in SCALES[job.units] if s <= PARTED[job.units]]:
        if (box[2] - box[0]) / scale <= wide and (box[3] - box[1]) / scale <= high:
            return float(scale), [_Part(box)]
    scale = float(own or PARTED[job.units])
    ways = []
    for axis, room in ((0, wide), (1, high)):
        least = min(_MOST_PARTS, math.ceil((box[axis + 2] - box[axis]) / scale / room - 1e-6))
        grids = [line.a[axis] for line in lines if (line.upright if axis == 0 else line.flat)]
        tried = [_cuts(box[axis], box[axis + 2], number, grids) for number in range(least, _MOST_PARTS + 1)]
        ways.append(next((cuts for cuts in tried if _widest(cuts) / scale <= room), tried[-1]))
    scale = max(scale, *(_widest(cuts) / room for cuts, room in zip(ways, (wide, high), strict=True)))
    columns, rows = (len(cuts) - 1 for cuts in ways)
    parts = [
        _Part((ways[0][i], ways[1][j], ways[0][i + 1], ways[1][j + 1]), (i, j), (columns, rows))
        for j in reversed(range(rows))
        for i in range(columns)
    ]
    return scale, [part for part in parts if _pieces_in(job.sights[n], part.box)] or parts[:1]


def _cuts(low: float, high: float, number: int, grids: Sequence[float]) -> list[float]:
    """Where a length is cut into a number of parts: midway between grid lines, so that what stands on a line is whole,
    as near to even as those let."""
    between = [(a + b) / 2 for a, b in itertools.pairwise(sorted(grids)) if b - a > 1.0]
    cuts = [low]
    long = (high - low) / number
    for n in range(1, number):
        even = low + long * n
        near = [g for g in between if cuts[-1] + 1.0 < g < even + 1.0 and even - g < long / 2]
        clear = next((at for k in range(10) if not _on_one(at := even - k * long / 40, grids, long / 50)), even)
        cuts.append(max(near, default=clear))
    return [*cuts, high]


def _widest(cuts: Sequence[float]) -> float:
    return max(b - a for a, b in itertools.pairwise(cuts))


def _on_one(at: float, grids: Sequence[float], near: float) -> bool:
    return any(abs(at - g) < near for g in grids)


def _room(paper: Template, sight: Sight, crossed: bool) -> tuple[float, float]:
    """What paper leaves for a view of its own."""
    left, low, right, high = paper.drawing
    x0, y0, x1, y1 = view_lines.sides(sight.frame.shows, crossed)
    return right - left - x0 - x1, high - low - y0 - y1 - TALL - _TITLE


def _could_fit(job: ViewJob, bounds: Sequence[tuple[Box, list[Line]]], scale: float, paper: Template) -> bool:
    """Whether views at a scale, with what usually stands about them, find room on one paper."""
    blocks = []
    for sight, (box, lines) in zip(job.sights, bounds, strict=True):
        own = sight.frame.scale or scale
        sides = view_lines.sides(sight.frame.shows, bool(lines))
        under = TALL + (_TITLE if len(bounds) > 1 else 0.0)
        blocks.append(Block((), (box[2] - box[0]) / own + sides[0] + sides[2], (box[3] - box[1]) / own + sides[1]
            + sides[3] + under))  # fmt: skip
    pages = packed(blocks, paper.drawing)
    return pages is not None and len(pages) == 1


def _drawn(
    job: ViewJob, n: int, part: _Part, lines: list[Line], scale: float, found: set[str], words: float = _WORDS
) -> Drawn:
    """A view, or a window of it, on a board of its own, its words no farther past it than so much; the keys of what it
    says are added to those `found`."""
    sight, board = job.sights[n], Board()
    edits = tuple(e for e in job.edits if view_of(e) == sight.frame.id and e.key != _place_of(sight))
    plan = ViewPlan(board, scale, job.units, edits, sight, part.box)
    x0, y0, x1, y1 = part.box
    plan.room = x0 / scale - words, y0 / scale - words, x1 / scale + words, y1 / scale + words
    since = len(board.items)
    plan.crossed(lines)
    board.spot(f"{plan.view}|grid", since)
    plan.signs()
    plan.match_lines(part.beside)
    plan.bolts()
    plan.steel(_pieces_in(sight, part.box))
    plan.welds()
    plan.written()
    plan.drop()
    found |= plan.said
    if plan.left_out:
        found.add(_no_room(sight))
    board.items = parted(board.items, board.struck())
    plan.measured()
    if len(job.sights) > 1:
        plan.titled(f"{n + 1}   {_called(sight, job.units)}   {scale_words(scale, job.units)}")
    (left, low), (right, high) = plan.at(x0, y0), plan.at(x1, y1)
    return Drawn(board, Frame(plan.view, 0.0, 0.0, scale, (left, low, right, high), plan.points))


def _neighbours(
    job: ViewJob, n: int, part: _Part, numbers: Mapping[tuple[int, tuple[int, int]], int]
) -> Iterator[tuple[str, str]]:
    """The sides at which a window has others beside it, and what those are called; `numbers` are those of the sheets by
    view and place."""
    i, j = part.at
    for side, at in (("left", (i - 1, j)), ("right", (i + 1, j)), ("below", (i, j - 1)), ("above", (i, j + 1))):
        if (n, at) in numbers:
            yield side, f"SHEET {job.name} ({numbers[n, at]})"


def _pieces_in(sight: Sight, box: Box) -> list[Piece]:
    """The pieces of which something lies in a window."""
    lines, of = _lines_of(sight.pieces)
    first, last = shares(lines, np.array(box[:2]), np.array(box[2:]))
    there = set(of[last >= first].tolist())
    return [p for n, p in enumerate(sight.pieces) if n in there]


def _lines_of(pieces: Sequence[Piece]) -> tuple[Vec, NDArray[np.intp]]:
    """The stretches (n, 2 ends, u and v) of pieces' lines, and which piece each is of."""
    own = [(n, *stretch) for n, piece in enumerate(pieces) for stretch in stretches(piece)]
    lines = np.array([(*a, *b) for _, a, b in own], dtype=np.float64).reshape(-1, 2, 2)
    return lines, np.array([n for n, _, _ in own], dtype=np.intp)


def _blocked(job: ViewJob, drawn: Drawn, n: int) -> Block:
    """A view as a block, moved by hand where it was."""
    moved = next((e for e in job.edits if isinstance(e, Moved) and e.key == _place_of(job.sights[n])), None)
    dx, dy = (moved.dx, moved.dy) if moved is not None else (0.0, 0.0)
    block = Block.of([(drawn, 0.0, 0.0)])
    ((one, x, y),) = block.placed
    return msgspec.structs.replace(block, placed=((one, x + dx, y + dy),))


def _place_of(sight: Sight) -> str:
    """The key under which a view is moved as a whole."""
    return f"{sight.frame.id}|place"


def _no_room(sight: Sight) -> str:
    """The key under which it is told that words of a view found no room."""
    return f"{sight.frame.id}|no room"


def _called(sight: Sight, units: Units) -> str:
    frame = sight.frame
    if is_level(frame):
        return f"{frame.name.upper()}, TOP OF STEEL {format_elevation(frame.origin[2], units)} UNLESS NOTED"
    return f"{frame.name.upper()}, {looking(frame)}"


def _half_box(sight: Sight) -> Box:
    w, h = sight.frame.width / 2, sight.frame.height / 2
    return -w, -h, w, h


def _bounds(sight: Sight, window: Box, kept: Box | None = None) -> tuple[Box, list[Line]]:
    """What of a window has something in it - its steel, with the grid lines and levels that cross there or near it -
    and those lines, within it. What is `kept` is the least that the box has."""
    low, high = (np.array(kept[:2]), np.array(kept[2:])) if kept is not None else _reach(sight, window)
    near = [line for line in sight.lines if clipped(np.array(line.a), np.array(line.b), low - _NEAR, high + _NEAR)]
    for line in near if kept is None else ():
        axis = 0 if line.upright else 1
        if line.askew:
            low, high = np.minimum(low, np.minimum(line.a, line.b)), np.maximum(high, np.maximum(line.a, line.b))
        if line.upright or line.flat:
            low[axis], high[axis] = min(low[axis], line.a[axis]), max(high[axis], line.a[axis])
    within = [(line, clipped(np.array(line.a), np.array(line.b), low - 1.0, high + 1.0)) for line in near]
    return (float(low[0]), float(low[1]), float(high[0]), float(high[1])), [
        _cut_to(line, share) for line, share in within if share is not None
    ]


def _reach(sight: Sight, window: Box) -> tuple[Vec, Vec]:
    """The box of the steel that lies in a window, with what is kept round it; the window where there is none."""
    low, high = np.array(window[:2]), np.array(window[2:])
    lines, _ = _lines_of(sight.own)
    first, last = shares(lines, low, high)
    there = last >= first
    if not there.any():
        return low, high
    a, d = lines[there, 0], lines[there, 1] - lines[there, 0]
    spots = np.vstack([a + first[there, None] * d, a + last[there, None] * d])
    return spots.min(axis=0) - _MARGIN, spots.max(axis=0) + _MARGIN


def _cut_to(line: Line, share: tuple[float, float]) -> Line:
    """The stretch of a line that lies in a view."""
    a, b = np.array(line.a), np.array(line.b)
    (u1, v1), (u2, v2) = ((a + s * (b - a)).tolist() for s in share)
    return msgspec.structs.replace(line, a=(u1, v1), b=(u2, v2))


# -- sheets ---------------------------------------------------------------------------------------------
def _sheets(
    job: ViewJob,
    paper: Template,
    pages: Sequence[Sequence[tuple[Drawn, float, float]]],
    scale: float,
    there: set[str],
    keys: Sequence[tuple[int, _Part]] = (),
) -> tuple[Sheet, ...]:
    found = []
    for number, page in enumerate(pages, 1):
        board = Board()
        scales = sorted({drawn.frame.scale for drawn, _, _ in page})
        fill(board, paper, _title(job, paper, scales, number, len(pages)))
        if keys:
            _key_plan(board, paper, keys, number - 1)
        beside(board, paper, marked(job.members), list(_notes(job)), job.hand)
        items: list[Primitive] = list(board.items)
        spots: list[Spot] = list(board.spots)
        frames: list[Frame] = []
        for drawn, dx, dy in page:
            items += drawn.board.moved(dx, dy)
            spots += drawn.board.spots_moved(dx, dy)
            frames.append(shifted_frame(drawn.frame, dx, dy))
        name = job.name if len(pages) == 1 else f"{job.name} ({number})"
        lost, wrong = (tuple(words(job, there)) if number == 1 else () for words in (_lost, _wrong))
        found.append(Sheet(name, job.title, "erection", paper.width, paper.height, scale, tuple(items), job.content,
            tuple(spots), tuple(frames), lost, number, len(pages), wrong))  # fmt: skip
    return tuple(found)


def _lost(job: ViewJob, there: set[str]) -> Iterator[str]:
    """What was done by hand and finds nothing."""
    places = {_place_of(s) for s in job.sights}
    names = {s.frame.id: s.frame.name for s in job.sights}
    for edit in job.edits:
        if edit.key not in there and edit.key not in places:
            view = view_of(edit)
            yield said(edit).replace(view, names.get(view, "a view that is gone"))


def _wrong(job: ViewJob, there: set[str]) -> Iterator[str]:
    """What the views' frames ask for and nobody can follow."""
    for sight in job.sights:
        name, number = sight.frame.name, len(sight.own)
        yield from (f"{name}: {words}" for words in sight.wrong)
        if _no_room(sight) in there:
            yield f"{name}: no room for all that is said of its {number} pieces; say less, draw it larger, or part it."


def _title(job: ViewJob, paper: Template, scales: Sequence[float], number: int, of: int) -> dict[str, str]:
    one = job.sights[0] if len(job.sights) == 1 else None
    second = ""
    if one is not None:
        level = f"TOP OF STEEL {format_elevation(one.frame.origin[2], job.units)} UNLESS NOTED"
        second = level if is_level(one.frame) else looking(one.frame)
    return {
        **named(job.name, job.hand, job.on),
        "project": f"{job.project}   {job.number}",
        "sheet": f"{number} OF {of}",
        "line 1": job.title.upper(),
        "line 2": second or f"{len(job.sights)} VIEWS",
        "line 3": f"{len(job.members)} PIECES",
        "scale": scale_words(scales[0], job.units) if len(scales) == 1 else "AS NOTED",
        "paper": paper.name,
    }


def _notes(job: ViewJob) -> Iterator[str]:
    yield "MARKS STAND AT THE LEFT END OF EACH MEMBER."
    if any(is_level(s.frame) for s in job.sights):
        yield "TOP OF STEEL AT THE VIEW'S LEVEL UNLESS A HEIGHT IS GIVEN."
    if any(any(p.moments) for s in job.sights for p in s.own):
        yield "TRIANGLES MARK ENDS THAT HOLD A MOMENT."
    if any(s.bolts for s in job.sights):
        yield "DOTS ARE SITE BOLTS."
    for text in dict.fromkeys(s.heavy for s in job.sights if any(p.heavy for p in s.own)):
        yield f"HEAVY LINES: {text.upper()}."
    for text in dict.fromkeys(s.standing for s in job.sights if any(p.standing for p in s.own)):
        yield f"DASHED AND DOTTED LINES STAND ALREADY: {text.upper()}."
    yield from dict.fromkeys(words for s in job.sights for words in s.notes)
    if any(p.studs for s in job.sights for p in s.own):
        yield "NUMBERS IN BRACKETS ARE STUDS."


def _key_plan(board: Board, paper: Template, keys: Sequence[tuple[int, _Part]], here: int) -> None:
    """Which window of its view a sheet shows: all of them in a row over the title, this one filled."""
    n = keys[here][0]
    own = [(at, p) for at, (m, p) in enumerate(keys) if m == n]
    x0, y0 = min(p.box[0] for _, p in own), min(p.box[1] for _, p in own)
    x1, y1 = max(p.box[2] for _, p in own), max(p.box[3] for _, p in own)
    scale = max(x1 - x0, y1 - y0) / _KEY
    left, low = paper.drawing[2] - (x1 - x0) / scale - 4.0, paper.drawing[1] + 4.0
    for at, p in own:
        a, b = (left + (p.box[0] - x0) / scale, low + (p.box[1] - y0) / scale), (
            left + (p.box[2] - x0) / scale, low + (p.box[3] - y0) / scale)  # fmt: skip
        layer = Layer.HEAVY if at == here else Layer.THIN
        board.poly(layer, [a, (b[0], a[1]), b, (a[0], b[1])], closed=True)
        words = str(at + 1)
        height = min(2.5, (b[1] - a[1]) * 0.6, 2.5 * (b[0] - a[0]) * 0.7 / width(words, 2.5))
        if height >= _LEAST_KEY:
            board.text(Text((a[0] + b[0]) / 2, (a[1] + b[1]) / 2, words, height, "c"))
