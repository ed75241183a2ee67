"""Sheets by the hundred: drawn in worker processes, with stop; one that fails is named and the rest go on."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import msgspec

from uncus.draw.drawn import draw_all
from uncus.draw.inputs import SheetJob
from uncus.draw.sheet import Sheet
from uncus.shop.batch import each


class Drawn(msgspec.Struct, frozen=True):
    """One entry's sheets, or why there are none."""

    name: str
    sheets: tuple[Sheet, ...] = ()
    failure: str = ""


def drawn(jobs: Sequence[SheetJob], stopped: Callable[[], bool] = lambda: False) -> Iterator[Drawn]:
    """Each entry's sheets as they come."""
    for done in each(draw_all, jobs, stopped):
        yield Drawn(done.item.name, done.result or (), failure_words(done.item.name, done.failure))


def failure_words(name: str, why: str) -> str:
    return f"Sheet {name} could not be drawn: {why.rstrip('.')}." if why else ""
