"""Sheets as DXF (R2010), a layer for each kind of line; the same list the PDF is written from."""

from __future__ import annotations

import io
from functools import cache

import ezdxf
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment

from uncus.draw.sheet import STYLE, UNPRINTED, Circle, Layer, Line, Polyline, Sheet, Text

_ALIGN = {
    "l": TextEntityAlignment.MIDDLE_LEFT,
    "c": TextEntityAlignment.MIDDLE_CENTER,
    "r": TextEntityAlignment.MIDDLE_RIGHT,
}
_COLOUR = {Layer.HIDDEN: 8, Layer.CENTRE: 8, Layer.REFERENCE: 9}


@cache
def _template() -> str:
    """An empty drawing with our layers, line types and lettering, made once."""
    document = ezdxf.filemanagement.new("R2010")
    document.header["$INSUNITS"] = 4
    document.header["$LTSCALE"] = 1.0
    for layer, (width, dash) in STYLE.items():
        name = "Continuous"
        if dash:
            name = f"UNCUS_{layer.upper()}"
            pattern = [v if i % 2 == 0 else -v for i, v in enumerate(dash)]
            document.linetypes.add(name, [sum(dash), *pattern], description=layer)
        made = document.layers.add(
            layer.upper(), linetype=name, lineweight=round(width * 100), color=_COLOUR.get(layer, 7)
        )
        made.dxf.plot = int(layer not in UNPRINTED)
    document.styles.add("SHEET", font="RoutedGothic.ttf")
    document.styles.add("SHEET_NARROW", font="RoutedGothic-Narrow.ttf")
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def dxf_document(sheet: Sheet) -> Drawing:
    """The sheet in mm of paper."""
    document = ezdxf.filemanagement.read(io.StringIO(_template()))
    space = document.modelspace()
    for item in sheet.items:
        if isinstance(item, Line):
            space.add_line((item.x1, item.y1), (item.x2, item.y2), {"layer": item.layer.upper()})
        elif isinstance(item, Circle):
            space.add_circle((item.x, item.y), item.r, {"layer": item.layer.upper()})
        elif isinstance(item, Polyline):
            if item.filled:
                hatch = space.add_hatch(dxfattribs={"layer": item.layer.upper()})
                hatch.paths.add_polyline_path(item.points, is_closed=True)
            else:
                space.add_lwpolyline(item.points, close=item.closed, dxfattribs={"layer": item.layer.upper()})
        elif isinstance(item, Text):
            style = "SHEET_NARROW" if item.narrow else "SHEET"
            text = space.add_text(
                item.text,
                height=item.height,
                rotation=item.angle,
                dxfattribs={"layer": Layer.TEXT.upper(), "style": style},
            )
            text.set_placement((item.x, item.y), align=_ALIGN[item.anchor])
    return document


def dxf_bytes(sheet: Sheet) -> bytes:
    out = io.StringIO()
    dxf_document(sheet).write(out)
    return out.getvalue().encode("utf-8")
