"""The sample job with three things a checker should find: a clash, a near miss, and something that holds to nothing."""

from __future__ import annotations

import msgspec
import numpy as np

from uncus.frame.placement import point_of
from uncus.job.records import AnyRecord, Connection, Level, Member, Role, derived_id
from uncus.sample.boathouse import boathouse
from uncus.units import Units

_LOW = 120.0  # mm under the beams' work lines, through their webs
_HALF = 900.0  # mm of the stray angle either way
_SLIP = 6.0  # mm by which a beam lies too low


def tour(units: Units = Units.IMPERIAL) -> list[AnyRecord]:
    """The sample's records with three slips of the hand in them."""
    records = boathouse(units)
    held = {id for r in records if isinstance(r, Connection) for id in (r.support, *r.others) if id}
    beams = [r for r in records if isinstance(r, Member) and r.role is Role.BEAM and r.id not in held]
    heights = [r.elevation for r in records if isinstance(r, Level)]
    on_levels = [b for b in beams if min(abs(b.start[2] - z) for z in heights) < 1.0]
    crossed, slipped = on_levels[0], on_levels[-1]
    middle = np.add(crossed.start, crossed.end) / 2 - (0.0, 0.0, _LOW)
    across = np.cross(np.subtract(crossed.end, crossed.start), (0.0, 0.0, 1.0))
    across = across / np.linalg.norm(across) * _HALF
    brace = next(r for r in records if isinstance(r, Member) and r.role is Role.BRACE)
    stray = msgspec.structs.replace(brace, id=derived_id("tour clash"), start=point_of(middle - across),
        end=point_of(middle + across), roll=0.0, double=None)  # fmt: skip
    away = point_of(np.add(crossed.start, (0.0, -4000.0, 1500.0)))
    beyond = point_of(np.add(away, (3000.0, 0.0, 0.0)))
    loose = msgspec.structs.replace(crossed, id=derived_id("tour loose"), start=away, end=beyond)
    low = (0.0, 0.0, -_SLIP)
    start, end = point_of(np.add(slipped.start, low)), point_of(np.add(slipped.end, low))
    moved = msgspec.structs.replace(slipped, start=start, end=end)
    return [*(moved if r.id == slipped.id else r for r in records), stray, loose]
