"""Small pictures of a joint with each choice of a value, seen as the model is seen now."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap

from uncus.app.theme import Theme, lettering
from uncus.shop.choices import Picture

_WIDE, _HIGH, _EDGE = 84, 64, 5  # px at the usual lettering


def size() -> QSize:
    return QSize(round(_WIDE * lettering()), round(_HIGH * lettering()))


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
    pixmap = QPixmap(room)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def at(points: NDArray[np.float64]) -> list[QPointF]:
        flat = (points @ axes[:2].T - middle) * scale * (1, -1) + (room.width() / 2, room.height() / 2)
        return [QPointF(x, y) for x, y in flat.tolist()]

    lines = ((picture.members, theme.rule, 1.0), (picture.parts, theme.ink, 1.0), (picture.welds, theme.wrong, 2.0))
    for of, colour, wide in lines:
        painter.setPen(QPen(QColor(colour), wide))
        ends = at(of.reshape(-1, 3))
        painter.drawLines([QLineF(a, b) for a, b in zip(ends[::2], ends[1::2], strict=True)])
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.go))
    for spot in at(picture.dots):
        painter.drawEllipse(spot, 2, 2)
    painter.end()
    return QIcon(pixmap)
