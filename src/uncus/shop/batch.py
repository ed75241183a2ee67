"""Batches of independent work in worker processes: results as they come, with stop; what fails is told and the rest
go on, and so they do when a worker dies."""

from __future__ import annotations

import os
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, BrokenExecutor, Executor, Future, ProcessPoolExecutor, wait
from contextlib import contextmanager
from functools import partial
from multiprocessing import connection, get_context, parent_process
from queue import Full, Queue
from typing import Generic, NamedTuple, TypeVar

T = TypeVar("T")
R = TypeVar("R")
Make = Callable[[int | None], Executor]
_LARGEST = 12  # pieces of work handed over at once
_DIED = "its worker process died of it"


class WorkerDied(Exception):
    """A worker died of a piece of work, and the others go on: raised where a pool outlives it."""


class Done(NamedTuple, Generic[T, R]):
    """One piece of work: its result, or why there is none."""

    item: T
    result: R | None
    failure: str = ""


def worker_pool(workers: int | None = None) -> Executor:
    """Worker processes, spawned: a fork of a process with a window hangs. None outlives the process that asked for
    it."""
    return ProcessPoolExecutor(
        workers or os.cpu_count() or 1, mp_context=get_context("spawn"), initializer=_end_with_parent
    )


def _end_with_parent() -> None:
    """A worker waits for work on a pipe that its fellows hold open too, so it would never see its parent killed."""
    parent = parent_process()
    assert parent is not None

    def watch() -> None:
        connection.wait([parent.sentinel])
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def each(
    work: Callable[[T], R],
    items: Sequence[T],
    stopped: Callable[[], bool] = lambda: False,
    few: int = 8,
    make: Make = worker_pool,
) -> Iterator[Done[T, R]]:
    """Do `work` (a function of a module, or a partial of one) on each item, in any order; up to a `few` of them here
    and now. Ends early, between two results, where asked to stop."""
    if len(items) <= few:
        for item in items:
            if stopped():
                return
            yield _one(work, item)
        return
    yield from _Run(work, items, stopped, make).results()


@contextmanager
def meanwhile(results: Callable[[Callable[[], bool]], Iterable[R]], ahead: int = 64) -> Iterator[Iterator[R]]:
    """Results taken by a thread, so many `ahead`, while its caller does something else before it asks for them.
    `results` is given what tells that they are no longer wanted, as when the caller fails."""
    found: Queue[tuple[R] | None] = Queue(ahead)
    left = threading.Event()
    wrong: list[BaseException] = []

    def hand(one: tuple[R] | None) -> None:
        while not left.is_set():
            try:
                return found.put(one, timeout=0.2)
            except Full:
                continue

    def take() -> None:
        try:
            for one in results(left.is_set):
                hand((one,))
        except BaseException as error:
            wrong.append(error)
        hand(None)

    def handed() -> Iterator[R]:
        while (one := found.get()) is not None:
            yield one[0]
        if wrong:
            raise wrong[0]

    thread = threading.Thread(target=take, daemon=True)
    thread.start()
    try:
        yield handed()
    finally:
        left.set()
        thread.join()


def _one(work: Callable[[T], R], item: T) -> Done[T, R]:
    """One piece of work, whatever goes wrong in it."""
    try:
        return Done(item, work(item))
    except Exception as error:
        return Done(item, None, str(error) or type(error).__name__)


def _some(work: Callable[[T], R], items: Sequence[T]) -> list[tuple[R | None, str]]:
    """What a worker does; the items themselves need not come back."""
    return [(done.result, done.failure) for done in (_one(work, item) for item in items)]


class _Run(Generic[T, R]):
    """A batch that goes through one pool after another: when a worker dies the pool is gone, and everything under
    way with it. Then a new one takes over, and what was under way is done one by one, so that it shows whose fault
    it is."""

    def __init__(self, work: Callable[[T], R], items: Sequence[T], stopped: Callable[[], bool], make: Make) -> None:
        self._do: Callable[[Sequence[T]], list[tuple[R | None, str]]] = partial(_some, work)
        self._stopped, self._make = stopped, make
        size = max(1, min(_LARGEST, len(items) // 16))
        self._waiting = deque(items[i : i + size] for i in range(0, len(items), size))

    def results(self) -> Iterator[Done[T, R]]:
        while self._waiting and not self._stopped():
            suspects: list[T] = []
            yield from self._through_a_pool(suspects)
            for item in suspects:
                if self._stopped():
                    return
                yield self._alone(item)

    def _through_a_pool(self, suspects: list[T]) -> Iterator[Done[T, R]]:
        """Results until all is done or the pool breaks; then `suspects` are those that were under way."""
        pool = self._make(None)
        at_once = getattr(pool, "at_once", 2 * (os.cpu_count() or 1))  # more would be suspected when a worker dies
        under_way: dict[Future[list[tuple[R | None, str]]], Sequence[T]] = {}
        try:
            while self._waiting or under_way:
                while self._waiting and len(under_way) < at_once:
                    under_way[pool.submit(self._do, self._waiting[0])] = self._waiting[0]
                    self._waiting.popleft()
                ready, _ = wait(under_way, timeout=0.2, return_when=FIRST_COMPLETED)
                if self._stopped():
                    return
                for future in ready:
                    try:
                        found = future.result()
                    except WorkerDied:
                        suspects += under_way.pop(future)
                        continue
                    items = under_way.pop(future)
                    yield from (Done(item, result, why) for item, (result, why) in zip(items, found, strict=True))
        except BrokenExecutor:
            suspects += [item for items in under_way.values() for item in items]
        finally:
            pool.shutdown(wait=not self._stopped(), cancel_futures=True)

    def _alone(self, item: T) -> Done[T, R]:
        pool = self._make(1)
        try:
            ((result, failure),) = pool.submit(self._do, (item,)).result()
            return Done(item, result, failure)
        except (BrokenExecutor, WorkerDied):
            return Done(item, None, _DIED)
        finally:
            pool.shutdown(wait=True, cancel_futures=True)
