"""The guide in the window, what the tool at hand does (F1), and the first job step by step."""

from __future__ import annotations

from importlib.resources import as_file, files

from PySide6.QtCore import QUrl
from PySide6.QtGui import QColor, QImage, QPainter, QTextBlockFormat, QTextCursor
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from uncus.app import guide
from uncus.app.command import Command
from uncus.app.keys import key_of
from uncus.app.session import Session
from uncus.app.theme import sized, theme_of

_PICTURE = 560  # px wide, at most


class Pages(QTextBrowser):
    """Chapters with their pictures, wherever the package lies."""

    def show_chapter(self, name: str) -> None:
        """A chapter, with air between its paragraphs."""
        theme = theme_of(self)
        page = self.document()
        page.setDocumentMargin(18)
        page.setDefaultStyleSheet(f"a {{ color: {theme.go}; }}")
        self.setMarkdown(guide.chapter(name))
        block = page.begin()
        while block.isValid():
            cursor, form = QTextCursor(block), block.blockFormat()
            form.setBottomMargin(9)
            form.setLineHeight(118, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
            cursor.setBlockFormat(form)
            block = block.next()

    def loadResource(self, type: int, name: QUrl | str) -> object:
        name = QUrl(name) if isinstance(name, str) else name
        place = files("uncus") / "guide" / name.fileName()
        if not place.is_file():
            return super().loadResource(type, name)
        if name.fileName().endswith(".md"):
            return place.read_text(encoding="utf-8")
        with as_file(place) as path:
            return drawn(str(path))


def drawn(path: str) -> QImage:
    """A picture of the guide on paper of its own, so that it is read on dark pages too."""
    renderer = QSvgRenderer(path)
    size = renderer.viewBoxF().size()
    wide = _PICTURE
    image = QImage(wide, max(1, round(wide * size.height() / max(1.0, size.width()))), QImage.Format.Format_RGB32)
    image.fill(QColor("#FBF9F4"))
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    return image


class GuideDialog(QDialog):
    """Stays beside the model; the tool at hand at its head."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Guide")
        self.resize(880, 560)
        self.head = QLabel()
        self.head.setWordWrap(True)
        self.head.setAccessibleName("The tool at hand")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search the guide")
        self.search.setAccessibleName("Search the guide")
        self.search.textChanged.connect(lambda _: self._list())
        self.chapters = QListWidget()
        self.chapters.setAccessibleName("Chapters")
        sized(self.chapters, wide=210)
        self.chapters.currentItemChanged.connect(lambda item, _: self._show(item))
        self.pages = Pages()
        self.pages.setAccessibleName("Chapter")
        self.pages.setOpenLinks(False)
        self.pages.anchorClicked.connect(lambda url: self.open(url.fileName().removesuffix(".md")))
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.chapters, 1)
        row = QHBoxLayout()
        row.addLayout(left)
        row.addWidget(self.pages, 1)
        column = QVBoxLayout(self)
        column.addWidget(self.head)
        column.addLayout(row, 1)
        session.tool_changed.connect(self.tell)
        session.stage_changed.connect(lambda _: self.tell())
        self._list()
        self.tell()

    def _list(self) -> None:
        names = guide.found(self.search.text())
        self.chapters.clear()
        for name in names:
            item = QListWidgetItem(guide.title(name))
            item.setData(256, name)
            self.chapters.addItem(item)
        if names:
            self.chapters.setCurrentRow(0)

    def _show(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.pages.show_chapter(item.data(256))

    def open(self, name: str) -> None:  # type: ignore[override]
        """Show a chapter."""
        self.search.clear()
        if name in guide.CHAPTERS:
            self.chapters.setCurrentRow(guide.CHAPTERS.index(name))

    def tell(self) -> None:
        """What the tool at hand does, with its keys, and the chapter that it is in."""
        command = self._command()
        if command is None:
            self.head.setText(f"<b>{self.session.tool.words}</b> in {self.session.stage}: pick pieces and change their "
                "facts. A tool of the shelf says here what it does.")  # fmt: skip
        else:
            key = key_of(command, self.session.preferences)
            keys = f" &nbsp;({key})" if key else ""
            self.head.setText(f"<b>{command.words}</b>{keys}<br>{command.help}<br>{self.session.tool.prompt} "
                "&nbsp; Esc steps back, Enter finishes, typed lengths go to the prompt.")  # fmt: skip
        self.open(guide.chapter_of(self.session.stage, command.id if command else ""))

    def _command(self) -> Command | None:
        from uncus.app.commands import COMMANDS

        words = self.session.tool.words
        return next((c for c in COMMANDS if c.words == words), None)


class TourDialog(QDialog):
    """The first job: each step ticked as soon as the job shows that it was done; left at any time."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("The first job, step by step")
        self.resize(430, 360)
        self.list = QListWidget()
        self.list.setAccessibleName("Steps")
        self.help = QLabel()
        self.help.setWordWrap(True)
        self.help.setProperty("quiet", True)
        self.do = QPushButton("Do it now")
        self.do.setProperty("main", True)
        self.do.setToolTip("Take up the tool, or open the stage, of the step that is chosen")
        leave = QPushButton("Leave the tour")
        leave.setToolTip("It can be taken up again: type tour into the do-anything field")
        self.do.clicked.connect(self._start)
        leave.clicked.connect(self.reject)
        for button in (self.do, leave):
            button.setAutoDefault(False)
            button.setAccessibleName(button.text())
        self.list.currentRowChanged.connect(self._tell)
        self.list.itemActivated.connect(lambda _: self._start())
        row = QHBoxLayout()
        row.addWidget(self.do)
        row.addStretch(1)
        row.addWidget(leave)
        column = QVBoxLayout(self)
        column.addWidget(self.list, 1)
        column.addWidget(self.help)
        column.addLayout(row)
        session.steel.connect(lambda _: self.refresh())
        session.stage_changed.connect(lambda _: self.refresh())
        session.sheet_seen.connect(self.refresh)
        self.refresh()

    @property
    def done_so_far(self) -> list[bool]:
        return [step.done(self.session) for step in guide.TOUR]

    def refresh(self) -> None:
        """Tick what is done, and go to the first that is not."""
        done = self.done_so_far
        self.list.clear()
        for step, is_done in zip(guide.TOUR, done, strict=True):
            self.list.addItem(f"{'✓' if is_done else '○'}  {step.words}")
        self.list.setCurrentRow(done.index(False) if not all(done) else len(done) - 1)
        if all(done):
            self.help.setText("That was a whole job. The guide (F1) has eleven short chapters with what else there is.")

    def _tell(self, row: int) -> None:
        if 0 <= row < len(guide.TOUR):
            self.help.setText(guide.TOUR[row].help)

    def _start(self) -> None:
        from uncus.app.commands import BY_ID

        row = self.list.currentRow()
        if 0 <= row < len(guide.TOUR):
            self.session.wanted.emit(BY_ID[guide.TOUR[row].command])
