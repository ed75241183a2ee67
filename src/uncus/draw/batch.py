"""Sheets by the hundred: drawn in worker processes, with progress and stop; one that fails is named and the rest go on."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, wait

import msgspec

from uncus.draw.drawn import draw_all
from uncus.draw.inputs import SheetJob
from uncus.draw.sheet import Sheet


class Done(msgspec.Struct, frozen=True):
    """One entry's sheets, or why there are none."""

    name: str
    sheets: tuple[Sheet, ...] = ()
    failure: str = ""


def drawn_one(job: SheetJob) -> Done:
    """Draw one entry's sheets, whatever goes wrong in it."""
    try:
        return Done(job.name, draw_all(job))
    except Exception as error:
        return Done(job.name, failure=f"Sheet {job.name} could not be drawn: {error or type(error).__name__}.")


def drawn_some(jobs: Sequence[SheetJob]) -> list[Done]:
    """What a worker does: it gets plain values, never the job."""
    return [drawn_one(job) for job in jobs]


def drawn(
    jobs: Sequence[SheetJob], executor: Executor | None = None, stopped: Callable[[], bool] = lambda: False
) -> Iterator[Done]:
    """Each entry's sheets as they come; without an executor here and now, in order. Stops between two where asked to."""
    if executor is None:
        for job in jobs:
            if stopped():
                return
            yield drawn_one(job)
        return
    size = max(1, min(12, len(jobs) // 16))
    waiting: set[Future[list[Done]]] = {
        executor.submit(drawn_some, jobs[i : i + size]) for i in range(0, len(jobs), size)
    }
    while waiting:
        ready, waiting = wait(waiting, timeout=0.2, return_when=FIRST_COMPLETED)
        if stopped():
            for future in waiting:
                future.cancel()
            return
        for future in ready:
            yield from future.result()
