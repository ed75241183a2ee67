"""A part: one piece of steel before it is joined to others."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

import msgspec

from uncus.catalog.sections import Form, Section
from uncus.frame.placement import settled_one
from uncus.job.blanks import Lugs
from uncus.steel.features import Cope, EndCut, Feature, Hole, Notch, Thread, rounded, shifted
from uncus.steel.forming import Bend, Coil, Curve, Item
from uncus.steel.profile import outline as section_outline

_FINE = 4  # places of a mm: sixteenths of an inch are whole, and what a turn in the building leaves is not seen


class Part(msgspec.Struct, frozen=True, gc=False, cache_hash=True):
    """A rolled length or a flat plate, with its features; equal parts compare equal and hash alike.

    Rolled: `section`, `left` and `right` cuts, x from 0 to `length` over all.
    Plate: `outline` of (x, z) points, counter-clockwise seen from -y, `thickness` along y, both about the middle.
    A rolled part may be formed to a `curve` or `coil`, a plate along `bends`: all else is said of the straight or flat
    piece.
    A bought part has its `item`; it is not made here. A plate that is checkered or a grating says so by its `surface`.
    """

    grade: str
    finish: str
    length: float
    left: EndCut
    right: EndCut
    section: Section | None = None
    outline: tuple[tuple[float, float], ...] = ()
    thickness: float = 0.0
    features: tuple[Feature, ...] = ()
    curve: Curve | None = None
    bends: tuple[Bend, ...] = ()
    item: Item | None = None
    coil: Coil | None = None
    surface: Lugs | None = None

    @property
    def is_formed(self) -> bool:
        return self.curve is not None or self.coil is not None or bool(self.bends)

    @property
    def is_grating(self) -> bool:
        """A panel of bars: bought by its size and cut by it, on no NC machine."""
        return self.surface is not None and self.surface.kg_m2 > 0

    @property
    def rolling(self) -> Curve | Coil | None:
        """What a rolled length is formed to."""
        return self.curve or self.coil

    @property
    def is_plate(self) -> bool:
        return self.section is None

    @property
    def width(self) -> float:
        """Depth of a section or height of a plate's outline."""
        if self.section is not None:
            return self.section.d
        zs = [z for _, z in self.outline]
        return max(zs) - min(zs)

    @property
    def depth_range(self) -> tuple[float, float]:
        """Lowest and highest z."""
        if self.section is not None:
            return -self.section.d / 2, self.section.d / 2
        zs = [z for _, z in self.outline]
        return min(zs), max(zs)

    @property
    def centre(self) -> tuple[float, float, float]:
        """The middle of its length and depth; of a bent plate, laid flat."""
        low, high = self.depth_range
        return self.length / 2, 0.0, (low + high) / 2

    @property
    def y_range(self) -> tuple[float, float]:
        half = self.section.b / 2 if self.section is not None else self.thickness / 2
        return -half, half

    @property
    def holes(self) -> tuple[Hole, ...]:
        return tuple(f for f in self.features if isinstance(f, Hole))

    @property
    def copes(self) -> tuple[Cope, ...]:
        return tuple(f for f in self.features if isinstance(f, Cope))

    @property
    def notches(self) -> tuple[Notch, ...]:
        return tuple(f for f in self.features if isinstance(f, Notch))

    @property
    def threads(self) -> tuple[Thread, ...]:
        return tuple(f for f in self.features if isinstance(f, Thread))

    @property
    def form(self) -> Form | None:
        return self.section.form if self.section is not None else None


def _sorted(features: Iterable[Feature]) -> tuple[Feature, ...]:
    unique = {rounded(f) for f in features}
    return tuple(sorted(unique, key=lambda f: (type(f).__name__, msgspec.structs.astuple(f))))


def rolled(
    section: Section,
    grade: str,
    finish: str,
    left: EndCut,
    right: EndCut,
    features: Iterable[Feature] = (),
    curve: Curve | Coil | None = None,
) -> tuple[Part, float]:
    """A rolled part from cuts and features in its member's frame, and how far its left end lies along that frame.
    Members cut and worked alike are one and the same part.

    Raises ValueError where nothing is left between the ends.
    """
    return _rolled(section, grade, finish, left, right, tuple(features), curve)


@lru_cache(maxsize=16384)
def _rolled(
    section: Section,
    grade: str,
    finish: str,
    left: EndCut,
    right: EndCut,
    features: tuple[Feature, ...],
    curve: Curve | Coil | None,
) -> tuple[Part, float]:
    corners = list(section_outline(section).convex_hull.exterior.coords)
    x0 = min(left.x(y, z) for y, z in corners)
    x1 = max(right.x(y, z) for y, z in corners)
    if min(right.x(y, z) - left.x(y, z) for y, z in corners) < 1.0:
        raise ValueError("its ends meet: nothing is left between them")
    ends = [EndCut(settled_one(c.at - x0, _FINE), settled_one(c.ky, 7), settled_one(c.kz, 7), c.saddle)
        for c in (left, right)]  # fmt: skip
    moved = _sorted(shifted(f, -x0) for f in features)
    length = settled_one(x1 - x0, _FINE)
    arc, coil = (None, curve) if isinstance(curve, Coil) else (curve, None)
    made = Part(grade, finish, length, ends[0], ends[1], section=section, features=moved, curve=arc, coil=coil)
    return made, x0


def plate(
    outline: Iterable[tuple[float, float]],
    thickness: float,
    grade: str,
    finish: str,
    features: Iterable[Feature] = (),
    bends: Iterable[Bend] = (),
    item: Item | None = None,
) -> Part:
    """A flat plate; the outline's least x becomes 0 and its z is kept, and it begins at its lowest corner there.
    Points may come in either sense."""
    points = [(float(x), float(z)) for x, z in outline]
    x0 = min(x for x, _ in points)
    twice = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, points[1:] + points[:1], strict=True))
    if twice < 0:
        points.reverse()
    kept = [(settled_one(x - x0, _FINE), settled_one(z, _FINE)) for x, z in points]
    first = kept.index(min(kept))  # wherever whoever set it out began
    kept = kept[first:] + kept[:first]
    length = max(x for x, _ in kept)
    moved = _sorted(shifted(f, -x0) for f in features)
    lines = tuple(b.moved(-x0) for b in bends)
    return Part(
        grade,
        finish,
        length,
        EndCut(0.0),
        EndCut(length),
        outline=tuple(kept),
        thickness=settled_one(thickness, _FINE),
        features=moved,
        bends=lines,
        item=item,
    )
