"""The steel about a joint as blocks: flat walls and plates, quick to ask what stands in the way of a tool or a bolt."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from itertools import pairwise

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from uncus.catalog.bolts import bolt_size
from uncus.connect.kind import Body, Stock
from uncus.frame.placement import Placement, Vec
from uncus.job.records import End
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Face
from uncus.steel.flats import flat_parts
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, NewPart
from uncus.steel.part import Part

Flags = NDArray[np.bool_]
_STATIONS = 10  # slices of a cylinder in which it is compared with a block
_INSIDE = 0.2  # mm of a shank that must lie in a block for the block to be a ply
_STEP, _MOST_STRIPS = 8.0, 12  # mm by which an end aslant may step from strip to strip, and the most strips of a wall
TOUCH = 0.5  # mm that a tool may be short of its clearance


class Block(msgspec.Struct, frozen=True, eq=False):
    """A cuboid of one piece: frame at its middle, half sizes along the frame's axes; `plate` where it is a plate's
    bounding box, whose own outline decides. `owner` is the assembly it comes with; `wall` the side of a section it is a
    strip of."""

    piece: str
    owner: str
    words: str
    frame: Placement
    half: tuple[float, float, float]
    plate: NewPart | None = None
    wall: Face | None = None


class Blocks:
    """Blocks as arrays: `centre` (m, 3), `axes` (m, 3, 3), `half` (m, 3)."""

    def __init__(self, blocks: Iterable[Block]) -> None:
        self.all = list(blocks)
        self.centre = np.array([b.frame.origin for b in self.all]).reshape(-1, 3)
        self.axes = np.array([b.frame.axes for b in self.all]).reshape(-1, 3, 3)
        self.half = np.array([b.half for b in self.all]).reshape(-1, 3)

    def passed(self, start: Vec, axis: Vec, length: float) -> tuple[Flags, Vec, Vec]:
        """Where lines (n, 3) along one direction pass blocks: (n, m) whether they do within `length`, where they enter
        and where they leave."""
        local = np.einsum("nmi,mij->nmj", start[:, None, :] - self.centre, self.axes)
        along = np.einsum("i,mij->mj", axis, self.axes)
        along = np.where(np.abs(along) < 1e-9, 1e-9, along)
        one, other = (-self.half - local) / along, (self.half - local) / along
        enter, leave = np.minimum(one, other).max(axis=2), np.maximum(one, other).min(axis=2)
        return (leave > enter) & (leave > _INSIDE) & (enter < length - _INSIDE), enter, leave

    def walls(self, some: Flags) -> Flags:
        """Blocks (n, m) and all others that are strips of the same walls."""
        found = some.copy()
        strips = defaultdict(list)
        for n, block in enumerate(self.all):
            if block.wall is not None:
                strips[block.piece, block.wall].append(n)
        for each in strips.values():
            found[:, each] = np.any(some[:, each], axis=1, keepdims=True)
        return found

    def hit(self, start: Vec, axis: Vec, length: Vec, radius: Vec) -> Flags:
        """Whether cylinders from `start` (n, 3) along `axis` (n, 3) meet blocks: (n, m).

        A cylinder is taken in slices, each compared with the nearest point of a block that lies beside it.
        """
        found = np.zeros((len(start), len(self.all)), dtype=bool)
        if not found.size:
            return found
        radius = np.maximum(radius - TOUCH, 0.1)
        along = np.einsum("ni,mij->nmj", axis, self.axes)
        middle = np.einsum("nmi,mij->nmj", (start + axis * (length / 2)[:, None])[:, None] - self.centre, self.axes)
        reach = np.abs(along) * (length / 2)[:, None, None] + radius[:, None, None]
        rows, cols = np.nonzero((np.abs(middle) < self.half + reach).all(axis=2))  # the rest is clear of them by far
        if not len(rows):
            return found
        slices = ((np.arange(_STATIONS) + 0.5) / _STATIONS - 0.5) * length[rows, None]
        along, half = along[rows, cols][:, None], self.half[cols][:, None]
        spots = middle[rows, cols][:, None] + along * slices[:, :, None]
        off = spots - np.clip(spots, -half, half)
        axial = (off * along).sum(axis=2)
        flat = off - axial[:, :, None] * along  # towards the nearest point, but square to the axis
        beside, away = (flat * flat).sum(axis=2), (off * off).sum(axis=2)
        near = (np.abs(axial) <= length[rows, None] / _STATIONS / 2) & (beside < radius[rows, None] ** 2)
        # a face that leans is met in the slice's own plane farther out than its nearest point is
        share = away / np.maximum(beside, 1e-9)
        met = (np.abs(spots - flat * share[:, :, None]) <= half + TOUCH).all(axis=2)
        near |= met & (away * share < radius[rows, None] ** 2)
        for n in np.flatnonzero(near.any(axis=1)):
            i, j = rows[n], cols[n]
            plate = self.all[j].plate
            there = start[i] + axis[i] * (slices[n][near[n], None] + length[i] / 2)
            found[i, j] = plate is None or _meets(plate, there, float(radius[i]))
        return found


def _meets(plate: NewPart, spots: Vec, radius: float) -> bool:
    """Whether any spot is nearer to a plate, by its own outline, than a radius."""
    local = plate.placement.to_local(spots)
    away = shapely.distance(shapely.Polygon(plate.part.outline), shapely.points(local[:, [0, 2]]))
    over = np.maximum(np.abs(local[:, 1]) - plate.part.thickness / 2, 0.0)
    return bool((np.hypot(away, over) < radius).any())


def ends_of(body: Body, stock: Stock, made: Contribution) -> tuple[EndCut | None, EndCut | None]:
    """The cuts that a joint makes at the ends of a member's piece, in the piece's own frame; None where it makes
    none."""
    cuts = {end: cut for owner, end, cut in made.cuts if owner == body.id}
    left, right = cuts.get(End.LEFT), cuts.get(End.RIGHT)
    if float(stock.frame.x @ body.frame.x) > 0:
        return left, right
    # the second angle of some pairs runs the other way; pairs are cut square
    return (EndCut(body.length - right.at) if right else None, EndCut(body.length - left.at) if left else None)


def blocks_of(bodies: Sequence[Body], made: Contribution) -> list[Block]:
    """Members as the joint cuts them, and what it makes."""
    found: list[Block] = []
    for body in bodies:
        for stock in body.stock:
            copes = [f for owner, f in made.features if owner == stock.id and isinstance(f, Cope)]
            left, right = ends_of(body, stock, made)
            ends = left or EndCut(0.0), right or EndCut(body.length)
            found += _walls(stock, body.id, body.words, ends, copes)
    for part in made.parts:
        found += _made(part)
    return found


def blocks_of_piece(id: str, owner: str, words: str, part: Part, placement: Placement) -> list[Block]:
    """A piece as it was made, with its copes."""
    if part.section is None or part.curve is not None:
        return [msgspec.structs.replace(b, piece=id) for b in _made(NewPart(id, part, placement, owner, words))]
    stock = Stock(id, part.section, placement)
    return _walls(stock, owner, words, (part.left, part.right), part.copes)


def _walls(
    stock: Stock, owner: str, words: str, ends: tuple[EndCut, EndCut], copes: Sequence[Cope] = ()
) -> list[Block]:
    if stock.section.form in profile.ROUNDS:
        low, high = ends[0].at, ends[1].at
        half = stock.section.d / 2 * 0.8  # the square that has the circle's area, near enough to say what is in the way
        frame = stock.frame.moved(((low + high) / 2, 0.0, 0.0))
        return [Block(stock.id, owner, words, frame, ((high - low) / 2, half, half))]
    found = []
    for wall in profile.walls(stock.section):
        for low, high in _strips(wall, ends):
            middle, across = (low + high) / 2, (high - low) / 2
            at = (wall.mid, middle) if wall.upright else (middle, wall.mid)
            x0, x1 = ends[0].x(*at), ends[1].x(*at)
            for cope in copes:
                if wall.face is (Face.BOTTOM if cope.bottom else Face.TOP):
                    x0, x1 = (x0, x1 - cope.length) if cope.right else (x0 + cope.length, x1)
            if x1 - x0 < 1.0:
                continue
            y, z = (wall.thickness / 2, across) if wall.upright else (across, wall.thickness / 2)
            frame = stock.frame.moved(((x0 + x1) / 2, *at))
            found.append(Block(stock.id, owner, words, frame, ((x1 - x0) / 2, y, z), wall=wall.face))
    return found


def _strips(wall: profile.Wall, ends: tuple[EndCut, EndCut]) -> list[tuple[float, float]]:
    """A wall from edge to edge, in strips where an end is cut so aslant across it that one block would be far off."""
    aslant = max(abs(cut.kz if wall.upright else cut.ky) for cut in ends) * (wall.hi - wall.lo)
    edges = np.linspace(wall.lo, wall.hi, min(_MOST_STRIPS, 1 + int(aslant / _STEP)) + 1).tolist()
    return list(pairwise(edges))


def _made(new: NewPart) -> list[Block]:
    part = new.part
    if part.section is not None:
        return _walls(Stock(new.key, part.section, new.placement), new.owner, new.words, (part.left, part.right))
    if part.bends:
        each = flat_parts(part, new.placement)
        return [b for one, at in each for b in _made(msgspec.structs.replace(new, part=one, placement=at))]
    (low, high), box = part.depth_range, len(part.outline) == 4
    frame = new.placement.moved((part.length / 2, 0.0, (low + high) / 2))
    half = (part.length / 2, part.thickness / 2, (high - low) / 2)
    full = box and all(x in (0.0, part.length) and z in (low, high) for x, z in part.outline)
    return [Block(new.key, new.owner, new.words, frame, half, None if full else new)]


def bolt_blocks(groups: Iterable[Fasteners]) -> list[Block]:
    """Heads and nuts of bolts put in before: what stands out of the plies on either side."""
    found = []
    for group in groups:
        if group.kind is not FastenerKind.BOLT:
            continue
        size = bolt_size(group.size)
        axis = np.asarray(group.axis)
        side = np.cross(axis, [0.0, 0.0, 1.0] if abs(axis[2]) < 0.9 else [1.0, 0.0, 0.0])
        side /= np.linalg.norm(side)
        axes = np.column_stack([axis, side, np.cross(axis, side)])
        out = max(group.length - group.grip, size.nut_height)
        for at in group.points:
            for middle, height in ((-size.head_height / 2, size.head_height), (group.grip + out / 2, out)):
                frame = Placement(np.asarray(at) + axis * middle, axes)
                half = (height / 2, size.head_flats / 2, size.head_flats / 2)
                found.append(Block(group.key, "", "bolt beside it", frame, half))
    return found


def to_end(cut: EndCut | None, right: bool, x: float, w: float, upright: bool, mid: float) -> float:
    """How far inside a cut end (x, w) on a wall is, less than nothing beyond it; far where the joint cuts none."""
    if cut is None:
        return float("inf")
    slope = cut.kz if upright else cut.ky
    edge = cut.x(mid, w) if upright else cut.x(w, mid)
    return float((edge - x if right else x - edge) / np.hypot(1.0, slope))
