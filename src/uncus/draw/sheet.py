"""A sheet: a flat list of primitives in mm on layers, origin at the lower left. Every writer draws this list."""

from __future__ import annotations

from enum import StrEnum

import msgspec


class Layer(StrEnum):
    """What a primitive is; line weight and pattern follow from it."""

    BORDER = "border"
    OUTLINE = "outline"
    HIDDEN = "hidden"
    CENTRE = "centre"
    THIN = "thin"
    DIMENSION = "dimension"
    TEXT = "text"
    STICK = "stick"


# line width in mm (ISO 128) and dash pattern in mm
STYLE: dict[Layer, tuple[float, tuple[float, ...]]] = {
    Layer.BORDER: (0.7, ()),
    Layer.OUTLINE: (0.5, ()),
    Layer.HIDDEN: (0.25, (2.0, 1.0)),
    Layer.CENTRE: (0.18, (6.0, 1.0, 1.0, 1.0)),
    Layer.THIN: (0.25, ()),
    Layer.DIMENSION: (0.18, ()),
    Layer.TEXT: (0.25, ()),
    Layer.STICK: (0.7, ()),
}


class Line(msgspec.Struct, frozen=True, tag="line"):
    layer: Layer
    x1: float
    y1: float
    x2: float
    y2: float


class Polyline(msgspec.Struct, frozen=True, tag="polyline"):
    layer: Layer
    points: tuple[tuple[float, float], ...]
    closed: bool = False
    filled: bool = False


class Circle(msgspec.Struct, frozen=True, tag="circle"):
    layer: Layer
    x: float
    y: float
    r: float


class Text(msgspec.Struct, frozen=True, tag="text"):
    """`height` is that of capitals; `anchor` l, c or r along the line; y is the line's middle, whatever the angle."""

    x: float
    y: float
    text: str
    height: float = 2.5
    anchor: str = "l"
    angle: float = 0.0
    narrow: bool = False


Primitive = Line | Polyline | Circle | Text


class Sheet(msgspec.Struct, frozen=True):
    """A drawing: its name (a mark or view), what it shows, paper size in mm, scale (1:n), and its primitives.

    `content` is the fingerprint of what it was made from.
    """

    name: str
    title: str
    kind: str
    width: float
    height: float
    scale: float
    items: tuple[Primitive, ...]
    content: str = ""
