"""A plate laid flat as DXF, 1:1 in mm, or the pattern to wrap round a tube with saddles: what is cut, marked and
bent, each on a layer of its own, and nothing else."""

from __future__ import annotations

import io
import math
from collections.abc import Iterable
from functools import cache

import ezdxf
import shapely
from ezdxf.document import Drawing
from ezdxf.layouts.layout import Modelspace

from uncus.deliver.nc import Scribe
from uncus.frame.outlines import with_arcs
from uncus.steel.features import Face, Hole
from uncus.steel.flat import as_plate, face_outline
from uncus.steel.forming import ROLLED, is_rolled_plate
from uncus.steel.part import Part
from uncus.steel.wrapping import is_wrapped, wrapped

CUT, MARK, BEND = LAYERS = ("CUT", "MARK", "BEND")
_RULINGS = 24  # about so many of a rolled plate are scribed
_COLOURS = {CUT: 7, MARK: 3, BEND: 1}


@cache
def _template() -> str:
    document = ezdxf.filemanagement.new("R2010")
    document.header["$INSUNITS"] = 4
    for layer in LAYERS:
        document.layers.add(layer, color=_COLOURS[layer])
    for name in ("ACDBPLACEHOLDER", "LAYOUT"):  # else in the order of a set
        document.classes.add_class(name)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def flat_document(part: Part, scribes: Iterable[Scribe] = ()) -> Drawing:
    """A plate seen from its near side; its bends as the lines they turn about, what is scribed on the near side with
    it. A tube's pattern seen from outside, the middle of its top marked."""
    document = ezdxf.filemanagement.read(io.StringIO(_template()))
    space = document.modelspace()
    part = as_plate(part)
    if is_wrapped(part):
        _wrap(space, part)
        return document
    outline = shapely.simplify(face_outline(part, Face.WEB), 1e-4)
    for ring in (outline.exterior, *outline.interiors):
        along = with_arcs([(x, z) for x, z in ring.coords[:-1]])
        space.add_lwpolyline(along, format="xyb", close=True, dxfattribs={"layer": CUT})
    for hole in part.holes:
        _hole(space, hole)
    rolled = is_rolled_plate(part)
    every = max(1, len(part.bends) // _RULINGS) if rolled else 1
    for bend in [b for n, b in enumerate(part.bends) if n % every == 0 or abs(b.angle) > ROLLED]:
        layer = MARK if rolled and abs(bend.angle) <= ROLLED else BEND
        line = shapely.LineString([(bend.x1, bend.z1), (bend.x2, bend.z2)]).intersection(outline)
        for one in getattr(line, "geoms", [line]):
            if one.geom_type == "LineString" and not one.is_empty:
                space.add_line(one.coords[0], one.coords[-1], {"layer": layer})
    for scribe in scribes:
        if scribe.face is Face.WEB:
            space.add_lwpolyline(scribe.points, dxfattribs={"layer": MARK})
    return document


def _wrap(space: Modelspace, part: Part) -> None:
    pattern = wrapped(part)
    for ring in (pattern.exterior, *pattern.interiors):
        space.add_lwpolyline(ring.coords[:-1], close=True, dxfattribs={"layer": CUT})
    low, high = (cut.x(0.0, part.width / 2) for cut in (part.left, part.right))
    over = math.pi * part.width / 2
    space.add_line((low, over), (high, over), {"layer": MARK})


def _hole(space: Modelspace, hole: Hole) -> None:
    reach = max(0.0, hole.slot - hole.d) / 2
    if not reach:
        space.add_circle((hole.x, hole.w), hole.d / 2, {"layer": CUT})
        return
    turn = math.radians(hole.angle)
    along, side = (math.cos(turn), math.sin(turn)), (-math.sin(turn) * hole.d / 2, math.cos(turn) * hole.d / 2)
    far, near = ((hole.x + s * reach * along[0], hole.w + s * reach * along[1]) for s in (1, -1))
    corners = [
        (*_off(near, side, -1), 0.0),
        (*_off(far, side, -1), 1.0),
        (*_off(far, side, 1), 0.0),
        (*_off(near, side, 1), 1.0),
    ]
    space.add_lwpolyline(corners, format="xyb", close=True, dxfattribs={"layer": CUT})  # a bulge of 1 is half a circle


def _off(spot: tuple[float, float], side: tuple[float, float], way: int) -> tuple[float, float]:
    return spot[0] + way * side[0], spot[1] + way * side[1]


def flat_dxf(part: Part, scribes: Iterable[Scribe] = ()) -> bytes:
    """The file of a plate or a flat pattern."""
    out = io.StringIO()
    flat_document(part, scribes).write(out)
    return out.getvalue().encode("utf-8")
