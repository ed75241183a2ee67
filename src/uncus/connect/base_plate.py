"""Base plate under a plumb column: plate, anchor rods, weld all round. The work point is the plate's underside."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.bolts import rod_sizes
from uncus.connect.kind import Joint, Kind, imperial, up_to
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, Finding, NewPart, Weld, direction, point
from uncus.steel.part import plate


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: Annotated[
        float | None, About("Plate thickness", low=5, high=300, help="Shop rules' where left empty.")
    ] = None
    along: Annotated[float | None, About("Plate along the web", low=50, high=3000)] = None
    across: Annotated[float | None, About("Plate along the flanges", low=50, high=3000)] = None
    rod: Annotated[str | None, About("Anchor rod", unit="choice", choices=tuple(rod_sizes()))] = None
    edge: Annotated[
        float | None, About("Rod to plate edge", low=15, high=500, help="Centre of rod to edge of plate.")
    ] = None
    rod_length: Annotated[float | None, About("Rod length", low=100, high=3000)] = None
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(joint: Joint) -> Contribution:
    """Plate, rods and weld; findings where the rods do not clear the column or the column is not plumb."""
    p: Params = checked(Params, joint.record.params)
    column, rules, inch = joint.member, joint.rules, imperial(joint.rules)
    section, frame = column.section, column.frame
    about = joint.record.id
    right = joint.record.end is End.RIGHT
    up = -frame.x if right else frame.x
    if not is_vertical(up) or up[2] < 0:
        return Contribution(
            findings=(
                Finding(
                    about, f"The {column.words} does not stand plumb on this end: a base plate needs a plumb column."
                ),
            )
        )
    rod = rod_sizes()[p.rod or rules.rod]
    edge = p.edge or up_to(1.75 * rod.d, inch, 0.5, 10)
    t = p.thickness or rules.base_thickness
    spare = 2 * up_to(edge + rod.hole / 2 + (12.7 if inch else 12.0), inch, 0.5, 10)
    along = p.along or up_to(section.d + spare, inch, 1, 20)
    across = p.across or up_to(section.b + spare, inch, 1, 20)
    findings = []
    if along < section.d or across < section.b:
        findings.append(Finding(about, f"The base plate is smaller than the {column.words} on it; make it larger."))
    reach_x, reach_z = along / 2 - edge, across / 2 - edge
    clear = rod.hole / 2
    if reach_x - clear < section.d / 2 and reach_z - clear < section.b / 2:
        inside = section.flanged and reach_x + clear < section.d / 2 - section.tf and reach_z - clear > section.tw / 2
        if not inside:
            findings.append(
                Finding(about, f"An anchor rod meets the {column.words}; move the rods out or enlarge the plate.")
            )
    # plate frame: x along the column's depth, z along its flanges, thickness up
    x0 = column.record.work_length if right else 0.0
    sign = -1.0 if right else 1.0
    axes = np.column_stack([frame.z, sign * frame.x, np.cross(frame.z, sign * frame.x)])
    middle = frame.to_model((x0 + sign * t / 2, 0.0, 0.0))
    place = Placement(middle, axes).moved((-along / 2, 0.0, 0.0))
    spots = [(sx * reach_x, sz * reach_z) for sx in (-1, 1) for sz in (-1, 1)]
    holes = [Hole(Face.WEB, along / 2 + x, z, rod.hole) for x, z in spots]
    half = across / 2
    body = plate(
        [(0, -half), (along, -half), (along, half), (0, half)], t, rules.plate_grade, column.record.finish, holes
    )
    length = p.rod_length or rod.length
    projection = up_to(t + rod.washer_t + 2.5 * rod.d, inch, 0.5, 10)
    tops = tuple(point(place.to_model((along / 2 + x, projection - t / 2, z))) for x, z in spots)
    plate_id = f"{about}/plate"
    rods = Fasteners(
        "rods",
        FastenerKind.ROD,
        rod.name,
        rules.rod_grade,
        length,
        t + rod.washer_t,
        tops,
        direction(-place.y),
        (plate_id,),
        field=True,
    )
    size = p.weld or up_to(max(4.7, section.tf * 0.5), inch, 1 / 16, 1)
    d, b = section.d / 2, section.b / 2
    loop = [(-d, -b), (d, -b), (d, b), (-d, b), (-d, -b)]
    path = tuple(point(place.to_model((along / 2 + x, t / 2, z))) for x, z in loop)
    return Contribution(
        cuts=((column.id, joint.record.end, EndCut(x0 + sign * t)),),
        parts=(NewPart("plate", body, place, column.id, "base plate"),),
        fasteners=(rods,),
        welds=(Weld("weld", size, path, (column.id, plate_id), 1, field=False, around=True),),
        findings=tuple(findings),
    )


KIND = Kind(
    "base plate",
    "Base plate with anchor rods",
    Params,
    build,
    "A plate shop-welded to the foot of a plumb column, on four anchor rods.",
    needs="ground",
)
