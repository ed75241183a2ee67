"""What of others' steel would be made into members: new, changed and gone ones, and what stays theirs and why."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QInputDialog, QLabel, QTabWidget, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.ordered import plain_button
from uncus.app.stages.table import Table
from uncus.app.stages.working import say_on
from uncus.app.theme import theme_of
from uncus.catalog.sections import section
from uncus.job.records import NamesLearnt, Reference
from uncus.reference.profiles import Names
from uncus.reference.taking import Offer, Taking, What, records_of, taking
from uncus.units import counted

_SIGNS = {What.NEW: "+ new", What.CHANGED: "▲ changed", What.GONE: "✕ gone", What.SAME: "○ as it was"}


class TakingDialog(QDialog):
    """Nothing of the job is touched before *Make*; each is one undo step. Stays open beside the window."""

    def __init__(self, session: Session, reference: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.reference = session, reference
        self.found: Taking | None = None
        self.setWindowTitle("Make members of others' steel")
        self.resize(940, 520)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.offers = Table("Members that would be made", ("What", "Theirs", "Becomes", "Known by", "Look"))
        self.offers.setSelectionMode(Table.SelectionMode.ExtendedSelection)
        self.offers.widest = {3: 130}
        self.left = Table("What stays theirs", ("Theirs", "Class", "Why"))
        self.left.widest = {0: 260, 1: 160}
        self.tabs = QTabWidget()
        self.tabs.addTab(self.offers, "To be made")
        self.tabs.addTab(self.left, "Stays theirs")
        self.said = QLabel("Looking at what it holds ...")
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What would be made")
        self.fittings = QCheckBox("Plates of assemblies too")
        self.fittings.setToolTip("Plates that are part of an assembly, which joints make here otherwise")
        self.fittings.toggled.connect(lambda _: self.look())
        self.levels = QCheckBox("Grid lines and levels")
        self.levels.setChecked(True)
        self.levels.setToolTip("Those of its grid and storeys that this job has not")
        row = QHBoxLayout()
        row.addWidget(self.fittings)
        row.addWidget(self.levels)
        row.addStretch(1)
        row.addWidget(plain_button("A name means ...", "What the picked thing's profile or grade is called here; it is "
            "remembered, and can be shared as a file", self.teach))  # fmt: skip
        self.some = plain_button("Make picked", "The picked rows alone", lambda: self.make(self.picked))
        self.all = plain_button("Make all", "Every row that would change something", self.make_all)
        self.all.setProperty("main", True)
        row.addWidget(self.some)
        row.addWidget(self.all)
        row.addWidget(plain_button("Close", "", self.close))
        layout = QVBoxLayout(self)
        layout.addWidget(self.said)
        layout.addWidget(self.tabs, 1)
        layout.addLayout(row)
        self.look()

    # -- looking ---------------------------------------------------------------------------------------------------
    def look(self) -> None:
        """Work out in the background what would be made."""
        session = self.session
        of, model = session.job.get(self.reference, Reference), session.others.model(self.reference)
        if of is None or model is None:
            say_on(self.said, "The model is not at hand; read it again first.", True)
            return
        fittings = self.fittings.isChecked()
        session.others.work(lambda tell, stop: taking(session.job, model, of, fittings, tell, stop), self._looked)

    def _looked(self, found: object) -> None:
        assert isinstance(found, Taking)
        self.found = found
        theme = theme_of(self)
        self.offers.rows.colours = {_SIGNS[What.NEW]: theme.new, _SIGNS[What.CHANGED]: theme.look,
            _SIGNS[What.GONE]: theme.wrong}  # fmt: skip
        rows = [(_SIGNS[o.what], o.name or o.product, o.member.words + (f": {', '.join(o.fields)}" if o.fields else ""),
            o.by, "; ".join(o.notes)) for o in found.offers]  # fmt: skip
        self.offers.fill(rows, list(found.offers))
        theirs = [(p.product.name or p.product.guid, p.product.cls.removeprefix("Ifc"), p.why) for p in found.left]
        self.left.fill(theirs, list(found.left))
        self.tabs.setTabText(0, f"To be made ({len(found.open)})")
        self.tabs.setTabText(1, f"Stays theirs ({len(found.left)})")
        laid = found.laid
        more = [counted(laid.lines, "grid line")] * bool(laid.lines) + [counted(len(laid.levels), "level")] * bool(
            laid.levels)  # fmt: skip
        counts = ", ".join(f"{len(found.of(w))} {w}" for w in What if found.of(w)) or "nothing to make"
        say_on(self.said, f"{counts}. " + (f"And {' and '.join(more)}. " if more else "") + " ".join(laid.notes), False)
        self.levels.setEnabled(bool(more))
        self.all.setEnabled(bool(found.open or more))

    # -- making ----------------------------------------------------------------------------------------------------
    @property
    def picked(self) -> list[Offer]:
        return [o for o in self.offers.picked() if isinstance(o, Offer)]

    def make_all(self) -> None:
        if self.found is not None:
            self.make(list(self.found.open))

    def make(self, offers: list[Offer]) -> None:
        if self.found is None:
            return
        put, drop = records_of(self.session.job, self.found, offers, self.levels.isChecked())
        if not put and not drop:
            say_on(self.said, "Nothing of what is picked would change anything.", False)
            return
        name = self.found.reference.name
        if self.session.change(f"Members of {name}", put, drop):
            self.session.said.emit(f"{counted(len(offers), 'member')} of {name} made; the next thing is joints.", False)
            self.look()

    def teach(self) -> None:
        """What a name of theirs means here, kept in the job."""
        picked = [o.product if isinstance(o, Offer) else o.product.guid for o in  # type: ignore[attr-defined]
            (*self.offers.picked(), *self.left.picked())]  # fmt: skip
        model = self.session.others.model(self.reference)
        if not picked or model is None:
            say_on(self.said, "Pick a row first, in either list.", True)
            return
        product = model.products[model.by_guid[str(picked[0])]]
        theirs = product.section or (product.swept.profile.name if product.swept else "") or product.name
        if not theirs:
            say_on(self.said, "Its profile has no name that could be learnt.", True)
            return
        ours, ok = QInputDialog.getText(self, "A name means", f"“{theirs}” is our section:")
        if ok and ours.strip():
            self.session.attempt(lambda: self.learn(theirs, ours))

    def learn(self, theirs: str, ours: str) -> None:
        """Raises UnknownSection."""
        known = self.session.job.get("names learnt", NamesLearnt) or NamesLearnt()
        sections = {**known.sections, Names.plain(theirs): section(ours).name}
        self.session.change(f"“{theirs}” is {section(ours).name}", (msgspec.structs.replace(known, sections=sections),))
        self.look()
