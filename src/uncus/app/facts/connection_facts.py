"""Facts of connections: the form of their kind's own struct, for one or many."""

from __future__ import annotations

import msgspec
from PySide6.QtWidgets import QWidget

from uncus.app.facts.fields import BY_RULE, ChoiceField, TextField, shared
from uncus.app.facts.page import Page
from uncus.connect.kinds import KINDS
from uncus.job.forms import About, checked, fields, shown_value, typed_value
from uncus.job.records import Connection, Member


def show_connections(page: Page, connections: list[Connection]) -> None:
    kinds = {c.kind for c in connections}
    words = KINDS[connections[0].kind].words if len(kinds) == 1 and connections[0].kind in KINDS else "connections"
    page.title(f"{len(connections)} {words.lower()}s" if len(connections) > 1 else words, _place(page, connections))
    for c in connections:
        made = page.session.shop.connections.get(c.id)
        for f in made.findings if made else ():
            page.finding(f.text)
        if len(connections) > 3:
            break
    if len(kinds) != 1 or connections[0].kind not in KINDS:
        page.words("Pick connections of one kind to edit them together.")
        return
    kind = KINDS[connections[0].kind]
    page.heading(kind.words)
    for name, about in fields(kind.params).items():
        _param(page, name, about, connections)
    members = {c.member for c in connections}
    page.button("Back to the member", "Select the members these belong to", lambda: page.session.select(members))


def _place(page: Page, connections: list[Connection]) -> str:
    member = page.session.job.get(connections[0].member, Member)
    if len(connections) > 1 or member is None:
        return "each end's own values; empty means by the shop's rules"
    return f"{connections[0].end} end of {member.role} {member.section}; empty means by the shop's rules"


def _param(page: Page, name: str, about: About, connections: list[Connection]) -> None:
    units = page.session.units
    defaults = KINDS[connections[0].kind].params()

    def shown(c: Connection) -> str:
        value = c.params.get(name, getattr(defaults, name))
        return shown_value(about, value, units)

    def enter(text: str) -> bool:
        return page.session.attempt(lambda: _set(page, name, about, text, connections))

    values = [shown(c) for c in connections]
    if about.choices:
        optional = getattr(defaults, name) is None
        choices = ([BY_RULE] if optional else []) + list(about.choices)
        value = shared(values)
        field: QWidget = ChoiceField(about.words, BY_RULE if value == "" else value, choices, enter)
    else:
        field = TextField(about.words, shared(values), enter, placeholder=BY_RULE)
    page.row(about.words, field, about.help)


def _set(page: Page, name: str, about: About, text: str, connections: list[Connection]) -> None:
    value = None if text in ("", BY_RULE) else typed_value(about, text, page.session.units)
    records = []
    for c in connections:
        params = {k: v for k, v in c.params.items() if k != name}
        if value is not None:
            params[name] = value
        checked(KINDS[c.kind].params, params)
        records.append(msgspec.structs.replace(c, params=params))
    with page.session.job.change(f"{about.words} of {len(records)} connections") as change:
        for record in records:
            change.put(record)
