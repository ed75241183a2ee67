"""Do anything: a few letters of a command, a mark or a piece."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import msgspec
from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QLineEdit

from uncus.app.commands import COMMANDS
from uncus.app.keys import key_of
from uncus.app.session import Session
from uncus.mark.marking import natural
from uncus.units import counted


class Entry(msgspec.Struct, frozen=True):
    words: str
    do: Callable[[], object]


class Palette(QLineEdit):
    """The field at the top. Enter takes the first line offered."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.more: Callable[[], list[Entry]] = list  # what else can be done, such as opening other jobs
        self.setPlaceholderText("Do anything: a command, a mark, a piece    Ctrl+K")
        self.setAccessibleName("Do anything")
        self.setMinimumWidth(380)
        self._model = QStringListModel()
        self._completer = QCompleter(self._model, self)
        self._completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self._completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self._completer.setMaxVisibleItems(12)
        self.setCompleter(self._completer)
        popup = self._completer.popup()
        assert popup is not None
        self._popup = popup
        self._completer.activated.connect(self._chosen)
        self.returnPressed.connect(self._entered)
        self._entries: dict[str, Entry] = {}

    def open(self) -> None:
        """Gather what there is and take the keys."""
        entries = [
            Entry(c.words + (f"    {key}" if key else ""), lambda c=c: self.session.wanted.emit(c))  # type: ignore[misc]
            for c, key in ((c, key_of(c, self.session.preferences)) for c in COMMANDS)
            if c.id != "find" and c.when(self.session)
        ]
        marks = self.session.marks
        by_mark: dict[str, list[str]] = {}
        assemblies = self.session.shop.so_far  # nobody who searches waits for the steel of a large job
        for id in assemblies:
            if mark := marks.of_assembly(id):
                by_mark.setdefault(mark, []).append(id)
        for mark in sorted(by_mark, key=natural):
            ids = by_mark[mark]
            first = assemblies[ids[0]]
            entries.append(Entry(f"{mark}: {first.words}, {len(ids)} of it", partial(self._show, ids)))
        parts: dict[str, set[str]] = {}
        for piece in (p for a in assemblies.values() for p in a.pieces):
            if mark := marks.of_part(piece.id):
                parts.setdefault(mark, set()).add(piece.owner)
        for mark in sorted(parts, key=natural):
            ids = sorted(parts[mark])
            entries.append(Entry(f"{mark}: part, in {counted(len(ids), 'piece')}", partial(self._show, ids)))
        sections: dict[str, list[str]] = {}
        for id, assembly in assemblies.items():
            sections.setdefault(assembly.member.section, []).append(id)
        entries += [
            Entry(f"Select all {name} ({len(ids)})", partial(self._show, ids)) for name, ids in sorted(sections.items())
        ]
        self._entries = {e.words: e for e in (*entries, *self.more())}
        self._model.setStringList(list(self._entries))
        self.setFocus()
        self.selectAll()

    def _show(self, ids: list[str]) -> None:
        self.session.select(ids)
        self.session.framed.emit()

    def focusInEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().focusInEvent(event)
        if not self._entries:
            self.open()

    def focusOutEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().focusOutEvent(event)
        self._entries = {} if not self._popup.isVisible() else self._entries

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.clear()
            self.session.to_canvas.emit()
        else:
            super().keyPressEvent(event)

    def _entered(self) -> None:
        text = self.text().strip().casefold()
        hit = next((e for e in self._entries.values() if e.words.casefold().startswith(text)), None)
        hit = hit or next((e for e in self._entries.values() if text in e.words.casefold()), None)
        if not text:
            return
        if hit is None:
            self.session.said.emit(
                f"Nothing is called “{self.text()}”; try part of a command, a mark or a section.", True
            )
        else:
            self._chosen(hit.words)

    def _chosen(self, words: str) -> None:
        entry = self._entries.get(words)
        if entry is None:
            return
        self._popup.hide()
        self.clear()
        self.session.to_canvas.emit()
        entry.do()
