"""Words and marks drawn with QPainter under and over the steel."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QLinearGradient, QPainter, QPen, QPolygonF

from uncus.app.canvas.camera import Camera
from uncus.app.session import Session
from uncus.app.theme import Theme
from uncus.app.tools.draw_members import measured
from uncus.frame.snaps import Snap


def _pen(colour: str, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    pen = QPen(QColor(colour), width, style)
    pen.setCosmetic(True)
    return pen


class Overlay:
    """Draws for one view."""

    def __init__(self, session: Session, camera: Camera) -> None:
        self.session, self.camera = session, camera

    def _at(self, *points: tuple[float, float, float]) -> list[QPointF]:
        return [QPointF(x, y) for x, y, _ in self.camera.to_screen(np.array(points)).tolist()]

    # -- under the steel --------------------------------------------------------------------------
    def under(self, painter: QPainter, theme: Theme) -> None:
        width, height = self.camera.width, self.camera.height
        sky = QLinearGradient(0, 0, 0, height)
        sky.setColorAt(0, QColor(theme.sky[0]))
        sky.setColorAt(1, QColor(theme.sky[1]))
        painter.fillRect(0, 0, width, height, sky)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._plane_and_grid(painter, theme)

    def _plane_and_grid(self, painter: QPainter, theme: Theme) -> None:
        grid, z = self.session.grid, self.session.plane.elevation
        if grid is None or not grid.numbers or not grid.letters:
            return
        xs, ys = [g.at for g in grid.numbers], [g.at for g in grid.letters]
        over = 1800.0
        x0, x1, y0, y1 = min(xs) - over, max(xs) + over, min(ys) - over, max(ys) + over
        wash = QColor(theme.go)
        wash.setAlpha(18)
        painter.setBrush(wash)
        painter.setPen(_pen(theme.go, 1, Qt.PenStyle.DashLine))
        painter.drawPolygon(QPolygonF(self._at((x0, y0, z), (x1, y0, z), (x1, y1, z), (x0, y1, z))))
        pen = _pen(theme.slate, 1)
        pen.setDashPattern([12, 3, 2, 3])
        lines = [(g.label, (g.at, y0, z), (g.at, y1, z)) for g in grid.numbers]
        lines += [(g.label, (x0, g.at, z), (x1, g.at, z)) for g in grid.letters]
        for label, a, b in lines:
            p, q = self._at(a, b)
            painter.setPen(pen)
            painter.drawLine(p, q)
            self._bubble(painter, theme, p, q, label)

    def _bubble(self, painter: QPainter, theme: Theme, p: QPointF, q: QPointF, label: str) -> None:
        d = p - q
        size = max(1.0, (d.x() ** 2 + d.y() ** 2) ** 0.5)
        centre = p + d * (12 / size)
        painter.setPen(_pen(theme.slate, 1))
        painter.setBrush(QColor(theme.bone))
        painter.drawEllipse(centre, 11, 11)
        painter.setPen(QColor(theme.ink))
        self._font(painter, 11)
        painter.drawText(QRectF(centre.x() - 11, centre.y() - 11, 22, 22), Qt.AlignmentFlag.AlignCenter, label)

    # -- over the steel ---------------------------------------------------------------------------
    def over(
        self, painter: QPainter, theme: Theme, snap: Snap | None, box: QRectF | None, key: list[tuple[str, str, str]]
    ) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._selected(painter, theme)
        self._measures(painter, theme)
        self._preview(painter, theme)
        if snap is not None and self.session.tool.picks_points:
            self._snap(painter, theme, snap)
        if box is not None:
            self._box(painter, theme, box)
        self._triad(painter, theme)
        self._key(painter, theme, key)
        if not self.session.shop.assemblies:
            self._empty(painter, theme)

    def _selected(self, painter: QPainter, theme: Theme) -> None:
        """The left end of each selected member, and marks where they matter."""
        session = self.session
        members = session.members
        if len(members) <= 200:
            for m in members:
                (p,) = self._at(m.start)
                painter.setPen(_pen(theme.bone, 1.5))
                painter.setBrush(QColor(theme.go))
                painter.drawEllipse(p, 5, 5)
                if len(members) <= 12:
                    self._tag(painter, theme, p + QPointF(9, -9), "left end")
        if session.stage in ("Mark", "Draw", "Deliver") or 0 < len(members) <= 12:
            marks = session.marks
            shown = (
                [m.id for m in members]
                if session.stage not in ("Mark", "Draw", "Deliver")
                else list(session.shop.assemblies)
            )
            if len(shown) <= 150:
                taken: list[QPointF] = []
                for id in shown:
                    assembly = session.shop.assemblies.get(id)
                    mark = marks.of_assembly(id)
                    if assembly and mark:
                        middle = [(a + b) / 2 for a, b in zip(assembly.member.start, assembly.member.end, strict=True)]
                        (p,) = self._at((middle[0], middle[1], middle[2]))
                        if any(abs(p.x() - q.x()) < 30 and abs(p.y() - q.y()) < 17 for q in taken):
                            continue  # a mark over a mark is no use: zoom in for it
                        taken.append(p)
                        self._tag(painter, theme, p, mark, centred=True, quiet=True)

    def _measures(self, painter: QPainter, theme: Theme) -> None:
        for m in self.session.measures:
            p, q = self._at(m.a, m.b)
            painter.setPen(_pen(theme.look, 2))
            painter.drawLine(p, q)
            self._tag(painter, theme, (p + q) / 2, measured(m.a, m.b, self.session.units), centred=True)

    def _preview(self, painter: QPainter, theme: Theme) -> None:
        preview = self.session.tool.preview()
        line = preview.line or ((preview.members[0].start, preview.members[0].end) if preview.members else ())
        if not line:
            return
        p, q = self._at(*line)
        painter.setPen(_pen(theme.go, 2))
        painter.drawLine(p, q)
        painter.setBrush(QColor(theme.bone))
        painter.drawEllipse(p, 4, 4)
        if preview.words:
            self._tag(painter, theme, (p + q) / 2 + QPointF(0, -16), preview.words, centred=True)

    def _snap(self, painter: QPainter, theme: Theme, snap: Snap) -> None:
        (p,) = self._at(snap.point)
        painter.setPen(_pen(theme.wrong, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(p, 8, 8)
        self._tag(painter, theme, p + QPointF(14, -14), snap.words)

    def _tag(
        self, painter: QPainter, theme: Theme, at: QPointF, words: str, centred: bool = False, quiet: bool = False
    ) -> None:
        self._font(painter, 11)
        box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-5, -2, 5, 2)
        box.moveCenter(at) if centred else box.moveBottomLeft(at)
        painter.setPen(_pen(theme.rule) if quiet else QPen(Qt.PenStyle.NoPen))
        painter.setBrush(QColor(theme.bone if quiet else theme.rail))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(theme.ink if quiet else theme.rail_ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _box(self, painter: QPainter, theme: Theme, box: QRectF) -> None:
        whole = box.width() > 0
        wash = QColor(theme.go)
        wash.setAlpha(30)
        painter.setBrush(wash)
        painter.setPen(_pen(theme.go, 1, Qt.PenStyle.SolidLine if whole else Qt.PenStyle.DashLine))
        painter.drawRect(box.normalized())
        self._tag(painter, theme, box.bottomRight() + QPointF(8, 0), "all inside" if whole else "all it touches")

    def _triad(self, painter: QPainter, theme: Theme) -> None:
        origin = QPointF(38, self.camera.height - 38)
        for axis, (name, colour) in enumerate((("x", theme.wrong), ("y", theme.go), ("z", theme.ink))):
            right, up, _ = self.camera.axes[:, axis]
            tip = origin + QPointF(right * 26, -up * 26)
            painter.setPen(_pen(colour, 2))
            painter.drawLine(origin, tip)
            painter.setPen(QColor(theme.slate))
            self._font(painter, 11)
            painter.drawText(tip + QPointF(right * 6 - 3, -up * 6 + 4), name)

    def _key(self, painter: QPainter, theme: Theme, key: list[tuple[str, str, str]]) -> None:
        """What colours mean: sign, words, colour."""
        if not key:
            return
        self._font(painter, 12)
        wide = max(painter.fontMetrics().horizontalAdvance(f"{sign}  {words}") for sign, words, _ in key) + 42
        box = QRectF(self.camera.width - wide - 12, 12, wide, 20 * len(key) + 12)
        painter.setPen(_pen(theme.rule))
        painter.setBrush(QColor(theme.bone))
        painter.drawRoundedRect(box, 5, 5)
        for n, (sign, words, colour) in enumerate(key):
            y = box.top() + 6 + 20 * n
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colour))
            painter.drawRect(QRectF(box.left() + 10, y + 6, 9, 9))
            painter.setPen(QColor(theme.ink))
            painter.drawText(QRectF(box.left() + 27, y, wide, 20), Qt.AlignmentFlag.AlignVCenter, f"{sign}  {words}")

    def _empty(self, painter: QPainter, theme: Theme) -> None:
        painter.setPen(QColor(theme.slate))
        self._font(painter, 15)
        words = "No steel yet.\nPress G to type the grid and levels, C to place columns, B to draw beams."
        painter.drawText(QRectF(0, 0, self.camera.width, self.camera.height * 0.5), Qt.AlignmentFlag.AlignCenter, words)

    def _font(self, painter: QPainter, pixels: int) -> None:
        font = QFont("IBM Plex Sans")
        font.setPixelSize(pixels)
        painter.setFont(font)
