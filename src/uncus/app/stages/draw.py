"""Draw: the register beside the sheet; cleaning up, worklist, revisions."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from functools import partial

import msgspec
from PySide6.QtCore import Qt, QThread, Signal, Slot
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QSizePolicy,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from uncus.app.draw_commands import SHEET
from uncus.app.session import Session
from uncus.app.sheet.printing import Preview
from uncus.app.sheet.sheet_view import SheetView
from uncus.app.stages.cleaning import Cleaning
from uncus.app.stages.columns import FilterRow, columns_button
from uncus.app.stages.presets import PresetsDialog
from uncus.app.stages.revise import ReviseDialog
from uncus.app.stages.table import Table
from uncus.app.theme import sized, theme_of
from uncus.draw.batch import Drawn, drawn
from uncus.draw.drawn import keep_drawn, paper_and_pages, sheets, takes_long
from uncus.draw.entry import Entry, State
from uncus.draw.inputs import SheetJob
from uncus.draw.issue import laid_over, opened
from uncus.draw.keeping import WORKLIST, by_marks, drawing_of, flagged, issues_of, revised
from uncus.draw.register import past, register
from uncus.draw.states import why
from uncus.job.errors import JobError
from uncus.job.records import Drawing, Lens
from uncus.lens.criteria import named
from uncus.units import counted

SIGNS = {State.NEW: "○", State.CURRENT: "●", State.STALE: "▲", State.SUPERSEDED: "◇", State.GONE: "□"}
_PAST = "past "  # begins the key of a row of what was sent and is no more
_HEADS = ("", "Sheet", "What", "State", "Why", "Rev", "List", "Paper", "Pages", "Kind", "Sent", "Revised", "Drawn",
    "Checked", "Flags", "Number")  # fmt: skip
_HIDDEN = ("Pages", "Kind", "Sent", "Revised", "Drawn", "Checked", "Flags", "Number")


class Batch(QThread):
    """Sheets drawn in worker processes while the window stays free."""

    came = Signal(object)

    def __init__(self, jobs: list[SheetJob]) -> None:
        super().__init__()
        self.jobs = jobs

    def run(self) -> None:
        for one in drawn(self.jobs, self.isInterruptionRequested):
            self.came.emit(one)


class DrawPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.entries: list[Entry] = []
        self.past: list[Entry] = []  # of sheets that went out and are no more
        self.failures: dict[str, str] = {}
        self.batch: Batch | None = None
        self.aside: Batch | None = None  # the one sheet that is picked, where it takes long
        self._came = 0
        self.title = QLabel("Register")
        self.title.setProperty("title", True)
        # what it says grows with the register: the panel must not, or the sheet slips away under the pointer
        self.title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.lens = QComboBox()
        self.lens.setAccessibleName("Lens of the register")
        self.lens.setToolTip("Only sheets of pieces that a lens lets through")
        self.lens.activated.connect(lambda _: self.refresh())
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("filter")
        self.filter.setAccessibleName("Filter the register")
        sized(self.filter, wide=84)
        self.table = Table("Register", _HEADS)
        self.table.setSelectionMode(Table.SelectionMode.ExtendedSelection)
        self.table.widest = {_HEADS.index("Why"): 120, _HEADS.index("What"): 130}
        for words in _HIDDEN:
            self.table.setColumnHidden(_HEADS.index(words), True)
        self.table.chosen.connect(self._chosen)
        self.filter.textChanged.connect(self.table.filter)
        self.progress = QProgressBar()
        self.progress.setAccessibleName("Progress of drawing")
        self.stop = QPushButton("Stop")
        self.stop.setAccessibleName("Stop drawing")
        self.stop.clicked.connect(lambda: self.batch and self.batch.requestInterruption())
        self.view: SheetView = SheetView()
        self.cleaning: Cleaning = Cleaning(self)
        self.view.said.connect(lambda words: self.hint.setText(words))
        self.view.followed.connect(self._follow)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(self._left())
        split.addWidget(self._right())
        split.setSizes([350, 650])
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    def _left(self) -> QWidget:
        left = QWidget()
        column = QVBoxLayout(left)
        head = QHBoxLayout()
        for widget in (self.lens, self.filter, columns_button(self.table, fixed=(0, 1))):
            head.addWidget(widget)
        head.addStretch(1)
        column.addWidget(self.title)
        column.addLayout(head)
        column.addWidget(FilterRow(self.table))
        column.addWidget(self.table, 1)
        work = QHBoxLayout()
        work.addWidget(self.progress, 1)
        work.addWidget(self.stop)
        column.addLayout(work)
        self.progress.hide()
        self.stop.hide()
        return left

    def _right(self) -> QWidget:
        right = QWidget()
        box = QVBoxLayout(right)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(2)
        box.addWidget(self.view, 1)
        self.hint, self.state = QLabel(), QLabel()
        self.hint.setAccessibleName("What can be done")
        self.state.setAccessibleName("State of the sheet")
        self.state.setWordWrap(True)
        self.hint.setContentsMargins(10, 2, 8, 0)
        box.addWidget(self.hint)
        bar = QHBoxLayout()
        bar.setContentsMargins(8, 0, 8, 6)
        bar.addWidget(self._button("← Previous", "Previous sheet", lambda: self.step(-1)))
        bar.addWidget(self._button("Next →", "Next sheet", lambda: self.step(1)))
        bar.addSpacing(10)
        bar.addWidget(self.state, 1)
        bar.addWidget(self._button("Show in the model   Tab", "Show in the model",
            lambda: self.session.wanted.emit(SHEET)))  # fmt: skip
        box.addLayout(bar)
        return right

    def _button(self, words: str, name: str, do) -> QPushButton:  # type: ignore[no-untyped-def]
        button = QPushButton(words)
        button.setAccessibleName(name)
        button.clicked.connect(do)
        return button

    # -- the register -------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Read the register again; the sheet shown stays the one it was."""
        session = self.session
        name = self.current.name if self.current else ""
        missing = session.marks.unmarked(session.shop.shipped.values())
        self._fill_lenses()
        try:
            wanted = named(self.lens.currentData() or None, session.job, session.shop, session.above)
            self.entries = register(session.job, session.shop, wanted) if session.shop.assemblies else []
            self.past = past(session.job, session.shop, self.entries) if not self.lens.currentData() else []
        except JobError as error:
            session.said.emit(str(error), True)
            self.entries, self.past = [], []
        theme = theme_of(self)
        self.table.rows.colours = {"●": theme.go, "▲": theme.look, "○": theme.slate, "✕": theme.wrong}
        keys = [*(e.name for e in self.entries), *(f"{_PAST}{n}" for n in range(len(self.past)))]
        self.table.fill([self._row(e) for e in (*self.entries, *self.past)], keys)
        stale = sum(e.state is State.STALE for e in self.entries)
        told = [words for n, words in ((stale, f"{stale} stale"), (len(self.past), f"{len(self.past)} past")) if n]
        self.title.setText(", ".join([f"Register: {len(self.entries)}", *told]))
        self.title.setToolTip(
            "Past: sheets that went out and are superseded or gone, at the foot of the list" if self.past else ""
        )
        if not self.entries:
            self.view.show_sheets(
                (), "No sheets yet: sheets are made of marked pieces.\nOpen Mark (Ctrl+4) and apply the marks first."
            )
        elif missing:
            session.said.emit(
                f"{counted(len(missing), 'piece')} changed or without a mark, so their sheets may not be right; apply "
                f"marks (Ctrl+4).",
                True,
            )
        if self.entries:
            self.open(name if any(e.name == name for e in self.entries) else self.entries[0].name)

    def _fill_lenses(self) -> None:
        chosen = self.lens.currentData()
        names = sorted(lens.name for lens in self.session.job.all(Lens))
        self.lens.blockSignals(True)
        self.lens.clear()
        self.lens.addItem("all", "")
        for name in names:
            self.lens.addItem(name, name)
        self.lens.setCurrentIndex(max(0, self.lens.findData(chosen)))
        self.lens.blockSignals(False)

    def _row(self, e: Entry) -> tuple[str, ...]:
        hand = e.hand or Drawing(piece="", kind="")
        failed = self.failures.get(e.name)
        sign, state = ("✕", "failed") if failed else (SIGNS[e.state], str(e.state))
        return (
            sign,
            e.name,
            e.title,
            state,
            failed or "; ".join(why(e)),
            e.revision,
            "●" if WORKLIST in hand.flags else "",
            *paper_and_pages(e),
            e.kind,
            e.issue.on if e.issue else "",
            hand.revisions[-1].on if hand.revisions else "",
            hand.drawn,
            hand.checked,
            ", ".join(f for f in hand.flags if f != WORKLIST),
            str(e.job.required) if hasattr(e.job, "required") else "",
        )

    @property
    def picked(self) -> list[Entry]:
        """The entries picked in the register, in its order."""
        names = set(self.table.picked())
        return [e for e in self.entries if e.name in names]

    @property
    def current(self) -> Entry | None:
        picked = self.table.picked()
        return next((e for e in self.entries if picked and e.name == picked[0]), None)

    def open(self, name: str) -> None:
        self.table.pick(name)

    def open_piece(self, id: str) -> bool:
        """The sheet of an assembly; False where it has none."""
        entry = next((e for e in self.entries if e.kind == "assembly" and id in e.pieces), None)
        if entry is None:
            return False
        self.filter.clear()
        self.open(entry.name)
        return True

    @Slot(str)
    def open_view(self, frame: str) -> None:
        """The sheet that a view frame is on."""
        entry = next((e for e in self.entries if e.kind == "erection" and frame in e.own), None)
        if entry is not None:
            self.filter.clear()
            self.open(entry.name)

    def _follow(self, name: str) -> None:
        """The sheet that a sign leads to."""
        if any(e.name == name for e in self.entries):
            self.filter.clear()
            self.open(name)
        else:
            self.session.said.emit(f"Sheet {name} is not among these; choose all instead of a lens.", True)

    def _listed(self) -> list[Entry]:
        """What next and previous go through: the worklist where there is one, else what the register shows."""
        flagged_ones = [e for e in self.entries if e.hand and WORKLIST in e.hand.flags]
        if flagged_ones:
            return flagged_ones
        shown = set(self.table.shown())
        return [e for e in self.entries if e.name in shown]

    def step(self, by: int) -> None:
        if self.view.turn(by):
            return
        listed, current = self._listed(), self.current
        if not listed:
            return
        names = [e.name for e in listed]
        at = names.index(current.name) + by if current and current.name in names else 0
        self.open(names[at % len(names)])

    def _chosen(self, keys: list) -> None:  # type: ignore[type-arg]
        if len(keys) == 1 and str(keys[0]).startswith(_PAST):
            self._show_past(self.past[int(str(keys[0]).removeprefix(_PAST))])
            return
        entry = self.current
        if entry is None:
            return
        if takes_long(entry) and entry.name not in self.failures:
            self._draw_aside(entry)
            return
        try:
            self.view.show_sheets(sheets(entry))
        except Exception as error:  # a sheet that fails must not take the window with it
            self.view.show_sheets((), f"Sheet {entry.name} could not be drawn: {error or type(error).__name__}.")
        shown = self.view.sheet
        if shown is not None:
            self.session.see_sheet()
        words = f"{SIGNS[entry.state]} {entry.name} is {entry.state}   {entry.title}"
        if shown is not None and shown.wrong:
            words += f"   ▲ {' '.join(shown.wrong)}"
        if shown is not None and shown.lost:
            words += f"   ▲ {counted(len(shown.lost), 'edit')} found nothing any more: {'; '.join(shown.lost)}"
        elif entry.state is State.STALE:
            words += f"   {'; '.join(why(entry))}"
        self.state.setText(words)
        self.state.setToolTip(words)
        if shown is not None and len(keys) == 1:
            self.session.select(set(entry.pieces) if entry.kind != "erection" else ())

    def _draw_aside(self, entry: Entry) -> None:
        """Draw one sheet that takes long while the window stays free; it is shown when it comes, if it is still wanted
        then."""
        self.view.show_sheets((), f"Drawing sheet {entry.name} ...")
        if self.aside is None:
            self.aside = Batch([entry.job])
            self.aside.came.connect(partial(self._came_aside, entry))
            self.aside.finished.connect(self._aside_finished)
            self.aside.start()

    def _came_aside(self, entry: Entry, one: Drawn) -> None:
        if one.failure:
            self.failures[one.name] = one.failure
            self.session.said.emit(one.failure, True)
        else:
            keep_drawn(entry, one.sheets)

    def _aside_finished(self) -> None:
        self.aside = None
        keys = self.table.picked()
        if self.current is not None and self.view.sheet is None:
            self._chosen(keys)

    def _show_past(self, entry: Entry) -> None:
        """A sheet as it went out, of pieces that are on others now, or gone."""
        self.view.show_sheets(sheets(entry))
        words = f"{SIGNS[entry.state]} {entry.name}, {entry.title}, is {entry.state}: {'; '.join(why(entry))}"
        self.state.setText(words)
        self.state.setToolTip(words)

    def print(self) -> None:
        """The desktop's preview of the picked sheets, from which they are printed."""
        shown = [sheet for entry in self.picked for sheet in sheets(entry)] or list(self.view.hand.sheets)
        if not shown:
            raise JobError("Pick the sheets to print in the register first.")
        Preview(shown, self).exec()

    def back(self) -> None:
        """Esc on the sheet: one step of cleaning up back, then the old issue off it."""
        if self.view.over is not None:
            self.compare()
        else:
            self.view.back()

    # -- commands -----------------------------------------------------------------------------------
    def edit_presets(self) -> None:
        PresetsDialog(self.session, self, self.entries).exec()

    def put(self, label: str, records: Sequence[Drawing]) -> None:
        if records:
            self.session.change(label, records)

    def one(self) -> Entry:
        entry = self.current
        if entry is None and any(str(key).startswith(_PAST) for key in self.table.picked()):
            raise JobError("That sheet is kept as it went out; pick one that there is now.")
        if entry is None:
            raise JobError("Pick a sheet in the register first.")
        return entry

    # -- worklist -------------------------------------------------------------------------------------
    def flag_pieces(self) -> None:
        """The sheets of pieces selected in the model on or off the worklist."""
        session = self.session
        found = [e for e in register(session.job, session.shop) if e.kind == "assembly"
            and session.selection & set(e.pieces)]  # fmt: skip
        if not found:
            raise JobError("The selected pieces have no sheets yet: apply the marks first (Ctrl+4).")
        self._toggle(found)
        session.said.emit(
            f"{counted(len(found), 'sheet')} on or off the worklist: {', '.join(e.name for e in found[:6])}.", False
        )

    def flag(self) -> None:
        self._toggle(self.picked)

    def _toggle(self, entries: Sequence[Entry]) -> None:
        on = any(not (e.hand and WORKLIST in e.hand.flags) for e in entries)
        self.put("Worklist", flagged(entries, WORKLIST, on))

    def done(self) -> None:
        entry = self.current
        listed = self._listed()
        if entry is None or entry.name not in [e.name for e in listed]:
            raise JobError("This sheet is not on the worklist.")
        after = listed[(listed.index(entry) + 1) % len(listed)].name
        self.put("Done with the sheet", flagged([entry], WORKLIST, False))
        self.open(after)

    def list_by_marks(self) -> None:
        text, taken = QInputDialog.getText(self, "Worklist", "Marks, such as B1-B7, C2")
        if taken:
            self.put("Worklist", flagged(by_marks(self.entries, text), WORKLIST, True))

    def list_by_lens(self) -> None:
        names = sorted(lens.name for lens in self.session.job.all(Lens))
        if not names:
            raise JobError("The job has no lens yet; name one first (lens, over the model).")
        name, taken = QInputDialog.getItem(self, "Worklist", "Lens", names, 0, False)
        if taken:
            wanted = register(
                self.session.job,
                self.session.shop,
                named(name, self.session.job, self.session.shop, self.session.above),
            )
            self.put("Worklist", flagged([e for e in wanted if e.kind == "assembly"], WORKLIST, True))

    # -- in the background --------------------------------------------------------------------------
    def start(self) -> None:
        """Draw what the register shows; sheets that are drawn already come at once."""
        if self.batch is not None:
            raise JobError("Sheets are being drawn already; stop that first.")
        listed = self._listed()
        self.failures.clear()
        self._came = 0
        self._by_name = {e.name: e for e in listed}
        self.batch = Batch([e.job for e in listed])
        self.progress.setRange(0, len(listed))
        self.progress.setValue(0)
        self.progress.show()
        self.stop.show()
        self.batch.came.connect(self._one_came)
        self.batch.finished.connect(self._finished)
        self.batch.start()

    def _one_came(self, one: Drawn) -> None:
        self._came += 1
        self.progress.setValue(self._came)
        entry = self._by_name.get(one.name)
        if one.failure:
            self.failures[one.name] = one.failure
        elif entry is not None:
            keep_drawn(entry, one.sheets)

    def _finished(self) -> None:
        of = self.progress.maximum()
        self.batch = None
        self.progress.hide()
        self.stop.hide()
        words = f"{self._came} of {of} drawn"
        if self.failures:
            name, why_not = next(iter(self.failures.items()))
            words += f"; {counted(len(self.failures), 'sheet')} failed, the first {name}: {why_not}"
            self.refresh()
        self.session.said.emit(words + ".", bool(self.failures))

    def wind_up(self) -> None:
        """Stop what is under way before the window goes."""
        for work in (self.batch, self.aside):
            if work is not None:
                work.requestInterruption()
                work.wait()

    # -- revisions ------------------------------------------------------------------------------------
    def revise(self) -> None:
        entries = self.picked
        if not entries:
            raise JobError("Pick the sheets to revise in the register first.")
        dialog = ReviseDialog(entries, self)
        if dialog.exec():
            today = date.today().isoformat()
            made = revised(entries, today, dialog.words.text(), dialog.mark.text().strip(),
                dialog.drawn.text().strip(), dialog.checked.text().strip())  # fmt: skip
            self.put(f"Revise {counted(len(made), 'sheet')}", made)

    def check(self) -> None:
        who, taken = QInputDialog.getText(self, "Checked", "By whom")
        if taken:
            hands = [drawing_of(e) for e in self.picked]
            self.put("Checked", [msgspec.structs.replace(h, checked=who.strip()) for h in hands])

    def compare(self) -> None:
        if self.view.over is not None:
            self.view.over = None
            self.hint.setText(self.view.hand.prompt)
            self.view.update()
            return
        entry = self.one()
        if entry.issue is None or self.view.sheet is None:
            raise JobError(f"Sheet {entry.name} has not been sent yet, so there is no old one to compare with.")
        _, old = opened(entry.issue.packed)
        page = min(self.view.hand.page, len(old) - 1)
        self.view.over = laid_over(old[page], self.view.sheet)
        self.hint.setText(f"Grey: both. - red: only as sent on {entry.issue.on}. + green: only now. O goes back.")
        self.view.update()

    def issued_copies(self) -> None:
        entry = self.one()
        kept = issues_of(self.session.job, entry)
        if not kept:
            raise JobError(f"Sheet {entry.name} has not been sent yet.")
        names = [f"{i.on}  {i.sheet}  {'revision ' + i.revision if i.revision else 'first issue'}" for i in kept]
        name, taken = QInputDialog.getItem(self, "Issued copies", "As it went out", names, 0, False)
        if taken:
            chosen = kept[names.index(name)]
            self.view.show_sheets(opened(chosen.packed)[1])
            self.hint.setText(f"As it went out on {chosen.on}; pick the sheet in the register for today's.")
