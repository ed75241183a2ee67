"""What is other than it was: of two looks at a job, which of its records and of its steel."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from itertools import compress
from operator import is_not
from typing import TypeVar

T = TypeVar("T")
V = TypeVar("V")


def changed(old: Mapping[str, T], new: Mapping[str, T]) -> set[str]:
    """What stands under another thing, is new, or is gone. Things are frozen: the same thing says the same."""
    if old is new:
        return set()
    if len(old) == len(new) and not any(map(is_not, old, new)):  # the same keys in the same order, as after most edits
        return set(compress(new, map(is_not, old.values(), new.values())))
    found = {id for id, thing in new.items() if old.get(id) is not thing}
    return found | (old.keys() - new.keys())


def followed(
    ids: Iterable[str], was: dict[str, V], new: Mapping[str, T], of: Callable[[str, T], V | None]
) -> dict[str, V]:
    """What `of` says of each thing that it says something of, given what it `was` before those with some `ids` changed;
    the very same, where they say the same as before."""
    found: dict[str, V] | None = None
    for id in ids:
        value = of(id, new[id]) if id in new else None
        if value == was.get(id):
            continue
        found = dict(was) if found is None else found
        if value is None:
            found.pop(id, None)
        else:
            found[id] = value
    return was if found is None else found
