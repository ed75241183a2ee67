"""Two angles as one member: where each lies, and the stitch plates that hold them together.

Seen from the left end the pair is symmetrical about the member's own axis: back to back with the upright legs at the
gap, or as a star with the heels at the gap. The second angle of a back to back pair is the same stock turned end for
end, that of a star turned half round.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, Section, in_millimetres
from uncus.frame.placement import Placement
from uncus.job.records import Double, Layout, Leg
from uncus.steel.features import EndCut, Feature
from uncus.steel.joint import Weld, point
from uncus.steel.part import Part, plate, rolled

_CLEAR = 250.0  # mm from a bolt to the middle of a stitch plate: the joint's own plate ends between them
_X_QUARTER = np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]])  # columns: section axes turned 90 degrees about x
_X_HALF = np.diag([1.0, -1.0, -1.0])
_Z_HALF = np.diag([-1.0, -1.0, 1.0])


class _Stitch(NamedTuple):
    """A stitch plate, mm: how far it stands out past the legs, for its weld; its width along the member; the fillets
    on both edges."""

    over: float
    wide: float
    weld: float


_INCHES, _MILLIMETRES = _Stitch(12.7, 63.5, 4.7625), _Stitch(12.0, 65.0, 5.0)


def _stitch(section: Section) -> _Stitch:
    return _MILLIMETRES if in_millimetres(section.d) else _INCHES


class Set(msgspec.Struct, frozen=True, eq=False):
    """A part of the pair, where it lies in the member's frame, and its words."""

    key: str
    part: Part
    place: Placement
    words: str


def fits(section: Section) -> bool:
    return section.form is Form.ANGLE


def _upright(section: Section, double: Double) -> float:
    """Height of the legs that lie back to back."""
    return section.b if double.leg is Leg.SHORT and double.layout is Layout.BACK_TO_BACK else section.d


def frames(section: Section, double: Double, length: float) -> tuple[Placement, Placement]:
    """Where each angle's own frame lies in the member's: from its left work point, or from its right one for an angle
    that is turned end for end."""
    g, b, d = double.gap / 2, section.b / 2, section.d / 2
    plain = np.eye(3)
    if double.layout is Layout.STAR:
        return Placement((0.0, g + b, g + d), plain), Placement((0.0, -g - b, -g - d), _X_HALF)
    if double.leg is Leg.LONG:
        return Placement((0.0, g + b, 0.0), plain), Placement((length, -g - b, 0.0), _Z_HALF)
    # a quarter turn brings the short leg upright, its back to +y: that is the pair's half at -y
    return Placement((length, g + d, 0.0), _Z_HALF @ _X_QUARTER), Placement((0.0, -g - d, 0.0), _X_QUARTER)


def angles(
    section: Section,
    double: Double,
    grade: str,
    finish: str,
    length: float,
    ends: tuple[float, float],
    features: tuple[Sequence[Feature], Sequence[Feature]] = ((), ()),
) -> tuple[Set, Set]:
    """Both angles of a pair between work points `length` apart, square at `ends` along it; each angle's features in its
    own frame. Raises ValueError where nothing is left."""
    made = []
    for frame, own, key, words in zip(
        frames(section, double, length), features, ("", "mate"), ("angle", "second angle"), strict=True
    ):
        turned = frame.axes[0, 0] < 0
        left, right = (length - ends[1], length - ends[0]) if turned else ends
        part, shift = rolled(section, grade, finish, EndCut(left), EndCut(right), own)
        made.append(Set(key, part, frame.moved((shift, 0.0, 0.0)), words))
    return made[0], made[1]


def stitch_positions(double: Double, length: float) -> list[float]:
    """Where stitch plates stand along the pair: as many as asked, or no farther apart than the largest spacing."""
    count = double.stitches
    if count is None:
        count = 0 if double.spacing is None else max(0, math.ceil(length / double.spacing - 1e-4) - 1)
    return [length * (n + 1) / (count + 1) for n in range(count)]


def stitches(
    section: Section, double: Double, grade: str, finish: str, left: float, right: float, held: Sequence[float] = ()
) -> list[Set]:
    """The stitch plates; of a star every other one is turned a quarter. None where bolts at x `held` pass both
    angles: what they hold between them stands there."""
    if double.gap < 3.0:
        return []
    out, (over, wide, _) = [], _stitch(section)
    for n, at in enumerate(stitch_positions(double, right - left)):
        if any(abs(left + at - x) < _CLEAR for x in held):
            continue
        if double.layout is Layout.STAR:
            flat = n % 2 == 1
            half = (section.b if flat else section.d) + double.gap / 2 + over
            turn = _X_QUARTER if flat else np.eye(3)
        else:
            half, turn = _upright(section, double) / 2 + over, np.eye(3)
        part = plate([(0, -half), (wide, -half), (wide, half), (0, half)], double.gap, grade, finish)
        out.append(Set(f"stitch{n + 1}", part, Placement((left + at - wide / 2, 0, 0), turn), "stitch plate"))
    return out


def stitch_welds(plates: Iterable[Set], frame: Placement, owner: str, section: Section, double: Double) -> list[Weld]:
    """A fillet along each upright edge of a stitch plate, to both angles."""
    out, (over, wide, size) = [], _stitch(section)
    leg = _upright(section, double) / 2
    for one in plates:
        low, high = (-leg, leg) if double.layout is Layout.BACK_TO_BACK else (one.part.depth_range[0] + over,
            one.part.depth_range[1] - over)  # fmt: skip
        for side, mate in ((1, owner), (-1, f"{owner}/mate")):
            for x in (0.0, wide):
                a, b = (frame @ one.place).to_model([(x, side * double.gap / 2, low), (x, side * double.gap / 2, high)])
                key = f"{one.key}/{'back' if side > 0 else 'front'}{x:.0f}"
                out.append(Weld(key, size, (point(a), point(b)), (f"{owner}/{one.key}", mate), 1, field=False))
    return out
