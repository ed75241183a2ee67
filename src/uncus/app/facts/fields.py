"""One row of the facts: a value shared by several things, or "mixed"; edited as one change."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QObject, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QIcon, QKeyEvent, QPaintEvent
from PySide6.QtWidgets import QComboBox, QCompleter, QLineEdit, QStyle, QStyleOptionComboBox, QStylePainter

MIXED = "mixed"
BY_RULE = "by rule"


class TextField(QLineEdit):
    """A typed value. `enter` takes the text and says whether it was taken; Esc puts the old text back."""

    focused = Signal(bool)  # the keys come to it, or go

    def __init__(
        self,
        name: str,
        shown: str | None,
        enter: Callable[[str], bool],
        placeholder: str = "",
        offers: Sequence[str] = (),
    ) -> None:
        super().__init__(shown if shown is not None else "")
        self._shown = shown if shown is not None else ""
        self._enter = enter
        self.setAccessibleName(name)
        self.setCursorPosition(0)  # of what is too long the beginning is seen
        self.setPlaceholderText(MIXED if shown is None else placeholder)
        if offers:
            completer = QCompleter(list(offers), self)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setMaxVisibleItems(10)
            self.setCompleter(completer)
        self.editingFinished.connect(self._finished)

    def _finished(self) -> None:
        text = self.text().strip()
        if text == self._shown:
            return
        before, self._shown = self._shown, text
        if not self._enter(text):
            self._shown = before
            self.setProperty("bad", True)
            self.style().unpolish(self)
            self.style().polish(self)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.focused.emit(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.focused.emit(False)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._shown)
            self.clearFocus()
        else:
            super().keyPressEvent(event)


class ChoiceField(QComboBox):
    """One of a few values; "mixed" is shown, never offered. `pictures` give each choice's small picture, asked for
    when the list opens."""

    pictures: Callable[[], dict[str, QIcon]] | None = None
    _plain: QSize | None = None
    _plain_least: QSize | None = None

    def __init__(
        self, name: str, shown: str | None, choices: Sequence[str], enter: Callable[[str], bool], does: bool = False
    ) -> None:
        """`does`: choosing does something once, and the first choice, which does nothing, is shown again."""
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(7)
        self.addItems(list(choices))
        self.setCurrentIndex(list(choices).index(shown) if shown is not None and shown in choices else -1)
        self.setPlaceholderText(MIXED)
        self.textActivated.connect(lambda text: enter(text))
        self.currentTextChanged.connect(self._tell)
        self._tell(self.currentText())
        if does:
            self.activated.connect(lambda _: self.setCurrentIndex(0))
        self.view().installEventFilter(self)

    @property
    def longest(self) -> int:
        """Pixels of the longest of its choices."""
        return max((self.fontMetrics().horizontalAdvance(self.itemText(n)) for n in range(self.count())), default=0)

    def sizeHint(self) -> QSize:
        return self._plain or super().sizeHint()

    def minimumSizeHint(self) -> QSize:
        return self._plain_least or super().minimumSizeHint()

    def showPopup(self) -> None:
        found = self.pictures() if self.pictures is not None else {}
        if found:  # they are of the list alone
            self._plain, self._plain_least = self.sizeHint(), self.minimumSizeHint()
        for n in range(self.count()):
            self.setItemIcon(n, found.get(self.itemText(n), QIcon()))
        if found:
            self.setIconSize(next(iter(found.values())).availableSizes()[0])
        super().showPopup()

    def _tell(self, text: str) -> None:
        """What does not fit is told in whole when the pointer rests on it; a row's help comes with its words."""
        self.setToolTip(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        """What is too long for its field ends in dots, as no cut letter shows."""
        painter, option = QStylePainter(self), QStyleOptionComboBox()
        self.initStyleOption(option)
        option.currentIcon = QIcon()  # of the list alone: the field stays one line of words
        if self.currentIndex() < 0 and self.placeholderText():
            option.currentText = self.placeholderText()
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        room = self.style().subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        option.currentText = option.fontMetrics.elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, room.width() - 4
        )
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)

    def event(self, event: QEvent) -> bool:
        """Letters search in the list: they are no keys of the window's while it has the focus."""
        if _is_letter(event):
            event.accept()
            return True
        return super().event(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if _is_letter(event):
            event.accept()
            return True
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Letters and arrows open the list and search in it; nothing is taken before Enter."""
        letter = event.text().strip()
        if letter.isprintable() and letter and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.showPopup()
            self.view().keyboardSearch(letter)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Space):
            self.showPopup()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        event.ignore()  # scrolling the panel must not change the job


def _is_letter(event: QEvent) -> bool:
    if event.type() != QEvent.Type.ShortcutOverride or not isinstance(event, QKeyEvent):
        return False
    plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    return plain and bool(event.text().strip()) and event.text().isprintable()


def shared(values: Sequence[str]) -> str | None:
    """The value all have, or None."""
    return values[0] if values and all(v == values[0] for v in values) else None
