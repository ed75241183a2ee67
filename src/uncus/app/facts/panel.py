"""The facts: what is known of the selection, edited in place; several things at once under one undo step."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFormLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from uncus.app.facts.fields import BY_RULE, ChoiceField, TextField, shared
from uncus.app.session import Session
from uncus.app.tools.draw_members import BeamTool, ColumnTool
from uncus.catalog.bolts import bolt_sizes
from uncus.catalog.grades import BOLT_GRADES, GRADES, usual_grade
from uncus.catalog.sections import section, sections
from uncus.connect.kinds import KINDS
from uncus.job.errors import JobError
from uncus.job.forms import About, checked, fields
from uncus.job.records import Connection, Line, Member, Role
from uncus.shop.whereabouts import whereabouts
from uncus.units import format_angle, format_typed, format_weight, parse_angle, parse_length


class Facts(QScrollArea):
    """Rebuilt whenever the selection or what is selected changes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("facts")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumWidth(230)
        self.setAccessibleName("Facts")
        self._kind_of_tool: type | None = None
        session.selection_changed.connect(self.rebuild)
        session.tool_changed.connect(self._tool_changed)
        session.stage_changed.connect(lambda _: self.rebuild())
        self.rebuild()

    def _tool_changed(self) -> None:
        if type(self.session.tool) is not self._kind_of_tool:
            self.rebuild()

    def rebuild(self) -> None:
        session = self.session
        self._kind_of_tool = type(session.tool)
        body = QWidget()
        body.setObjectName("facts")
        self._layout = QVBoxLayout(body)
        self._layout.setContentsMargins(16, 12, 14, 12)
        self._layout.setSpacing(4)
        self._form: QFormLayout | None = None
        if isinstance(session.tool, (BeamTool, ColumnTool)):
            self._template()
        elif session.connections:
            self._connections(session.connections)
        elif session.members:
            self._members(session.members)
        else:
            self._job()
        self._layout.addStretch(1)
        self.setWidget(body)

    # -- building rows ----------------------------------------------------------------------------
    def _title(self, words: str, quiet: str) -> None:
        title, under = QLabel(words), QLabel(quiet)
        title.setProperty("title", True)
        under.setProperty("quiet", True)
        for label in (title, under):
            label.setWordWrap(True)
            self._layout.addWidget(label)

    def _heading(self, words: str) -> None:
        label = QLabel(words.upper())
        label.setProperty("heading", True)
        label.setContentsMargins(0, 10, 0, 2)
        self._layout.addWidget(label)
        self._form = QFormLayout()
        self._form.setHorizontalSpacing(10)
        self._form.setVerticalSpacing(4)
        self._form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
        self._layout.addLayout(self._form)

    def _row(self, words: str, field: QWidget, help: str = "") -> None:
        assert self._form is not None
        label = QLabel(words)
        label.setProperty("quiet", True)
        label.setBuddy(field)
        label.setToolTip(help)
        if help:
            field.setToolTip(help)
        self._form.addRow(label, field)

    def _fact(self, words: str, value: str) -> None:
        label = QLabel(value)
        label.setAccessibleName(words)
        label.setWordWrap(True)
        label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._row(words, label)

    # -- members ----------------------------------------------------------------------------------
    def _members(self, members: list[Member]) -> None:
        session = self.session
        marks = session.marks
        roles = sorted({str(m.role) for m in members})
        if len(members) == 1:
            m = members[0]
            mark = marks.of_assembly(m.id)
            self._title(
                f"{str(m.role).capitalize()}{' ' + mark if mark else ''}",
                f"{whereabouts(session.grid, session.shop.assemblies[m.id])}"
                if m.id in session.shop.assemblies
                else "not in the catalogue",
            )
        else:
            self._title(f"{len(members)} members", ", ".join(roles))
        self._member_fields(members, lambda label, change: self._edit(label, members, change))
        self._results(members)
        self._ends(members)

    def _edit(self, label: str, members: Sequence[Member], change: Callable[[Member], Member]) -> bool:
        return self.session.attempt(lambda: self._put(label, [change(m) for m in members]))

    def _put(self, label: str, records: Sequence[Member]) -> None:
        with self.session.job.change(label) as c:
            for record in records:
                c.put(record)

    def _member_fields(
        self, members: Sequence[Member], edit: Callable[[str, Callable[[Member], Member]], bool]
    ) -> None:
        replace = msgspec.structs.replace
        self._heading("Section")
        self._row(
            "Section",
            TextField(
                "Section",
                shared([m.section for m in members]),
                lambda t: edit("Section", lambda m: replace(m, section=section(t).name)),
                offers=list(sections()),
            ),
            "Any usual spelling: w12x26, HSS6X6X1/4, IPE200",
        )
        usual = shared([_usual(m) for m in members]) or "usual"
        grades = [m.grade for m in members]
        self._row(
            "Grade",
            ChoiceField(
                "Grade",
                (shared(grades) or f"{usual} (usual)") if shared(grades) is not None else None,
                [f"{usual} (usual)", *GRADES],
                lambda t: edit("Grade", lambda m: replace(m, grade="" if "(usual)" in t else t)),
            ),
        )
        self._row(
            "Role",
            ChoiceField(
                "Role",
                shared([str(m.role) for m in members]),
                [str(r) for r in Role],
                lambda t: edit("Role", lambda m: replace(m, role=Role(t))),
            ),
        )
        self._row(
            "Lot",
            TextField(
                "Lot", shared([m.lot for m in members]), lambda t: edit("Lot", lambda m: replace(m, lot=t or "1"))
            ),
        )
        finishes = shared([m.finish for m in members])
        self._row(
            "Finish",
            TextField(
                "Finish",
                finishes,
                lambda t: edit("Finish", lambda m: replace(m, finish=t)),
                placeholder=self.session.job.project.finish,
            ),
        )
        self._heading("Position")
        self._row(
            "Work line at",
            ChoiceField(
                "Work line at",
                shared([str(m.line) for m in members]),
                [str(x) for x in Line],
                lambda t: edit("Work line", lambda m: replace(m, line=Line(t))),
            ),
            "Which line of the section lies on the work line",
        )
        self._length(
            "Above it", "rise", members, edit, "How far the section is raised above the work line; minus lowers it"
        )
        self._row(
            "Roll",
            TextField(
                "Roll",
                shared([format_angle(m.roll) for m in members]),
                lambda t: edit("Roll", lambda m: replace(m, roll=parse_angle(t) % 360)),
            ),
            "Degrees about the member's own line",
        )
        self._heading("Ends")
        self._length("Pull back left", "left_back", members, edit, "Takes from the left end; minus runs it on")
        self._length("Pull back right", "right_back", members, edit, "Takes from the right end; minus runs it on")
        self._length("Camber", "camber", members, edit, "Mill camber at the middle")

    def _length(
        self,
        words: str,
        name: str,
        members: Sequence[Member],
        edit: Callable[[str, Callable[[Member], Member]], bool],
        help: str,
    ) -> None:
        units = self.session.units
        values = [format_typed(getattr(m, name), units) for m in members]
        self._row(
            words,
            TextField(
                words,
                shared(values),
                lambda t: edit(words, lambda m: msgspec.structs.replace(m, **{name: parse_length(t, units)})),
            ),
            help,
        )

    def _results(self, members: Sequence[Member]) -> None:
        shop, units = self.session.shop, self.session.units
        found = [shop.assemblies[m.id] for m in members if m.id in shop.assemblies]
        if not found:
            return
        self._heading("Steel")
        if len(found) == 1:
            a = found[0]
            self._fact("Cut length", self.session.length(a.main.part.length))
            self._fact("Work points", self.session.length(a.member.work_length))
            self._fact("Parts", str(len(a.pieces)))
        self._fact("Gross", format_weight(sum(a.gross for a in found), units))
        self._fact("Net", format_weight(sum(a.net for a in found), units))

    def _ends(self, members: Sequence[Member]) -> None:
        """The connections of the members: pick one to edit it, or all of a kind."""
        found: dict[str, list[Connection]] = {}
        for m in members:
            for c in self.session.shop.connections_at(m.id):
                if c.member == m.id:
                    found.setdefault(c.kind, []).append(c)
        self._heading("Connections")
        if not found:
            self._fact("None", "stage Connect, R joins the ends")
        for kind, connections in found.items():
            if len(members) == 1:
                for c in connections:
                    self._choose(f"{str(c.end).capitalize()} end: {kind}", [c])
            else:
                self._choose(f"{len(connections)} {kind}s", connections)

    def _choose(self, words: str, connections: list[Connection]) -> None:
        wrong = any(
            self.session.shop.connections[c.id].findings for c in connections if c.id in self.session.shop.connections
        )
        button = QPushButton(("▲ " if wrong else "") + words)
        button.setAccessibleName(words)
        button.setToolTip("Edit its facts")
        button.clicked.connect(lambda: self.session.select({c.id for c in connections}))
        self._layout.addWidget(button)

    def _template(self) -> None:
        """What the next pick makes."""
        session = self.session
        column = isinstance(session.tool, ColumnTool)
        self._title("New column" if column else "New beam", "what the next pick makes")
        name = "column_template" if column else "beam_template"

        def edit(_label: str, change: Callable[[Member], Member]) -> bool:
            def work() -> None:
                setattr(session, name, change(getattr(session, name)))
                session.tool.template = getattr(session, name)  # type: ignore[attr-defined]
                session.tool_changed.emit()

            return session.attempt(work)

        self._member_fields([getattr(session, name)], edit)

    # -- connections ------------------------------------------------------------------------------
    def _connections(self, connections: list[Connection]) -> None:
        kinds = {c.kind for c in connections}
        words = KINDS[connections[0].kind].words if len(kinds) == 1 and connections[0].kind in KINDS else "connections"
        self._title(f"{len(connections)} {words.lower()}s" if len(connections) > 1 else words, self._place(connections))
        for c in connections:
            made = self.session.shop.connections.get(c.id)
            for f in made.findings if made else ():
                label = QLabel(f"▲ {f.text}")
                label.setWordWrap(True)
                label.setProperty("error", True)
                label.setAccessibleName("Finding")
                self._layout.addWidget(label)
            if len(connections) > 3:
                break
        if len(kinds) != 1 or connections[0].kind not in KINDS:
            self._fact_alone("Pick connections of one kind to edit them together.")
            return
        kind = KINDS[connections[0].kind]
        self._heading(kind.words)
        for name, about in fields(kind.params).items():
            self._param(name, about, connections)
        flip = QPushButton("Back to the member")
        flip.setAccessibleName("Back to the member")
        flip.clicked.connect(lambda: self.session.select({c.member for c in connections}))
        self._layout.addSpacing(8)
        self._layout.addWidget(flip)

    def _place(self, connections: list[Connection]) -> str:
        member = self.session.job.get(connections[0].member, Member)
        if len(connections) > 1 or member is None:
            return "each end's own values; empty means by the shop's rules"
        return f"{connections[0].end} end of {member.role} {member.section}; empty means by the shop's rules"

    def _fact_alone(self, words: str) -> None:
        label = QLabel(words)
        label.setWordWrap(True)
        label.setProperty("quiet", True)
        self._layout.addWidget(label)

    def _param(self, name: str, about: About, connections: list[Connection]) -> None:
        units = self.session.units
        defaults = KINDS[connections[0].kind].params()

        def shown(c: Connection) -> str:
            value = c.params.get(name, getattr(defaults, name))
            if value is None:
                return ""
            return format_typed(value, units) if about.unit == "length" else str(value)

        def enter(text: str) -> bool:
            return self.session.attempt(lambda: self._set(name, about, text, connections))

        values = [shown(c) for c in connections]
        if about.choices:
            optional = getattr(defaults, name) is None
            choices = ([BY_RULE] if optional else []) + list(about.choices)
            value = shared(values)
            field: QWidget = ChoiceField(about.words, BY_RULE if value == "" else value, choices, enter)
        else:
            field = TextField(about.words, shared(values), enter, placeholder=BY_RULE)
        self._row(about.words, field, about.help)

    def _set(self, name: str, about: About, text: str, connections: list[Connection]) -> None:
        value: object
        if text in ("", BY_RULE):
            value = None
        elif about.choices:
            value = text
        elif about.unit == "length":
            value = parse_length(text, self.session.units)
        else:
            try:
                value = int(text)
            except ValueError:
                raise JobError(f"{about.words} is a whole number; “{text}” is not.") from None
            if not math.isfinite(value):
                return
        records = []
        for c in connections:
            params = {k: v for k, v in c.params.items() if k != name}
            if value is not None:
                params[name] = value
            checked(KINDS[c.kind].params, params)
            records.append(msgspec.structs.replace(c, params=params))
        with self.session.job.change(f"{about.words} of {len(records)} connections") as change:
            for record in records:
                change.put(record)

    def _shop_rules(self) -> None:
        """The fabricator's preferences: every connection that says nothing else follows them at once."""
        session, rules = self.session, self.session.job.rules
        units = session.units

        def put(label: str, **values: object) -> bool:
            return session.change(f"Shop rule: {label}", (msgspec.structs.replace(session.job.rules, **values),))

        self._heading("Shop rules")
        bolts = [b.name for b in bolt_sizes().values()]
        self._row("Bolt", ChoiceField("Shop rule bolt", rules.bolt, bolts, lambda t: put("bolt", bolt=t)))
        grades = list(BOLT_GRADES)
        self._row(
            "Bolt grade",
            ChoiceField("Shop rule bolt grade", rules.bolt_grade, grades, lambda t: put("grade", bolt_grade=t)),
        )
        for name, words in _RULE_WORDS.items():

            def enter(text: str, name: str = name, words: str = words) -> bool:
                return session.attempt(lambda: self._put_rule(name, words, text))

            self._row(words, TextField(f"Shop rule {words.lower()}", format_typed(getattr(rules, name), units), enter))

    def _put_rule(self, name: str, words: str, text: str) -> None:
        value = parse_length(text, self.session.units)
        with self.session.job.change(f"Shop rule: {words.lower()}") as change:
            change.put(msgspec.structs.replace(self.session.job.rules, **{name: value}))

    # -- nothing selected -------------------------------------------------------------------------
    def _job(self) -> None:
        session = self.session
        project = session.job.project
        self._title(project.name, project.number or "no number yet")
        replace = msgspec.structs.replace

        def edit(label: str, **values: str) -> bool:
            return session.change(label, (replace(session.job.project, **values),))

        self._heading("Job")
        self._row("Name", TextField("Job name", project.name, lambda t: edit("Job name", name=t)))
        self._row("Number", TextField("Job number", project.number, lambda t: edit("Job number", number=t)))
        self._row("Finish", TextField("Job finish", project.finish, lambda t: edit("Finish", finish=t)))
        if session.stage == "Connect":
            self._shop_rules()
        self._heading("Steel")
        assemblies = session.shop.assemblies.values()
        self._fact("Members", str(len(session.shop.assemblies)))
        self._fact("Connections", str(len(session.shop.connections)))
        self._fact("Gross", format_weight(sum(a.gross for a in assemblies), session.units))
        findings = len(session.shop.all_findings)
        self._fact("Findings", f"▲ {findings}, see Check" if findings else "none")


_RULE_WORDS = {
    "tab_thickness": "Tab thickness",
    "tab_weld": "Least weld leg",
    "pitch": "Pitch",
    "edge": "Edge distance",
    "gap": "Gap at beam ends",
    "cope_radius": "Cope radius",
    "base_thickness": "Base plate",
}


def _usual(member: Member) -> str:
    try:
        return usual_grade(section(member.section))
    except LookupError:
        return "usual"
