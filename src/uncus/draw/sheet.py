"""A sheet: a flat list of primitives in mm on layers, origin at the lower left. Every writer draws this list."""

from __future__ import annotations

from enum import StrEnum

import msgspec

from uncus.draw.breaks import Shortening


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
    LEADER = "leader"
    HEAVY = "heavy"
    STANDING = "standing already"
    FAINT = "faint"
    MATCH = "match line"
    CLOUD = "cloud"
    REFERENCE = "reference"  # seen on the screen and in models, never printed


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
    Layer.LEADER: (0.18, ()),
    Layer.HEAVY: (1.2, ()),
    Layer.STANDING: (0.35, (6.0, 1.0, 1.0, 1.0, 1.0, 1.0)),
    Layer.FAINT: (0.13, ()),
    Layer.MATCH: (0.7, (8.0, 1.5, 1.5, 1.5)),
    Layer.CLOUD: (0.5, ()),
    Layer.REFERENCE: (0.18, (3.0, 1.5)),
}
UNPRINTED = frozenset({Layer.REFERENCE})


Box = tuple[float, float, float, float]


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


class Spot(msgspec.Struct, frozen=True):
    """Where an annotation came to lie: its key, the box around it, each of its texts with its own box, and of a
    chain the places of its stops on its line."""

    key: str
    box: Box
    texts: tuple[tuple[str, Box], ...] = ()
    kind: str = ""
    stops: tuple[tuple[str, float, float], ...] = ()

    @property
    def words(self) -> str:
        return " ".join(words for words, _ in self.texts)


_LINK = "link "


def link_to(sheet: str) -> str:
    """The kind of a spot that leads to another sheet."""
    return f"{_LINK}{sheet}"


def linked(spot: Spot) -> str:
    """The sheet that a spot leads to; nothing where it leads to none."""
    return spot.kind.removeprefix(_LINK) if spot.kind.startswith(_LINK) else ""


class Frame(msgspec.Struct, frozen=True):
    """A view on the sheet: its name, the paper place of its own (0, 0), its scale, its box, and its points by their
    keys, each in paper mm (x, y) and in the view's own (u, v); what was taken out of its length is `short`."""

    name: str
    x: float
    y: float
    scale: float
    box: Box
    points: dict[str, tuple[float, float, float, float]] = {}
    short: Shortening = Shortening()

    def own(self, x: float, y: float) -> tuple[float, float]:
        """A place of the paper in the view's own mm."""
        return self.short.back((x - self.x) * self.scale), (y - self.y) * self.scale


class Sheet(msgspec.Struct, frozen=True):
    """A drawing: its name (a mark or view), what it shows, paper size in mm, scale (1:n), and its primitives.

    `content` is the fingerprint of what it was made from. `spots` and `frames` tell where what is, for hand and eye;
    `lost` names edits by hand whose feature is gone; `number` of `of` sheets of one piece; `wrong` tells what is asked
    of it and cannot be.
    """

    name: str
    title: str
    kind: str
    width: float
    height: float
    scale: float
    items: tuple[Primitive, ...]
    content: str = ""
    spots: tuple[Spot, ...] = ()
    frames: tuple[Frame, ...] = ()
    lost: tuple[str, ...] = ()
    number: int = 1
    of: int = 1
    wrong: tuple[str, ...] = ()
