"""The facts: what is known of the selection or the tool at hand, edited in place."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QScrollArea, QWidget

from uncus.app.facts.composite_facts import show_composite
from uncus.app.facts.connection_facts import show_attachments, show_connections
from uncus.app.facts.job_facts import show_job
from uncus.app.facts.layout_facts import show_frame, show_guides
from uncus.app.facts.member_facts import show_members
from uncus.app.facts.page import Page
from uncus.app.facts.site_facts import show_area, show_crane
from uncus.app.facts.tool_facts import show_measures, show_options, show_template
from uncus.app.session import Session
from uncus.app.theme import lettering
from uncus.app.tools.draw_members import TemplateTool
from uncus.app.tools.measure import MeasureTool
from uncus.app.tools.tool import Tool
from uncus.job.records import Composite, Crane, Guide, LayDown, ViewFrame

_NARROWEST = 272  # px: what the widest page needs (a test holds each against it); the panel never moves by itself


class Facts(QScrollArea):
    """Rebuilt whenever the selection or what is selected changes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("facts")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumWidth(_NARROWEST)
        self.setAccessibleName("Facts")
        self._shown: object = None
        session.selection_changed.connect(self.rebuild)
        session.tool_changed.connect(self._tool_changed)
        session.stage_changed.connect(lambda _: self.rebuild())
        session.filling.done.connect(self._filled)
        self.rebuild()

    def _tool_changed(self) -> None:
        tool = self.session.tool
        if self._state(tool) != self._shown:
            self.rebuild()

    def _filled(self) -> None:
        """All steel is made: what the job's own page says of it, unless a hand is at its fields."""
        if not self.session.selection and self.focusWidget() is None:
            self.rebuild()

    def _state(self, tool: Tool) -> object:
        """What the page of a tool is made of."""
        return tool, tool.options, getattr(tool, "template", None), tuple(m.id for m in self.session.measures)

    def rebuild(self) -> None:
        session, tool = self.session, self.session.tool
        self._shown = self._state(tool)
        page = Page(session)
        records = [session.job.records.get(id) for id in sorted(session.selection)]
        frames = [r for r in records if isinstance(r, ViewFrame)]
        composites = [r for r in records if isinstance(r, Composite)]
        cranes = [r for r in records if isinstance(r, Crane)]
        areas = [r for r in records if isinstance(r, LayDown)]
        guides = [r for r in records if isinstance(r, Guide)]
        if isinstance(tool, TemplateTool):
            show_template(page, tool)
        elif tool.options is not None:
            show_options(page, tool)
            if isinstance(tool, MeasureTool):
                show_measures(page)
        elif composites:
            show_composite(page, composites[0])
        elif session.connections:
            show_connections(page, session.connections)
        elif session.attachments:
            show_attachments(page, session.attachments)
        elif session.members:
            show_members(page, session.members)
        elif frames:
            show_frame(page, frames[0])
        elif cranes:
            show_crane(page, cranes[0])
        elif areas:
            show_area(page, areas[0])
        elif guides:
            show_guides(page, guides)
        else:
            show_job(page)
        page.column.addStretch(1)
        where = self.verticalScrollBar().value()
        at_hand = self._field_at_hand()
        old = self.takeWidget()
        if old is not None:  # a field of it may be at work still: it must not go before it is done
            old.hide()
            old.deleteLater()
        self.setWidget(page)
        self.setMinimumWidth(round(_NARROWEST * lettering()))
        self.verticalScrollBar().setValue(where)
        again = next((w for w in page.findChildren(QWidget) if at_hand and w.accessibleName() == at_hand), None)
        if again is not None:
            again.setFocus()

    def _field_at_hand(self) -> str:
        """The name of the field that has the keys: it has them again on the page that comes in place of this one."""
        there = QApplication.focusWidget()
        old = self.widget()
        inside = there is not None and old is not None and old.isAncestorOf(there)
        return there.accessibleName() if inside and isinstance(there, QLineEdit | QComboBox) else ""
