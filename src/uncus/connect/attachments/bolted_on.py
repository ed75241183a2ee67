"""Bolted on: a plate bolted through its own holes to what lies against it, which is drilled to match."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import shapely

from uncus.catalog.bolts import BoltSize, HoleKind, bolt_length, bolt_sizes
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.attachments.welded_on import is_plate
from uncus.connect.contact import bends_of, blank_of
from uncus.connect.fitup import Fitup, Wall
from uncus.connect.kind import Body
from uncus.frame.outlines import points_of
from uncus.frame.placement import Placement, Vec
from uncus.job.forms import About, checked
from uncus.steel import profile
from uncus.steel.features import Face, Hole
from uncus.steel.flats import flats
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point

WHERE = ("on site", "in the shop")
_AIR = 1.6  # mm between two plies that a bolt draws together


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    where: Annotated[str, About("Bolted", unit="choice", choices=WHERE)] = WHERE[0]
    bolt: Annotated[str | None, About("Bolt", unit="choice", choices=tuple(bolt_sizes()),
        help="Left open: the largest that goes through the plate's holes.")] = None  # fmt: skip


def build(fitting: Fitting) -> Contribution:
    """A bolt through each hole of the plate that lies over a flat side of the other; a finding where none does."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    plate, other = fitting.member, fitting.mate
    if other is None:
        fit.find(f"What the {plate.words} was bolted to is gone; bolt it to something else or delete its bolts.")
        return fit.done()
    found = list(holes_of(plate))
    made = 0
    for n, (place, spot, hole) in enumerate(found, 1):
        wall = _against(other, fit, place, spot, plate.section.tw)
        if wall is None:
            continue
        size = bolt_sizes()[p.bolt] if p.bolt else _through(fit, hole.d)
        if size is None:
            fit.find(f"No bolt goes through a hole of the {plate.words} that lies on the {other.words}; make it wider.")
            continue
        fit.feature(plate.id, hole)  # its own, so that whoever looks at the bolts knows of it
        _bolt(fit, f"bolt {n}", size, spot, place.y, plate, wall, p.where == WHERE[0])
        made += 1
    if not made:
        fit.find(
            f"No hole of the {plate.words} lies on the {other.words}; give it holes there, move it, or delete its "
            f"bolts.")  # fmt: skip
    return fit.done()


def holes_of(plate: Body) -> Iterator[tuple[Placement, Vec, Hole]]:
    """Each hole of a plate: the frame of the flat it is in, its middle in the model, and itself."""
    blank = blank_of(plate)
    ring = tuple((float(x), float(z)) for x, z in points_of(blank.outline))
    parts = flats(ring, bends_of(plate), plate.section.tw)
    shapes = [shapely.Polygon(one.outline) for one in parts]
    for row in blank.holes:
        for x, z in row.spots():
            for one, shape in zip(parts, shapes, strict=True):
                if shape.contains(shapely.Point(x, z)):
                    place = plate.frame @ one.place
                    angle = (row.angle + row.turn) % 180.0 if row.slot else 0.0
                    yield place, place.to_model((x, 0.0, z)), Hole(Face.WEB, x, z, row.d, row.slot, angle)


def _against(other: Body, fit: Fitup, place: Placement, spot: Vec, thickness: float) -> Wall | None:
    """The flat side of another member that a plate lies against at a point."""
    body = other.touching(spot)
    for stock in body.stock:
        local = stock.frame.to_local(spot)
        if not -1.0 < local[0] < body.length + 1.0:
            continue
        for face, one in profile.faces(stock.section).items():
            wall = Wall(stock.id, face, stock.frame, one.mid, one.thickness, one.upright)
            square = abs(float(wall.normal @ place.y)) > 1 - 1e-4
            along = float(local[2] if one.upright else local[1])
            gap = abs(wall.middle(spot, place.y)) - (thickness + one.thickness) / 2
            if square and one.lo < along < one.hi and -0.2 < gap < _AIR:
                return wall
    return None


def _through(fit: Fitup, d: float) -> BoltSize | None:
    fitting = [s for s in bolt_sizes().values() if s.hole_size(HoleKind.STANDARD)[0] <= d + 0.05]
    metric = [s for s in fitting if s.name.startswith("M") is not fit.inch]
    return max(metric or fitting, key=lambda s: s.hole_size(HoleKind.STANDARD)[0], default=None)


def _bolt(fit: Fitup, key: str, size: BoltSize, spot: Vec, axis: Vec, plate: Body, wall: Wall, field: bool) -> None:
    """A hole in the other and a bolt through both; the plate has its own hole."""
    fit.hole(wall, spot, size.hole_size(HoleKind.STANDARD))
    away = wall.middle(spot, axis)
    ends = sorted([-plate.section.tw / 2, plate.section.tw / 2, away - wall.thickness / 2, away + wall.thickness / 2])
    grip = ends[-1] - ends[0]
    fit.fasteners(Fasteners(key, FastenerKind.BOLT, size.name, fit.rules.bolt_grade, bolt_length(size, grip), grip,
        (point(spot + axis * ends[0]),), direction(axis), (plate.id, wall.piece), field=field))  # fmt: skip


KIND = AttachmentKind(
    "bolted on",
    "Bolted on",
    Params,
    build,
    is_plate,
    "A plate bolted through its own holes to what it lies against, which is drilled to match. Pick both.",
    crosses=lambda plate, other: is_plate(plate) and plate.record.blank is not None and bool(plate.record.blank.holes),
    places=False,
)
