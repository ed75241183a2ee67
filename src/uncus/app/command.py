"""What a command is: one row of the table that shelf, palette, keys, menus and tests read."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from uncus.app.session import Session


class Command(msgspec.Struct, frozen=True):
    """`stage` "" means everywhere; `group` is its heading on the shelf ("" keeps it off the shelf)."""

    id: str
    words: str
    key: str
    stage: str
    group: str
    icon: str
    help: str
    do: Callable[[Session], object]
    when: Callable[[Session], bool] = lambda _: True


def some_steel(session: Session) -> bool:
    return bool(session.shop.assemblies)


def some_selected(session: Session) -> bool:
    return bool(session.selection)


def some_members(session: Session) -> bool:
    return bool(session.members)


def ask(what: str) -> Callable[[Session], None]:
    """A command that the window carries out."""
    return lambda session: session.asked.emit(what)


def go(stage: str) -> Callable[[Session], None]:
    return lambda session: session.go(stage)
