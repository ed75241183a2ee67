"""The dimensions of pieces' own sheets painted on them in the model: pinned to some, or on the one under the
pointer."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPen

from uncus.app.canvas.camera import Camera
from uncus.app.session import Session
from uncus.app.theme import Theme, lettering
from uncus.caches import Beside
from uncus.draw.on_model import Mark3, dimensions_on, part_dimensions_on

_LEAST = 9.0  # pixels between two ends below which a figure is left out until one comes nearer


class Dimensions:
    """`pinned` pieces show theirs always, and while `on` the one under the pointer too: those of the piece's sheet,
    or of the sheets of its `parts`."""

    def __init__(self, session: Session, camera: Camera) -> None:
        self.session, self.camera = session, camera
        self.on = self.parts = False
        self.pinned: frozenset[str] = frozenset()
        self._known: Beside[str, list[Mark3]] = Beside()

    def toggle(self, ids: frozenset[str]) -> str:
        """Pin pieces; then their parts' dimensions instead; then take all off again. What was done, in words."""
        if self.on and self.parts:
            self.on, self.parts, self.pinned = False, False, frozenset()
            return "Dimensions are off the model."
        self.parts = self.on
        if not self.on:
            self.on, self.pinned = True, ids
        whose, after = (
            ("their parts", "takes them off") if self.parts else ("the selected pieces", "shows their parts'")
        )
        return f"Dimensions of {whose}; the piece under the pointer shows its own too. Shift+D {after}."

    def forget(self) -> None:
        """The job changed: marks and edits of sheets may have."""
        self._known = Beside()

    def of(self, id: str) -> list[Mark3]:
        id = self.session.shop.ships_as(id)
        assembly = self.session.shop.shipped.get(id)
        if assembly is None:
            return []
        session = self.session
        shown = part_dimensions_on if self.parts else dimensions_on
        key = f"{id} {self.parts}"
        return self._known.of(key, assembly, lambda: shown(assembly, session.job, session.shop, session.marks))

    def paint(self, painter: QPainter, theme: Theme, hovered: str) -> None:
        if not self.on:
            return
        taken: list[QRectF] = []
        ships_as = self.session.shop.ships_as
        for id in sorted({ships_as(id) for id in self.pinned | ({hovered} if hovered else set())}):
            for mark in self.of(id):
                self._paint(painter, theme, mark, taken)

    def _paint(self, painter: QPainter, theme: Theme, mark: Mark3, taken: list[QRectF]) -> None:
        points = [*mark.line, *(p for foot in mark.feet for p in foot), mark.at]
        flat = [QPointF(x, y) for x, y, _ in self.camera.to_screen(np.array(points)).tolist()]
        a, b = flat[0], flat[1]
        long = math.hypot(b.x() - a.x(), b.y() - a.y())
        quiet, ink = QPen(QColor(theme.slate), 1), QPen(QColor(theme.ink), 1)
        painter.setPen(quiet)
        for n in range(len(mark.feet)):
            painter.drawLine(flat[2 + 2 * n], flat[3 + 2 * n])
        painter.setPen(ink)
        painter.drawLine(a, b)
        if long < _LEAST:
            return
        font = QFont("IBM Plex Sans")
        font.setPixelSize(round(11 * lettering()))
        painter.setFont(font)
        box = QRectF(painter.fontMetrics().boundingRect(mark.words)).adjusted(-3, -1, 3, 1)
        box.moveCenter(flat[-1])
        if any(box.intersects(other) for other in taken):
            return
        taken.append(box)
        painter.setPen(Qt.PenStyle.NoPen)
        back = QColor(theme.bone)
        back.setAlpha(215)
        painter.setBrush(back)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(ink)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, mark.words)
