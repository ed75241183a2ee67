"""What was worked out once, kept by what it was worked out from: as much of it as there is room for."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import RLock
from typing import Generic, TypeVar

from cachetools import LRUCache

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Cache(Generic[K, V]):
    """The values used last, by key: `most` of them, or as many as come to `most` by `size`. May be used by several
    threads; a value that is too big for the whole cache is worked out each time."""

    def __init__(self, most: float, size: Callable[[V], float] | None = None) -> None:
        self._values: LRUCache[K, V] = LRUCache(most, size)
        self._lock = RLock()

    def get(self, key: K) -> V | None:
        with self._lock:
            return self._values.get(key)

    def keep(self, key: K, value: V) -> V:
        with self._lock:
            try:
                self._values[key] = value
            except ValueError:
                self._values.pop(key, None)  # too large; what stood there before is not it
        return value

    def of(self, key: K, make: Callable[[], V]) -> V:
        """The value kept under a key, made where there is none. What `make` raises is raised, and nothing kept."""
        found = self.get(key)
        return found if found is not None else self.keep(key, make())

    def drop(self, key: K) -> None:
        with self._lock:
            self._values.pop(key, None)

    def clear(self) -> None:
        with self._lock:
            self._values.clear()

    def __len__(self) -> int:
        return len(self._values)

    @property
    def filled(self) -> float:
        """How many there are, or what they come to."""
        return float(self._values.currsize)
