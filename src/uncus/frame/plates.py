"""Plates in the model: a member made of an outline in a plane, and its outline changed, moved and cut afterwards.

A plate's own frame is that of its member: x from the left work point, z across, y out of its far side. Its work points
enclose its outline, so that whatever is done to it ends in one function that sets them anew.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import msgspec
import numpy as np
import shapely

from uncus.catalog.sections import plate_section, section
from uncus.frame.axes import work_axes
from uncus.frame.outlines import OutlineError, polygon, with_arcs
from uncus.frame.placement import Placement, Vec, tidied
from uncus.frame.roll import towards
from uncus.job.blanks import Blank, Corner, HoleRow, Ring
from uncus.job.errors import JobError
from uncus.job.records import Line, Member, Role, plain
from uncus.units import Units

replace = msgspec.structs.replace
SIDES = ("centred", "near side", "far side")
_DUST = 1.0  # mm2


def plate_frame(member: Member) -> Placement:
    """The frame of a plate's outline: in the middle of its thickness."""
    axes = work_axes(np.asarray(member.start), np.asarray(member.end), member.roll)
    return axes.moved((0.0, member.aside, member.rise))


def plate_in(
    place: Placement,
    blank: Blank,
    thickness: float,
    units: Units,
    side: str = SIDES[0],
    like: Member | None = None,
) -> Member:
    """The plate of a blank that lies in x and z of a frame, its thickness about that plane or to one side of it: `near`
    is towards -y, from where it is seen. `like` gives it all else. Raises JobError."""
    try:
        x0, z0, x1, z1 = polygon(blank.outline).bounds
    except OutlineError as error:
        raise JobError(str(error)) from error
    middle = (z0 + z1) / 2
    start, end = tidied(place.to_model((x0, 0.0, middle))), tidied(place.to_model((x1, 0.0, middle)))
    size = plate_section(thickness, z1 - z0, units is Units.IMPERIAL).name
    aside = {SIDES[1]: -thickness / 2, SIDES[2]: thickness / 2}.get(side, 0.0)
    base = like or Member(role=Role.PLATE, section=size, start=start, end=end, line=Line.CENTRE)
    made = replace(base, section=size, start=start, end=end, line=Line.CENTRE, rise=0.0, aside=aside, roll=0.0,
        blank=shifted(blank, -x0, -middle))  # fmt: skip
    made = plain(replace(made, roll=round(towards(made, place.z), 6) % 360.0))
    if problem := made.problem():
        raise JobError(problem)
    return made


def with_blank(member: Member, blank: Blank, units: Units, thickness: float | None = None) -> Member:
    """A plate with another outline in the same plane, or of another thickness: the side that lay on its plane stays
    there. Raises JobError."""
    old = section(member.section).tw
    t = old if thickness is None else thickness
    aside = math.copysign(t / 2, member.aside) if abs(abs(member.aside) - old / 2) < 0.01 else member.aside
    made = plate_in(plate_frame(replace(member, aside=0.0)), blank, t, units, SIDES[0], member)
    return replace(made, aside=aside)


def shifted(blank: Blank, dx: float, dz: float) -> Blank:
    """A blank moved in its own plane."""
    if not dx and not dz:
        return blank

    def ring(of: Ring) -> Ring:
        return tuple(replace(c, x=c.x + dx, z=c.z + dz) for c in of)

    folds = tuple(replace(f, x1=f.x1 + dx, z1=f.z1 + dz, x2=f.x2 + dx, z2=f.z2 + dz) for f in blank.folds)
    holes = tuple(replace(h, x=h.x + dx, z=h.z + dz) for h in blank.holes)
    return replace(blank, outline=ring(blank.outline), openings=tuple(map(ring, blank.openings)), holes=holes,
        folds=folds)  # fmt: skip


# -- cut ------------------------------------------------------------------------------------------------------


def parted(member: Member, point: Vec, normal: Vec, units: Units) -> list[Member]:
    """A plate cut by a plane: its pieces, those on the plane's far side (along its normal) last. One piece where the
    plane misses it. Raises JobError for a bent plate, which is cut before it is bent."""
    blank = member.blank
    assert blank is not None
    frame = plate_frame(member)
    at, way = frame.to_local(np.asarray(point)), frame.axes.T @ np.asarray(normal)
    flat = np.array([way[0], way[2]])
    long = float(np.linalg.norm(flat))
    if long < 1e-6:
        return [member]
    if blank.folds:
        raise JobError(f"The {member.role} {member.section} is bent; take its bends away, cut it, and bend the pieces.")
    flat = flat / long
    offset = float(flat @ (at[0], at[2]))
    along, far = np.array([-flat[1], flat[0]]), 1e5
    middle = flat * offset
    found: list[Member] = []
    shape = polygon(blank.outline)
    openings = shapely.union_all([polygon(ring) for ring in blank.openings])
    for way_ in (-1.0, 1.0):
        half = shapely.Polygon([middle - far * along, middle + far * along, middle + far * along + way_ * far * flat,
            middle - far * along + way_ * far * flat])  # fmt: skip
        for piece in shapely.get_parts(shape.difference(openings).intersection(half)):
            if piece.geom_type == "Polygon" and piece.area > _DUST:
                found.append(_piece(member, piece, blank, units))
    return found if len(found) > 1 else [member]


def _piece(member: Member, shape: shapely.Polygon, blank: Blank, units: Units) -> Member:
    shape = shapely.geometry.polygon.orient(shape)
    holes = [hole for row in blank.holes for hole in each(row) if shape.contains(shapely.Point(hole.x, hole.z))]
    own = Blank(ring_of(shape.exterior.coords[:-1]), tuple(ring_of(r.coords[:-1]) for r in shape.interiors),
        tuple(holes), (), blank.lugs)  # fmt: skip
    return with_blank(member, own, units)


def each(row: HoleRow) -> list[HoleRow]:
    """The holes of a pattern one by one."""
    return [HoleRow(x, z, row.d, row.slot, (row.angle + row.turn) % 180.0) for x, z in row.spots()]


def ring_of(points: Iterable[Sequence[float]]) -> Ring:
    """An outline of points, its arcs found again."""
    found = with_arcs([(float(p[0]), float(p[1])) for p in points])
    return tuple(Corner(e.x, e.z, e.bulge) for e in found)


def without(member: Member, other: shapely.Polygon, units: Units) -> list[Member]:
    """A plate with what another shape covers (in its own frame's x and z) taken away: its pieces. Raises JobError where
    nothing is left or it is bent."""
    blank = member.blank
    assert blank is not None
    if blank.folds:
        raise JobError(f"The {member.role} {member.section} is bent; take its bends away, cut it, and bend the pieces.")
    openings = shapely.union_all([polygon(ring) for ring in blank.openings])
    left = polygon(blank.outline).difference(openings).difference(other)
    pieces = [g for g in shapely.get_parts(left) if g.geom_type == "Polygon" and g.area > _DUST]
    if not pieces:
        raise JobError(f"Nothing would be left of the {member.role} {member.section}; cut it by something smaller.")
    return [_piece(member, piece, blank, units) for piece in sorted(pieces, key=lambda g: -g.area)]
