"""What of the model is shown and how: hidden, ghosted, styles, clipping by depth, lens colours. No Qt."""

from __future__ import annotations

from collections.abc import Container, Iterable
from enum import StrEnum

from uncus.job.records import ViewKind


class Style(StrEnum):
    SOLID = "solid"
    OUTLINE = "outline"
    STICK = "stick"


class Seeing:
    """The state of one model view; `version` grows with every change of which pieces are drawn and how (clipping is
    done anew with every picture, so it does not count)."""

    def __init__(self) -> None:
        self.hidden: frozenset[str] = frozenset()
        self.ghosted: frozenset[str] = frozenset()
        self.styles: dict[str, Style] = {}
        self.before: float | None = None
        self.behind: float | None = None
        self.kind = ViewKind.FREE
        self.left_ends = True
        self.frames = True  # view frames; selected ones are seen whatever this is
        self.lens = ""  # name of the lens that colours the model
        self.version = 0

    def _changed(self) -> None:
        self.version += 1

    def shown(self, id: str) -> bool:
        return id not in self.hidden

    @property
    def partly(self) -> str:
        """What is not shown as it is, in words; empty where all is."""
        words = []
        if self.hidden:
            words.append(f"{len(self.hidden)} hidden")
        if self.ghosted:
            words.append(f"{len(self.ghosted)} ghosted")
        if self.before is not None or self.behind is not None:
            words.append("clipped")
        return ", ".join(words)

    def frame_shown(self, id: str, selection: Container[str]) -> bool:
        """Whether a view frame is drawn and can be picked."""
        return self.frames or id in selection

    def hide(self, ids: Iterable[str]) -> None:
        self.hidden |= frozenset(ids)
        self._changed()

    def show_only(self, ids: Iterable[str], everything: Iterable[str]) -> None:
        self.hidden = frozenset(everything) - frozenset(ids)
        self.ghosted = frozenset()
        self._changed()

    def ghost_rest(self, ids: Iterable[str], everything: Iterable[str]) -> None:
        self.ghosted = frozenset(everything) - frozenset(ids)
        self.hidden = frozenset()
        self._changed()

    def show_all(self) -> None:
        self.hidden = self.ghosted = frozenset()
        self._changed()

    def set_hidden(self, ids: Iterable[str]) -> None:
        self.hidden, self.ghosted = frozenset(ids), frozenset()
        self._changed()

    def set_style(self, ids: Iterable[str], style: Style) -> None:
        for id in ids:
            if style is Style.SOLID:
                self.styles.pop(id, None)
            else:
                self.styles[id] = style
        self._changed()

    def clip(self, before: float | None, behind: float | None) -> None:
        self.before, self.behind = before, behind

    def forget(self, gone: Iterable[str]) -> None:
        """Pieces that are no more."""
        lost = frozenset(gone)
        if lost & (self.hidden | self.ghosted | self.styles.keys()):
            self.hidden -= lost
            self.ghosted -= lost
            self.styles = {id: style for id, style in self.styles.items() if id not in lost}
            self._changed()
