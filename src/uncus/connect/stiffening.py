"""Stiffening a column where a beam's flanges push and pull at it: continuity plates between its flanges, doublers on
its web."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Annotated, Protocol

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


class Asked(Protocol):
    """Values of a kind that stiffens a column."""

    @property
    def continuity(self) -> str: ...
    @property
    def continuity_thickness(self) -> float | None: ...
    @property
    def doubler(self) -> str: ...
    @property
    def doubler_thickness(self) -> float | None: ...


def clip(section: Section) -> float:
    """The corner taken off a plate that stands in a section's fillet."""
    return max(section.k - section.tf, section.r) + 1.5


def between_flanges(
    section: Section, web: float, wide: float, low: float = -math.inf, high: float = math.inf
) -> list[tuple[float, float]]:
    """A stiffener's outline (depth, across) from a face at `web` out to `wide`: from flange to flange, its corners
    clear of the fillets, or only from `low` to `high`."""
    half, corner = section.d / 2 - section.tf, clip(section)
    low, high = max(low, -half), min(high, half)
    foot = [(low, web + corner), (low + corner, web)] if low == -half else [(low, web)]
    head = [(high - corner, web), (high, web + corner)] if high == half else [(high, web)]
    return [(low, wide), *foot, *head, (high, wide)]


def full(fit: Fitup, section: Section, doubler: float = 0.0) -> list[tuple[float, float]]:
    """The outline of a stiffener as wide as an I's flange, beside a doubler on its web."""
    wide = down_to((section.b - section.tw) / 2, fit.inch, 0.25, 5) + section.tw / 2
    return between_flanges(section, section.tw / 2 + doubler, wide)


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
    outline: list[tuple[float, float]],
    leg: float | None = None,
    onto: str = "",
) -> str:
    """A plate square to a member at x, to one side of its web, welded to the web (or what is `onto` it) and to each
    flange it reaches; its id."""
    frame = cross_frame(body, x)
    shape = [(a, side * w) for a, w in outline]
    id = fit.plate(key, frame, shape, t, body.id, words, shared=True)
    half, web = body.section.d / 2 - body.section.tf, min(w for _, w in outline)
    leg = leg or fit.leg(min(t, 25.0))
    for (a, v), (b, w) in itertools.pairwise([*outline, outline[0]]):
        to = "web" if v == w == web else {-half: "bottom", half: "top"}.get(a, "") if a == b else ""
        if to:
            path = [frame.to_model((z, 0.0, side * y)) for z, y in ((a, v), (b, w))]
            fit.weld(f"{key} {to}", leg, path, (onto if onto and to == "web" else body.id, id))
    return id


def stiffen(fit: Fitup, m: Meeting, asked: Asked, flanges: Sequence[tuple[str, float, float]]) -> None:
    """Continuity plates at the beam's flanges, each (words, q, thickness), and doublers over the panel between them."""
    column = m.surface.body
    s = column.section
    wanted = asked.continuity != "none" or asked.doubler != "none"
    if not wanted:
        return
    if s.form is not Form.I or not m.surface.flange:
        fit.find(f"Stiffening is for the flange of an I section; the {column.words} cannot take it here.")
        return
    thick = asked.doubler_thickness or fit.stocked(s.tw)
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
        id = fit.plate(key, frame, rectangle(0, hi - lo, -half, half), thick, column.id, "doubler plate", shared=True)
        ring = [(0, -half), (hi - lo, -half), (hi - lo, half), (0, half), (0, -half)]
        path = [frame.to_model((x, -side * thick / 2, z)) for x, z in ring]
        doublers[side] = (thick, id)
        fit.weld(key, min(thick, 8.0), path, (column.id, id), 1, around=True)
    for words, _, tf in flanges:
        if asked.continuity not in ("both flanges", f"{words} flange"):
            continue
        t = asked.continuity_thickness or fit.stocked(tf)
        x = at[words]
        for side in (-1.0, 1.0):
            key = f"continuity {words} {'near' if side < 0 else 'far'}"
            thick, onto = doublers.get(side, (0.0, ""))
            cross_plate(fit, column, key, x, t, side, "continuity plate", full(fit, s, thick), onto=onto)
