"""A field for one value of a struct, for one record or many."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtWidgets import QWidget

from uncus.app.facts.fields import BY_RULE, ChoiceField, TextField, shared
from uncus.app.facts.page import Page
from uncus.app.theme import theme_of
from uncus.catalog.sections import sections
from uncus.connect.settings import Joined, params_of
from uncus.job.forms import About, shown_value, typed_value
from uncus.job.records import OfficeRule
from uncus.reference.items import codes


class _Said(Exception):
    """What was typed was refused, and the reason said."""


def value_row(
    page: Page, name: str, about: About, records: Sequence[Joined | OfficeRule], give: Callable[[str, Any], bool]
) -> None:
    """A row for one value of a kind, shared by several records or mixed; `give` takes its name and new value (None: by
    rule) and says whether it was taken."""
    units = page.session.units
    usual = params_of(records[0].kind)()

    def enter(text: str) -> bool:
        def work() -> None:
            value = None if text in ("", BY_RULE) else typed_value(about, text, units)
            if not give(name, value):
                raise _Said

        try:
            return page.session.attempt(work)
        except _Said:
            return False

    values = [shown_value(about, r.params.get(name, getattr(usual, name)), units) for r in records]
    known = codes(page.session.job) if about.unit == "item" else about.choices
    if known:
        optional = getattr(usual, name) is None
        choices = ([BY_RULE] if optional else []) + list(known)
        value = shared(values)
        field: QWidget = ChoiceField(about.words, BY_RULE if value == "" else value, choices, enter)
    else:
        offers = list(sections()) if about.unit == "section" else ()
        placeholder = BY_RULE if getattr(usual, name) is None else ""
        field = TextField(about.words, shared(values), enter, placeholder=placeholder, offers=offers)
    if isinstance(field, ChoiceField) and not isinstance(records[0], OfficeRule):
        first = records[0]
        field.pictures = lambda: page.session.pointing.pictures(first, name, theme_of(field))
    if isinstance(field, TextField) and about.unit == "length":
        shown = [r for r in records if not isinstance(r, OfficeRule)]
        point = page.session.pointing
        field.focused.connect(
            lambda here: point.ask(shown[0].id, name, about.words) if here and shown else point.leave()
        )
    page.row(about.words, field, about.help)
