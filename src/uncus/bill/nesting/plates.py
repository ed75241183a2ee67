"""Plates laid on sheets by their true outlines: turned, with gaps, small ones inside openings of large ones.

Two ways, of which the one that takes less sheet is kept: rectangles about the outlines, and outlines themselves, each
put as far to the left as nothing is in its way. For that a sheet is a picture of squares, and where a shape meets
nothing is where its picture convolved with the sheet's is nothing (by fast Fourier transform); what the squares say is
then proved on the outlines.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon, affinity
from shapely.geometry.base import BaseGeometry

from uncus.bill.nesting.rectangles import RULES, Score, filled, orders
from uncus.job.billing import Offcut, PlateSize, StockRules
from uncus.mark.marking import natural
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.features import Face
from uncus.steel.flat import as_plate, face_outline, is_cut_from_plate
from uncus.steel.forming import laid_flat
from uncus.steel.part import Part
from uncus.units import Units, counted, format_length

_SQUARES = 420  # along the longer side of a sheet
_FINEST = 2.0  # mm of a square
_TRIES = 24  # places that the squares offer, proved one after the other
_NUDGES = ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0))  # squares
_PROVED = 1e-3  # mm
_FEW = 400  # plates whose outlines are laid; more go by their rectangles alone
_COARSE = 0.2  # mm that an outline may be simplified by


class Blank(msgspec.Struct, frozen=True, eq=False):
    """A plate to be cut: its outline as it lies flat (mm), openings in it."""

    id: str
    mark: str
    grade: str
    thickness: float
    outline: Polygon
    part: Part | None = None


class Spread(msgspec.Struct, frozen=True, eq=False):
    """A plate on its sheet: turned about its own origin by `angle` degrees, then moved; its outline there."""

    blank: Blank
    angle: float
    x: float
    y: float
    outline: Polygon


class NestedSheet(msgspec.Struct, frozen=True, eq=False):
    """A sheet (or offcut, by its mark) and what is cut from it."""

    thickness: float
    grade: str
    long: float
    wide: float
    plates: tuple[Spread, ...]
    offcut: str = ""

    @property
    def fill(self) -> float:
        return float(sum(p.outline.area for p in self.plates) / (self.long * self.wide))


class PlateNest(msgspec.Struct, frozen=True, eq=False):
    sheets: tuple[NestedSheet, ...]
    told: tuple[str, ...]

    @property
    def fill(self) -> float:
        """The share of all sheets that becomes plates."""
        area = sum(s.long * s.wide for s in self.sheets)
        return sum(p.outline.area for s in self.sheets for p in s.plates) / area if area else 0.0


class _Size(NamedTuple):
    long: float
    wide: float
    number: int | None
    offcut: str = ""


def blanks_of(assemblies: Iterable[Assembly], mark: Callable[[Piece], str]) -> list[Blank]:
    """Everything that is cut from plate, gratings apart."""
    found = []
    for a in assemblies:
        for piece in a.pieces:
            part = as_plate(piece.part)
            if is_cut_from_plate(piece.part) and part.item is None and not part.is_grating:
                flat = face_outline(laid_flat(part), Face.WEB)
                found.append(Blank(piece.id, mark(piece), part.grade, round(part.thickness, 2), _plain(flat), part))
    return found


def _plain(outline: Polygon) -> Polygon:
    x, y, _, _ = outline.bounds
    return affinity.translate(outline.simplify(_COARSE), -x, -y)


def nest_plates(
    blanks: Iterable[Blank],
    rules: StockRules,
    offcuts: Iterable[Offcut] = (),
    units: Units = Units.IMPERIAL,
    tell: Callable[[int, int, str], None] = lambda done, of, words: None,
    stopped: Callable[[], bool] = lambda: False,
) -> PlateNest:
    """Sheets for all plates, those of one thickness and grade together."""
    asked: dict[tuple[float, str], list[Blank]] = defaultdict(list)
    for blank in blanks:
        asked[blank.thickness, blank.grade].append(blank)
    there = [o for o in offcuts if not o.used and o.wide]
    sheets, told = list[NestedSheet](), list[str]()
    for done, key in enumerate(sorted(asked)):
        if stopped():
            break
        thick, grade = key
        tell(done, len(asked), f"PL {format_length(thick, units)} {grade}".strip())
        own = sorted(asked[key], key=lambda b: (-b.outline.area, natural(b.mark), b.id))
        have = [o for o in there if abs(o.thickness - thick) < 0.02 and o.grade == grade]
        sizes = [_Size(o.length, o.wide, 1, o.mark) for o in have] + [
            _Size(p.long, p.wide, p.number or None) for p in sizes_for(rules, thick, grade)
        ]
        made, left = _sheets(own, sizes, rules, stopped)
        sheets += [NestedSheet(thick, grade, s.long, s.wide, tuple(spread), s.offcut) for s, spread in made]
        if left and not stopped():
            marks = sorted({b.mark or b.id for b in left}, key=natural)
            told.append(
                f"{counted(len(left), 'plate')} {format_length(thick, units)} thick ({', '.join(marks[:4])}) found no "
                "sheet large enough; add a larger size, or more of it, to the stock."
            )
    return PlateNest(tuple(sheets), tuple(told))


def sizes_for(rules: StockRules, thick: float, grade: str) -> list[PlateSize]:
    """The sizes a plate can be had in: those said of its thickness before those of any."""
    fit = [p for p in rules.plates if p.grade in ("", grade) and (not p.thickness or abs(p.thickness - thick) < 0.02)]
    own = [p for p in fit if p.thickness]
    return own or fit


_Laid = list[tuple[_Size, list[Spread]]]


def _sheets(
    blanks: Sequence[Blank], sizes: Sequence[_Size], rules: StockRules, stopped: Callable[[], bool]
) -> tuple[_Laid, list[Blank]]:
    """Sheet after sheet, each of the size that is filled best by what is left."""
    made: _Laid = []
    left, there = list(blanks), {n: s.number for n, s in enumerate(sizes)}
    while left and not stopped():
        best: tuple[float, int, list[Spread]] | None = None
        for n, size in enumerate(sizes):
            if there[n] == 0:
                continue
            spread = _filled(left, size, rules, stopped)
            worth = sum(s.outline.area for s in spread) / (size.long * size.wide) * (2.0 if size.offcut else 1.0)
            if len(spread) == len(left):  # the last sheet: the smallest that takes all
                worth += 1e6 / (size.long * size.wide)
            if spread and (best is None or worth > best[0]):
                best = worth, n, spread
        if best is None:
            break
        _, n, spread = best
        made.append((sizes[n], spread))
        number = there[n]
        there[n] = None if number is None else number - 1
        taken = {id(s.blank) for s in spread}
        left = [b for b in left if id(b) not in taken]
    return made, left


def _filled(blanks: Sequence[Blank], size: _Size, rules: StockRules, stopped: Callable[[], bool]) -> list[Spread]:
    """What goes on one sheet: by rectangles in every way, and by outlines; that with the most area on it."""
    grown = [_grown(b, rules) for b in blanks]
    ways = list(orders([(wide, high) for _, wide, high in grown]))
    tries = [_by_rectangles(blanks, grown, size, rules, order, score) for order in ways for score in RULES]
    if len(blanks) <= _FEW and not all(_is_box(b.outline) for b in blanks[:_FEW]):
        tries.append(_by_outlines(blanks, size, rules, stopped))
    return max(tries, key=lambda spread: sum(s.outline.area for s in spread))


def _is_box(outline: Polygon) -> bool:
    x0, y0, x1, y1 = outline.bounds
    return not outline.interiors and outline.area > 0.999 * (x1 - x0) * (y1 - y0)


def _grown(blank: Blank, rules: StockRules) -> tuple[float, float, float]:
    """The angle at which a plate's rectangle is the least, and its sides with the gap."""
    angle, (wide, high) = _flattest(blank.outline, rules.turns)
    return angle, wide + rules.gap, high + rules.gap


def _flattest(outline: Polygon, turns: int) -> tuple[float, tuple[float, float]]:
    sides = [(*_sides(_turned(outline, angle)), angle) for angle in _angles(turns)]
    wide, high, angle = min(sides, key=lambda one: (round(one[0] * one[1], 3), one[2]))
    return angle, (wide, high)


def _angles(turns: int) -> list[float]:
    return [360.0 / turns * n for n in range(turns)]


def _turned(outline: Polygon, angle: float) -> Polygon:
    return affinity.rotate(outline, angle, (0, 0)) if angle else outline


def _sides(outline: Polygon) -> tuple[float, float]:
    x0, y0, x1, y1 = outline.bounds
    return x1 - x0, y1 - y0


def _room(size: _Size, rules: StockRules) -> tuple[float, float]:
    """What of a sheet can be used, with a gap beyond it that a plate's own gap may lie in."""
    return size.long - 2 * rules.margin + rules.gap, size.wide - 2 * rules.margin + rules.gap


def _spread(blank: Blank, angle: float, left: float, low: float) -> Spread:
    """A plate turned, with its box's lower left corner there."""
    outline = _turned(blank.outline, angle)
    x, y = left - outline.bounds[0], low - outline.bounds[1]
    return Spread(blank, angle % 360.0, x, y, affinity.translate(outline, x, y))


def _by_rectangles(
    blanks: Sequence[Blank],
    grown: Sequence[tuple[float, float, float]],
    size: _Size,
    rules: StockRules,
    order: Sequence[int],
    score: Score,
) -> list[Spread]:
    can_turn = rules.turns % 4 == 0
    spots = filled([g[1:] for g in grown], order, *_room(size, rules), score, can_turn)
    return [
        _spread(
            blanks[s.number], grown[s.number][0] + (90.0 if s.turned else 0.0), rules.margin + s.x, rules.margin + s.y
        )
        for s in spots
    ]


# -- by outlines ------------------------------------------------------------------------------------------
class _Board:
    """What of a sheet can be used, as squares from its lower left corner on, and the plates on it, each with half a gap
    about it."""

    def __init__(self, size: _Size, rules: StockRules) -> None:
        self.size, self.rules = size, rules
        self.step = max(_FINEST, max(size.long, size.wide) / _SQUARES)
        self.edge = rules.margin - rules.gap / 2  # half a gap about each plate may lie in the margin
        room = size.long - 2 * self.edge, size.wide - 2 * self.edge
        self.shape = max(0, math.ceil(room[0] / self.step)), max(0, math.ceil(room[1] / self.step))
        self.laid: list[Spread] = []
        self._taken = np.zeros(self.shape, dtype=np.float32)
        self._sheet = shapely.box(0, 0, size.long, size.wide).buffer(-rules.margin, join_style="mitre")
        self._kept: dict[tuple[int, float], tuple[NDArray[np.float32], NDArray[np.bool_]]] = {}

    def picture(self, outline: BaseGeometry, origin: tuple[float, float], shape: tuple[int, int]) -> NDArray[np.bool_]:
        """The squares whose middles lie in an outline."""
        x = origin[0] + (np.arange(shape[0]) + 0.5) * self.step
        y = origin[1] + (np.arange(shape[1]) + 0.5) * self.step
        gx, gy = np.meshgrid(x, y, indexing="ij")
        return np.asarray(shapely.contains_xy(outline, gx.ravel(), gy.ravel()).reshape(shape))

    def free(self, number: int, angle: float, outline: Polygon) -> NDArray[np.bool_]:
        """Where the lower left square of a turned outline's picture may be; kept for plates alike, and only narrowed
        by what came since."""
        from scipy.signal import fftconvolve

        grown = outline.buffer(self.rules.gap / 2)
        wide, high = _sides(grown)
        shape = max(1, math.ceil(wide / self.step)), max(1, math.ceil(high / self.step))
        key = number, angle
        if key not in self._kept:
            mask = self.picture(grown, (grown.bounds[0], grown.bounds[1]), shape).astype(np.float32)
            room = (self.shape[0] - shape[0] + 1, self.shape[1] - shape[1] + 1)
            if min(room) <= 0:
                return np.zeros((0, 0), dtype=bool)
            hits = fftconvolve(self._taken, mask[::-1, ::-1], mode="valid")
            self._kept[key] = mask, hits < 0.5
        return self._kept[key][1]

    def put(self, spread: Spread) -> None:
        """A plate on the sheet: squares about it are taken, and known places narrowed."""
        from scipy.signal import fftconvolve

        self.laid.append(spread)
        grown = spread.outline.buffer(self.rules.gap / 2)
        if not self.rules.inside:
            grown = Polygon(grown.exterior)
        x0, y0, x1, y1 = (n - self.edge for n in grown.bounds)
        i0, j0 = max(0, int(x0 // self.step)), max(0, int(y0 // self.step))
        i1, j1 = min(self.shape[0], int(x1 // self.step) + 1), min(self.shape[1], int(y1 // self.step) + 1)
        own = self.picture(grown, (self.edge + i0 * self.step, self.edge + j0 * self.step), (i1 - i0, j1 - j0)).astype(
            np.float32
        )
        self._taken[i0:i1, j0:j1] = np.maximum(self._taken[i0:i1, j0:j1], own)
        for mask, there in self._kept.values():
            a0, b0 = max(0, i0 - mask.shape[0] + 1), max(0, j0 - mask.shape[1] + 1)
            a1, b1 = min(there.shape[0], i1), min(there.shape[1], j1)
            if a1 <= a0 or b1 <= b0:
                continue
            window = np.zeros((a1 - a0 + mask.shape[0] - 1, b1 - b0 + mask.shape[1] - 1), dtype=np.float32)
            window[i0 - a0 : i0 - a0 + own.shape[0], j0 - b0 : j0 - b0 + own.shape[1]] = own
            there[a0:a1, b0:b1] &= fftconvolve(window, mask[::-1, ::-1], mode="valid") < 0.5

    def proved(self, blank: Blank, angle: float, left: float, low: float) -> Spread | None:
        """The plate there, or a hair beside it, where it keeps its gaps; slid left and down as far as it goes."""
        for dx, dy in _NUDGES:
            one = _spread(blank, angle, left + dx * self.step, low + dy * self.step)
            if self._is_clear(one):
                return self._slid(one)
        return None

    def _is_clear(self, one: Spread) -> bool:
        if not self._sheet.buffer(_PROVED).contains(one.outline):
            return False
        gap = self.rules.gap - _PROVED
        near = one.outline.buffer(gap + 1.0).bounds
        for other in self.laid:
            b = other.outline.bounds
            if b[0] < near[2] and near[0] < b[2] and b[1] < near[3] and near[1] < b[3]:
                solid = other.outline if self.rules.inside else Polygon(other.outline.exterior)
                if solid.distance(one.outline) < gap:
                    return False
        return True

    def _slid(self, one: Spread) -> Spread:
        for way in ((-1.0, 0.0), (0.0, -1.0)):
            reach = 2.0 * self.step
            while reach > 0.2:
                moved = msgspec.structs.replace(one, x=one.x + way[0] * reach, y=one.y + way[1] * reach,
                    outline=affinity.translate(one.outline, way[0] * reach, way[1] * reach))  # fmt: skip
                if self._is_clear(moved):
                    one = moved
                else:
                    reach /= 2.0
        return one


def _by_outlines(blanks: Sequence[Blank], size: _Size, rules: StockRules, stopped: Callable[[], bool]) -> list[Spread]:
    """The largest first, each as far to the left as it goes in any of its turns."""
    board = _Board(size, rules)
    alike: dict[bytes, int] = {}
    area = size.long * size.wide
    full: set[int] = set()
    for blank in blanks:
        if stopped():
            break
        number = alike.setdefault(shapely.to_wkb(shapely.set_precision(blank.outline, 0.1)), len(alike))
        if number in full or blank.outline.area > area:
            continue
        best = _leftmost_place(board, blank, number)
        if best is None:
            full.add(number)
        else:
            board.put(best)
            area -= best.outline.area
    return board.laid


def _leftmost_place(board: _Board, blank: Blank, number: int) -> Spread | None:
    best: Spread | None = None
    for angle in _angles(board.rules.turns):
        outline = _turned(blank.outline, angle)
        there = board.free(number, angle, outline)
        spots = np.argwhere(there)
        wide = _sides(outline)[0]
        for i, j in spots[:_TRIES].tolist():  # by columns: from the left, then from below
            left, low = board.rules.margin + i * board.step, board.rules.margin + j * board.step
            if best is not None and left + wide > best.outline.bounds[2] + board.step:
                break
            one = board.proved(blank, angle, left, low)
            if one is not None:
                if best is None or (one.outline.bounds[2], one.outline.bounds[1]) < (
                    best.outline.bounds[2],
                    best.outline.bounds[1],
                ):
                    best = one
                break
            there[i, j] = False
    return best
