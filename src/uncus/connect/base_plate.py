"""Base plate under a plumb column: plate, anchor rods, levelling, weld all round, a shear lug on request.

The column's work point is the plate's underside, or the top of the concrete where grout is given.
"""

from typing import Annotated, Any

import msgspec
import numpy as np

from uncus.catalog.bolts import RodSize, rod_sizes
from uncus.catalog.sections import Section
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Body, Joint, Kind, up_to
from uncus.connect.section_weld import weld_round
from uncus.connect.strength import base, missing
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.job.records import End, ShopRules
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: Annotated[
        float | None, About("Plate thickness", low=5, high=300, help="Shop rules' where left empty.")
    ] = None
    along: Annotated[float | None, About("Plate along the web", low=50, high=3000)] = None
    across: Annotated[float | None, About("Plate along the flanges", low=50, high=3000)] = None
    rods: Annotated[int, About("Anchor rods", unit="count", low=4, high=8,
        help="Four at the corners; six and eight add rods between them.")] = 4  # fmt: skip
    stand: Annotated[
        str,
        About(
            "Rods stand",
            unit="choice",
            choices=("outside the column", "between the flanges"),
            help="Outside for moment; between the flanges where the column only presses.",
        ),
    ] = "outside the column"
    rod: Annotated[str | None, About("Anchor rod", unit="choice", choices=tuple(rod_sizes()))] = None
    edge: Annotated[
        float | None, About("Rod to plate edge", low=15, high=500, help="Centre of rod to edge of plate.")
    ] = None
    rod_length: Annotated[float | None, About("Rod length", low=100, high=3000)] = None
    grout: Annotated[
        float, About("Grout", low=0, high=150, help="Under the plate: the work point is then the top of the concrete.")
    ] = 0.0
    levelling: Annotated[
        str,
        About(
            "Levelled by",
            unit="choice",
            choices=("nuts", "plate", "shims"),
            help="Nuts under the base plate, a thin plate set first, or packs.",
        ),
    ] = "nuts"
    lug: Annotated[float, About("Shear lug's depth", low=0, high=500, help="Under the plate; nothing: no lug.")] = 0.0
    lug_width: Annotated[float | None, About("Shear lug's width", low=30, high=2000)] = None
    lug_thickness: Annotated[float | None, About("Shear lug's thickness", low=6, high=100)] = None
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def top_of(params: dict[str, Any], rules: ShopRules) -> float:
    """How far above the column's work point a base plate with such values has its top."""
    p: Params = checked(Params, params)
    return p.grout + (p.thickness or rules.base_thickness)


def size_of(p: Params, column: Section, rules: ShopRules, inch: bool) -> tuple[float, float]:
    """A base plate's size along the column's depth and across it: as given, or with room for its rods."""
    rod = rod_sizes()[p.rod or rules.rod]
    edge = p.edge or up_to(1.75 * rod.d, inch, 0.5, 10)
    outside = p.stand == "outside the column"
    spare = 2 * up_to(edge + rod.hole / 2 + (12.7 if inch else 12.0), inch, 0.5, 10) if outside else 50.8
    return p.along or up_to(column.d + spare, inch, 1, 20), p.across or up_to(column.b + spare, inch, 1, 20)


def build(joint: Joint) -> Contribution:
    """Plate, rods and weld; findings where the rods do not clear the column or the column is not plumb."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    column, rules = joint.member, joint.rules
    section, frame = column.section, column.frame
    right = joint.record.end is End.RIGHT
    up = -frame.x if right else frame.x
    if not is_vertical(up) or up[2] < 0:
        return fit.refused(f"The {column.words} does not stand plumb on this end: a base plate needs a plumb column.")
    rod = rod_sizes()[p.rod or rules.rod]
    edge = p.edge or up_to(1.75 * rod.d, fit.inch, 0.5, 10)
    t = p.thickness or rules.base_thickness
    along, across = size_of(p, section, rules, fit.inch)
    if along < section.d or across < section.b:
        fit.find(f"The base plate is smaller than the {column.words} on it; make it larger.")
    # plate frame: x along the column's depth, z along its flanges, thickness up
    x0 = column.length if right else 0.0
    sign = -1.0 if right else 1.0
    axes = np.column_stack([frame.z, sign * frame.x, np.cross(frame.z, sign * frame.x)])
    place = Placement(frame.to_model((x0 + sign * (p.grout + t / 2), 0.0, 0.0)), axes)
    spots = _spots(fit, column, p, rod, along / 2 - edge, across / 2 - edge)
    half = across / 2
    id = fit.plate("plate", place, rectangle(-along / 2, along / 2, -half, half), t, column.id, "base plate")
    for x, z in spots:
        fit.feature(id, Hole(Face.WEB, x, z, rod.hole))
    fit.cut(column.id, joint.record.end, EndCut(x0 + sign * (p.grout + t)))
    size = p.weld or max(rules.tab_weld if not fit.inch else 4.7625, up_to(section.tf * 0.5, fit.inch, 1 / 16, 1))
    weld_round(fit, "weld", column, EndCut(x0 + sign * (p.grout + t)), size, id)
    _under(fit, p, place, (along, across), t, spots, rod, id, column)
    length = p.rod_length or rod.length
    stack = t + rod.washer_t
    projection = up_to(stack + 2.5 * rod.d, fit.inch, 0.5, 10)
    tops = tuple(point(place.to_model((x, projection - t / 2, z))) for x, z in spots)
    down = direction(-place.y)
    fit.fasteners(Fasteners("rods", FastenerKind.ROD, rod.name, rules.rod_grade, length, stack, tops, down, (id,),
        field=True))  # fmt: skip
    return fit.done()


def _spots(
    fit: Fitup, column: Body, p: Params, rod: RodSize, reach_x: float, reach_z: float
) -> list[tuple[float, float]]:
    """Rods in the plate's x and z."""
    s, clear = column.section, rod.hole / 2
    if p.stand == "between the flanges":
        if not s.flanged:
            fit.find(f"The {column.words} has no flanges for rods to stand between; stand them outside.")
        reach_x = min(reach_x, s.d / 2 - s.tf - max(clear, rod.washer / 2) - 3.0)
        reach_z = min(reach_z, max(s.b / 4, s.tw / 2 + rod.washer / 2 + 6.0))
    elif reach_x - clear < s.d / 2 and reach_z - clear < s.b / 2:
        fit.find(f"An anchor rod meets the {column.words}; move the rods out or enlarge the plate.")
    spots = [(sx * reach_x, sz * reach_z) for sx in (-1, 1) for sz in (-1, 1)]
    if p.rods == 6:
        spots += [(-reach_x, 0.0), (reach_x, 0.0)]
    elif p.rods == 8:
        spots += [(-reach_x, 0.0), (reach_x, 0.0), (0.0, -reach_z), (0.0, reach_z)]
    elif p.rods != 4:
        fit.find("Anchor rods come in four, six or eight; four are drawn.")
    if any(abs(x) < s.d / 2 + clear and abs(z) < s.b / 2 + clear for x, z in spots[4:]) and p.rods in (6, 8):
        inside = [(x, z) for x, z in spots[4:] if abs(z) < s.tw / 2 + clear or abs(abs(x) - s.d / 2) < s.tf + clear]
        if inside and not (abs(inside[0][0]) > s.d / 2 + clear or abs(inside[0][1]) > s.b / 2 + clear):
            fit.find(f"A rod between the corners meets the {column.words}; enlarge the plate or take four.")
    return spots


def _under(
    fit: Fitup,
    p: Params,
    place: Placement,
    size: tuple[float, float],
    t: float,
    spots: list[tuple[float, float]],
    rod: RodSize,
    id: str,
    column: Body,
) -> None:
    """What is under the plate: a levelling plate or packs, a shear lug."""
    along, across = size
    if p.levelling == "plate":
        thin = 6.35 if fit.inch else 6.0
        under = place.moved((0.0, -(t + thin) / 2, 0.0))
        shape = rectangle(-along / 2, along / 2, -across / 2, across / 2)
        if p.lug:
            fit.find("A levelling plate and a shear lug are in each other's way; level by nuts.")
        else:
            level = fit.plate("levelling plate", under, shape, thin, column.id, "levelling plate")
            for x, z in spots:
                fit.feature(level, Hole(Face.WEB, x, z, rod.d + 4.7625))
    elif p.levelling == "shims":
        if p.grout < 3:
            fit.find("Packs need the height of the grout; give the grout under the plate.")
        else:
            half = min(along, across) / 6
            under = place.moved((0.0, -(t + p.grout) / 2, 0.0))
            for n, x in enumerate((-along / 3, along / 3)):
                shape = rectangle(x - half / 2, x + half / 2, -half, half)
                fit.plate(f"shims {n + 1}", under, shape, p.grout, column.id, "shim pack")
    if p.lug:
        thick = p.lug_thickness or fit.stocked(t * 0.8)
        wide = p.lug_width or up_to(across * 0.5, fit.inch, 0.5, 10)
        below = place.moved((0.0, -t / 2 - p.lug / 2, 0.0))
        frame = Placement(below.origin, axes_of(-below.z, below.y))
        lug = fit.plate(
            "lug", frame, rectangle(-wide / 2, wide / 2, -p.lug / 2, p.lug / 2), thick, column.id, "shear lug"
        )
        path = [place.to_model((0.0, -t / 2, z)) for z in (-wide / 2, wide / 2)]
        fit.weld("lug", fit.leg(min(thick, 16.0)), path, (id, lug))
        if p.levelling == "shims" and p.lug <= p.grout:
            fit.find("The shear lug ends in the grout; make it deeper.")


KIND = Kind(
    "base plate",
    "Base plate with anchor rods",
    Params,
    build,
    "A plate shop-welded to the foot of a plumb column, on four, six or eight anchor rods.",
    needs="ground",
    checks=base.base_plate,
    missing=(
        missing.ROD_BREAKOUT,
        missing.LUG,
        missing.RODS_BOTH_WAYS,
    ),
)
