"""Whether the bends of a plate can be made cold: its radii and legs beside the least that grade, thickness and tool
allow (`catalog.bending`)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from uncus.catalog.bending import least_leg, least_radius
from uncus.steel.flats import flats
from uncus.steel.forming import Bend, is_developed, zone
from uncus.steel.part import Part
from uncus.units import Units, length_in_words

_SAME = 0.1  # mm
_BESIDE = 0.5  # mm within which a flat begins where a bend's zone ends


class Short(NamedTuple):
    """A bend that cannot be made: which, what of it ("radius" or "leg"), how much that is and is to be, and who says
    so."""

    bend: Bend
    what: str
    is_: float
    least: float
    source: str

    def said(self, units: Units) -> str:
        what = "inside radius of a bend" if self.what == "radius" else "leg beside a bend"
        found, least = (length_in_words(v, units) for v in (self.is_, self.least))
        return f"the {what} is {found} and takes at least {least} ({self.source})"


def too_tight(part: Part) -> Iterator[Short]:
    """What of a plate's bends no press can make; nothing of what is folded along many lines or rolled."""
    if part.section is not None or not part.bends or is_developed(part):
        return
    found = least_radius(part.grade, part.thickness)
    shapes = [np.array(flat.outline) for flat in flats(part.outline, part.bends, part.thickness)]
    for bend in part.bends:
        if bend.sharp:
            continue
        if found is not None and bend.radius < found[0] - _SAME:
            yield Short(bend, "radius", bend.radius, *found)
        least, source = least_leg(bend.radius)
        outside = (bend.radius + part.thickness) * math.tan(math.radians(min(abs(bend.angle), 90.0)) / 2)
        half = zone(bend, part.thickness) / 2
        for shape in shapes:
            off = np.abs(bend.off(shape[:, 0], shape[:, 1]))
            if off.min() < half + _BESIDE and off.max() - half + outside < least - _SAME:
                yield Short(bend, "leg", float(off.max()) - half + outside, least, source)
