"""A form made from a struct of values: a row a field, in the job's units."""

from __future__ import annotations

from collections.abc import Callable, Container, Sequence
from functools import partial
from typing import Any

from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QFormLayout, QLabel, QWidget

from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.theme import lettering
from uncus.catalog.sections import sections
from uncus.job.forms import FLAGS, fields, shown_value, typed_value
from uncus.units import Units

_WORDS, _BESIDE = 100, 96  # px: a row's words, and the text of a choice that has room beside them


def new_form() -> QFormLayout:
    form = QFormLayout()
    form.setHorizontalSpacing(10)
    form.setVerticalSpacing(4)
    form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.AllNonFixedFieldsGrow)
    return form


def add_row(form: QFormLayout, words: str, field: QWidget, help: str = "") -> None:
    label = QLabel(words)
    label.setProperty("quiet", True)
    label.setBuddy(field)
    label.setToolTip(help)
    label.setWordWrap(True)
    if help:
        field.setToolTip(help)
    if isinstance(field, ChoiceField) and field.longest > _BESIDE * lettering():
        form.addRow(label)  # under its words there is room for more
        form.addRow(field)
        return
    label.setFixedWidth(round(_WORDS * lettering()))  # alike on every page, so that fields stand in one line
    form.addRow(label, field)


def struct_form(
    form: QFormLayout,
    values: Any,
    units: Units,
    enter: Callable[[str, Any], bool],
    prefix: str = "",
    at_hand: Callable[..., None] | None = None,
    pictures: Callable[[str, QWidget], dict[str, QIcon]] | None = None,
    mixed: Container[str] = (),
    items: Sequence[str] = (),
) -> None:
    """Rows for each described field of a struct that counts for something now. `enter` takes a field's name and new
    value and says whether it was taken; what cannot be read raises inside it. `at_hand` is told when the keys come to a
    length (True) or go, with its name and words; `pictures` gives those of a field's choices; `mixed` are the fields
    that several things whose form it is do not share, `items` the codes of bought items to choose from."""
    for name, about in fields(type(values)).items():
        if not about.counts(values):
            continue
        value = getattr(values, name)

        def take(text: str, name: str = name, about=about) -> bool:  # type: ignore[no-untyped-def]
            if not text.strip() and getattr(type(values)(), name) is None:
                return enter(name, lambda: None)  # left to the rule
            return enter(name, lambda: typed_value(about, text, units))

        accessible = f"{prefix}{about.words}"
        shown = None if name in mixed else shown_value(about, value, units)
        choices = FLAGS if about.unit == "flag" else tuple(items) if about.unit == "item" else about.choices
        if choices:
            field: QWidget = (choice := ChoiceField(accessible, shown, choices, take))
            if pictures is not None:
                choice.pictures = partial(pictures, name, choice)
        else:
            offers = list(sections()) if about.unit == "section" else ()
            field = TextField(accessible, shown, take, offers=offers)
            if at_hand is not None and about.unit == "length":
                field.focused.connect(partial(at_hand, name=name, words=about.words))
        add_row(form, about.words, field, about.help)
