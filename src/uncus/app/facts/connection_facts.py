"""Facts of joints and attachments: the form of their kind's own struct, for one or many; loads, strength, presets."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QInputDialog

from uncus.app import joining
from uncus.app.connect_commands import CALCULATE
from uncus.app.facts.fields import ChoiceField, TextField, shared
from uncus.app.facts.page import Page
from uncus.app.facts.value_row import value_row
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kinds import KINDS
from uncus.connect.settings import Joined, params_of, suiting
from uncus.connect.strength.design import State, says
from uncus.connect.strength.limit import shown
from uncus.job.errors import JobError
from uncus.job.forms import About, checked, fields, shown_value, typed_value
from uncus.job.records import Attachment, Connection, Loads, Member, Preset
from uncus.units import counted


def show_connections(page: Page, connections: list[Connection]) -> None:
    """The page of one joint or many."""
    kinds = {c.kind for c in connections}
    alike = len(kinds) == 1 and connections[0].kind in KINDS
    words = KINDS[connections[0].kind].words if alike else "Joints"
    page.title(f"{len(connections)} {words.lower()}s" if len(connections) > 1 else words, _place(page, connections))
    _findings(page, connections)
    page.heading("Joint")
    choices = suiting(connections)
    kind = ChoiceField("Kind of joint", shared([c.kind for c in connections]), choices,
        lambda t: joining.set_kind(page.session, connections, t))  # fmt: skip
    page.row("Kind", kind, "Another kind keeps the values that carry over.")
    if alike:
        _presets(page, connections)
    _loads(page, connections)
    if len(connections) == 1:
        _strength(page, connections[0])
    if alike:
        page.heading(words)
        for name, about in fields(KINDS[connections[0].kind].params).items():
            _param(page, name, about, connections)
    _buttons(page, connections)
    page.command(CALCULATE)
    if all("side" in fields(params_of(c.kind)) for c in connections if c.kind in KINDS):
        page.button(
            "Other side", "Its plate to the other side of the web (Shift+S)", lambda: joining.flip_side(page.session)
        )
    members = {c.member for c in connections}
    page.button("Back to the member", "Select the members these belong to", lambda: page.session.select(members))


def show_attachments(page: Page, attachments: list[Attachment]) -> None:
    """The page of one attachment or many of a kind."""
    kinds = {a.kind for a in attachments}
    found = ATTACHMENTS.get(attachments[0].kind) if len(kinds) == 1 else None
    member = page.session.job.get(attachments[0].member, Member)
    on = f"on {member.role} {member.section}" if member and len(
        attachments) == 1 else f"on {counted(len({a.member for a in attachments}), 'member')}"  # fmt: skip
    mate = page.session.job.get(attachments[0].mate or "", Member)
    if member and mate and len(attachments) == 1:
        on = f"between {member.role} {member.section} and {mate.role} {mate.section}"
    page.title(found.words if found else "Attachments", on)
    _findings(page, attachments)
    if found is None:
        page.words("Pick attachments of one kind to edit them together.")
    else:
        page.heading("Attachment")
        _presets(page, attachments)
        page.heading(found.words)
        for name, about in fields(found.params).items():
            _param(page, name, about, attachments)
        read = [found.reading(checked(found.params, a.params), page.session.units) for a in attachments[:1]]
        if read and read[0]:
            page.words(f"Read as: {read[0]}")
    _buttons(page, attachments)
    members = {id for a in attachments for id in a.members}
    page.button("Back to the member", "Select the members these are on", lambda: page.session.select(members))


def _place(page: Page, connections: list[Connection]) -> str:
    member = page.session.job.get(connections[0].member, Member)
    if len(connections) > 1 or member is None:
        return "each end's own values; empty means by the shop's rules"
    return f"{connections[0].end} end of {member.role} {member.section}; empty means by the shop's rules"


def _findings(page: Page, records: Sequence[Joined]) -> None:
    for record in records[:4]:
        for f in page.session.shop.said(record.id):
            page.finding(f.text)


def _param(page: Page, name: str, about: About, records: Sequence[Joined]) -> None:
    value_row(page, name, about, records, lambda n, v: joining.set_value(page.session, records, n, v))


def _presets(page: Page, records: Sequence[Joined]) -> None:
    session = page.session
    names = [p.name for p in session.job.all(Preset) if p.kind == records[0].kind]
    choose = "choose" if names else "none yet"
    field = ChoiceField(
        "Preset", choose, [choose, *names, "keep as new"], lambda t: _preset(page, records, t), does=True
    )
    page.row("Preset", field, "Named values of this kind; “keep as new” names those shown here.")


def _preset(page: Page, records: Sequence[Joined], text: str) -> bool:
    if text == "keep as new":
        name, taken = QInputDialog.getText(page, "Keep as a preset", "Name")
        return bool(taken and name.strip()) and joining.keep_preset(page.session, records[0], name)
    if text in ("choose", "none yet"):
        return False
    return joining.use_preset(page.session, records, text)


def _loads(page: Page, connections: list[Connection]) -> None:
    session = page.session
    page.heading("Loads")
    found = [session.shop.design(c.id) if len(connections) == 1 else None for c in connections]
    for name, about in fields(Loads).items():
        values = [getattr(c.loads, name) if c.loads else None for c in connections]
        texts = [shown_value(about, v, session.units) for v in values]

        def enter(text: str, name: str = name, about: About = about) -> bool:
            try:
                value = typed_value(about, text, session.units) if text else None
            except (JobError, ValueError) as error:
                session.said.emit(str(error), True)
                return False
            return joining.set_load(session, connections, name, value)

        by_rule = found[0] is not None and getattr(found[0].loads, name) is not None
        placeholder = (
            shown_value(about, getattr(found[0].loads, name), session.units) if by_rule and found[0] else "none"
        )
        page.row(about.words, TextField(about.words, shared(texts), enter, placeholder=placeholder), about.help)


_SIGNS = {State.PASSES: "✓", State.FAILS: "✕", State.NOT_CHECKED: "▲", State.NO_LOAD: "○"}


def _strength(page: Page, connection: Connection) -> None:
    found = page.session.shop.design(connection.id)
    if found is None:
        return
    page.heading("Strength")
    page.fact("State", f"{_SIGNS[found.state]} {found.state}")
    for words in found.unchecked if found.state is not State.NO_LOAD else ():
        page.words(f"Not checked: {words}.")
    if not found.limits:
        return
    if found.used <= 0:
        page.words(f"{found.code.name}: no load is known. Give one above, or a rule for loads under shop rules.")
        least = min((x for x in found.limits if x.kind == "force"), key=lambda x: x.capacity, default=None)
        if least is not None:
            page.fact(
                "Least strength",
                f"{shown(least.capacity, least.kind, found.code.units)}, {least.words.lower()}: {least.where}",
            )
        return
    for limit in found.limits[:3]:
        page.fact(f"{limit.used:.0%}", f"{limit.words}, {limit.where}: {says(limit.used)}")


def _buttons(page: Page, records: Sequence[Joined]) -> None:
    session = page.session
    page.column.addSpacing(6)
    if len(records) == 1:
        page.button("Keep these values", "Copy the values of this joint, to give them to others (Shift+C)",
            lambda: joining.copy_settings(session))  # fmt: skip
    if session.copied is not None:
        page.button("Give the kept values", f"Those of a {joining.words_of(session.copied).lower()} (Shift+V)",
            lambda: joining.give_settings(session))  # fmt: skip
    locked = all(r.locked for r in records)
    page.button("Unlock" if locked else "Lock", "A locked joint is left alone by rules, presets and given values",
        lambda: joining.lock(session, records))  # fmt: skip
