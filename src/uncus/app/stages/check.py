"""Check: all that is found, what is the same in one row; a row leads to its places, and is put aside or settled."""

from __future__ import annotations

import time
from datetime import date

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from uncus.app.checker import Checker
from uncus.app.progress import Through
from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.app.stages.topics import Sending
from uncus.app.stages.verdict import AsideDialog
from uncus.app.theme import Theme, lettering, sized, theme_of
from uncus.check.checking import Stands, Told, alike, aside, seen
from uncus.check.like import faulty, given
from uncus.job.errors import JobError
from uncus.job.records import Both, Topic
from uncus.lens.criteria import chosen, lens_named
from uncus.shop.pieces import Touched
from uncus.steel.joint import Severity
from uncus.units import counted

_SLICE = 0.02  # s of the window's thread at a time for the strength of joints
_SHOWN = {"open": (Stands.OPEN, Stands.BACK), "put aside": (Stands.ASIDE,), "solved": (Stands.SOLVED,)}
_SIGNS = {Severity.WRONG: "▲", Severity.LOOK: "▲", Severity.SAVING: "◇"}
_DEEP = 1500.0  # mm before and behind a finding that are shown with it


class CheckPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.checker = Checker(session)
        self.setObjectName("panel")
        self._rows: list[list[Told]] = []
        self._before: tuple[frozenset[str], frozenset[str], float | None, float | None] | None = None
        self._undesigned: list[str] = []
        self._topics: dict[str, Topic] = {}  # by the finding that they are about
        self.sending: Sending | None = None  # topics that are on their way to a file
        self._stopped = False  # whether the look was left before its end
        self._sought = ""  # the finding that is gone to once it is listed
        self._unseen = False  # whether more is known than the list shows
        self._stale = True  # whether something was edited since it was looked at
        self.signed = ""  # who put something aside last
        self._build()
        self._designing = QTimer(self, interval=0)
        self._designing.timeout.connect(self._design_some)
        self.checker.done.connect(self._show)
        self.checker.progressed.connect(self._progress)
        session.steel.connect(self._edited)
        session.stage_changed.connect(lambda stage: None if stage == "Check" else self.leave())

    def _build(self) -> None:
        self.title = QLabel()
        self.title.setProperty("title", True)
        self.filter = QLineEdit(placeholderText="only rows with", clearButtonEnabled=True)
        self.filter.setAccessibleName("Filter findings")
        sized(self.filter, wide=130)
        self.filter.setToolTip("Words of a finding, its piece or its place")
        self.shown = QComboBox()
        self.shown.setAccessibleName("Which findings")
        self.shown.addItems(list(_SHOWN))
        self.lensed = QComboBox()
        self.lensed.setAccessibleName("Pieces of findings")
        self.lensed.addItems(["of all pieces", "of the lens in use", "of what is selected"])
        self.places = QListWidget()
        self.places.setAccessibleName("Places of the finding")
        sized(self.places, wide=200)
        self.places.hide()
        self.table = Table("Findings", ("State", "At", "Piece", "What does not fit, and what to do"))
        self.table.setWordWrap(True)
        self.stop = QPushButton("Stop")
        self.stop.setAccessibleName("Stop looking")
        self.stop.setToolTip("Leave the look that is under way; what was found before stays")
        self.stop.clicked.connect(self._stop)
        self.stop.hide()
        top = QHBoxLayout()
        top.addWidget(self.title, 1)
        top.addWidget(self.stop)
        for widget in (self.shown, self.lensed, self.filter):
            top.addWidget(widget)
        body = QHBoxLayout()
        body.addWidget(self.table, 1)
        body.addWidget(self.places)
        layout = QVBoxLayout(self)
        layout.addLayout(top)
        layout.addLayout(body, 1)
        self.filter.textChanged.connect(self.table.filter)
        self.shown.currentIndexChanged.connect(lambda _: self._show())
        self.lensed.currentIndexChanged.connect(lambda _: self._show())
        self.table.chosen.connect(self._chosen)
        self.places.currentRowChanged.connect(self._go)

    def _edited(self, touched: Touched) -> None:
        """Once a job was looked at, each edit is followed, whatever stage is open."""
        self._stale = True
        if self.checker.looked is not None and not self._stopped:
            shop = self.session.shop
            near = {c.id for m in touched.rebuilt for c in shop.connections_at(m)} & shop.connections.keys()
            self._design([id for id in near if not shop.is_designed(id)])
            self.checker.ask()
            self._stale = False

    # -- what is there ------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Look at what is other than when it was looked at last."""
        if self._stale:
            self.look_again()
        elif self._unseen:
            self._show()

    def look_again(self) -> None:
        """Look at everything, and at joints whose strength is not worked out."""
        shop, self._stale, self._stopped = self.session.shop, False, False
        self._undesigned = []
        self._design([id for id in shop.connections if not shop.is_designed(id)])
        self.checker.ask()
        self._entitle()

    def _design(self, joints: list[str]) -> None:
        self._undesigned += joints
        if self._undesigned:
            self._designing.start()

    def _design_some(self) -> None:
        """Work out the strength of joints a slice at a time, so that the window stays quick."""
        shop, since = self.session.shop, time.monotonic()
        while self._undesigned and time.monotonic() - since < _SLICE:
            shop.design(self._undesigned.pop())
        if self._undesigned:
            self._entitle()
            return
        self._designing.stop()
        self.checker.ask()

    def _stop(self) -> None:
        self._designing.stop()
        self.checker.stop()
        self._stale, self._stopped = True, True
        self._entitle()

    def _progress(self, done: int, of: int, words: str) -> None:
        if self.isVisible() and self.checker.running:
            self.title.setText(f"Looking ({done + 1} of {of})")
            self.title.setToolTip(words)
            self.stop.show()

    def _wanted(self) -> list[Told]:
        return [one for one in self.concerning() if one.stands in _SHOWN[self.shown.currentText()]]

    def concerning(self) -> list[Told]:
        """Findings of the pieces that the list is about, however they stand."""
        told = self.checker.told
        which, looked = self.lensed.currentIndex(), self.checker.looked
        if which and looked is not None:
            some = set(self._lens_lets() if which == 1 else self.session.selection)
            told = [one for one in told if not some.isdisjoint(looked.members_of(one.found))]
        return told

    def _lens_lets(self) -> list[str]:
        session = self.session
        try:
            rule = lens_named(session.job, session.seeing.lens).rule if session.seeing.lens else Both()
            return chosen(rule, session.job, session.shop, session.above)
        except JobError as error:  # a lens that is no more
            session.said.emit(str(error), True)
            return []

    def _show(self) -> None:
        if not self.isVisible():
            self._unseen = True
            return
        self._unseen = False
        at, marks, looked = self.current(), self.session.marks, self.checker.looked
        self._topics = {topic.finding or topic.id: topic for topic in self.session.job.all(Topic)}
        self._rows = alike(self._wanted())
        rows = []
        for some in self._rows:
            first = some[0]
            members = looked.members_of(first.found) if looked else ()
            pieces = [mark for m in members if (mark := marks.of_assembly(m) or self._words(m))]
            of = ", ".join(dict.fromkeys(pieces))
            where = self._place(first)
            more = f" and {counted(len(some) - 1, 'more place')}" if len(some) > 1 else ""
            said = f"{self._said(first)} At {where}{more}." if where else self._said(first)
            said += self._remarks(first)
            rows.append((self._sign(first), str(len(some)), of, said))
        theme = theme_of(self)
        self.table.rows.colours = {"▲ wrong": theme.wrong, "▲ look here": theme.look, "▲ come back": theme.wrong}
        self.table.fill(rows, list(range(len(rows))))
        self._pick_again(at)
        for column, wide in enumerate((104, 36, 104)):
            self.table.setColumnWidth(column, round(wide * lettering()))
        self.table.resizeRowsToContents()
        self._entitle()
        if self.isVisible():
            self.session.coloured.emit()
        if self._sought:
            self._seek()

    def go_to(self, key: str) -> None:
        """The place of a finding, as soon as it is found again."""
        self._sought = key
        self.lensed.setCurrentIndex(0)
        self.shown.setCurrentIndex(0)
        self._seek()

    def _seek(self) -> None:
        spots = ((n, k) for n, some in enumerate(self._rows) for k, one in enumerate(some)
            if one.found.key == self._sought)  # fmt: skip
        if (spot := next(spots, None)) is not None:
            self._sought = ""
            self.table.pick(spot[0])
            self.places.setCurrentRow(spot[1])

    def _pick_again(self, at: Told | None) -> None:
        """The finding that was looked at before the list was made anew, without going there again."""
        spots = ((n, k) for n, some in enumerate(self._rows) for k, one in enumerate(some)
            if at is not None and one.found.key == at.found.key)  # fmt: skip
        row, place = next(spots, (-1, -1))
        self.table.blockSignals(True)
        if row >= 0:
            self.table.pick(row)
        self.table.blockSignals(False)
        self._list_places(self._rows[row] if row >= 0 else [], place)

    def _list_places(self, some: list[Told], place: int) -> None:
        self.places.blockSignals(True)
        self.places.clear()
        for n, one in enumerate(some, 1):
            self.places.addItem(f"{n}  {self._place(one) or self._words(one.found.records[0])}")
        self.places.setCurrentRow(place)
        self.places.setVisible(len(some) > 1)
        self.places.blockSignals(False)

    def _words(self, member: str) -> str:
        looked = self.checker.looked
        found = looked.assemblies.get(member) if looked else None
        return found.words if found else ""

    def _sign(self, one: Told) -> str:
        if one.stands is Stands.OPEN:
            return f"{_SIGNS[one.found.severity]} {one.found.severity}"
        return f"{'▲' if one.stands is Stands.BACK else '✓'} {one.stands}"

    def _said(self, one: Told) -> str:
        said = one.found.text
        if one.stands is Stands.ASIDE and one.verdict is not None:
            said += f" Put aside by {one.verdict.by}, {one.verdict.on}: {one.verdict.why}"
        if one.stands is Stands.BACK and one.verdict is not None and one.verdict.stands == "aside":
            said += f" It was put aside by {one.verdict.by} ({one.verdict.why}), and was changed there since."
        return said

    def _remarks(self, one: Told) -> str:
        """What was said of a finding with others, a line each."""
        topic = self._topics.get(one.found.about[0] if one.found.rule == "topic" else one.found.key)
        if topic is None:
            return ""
        lines = ["Others hold it settled."] if topic.settled and one.found.rule != "topic" else []
        return "".join(f"\n{line}" for line in (*lines, *(f"{r.by or 'Somebody'}, {r.on[:10]}: {r.text}"
            for r in topic.remarks)))  # fmt: skip

    def _place(self, one: Told) -> str:
        return self.checker.looked.place(one.found.at) if self.checker.looked else ""

    def _entitle(self) -> None:
        number = len(self.checker.open)
        words = counted(number, "finding")
        aside = sum(one.stands is Stands.ASIDE for one in self.checker.told)
        if self._stopped:
            words += "; stopped, look again to go on"
        elif self._undesigned:
            words += f"; the strength of {counted(len(self._undesigned), 'joint')} to come"
        elif self.checker.running:
            words += "; looking again"
        elif not number:
            words = "✓ Nothing is found wrong"
        if aside:
            words += f"; {aside} put aside"
        self.title.setText(words)
        self.title.setToolTip("")
        self.stop.setVisible(bool(self._undesigned or self.checker.running) and not self._stopped)

    def colours(self, theme: Theme) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """The pieces of the finding that is looked at, told apart, else all that findings are about; with a key."""
        one, looked = self.current(), self.checker.looked
        if one is not None and looked is not None:
            members = looked.members_of(one.found)
            colours = dict(zip(members, (theme.wrong, theme.look), strict=False))
            signs = (("▲", theme.wrong), ("△", theme.look))
            return colours, [(sign, self._words(m), colour) for m, (sign, colour) in zip(members, signs, strict=False)]
        colours = dict.fromkeys(self.owners(), theme.wrong)
        return colours, [("▲", "has a finding", theme.wrong)] if colours else []

    def through(self) -> Through | None:
        """How much of what was found is settled; None where nothing was found, or looked at yet."""
        told = self.checker.told
        settled = sum(one.stands in (Stands.ASIDE, Stands.SOLVED) for one in told)
        return Through(settled, len(told), "of the findings are settled") if told else None

    def owners(self) -> set[str]:
        """The members that open findings are about."""
        looked = self.checker.looked
        return {id for one in self.checker.open for id in looked.members_of(one.found)} if looked else set()

    # -- from a row to its places -------------------------------------------------------------------------------
    def picked(self) -> list[Told]:
        """The findings of the rows that are picked."""
        return [one for key in self.table.picked() for one in self._rows[int(str(key))]]

    def _chosen(self, keys: list) -> None:  # type: ignore[type-arg]
        some = self._rows[int(keys[0])] if keys else []
        self._list_places(some, 0 if some else -1)
        QTimer.singleShot(0, self.table.resizeRowsToContents)  # the list beside it takes its room, or gives it back
        self._go(0 if some else -1)

    def current(self) -> Told | None:
        """The finding whose place is looked at."""
        keys, n = self.table.picked(), self.places.currentRow()
        some = self._rows[int(str(keys[0]))] if keys else []
        return some[n] if 0 <= n < len(some) else None

    def _go(self, _: int) -> None:
        """The view goes to the place: its two pieces in colour, the rest ghosted and clipped."""
        one, looked, session = self.current(), self.checker.looked, self.session
        if one is None or looked is None:
            return
        seeing = session.seeing
        if self._before is None:
            self._before = seeing.hidden, seeing.ghosted, seeing.before, seeing.behind
        members = looked.members_of(one.found)
        seeing.ghost_rest(members, session.shop.so_far)
        session.select(members if len(members) == 1 else ())  # two are told apart by their colours
        session.spotted = one.found.at
        if one.found.at is not None:
            seeing.clip(_DEEP, _DEEP)
            session.gone_to.emit(one.found.at)
        else:
            session.framed.emit()
        session.coloured.emit()

    def leave(self) -> None:
        """The model is seen again as it was before findings were looked at."""
        self.session.spotted = None
        if self._before is not None:
            seeing = self.session.seeing
            seeing.hidden, seeing.ghosted = self._before[:2]
            seeing.clip(*self._before[2:])
            seeing.version += 1
            self._before = None
            self.session.view_changed.emit()

    def step(self, by: int) -> None:
        """The next place, or the one before: through the places of a row, and on to the next row."""
        shown = self.table.shown()
        if not shown:
            self.session.said.emit("There is no finding to go to.", False)
            return
        picked = self.table.picked()
        row = self.places.currentRow() + by
        if picked and 0 <= row < self.places.count():
            self.places.setCurrentRow(row)
            return
        at = shown.index(picked[0]) if picked and picked[0] in shown else (-1 if by > 0 else 0)
        self.table.pick(shown[(at + by) % len(shown)])
        if by < 0:
            self.places.setCurrentRow(self.places.count() - 1)

    def to_maker(self) -> None:
        """From a finding to the joint or attachment that made what it is about, to give it other values."""
        one = self.current()
        for id in one.found.records if one else ():
            if id in self.session.shop.connections:
                self.session.select((id,))
                self.session.to_facts.emit()
                return
        self.session.said.emit("No joint made what this is about; change the pieces themselves.", False)

    def give_values(self) -> None:
        """To the joints of the picked findings the values of a like joint each that nothing is said of."""
        session, looked = self.session, self.checker.looked
        ids = [id for one in self.picked() for id in one.found.records if id in session.shop.connections]
        if looked is None or not ids:
            session.said.emit("No joint made what is picked; change the pieces themselves.", True)
            return
        put = given(looked, ids, faulty(self.checker.told))
        if not put:
            session.said.emit("No joint of the kind, on such sections and with other values, is right.", True)
        elif session.change(f"Values of a like joint for {counted(len(put), 'joint')}", put):
            session.said.emit(f"{counted(len(put), 'joint')} given the values of a like one that is right.", False)

    # -- what is said of them -----------------------------------------------------------------------------------
    def put_aside(self) -> None:
        found = [one.found for one in self.picked() if one.stands in (Stands.OPEN, Stands.BACK)]
        if not found:
            self.session.said.emit("Pick open findings first, then put them aside.", True)
            return
        dialog = AsideDialog(self, len(found), self.signed)
        if not dialog.exec():
            return

        def work() -> None:
            self.signed = dialog.by
            put = aside(found, dialog.by, dialog.why, date.today().isoformat())
            if self.session.change(f"Put aside {counted(len(put), 'finding')}", put):
                self.checker.restand()

        self.session.attempt(work)

    def reopen(self) -> None:
        ids = [one.verdict.id for one in self.picked() if one.verdict is not None and one.stands is not Stands.OPEN]
        if not ids:
            self.session.said.emit("Pick findings that were put aside or solved first.", True)
        elif self.session.change(f"Open {counted(len(ids), 'finding')} again", drop=ids):
            self.checker.restand()

    def keep_run(self) -> None:
        kept = seen(self.checker.told, date.today().isoformat())
        if not kept:
            self.session.said.emit("Nothing is other than in the run kept last.", False)
        elif self.session.change("Keep what was found", kept):
            self.checker.restand()

    def wind_up(self) -> None:
        """For good: the window closes, and nothing goes on behind it."""
        self._designing.stop()
        self.checker.wind_up()
        if self.sending is not None:
            self.sending.stopped.set()
            self.sending.wait()
