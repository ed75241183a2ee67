"""The form of view frames: their names, sheets, scales, boxes, and how they show steel; of several at once, what is
typed goes to all."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QFormLayout

from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.form import add_row, struct_form
from uncus.app.session import Session
from uncus.job.errors import JobError
from uncus.job.forms import FLAGS
from uncus.job.records import Showing, ViewFrame
from uncus.units import format_typed, parse_length

_BOX = (("width", "Width"), ("height", "Height"), ("before", "Depth before"), ("behind", "Depth behind"))


def own_rows(form: QFormLayout, session: Session, frames: Sequence[ViewFrame]) -> None:
    """What frames are: name (of one alone), sheet, scale, whether they are drawn, box."""

    def put(words: str, make: Callable[[ViewFrame], ViewFrame]) -> bool:
        def work() -> None:
            with session.job.change(f"View frame {words}") as change:
                for id in (one.id for one in frames):
                    now = session.job.get(id, ViewFrame)
                    if now is not None:
                        change.put(make(now))

        return session.attempt(work)

    def shown(read: Callable[[ViewFrame], str]) -> str | None:
        values = {read(one) for one in frames}
        return values.pop() if len(values) == 1 else None

    if len(frames) == 1:
        add_row(form, "Name", TextField("View frame name", frames[0].name,
            lambda t: put("name", lambda f: replace(f, name=t))))  # fmt: skip
    add_row(form, "Sheet", TextField("View frame sheet", shown(lambda f: f.sheet),
        lambda t: put("sheet", lambda f: replace(f, sheet=t)), "one of its own"),
        "Views of the same sheet name stand together; empty: a sheet of its own")  # fmt: skip
    add_row(form, "Scale, one to", TextField("View frame scale", shown(lambda f: f"{f.scale:g}" if f.scale else ""),
        lambda t: put("scale", lambda f: replace(f, scale=_scale(t))), "as there is room"),
        "The number after 1:, such as 48; empty: as large as there is room")  # fmt: skip
    add_row(form, "Drawn", ChoiceField("View frame drawn", shown(lambda f: FLAGS[not f.drawn]), FLAGS,
        lambda t: put("drawn", lambda f: replace(f, drawn=t == FLAGS[0]))),
        "No: it is left out of the drawings, and no usual view comes in its place")  # fmt: skip
    for name, words in _BOX:

        def enter(text: str, name: str = name, words: str = words) -> bool:
            def make(frame: ViewFrame) -> ViewFrame:
                return replace(frame, **{name: parse_length(text, session.units)})

            return put(words.lower(), make)

        value = shown(lambda f, name=name: format_typed(getattr(f, name), session.units))  # type: ignore[misc]
        add_row(form, words, TextField(words, value, enter))


def _scale(text: str) -> float:
    words = text.strip().removeprefix("1:").strip()
    try:
        scale = float(words) if words else 0.0
    except ValueError:
        scale = math.nan
    if not math.isfinite(scale):
        raise JobError(f"“{text}” is no scale; type the number after 1:, such as 48.")
    return scale


def shown_rows(form: QFormLayout, session: Session, frames: Sequence[ViewFrame]) -> None:
    """How they show steel, and what they say of it."""

    def enter(name: str, read: Callable[[], Any]) -> bool:
        def work() -> None:
            value = read()
            with session.job.change("How views show steel") as change:
                for id in (one.id for one in frames):
                    now = session.job.get(id, ViewFrame)
                    if now is not None:
                        change.put(replace(now, shows=replace(now.shows, **{name: value})))

        return session.attempt(work)

    first = frames[0].shows
    mixed = {name for name in Showing.__struct_fields__
        if any(getattr(one.shows, name) != getattr(first, name) for one in frames)}  # fmt: skip
    struct_form(form, first, session.units, enter, "View ", mixed=mixed)
