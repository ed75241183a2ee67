"""The anchor plan: bases and rods by the grid, and each kind of base drawn larger with what it is set by."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from functools import partial
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from uncus.catalog.bolts import rod_sizes
from uncus.draw.bases import Base, Kind, Spot
from uncus.draw.board import Board
from uncus.draw.border import bill, named, notes, revisions, scale_words
from uncus.draw.dimension import TEXT, straight
from uncus.draw.erection import ErectionJob, Tabled, Titled, laid_out
from uncus.draw.lettering import Box
from uncus.draw.plan import VIEW, Plan
from uncus.draw.sheet import Layer, Sheet, Text
from uncus.draw.template import SMALL, fill, template
from uncus.frame.grids import Family, Run, bounds, runs
from uncus.job.records import Grid
from uncus.mark.marking import natural
from uncus.units import Units, counted, format_elevation, format_length, sixteenths

_SCALES = {Units.IMPERIAL: (8.0, 12.0, 16.0, 24.0, 32.0, 48.0), Units.METRIC: (5.0, 10.0, 15.0, 20.0, 25.0, 50.0)}
_CELLS = (2, 2)  # details across and up a sheet
_ROUND = 60.0, 52.0  # mm of paper round a detail, for its dimensions and words
_NAMED = 6  # marks that a detail names
_SAME = 0.8  # mm by which a base is off a line
_TEMPLATE = 1.5875  # mm that holes of setting templates are wider than rods
_ENLARGED = 2.0  # mm of paper that a base is wide at least


class AnchorJob(ErectionJob, frozen=True, kw_only=True):
    """All a worker needs to draw an anchor plan."""

    bases: tuple[Base, ...]
    kinds: tuple[tuple[str, Kind], ...]
    grid: Grid | None
    under: str = ""  # said before heights
    larger: float = 1.0  # of their size, that bases are drawn at; middles stay true
    template: bool = True


def draw(job: AnchorJob) -> tuple[Sheet, ...]:
    """The plan, and as many sheets of details as its kinds need."""
    each = _CELLS[0] * _CELLS[1]
    pages = 1 + math.ceil(len(job.kinds) / each)
    details = (_details(job, job.kinds[n : n + each], n // each + 2, pages) for n in range(0, len(job.kinds), each))
    return replace(_plan(job, pages), name=f"{job.name} (1)", of=pages), *details


def _plan(job: AnchorJob, pages: int) -> Sheet:
    kinds = dict(job.kinds)
    heights = Counter(base.under for base in job.bases)
    usual = max(heights, key=lambda z: (heights[z], -z))
    box = _bounds(job)

    def view(board: Board, scale: float, dx: float, dy: float, room: Box) -> Plan:
        plan = _View(board, scale, dx, dy, job.units, job.edits)
        plan.room = room
        since = len(board.items)
        plan.grid(job.grid, box)
        board.spot(f"{VIEW}|grid", since)
        plan.bases(job, kinds, usual)
        return plan

    numbers = Counter(base.kind for base in job.bases)
    rods = sum(numbers[name] * len(kind.rods) for name, kind in job.kinds)
    rows: list[tuple[str, ...]] = [
        (name, str(numbers[name]), _plate(kind, job.units), f"{len(kind.rods)} x {kind.size}")
        for name, kind in job.kinds
    ]
    said = format_elevation(usual, job.units)
    lines = [
        "BASES STAND ON THEIR GRID LINES UNLESS THE WAY OFF THEM IS GIVEN.",
        "BP AND A NUMBER NAMES A KIND OF BASE: SEE THE DETAILS.",
        "RODS ARE SET BY TEMPLATE; SURVEY THEM BEFORE STEEL IS SENT.",
    ]
    title = Titled("ANCHOR PLAN", f"UNDERSIDE OF BASE PLATES {said} UNLESS NOTED",
        f"{counted(len(job.bases), 'BASE').upper()}, {rods} RODS", "Anchor plan", f"1 OF {pages}")  # fmt: skip
    if job.larger > 1.0:
        lines.append(f"BASES ARE DRAWN AT {job.larger * 100:g} % OF THEIR SIZE; THEIR MIDDLES ARE TRUE.")
    return laid_out(job, Tabled(("BASE", "NO", "PLATE", "RODS"), rows, "lrll"), box, title, lines, view)


def _plate(kind: Kind, units: Units) -> str:
    sides = " x ".join(format_length(v, units) for v in (kind.thickness, *sorted(kind.wide)))
    return f"PL {sides}"


def _bounds(job: AnchorJob) -> Box:
    spots = [base.at for base in job.bases]
    around = bounds(job.grid) if job.grid is not None else None
    if around is not None:
        spots += [around[:2], around[2:]]
    (x0, y0), (x1, y1) = np.min(spots, axis=0).tolist(), np.max(spots, axis=0).tolist()
    return x0 - 500.0, y0 - 500.0, x1 + 500.0, y1 + 500.0


class _View(Plan):
    """Draws an anchor plan in paper mm."""

    def bases(self, job: AnchorJob, kinds: dict[str, Kind], usual: float) -> None:
        lines = runs(job.grid) if job.grid is not None and job.grid.numbers and job.grid.letters else ()
        for base in job.bases:
            self._base(base, kinds[base.kind], job.larger)
        for base in job.bases:
            x, y = self.at(*base.at)
            self.points[f"{base.id}|foot"] = (x, y, *base.at)
            reach = max(job.larger, _ENLARGED * self.scale / max(wide := kinds[base.kind].wide)) * max(wide) / 2
            reach /= self.scale
            self.say(f"{VIEW}|mark {base.id}", _beside(f"{base.mark} ({base.kind})", x, y, reach, 3.0))
            words = list(_off(base, lines, job.units))
            if abs(base.under - usual) > _SAME:
                words.append(f"{job.under} {format_elevation(base.under, job.units)}".strip())
            for n, one in enumerate(words):
                self.say(f"{VIEW}|off {base.id} {n}", _beside(one, x, y, reach, TEXT))

    def _base(self, base: Base, kind: Kind, asked: float) -> None:
        turn = math.radians(base.turn)
        c, s = math.cos(turn), math.sin(turn)
        larger = max(asked, _ENLARGED * self.scale / max(kind.wide))  # so that it is seen; its middle stays true

        def there(spot: Spot) -> tuple[float, float]:
            u, w = spot[0] * larger, spot[1] * larger
            return self.at(base.at[0] + c * u - s * w, base.at[1] + s * u + c * w)

        self.board.poly(Layer.OUTLINE, [there(p) for p in kind.outline], closed=True)
        if kind.column:
            self.board.poly(Layer.THIN, [there(p) for p in kind.column], closed=True)
        for rod in kind.rods:
            self.board.circle(Layer.THIN, *there(rod), max(0.35, kind.hole / 2 / self.scale))


def _off(base: Base, lines: Sequence[Run], units: Units) -> Iterator[str]:
    """How far and to which side of the nearest line of each family a base is, where it is on none."""
    for family in Family:
        own = [run for run in lines if run.family is family]
        if not own:
            continue
        run = min(own, key=lambda one: abs(one.away(*base.at)))
        away = run.away(*base.at)
        if abs(away) <= _SAME or not sixteenths(away):
            continue
        side = (run.along[1], -run.along[0]) if family is Family.NUMBERS else (-run.along[1], run.along[0])
        to = np.array(side) * math.copysign(1.0, away)
        way = ("E" if to[0] > 0 else "W") if abs(to[0]) > abs(to[1]) else ("N" if to[1] > 0 else "S")
        yield f"{format_length(abs(away), units)} {way} OF {run.label}"


def _beside(words: str, x: float, y: float, reach: float, height: float) -> Iterator[Text]:
    """Places for words about a base, ever farther out."""
    for out in range(1, 90):
        for sx, sy in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
            yield Text(x + sx * (reach + 0.8 * out), y + sy * (reach + 0.4 + 1.2 * out), words, height,
                "l" if sx > 0 else "r")  # fmt: skip


# -- details ------------------------------------------------------------------------------------------------
def _details(job: AnchorJob, kinds: Sequence[tuple[str, Kind]], page: int, pages: int) -> Sheet:
    paper = template(SMALL[job.units])
    left, low, right, high = paper.drawing
    wide, tall = (right - left) / _CELLS[0], (high - low) / _CELLS[1]
    most = [max(kind.wide[k] for _, kind in kinds) for k in range(2)]
    scale = next((s for s in _SCALES[job.units] if most[0] / s <= wide - _ROUND[0] and most[1] / s <= tall - _ROUND[1]),
        _SCALES[job.units][-1])  # fmt: skip
    board = Board()
    title = {
        **named(job.name, job.hand, job.on),
        "project": f"{job.project}   {job.number}",
        "sheet": f"{page} OF {pages}",
        "line 1": "BASES AND ROD SCHEDULE",
        "line 2": f"{kinds[0][0]} TO {kinds[-1][0]}" if len(kinds) > 1 else kinds[0][0],
        "line 3": "SEEN FROM ABOVE, THE PLATE'S OWN WAY UP",
        "scale": scale_words(scale, job.units),
        "paper": paper.name,
    }
    fill(board, paper, title)
    numbers = Counter(base.kind for base in job.bases)
    marks = {name: sorted({b.mark for b in job.bases if b.kind == name}, key=natural) for name, _ in kinds}
    for n, (name, kind) in enumerate(kinds):
        column, row = n % _CELLS[0], n // _CELLS[0]
        middle = left + (column + 0.55) * wide, high - (row + 0.45) * tall
        _detail(board, kind, middle, scale, job.units)
        words = _detail_words(name, kind, numbers[name], marks[name], job.units)
        y = middle[1] - kind.wide[1] / 2 / scale - 22.0
        for k, line in enumerate(words):
            board.text(Text(left + column * wide + 6.0, y - 4.4 * k, line, 3.5 if k == 0 else TEXT, "l"))
    table = _rods(kinds, job)
    under, _ = bill(board, paper.column, table.heads, table.rows, table.aligned, paper.column[1] + 60)
    low = revisions(board, paper.column, job.hand.revisions if job.hand else ())
    notes(board, paper.column, list(_said_of_rods(job)), under, low + 2)
    return Sheet(f"{job.name} ({page})", "Bases", "erection", paper.width, paper.height, scale, tuple(board.items),
        job.content, tuple(board.spots), (), (), page, pages)  # fmt: skip


def _rods(kinds: Sequence[tuple[str, Kind]], job: AnchorJob) -> Tabled:
    """The rods of each kind of base, with what they are set and held by."""
    sizes, said = rod_sizes(), partial(format_length, units=job.units)
    heads = ("BASE", "NO", "SIZE", "LONG", "OVER", "GRADE", "HOLE", "WASHER", *(("TEMPL",) if job.template else ()))
    rows = []
    for name, kind in kinds:
        size = sizes.get(kind.size)
        washer = f"{said(size.washer_t)} x {said(size.washer)}" if size else ""
        row = (name, str(len(kind.rods)), kind.size, said(kind.length), said(kind.stands), kind.grade, said(kind.hole),
            washer)  # fmt: skip
        rows.append((*row, *((said(size.d + _TEMPLATE) if size else "",) if job.template else ())))
    return Tabled(heads, rows, "lrllllll" + "l" * job.template)


def _said_of_rods(job: AnchorJob) -> Iterator[str]:
    yield "LONG: LENGTH OF THE ROD; OVER: HOW FAR IT STANDS OVER CONCRETE."
    yield "WASHERS ARE PLATES, ONE TO A ROD, WITH TWO NUTS."
    if job.template:
        yield f"TEMPL: HOLES OF THE SETTING TEMPLATE, {format_length(_TEMPLATE, job.units)} WIDER THAN THE ROD."
    if any(sixteenths(kind.grout) for _, kind in job.kinds):
        yield "GROUT AFTER STEEL IS PLUMB, TO THE THICKNESS GIVEN WITH EACH BASE."


def _detail(board: Board, kind: Kind, at: Spot, scale: float, units: Units) -> None:
    """A base from above with its rods dimensioned from the plate's edges."""

    def there(spot: Spot) -> Spot:
        return at[0] + spot[0] / scale, at[1] + spot[1] / scale

    board.poly(Layer.OUTLINE, [there(p) for p in kind.outline], closed=True)
    if kind.column:
        board.poly(Layer.THIN, [there(p) for p in kind.column], closed=True)
    for rod in kind.rods:
        board.circle(Layer.OUTLINE, *there(rod), kind.hole / 2 / scale)
    half = kind.wide[0] / 2, kind.wide[1] / 2
    reach = half[0] / scale + 1.5, half[1] / scale + 1.5  # clear of the figures next to it
    board.line(Layer.CENTRE, at[0] - reach[0], at[1], at[0] + reach[0], at[1])
    board.line(Layer.CENTRE, at[0], at[1] - reach[1], at[0], at[1] + reach[1])
    xs = sorted({-half[0], half[0], *(u for u, _ in kind.rods)})
    ys = sorted({-half[1], half[1], *(w for _, w in kind.rods)})
    low, left = at[1] - half[1] / scale, at[0] - half[0] / scale
    for a, b in _longest_first(xs):
        straight(board, at[0] + a / scale, at[0] + b / scale, low, low - 6.0, b - a, units)
    straight(board, at[0] + xs[0] / scale, at[0] + xs[-1] / scale, low, low - 13.0, xs[-1] - xs[0], units)
    plan = Plan(board, scale, 0.0, 0.0, units, ())
    for a, b in _longest_first(ys):
        plan.upright(at[1] + a / scale, at[1] + b / scale, left - 7.0, b - a)
    plan.upright(at[1] + ys[0] / scale, at[1] + ys[-1] / scale, left - 14.0, ys[-1] - ys[0])


def _longest_first(stops: Sequence[float]) -> list[tuple[float, float]]:
    """Steps of a chain, so that figures with room have theirs before short ones look for some."""
    return sorted(pairwise(stops), key=lambda step: step[0] - step[1])


def _detail_words(name: str, kind: Kind, number: int, marks: Sequence[str], units: Units) -> list[str]:
    def said(mm: float) -> str:
        return format_length(mm, units)

    some = ", ".join(marks[:_NAMED]) + (f" AND {len(marks) - _NAMED} MORE MARKS" if len(marks) > _NAMED else "")
    lines = [
        f"{name}: {number} REQUIRED",
        f"FOR {some}",
        f"{_plate(kind, units)}, HOLES {said(kind.hole)}",
        f"{len(kind.rods)} RODS {kind.size} {kind.grade} x {said(kind.length)}",
        f"RODS STAND {said(kind.stands)} OVER CONCRETE",
    ]
    return [*lines, f"GROUT {said(kind.grout)}"] if sixteenths(kind.grout) else lines
