"""One row of the facts: a value shared by several things, or "mixed"; edited as one change."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QCompleter, QLineEdit

MIXED = "mixed"
BY_RULE = "by rule"


class TextField(QLineEdit):
    """A typed value. `enter` takes the text and says whether it was taken; Esc puts the old text back."""

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

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._shown)
            self.clearFocus()
        else:
            super().keyPressEvent(event)


class ChoiceField(QComboBox):
    """One of a few values; "mixed" is shown, never offered."""

    def __init__(self, name: str, shown: str | None, choices: Sequence[str], enter: Callable[[str], bool]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.addItems(list(choices))
        self.setCurrentIndex(list(choices).index(shown) if shown in choices else -1)
        self.setPlaceholderText(MIXED)
        self.textActivated.connect(lambda text: enter(text))

    def wheelEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        event.ignore()  # scrolling the panel must not change the job


def shared(values: Sequence[str]) -> str | None:
    """The value all have, or None."""
    return values[0] if values and all(v == values[0] for v in values) else None
