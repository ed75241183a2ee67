"""What a command of the table works on: the window's session and the parts of it that are nobody else's."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from PySide6.QtWidgets import QDialog, QWidget

    from uncus.app.canvas.model_view import ModelView
    from uncus.app.jobs import Jobs
    from uncus.app.palette import Palette
    from uncus.app.prompt import Prompt
    from uncus.app.session import Session
    from uncus.app.stages.bought import BoughtPanel
    from uncus.app.stages.check import CheckPanel
    from uncus.app.stages.deliver import DeliverPanel
    from uncus.app.stages.delivering import DeliverStage
    from uncus.app.stages.draw import DrawPanel
    from uncus.app.stages.mark import MarkPanel
    from uncus.app.stages.others import OthersPanel


class Desk(Protocol):
    """The window, as commands see it."""

    session: Session
    jobs: Jobs | None
    model: ModelView
    mark: MarkPanel
    check: CheckPanel
    draw: DrawPanel
    deliver: DeliverPanel
    delivering: DeliverStage
    prompt: Prompt
    palette_field: Palette

    others: OthersPanel
    bought: BoughtPanel

    def refresh_stage(self) -> None:
        """What the open stage shows of the job, anew."""

    def follow_preferences(self) -> None:
        """Look as the preferences say now."""

    def open_sheet(self, id: str) -> None:
        """The sheet of a piece, in the stage Draw."""

    def keep_open(self, dialog: Callable[[Session, QWidget], QDialog]) -> QDialog:
        """A dialog that stays beside the window: made once, brought to the front where it is open."""

    def hold(self, dialog: Callable[[Session, QWidget], QDialog]) -> None:
        """A dialog that must be answered first."""

    def ask_name(self, title: str, offer: str, words: str = "Name") -> str:
        """A line of text; empty where none is given."""

    def file_to(self, title: str, offer: str, kinds: str) -> Path | None:
        """A file to write; None where none is chosen."""

    def file_from(self, title: str, kinds: str) -> Path | None:
        """A file to read; None where none is chosen."""
