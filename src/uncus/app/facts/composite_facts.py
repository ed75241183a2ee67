"""Facts of things of many parts: the form of their kind, what their values come to, what breaks the rule."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from uncus.app import composing
from uncus.app.facts.choice_pictures import drawn_icons
from uncus.app.facts.fields import TextField
from uncus.app.facts.form import struct_form
from uncus.app.facts.page import Page
from uncus.app.theme import theme_of
from uncus.compose.making import given_to, kind_of
from uncus.job.composites import Composite
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.units import counted


def show_composite(page: Page, record: Composite) -> None:
    """The page of one thing of many parts."""
    session = page.session
    try:
        kind = kind_of(record)
        params = checked(kind.params, record.params)
    except JobError as error:
        page.title(record.kind.capitalize(), "kept as it is")
        page.finding(str(error))
        return
    pieces = composing.members_of(session, record)
    page.title(f"{kind.words} {record.name}".strip(), f"{counted(len(pieces), 'member')}; they follow what it hangs on")
    _says(page, record)
    page.heading("Name")
    page.row("Name", TextField("Name", record.name,
        lambda t: session.change("Name", [msgspec.structs.replace(record, name=t.strip())])))  # fmt: skip
    page.heading(kind.words)

    def enter(name: str, read: Callable[[], Any]) -> bool:
        return session.attempt(lambda: composing.set_value(session, record, name, read()))

    struct_form(page.form, params, session.units, enter,
        pictures=lambda name, field: drawn_icons(record.kind, name, theme_of(field)))  # fmt: skip
    page.heading("Parts")
    changed = len(record.hand)
    if changed:
        page.words(f"{counted(changed, 'part')} changed or taken out by hand; they stay so when it is made anew.")
        page.button("Give them back", "All its parts as its values make them",
            lambda: composing.without_hand(session, record))  # fmt: skip
    page.button("Select its members", "To give them a lot, a finish or marks; or to move it as one",
        lambda: session.select({m.id for m in pieces}))  # fmt: skip
    page.button("Make it plain pieces", "Its parts stay as they are and follow nothing any more",
        lambda: composing.parted(session, record))  # fmt: skip
    page.button("Delete it", "With all its parts", lambda: session.change(f"Delete {record.words}", drop=[record.id]))


def _says(page: Page, record: Composite) -> None:
    try:
        given = given_to(record, page.session.job.records)
        kind = kind_of(record)
        words, told = kind.reading(given), list(kind.told(given))
    except (JobError, ValueError) as error:
        page.finding(str(error))
        return
    if words:
        page.words(words)
    for said in told:
        (page.finding if said.wrong else page.words)(said.text)


def part_of(page: Page, makers: set[str]) -> None:
    """On the page of members: what they are part of, to go there."""
    session = page.session
    for id in sorted(makers):
        record = session.job.get(id, Composite)
        if record is not None:
            page.button(f"Part of the {record.words}", "Its values, and what breaks its rule",
                lambda record=record: composing.select_whole(session, record))  # type: ignore[misc]  # fmt: skip
