"""Packages: of a kind, to a receiver, looked at before they go; what went, what changed since, the answers to it."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from datetime import date
from functools import partial
from pathlib import Path
from typing import NamedTuple

import msgspec
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QProgressBar,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.app.stages.files import folder_for, open_file
from uncus.app.stages.ordered import plain_button
from uncus.app.stages.package_kind import KindDialog
from uncus.app.stages.sent_packages import SentPackages, with_buttons
from uncus.app.stages.table import Table
from uncus.app.stages.working import Runner, Tell, say_on
from uncus.app.theme import theme_of
from uncus.deliver.ids_proof import asks_of
from uncus.deliver.package import Progress, Stopped, went_out
from uncus.deliver.ready import Line, ready
from uncus.deliver.sending import (
    NOBODY,
    Sent,
    kind_named,
    kinds_of,
    outputs_for,
    package,
    receiver_named,
)
from uncus.job.errors import JobError
from uncus.job.files import read_outside
from uncus.job.job import Job
from uncus.job.packages import BOTH, IFC, IFC2X3, MATERIAL, PackageKind, Receiver
from uncus.shop.cluster import handed_to
from uncus.shop.shop import Shop, build
from uncus.units import counted

replace = msgspec.structs.replace
_MODELS = {"": "not said", IFC: "IFC", IFC2X3: "IFC 2x3", MATERIAL: "the material file", BOTH: "both"}
_TEACHES = (
    "Choose what kind of package goes and who gets it, then ask whether it is ready: every line that stands in its way "
    "leads to its cause. What went is kept below, with what became of its pieces since."
)
_SIGNS = {"so": "✓", "stops": "✕", "told": "▲"}


class _Cause(NamedTuple):
    """A line's sentence, and what it is about: `check` the line's name, `about` an id, mark, sheet or finding."""

    check: str
    about: str


class _Telling(Progress):
    """A package's progress, told to a runner."""

    def __init__(self, tell: Tell, stopped: Callable[[], bool]) -> None:
        self._tell, self._stopped = tell, stopped

    def tell(self, done: int, of: int, words: str) -> None:
        self._tell(done, of, words)

    def stopped(self) -> bool:
        return self._stopped()


class PackagesPanel(QWidget):
    """`cause` asks for the place of what stands in the way: the name of a check and what it is about."""

    cause = Signal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.lines: tuple[Line, ...] = ()
        self._version = 0  # of what is looked at: the job, the kind
        self._steel: tuple[Job, Shop] | None = None  # of the job as it was when it was last asked for
        self.kind, self.to, self.model = QComboBox(), QComboBox(), QComboBox()
        self.to.setEditable(True)
        self.folder, self.reason = QLineEdit(), QLineEdit()
        self.zipped = QCheckBox("ZIP too")
        self.ids = plain_button("IDS ...", "What he asks of the IFC model, as his IDS file says it", self.edit_ids)
        self.said = QLabel(_TEACHES)
        self.said.setWordWrap(True)
        self.bar, self.stop = QProgressBar(), QPushButton("Stop")
        for widget, name in ((self.kind, "Kind of package"), (self.to, "Receiver"), (self.model, "Model he reads"),
                (self.folder, "Folder that packages are made in"), (self.reason, "Why it goes all the same"),
                (self.zipped, "As ZIP too"), (self.said, "What happened to packages"), (self.stop, "Stop the package"),
                (self.bar, "Progress of the package")):  # fmt: skip
            widget.setAccessibleName(name)
        for value, words in _MODELS.items():
            self.model.addItem(words, value)
        self.reason.setPlaceholderText("only where something stands in its way; it is told in the transmittal")
        self.asked = Table("Ready or not", ("", "What must be so", "In its way"))
        self.asked.widest = {0: 26}
        self.asked.setSortingEnabled(False)
        self.against = Table("What stands in the way", ("What stands in the way",))
        self.runner = Runner(self.bar, self.stop, self._say)
        self.went = SentPackages(session, self._run)
        self._lay_out()
        self.kind.currentIndexChanged.connect(lambda _: self._other())
        self.to.currentTextChanged.connect(self._receiver)
        self.asked.chosen.connect(self._show_against)
        self.against.activated.connect(lambda _: self.to_cause())
        self.went.said.connect(self._say)
        self._unfollow = session.job.follow(lambda delta: self._other())

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.setSpacing(8)
        what = QGridLayout()
        rows: tuple[Sequence[tuple[str, QWidget]], ...] = (
            (("Kind", self.kind), ("To", self.to), ("Reads", self.model)),
            (("Folder", self.folder), ("Goes anyway, as", self.reason)),
        )
        for row, fields in enumerate(rows):
            for k, (words, field) in enumerate(fields):
                label = QLabel(words)
                label.setBuddy(field)
                what.addWidget(label, row, 3 * k)
                last = k == len(fields) - 1
                what.addWidget(field, row, 3 * k + 1, 1, 6 if row and last else 1)
        what.addWidget(
            plain_button("Kinds ...", "What goes into this kind; the office's own kinds", self.edit_kind), 0, 2
        )
        what.addWidget(plain_button("Choose ...", "The folder that packages are made in", self._choose), 1, 2)
        what.addWidget(self.zipped, 0, 8)
        what.addWidget(self.ids, 0, 9)
        for column, stretch in ((1, 3), (4, 3), (7, 2)):
            what.setColumnStretch(column, stretch)
        layout.addLayout(what)
        run = QHBoxLayout()
        self.look_button = plain_button("Ready?", "Everything that must be so before it goes (Ctrl+R)", self.look)
        self.make_button = plain_button(
            "Make the package", "Whole or not at all, read back before it counts (Ctrl+P)", self.make
        )
        self.make_button.setProperty("main", True)
        for button in (self.look_button, self.make_button, self.stop):
            run.addWidget(button)
        run.addWidget(self.bar, 1)
        run.addStretch(0)
        layout.addLayout(run)
        layout.addWidget(self.said)
        whole = QSplitter()
        left = QSplitter()
        whole.setOrientation(Qt.Orientation.Vertical)
        left.addWidget(self.asked)
        left.addWidget(with_buttons(self.against, (
            ("To its cause", "The piece, sheet or finding (Enter)", self.to_cause),)))  # fmt: skip
        left.setSizes([500, 460])
        for part in (left, self.went):
            whole.addWidget(part)
        layout.addWidget(whole, 1)

    # -- what is chosen ---------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """What there is of kinds, receivers and packages; what is chosen stays chosen."""
        job = self.session.job
        if not self.folder.text():
            self.folder.setText(str(job.path.parent if job.path else Path.home()))
        _fill(self.kind, [k.name for k in kinds_of(job)])
        _fill(self.to, sorted(r.name for r in job.all(Receiver)), keep_text=True)
        self.went.refresh()

    def chosen(self) -> tuple[PackageKind, Receiver]:
        """Raises JobError."""
        receiver = receiver_named(self.session.job, self.to.currentText())
        model = self.model.currentData()
        own = replace(receiver, model=model, zipped=self.zipped.isChecked())
        if problem := own.problem():
            raise JobError(problem)
        return kind_named(self.session.job, self.kind.currentText()), own

    def _receiver(self, name: str) -> None:
        """What is kept of a receiver whose name is chosen or typed."""
        known = next((r for r in self.session.job.all(Receiver) if r.name.casefold() == name.strip().casefold()), None)
        self.ids.setText(_short(known.ids_name) if known is not None and known.ids else "IDS ...")
        if known is not None:
            self.model.setCurrentIndex(self.model.findData(known.model))
            self.zipped.setChecked(known.zipped)

    def edit_ids(self) -> None:
        """Another IDS file for the receiver, or none any more."""

        def begin() -> None:
            _, receiver = self.chosen()
            if not receiver.ids:
                self._take_ids()
                return
            menu = QMenu(self)
            menu.addAction("Another file ...", self._take_ids)
            menu.addAction(f"{receiver.name} asks nothing", lambda: self.session.attempt(lambda: self.ids_from(None)))
            menu.exec(self.ids.mapToGlobal(self.ids.rect().bottomLeft()))

        self.session.attempt(begin)

    def _take_ids(self) -> None:
        if (path := open_file(self, "What the receiver asks of the IFC model", "IDS (*.ids *.xml)")) is not None:
            self.session.attempt(lambda: self.ids_from(path))

    def ids_from(self, path: Path | None) -> None:
        """Keep with the receiver what he asks, or that he asks nothing. Raises JobError."""
        _, receiver = self.chosen()
        if receiver.name == NOBODY:
            raise JobError("Name the receiver first: what he asks is kept with him.")
        asks = asks_of(read_outside(path), path.name) if path is not None else ""
        kept = replace(receiver, ids=asks, ids_name=path.name if path is not None else "")
        if self.session.change(f"What {receiver.name} asks", (kept,)):
            self.refresh()
            self._receiver(kept.name)
            self._say(f"Ready? holds the IFC model against {kept.ids_name} of {kept.name}." if asks
                else f"{kept.name} asks nothing of the IFC model.", False)  # fmt: skip

    def _other(self) -> None:
        """The job or the kind is another: what was looked at counts no more."""
        self._steel, self._version = None, self._version + 1
        self.went.other()
        if self.lines:
            self.lines = ()
            self.asked.fill([], [])
            self.against.fill([], [])

    def _choose(self) -> None:
        if (folder := folder_for(self, "The folder that packages are made in")) is not None:
            self.folder.setText(str(folder))

    def edit_kind(self) -> None:
        job = self.session.job
        dialog = KindDialog(self.session, kind_named(job, self.kind.currentText()), self)
        if dialog.exec() and dialog.made is not None:
            self.keep_kind(dialog.made)

    def keep_kind(self, kind: PackageKind) -> None:
        """A kind of this office's own; one of that name gives way to it."""
        old = [k.id for k in self.session.job.all(PackageKind) if k.name.casefold() == kind.name.casefold()
            and k.id != kind.id]  # fmt: skip
        if self.session.change(f"Kind of package {kind.name}", (kind,), old):
            self.refresh()
            self.kind.setCurrentText(kind.name)

    # -- ready, made ------------------------------------------------------------------------------------------------
    def _copy(self) -> Job:
        return self.session.job.copied()

    def look(self) -> None:
        """Ready? in the background."""

        def begin() -> None:
            kind, receiver = self.chosen()
            kind = replace(kind, outputs=outputs_for(kind, receiver))  # as it goes to him
            known, copy, version = self._steel, self._copy(), self._version
            cluster = self.session.preferences.cluster

            def work(tell: Tell, stopped: Callable[[], bool]) -> object:
                steel = _in_steel(tell, known, copy)
                with handed_to(cluster) as make:
                    step = partial(tell, 0, 0)
                    return version, steel, ready(*steel, kind, step, stopped, receiver.ids, make)

            self._run(work, self._looked, f"Looking whether a package “{kind.name}” can go ...")

        self.session.attempt(begin)

    def _looked(self, found: object) -> None:
        assert isinstance(found, tuple)
        version, steel, lines = found
        if version != self._version:
            self._say("The job or the kind changed meanwhile; ask again.", False)
            return
        self._steel = steel
        self._show(tuple(lines))
        stops = sum(line.stops for line in lines)
        self._say(
            f"✕ {counted(stops, 'thing')} in its way: settle them, or give the reason why it goes all the same."
            if stops else f"✓ Ready to go.{self._unseen()}", bool(stops))  # fmt: skip

    def _unseen(self) -> str:
        """What is hidden in the view goes as well, which nobody should learn from the receiver."""
        hidden = len(self.session.seeing.hidden & self.session.shop.assemblies.keys())
        return f" What is hidden in the view goes too: {counted(hidden, 'piece')}." if hidden else ""

    def _show(self, lines: tuple[Line, ...]) -> None:
        self.lines = lines
        theme = theme_of(self)
        self.asked.rows.colours = {_SIGNS["so"]: theme.go, _SIGNS["stops"]: theme.wrong, _SIGNS["told"]: theme.look}
        self.asked.fill([(_SIGNS["so" if one.ok else "stops" if one.must else "told"], one.words,
            "" if one.ok else f"{len(one.against)}: {one.against[0]}") for one in lines],
            [one.name for one in lines])  # fmt: skip
        self.asked.resizeColumnToContents(1)
        first = next((one for one in lines if one.stops), next((one for one in lines if not one.ok), None))
        self.against.fill([], [])
        if first is not None:
            self.asked.pick(first.name)

    def _show_against(self, keys: list[object]) -> None:
        line = next((one for one in self.lines if keys and one.name == keys[0]), None)
        if line is None:
            return
        about = (*line.about, *[""] * (len(line.against) - len(line.about)))
        self.against.fill([(words,) for words in line.against],
            [_Cause(line.name, about[k]) for k in range(len(line.against))])  # fmt: skip
        if line.against:
            self.against.pick(self.against.rows.keys[0])

    def to_cause(self) -> None:
        for key in self.against.picked()[:1]:
            if isinstance(key, _Cause) and key.about:
                self.cause.emit(key.check, key.about)
            else:
                self._say("This has no one place; its list tells more.", False)

    def make(self) -> None:
        """The package, in the background; what went becomes part of the job."""

        def begin() -> None:
            kind, receiver = self.chosen()
            folder = self.folder.text().strip()
            if not folder:
                raise JobError("Name the folder that packages are made in first.")
            out = Path(os.path.expanduser(folder))
            known, copy = self._steel, self._copy()
            reason, zipped, on = self.reason.text(), self.zipped.isChecked(), date.today().isoformat()
            cluster, warned = self.session.preferences.cluster, list[str]()

            def work(tell: Tell, stopped: Callable[[], bool]) -> object:
                job, shop = _in_steel(tell, known, copy)
                try:
                    with handed_to(cluster, warned.append) as make:
                        sent = package(job, shop, kind, receiver, out, reason, on, zipped, False,
                            _Telling(tell, stopped), make)  # fmt: skip
                except Stopped:
                    raise JobError("Stopped; nothing was left behind.") from None
                return receiver, sent, warned

            where = f" by {cluster}" if cluster else ""
            self._run(work, self._made, f"Making a package “{kind.name}”{where} ...")

        self.session.attempt(begin)

    def _made(self, found: object) -> None:
        assert isinstance(found, tuple)
        receiver, sent, warned = found
        assert isinstance(sent, Sent)
        known = self.session.job.get(receiver.id, Receiver)
        told = [] if known == receiver or receiver.name == NOBODY else [receiver]
        number = sent.record.number
        self.session.change(f"Package {number} sent", (*went_out(self.session.job, sent.made), sent.record, *told))
        self.reason.clear()
        self._show(sent.lines)
        words = f"✓ Package {number}: {counted(len(sent.record.files), 'file')} in {sent.folder}"
        if sent.made.failures:
            words += f"; ▲ {len(sent.made.failures)} could not be made: {sent.made.failures[0]}"
        self._say("; ▲ ".join((words, *warned)), bool(sent.made.failures))
        self.refresh()
        self.went.sent.pick(sent.record.id)

    def _run(
        self, work: Callable[[Tell, Callable[[], bool]], object], came: Callable[[object], None], words: str
    ) -> None:
        if self.runner.run(work, came):
            self._say(words, False)

    def _say(self, words: str, error: bool) -> None:
        say_on(self.said, words, error)

    def wind_up(self) -> None:
        self._unfollow()
        self.runner.wind_up()


def _in_steel(tell: Tell, known: tuple[Job, Shop] | None, job: Job) -> tuple[Job, Shop]:
    """The job's steel aside from the window's, made once for as long as nothing changes."""
    if known is not None:
        return known
    tell(0, 0, "steel")
    return job, build(job)


def _short(name: str) -> str:
    return name if len(name) <= 18 else f"{name[:8]}…{name[-8:]}"


def _fill(box: QComboBox, names: Sequence[str], keep_text: bool = False) -> None:
    """Other choices; what was chosen or typed stays."""
    text = box.currentText()
    if [box.itemText(k) for k in range(box.count())] == list(names):
        return
    box.blockSignals(True)
    box.clear()
    box.addItems(list(names))
    if keep_text:
        box.setEditText(text)
    elif text in names:
        box.setCurrentText(text)
    box.blockSignals(False)
