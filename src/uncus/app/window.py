"""The main window: rail, shelf, canvas, facts, prompt and the do-anything field."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QApplication,
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

from uncus.app import framing, joining, marking
from uncus.app.canvas.model_view import ModelView
from uncus.app.command import Command
from uncus.app.commands import COMMANDS
from uncus.app.facts.panel import Facts
from uncus.app.palette import Palette
from uncus.app.preferences import Preferences
from uncus.app.prompt import Prompt
from uncus.app.rail import Rail
from uncus.app.session import Session
from uncus.app.shelf import Shelf, icon
from uncus.app.stages.check import CheckPanel
from uncus.app.stages.deliver import DeliverPanel
from uncus.app.stages.draw import DrawPanel
from uncus.app.stages.fault import FaultDialog
from uncus.app.stages.grid import GridDialog
from uncus.app.stages.joining_rules import RulesDialog
from uncus.app.stages.lens import LensDialog
from uncus.app.stages.mark import MarkPanel
from uncus.app.stages.preferences import PreferencesDialog
from uncus.app.stages.report import ReportPanel
from uncus.app.stages.series import SeriesDialog
from uncus.app.stages.told import ToldDialog
from uncus.app.theme import DARK, LIGHT, Theme, style
from uncus.app.tools.lay_out import FacePlaneTool
from uncus.app.view_strip import ViewStrip
from uncus.frame.planes import view_plane
from uncus.job.errors import JobError
from uncus.job.files import file_name
from uncus.job.going_back import go_back
from uncus.job.job import Job
from uncus.job.mounts import mount_of
from uncus.job.records import View, ViewFrame, ViewKind, new_id
from uncus.lens.criteria import chosen, lens_named
from uncus.units import format_typed, parse_length

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


class Window(QMainWindow):
    def __init__(
        self, job: Job, preferences: Preferences | None = None, keep: Path | None = None, state: Path | None = None
    ) -> None:
        """`preferences` are the user's, written to `keep` whenever they change; `state` is the folder that keeps reports
        of faults (None: nowhere)."""
        super().__init__()
        self.session = Session(job, preferences, keep, state)
        self.theme: Theme = DARK if self.session.preferences.theme == "dark" else LIGHT
        self.lens: LensDialog | None = None
        self.rules: RulesDialog | None = None
        self.series: SeriesDialog | None = None
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
        self.model = ModelView(session)
        self.check, self.mark = CheckPanel(session), MarkPanel(session)
        self.draw, self.deliver = DrawPanel(session), DeliverPanel(session)
        self.below = QStackedWidget()
        self.below.addWidget(self.check)
        self.below.addWidget(self.mark)
        self.report = ReportPanel(session)
        self.below.addWidget(self.report)
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
        for page in (self.model_split, self.draw, self.deliver):
            self.centre.addWidget(page)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        for widget in (self.shelf, self.centre, self.facts):
            self.split.addWidget(widget)
            self.split.setStretchFactor(self.split.count() - 1, 1 if widget is self.centre else 0)
        self.split.setSizes([214, 730, 262])
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

    def _top(self) -> QWidget:
        top = QWidget()
        top.setObjectName("top")
        top.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        top.setFixedHeight(44)
        self.name, self.units = QLabel(), QLabel()
        self.name.setAccessibleName("Job")
        self.units.setAccessibleName("Units")
        self.kept = QLabel("✓ kept")
        self.kept.setProperty("kept", True)
        self.kept.setAccessibleName("Kept")
        server = self._server()
        if server:
            self.kept.setText(f"✓ kept on a server ({server})")
        self.kept.setToolTip(
            "Every change is on disk already; there is nothing to save. The one file is the whole job at any moment: copy "
            "it as it is, or with Ctrl+Shift+S."
        )
        self.fold_shelf, self.fold_facts = QPushButton(icon("shelf"), ""), QPushButton(icon("panel"), "")
        for button, name in ((self.fold_shelf, "Fold the shelf"), (self.fold_facts, "Fold the facts")):
            button.setAccessibleName(name)
            button.setToolTip(name)
            button.setFixedWidth(30)
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
        by_key: dict[str, list[Command]] = {}
        for command in COMMANDS:
            if command.key:
                by_key.setdefault(command.key, []).append(command)
        for key, commands in by_key.items():
            hosts: list[QWidget] = [self.model, self.draw.view] if key in _CANVAS_ONLY else [self]
            for host in hosts:
                shortcut = QShortcut(QKeySequence(key), host)
                if host is not self:
                    shortcut.setContext(Qt.ShortcutContext.WidgetShortcut)
                shortcut.activated.connect(lambda found=commands: self._key(found))

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
        if command.stage and command.stage != self.session.stage and command.id not in ("sheet", "delete", "uncouple"):
            self.session.go(command.stage)
        command.do(self.session)

    def _connect(self) -> None:
        session = self.session
        self.rail.chosen.connect(session.go)
        session.stage_changed.connect(self._show_stage)
        session.asked.connect(self._asked)
        session.reported.connect(lambda: self._show_stage(session.stage))
        session.steel.connect(self._steel_changed)
        self.model.typed.connect(self.prompt.take)
        self.model.snapped.connect(self.prompt.show_snap)
        self.model.opened.connect(self._open_sheet)
        self.prompt.left.connect(self.model.setFocus)
        self._progress_timer = QTimer(self, singleShot=True, interval=250)
        self._progress_timer.timeout.connect(self._measure_progress)

    # -- following --------------------------------------------------------------------------------
    def _steel_changed(self, _touched: object) -> None:
        self._progress_timer.start()
        self._refresh_stage()

    def _measure_progress(self) -> None:
        project = self.session.job.project
        self.rail.show_progress(self.session.progress())
        self.name.setText(f"<b>{_plain(project.name)}</b>&nbsp;&nbsp;{_plain(project.number)}")
        self.units.setText(project.units.words)
        self.setWindowTitle(f"{project.name} - Uncus")

    def _show_stage(self, stage: str) -> None:
        self.rail.show_stage(stage)
        self.centre.setCurrentWidget({"Draw": self.draw, "Deliver": self.deliver}.get(stage, self.model_split))
        reported = stage == "Connect" and self.session.report is not None
        self.below.setVisible(stage in ("Check", "Mark") or reported)
        self.below.setCurrentWidget({"Mark": self.mark, "Connect": self.report}.get(stage, self.check))
        self.facts.setVisible(stage not in ("Draw", "Deliver", "Mark"))
        self._refresh_stage()
        {"Draw": self.draw.view, "Deliver": self.deliver.go}.get(stage, self.model).setFocus()

    def _refresh_stage(self) -> None:
        """What the open stage shows of the job, and how it colours the model."""
        stage, colours, key = self.session.stage, {}, []
        if stage == "Check":
            self.check.refresh()
            colours = dict.fromkeys(self.check.owners(), self.theme.wrong)
            key = [("▲", "has a finding", self.theme.wrong)] if colours else []
        elif stage == "Connect":
            self.report.refresh()
        elif stage == "Mark" and self.session.shop.assemblies:
            self.mark.refresh()
            colours, key = self.mark.colours(self.theme)
        elif stage == "Draw":
            self.draw.refresh()
        elif stage == "Deliver":
            self.deliver.refresh()
        if self.session.seeing.lens and stage in ("Frame", "Connect"):
            colours, key = self._lens_colours()
        self.model.colour(colours, key)

    def _lens_colours(self) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """What the lens in use lets through, coloured, with its key."""
        session = self.session
        try:
            rule = lens_named(session.job, session.seeing.lens).rule
            found = chosen(rule, session.job, session.shop)
        except JobError as error:
            session.seeing.lens = ""
            session.said.emit(str(error), True)
            return {}, []
        lens = session.seeing.lens
        words = f"{lens if len(lens) < 56 else lens[:54] + '…'}: {len(found)}"
        return dict.fromkeys(found, self.theme.moved), [("●", words, self.theme.moved)]

    def _asked(self, what: str) -> None:
        match what:
            case "frame":
                self.model.frame()
            case "find":
                self.palette_field.open()
            case "canvas":
                (self.draw.view if self.session.stage == "Draw" else self.model).setFocus()
            case "grid":
                GridDialog(self.session, self).exec()
            case "findings":
                self._refresh_stage()
            case "propose":
                self.session.settle()
            case "apply":
                self.mark.apply()
            case "fit sheet":
                self.draw.view.fit()
            case "sheet":
                self._to_sheet_or_back()
            case "dimensions":
                self.model.show_dimensions()
            case "produce":
                self.deliver.start()
            case "dark":
                dark = self.session.preferences.theme == "dark"
                self.session.attempt(lambda: self.session.prefer(theme="light" if dark else "dark"))
                self._prefer()
            case "type":
                self.prompt.entry.setFocus()
            case "lens":
                self._open_lens()
            case "colours":
                self._refresh_stage()
                self.session.view_changed.emit()
            case "set back":
                gap = format_typed(self.session.job.rules.gap, self.session.units)
                text, taken = QInputDialog.getText(self, "Set back ends", "Gap from what holds each end", text=gap)
                if taken:
                    self.session.attempt(lambda: self.session.set_back(parse_length(text, self.session.units)))
            case "joining rules":
                if self.rules is None or not self.rules.isVisible():
                    self.rules = RulesDialog(self.session, self)
                self.rules.show()
                self.rules.raise_()
            case "facts":
                self.facts.setVisible(True)
            case "series":
                if self.series is None or not self.series.isVisible():
                    self.series = SeriesDialog(self.session, self)
                self.series.show()
                self.series.raise_()
            case "advance marks":
                if name := self._name("Keep as ordered", "AB-1"):
                    marking.keep_advance(self.session, name)
            case "export standard parts":
                if path := self._file("Export standard parts", "standard-parts.json", "Standard parts (*.json)"):
                    marking.export_standard_parts(self.session, path)
            case "import standard parts":
                found, _ = QFileDialog.getOpenFileName(self, "Import standard parts", "", "Standard parts (*.json)")
                if found:
                    marking.import_standard_parts(self.session, Path(found))
            case "calculate":
                if path := self._file("Calculation sheet", "calculations.pdf", "PDF (*.pdf)"):
                    joining.write_calculations(self.session, path)
            case "export loads":
                if path := self._file("Export loads", "loads.csv", "Tables (*.csv)"):
                    joining.export_loads(self.session, path)
            case "import loads":
                found, _ = QFileDialog.getOpenFileName(self, "Import loads", "", "Tables (*.csv)")
                if found and (read := joining.import_loads(self.session, Path(found))) and read.told:
                    ToldDialog("Loads that did not match", read.words, read.told, self).open()
            case "export standards":
                if path := self._file("Export standards", "standards.json", "Standards (*.json)"):
                    joining.export_standards(self.session, path)
            case "import standards":
                found, _ = QFileDialog.getOpenFileName(self, "Import standards", "", "Standards (*.json)")
                if found:
                    joining.import_standards(self.session, Path(found))
            case "save copy":
                self._save_copy()
            case "go back":
                found, _ = QFileDialog.getOpenFileName(self, "Go back to a copy", "", "Jobs (*.uncus)")
                if found:
                    session = self.session
                    session.attempt(lambda: session.said.emit(go_back(session.job, Path(found)) + "; Ctrl+Z takes it back.", False))  # fmt: skip
            case "clear aside":
                self.session.clear_aside()
            case "fault report":
                FaultDialog(self.session, self).exec()
            case "preferences":
                PreferencesDialog(self.session, self._prefer, self).exec()
            case _ if what.startswith("draw "):
                self.draw.ask(what.removeprefix("draw "))
            case _:
                self._asked_of_view(what)

    def _asked_of_view(self, what: str) -> None:
        """Work planes and views."""
        session, camera = self.session, self.model.camera
        match what.split(" ", 1):
            case ["plane"]:
                self.prompt.choose_plane()
            case ["face", "plane"]:
                session.use(lambda: FacePlaneTool(session, self.model.pointer.normal))
            case ["view", "plane"]:
                session.set_plane(view_plane(session.plane.onto(camera.target), camera.axes[0], camera.axes[1]))
            case ["view", kind]:
                self.model.look(ViewKind(kind))
            case ["keep", "plane"]:
                if name := self._name("Keep the work plane", session.plane.name):
                    session.attempt(lambda: framing.keep_plane(session, name))
            case ["keep", "view"]:
                if name := self._name("Keep this view", f"{session.seeing.kind} {len(session.job.all(View)) + 1}"):
                    self.keep_view(name)
            case ["through", "frame"]:
                frames = [r for id in session.selection if (r := session.job.get(id, ViewFrame))]
                if frames:
                    self.model.show_frame(frames[0])
                else:
                    session.said.emit("Select a view frame first: pick its edge.", True)
            case ["show", id]:
                record = session.job.records.get(id)
                if isinstance(record, View):
                    self.model.show_view(record)
                elif isinstance(record, ViewFrame):
                    self.model.show_frame(record)

    def keep_view(self, name: str) -> None:
        """Keep the view as it is; one of the same name is replaced."""
        session = self.session
        old = next((v for v in session.job.all(View) if v.name == name), None)
        view = self.model.view(old.id if old else new_id(), name)
        if session.change(f"Keep view {name}", (view,)):
            session.said.emit(f"View “{name}” is kept; find it under views.", False)

    def _file(self, title: str, offer: str, kinds: str) -> Path | None:
        found, _ = QFileDialog.getSaveFileName(self, title, offer, kinds)
        return Path(found) if found else None

    def _save_copy(self) -> None:
        session, project = self.session, self.session.job.project
        name = file_name(f"{project.number} {project.name} {date.today().isoformat()}".strip())
        folder = session.job.path.parent if session.job.path else Path.home()
        path = self._file("Save a copy", str(folder / f"{name}.uncus"), "Jobs (*.uncus)")
        if path is not None and session.attempt(lambda: session.job.save_copy(path, replace=True)):
            session.said.emit(f"{path.name} is a copy of the job as it stands.", False)

    def _name(self, title: str, offer: str) -> str:
        name, taken = QInputDialog.getText(self, title, "Name", text=offer)
        return name.strip() if taken else ""

    def _open_lens(self) -> None:
        if self.lens is None or not self.lens.isVisible():
            self.lens = LensDialog(self.session, self)
            corner = self.model.mapToGlobal(self.model.rect().bottomLeft())
            self.lens.move(corner.x() + 12, corner.y() - self.lens.height() - 12)  # the model stays in sight
        self.lens.show()
        self.lens.raise_()
        self.lens.activateWindow()

    def _prefer(self) -> None:
        """Follow the preferences."""
        self.theme = DARK if self.session.preferences.theme == "dark" else LIGHT
        self.apply_theme()

    def _to_sheet_or_back(self) -> None:
        if self.session.stage == "Draw":
            entry = self.draw.current
            self.session.go("Frame")
            if entry is not None and entry.kind != "erection":
                self.session.select(set(entry.pieces))
                self.model.frame()
        elif self.session.members:
            self._open_sheet(self.session.members[0].id)
        else:
            self.session.said.emit("Pick a piece first; Tab then opens its sheet.", True)

    def _open_sheet(self, id: str) -> None:
        self.session.go("Draw")
        if not self.draw.open_piece(id):
            self.session.said.emit("This piece has no sheet yet: apply the marks first (Ctrl+4).", True)

    def apply_theme(self) -> None:
        app = QApplication.instance()
        wanted = style(self.theme)
        if isinstance(app, QApplication) and app.styleSheet() != wanted:  # setting it polishes every widget anew
            app.setStyleSheet(wanted)
        self.model.set_theme(self.theme)
        self._refresh_stage()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.deliver.wind_up()
        self.draw.wind_up()
        event.accept()


def _plain(text: str) -> str:
    """Text of the job's inside rich text."""
    return text.replace("&", "&amp;").replace("<", "&lt;")
