"""What lenses ask of rooms that stand above them: handed down by whoever may know it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import msgspec


class Above(msgspec.Struct, frozen=True):
    """Pieces whose sheets went out, whose sheets are on the worklist, and of which something is found; `states`, worked
    out when it is asked for, how the sheet of each stands to what went out."""

    sent: frozenset[str] = frozenset()
    listed: frozenset[str] = frozenset()
    found: frozenset[str] = frozenset()
    states: Callable[[], Mapping[str, str]] = dict

    def state(self, piece: str) -> str:
        return self.states().get(piece, "not sent")


Handed = Callable[[], Above]  # read only where a lens asks for it
