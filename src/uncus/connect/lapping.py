"""Where a plate laps a brace: the back of an angle's leg, a channel's web or a tee's stem, or the gap of a pair."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from uncus.catalog.bolts import BoltSize
from uncus.catalog.sections import Form, usual_gage
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.job.records import Layout, Leg


class Lap(NamedTuple):
    """In the member's frame, mm: y of the `back` a plate lies on; lines of bolts, each z and which pieces of the member
    they pass; the flat it laps from `low` to `high`; `gap` of a pair, between whose backs it lies (0: a single one)."""

    back: float
    lines: tuple[tuple[float, tuple[int, ...]], ...]
    low: float
    high: float
    gap: float
    thickness: float

    @property
    def legs(self) -> tuple[tuple[int, float, float, float], ...]:
        """Each leg on the plate: which piece, y of its face there, from z to z."""
        if not self.gap:
            return ((0, self.back, self.low, self.high),)
        half = self.gap / 2
        if len(self.lines) == 2:
            return (0, half, half, self.high), (1, -half, self.low, -half)
        return (0, half, self.low, self.high), (1, -half, self.low, self.high)

    def middle(self, plate: float) -> float:
        """y of the middle of a plate so thick."""
        return 0.0 if self.gap else self.back - plate / 2


def lap_of(body: Body) -> Lap:
    """How a brace is lapped. Raises ValueError for a form that is not."""
    s, double = body.section, body.record.double
    if double is not None:
        if double.layout is Layout.STAR:
            g = double.gap / 2
            line = g + usual_gage(s.d)
            return Lap(0.0, ((line, (0,)), (-line, (1,))), -g - s.d, g + s.d, double.gap, s.tw)
        upright = s.b if double.leg is Leg.SHORT else s.d
        return Lap(0.0, ((-upright / 2 + usual_gage(upright), (0, 1)),), -upright / 2, upright / 2, double.gap, s.tw)
    match s.form:
        case Form.ANGLE:
            return Lap(-s.b / 2, ((-s.d / 2 + usual_gage(s.d), (0,)),), -s.d / 2, s.d / 2, 0.0, s.tw)
        case Form.CHANNEL:
            return Lap(-s.b / 2, ((0.0, (0,)),), -s.d / 2, s.d / 2, 0.0, s.tw)
        case Form.TEE:
            flat = s.d / 2 - max(s.k, s.tf + s.r) - 2.0
            return Lap(-s.tw / 2, ((min(s.d / 2 - s.leg_gage, flat - 20.0), (0,)),), -s.d / 2, flat, 0.0, s.tw)
    raise ValueError(f"a {s.name} is not lapped by a plate")


def bolt_lap(
    fit: Fitup, key: str, size: BoltSize, body: Body, lap: Lap, plate: str, xs: Sequence[float], field: bool
) -> None:
    """Bolts through a plate and a brace at distances `xs` along the member's own x, in each of its lines."""
    stock = [s.id for s in body.stock]
    for n, (z, pieces) in enumerate(lap.lines):
        plies = (stock[pieces[0]], plate, *(stock[i] for i in pieces[1:]))
        y = lap.back if not lap.gap else 0.0
        points = [body.frame.to_model((x, y, z)) for x in xs]
        fit.bolts(key if n == 0 else f"{key} {n + 1}", size, points, -body.frame.y, plies, field)
