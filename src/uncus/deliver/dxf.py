"""Sheets as DXF (R2010), a layer for each kind of line; the same list the PDF is written from.

The drawing about the entities is made once, by `ezdxf`; the few kinds of entity a sheet has are written into it as the
tags they are (DXF Reference, entities), nine times as fast.
"""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator
from functools import cache
from typing import Any, NamedTuple

import ezdxf

from uncus.draw.sheet import STYLE, UNPRINTED, Circle, Layer, Line, Polyline, Primitive, Sheet, Text

_ALIGN = {"l": 0, "c": 1, "r": 2}
_COLOUR = {Layer.HIDDEN: 8, Layer.CENTRE: 8, Layer.REFERENCE: 9}


class _Frame(NamedTuple):
    """A drawing without its entities: the text up to its next free handle, from there to the entities, and after;
    that handle, and the handle of the space the entities lie in."""

    head: str
    middle: str
    tail: str
    free: int
    space: str


@cache
def _frame() -> _Frame:
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
    for name in ("ACDBPLACEHOLDER", "LAYOUT"):  # else in the order of a set
        document.classes.add_class(name)
    document.styles.add("SHEET", font="RoutedGothic.ttf")
    document.styles.add("SHEET_NARROW", font="RoutedGothic-Narrow.ttf")
    space = document.modelspace().layout_key
    out = io.StringIO()
    document.write(out)
    text = out.getvalue()
    seed = f"$HANDSEED\n  5\n{document.entitydb.handles}\n"
    head, rest = text.split(seed)
    middle, tail = rest.split("\nENTITIES\n")
    return _Frame(head, f"{middle}\nENTITIES\n", tail, int(str(document.entitydb.handles), 16), space)


def dxf_bytes(sheet: Sheet) -> bytes:
    """The sheet in mm of paper."""
    frame = _frame()
    drawn = [
        _tags((0, kind), (5, f"{frame.free + n:X}"), (330, frame.space), (100, "AcDbEntity"), (8, layer.upper()), *own)
        for n, (kind, layer, own) in enumerate(map(_entity, sheet.items))
    ]
    seed = f"$HANDSEED\n  5\n{frame.free + len(drawn):X}\n"
    return "".join((frame.head, seed, frame.middle, *drawn, frame.tail)).encode("utf-8")


_Tags = Iterable[tuple[int, Any]]


def _tags(*tags: tuple[int, Any]) -> str:
    return "".join([f"{code:3d}\n{value}\n" for code, value in tags])


def _point(code: int, x: float, y: float) -> _Tags:
    """A point, to a millionth of a mm."""
    return (code, round(x, 6)), (code + 10, round(y, 6)), (code + 20, 0.0)


def _corners(points: Iterable[tuple[float, float]]) -> Iterator[tuple[int, float]]:
    for x, y in points:
        yield from ((10, round(x, 6)), (20, round(y, 6)))


def _entity(item: Primitive) -> tuple[str, Layer, _Tags]:
    """What kind of entity a primitive is, its layer, and the tags of its own."""
    match item:
        case Line():
            ends = *_point(10, item.x1, item.y1), *_point(11, item.x2, item.y2)
            return "LINE", item.layer, ((100, "AcDbLine"), *ends)
        case Circle():
            return "CIRCLE", item.layer, ((100, "AcDbCircle"), *_point(10, item.x, item.y), (40, round(item.r, 6)))
        case Polyline(filled=True):
            return "HATCH", item.layer, _hatch(item.points)
        case Polyline():
            head = (100, "AcDbPolyline"), (90, len(item.points)), (70, int(item.closed))
            return "LWPOLYLINE", item.layer, (*head, *_corners(item.points))
        case Text():
            return "TEXT", Layer.TEXT, _lettering(item)


def _hatch(points: tuple[tuple[float, float], ...]) -> _Tags:
    """Solid, within one closed polyline."""
    plane = (100, "AcDbHatch"), *_point(10, 0.0, 0.0), (210, 0.0), (220, 0.0), (230, 1.0)
    ring = (91, 1), (92, 3), (72, 0), (73, 1), (93, len(points)), *_corners(points), (97, 0)
    return (62, 7), *plane, (2, "SOLID"), (70, 1), (71, 0), *ring, (75, 0), (76, 1), (98, 0)


def _lettering(text: Text) -> _Tags:
    """One line of lettering by the middle of its left, centre or right. A line break would end the tag."""
    words = "".join(c if c.isprintable() else " " for c in text.text)
    style = "SHEET_NARROW" if text.narrow else "SHEET"
    at = *_point(10, text.x, text.y), (40, text.height), (1, words), (50, text.angle), (7, style)
    return (100, "AcDbText"), *at, (72, _ALIGN[text.anchor]), *_point(11, text.x, text.y), (100, "AcDbText"), (73, 2)
