"""Steel that is made after it is first asked for: which joints and members wait, and how what is read of them is made
first."""

from __future__ import annotations

from collections.abc import Callable, ItemsView, Iterable, Iterator, Mapping, ValuesView

from uncus.shop.pieces import Assembly


class Waiting:
    """What of a job's steel is not made yet, each in the order of making: `joints`, `members` that still stand bare,
    and joints whose welds are `unseen`."""

    def __init__(self, joints: Iterable[str], members: Iterable[str]) -> None:
        self.joints = dict.fromkeys(joints)
        self.members = dict.fromkeys(members)
        self.unseen: dict[str, None] = {}

    def __bool__(self) -> bool:
        return bool(self.joints or self.members)

    def __len__(self) -> int:
        return len(self.joints) + len(self.members)


class Assemblies(Mapping[str, Assembly]):
    """Assemblies of which some stand bare: one that is read is made first, and all of them where all are."""

    def __init__(self, so_far: Mapping[str, Assembly], need: Callable[[str], None], all_: Callable[[], object]) -> None:
        self._so_far, self._need, self._all = so_far, need, all_

    def __getitem__(self, id: str) -> Assembly:
        if id in self._so_far:
            self._need(id)
        return self._so_far[id]

    def __iter__(self) -> Iterator[str]:
        return iter(tuple(self._so_far))

    def __len__(self) -> int:
        return len(self._so_far)

    def values(self) -> ValuesView[Assembly]:
        self._all()
        return self._so_far.values()

    def items(self) -> ItemsView[str, Assembly]:
        self._all()
        return self._so_far.items()
