"""Kinds by their names, each in a file of its own, read when the first of them is asked for."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from importlib import import_module
from typing import Protocol, TypeVar


class _Kind(Protocol):
    @property
    def name(self) -> str: ...


K = TypeVar("K", bound=_Kind)


class Listed(Mapping[str, K]):
    """The kinds in some files of a package, in the order in which they are offered."""

    def __init__(self, package: str, files: Sequence[str]) -> None:
        self._package, self._files = package, files

    @cached_property
    def _all(self) -> dict[str, K]:
        found: list[K] = [import_module(f"{self._package}.{file}").KIND for file in self._files]
        return {kind.name: kind for kind in found}

    def __getitem__(self, name: str) -> K:
        return self._all[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._all)

    def __len__(self) -> int:
        return len(self._files)
