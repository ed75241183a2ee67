"""Nests as pages: a bar or a sheet as it is cut, with what it is cut into; like any sheet, for screen and paper."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence

from uncus.bill.nesting.bars import BarNest, Laid, NestedBar
from uncus.bill.nesting.plates import NestedSheet, PlateNest
from uncus.draw.board import Board
from uncus.draw.lettering import shortened, width
from uncus.draw.sheet import Layer, Sheet, Text
from uncus.units import Units, format_length

_PAPER = {Units.IMPERIAL: (279.4, 215.9), Units.METRIC: (297.0, 210.0)}
_EDGE, _BAR, _EACH = 14.0, 6.0, 21.0
_LETTERS, _TITLE = 2.2, 4.0


def bar_pages(nest: BarNest, units: Units, project: str) -> tuple[Sheet, ...]:
    """Bars to one scale, those cut alike as one with their number; what is left at the right."""
    alike = Counter(_likeness(bar) for bar in nest.bars)
    first: dict[object, NestedBar] = {}
    for bar in nest.bars:
        first.setdefault(_likeness(bar), bar)
    bars = [(bar, alike[key]) for key, bar in first.items()]
    wide, high = _PAPER[units]
    longest = max((bar.length for bar, _ in bars), default=1.0)
    scale = longest / (wide - 2 * _EDGE)
    many = max(1, int((high - 2 * _EDGE - 24.0) / _EACH))
    parts = [bars[i : i + many] for i in range(0, len(bars), many)] or [[]]
    said = f"DROP {100 * nest.drop:.1f} %, {100 * nest.over_bound:.2f} % OVER THE LEAST THERE CAN BE"
    return tuple(
        _page("bars", "Bars as they are cut", board, (wide, high), (project, said), (n, len(parts)), scale)
        for n, part in enumerate(parts, 1)
        for board in (_bars(part, scale, high, units),)
    )


def _likeness(bar: NestedBar) -> object:
    pieces = tuple((one.cut.mark, round(one.cut.length, 1), round(one.at, 1), one.turned) for one in bar.laid)
    return bar.section, bar.grade, bar.lot, bar.length, bar.offcut, pieces


def _bars(bars: Sequence[tuple[NestedBar, int]], scale: float, high: float, units: Units) -> Board:
    board, y = Board(), high - _EDGE - 24.0
    for bar, number in bars:
        words = " ".join(filter(None, (f"{number} x" if number > 1 else "", bar.section, bar.grade)))
        more = f"OFFCUT {bar.offcut}" if bar.offcut else format_length(bar.length, units)
        lot = f"   LOT {bar.lot}" if bar.lot else ""
        board.text(Text(_EDGE, y + 2.0, f"{words}   {more}{lot}", 2.5))
        board.poly(Layer.OUTLINE, _ring(_EDGE, y - _BAR - 1.0, bar.length / scale, _BAR), closed=True)
        for one in bar.laid:
            x, long = _EDGE + one.at / scale, one.cut.length / scale
            low = y - _BAR - 1.0
            board.poly(Layer.DIMENSION, _side(one, x, low, scale), closed=True, inked=False)
            room = long - 1.0
            for row, said in enumerate((one.cut.mark, format_length(one.cut.length, units))):
                fit = shortened(said, _LETTERS, room) if room > 4.0 else ""
                if fit and width(fit, _LETTERS, True) <= room:
                    at = low + _BAR / 2 if row == 0 else low - 2.2
                    board.text(Text(x + long / 2, at, fit, _LETTERS, "c", narrow=True))
        if bar.rest / scale > 1.0:
            x = _EDGE + (bar.length - bar.rest) / scale
            fit = shortened(f"LEFT {format_length(bar.rest, units)}", _LETTERS, max(bar.rest / scale, 4.0))
            board.text(Text(x + bar.rest / scale / 2, y - _BAR / 2 - 1.0, fit, _LETTERS, "c", narrow=True))
        y -= _EACH
    return board


def _side(one: Laid, x: float, low: float, scale: float) -> tuple[tuple[float, float], ...]:
    """A piece seen from the side: below from and to where it reaches, then above."""
    cut, right = one.cut, x + one.cut.length / scale
    lean = cut.saves / scale
    if cut.pairs:
        below, above = (x, right), ((x, right - lean) if not one.turned else (x, right))
        if one.turned:
            below = (x + lean, right)
    elif cut.turns:
        below, above = (x, right), (x + lean, right - lean)
        if one.turned:
            below, above = above, below
    else:
        below, above = (x, right - lean), (x + lean, right)
    return (below[0], low), (below[1], low), (above[1], low + _BAR), (above[0], low + _BAR)


def _ring(x: float, y: float, wide: float, high: float) -> tuple[tuple[float, float], ...]:
    return (x, y), (x + wide, y), (x + wide, y + high), (x, y + high)


def plate_pages(nest: PlateNest, units: Units, project: str) -> tuple[Sheet, ...]:
    """Each sheet as large as it goes on a page, the plates with their marks."""
    return tuple(_plate_page(s, n, len(nest.sheets), units, project) for n, s in enumerate(nest.sheets, 1))


def _plate_page(sheet: NestedSheet, number: int, of: int, units: Units, project: str) -> Sheet:
    wide, high = _PAPER[units]
    scale = max(sheet.long / (wide - 2 * _EDGE), sheet.wide / (high - 2 * _EDGE - 34.0))
    x, y = _EDGE, _EDGE + 10.0
    board = Board()
    board.poly(Layer.OUTLINE, _ring(x, y, sheet.long / scale, sheet.wide / scale), closed=True)
    for plate in sheet.plates:
        for ring in (plate.outline.exterior, *plate.outline.interiors):
            points = tuple((x + px / scale, y + py / scale) for px, py in ring.coords[:-1])
            board.poly(Layer.DIMENSION, points, closed=True, inked=False)
        at = plate.outline.representative_point()
        left, _, right, _ = plate.outline.bounds
        fit = shortened(plate.blank.mark, _LETTERS, (right - left) / scale)
        if fit and width(fit, _LETTERS, True) <= (right - left) / scale:
            board.text(Text(x + at.x / scale, y + at.y / scale, fit, _LETTERS, "c", narrow=True))
    size = f"{format_length(sheet.long, units)} x {format_length(sheet.wide, units)}"
    what = f"PL {format_length(sheet.thickness, units)} {sheet.grade}".strip()
    words = f"{what}   {f'OFFCUT {sheet.offcut}' if sheet.offcut else size}"
    said = f"{len(sheet.plates)} PLATES, {100 * sheet.fill:.1f} % FILLED"
    return _page("plates", words, board, (wide, high), (project, said), (number, of), scale)


def _page(
    name: str,
    title: str,
    board: Board,
    paper: tuple[float, float],
    said: tuple[str, str],
    of: tuple[int, int],
    scale: float,
) -> Sheet:
    (wide, high), (project, words), (number, count) = paper, said, of
    board.text(Text(_EDGE, high - _EDGE - _TITLE / 2, title, _TITLE))
    board.text(Text(_EDGE, high - _EDGE - 9.0, f"{project}   {words}", 2.5))
    board.text(Text(wide - _EDGE, _EDGE + 2.0, f"{number} of {count}", _LETTERS, "r"))
    own = name if count == 1 else f"{name} ({number})"
    return Sheet(own, title, "nest", wide, high, scale, tuple(board.items), spots=tuple(board.spots),
        number=number, of=count)  # fmt: skip


def listed_bars(bars: Iterable[NestedBar]) -> Iterator[dict[str, object]]:
    """Bars as plain data."""
    for bar in bars:
        cuts = [
            {"piece": o.cut.id, "mark": o.cut.mark, "length_mm": round(o.cut.length, 3), "at_mm": round(o.at, 3),
                "turned": o.turned}
            for o in bar.laid
        ]  # fmt: skip
        yield {"section": bar.section, "grade": bar.grade, "lot": bar.lot, "length_mm": bar.length,
            "offcut": bar.offcut, "left_mm": round(bar.rest, 3), "cuts": cuts}  # fmt: skip


def listed_sheets(sheets: Iterable[NestedSheet]) -> Iterator[dict[str, object]]:
    """Sheets as plain data."""
    for s in sheets:
        plates = [
            {"piece": p.blank.id, "mark": p.blank.mark, "angle": p.angle, "x_mm": round(p.x, 3), "y_mm": round(p.y, 3)}
            for p in s.plates
        ]
        yield {"thickness_mm": s.thickness, "grade": s.grade, "long_mm": s.long, "wide_mm": s.wide,
            "offcut": s.offcut, "fill": round(s.fill, 4), "plates": plates}  # fmt: skip
