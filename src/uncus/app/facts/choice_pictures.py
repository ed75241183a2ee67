"""Small pictures of the choices of a value: of a joint as each makes it, seen as the model is seen now; of stairs,
rails and plate work as they were drawn of examples (`tools/choice_pictures.py`)."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from importlib.resources import files

import msgspec
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap

from uncus.app.theme import Theme, lettering
from uncus.shop.choices import Picture

_WIDE, _HIGH, _EDGE = 84, 64, 5  # px at the usual lettering
_LARGER = 1.3  # times as large are drawn ones, which hold more
_DRAWN = 840.0  # of a drawn picture's own numbers, how many it is wide


class Drawn(msgspec.Struct, frozen=True):
    """A picture of a choice: lines of what it is about and of the steel beside it, as x1 y1 x2 y2, y down; bolts."""

    lines: list[tuple[int, int, int, int]]
    beside: list[tuple[int, int, int, int]]
    dots: list[tuple[int, int]]


class _Row(msgspec.Struct, frozen=True):
    kinds: tuple[str, ...]
    field: str
    choices: dict[str, Drawn]


@cache
def drawn() -> dict[tuple[str, str], dict[str, Drawn]]:
    """The pictures of choices by the kind of composite and the field."""
    rows = msgspec.json.decode((files(__package__) / "choices.json").read_bytes(), type=list[_Row])
    return {(kind, row.field): row.choices for row in rows for kind in row.kinds}


def size() -> QSize:
    return QSize(round(_WIDE * lettering()), round(_HIGH * lettering()))


def drawn_icons(kind: str, field: str, theme: Theme) -> dict[str, QIcon]:
    """The icons of a composite's choices; none for a field that has no pictures."""
    room = size() * _LARGER
    scale = room.width() / _DRAWN
    found = {}
    for words, of in drawn().get((kind, field), {}).items():
        lines = tuple(
            ([QLineF(*(v * scale for v in line)) for line in some], colour)
            for some, colour in ((of.beside, theme.rule), (of.lines, theme.ink))
        )
        found[words] = _painted([(some, colour, 1.0) for some, colour in lines], of.dots, scale, theme, room)
    return found


def icons(pictures: dict[str, Picture], axes: NDArray[np.float64], theme: Theme) -> dict[str, QIcon]:
    """Each choice's picture, all to one scale and place. `axes` (3, 3) are the view's right, up and back."""
    own = np.concatenate([np.concatenate([p.parts.reshape(-1, 3), p.dots]) for p in pictures.values()])
    spots = (own if len(own) else np.concatenate([p.points for p in pictures.values()])) @ axes[:2].T
    low, high = spots.min(axis=0), spots.max(axis=0)
    room = size()
    scale = min(
        (room.width() - 2 * _EDGE) / max(1.0, 1.25 * float(high[0] - low[0])),
        (room.height() - 2 * _EDGE) / max(1.0, 1.25 * float(high[1] - low[1])),
    )
    return {words: _icon(p, axes, (low + high) / 2, scale, theme) for words, p in pictures.items()}


def _icon(
    picture: Picture, axes: NDArray[np.float64], middle: NDArray[np.float64], scale: float, theme: Theme
) -> QIcon:
    room = size()

    def at(points: NDArray[np.float64]) -> list[tuple[float, float]]:
        flat = (points @ axes[:2].T - middle) * scale * (1, -1) + (room.width() / 2, room.height() / 2)
        return [(x, y) for x, y in flat.tolist()]

    lines = []
    for of, colour, wide in (
        (picture.members, theme.rule, 1.0), (picture.parts, theme.ink, 1.0), (picture.welds, theme.wrong, 2.0)
    ):  # fmt: skip
        ends = at(of.reshape(-1, 3))
        lines.append(([QLineF(*a, *b) for a, b in zip(ends[::2], ends[1::2], strict=True)], colour, wide))
    return _painted(lines, at(picture.dots), 1.0, theme, room)


def _painted(
    lines: list[tuple[list[QLineF], str, float]],
    dots: Sequence[tuple[float, float]],
    scale: float,
    theme: Theme,
    room: QSize,
) -> QIcon:
    """Lines by their colour and width, and bolts."""
    pixmap = QPixmap(room)
    pixmap.fill(QColor(theme.bone))
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for some, colour, wide in lines:
        painter.setPen(QPen(QColor(colour), wide))
        painter.drawLines(some)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.go))
    for x, y in dots:
        painter.drawEllipse(QPointF(x * scale, y * scale), 2, 2)
    painter.end()
    return QIcon(pixmap)
