"""Facts of the tool at hand: what the next pick makes, and the tool's options."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QWidget

from uncus.app import framing
from uncus.app.facts.choice_pictures import drawn_icons
from uncus.app.facts.form import struct_form
from uncus.app.facts.member_facts import member_fields
from uncus.app.facts.page import Page
from uncus.app.measuring import clear_measures, keep_measures, remove_measure
from uncus.app.pointing import TOOL
from uncus.app.theme import theme_of
from uncus.app.tools.draw_members import TemplateTool
from uncus.app.tools.draw_parts import CompositeTool
from uncus.job.records import Member
from uncus.reference.items import codes


def show_template(page: Page, tool: TemplateTool) -> None:
    """What the next pick makes."""
    session = page.session
    page.title(f"New {tool.template.role}", "what the next pick makes")

    def edit(_label: str, change: Callable[[Member], Member]) -> bool:
        def work() -> None:
            before, after = tool.template, change(tool.template)
            if after.role is not before.role:
                after = framing.role_changed(session, before, after.role)
            tool.template = session.templates[str(after.role)] = after
            session.again()

        return session.attempt(work)

    member_fields(page, [tool.template], edit)


def show_options(page: Page, tool) -> None:  # type: ignore[no-untyped-def]
    """The tool's options; they are its own next time."""
    session = page.session
    page.title(tool.words, "its options stay as you set them")
    page.heading("Options")

    def enter(name: str, read: Callable[[], Any]) -> bool:
        return session.attempt(lambda: session.set_option(name, read()))

    def at_hand(here: bool, name: str, words: str) -> None:
        session.pointing.ask(TOOL, name, words) if here else session.pointing.leave()

    def pictures(name: str, field: QWidget) -> dict[str, QIcon]:
        if isinstance(tool, CompositeTool):
            return drawn_icons(tool.kind.name, name, theme_of(field))
        return session.pointing.pictures(None, name, theme_of(field))

    struct_form(
        page.form, tool.options, session.units, enter, at_hand=at_hand, pictures=pictures, items=codes(session.job)
    )


def show_measures(page: Page) -> None:
    """What was measured: each can be taken away, all can be kept with the job or cleared."""
    session = page.session
    page.heading(f"Measured ({len(session.measures)})")
    if not session.measures:
        page.words("Nothing yet: pick two points. Measures stay here and in the view until they are cleared.")
        return
    for n, measure in enumerate(session.measures, 1):
        kept = ", kept" if measure.id in session.job.records else ""
        words = f"{n}  {measure.kind}{kept}: {measure.words}"
        page.button(words, "Take this measure away", partial(remove_measure, session, measure), f"Measure {n}")
    page.column.addSpacing(6)
    page.button("Keep with the job", "They come back when the job is opened again", partial(keep_measures, session))
    page.button("Clear all", "Take all measures out of the view and the job (Shift+M)",
        partial(clear_measures, session))  # fmt: skip
