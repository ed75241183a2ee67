"""What a command is: one row of the table that shelf, palette, keys, menus and tests read."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from uncus.app.desk import Desk
from uncus.app.session import Session


class Command(msgspec.Struct, frozen=True):
    """`stage` "" means everywhere, `stays` that it works from any and leaves it open; `group` is its heading on the
    shelf ("" keeps it off the shelf)."""

    id: str
    words: str
    key: str
    stage: str
    group: str
    icon: str
    help: str
    do: Callable[[Desk], object]
    when: Callable[[Session], bool] = lambda _: True
    stays: bool = False


def some_steel(session: Session) -> bool:
    return bool(session.shop.assemblies)


def some_selected(session: Session) -> bool:
    return bool(session.selection)


def some_members(session: Session) -> bool:
    return bool(session.members)


def by(do: Callable[[Session], object]) -> Callable[[Desk], object]:
    """A command that needs nothing but the session."""
    return lambda desk: do(desk.session)


def go(stage: str) -> Callable[[Desk], object]:
    return lambda desk: desk.session.go(stage)
