"""Where things are: a box about each of many, and which of them a box meets."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

Array = NDArray[np.float64]
_FEW = 50  # boxes that are asked one by one of all; more are asked of a tree


class Room:
    """Boxes (n, 2, 3) of things by their ids; upside down where one takes no room. `of` gives the boxes of several at
    once. What did not change since `before` keeps its own. The order of `ids` means nothing."""

    ids: list[str]
    rows: dict[str, int]
    boxes: Array

    def __init__(
        self,
        things: Mapping[str, Any],
        of: Callable[[Sequence[Any]], Array],
        before: Room | None = None,
        changed: Iterable[str] = (),
    ) -> None:
        new = set(things) if before is None else set(changed) & things.keys()
        if before is not None and before.rows.keys() >= new and len(before.ids) == len(things):
            self.ids, self.rows, self.boxes = before.ids, before.rows, before.boxes.copy()
        else:
            stay = [] if before is None else [id in things and id not in new for id in before.ids]
            kept = [] if before is None else [id for id, stays in zip(before.ids, stay, strict=True) if stays]
            self.ids = [*kept, *sorted(new)]
            self.rows = {id: n for n, id in enumerate(self.ids)}
            there = np.empty((0, 2, 3)) if before is None else before.boxes[stay]
            self.boxes = np.concatenate([there, np.empty((len(new), 2, 3))])
        if some := sorted(new):
            self.boxes[[self.rows[id] for id in some]] = of([things[id] for id in some])
        self._asked = 0

    def box(self, id: str) -> Array | None:
        """The lowest and the highest corner of one thing's box."""
        row = self.rows.get(id)
        return None if row is None else self.boxes[row]

    def meeting(self, low: Array, high: Array) -> list[str]:
        """What meets a box, by name."""
        self._asked += 1
        if self._asked > _FEW:
            near = self._tree.query(shapely.box(low[0], low[1], high[0], high[1]))
        else:
            near = np.arange(len(self.ids))
        for k in range(3):  # fewer and fewer
            near = near[(self.boxes[near, 0, k] < high[k]) & (self.boxes[near, 1, k] > low[k])]
        return sorted(self.ids[n] for n in near.tolist())

    @cached_property
    def _tree(self) -> shapely.STRtree:
        (x, y, _), (u, v, _) = self.boxes.transpose(1, 2, 0)
        return shapely.STRtree(shapely.box(x, y, u, v))
