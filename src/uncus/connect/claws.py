"""Claw angles: four angles that hold an I brace's flanges to a gusset in line with its web, two at each flange."""

from __future__ import annotations

from typing import NamedTuple

from uncus.catalog.bolts import BoltSize
from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Section, section, sections, usual_gage
from uncus.connect.double_angle import corner_frame
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body, up_to
from uncus.frame.placement import Vec

GAP = 12.7  # mm between the gusset's end and the brace's
_LADDER = (
    "L4X4X3/8", "L5X5X1/2", "L6X6X1/2", "L8X8X5/8",
    "L100X100X10", "L120X120X12", "L150X150X15", "L200X200X16",
)  # fmt: skip


class Claws(NamedTuple):
    """The angles' section and size of bolt; from a heel to the bolts in the gusset, and from the gusset's middle to
    those in the brace's flange."""

    section: Section
    size: BoltSize
    gage: float
    aside: float

    @property
    def reach(self) -> float:
        """How far the angles stand out over the brace's flanges."""
        return self.section.d


def claws_for(fit: Fitup, brace: Body, t: float, bolt: str | None, angle: str | None) -> Claws | str:
    """The least angle of a usual ladder, or the one asked for, that has room for bolts in the gusset and in the
    flange; or why none has."""
    s, size = brace.section, fit.size(bolt)
    usual = max(s.gage / 2 if s.gage else s.b / 4, s.clear + size.head_flats / 2 + 1.0)
    most = s.b / 2 - size.edge + 0.05
    if usual > most:
        return (
            f"A {size.name} bolt has no room in the flange of the {brace.words}; take smaller bolts or a wider brace."
        )
    inch = size.system == "inch"
    ladder = [angle] if angle else [n for n in _LADDER if n in sections() and ("/" in n) == inch]
    for name in ladder:
        one = section(name)
        least = one.k + size.head_flats / 2
        gage, aside = max(usual_gage(one.d), least), max(usual, t / 2 + least)
        if aside <= most and aside - t / 2 + size.edge <= one.b + 0.05 and gage + size.edge <= one.d + 0.05:
            return Claws(one, size, gage, aside)
    return (
        f"No claw angle has room for {size.name} bolts in the flange of the {brace.words} and in its gusset; give one, "
        f"or other bolts."
    )


def over_gusset(fit: Fitup, claws: Claws, s: Section) -> float:
    """How far from the brace's axis the gusset reaches, to have its bolts' edge distance."""
    return up_to(s.d / 2 + claws.gage + 1.25 * claws.size.edge, fit.inch, 0.125, 1)


def hold(fit: Fitup, frame: Vec, claws: Claws, body: Body, plate: str, t: float, runs: tuple[list[float], list[float]],
    edge: float, mark: str = "") -> None:  # fmt: skip
    """The angles with their bolts: through the gusset on site and through the flanges in the shop, at distances
    along the member's own x; `frame` is the gusset's normal."""
    s, (on_plate, on_brace) = claws.section, runs
    xs = sorted((*on_plate, *on_brace))
    low, high = xs[0] - edge, xs[-1] + edge
    half = body.section.d / 2
    for way, words in ((1.0, "top"), (-1.0, "bottom")):
        ids = []
        for side, name in ((-1.0, "near"), (1.0, "far")):
            out, across = way * body.frame.z, side * frame
            heel = body.frame.to_model((low, 0.0, way * half)) + t / 2 * across
            place = corner_frame(heel, out, across, s, True)
            if float(place.x @ body.frame.x) < 0:
                place = place.moved((low - high, 0.0, 0.0))
            key = f"claw {words} {name}{mark}"
            ids.append(fit.length(key, place, s, high - low, body.id, f"{words} claw angle", usual_grade(s)))
            points = [body.frame.to_model((x, 0.0, way * half)) + claws.aside * across for x in on_brace]
            fit.bolts(f"{key} bolts", claws.size, points, -out, (ids[-1], body.id), field=False)
        points = [body.frame.to_model((x, 0.0, way * (half + claws.gage))) for x in on_plate]
        key = f"bolts{'' if way > 0 else ' 2'}{mark}"
        fit.bolts(key, claws.size, points, frame, (ids[0], plate, ids[1]), field=True)
