"""The value whose field has the keys, and what it measures on the steel."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QTimer
from PySide6.QtGui import QIcon

from uncus.app.facts.choice_pictures import icons
from uncus.app.theme import Theme
from uncus.connect.meaning import Measure
from uncus.connect.settings import params_of
from uncus.job.errors import JobError
from uncus.job.forms import About, fields
from uncus.job.records import Attachment, Connection
from uncus.shop.choices import pictures
from uncus.shop.meaning import measure
from uncus.units import UnitError

if TYPE_CHECKING:
    from uncus.app.session import Session

_LINGERS = 160  # ms that it stays when the keys go
_RESTED = 120  # ms that the keys rest on a field before what it measures is worked out
TOOL = ""  # in place of a record's id: a value of the tool at hand


class Pointed(NamedTuple):
    """A value by its field's words, and what it measures: of a joint or attachment, or of the tool at hand."""

    words: str
    at: Measure
    id: str
    name: str


class Pointing:
    """What is shown of the value at hand. `pulling`: the pointer has hold of its end, so it stays."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._asked: tuple[str, str, str] | None = None
        self.shown: Pointed | None = None
        self.pulling = False
        self._rest = QTimer(session, singleShot=True, interval=_RESTED)
        self._rest.timeout.connect(self.again)
        self.seen_along: Callable[[], NDArray[np.float64]] = lambda: np.eye(3)  # the model view's right, up and back

    def ask(self, id: str, name: str, words: str) -> None:
        """Show what a value measures once the keys have rested on its field."""
        self._asked = (id, name, words)
        self._rest.start()

    def leave(self) -> None:
        """The keys are elsewhere. A press on the dimension takes them from the field, so it stays for a moment."""
        self._asked = None
        self._rest.stop()
        QTimer.singleShot(_LINGERS, self._show_nothing)

    def again(self) -> None:
        """The steel is another: so is what the value measures."""
        if self._asked is not None:
            self._show(*self._asked)

    def moved(self) -> None:
        """What the tool is about to make moves with the pointer."""
        if self._asked is not None and self._asked[0] == TOOL:
            self.shown = None
            self._rest.start()

    def record(self, id: str) -> Connection | Attachment | None:
        job = self._session.job
        return job.get(id, Connection) or job.get(id, Attachment)

    def about(self, pointed: Pointed) -> About | None:
        """What the form says of the field; None where its record or tool is gone."""
        record, options = self.record(pointed.id), self._session.tool.options
        if pointed.id == TOOL:
            return fields(type(options)).get(pointed.name) if options is not None else None
        return fields(params_of(record.kind))[pointed.name] if record is not None else None

    def pictures(self, record: Connection | Attachment | None, name: str, theme: Theme) -> dict[str, QIcon]:
        """Each choice's small picture, seen as the model is; none where they look alike or its values are faulty.
        Without a record, of the tool at hand."""
        try:
            session = self._session
            found = session.tool.pictures(name) if record is None else pictures(session.shop, record, name)
        except JobError:
            return {}
        return icons(found, self.seen_along(), theme) if found else {}

    def _show_nothing(self) -> None:
        if self._asked is None and not self.pulling:
            self.shown = None
            self._session.view_changed.emit()

    def _show(self, id: str, name: str, words: str) -> None:
        found, record = None, self.record(id)
        with suppress(JobError, UnitError):
            if id == TOOL:
                found = self._session.tool.measure(name)
            elif record is not None:
                found = measure(self._session.shop, record, name)
        self.shown = None if found is None else Pointed(words, found, id, name)
        if found is None:
            self._session.said.emit(self._nothing(record, words), False)
        self._session.view_changed.emit()

    def _nothing(self, record: Connection | Attachment | None, words: str) -> str:
        if record is not None:
            return f"Nothing of this {record.kind} goes by “{words}” now."
        if self._session.tool.last is None:
            return f"What “{words}” measures is drawn once the first point is picked."
        return f"Nothing of what the next pick makes goes by “{words}” as the other values are."
