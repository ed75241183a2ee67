"""Facts of the tool at hand: what the next pick makes, and the tool's options."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from uncus.app import framing
from uncus.app.facts.form import struct_form
from uncus.app.facts.member_facts import member_fields
from uncus.app.facts.page import Page
from uncus.app.tools.draw_members import TemplateTool
from uncus.job.records import Member


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

    struct_form(page.form, tool.options, session.units, enter)
