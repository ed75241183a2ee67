"""The start page: what stands there before a job is open."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QIcon, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from uncus import __version__
from uncus.app.starting.recent import Recent, RecentJobs

PICTURE = QSize(176, 110)
_MOST = 6  # changes that are told


class StartPage(QWidget):
    """Signals what is wanted; whoever shows it does it."""

    opened = Signal(str)  # a path
    new = Signal()
    open = Signal()
    sample = Signal()

    def __init__(self, recent: RecentJobs) -> None:
        super().__init__()
        self.recent = recent
        self.setObjectName("body")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAcceptDrops(True)
        row = QHBoxLayout(self)
        row.setContentsMargins(40, 32, 40, 28)
        row.setSpacing(36)
        row.addLayout(self._first(), 0)
        row.addLayout(self._recent(), 1)
        self.refresh()

    def _first(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(8)
        name = QLabel("Uncus")
        name.setProperty("name", True)
        column.addWidget(name)
        column.addWidget(_quiet("Steel detailing: model, joints, marks, sheets, bills and NC"))
        column.addSpacing(16)
        for words, key, help, wanted in (
            ("New job", "Ctrl+N", "Name, number, units, and an office's own standards", self.new),
            ("Open a job", "Ctrl+O", "A job file (.uncus); one dropped on this window opens as well", self.open),
            ("Look at the sample", "", "Tern Point Boathouse, a fresh copy to try things on", self.sample),
        ):
            button = QPushButton(f"{words}    {key}" if key else words)
            button.setAccessibleName(words)
            button.setToolTip(help)
            button.setMinimumWidth(250)
            if wanted is self.new:
                button.setProperty("main", True)
            button.clicked.connect(wanted.emit)
            column.addWidget(button)
            column.addWidget(_quiet(help))
            column.addSpacing(6)
        column.addSpacing(14)
        heading = QLabel(f"WHAT IS NEW IN {__version__}")
        heading.setProperty("heading", True)
        column.addWidget(heading)
        for words in whats_new()[:_MOST]:
            column.addWidget(_quiet(f"•  {words}"))
        column.addStretch(1)
        return column

    def _recent(self) -> QVBoxLayout:
        column = QVBoxLayout()
        heading = QLabel("LATELY OPEN")
        heading.setProperty("heading", True)
        column.addWidget(heading)
        self.none = _quiet(
            "No job was open here yet. Make a new one, open one that you have, or look at the sample first: it has "
            "all six stages in it, and nothing in it can be spoiled."
        )
        column.addWidget(self.none)
        self.list = QListWidget()
        self.list.setAccessibleName("Lately open")
        self.list.setIconSize(PICTURE)
        self.list.setSpacing(4)
        self.list.itemActivated.connect(lambda item: self.opened.emit(item.data(Qt.ItemDataRole.UserRole)))
        column.addWidget(self.list, 1)
        forget = QPushButton("Take off this list")
        forget.setToolTip("The job itself stays where it is")
        forget.clicked.connect(self._forget)
        self.forget = forget
        column.addWidget(forget, 0, Qt.AlignmentFlag.AlignRight)
        return column

    def refresh(self) -> None:
        """The jobs as they are now."""
        self.list.clear()
        for one in self.recent.all:
            item = QListWidgetItem(self._picture(one), _words(one))
            item.setData(Qt.ItemDataRole.UserRole, one.path)
            item.setToolTip(one.path)
            self.list.addItem(item)
        some = bool(self.recent.all)
        self.list.setVisible(some)
        self.forget.setVisible(some)
        self.none.setVisible(not some)
        if some:
            self.list.setCurrentRow(0)

    def _picture(self, one: Recent) -> QIcon:
        place = self.recent.picture(one.path)
        found = QPixmap(str(place)) if place is not None and place.exists() else QPixmap()
        if found.isNull():
            found = QPixmap(PICTURE)
            found.fill(Qt.GlobalColor.transparent)
        icon = QIcon(found)
        icon.addPixmap(found, QIcon.Mode.Selected)  # as it is, and not tinted
        return icon

    def _forget(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.recent.forget(item.data(Qt.ItemDataRole.UserRole))
            self.refresh()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped_jobs(event):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        for path in dropped_jobs(event):
            self.opened.emit(str(path))


def dropped_jobs(event: QDropEvent) -> list[Path]:
    """The job files in what is dragged."""
    paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
    return [path for path in paths if path.suffix == ".uncus"]


def whats_new(text: Callable[[], str] | None = None) -> list[str]:
    """The first sentence of each change of the newest version."""
    lines = (text() if text else (files("uncus") / "CHANGELOG.md").read_text(encoding="utf-8")).splitlines()
    found: list[str] = []
    for line in lines[next((n for n, one in enumerate(lines) if one.startswith("## ")), 0) + 1 :]:
        if line.startswith("## "):
            break
        if line.startswith("- "):
            found.append(line[2:])
        elif found:
            found[-1] += f" {line.strip()}"
    return [words.replace("*", "").replace("`", "").split(": ")[0].split(". ")[0].rstrip(".") for words in found]


def _quiet(words: str) -> QLabel:
    label = QLabel(words)
    label.setProperty("quiet", True)
    label.setWordWrap(True)
    label.setMaximumWidth(420)
    return label


def _words(one: Recent) -> str:
    path = Path(one.path)
    gone = "" if path.exists() else "\nNot there any more"
    return f"{one.name}   {one.number}\n{path.name} in {path.parent}\n{when(one.at)}{gone}"


def when(at: str, today: date | None = None) -> str:
    """A time as people say it."""
    try:
        moment = datetime.fromisoformat(at)
    except ValueError:
        return ""
    days = ((today or date.today()) - moment.date()).days
    clock = f"{moment:%H:%M}"
    if days <= 0:
        return f"today {clock}"
    if days == 1:
        return f"yesterday {clock}"
    return f"{days} days ago" if days < 14 else f"{moment:%Y-%m-%d}"
