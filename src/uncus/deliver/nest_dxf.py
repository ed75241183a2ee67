"""A sheet with the plates nested on it as DXF, 1:1 in mm: what is cut, marked, bent and written, each on its layer."""

from __future__ import annotations

import io
import math

import ezdxf
from ezdxf.enums import TextEntityAlignment
from ezdxf.layouts.layout import Modelspace
from ezdxf.math import Matrix44

from uncus.bill.nesting.plates import NestedSheet, Spread
from uncus.deliver.flat_dxf import CUT, LAYERS, flat_document
from uncus.steel.features import Face
from uncus.steel.flat import face_outline
from uncus.steel.forming import laid_flat

SHEET, TEXT = "SHEET", "TEXT"  # the sheet's own edges, for reference, and marks
_HIGH = 12.0  # mm of letters, at most


def nest_dxf(sheet: NestedSheet) -> bytes:
    """The file of one nested sheet."""
    document = ezdxf.filemanagement.new("R2010")
    document.header["$INSUNITS"] = 4
    for layer, colour in (*zip(LAYERS, (7, 3, 1), strict=True), (SHEET, 8), (TEXT, 4)):
        document.layers.add(layer, color=colour)
    space = document.modelspace()
    corners = [(0.0, 0.0), (sheet.long, 0.0), (sheet.long, sheet.wide), (0.0, sheet.wide)]
    space.add_lwpolyline(corners, close=True, dxfattribs={"layer": SHEET})
    for plate in sheet.plates:
        _put(space, plate)
        at = plate.outline.representative_point()
        left, low, right, up = plate.outline.bounds
        high = min(_HIGH, (up - low) / 3, (right - left) / max(2, len(plate.blank.mark)))
        text = space.add_text(plate.blank.mark, height=high, dxfattribs={"layer": TEXT})
        text.set_placement((at.x, at.y), align=TextEntityAlignment.MIDDLE_CENTER)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _put(space: Modelspace, plate: Spread) -> None:
    """A plate's own flat drawing where it lies, holes, marks and bends with it; of a bare outline that."""
    part = plate.blank.part
    if part is None:
        for ring in (plate.outline.exterior, *plate.outline.interiors):
            space.add_lwpolyline(ring.coords[:-1], close=True, dxfattribs={"layer": CUT})
        return
    x, y, _, _ = face_outline(laid_flat(part), Face.WEB).bounds
    turn = Matrix44.chain(
        Matrix44.translate(-x, -y, 0),
        Matrix44.z_rotate(math.radians(plate.angle)),
        Matrix44.translate(plate.x, plate.y, 0),
    )
    for entity in flat_document(part).modelspace():
        own = entity.copy()
        own.transform(turn)
        space.add_foreign_entity(own)
