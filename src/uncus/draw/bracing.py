"""How a brace lies on its gussets: the slope of its work line, and which leg is on the plate at which gage."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

import msgspec

from uncus.catalog.sections import Form
from uncus.connect.kind import Body
from uncus.connect.lapping import lap_of
from uncus.job.records import Layout, Role
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.units import Units, format_length

_LEVEL = 0.002  # of rise to run under which a brace lies in plan
_SAME = 0.8  # mm within which two lines are one to a fitter


class OnGusset(msgspec.Struct, frozen=True, order=True):
    """A brace on a gusset: `rise` and `run` of its work line in mm; of an angle its `leg` on the plate (0 where both
    are as long), and how far its work line (`work`) and its `gage` line are from the heel (0: it has none)."""

    rise: float
    run: float
    leg: float = 0.0
    work: float = 0.0
    gage: float = 0.0


def on_gussets(assemblies: Iterable[Assembly], shop: Shop) -> tuple[OnGusset, ...]:
    """How braces of one mark lie on gussets, in one place of the building or another."""
    found = {on for assembly in assemblies if (on := _on_gusset(assembly, shop)) is not None}
    return tuple(sorted(found))


def _on_gusset(assembly: Assembly, shop: Shop) -> OnGusset | None:
    body = shop.body(assembly.id)
    id, brace = assembly.id, assembly.member.role is Role.BRACE
    own = (r.id for r in shop.connections_at(id) if r.member == id or (brace and id in r.others))
    made = [c for joint in own if (c := shop.connections.get(joint)) is not None]
    if body is None or body.arc is not None or not any(p.key == "gusset" for c in made for p in c.parts):
        return None
    start, end = body.record.start, body.record.end
    rise, run = abs(end[2] - start[2]), math.hypot(end[0] - start[0], end[1] - start[1])
    longest = max(rise, run)  # as a triangle of one size: the same slope is the same wherever it is
    return OnGusset(round(rise / longest, 5), round(run / longest, 5), *_of_angle(body))


def _of_angle(body: Body) -> tuple[float, float, float]:
    s, double = body.section, body.record.double
    if s.form is not Form.ANGLE or (double is not None and double.layout is Layout.STAR):
        return 0.0, 0.0, 0.0
    lap = lap_of(body)
    work = float(body.frame.to_local(body.record.start)[2]) - lap.low
    leg = lap.high - lap.low if abs(s.d - s.b) > _SAME else 0.0
    return round(leg, 2), round(work, 2), round(lap.lines[0][0] - lap.low, 2)


def on_gusset_words(found: Iterable[OnGusset], units: Units) -> Iterator[str]:
    """What a sheet says of it."""
    known = list(found)
    slopes = [_slope_words(one, units) for one in known if one.rise > _LEVEL]
    if slopes:
        yield f"WORK LINE RISES {' OR '.join(dict.fromkeys(slopes))}."
    for leg in dict.fromkeys(one.leg for one in known if one.leg):
        yield f"{format_length(leg, units)} LEG ON GUSSETS."
    for work, gage in dict.fromkeys((one.work, one.gage) for one in known if one.gage):
        if abs(work - gage) < _SAME:
            yield f"WORK LINE ON GAGE LINE, {format_length(gage, units)} FROM HEEL."
        else:
            yield f"WORK LINE {format_length(work, units)} FROM HEEL, GAGE LINE {format_length(gage, units)}."


def _slope_words(one: OnGusset, units: Units) -> str:
    if units is Units.METRIC:
        return f"{math.degrees(math.atan2(one.rise, one.run)):.1f}°"
    rise, run = ("12" if v == 1.0 else format_length(12 * 25.4 * v, units) for v in (one.rise, one.run))
    return f"{rise} IN {run}"
