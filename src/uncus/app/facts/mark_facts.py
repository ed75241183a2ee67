"""Facts of marking: the rules and series of the job, and the marks of the selected pieces."""

from __future__ import annotations

from collections.abc import Sequence

from uncus.app import marking
from uncus.app.facts.fields import ChoiceField, TextField, shared
from uncus.app.facts.form import struct_form
from uncus.app.facts.page import Page
from uncus.app.mark_commands import EXPORT_PARTS, IMPORT_PARTS, KEEP_ORDERED, SERIES
from uncus.job.records import Mark, Member, Series, StandardPart
from uncus.mark.content import mark_id
from uncus.mark.kept import since_ordered
from uncus.units import counted


def show_rules(page: Page) -> None:
    """What makes two pieces the same, how readily marks change, and the series."""
    session = page.session
    page.heading("Marks")
    struct_form(page.form, session.job.mark_rules, session.units, lambda name,
        read: marking.set_rule(session, name, read), "Marks: ")  # fmt: skip
    page.heading("Series")
    for one in sorted(session.job.all(Series), key=lambda s: s.order):
        what = ", ".join(one.roles) or "everything"
        ends = f" to {one.last}" if one.last is not None else ""
        page.fact(f"{one.prefix}{one.start:0{one.pad}d}{ends}", f"{'parts: ' if one.parts else ''}{what}")
    page.command(SERIES, "Edit series")
    page.heading("Standard parts")
    parts = session.job.all(StandardPart)
    page.words(f"{counted(len(parts), 'standard part')}: they have the same mark in every job." if parts
        else "None: pick pieces and make their parts standard, or take in an office's file.")  # fmt: skip
    page.command(EXPORT_PARTS)
    page.command(IMPORT_PARTS)


def show_marks(page: Page, members: Sequence[Member]) -> None:
    """The marks of selected pieces: typed, by the rules, with none, or none at all; as ordered."""
    session = page.session
    ids = list(dict.fromkeys(session.shop.ships_as(m.id) for m in members))
    found = [session.job.get(mark_id(id, False), Mark) for id in ids]
    page.heading("Mark")
    marks = shared([m.mark if m else "" for m in found])
    field = TextField("Mark", marks, lambda t: marking.type_mark(session, ids, t), placeholder="not marked")
    page.row("Mark", field, "Type one to keep it whatever the rules say; empty gives it back to the rules.")
    how = shared([(m.how if m and m.how != "typed" else "") or marking.BY_RULE for m in found])
    choices = ChoiceField("Marked", how, marking.HOW, lambda t: marking.set_how(session, ids, t))
    page.row("Marked", choices, "Unique: shares its mark with none. Left out: has none.")
    if any(m and m.how == "typed" for m in found):
        page.words("Typed by hand: a run keeps it.")
    said = [since_ordered(session.job, session.shop, id, False, session.marks.of_assembly(id)) for id in ids[:1]]
    if said and said[0]:
        page.fact("Ordered as", said[0])
    page.command(KEEP_ORDERED)
    page.button("Make parts standard", "Their parts keep their marks in every job",
        lambda: marking.make_standard(session))  # fmt: skip
