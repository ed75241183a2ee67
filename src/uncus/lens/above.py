"""What lenses ask of rooms that stand above them: handed down by whoever may know it."""

from __future__ import annotations

from collections.abc import Callable

import msgspec


class Above(msgspec.Struct, frozen=True):
    """Pieces whose sheets went out, whose sheets are on the worklist, and of which something is found."""

    sent: frozenset[str] = frozenset()
    listed: frozenset[str] = frozenset()
    found: frozenset[str] = frozenset()


Handed = Callable[[], Above]  # read only where a lens asks for it
