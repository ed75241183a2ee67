"""Weld symbols, one for each mark and size."""

from collections.abc import Iterator

import numpy as np

from uncus.draw.annotation import Annotation, WeldNote
from uncus.draw.notches import noted
from uncus.draw.projection import axes_of
from uncus.draw.rules.marks import at_best
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import Fixed
from uncus.steel.joint import WeldForm

_LEVEL = 0.5  # mm


def make(seen: Seen) -> Iterator[Annotation]:
    yield from _at_slots(seen)
    axes = axes_of(seen.name)
    # of several alike the uppermost: over the view there is more room than among the dimensions under it
    has_webs = any(
        f.is_member and not _runs_along(f) for f in seen.subject.fixed
    )  # which say how they are welded to it
    for f in sorted(seen.subject.fixed, key=lambda one: -round(float((axes @ one.centre)[1]))):
        w, chord = f.weld, f.is_member and has_webs and _runs_along(f)
        if w is None or chord or not at_best(f, seen.name) or not seen.first("weld", f.mark, w.size):
            continue
        low, high = f.box()
        corner = axes @ np.where(np.abs(low) < np.abs(high), low, high)
        foot, head = sorted(float((axes @ p)[1]) for p in (low, high))
        above = float((axes @ f.centre)[1]) >= -_LEVEL
        # one that reaches to both sides is pointed at on the side of its symbol
        tip = float(corner[0]), (head if above else foot) if foot < -_LEVEL and head > _LEVEL else float(corner[1])
        if f.has_axis:  # at its foot, on the main part
            ends = (axes @ f.place.to_model((x, 0.0, 0.0)) for x in (0.0, f.part.length))
            end = min(ends, key=lambda p: abs(float(p[1])))
            tip, above = (float(end[0]), float(end[1])), float(end[1]) < 0
            if _runs_along(f):  # along its edge
                tip, above = (float((0.75 * low + 0.25 * high) @ axes[0]), head), True
        if f.part.coil is not None:  # no corner of the room it takes is on it
            points = (f.corners @ axes.T)[:, :2]
            tip = tuple(points[np.abs(points[:, 0] - tip[0]).argmin()].tolist())
        groove = w.form is WeldForm.GROOVE
        yield WeldNote(
            f"{seen.name}|weld {f.mark} {w.size:g}", tip, w.size, w.sides == 2, w.field, w.around, groove, above
        )


def _runs_along(f: Fixed) -> bool:
    return abs(float(f.place.x[0])) > 0.999


def _at_slots(seen: Seen) -> Iterator[Annotation]:
    """The site welds of a tube's slots, where these are seen."""
    for n, slot in enumerate(noted(seen.main, seen.units)):
        right = slot.at[0] > seen.length / 2
        for one in seen.subject.end_welds if slot.view == seen.name else ():
            if one.right == right and seen.first("slot weld", right, one.size, one.length):
                tail = f"{one.number} AT {seen.said(one.length)}"
                yield WeldNote(f"{seen.name}|slot weld {n} {one.size:g}", slot.at, one.size, True, True, False, False,
                    False, tail)  # fmt: skip


RULE = Rule("welds", "Weld symbols", make, "The weld of each mark, by symbol.")
