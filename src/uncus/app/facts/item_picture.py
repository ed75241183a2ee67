"""The picture of a bought item: its own photograph, or its body as it looks from above and to one side."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from uncus.job.bought import BoughtItem
from uncus.steel.bodies import item_part
from uncus.steel.solid import plain_mesh

_SEEN = np.array([[0.83, -0.56, 0.0], [-0.28, -0.42, 0.86], [-0.48, -0.72, -0.5]])  # right, up, away
_LIGHT = np.array([-0.35, -0.55, 0.76])


def item_picture(item: BoughtItem, width: int, high: int, steel: str, ink: str) -> QPixmap:
    """A picture so large, on nothing."""
    picture = QPixmap(width, high)
    picture.fill(Qt.GlobalColor.transparent)
    if item.picture:
        photo = QPixmap()
        if photo.loadFromData(item.picture):
            keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            return photo.scaled(width, high, keep, smooth)
    try:
        part, _, _ = item_part(item.facts, item.body)
        mesh = plain_mesh(part)
    except ValueError:
        return picture
    seen = mesh.points @ _SEEN.T
    low, high_ = seen[:, :2].min(axis=0), seen[:, :2].max(axis=0)
    scale = min((width - 12) / max(high_[0] - low[0], 1e-6), (high - 12) / max(high_[1] - low[1], 1e-6))
    flat = (seen[:, :2] - (low + high_) / 2) * scale * (1, -1) + (width / 2, high / 2)
    corners = mesh.points[mesh.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    depth = seen[:, 2][mesh.triangles].mean(axis=1)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for n in np.argsort(-depth):
        if float(normals[n] @ _SEEN[2]) >= 0:
            continue  # turned away
        light = 100 + round(45 * float(normals[n] @ _LIGHT))
        colour = QColor(steel).lighter(light) if light >= 100 else QColor(steel).darker(200 - light)
        painter.setBrush(colour)
        painter.setPen(QPen(colour, 0.6))
        painter.drawPolygon(QPolygonF([QPointF(*flat[i]) for i in mesh.triangles[n]]))
    painter.setPen(QPen(QColor(ink), 1.0))
    for a, b in _outlines(mesh.triangles, normals):
        painter.drawLine(QPointF(*flat[a]), QPointF(*flat[b]))
    painter.end()
    return picture


def _outlines(triangles, normals) -> list[tuple[int, int]]:  # type: ignore[no-untyped-def]
    """Edges between a face that is turned here and one that is not, or that lies otherwise."""
    there: dict[tuple[int, int], list[int]] = {}
    for n, (a, b, c) in enumerate(triangles.tolist()):
        for i, j in ((a, b), (b, c), (c, a)):
            there.setdefault((min(i, j), max(i, j)), []).append(n)
    found = []
    for edge, own in there.items():
        facing = [n for n in own if float(normals[n] @ _SEEN[2]) < 0]
        if facing and (len(facing) < len(own) or (len(own) == 2 and float(normals[own[0]] @ normals[own[1]]) < 0.94)):
            found.append(edge)
    return found
