"""Facts of what lays work out: view frames and guides."""

from __future__ import annotations

from uncus.app.facts.page import Page
from uncus.app.facts.view_form import own_rows, shown_rows
from uncus.job.records import Guide, ViewFrame


def show_frame(page: Page, frame: ViewFrame) -> None:
    session = page.session
    page.title(frame.name, "view frame: drag its grips to stretch it")
    page.heading("View frame")
    own_rows(page.form, session, [frame])
    page.button("Look through it", "Turn the view square to it, with its depth", lambda: session.looked_at.emit(frame))
    page.heading("How it shows steel")
    shown_rows(page.form, session, [frame])


def show_guides(page: Page, guides: list[Guide]) -> None:
    page.title(
        f"{len(guides)} guides" if len(guides) > 1 else "Guide", "for picking only, on no drawing; Del takes it away"
    )
    if len(guides) == 1:
        page.heading("Guide")
        for words, p in (("From", guides[0].a), ("To" if not guides[0].endless else "Through", guides[0].b)):
            page.fact(words, "  ".join(page.session.length(c) for c in p))
