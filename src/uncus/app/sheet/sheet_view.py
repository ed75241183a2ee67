"""A sheet on screen: the same list the PDF is written from; wheel zooms at the pointer, drag pans."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from uncus.draw.lettering import em_per_cap
from uncus.draw.lettering import width as text_width
from uncus.draw.sheet import STYLE, UNPRINTED, Circle, Line, Polyline, Sheet, Text


class SheetView(QWidget):
    def __init__(self) -> None:
        super().__init__()
        self.sheet: Sheet | None = None
        self.words = "Pick a sheet in the register."
        self._zoom, self._origin = 1.0, QPointF()
        self._last: QPointF | None = None
        self._fitted = True
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        self.setMinimumSize(300, 200)

    def show_sheet(self, sheet: Sheet | None, words: str = "") -> None:
        same_size = (
            sheet is not None
            and self.sheet is not None
            and (sheet.width, sheet.height) == (self.sheet.width, self.sheet.height)
        )
        self.sheet, self.words = sheet, words
        self.setAccessibleDescription(f"{sheet.name} {sheet.title}" if sheet else words)
        if not same_size:
            self.fit()
        self.update()

    def fit(self) -> None:
        """The whole sheet, in the middle."""
        self._fitted = True
        if self.sheet is not None:
            margin = 14
            self._zoom = min(
                (self.width() - 2 * margin) / self.sheet.width, (self.height() - 2 * margin) / self.sheet.height
            )
            self._origin = QPointF(
                (self.width() - self.sheet.width * self._zoom) / 2, (self.height() - self.sheet.height * self._zoom) / 2
            )
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._fitted:
            self.fit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        factor = 1.2 ** (event.angleDelta().y() / 120)
        new = min(60.0, max(0.2, self._zoom * factor))
        at = event.position()
        self._origin = at - (at - self._origin) * (new / self._zoom)
        self._zoom, self._fitted = new, False
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._last = event.position()
        self.setFocus()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._last is not None and event.buttons():
            self._origin += event.position() - self._last
            self._last, self._fitted = event.position(), False
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.fit()

    def focusNextPrevChild(self, following: bool) -> bool:
        return False  # Tab leads to the model

    # -- painting ---------------------------------------------------------------------------------
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor("#E4E0D5"))
        if self.sheet is None:
            painter.setPen(QColor("#1D2930"))
            painter.drawText(
                self.rect().adjusted(30, 30, -30, -30),
                Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                self.words,
            )
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.translate(self._origin)
        painter.scale(self._zoom, self._zoom)
        painter.fillRect(QRectF(0, 0, self.sheet.width, self.sheet.height), QColor("white"))
        paint(painter, self.sheet, 0.7 / self._zoom)


def paint(painter: QPainter, sheet: Sheet, thinnest: float = 0.0) -> None:
    """Draw a sheet in mm, y down, at the painter's origin. Lines are never thinner than `thinnest`."""
    pens = {}
    for layer, (width, dash) in STYLE.items():
        pen = QPen(QColor("#8A949A" if layer in UNPRINTED else "black"), max(width, thinnest))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap if not dash else Qt.PenCapStyle.FlatCap)
        if dash:
            pen.setDashPattern([max(0.1, d / pen.widthF()) for d in dash])
        pens[layer] = pen
    top = sheet.height
    for item in sheet.items:
        if isinstance(item, Line):
            painter.setPen(pens[item.layer])
            painter.drawLine(QPointF(item.x1, top - item.y1), QPointF(item.x2, top - item.y2))
        elif isinstance(item, Circle):
            painter.setPen(pens[item.layer])
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(item.x, top - item.y), item.r, item.r)
        elif isinstance(item, Polyline):
            painter.setPen(pens[item.layer])
            polygon = QPolygonF([QPointF(x, top - y) for x, y in item.points])
            painter.setBrush(QColor("black") if item.filled else Qt.BrushStyle.NoBrush)
            painter.drawPolygon(polygon) if item.closed else painter.drawPolyline(polygon)
        else:
            _text(painter, item, top)


def _text(painter: QPainter, text: Text, top: float) -> None:
    """Text at ten times its size and scaled down: fonts have whole pixels."""
    font = QFont("Routed Gothic Narrow" if text.narrow else "Routed Gothic")
    fine = 40.0
    font.setPixelSize(round(text.height * em_per_cap(text.narrow) * fine))
    painter.save()
    painter.setPen(QColor("black"))
    painter.translate(text.x, top - text.y)
    painter.rotate(-text.angle)
    painter.scale(1 / fine, 1 / fine)
    painter.setFont(font)
    long = text_width(text.text, text.height, text.narrow) * fine
    left = {"l": 0.0, "c": -long / 2, "r": -long}[text.anchor]
    painter.drawText(QPointF(left, text.height / 2 * fine), text.text)
    painter.restore()
