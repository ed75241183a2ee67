"""A sheet on screen: the same list the PDF is written from; wheel zooms at the pointer, drag pans, a click takes
hold of what is written."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from uncus.app.sheet.clean_up import CleanUp
from uncus.draw.lettering import em_per_cap
from uncus.draw.lettering import width as text_width
from uncus.draw.sheet import STYLE, UNPRINTED, Circle, Layer, Line, Polyline, Sheet, Text
from uncus.job.drawings import Edit, Written


class SheetView(QWidget):
    """`edited` carries an edit of the sheet shown; `said` words for the bar; `wrote` a note to be given its words."""

    edited = Signal(object)
    said = Signal(str)
    wrote = Signal(object)
    followed = Signal(str)  # a sign that leads to another sheet

    def __init__(self) -> None:
        super().__init__()
        self.hand = CleanUp()
        self.words = "Pick a sheet in the register."
        self.over: tuple[list, list, list] | None = None  # type: ignore[type-arg]  # both, only old, only new
        self._zoom, self._origin = 1.0, QPointF()
        self._last: QPointF | None = None
        self._held: QPointF | None = None  # where a drag of an annotation began
        self._under = ""
        self._fitted = True
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        self.setMinimumSize(300, 200)

    @property
    def sheet(self) -> Sheet | None:
        return self.hand.sheet

    def show_sheets(self, sheets: Sequence[Sheet], words: str = "", page: int = 0) -> None:
        old = self.sheet
        self.hand.show(sheets, page)
        self.words, self.over = words, None
        new = self.sheet
        self.setAccessibleDescription(f"{new.name} {new.title}" if new else words)
        if old is None or new is None or (old.width, old.height) != (new.width, new.height):
            self.fit()
        self.said.emit(self.hand.prompt if new else "")
        self.update()

    def turn(self, by: int) -> bool:
        """Another sheet of the same piece; False where there is none that way."""
        page = self.hand.page + by
        if not 0 <= page < len(self.hand.sheets):
            return False
        self.show_sheets(self.hand.sheets, "", page)
        return True

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

    def paper(self, at: QPointF) -> tuple[float, float]:
        """A place of the widget in mm of the paper, y up."""
        p = (at - self._origin) / self._zoom
        return p.x(), (self.sheet.height if self.sheet else 0.0) - p.y()

    def place(self, x: float, y: float) -> QPointF:
        """A place of the paper on the widget."""
        return self._origin + QPointF(x, (self.sheet.height if self.sheet else 0.0) - y) * self._zoom

    # -- pointer --------------------------------------------------------------------------------------
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
        self.setFocus()
        self._last = event.position()
        if event.button() is not Qt.MouseButton.LeftButton or self.sheet is None:
            return
        x, y = self.paper(event.position())
        if name := self.hand.leads_to(x, y):
            self.followed.emit(name)
            return
        straight = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._give(self.hand.press(x, y, straight))
        if not self.hand.mode and self.hand.spot is not None:
            self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self.update()
            self._last = event.position()
            return
        if self._last is not None and event.buttons():
            self._origin += event.position() - self._last
            self._last, self._fitted = event.position(), False
        spot = self.hand.at(*self.paper(event.position())) if self.sheet else None
        self._under = spot.key if spot else ""
        leads = self.hand.leads_to(*self.paper(event.position()))
        self.setToolTip(f"To sheet {leads}" if leads else "")
        self.setCursor(
            Qt.CursorShape.PointingHandCursor if spot or leads or self.hand.mode else Qt.CursorShape.ArrowCursor
        )
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        if held is None:
            return
        way = (event.position() - held) / self._zoom
        if abs(way.x()) + abs(way.y()) > 1.5:
            self._give(self.hand.nudged(round(way.x(), 2), round(-way.y(), 2)))
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.hand.at(*self.paper(event.position())) is None:
            self.fit()

    # -- keys -----------------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        way = ways.get(Qt.Key(event.key()))
        if way and self.hand.spot is not None:
            self._give(self.hand.nudged(float(way[0]), float(way[1])))
        else:
            super().keyPressEvent(event)

    def leave_out(self) -> None:
        self._clean(lambda: self.hand.left_out() or "Pick what should be left out first.")

    def split(self) -> None:
        self._clean(self.hand.split)

    def enter(self, tool: str) -> None:
        """Take up a tool of cleaning up: merge, reach, from or note."""
        self._clean(lambda: self.hand.enter(tool) or None)

    def _clean(self, work: Callable[[], Edit | str | None]) -> None:
        if self.sheet is None:
            self.said.emit("Pick a sheet first.")
        else:
            self._give(work())
        self.update()

    def back(self) -> bool:
        done = self.hand.back()
        self.said.emit(self.hand.prompt)
        self.update()
        return done

    def _give(self, result: Edit | str | None) -> None:
        if isinstance(result, Written):
            self.wrote.emit(result)
        elif isinstance(result, str):
            self.said.emit(result)
            return
        elif result is not None:
            self.edited.emit(result)
        self.said.emit(self.hand.prompt)
        self.update()

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
        if self.over is not None:
            _paint_over(painter, self.sheet, self.over, 0.7 / self._zoom)
            return
        paint(painter, self.sheet, 0.7 / self._zoom)
        self._paint_hand(painter)

    def _paint_hand(self, painter: QPainter) -> None:
        """What is under the pointer and what is picked, where it goes while it is dragged, and points to pick."""
        assert self.sheet is not None
        top, hand = self.sheet.height, self.hand
        for spot in self.sheet.spots:
            picked = spot.key == hand.picked
            if not picked and spot.key != self._under:
                continue
            shift = QPointF()
            if picked and self._held is not None and self._last is not None:
                shift = (self._last - self._held) / self._zoom
            x0, y0, x1, y1 = spot.box
            colour = QColor("#2C7A70")
            painter.setPen(QPen(colour, (1.6 if picked else 0.9) / self._zoom))
            colour.setAlpha(26 if picked else 12)
            painter.setBrush(colour)
            painter.drawRoundedRect(QRectF(x0 - 1, top - y1 - 1, x1 - x0 + 2, y1 - y0 + 2).translated(shift), 1, 1)
            for key, x, y in spot.stops if picked else ():
                on = key == hand.stop
                painter.setBrush(QColor("#C8452C" if on else "#2C7A70"))
                painter.drawEllipse(QPointF(x, top - y) + shift, *(2 * [(5.0 if on else 3.0) / self._zoom]))
        if hand.mode in ("reach", "from", "to"):
            painter.setPen(QPen(QColor("#3D55A0"), 1.2 / self._zoom))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for frame in self.sheet.frames:
                for x, y, _, _ in frame.points.values():
                    painter.drawEllipse(QPointF(x, top - y), 4 / self._zoom, 4 / self._zoom)


def _paint_over(painter: QPainter, sheet: Sheet, over: tuple[list, list, list], thinnest: float) -> None:  # type: ignore[type-arg]
    """An issued sheet and its fellow of today over each other: what both have is grey, the old alone vermilion with
    a minus, the new alone verdigris with a plus."""
    for items, colour, sign in zip(over, ("#B9BDBA", "#C8452C", "#2C7A70"), ("", "-", "+"), strict=True):
        paint(painter, msgspec.structs.replace(sheet, items=tuple(items)), thinnest, colour)
        if sign:
            for item in items:
                if isinstance(item, Text):
                    _text(
                        painter,
                        msgspec.structs.replace(item, text=sign, x=item.x - 2.0, anchor="r"),
                        sheet.height,
                        colour,
                    )


def paint(painter: QPainter, sheet: Sheet, thinnest: float = 0.0, colour: str = "black") -> None:
    """Draw a sheet in mm, y down, at the painter's origin. Lines are never thinner than `thinnest`."""
    pens = {}
    for layer, (width, dash) in STYLE.items():
        pen = QPen(
            QColor("#8A949A" if layer in UNPRINTED else "#C8452C" if layer is Layer.CLOUD else colour),
            max(width, thinnest),
        )
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
            painter.setBrush(QColor(colour) if item.filled else Qt.BrushStyle.NoBrush)
            painter.drawPolygon(polygon) if item.closed else painter.drawPolyline(polygon)
        else:
            _text(painter, item, top, colour)


def _text(painter: QPainter, text: Text, top: float, colour: str = "black") -> None:
    """Text at ten times its size and scaled down: fonts have whole pixels."""
    font = QFont("Routed Gothic Narrow" if text.narrow else "Routed Gothic")
    fine = 40.0
    font.setPixelSize(round(text.height * em_per_cap(text.narrow) * fine))
    painter.save()
    painter.setPen(QColor(colour))
    painter.translate(text.x, top - text.y)
    painter.rotate(-text.angle)
    painter.scale(1 / fine, 1 / fine)
    painter.setFont(font)
    long = text_width(text.text, text.height, text.narrow) * fine
    left = {"l": 0.0, "c": -long / 2, "r": -long}[text.anchor]
    painter.drawText(QPointF(left, text.height / 2 * fine), text.text)
    painter.restore()
