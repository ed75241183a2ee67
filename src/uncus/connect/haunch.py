"""A haunch under a rafter's end: a tapered web plate and a sloping flange plate, welded on in the shop."""

from __future__ import annotations

import math

from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import down_to
from uncus.connect.meeting import Meeting
from uncus.frame.placement import Placement


def haunch(
    fit: Fitup, m: Meeting, end: float, deep: float, long: float, t: float, tf: float, plate: str, mark: str = ""
) -> None:
    """A haunch from e = `end`, `deep` under the rafter there, running `long` along e; welded to an end plate."""
    rafter = m.body
    q0, q1 = m.bottom(end), m.bottom(end + long)
    corner = [(end, q0), (end, q0 - deep), (end + long, q1)]
    web = fit.plate(f"haunch web{mark}", m.frame(0.0, 0.0, 0.0), corner, t, rafter.id, "haunch web")
    run, rise = long, q1 - (q0 - deep)
    size = math.hypot(run, rise)
    along, out = (run / size, rise / size), (rise / size, -run / size)
    start = max(0.0, -out[0] * tf / along[0])  # its square end stays off the end plate
    wide = down_to(rafter.section.b, fit.inch, 0.5, 10)
    across = rafter.frame.y * m.sign
    origin = m.model(end + out[0] * tf / 2, q0 - deep + out[1] * tf / 2, 0.0)
    x_axis = along[0] * m.away + along[1] * m.up
    frame = Placement(origin, axes_of(x_axis, across))
    flange = fit.plate(f"haunch flange{mark}", frame, rectangle(start, size, -wide / 2, wide / 2), tf, rafter.id,
        "haunch flange")  # fmt: skip
    leg = fit.leg(t)

    def line(a: tuple[float, float], b: tuple[float, float]):  # type: ignore[no-untyped-def]
        return [m.model(*a, 0.0), m.model(*b, 0.0)]

    half = wide / 2
    fit.weld(f"haunch to rafter{mark}", leg, line(corner[0], corner[2]), (rafter.id, web))
    fit.weld(f"haunch to flange{mark}", leg, line(corner[1], corner[2]), (flange, web))
    fit.weld(f"haunch to plate{mark}", leg, line(corner[0], corner[1]), (plate, web))
    root = (end + (along[0] * start + out[0] * tf), q0 - deep + along[1] * start + out[1] * tf) if start else corner[1]
    foot = [m.model(*root, y) for y in (-half, half)]
    fit.weld(f"flange to plate{mark}", tf, foot, (plate, flange), 1, form=fit.GROOVE)
    tip = [m.model(*corner[2], y) for y in (-half, half)]
    fit.weld(f"flange to rafter{mark}", tf, tip, (rafter.id, flange), 1, form=fit.GROOVE)
