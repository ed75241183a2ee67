"""Two pieces laid over each other, face by face: the first in a full line, the second dashed; holes that only one
has are filled and carry its letter."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from uncus.mark.differences import Laid, Ring

_A, _B = QColor("#2F7F73"), QColor("#B83A22")


class LaidView(QWidget):
    def __init__(self, laid: Sequence[Laid], words: tuple[str, str]) -> None:
        super().__init__()
        self.laid, self.words = list(laid), words
        self.setAccessibleName("Both pieces laid over each other")
        self.setMinimumHeight(60 * max(1, len(self.laid)) + 26)
        self.setToolTip("A in full lines, B dashed; holes that only one has are filled")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for n, (words, colour, style) in enumerate(((f"A {self.words[0]}", _A, Qt.PenStyle.SolidLine),
            (f"B {self.words[1]}", _B, Qt.PenStyle.DashLine))):  # fmt: skip
            x = 6 + n * self.width() // 2
            painter.setPen(QPen(colour, 2.0, style))
            painter.drawLine(QPointF(x, 10), QPointF(x + 22, 10))
            painter.setPen(self.palette().text().color())
            painter.drawText(QPointF(x + 27, 14), words)
        if not self.laid:
            return
        high = (self.height() - 22) / len(self.laid)
        for n, face in enumerate(self.laid):
            self._face(painter, face, QRectF(50, 22 + n * high, self.width() - 58, high - 8))

    def _face(self, painter: QPainter, face: Laid, box: QRectF) -> None:
        rings = [*face.a, *face.b]
        xs, ws = ([p[i] for ring in rings for p in ring] for i in (0, 1))
        wide, tall = max(xs) - min(xs) or 1.0, max(ws) - min(ws) or 1.0
        sx = min(box.width() / wide, 6 * box.height() / tall)  # long pieces are drawn shorter than they are
        sw = min(box.height() / tall, sx * 6)

        def polygon(ring: Ring) -> QPolygonF:
            return QPolygonF(
                [QPointF(box.left() + (x - min(xs)) * sx, box.top() + (max(ws) - w) * sw) for x, w in ring]
            )

        painter.setPen(self.palette().text().color())
        painter.drawText(QPointF(6, box.center().y() + 4), face.face)
        for own, only, colour, style, letter in ((face.a, face.only_a, _A, Qt.PenStyle.SolidLine, "A"),
            (face.b, face.only_b, _B, Qt.PenStyle.DashLine, "B")):  # fmt: skip
            painter.setPen(QPen(colour, 1.4, style))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for ring in own:
                painter.drawPolygon(polygon(ring))
            painter.setBrush(QBrush(colour))
            shapes = [polygon(ring) for ring in only]
            for shape in shapes:
                painter.drawPolygon(shape)
            for shape in shapes[:1]:  # one letter says whose they are
                painter.drawText(shape.boundingRect().topRight() + QPointF(2, -2), letter)
