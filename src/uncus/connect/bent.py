"""Bent plates in the place of angles, where the two sides they hold together are not square to one another."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from uncus.catalog.bolts import BoltSize, bolt_length
from uncus.connect.buildable.reach import room_beside
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.kind import angle_between, up_to
from uncus.frame.placement import Placement, Vec, unit
from uncus.steel.forming import Bend, zone

SQUARE = 0.5  # degrees within which an angle serves


class Fold(NamedTuple):
    """Where two outer faces of a bent plate meet: a point of that line, the legs' directions away from it (unit,
    square to the line), its thickness and inside radius. What it is bent about lies between the legs."""

    heel: Vec
    first: Vec
    second: Vec
    thickness: float
    radius: float

    @property
    def between(self) -> float:
        """Degrees from one leg to the other."""
        return angle_between(self.first, self.second)

    @property
    def inward(self) -> Vec:
        """Square to the first leg, to the side on which the second leaves it."""
        return unit(self.second - float(self.second @ self.first) * self.first)

    @property
    def across(self) -> Vec:
        """Square to the second leg, to the side on which the first leaves it."""
        return unit(self.first - float(self.second @ self.first) * self.second)

    @property
    def set_back(self) -> float:
        """From the heel to where each leg begins to be flat."""
        return (self.radius + self.thickness) * math.tan(math.radians(180.0 - self.between) / 2)

    def gage(self, size: BoltSize, usual: float, grip: float, step: bool) -> float:
        """From the heel to bolts in a leg: the usual, or what their heads and tools need beside the bend and the
        other leg; in the steps of a shop's rule (of inches or mm)."""
        least = self.set_back + size.head_flats / 2 + 1.0
        if self.between < 90.0:
            sharp = math.radians(self.between)
            least = max(least, self.thickness / math.sin(sharp) + room_beside(size, grip, 1 / math.tan(sharp)))
        return max(usual, up_to(least, step))

    def clear(self, one: Gripped, other: Gripped, step: bool) -> float:
        """From the heel to the bolts of the first leg, moved out until they pass those of the second, which stand in
        the same rows."""
        at = one.gage
        taken = _tail(self.heel, self.second, self.across, self.thickness, other)
        for _ in range(80):
            if not _meet(_tail(self.heel, self.first, self.inward, self.thickness, one._replace(gage=at)), taken):
                break
            at = up_to(at + 1.0, step, 0.125, 1)
        return at


class Gripped(NamedTuple):
    """Bolts of one leg: so far from the heel, of a size, through so much steel."""

    gage: float
    size: BoltSize
    grip: float


def _tail(heel: Vec, leg: Vec, out: Vec, t: float, bolts: Gripped) -> np.ndarray:
    """The plane rectangle (4, 3) that a bolt's end takes up inside a bent plate."""
    size, half = bolts.size, bolts.size.head_flats / 2 + 1.0
    long = t + max(bolt_length(size, bolts.grip) - bolts.grip, size.nut_height)
    middle = heel + bolts.gage * leg
    return np.array([middle + a * half * leg + b * long * out for a, b in ((-1, 0), (1, 0), (1, 1), (-1, 1))])


def _meet(a: np.ndarray, b: np.ndarray) -> bool:
    """Whether two rectangles of one plane overlap: separating axes."""
    for one in (a, b):
        for edge in (one[1] - one[0], one[2] - one[1]):
            p, q = a @ edge, b @ edge
            if p.max() <= q.min() or q.max() <= p.min():
                return False
    return True


def bent_plate(
    fit: Fitup, key: str, fold: Fold, span: tuple[Vec, Vec], legs: tuple[float, float], owner: str, words: str
) -> str:
    """A plate bent once, its heel from one point to another, its legs so long from there over their outer faces; its
    id. In its own flat frame z runs from the first leg's toe to the second's, x along the heel. Raises ValueError
    where a leg is all bend."""
    t, turn = fold.thickness, 180.0 - fold.between
    bend = Bend(0.0, 0.0, 1.0, 0.0, turn, fold.radius)
    first, second = (leg - fold.set_back for leg in legs)
    if min(first, second) < t:
        raise ValueError(f"the legs of the {words} are shorter than its bend; make them longer or the plate thinner.")
    x = np.cross(fold.inward, fold.first)
    low, high = span if float((span[1] - span[0]) @ x) > 0 else span[::-1]
    long = float(np.linalg.norm(high - low))
    origin = low + legs[0] * fold.first + fold.inward * t / 2
    frame = Placement(origin, np.column_stack([x, -fold.inward, -fold.first]))
    taken = zone(bend, t)
    line = first + taken / 2
    folded = Bend(0.0, line, long, line, turn, fold.radius)
    return fit.plate(key, frame, rectangle(0, long, 0, first + taken + second), t, owner, words, bends=[folded])
