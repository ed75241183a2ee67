"""Moment joints between the flanges of an upright I: plates in line with the beam's flanges, welded to the column's
web and both its flanges, and run out past them to where the beam is joined (AISC Manual part 12)."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Protocol

from uncus.connect.coping import Clearing
from uncus.connect.fitup import Fitup
from uncus.connect.meeting import Meeting
from uncus.connect.stiffening import clip, cross_plate, full
from uncus.frame.placement import Placement
from uncus.steel.features import EndCut

_AT_TAB = 25.0  # mm beside a tab's middle in which the weld behind it is left out
Outline = list[tuple[float, float]]


class Asked(Protocol):
    """Values of a kind that stiffens a column."""

    @property
    def continuity(self) -> str: ...
    @property
    def doubler(self) -> str: ...


def web_end(m: Meeting, cleared: Clearing, past: float) -> Clearing:
    """The beam's end moved so much farther out."""
    cut = cleared.cut
    return cleared._replace(end=cleared.end + past, cut=EndCut(cut.at + m.sign * past, cut.ky, cut.kz))


def tips(m: Meeting) -> float:
    """How far the column's flanges stand out from its web."""
    return m.surface.sunk


def web_outline(m: Meeting, wide: float, far: float) -> Outline:
    """A plate's outline from the column's web, where x is nothing, between the flanges and their fillets, narrowing (or
    widening) past their tips to `wide`, as far as `far`; across it lies about the column's middle within the column and
    about the beam's outside."""
    s = m.surface.body.section
    half, corner, out = s.d / 2 - s.tf, clip(s), tips(m)
    at = -m.sign * float(m.body.frame.to_local(m.surface.body.frame.origin)[1])
    neck, rim = out + 19.05, wide / 2
    return [
        (0.0, at - half + corner), (corner, at - half), (out, at - half), (neck, -rim), (far, -rim),
        (far, rim), (neck, rim), (out, at + half), (corner, at + half), (0.0, at + half - corner),
    ]  # fmt: skip


def weld_in_column(
    fit: Fitup, m: Meeting, words: str, frame: Placement, shape: Outline, t: float, plate: str, tab: float
) -> None:
    """Fillets on both faces of a plate along both the column's flanges and along its web, but where the tab stands
    (y of the beam)."""
    leg, column, out = fit.leg(min(t, 25.0)), m.surface.body, tips(m)
    ends = sorted(z for x, z in shape if x == 0.0)
    at = -m.sign * tab
    runs = [((0.0, ends[0]), (0.0, at - _AT_TAB)), ((0.0, at + _AT_TAB), (0.0, ends[1]))]
    runs += [pair for pair in pairwise(shape) if pair[0][1] == pair[1][1] and max(pair[0][0], pair[1][0]) <= out + 0.01]
    for key, pair in zip(("web at one side", "web at the other", "one flange", "other flange"), runs, strict=True):
        path = [frame.to_model((x, 0.0, z)) for x, z in pair]
        fit.weld(f"{words} plate to {key}", leg, path, (column.id, plate))


def behind(fit: Fitup, m: Meeting, asked: Asked, plates: Sequence[tuple[str, float, float]]) -> None:
    """Stiffeners at the other side of the column's web in line with the plates, each (words, z of the beam,
    thickness)."""
    column = m.surface.body
    if asked.doubler != "none":
        fit.find(f"Doublers are for a moment on a flange; leave them out at the web of the {column.words}.")
    side = -1.0 if float(m.surface.normal @ column.frame.y) > 0 else 1.0
    for words, z, t in plates:
        if asked.continuity in ("both flanges", f"{words} flange"):
            x = float(column.frame.to_local(m.body.frame.to_model((m.side_x(0.0, z), 0.0, z)))[0])
            cross_plate(fit, column, f"behind {words}", x, t, side, "stiffener", full(fit, column.section))
