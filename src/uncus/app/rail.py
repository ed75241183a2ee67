"""The stage rail: six stages, each with a ring that fills with the share of the job that is through it."""

from __future__ import annotations

from PySide6.QtCore import QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QVBoxLayout, QWidget

from uncus.app.progress import Through
from uncus.app.session import STAGES
from uncus.app.theme import LIGHT, Theme, lettering

_DIGITS = 5  # signs that fit a ring as large as the names of the stages
_WIDE = 76  # px at the usual lettering


def grown() -> float:
    """How large the rail is: all six stages fit a window of the least height whatever the lettering."""
    return min(1.3, lettering())


class StageButton(QAbstractButton):
    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self.through = Through(0, 0, "")
        self.theme: Theme = LIGHT
        self.setText(name)
        self.setCheckable(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(f"Stage {name}")

    def show_through(self, through: Through) -> None:
        """Fill the ring with what is done of what is there."""
        self.through = through
        told = f"{through.done:,} {through.words}" if through.there else "nothing yet"
        self.setAccessibleDescription(told)
        self.setToolTip(f"{self.name}: {told}")
        self.update()

    @property
    def said(self) -> str:
        """What stands in the ring: a share in percent, which is never 100 before all is done; how many members there
        are, since nobody knows how many there will be; nothing where there is nothing."""
        if not self.through.there:
            return "–"
        return f"{self.through.done:,}" if self.name == "Frame" else str(int(self.through.share * 100 + 1e-6))

    def sizeHint(self) -> QSize:
        return QSize(round(_WIDE * grown()), round(84 * grown()))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.scale(grown(), grown())
        room = QRect(0, 0, round(self.width() / grown()), round(self.height() / grown()))
        ink, go = QColor(self.theme.rail_ink), QColor("#57B3A6")
        if self.isChecked():
            painter.fillRect(room, QColor(255, 255, 255, 22))
            painter.fillRect(0, 3, 3, room.height() - 6, go)
        if self.hasFocus():
            painter.setPen(QPen(go, 1))
            painter.drawRect(room.adjusted(1, 1, -2, -2))
        ring = QRectF(room.width() / 2 - 18, 11, 36, 36)
        painter.setPen(QPen(QColor(255, 255, 255, 50), 4))
        painter.drawEllipse(ring)
        painter.setPen(QPen(go, 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        painter.drawArc(ring, 90 * 16, -round(self.through.share * 360 * 16))
        font = QFont("IBM Plex Sans")
        font.setPixelSize(12 if len(self.said) <= _DIGITS else 10)
        painter.setFont(font)
        painter.setPen(ink)
        painter.drawText(ring, Qt.AlignmentFlag.AlignCenter, self.said)
        font.setPixelSize(12)
        painter.setFont(font)
        painter.drawText(QRectF(0, 54, room.width(), 20), Qt.AlignmentFlag.AlignCenter, self.name)


class Rail(QWidget):
    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("rail")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Stages")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(0)
        group = QButtonGroup(self)
        self.buttons: dict[str, StageButton] = {}
        for name in STAGES:
            button = StageButton(name)
            button.clicked.connect(lambda _=False, n=name: self.chosen.emit(n))
            group.addButton(button)
            layout.addWidget(button)
            self.buttons[name] = button
        layout.addStretch(1)

    def show_stage(self, name: str) -> None:
        self.buttons[name].setChecked(True)

    def show_progress(self, found: dict[str, Through]) -> None:
        for name, through in found.items():
            self.buttons[name].show_through(through)
