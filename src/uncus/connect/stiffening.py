"""Stiffening a column where a beam's flanges push and pull at it: continuity plates between its flanges, doublers on
its web."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, NamedTuple

from uncus.catalog.sections import Form, Section
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Body, down_to
from uncus.connect.meeting import Meeting
from uncus.frame.placement import Placement
from uncus.job.forms import About

Continuity = Annotated[
    str,
    About(
        "Continuity plates",
        unit="choice",
        choices=("none", "both flanges", "top flange", "bottom flange"),
        help="Plates between the column's flanges, in line with the beam's.",
    ),
]
ContinuityThickness = Annotated[
    float | None, About("Continuity plates' thickness", low=5, high=100, help="As the beam's flange where left empty.")
]
Doubler = Annotated[
    str,
    About("Doubler on the web", unit="choice", choices=("none", "near side", "far side", "both sides")),
]
DoublerThickness = Annotated[
    float | None, About("Doubler's thickness", low=5, high=60, help="As the column's web where left empty.")
]


class Stiffening(NamedTuple):
    """What was asked for, and the levels (model height along e = 0, as q) of the beam's flanges."""

    continuity: str
    thickness: float | None
    doubler: str
    doubler_thickness: float | None


def clip(section: Section) -> float:
    """The corner taken off a plate that stands in a section's fillet."""
    return max(section.k - section.tf, section.r) + 1.5


def full_plate(section: Section, web: float, inch: bool, side: float) -> list[tuple[float, float]]:
    """A plate between both flanges on one side (-1, +1) of a web that is `web` half thick: (depth, across)."""
    half, corner = section.d / 2 - section.tf, clip(section)
    wide = down_to((section.b - section.tw) / 2, inch, 0.25, 5) + section.tw / 2
    points = [(-half, web + corner), (-half + corner, web), (half - corner, web), (half, web + corner), (half, wide), (-half, wide)]  # fmt: skip
    return [(x, side * w) for x, w in points]


def cross_frame(body: Body, x: float) -> Placement:
    """The frame of a plate square to a member at x along it: the plate's x along its depth, z across, y its length."""
    return Placement(body.frame.to_model((x, 0.0, 0.0)), axes_of(body.frame.z, body.frame.y))


def cross_plate(
    fit: Fitup,
    body: Body,
    key: str,
    x: float,
    t: float,
    side: float,
    words: str,
    doubler: tuple[float, str] | None = None,
) -> str:
    """A plate between the flanges of an I, on one side of its web, welded to all three; its id. A doubler (thickness,
    id) on that side stands between it and the web."""
    s = body.section
    web = s.tw / 2 + (doubler[0] if doubler else 0.0)
    shape = full_plate(s, web, fit.inch, side)
    frame = cross_frame(body, x)
    id = fit.plate(key, frame, shape, t, body.id, words)
    leg = fit.leg(t) if t < 25 else 16.0
    corner = [frame.to_model((a, 0.0, w)) for a, w in shape]
    fit.weld(f"{key} web", leg, [corner[1], corner[2]], (doubler[1] if doubler else body.id, id))
    fit.weld(f"{key} flange", leg, [corner[3], corner[4]], (body.id, id))
    fit.weld(f"{key} other flange", leg, [corner[5], corner[0]], (body.id, id))
    return id


def stiffen(fit: Fitup, m: Meeting, asked: Stiffening, flanges: Sequence[tuple[str, float, float]]) -> None:
    """Continuity plates at the beam's flanges, each (words, q, thickness), and doublers over the panel between them."""
    column = m.surface.body
    s = column.section
    wanted = asked.continuity != "none" or asked.doubler != "none"
    if not wanted:
        return
    if s.form is not Form.I or not m.surface.flange:
        fit.find(f"Stiffening is for the flange of an I section; the {column.words} cannot take it here.")
        return
    thick = asked.doubler_thickness or s.tw
    doubled = {"near side": (-1.0,), "far side": (1.0,), "both sides": (-1.0, 1.0)}.get(asked.doubler, ())
    at = {words: float(column.frame.to_local(m.model(m.trace(0.0), q, 0.0))[0]) for words, q, _ in flanges}
    doublers = {}
    for side in doubled:
        lo, hi = min(at.values()) - 150.0, max(at.values()) + 150.0
        frame = Placement(
            column.frame.to_model((lo, side * (s.tw + thick) / 2, 0.0)), axes_of(column.frame.x, column.frame.z)
        )
        half = down_to(s.d / 2 - max(s.k, s.tf + s.r), fit.inch, 0.125, 1)
        key = f"doubler {'near' if side < 0 else 'far'}"
        id = fit.plate(key, frame, rectangle(0, hi - lo, -half, half), thick, column.id, "doubler plate")
        ring = [(0, -half), (hi - lo, -half), (hi - lo, half), (0, half), (0, -half)]
        path = [frame.to_model((x, -side * thick / 2, z)) for x, z in ring]
        doublers[side] = (thick, id)
        fit.weld(key, min(thick, 8.0), path, (column.id, id), 1, around=True)
    for words, _, tf in flanges:
        if asked.continuity not in ("both flanges", f"{words} flange"):
            continue
        t = asked.thickness or fit.stocked(tf)
        x = at[words]
        for side in (-1.0, 1.0):
            key = f"continuity {words} {'near' if side < 0 else 'far'}"
            cross_plate(fit, column, key, x, t, side, "continuity plate", doublers.get(side))
