"""The main window: rail, shelf, canvas, facts, prompt and the do-anything field."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QShortcut, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QMainWindow,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from uncus.app.canvas.model_view import ModelView
from uncus.app.causes import to_cause
from uncus.app.colouring import progress_colours
from uncus.app.command import Command
from uncus.app.commands import COMMANDS
from uncus.app.facts.panel import Facts
from uncus.app.keys import key_of
from uncus.app.palette import Entry, Palette
from uncus.app.preferences import Preferences
from uncus.app.progress import progress
from uncus.app.prompt import Prompt
from uncus.app.rail import Rail
from uncus.app.session import Session, Tied
from uncus.app.shelf import Shelf, icon
from uncus.app.stages.bought import BoughtPanel
from uncus.app.stages.check import CheckPanel
from uncus.app.stages.deliver import DeliverPanel
from uncus.app.stages.delivering import DeliverStage
from uncus.app.stages.draw import DrawPanel
from uncus.app.stages.mark import MarkPanel
from uncus.app.stages.others import OthersPanel
from uncus.app.stages.report import ReportPanel
from uncus.app.starting.start_page import dropped_jobs
from uncus.app.theme import DARK, LIGHT, Theme, sized, wear
from uncus.app.view_strip import ViewStrip
from uncus.bill.compare import Compared
from uncus.job.errors import JobError
from uncus.job.history import concerned
from uncus.job.job import Job
from uncus.job.mounts import mount_of
from uncus.job.records import Member, View, ViewFrame
from uncus.lens.criteria import chosen, lens_named

if TYPE_CHECKING:
    from uncus.app.jobs import Jobs

_CANVAS_ONLY = {
    "Tab",
    "Space",
    "Del",
    "Shift+Del",
    "PgUp",
    "PgDown",
    "Home",
    "End",
}  # keys that mean something else in fields and buttons


_FACTS = 292  # px of the facts at first


class Window(QMainWindow):
    def __init__(
        self,
        job: Job,
        preferences: Preferences | None = None,
        keep: Path | None = None,
        state: Path | None = None,
        jobs: Jobs | None = None,
    ) -> None:
        """`preferences` are the user's, written to `keep` whenever they change; `state` is the folder that keeps
        reports of faults (None: nowhere); `jobs` opens and closes others."""
        super().__init__()
        self.jobs = jobs
        self.setAcceptDrops(True)
        self.session = Session(job, preferences, keep, state)
        self.theme: Theme = DARK if self.session.preferences.theme == "dark" else LIGHT
        self._open: dict[object, QDialog] = {}
        self._bound: list[QShortcut] = []  # the keys of commands
        self._shared = False  # whether the panels have their first widths
        self.setMinimumSize(960, 600)
        self._build()
        self._shortcuts()
        self._escape()
        self._connect()
        self.apply_theme()
        self._show_stage("Frame")
        self._measure_progress()

    # -- building ---------------------------------------------------------------------------------
    def _build(self) -> None:
        session = self.session
        self.rail, self.shelf, self.facts = Rail(), Shelf(session), Facts(session)
        self.prompt, self.palette_field = Prompt(session), Palette(session)
        self.palette_field.more = self._other_jobs
        self.model = ModelView(session)
        self.check, self.mark = CheckPanel(session), MarkPanel(session)
        self.draw, self.deliver = DrawPanel(session), DeliverPanel(session)
        self.delivering = DeliverStage(session, self.deliver)
        self.below = QStackedWidget()
        self.below.addWidget(self.check)
        self.below.addWidget(self.mark)
        self.report = ReportPanel(session)
        self.below.addWidget(self.report)
        self.others, self.bought = OthersPanel(session), BoughtPanel(session)
        self.below.addWidget(self.others)
        self.below.addWidget(self.bought)
        self.model_split = QSplitter(Qt.Orientation.Vertical)
        self.strip = ViewStrip(session)
        canvas = QWidget()
        column = QVBoxLayout(canvas)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.strip)
        column.addWidget(self.model, 1)
        self.model_split.addWidget(canvas)
        canvas.setMinimumHeight(240)
        self.model_split.addWidget(self.below)
        self.model_split.setStretchFactor(0, 3)
        self.model_split.setStretchFactor(1, 2)
        self.model_split.setSizes([430, 290])
        self.centre = QStackedWidget()
        for page in (self.model_split, self.draw, self.delivering):
            self.centre.addWidget(page)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        for widget in (self.shelf, self.centre, self.facts):
            self.split.addWidget(widget)
            self.split.setStretchFactor(self.split.count() - 1, 1 if widget is self.centre else 0)
        body = QWidget()
        body.setObjectName("body")
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._top())
        column.addWidget(self.split, 1)
        column.addWidget(self.prompt)
        row = QHBoxLayout(body)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addLayout(column, 1)
        self.setCentralWidget(body)

    def showEvent(self, event: QShowEvent) -> None:
        """The panels' first widths, in pixels that are there: what is shared out later goes to the middle alone."""
        super().showEvent(event)
        if not self._shared:
            self._shared = True
            side, facts = self.shelf.minimumWidth(), _FACTS
            self.split.setSizes([side, self.split.width() - side - facts - 2 * self.split.handleWidth(), facts])

    def _top(self) -> QWidget:
        top = QWidget()
        top.setObjectName("top")
        top.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        sized(top, high=44)
        self.name, self.units = QLabel(), QLabel()
        self.name.setAccessibleName("Job")
        self.units.setAccessibleName("Units")
        self.kept = QLabel("✓ kept")
        self.kept.setProperty("kept", True)
        self.kept.setAccessibleName("Kept")
        self.kept.setToolTip(
            "Every change is on disk already; there is nothing to save. The one file is the whole job at any moment: "
            "copy "
            "it as it is, or with Ctrl+Shift+S."
        )
        server = self._server()
        if (read := self.session.job.read_from) is not None:
            self.kept.setText("▲ read only")
            self.kept.setToolTip(f"{read} is open elsewhere; nothing can be changed here.")
        elif server:
            self.kept.setText(f"✓ kept on a server ({server})")
        self.fold_shelf, self.fold_facts = QPushButton(icon("shelf"), ""), QPushButton(icon("panel"), "")
        for button, name in ((self.fold_shelf, "Fold the shelf"), (self.fold_facts, "Fold the facts")):
            button.setAccessibleName(name)
            button.setToolTip(name)
            sized(button, wide=30, icon=16)
            button.setProperty("tool", True)
        self.fold_shelf.clicked.connect(lambda: self.shelf.setVisible(not self.shelf.isVisible()))
        self.fold_facts.clicked.connect(lambda: self.facts.setVisible(not self.facts.isVisible()))
        layout = QHBoxLayout(top)
        layout.setContentsMargins(8, 4, 14, 4)
        layout.addWidget(self.fold_shelf)
        layout.addWidget(self.name)
        layout.addStretch(1)
        layout.addWidget(self.palette_field)
        layout.addStretch(1)
        layout.addWidget(self.units)
        layout.addSpacing(8)
        layout.addWidget(self.kept)
        layout.addWidget(self.fold_facts)
        return top

    def _server(self) -> str:
        """The kind of file server that the job lies on; empty for this machine's own disk."""
        path = self.session.job.path
        mount = mount_of(path) if path is not None else None
        return mount.kind if mount is not None and mount.is_server else ""

    def _shortcuts(self) -> None:
        """Every command's key, the user's own before the table's; made anew when they change."""
        for old in self._bound:
            old.setEnabled(False)
            old.deleteLater()
        self._bound = []
        by_key: dict[str, list[Command]] = {}
        for command in COMMANDS:
            if key := key_of(command, self.session.preferences):
                by_key.setdefault(key, []).append(command)
        for key, commands in by_key.items():
            hosts: list[QWidget] = [self.model, self.draw.view] if key in _CANVAS_ONLY else [self]
            for host in hosts:
                shortcut = QShortcut(QKeySequence(key), host)
                if host is not self:
                    shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
                shortcut.activated.connect(lambda found=commands: self._key(found))
                self._bound.append(shortcut)

    def _key(self, commands: list[Command]) -> None:
        """A key means what the open stage says; else the command that has it everywhere, else the first."""
        stages = (self.session.stage, "")
        self.do(next((c for stage in stages for c in commands if c.stage == stage), commands[0]))

    def _escape(self) -> None:
        for host, back in ((self.model, self.session.step_back), (self.draw.view, self.draw.back)):
            escape = QShortcut(QKeySequence("Esc"), host)
            escape.setContext(Qt.ShortcutContext.WidgetShortcut)
            escape.activated.connect(back)

    def do(self, command: Command) -> None:
        """Carry out a command where it is allowed; its stage is opened if it has one of its own."""
        if not command.when(self.session):
            self.session.said.emit(f"{command.words} has nothing to work on yet.", True)
            return
        elsewhere = command.stage and command.stage != self.session.stage and not command.stays
        if elsewhere and not self.session.go(command.stage):
            return
        command.do(self)

    def _connect(self) -> None:
        session = self.session
        self.rail.chosen.connect(session.go)
        session.stage_changed.connect(self._show_stage)
        session.wanted.connect(self.do)
        session.framed.connect(self.model.frame)
        session.keys_changed.connect(self._shortcuts)
        session.looked_at.connect(self._look_at)
        session.gone_to.connect(self.model.go_to)
        self.check.checker.done.connect(self._measure_progress)
        session.coloured.connect(self._colour)
        self.delivering.packages.cause.connect(lambda check, about: to_cause(self, check, about))
        session.to_canvas.connect(lambda: (self.draw.view if session.stage == "Draw" else self.model).setFocus())
        session.to_facts.connect(lambda: self.facts.setVisible(True))
        session.reported.connect(lambda: self._show_stage(session.stage))
        session.steel.connect(self._steel_changed)
        session.filling.progressed.connect(self._measure_progress)
        self.model.typed.connect(self.prompt.take)
        self.model.snapped.connect(self.prompt.show_snap)
        self.model.opened.connect(self.open_sheet)
        self.prompt.left.connect(self.model.setFocus)
        self._progress_timer = QTimer(self, singleShot=True, interval=250)
        self._progress_timer.timeout.connect(self._measure_progress)

    # -- following --------------------------------------------------------------------------------
    def _steel_changed(self, _touched: object) -> None:
        self._progress_timer.start()
        self.refresh_stage()

    def _measure_progress(self) -> None:
        project = self.session.job.project
        found = progress(self.session)
        if (settled := self.check.through()) is not None:
            found["Check"] = settled
        self.rail.show_progress(found)
        self.name.setText(f"<b>{_plain(project.name)}</b>&nbsp;&nbsp;{_plain(project.number)}")
        self.units.setText(project.units.words)
        self.setWindowTitle(f"{project.name} - Uncus")

    def _show_stage(self, stage: str) -> None:
        self.rail.show_stage(stage)
        self.centre.setCurrentWidget({"Draw": self.draw, "Deliver": self.delivering}.get(stage, self.model_split))
        reported = stage == "Connect" and self.session.report is not None
        beside = {"others": self.others, "bought": self.bought}.get(self.session.below)
        own = {"Mark": self.mark, "Check": self.check}.get(stage) or (self.report if reported else None)
        self.below.setVisible(own is not None or (beside is not None and stage in ("Frame", "Connect")))
        self.below.setCurrentWidget(own or beside or self.check)
        self.facts.setVisible(stage not in ("Draw", "Deliver", "Mark"))
        self.refresh_stage()
        {"Draw": self.draw.view, "Deliver": self.delivering.at_hand}.get(stage, self.model).setFocus()

    def refresh_stage(self) -> None:
        """What the open stage shows of the job, and how it colours the model."""
        stage = self.session.stage
        colours: dict[str, str] = {}
        key: list[tuple[str, str, str]] = []
        if stage == "Check":
            self.check.refresh()
            colours, key = self.check.colours(self.theme)
        elif stage == "Connect":
            self.report.refresh()
        elif stage == "Mark" and self.session.shop.assemblies:
            self.mark.refresh()
            colours, key = self.mark.colours(self.theme)
        elif stage == "Draw":
            self.draw.refresh()
        elif stage == "Deliver":
            self.delivering.refresh()
        if self.session.seeing.lens and stage in ("Frame", "Connect"):
            colours, key = self._lens_colours()
        if self.session.since is not None:
            colours, key = self._since_colours()
        if self.session.differing is not None and stage in ("Frame", "Connect"):
            colours, key = self._differing_colours(self.session.differing)
        if self.session.by_progress and stage in ("Frame", "Connect"):
            colours, key = progress_colours(self.session, self.theme)
        if self.session.tied is not None:
            colours, key = self._tied_colours(self.session.tied)
        self.model.colour(colours, key)

    def _tied_colours(self, tied: Tied) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """What holds to what is asked about, in the shop and on site, with a key."""
        theme = self.theme
        lots = ((tied.site, theme.look, "○", "held on site"), (tied.shop, theme.new, "●", "fixed in the shop"),
            (tied.asked, theme.moved, "◆", "asked about"))  # fmt: skip
        colours = {id: colour for ids, colour, _, _ in lots for id in ids}
        return colours, [(sign, words, colour) for ids, colour, sign, words in reversed(lots) if ids]

    def _differing_colours(self, found: Compared) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """What is new and what changed since something else, with a key."""
        theme = self.theme
        new = {d.now.owner for d in found.differences if d.was is None and d.now is not None}
        changed = {d.now.owner for d in found.differences if d.was is not None and d.now is not None}
        gone = sum(d.now is None for d in found.differences)
        key = [("+", f"added since {found.was}: {len(new)}", theme.new), ("≠", f"changed: {len(changed)}", theme.moved)]
        key += [("−", f"gone: {gone}", theme.wrong)] if gone else []
        return dict.fromkeys(new, theme.new) | dict.fromkeys(changed, theme.moved), key

    def _since_colours(self) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """What is new and what changed since the moment that is held against now, with a key."""
        theme, found = self.theme, self.session.compared()
        if found is None:
            return {}, []
        changed = {id for r in found.changed for id in concerned(r)} | {
            id for r in found.new if not isinstance(r, Member) for id in concerned(r)
        }
        new = {r.id for r in found.new if isinstance(r, Member)}
        gone = sum(isinstance(r, Member) for r in found.gone)
        key = [("+", f"new: {len(new)}", theme.new), ("≠", f"changed: {len(changed - new)}", theme.moved)]
        key += [("−", f"gone: {gone}, dashed", theme.wrong)] if gone else []
        return dict.fromkeys(changed, theme.moved) | dict.fromkeys(new, theme.new), key

    def _lens_colours(self) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """What the lens in use lets through, coloured, with its key."""
        session = self.session
        try:
            rule = lens_named(session.job, session.seeing.lens).rule
            found = chosen(rule, session.job, session.shop, session.above)
        except JobError as error:
            session.seeing.lens = ""
            session.said.emit(str(error), True)
            return {}, []
        lens = session.seeing.lens
        words = f"{lens if len(lens) < 56 else lens[:54] + '…'}: {len(found)}"
        return dict.fromkeys(found, self.theme.moved), [("●", words, self.theme.moved)]

    # -- what commands ask for ----------------------------------------------------------------------
    def _other_jobs(self) -> list[Entry]:
        """Jobs that were open lately, as the do-anything field offers them."""
        jobs, own = self.jobs, self.session.job.path
        if jobs is None:
            return []
        others = [one for one in jobs.recent.all if Path(one.path) != own]
        return [
            Entry(f"Open {one.name} {one.number}".rstrip() + f" ({Path(one.path).name})",
                partial(jobs.open, Path(one.path), self))
            for one in others
        ]  # fmt: skip

    def keep_open(self, dialog: Callable[[Session, QWidget], QDialog]) -> QDialog:
        """A dialog that stays beside the window, low at the left where the model stays in sight."""
        there = self._open.get(dialog)
        if there is None or not there.isVisible():
            there = dialog(self.session, self)
            self._open = {made: one for made, one in self._open.items() if one.isVisible()} | {dialog: there}
            corner = self.model.mapToGlobal(self.model.rect().bottomLeft())
            floor = self.mapToGlobal(self.rect().bottomLeft()).y()
            there.move(corner.x() + 12, min(corner.y(), floor) - there.height() - 12)
        there.show()
        there.raise_()
        there.activateWindow()
        return there

    def hold(self, dialog: Callable[[Session, QWidget], QDialog]) -> None:
        dialog(self.session, self).exec()

    def ask_name(self, title: str, offer: str, words: str = "Name") -> str:
        text, taken = QInputDialog.getText(self, title, words, text=offer)
        return text.strip() if taken else ""

    def file_to(self, title: str, offer: str, kinds: str) -> Path | None:
        found, _ = QFileDialog.getSaveFileName(self, title, offer, kinds)
        return Path(found) if found else None

    def file_from(self, title: str, kinds: str) -> Path | None:
        found, _ = QFileDialog.getOpenFileName(self, title, "", kinds)
        return Path(found) if found else None

    def _look_at(self, record: View | ViewFrame) -> None:
        if isinstance(record, View):
            self.model.show_view(record)
        else:
            self.model.show_frame(record)

    def _colour(self) -> None:
        self.refresh_stage()
        self.session.view_changed.emit()

    def follow_preferences(self) -> None:
        """Follow the preferences."""
        self.theme = DARK if self.session.preferences.theme == "dark" else LIGHT
        self.apply_theme()
        self.facts.rebuild()
        self.shelf.fit()

    def open_sheet(self, id: str) -> None:
        if not self.session.go("Draw"):
            return
        if not self.draw.open_piece(id):
            self.session.said.emit("This piece has no sheet yet: apply the marks first (Ctrl+4).", True)

    def apply_theme(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            wear(app, self.theme, self.session.preferences.percent)
        self.model.set_theme(self.theme)
        self.refresh_stage()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.delivering.wind_up()
        self.draw.wind_up()
        self.check.wind_up()
        self.session.close()
        if self.jobs is not None:
            self.jobs.closed(self)
        event.accept()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if self.jobs is not None and dropped_jobs(event):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        if self.jobs is not None:
            for path in dropped_jobs(event):
                self.jobs.open(path, self)


def _plain(text: str) -> str:
    """Text of the job's inside rich text."""
    return text.replace("&", "&amp;").replace("<", "&lt;")
