"""What was worked out once, kept by what it was worked out from: as much of it as there is room for."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from threading import RLock
from typing import Generic, TypeVar

from cachetools import LRUCache

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Cache(Generic[K, V]):
    """The `most` values that were used last, by key. May be used by several threads."""

    def __init__(self, most: int) -> None:
        self._values: LRUCache[K, V] = LRUCache(most)
        self._lock = RLock()

    def get(self, key: K) -> V | None:
        with self._lock:
            return self._values.get(key)

    def keep(self, key: K, value: V) -> V:
        with self._lock:
            self._values[key] = value
        return value

    def of(self, key: K, make: Callable[[], V]) -> V:
        """The value kept under a key, made where there is none. What `make` raises is raised, and nothing kept."""
        found = self.get(key)
        return found if found is not None else self.keep(key, make())

    def clear(self) -> None:
        with self._lock:
            self._values.clear()

    def __len__(self) -> int:
        return len(self._values)


class Beside(Generic[K, V]):
    """A value for each thing that stands under a name, for as long as that very thing stands there: where it was made
    anew, so is its value. One thread alone."""

    def __init__(self) -> None:
        self._values: dict[K, tuple[object, V]] = {}

    def knows(self, key: K, thing: object) -> bool:
        known = self._values.get(key)
        return known is not None and known[0] is thing

    def known(self, things: Mapping[K, object]) -> dict[K, V]:
        """The values that are known of things as they stand."""
        return {key: value for key, (thing, value) in self._values.items() if things.get(key) is thing}

    def of(self, key: K, thing: object, make: Callable[[], V]) -> V:
        """The value of the thing that stands under a key now."""
        known = self._values.get(key)
        if known is None or known[0] is not thing:
            known = self._values[key] = thing, make()
        return known[1]

    def forget(self, key: K) -> None:
        self._values.pop(key, None)
