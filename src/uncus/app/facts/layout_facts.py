"""Facts of what lays work out: view frames and guides."""

from __future__ import annotations

import msgspec

from uncus.app.facts.fields import TextField
from uncus.app.facts.page import Page
from uncus.job.records import Guide, ViewFrame
from uncus.units import format_typed, parse_length


def show_frame(page: Page, frame: ViewFrame) -> None:
    session = page.session
    page.title(frame.name, "view frame: drag its grips to stretch it")

    def put(name: str, value: object) -> bool:
        return session.change(f"View frame {name}", (msgspec.structs.replace(frame, **{name: value}),))

    page.heading("View frame")
    page.row("Name", TextField("View frame name", frame.name, lambda t: put("name", t)))
    for name, words in (
        ("width", "Width"),
        ("height", "Height"),
        ("before", "Depth before"),
        ("behind", "Depth behind"),
    ):

        def enter(text: str, name: str = name) -> bool:
            return session.attempt(lambda: _length(page, frame, name, text))

        page.row(words, TextField(words, format_typed(getattr(frame, name), session.units), enter))
    page.button("Look through it", "Turn the view square to it, with its depth", lambda: session.looked_at.emit(frame))


def _length(page: Page, frame: ViewFrame, name: str, text: str) -> None:
    value = parse_length(text, page.session.units)
    with page.session.job.change(f"View frame {name}") as change:
        change.put(msgspec.structs.replace(frame, **{name: value}))


def show_guides(page: Page, guides: list[Guide]) -> None:
    page.title(
        f"{len(guides)} guides" if len(guides) > 1 else "Guide", "for picking only, on no drawing; Del takes it away"
    )
    if len(guides) == 1:
        page.heading("Guide")
        for words, p in (("From", guides[0].a), ("To" if not guides[0].endless else "Through", guides[0].b)):
            page.fact(words, "  ".join(page.session.length(c) for c in p))
