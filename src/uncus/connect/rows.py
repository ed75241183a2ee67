"""How many rows of bolts stand where in a web: between its fillets and copes, and those of what it goes to."""

from __future__ import annotations

import math
from typing import NamedTuple

from uncus.catalog.sections import Form, Section
from uncus.connect.coping import Clearing
from uncus.connect.fitup import Fitup
from uncus.connect.kind import up_to
from uncus.connect.meeting import Meeting
from uncus.frame.axes import is_vertical
from uncus.steel.features import Face


class Asked(NamedTuple):
    """What was asked of a row of bolts; None: by rule."""

    rows: int | None
    pitch: float
    edge: float
    down: float | None = None


def web_middle(section: Section) -> float:
    return -section.b / 2 + section.tw / 2 if section.form is Form.CHANNEL else 0.0


def level_web(m: Meeting) -> bool:
    """Whether the member goes to the web of a beam, whose flanges are above and below it."""
    return m.surface.face is Face.WEB and m.surface.body.section.flanged and not is_vertical(m.surface.along)


def rows_in_web(
    fit: Fitup, m: Meeting, cleared: Clearing, asked: Asked, line: float, reach: float
) -> tuple[int, float] | str:
    """How many rows fit the web with plates that end at e = `reach`, and q of the first at e = `line`; or why none
    do."""
    b, pitch, edge = m.body.section, asked.pitch, asked.edge
    top, bottom = max(b.k, cleared.top), max(b.k, cleared.bottom)
    if level_web(m) and not cleared.stands_off:  # plates also stand between the support's fillets
        over, under = _beyond(m)
        top, bottom = max(top, over), max(bottom, under)
    ends = (cleared.end, reach)  # on a slope the fillets come nearer at one end of a plate
    high = min(m.top(e) - m.c * top for e in ends)
    low = max(m.bottom(e) + m.c * bottom for e in ends)
    room = high - low - 2 * edge
    most = math.floor(max(-1.0, room + 1e-3) / pitch) + 1 if room >= 0 else 0
    rows = asked.rows or min(most, fit.joint.rules.rows_for(b.d) or 12, 12)
    if rows < 2 or (asked.rows and asked.rows > most):
        said = f"{asked.rows} rows of bolts do" if asked.rows else "Two rows of bolts do"
        return (
            f"{said} not fit the web of the {m.body.words}, which takes {max(most, 0)} at this pitch and edge; choose "
            f"a deeper beam or fewer rows."
        )
    ceiling = m.top(line)
    down = asked.down
    if down is None:
        down = _down(fit, ceiling - high, ceiling - low, (rows - 1) * pitch, pitch, edge)
    return rows, ceiling - down


def _beyond(m: Meeting) -> tuple[float, float]:
    """How far down from the member's top, and up from its bottom, the fillets of a level support's web reach."""
    support, d = m.surface.body, m.body.section.d
    e = m.trace(0.0)
    heights = [float(support.frame.to_local(m.model(e, q, 0.0))[2]) for q in (m.top(e), m.bottom(e))]
    flat = support.section.d / 2 - max(support.section.k, support.section.tf)
    return min(max(0.0, heights[0] - flat), d), min(max(0.0, -flat - heights[1]), d)


def _down(fit: Fitup, high: float, low: float, run: float, pitch: float, edge: float) -> float:
    """Top of steel to the first bolt: one pitch where it fits between two depths, else near the middle in shop
    steps."""
    usual = up_to(pitch, fit.inch)
    if usual - edge >= high - 1e-6 and usual + run + edge <= low + 1e-6:
        return usual
    step = 1.5875 if fit.inch else 1.0
    middle = round((high + low - run) / 2 / step) * step
    return max(up_to(high + edge, fit.inch, 1 / 16, 1), middle)
