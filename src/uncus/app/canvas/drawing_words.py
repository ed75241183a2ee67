"""The words of others' drawings, painted where they stand and as large as they are, where they can be read."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtGui import QColor, QPainter

from uncus.app.canvas.camera import Camera
from uncus.app.session import Session
from uncus.app.theme import Theme
from uncus.reference.placing import placed

_READABLE, _POSTER = 5.0, 160.0  # pixels high, between which they are painted
_MOST = 400  # in one picture


def drawing_words(painter: QPainter, theme: Theme, session: Session, camera: Camera) -> None:
    left = _MOST
    for of, model in session.others.standing().values():
        for one in model.facts.words if of.shown else ():
            high = one.height * of.scale / camera.scale
            if not _READABLE < high < _POSTER or f"layer/{one.layer}" in of.hidden:
                continue
            turn = math.radians(one.turn)
            ends = np.array([one.at, np.add(one.at, (math.cos(turn), math.sin(turn), 0.0))])
            (x, y, _), (x1, y1, _) = camera.to_screen(placed(of, ends)).tolist()
            if not (0 <= x <= camera.width and 0 <= y <= camera.height):
                continue
            if not left:
                return
            left -= 1
            painter.save()
            painter.setPen(QColor(theme.slate))
            painter.translate(x, y)
            painter.rotate(math.degrees(math.atan2(y1 - y, x1 - x)))
            font = painter.font()
            font.setPixelSize(round(high))
            painter.setFont(font)
            painter.drawText(0, 0, one.text)
            painter.restore()
