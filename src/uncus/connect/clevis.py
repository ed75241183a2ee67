"""Clevises: forks screwed on a tie rod's ends, each pinned by one bolt to the gusset between its cheeks."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from uncus.catalog.bolts import BoltSize, bolt_length
from uncus.catalog.fittings import MAKER, RodFitting, rod_fittings, thread_of
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.frame.placement import Placement, Vec
from uncus.job.records import End
from uncus.steel.features import EndCut, Thread
from uncus.steel.forming import Item
from uncus.steel.joint import FastenerKind, Fasteners, direction, point
from uncus.steel.tie import Opening, cut_thread, opened
from uncus.units import format_length

PLAY = 1.0  # mm that a gusset is thinner than a jaw, at least


class Clevis(NamedTuple):
    """The set that fits a rod, and its pin: a bolt of the rod's size."""

    set: RodFitting
    pin: BoltSize

    @property
    def half(self) -> float:
        return self.set.high / 2

    @property
    def most(self) -> float:
        """How far past the pin a gusset reaches into the jaw."""
        return self.set.throat - 2.0


def clevis_for(fit: Fitup, brace: Body, t: float) -> Clevis | str:
    """The clevis of a rod on a gusset so thick; or why there is none."""
    pin = thread_of(brace.section)
    if pin is None:
        return f"No clevis is made for the {brace.words}; take a round bar of {', '.join(rod_fittings())}."
    found = Clevis(rod_fittings()[pin.name], pin)
    if t + PLAY > found.set.jaw:
        jaw = format_length(found.set.jaw, fit.units)
        return f"The gusset is too thick for the jaw of the {brace.words}’s clevis, {jaw}; take a thinner one."
    return found


def edge_past(clevis: Clevis, wanted: float | None) -> float | str:
    """From the pin to the gusset's free edge: what is asked for, or the least that keeps a pin's edge distance."""
    edge = clevis.pin.edge * 1.25 if wanted is None else wanted
    if wanted is not None and edge > clevis.most:
        return "The gusset reaches past the bottom of the clevis’s jaw; give a lesser edge distance."
    return min(edge, clevis.most)


def pin_up(fit: Fitup, normal: Vec, clevis: Clevis, body: Body, end: End, gusset: str, at: float,
    mark: str = "") -> None:  # fmt: skip
    """The clevis, its pin `at` from the rod's work point, and the rod's end with its thread. A rod in one length has
    a left-hand thread at its right end, so that turning it draws it tight."""
    set, right = clevis.set, end is End.RIGHT
    sign, x0 = (-1.0, body.length) if right else (1.0, 0.0)
    fit.cut(body.id, end, EndCut(x0 + sign * (at + set.long - set.engage)))
    stock = body.stock[-1 if right else 0].id
    fit.feature(stock, Thread(right, cut_thread(set.engage), right and body.record.turnbuckle is None))
    out = body.away(end)
    tip = body.frame.to_model((x0 + sign * (at - set.tip), 0.0, 0.0))
    place = Placement(tip, np.column_stack([out, np.cross(normal, out), normal]))
    shape = opened(set.tip + set.long, set.over, Opening(set.tip + set.throat, set.jaw),
        Opening(set.engage, body.section.d))  # fmt: skip
    item = Item(set.clevis, MAKER, "clevis", set.kg)
    id = fit.plate(f"clevis{mark}", place, shape, set.high, body.id, "clevis", "bought", item=item)
    here = body.frame.to_model((x0 + sign * at, 0.0, 0.0))
    fit.hole(fit.wall(gusset, here, normal), here, (clevis.pin.hole, 0.0))
    head = point(here - normal * set.over / 2)
    length = bolt_length(clevis.pin, set.over)
    fit.fasteners(Fasteners(f"pin{mark}", FastenerKind.BOLT, clevis.pin.name, fit.rules.bolt_grade, length, set.over,
        (head,), direction(normal), (id, gusset), field=True))  # fmt: skip
