"""Work handed to other machines: a Dask scheduler's workers in place of worker processes (`uncus[cluster]`).

Workers run this same program and give bytes back; they write nothing. A scheduler unpickles what it is sent, so whoever
reaches it can run programs on it: over TLS it lets in those with a certificate alone, and without TLS that is said.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from concurrent.futures import BrokenExecutor, CancelledError, Executor, Future
from contextlib import contextmanager, suppress
from typing import Any
from urllib.parse import urlsplit

from uncus import __version__
from uncus.job.errors import JobError
from uncus.shop.batch import Make, WorkerDied, worker_pool

_TIMEOUT = 10.0  # s to find a scheduler in
_LOOPBACK = ("127.0.0.1", "localhost", "::1")
Say = Callable[[str], object]


class _Lost(BrokenExecutor):
    """The scheduler is not there any more."""


@contextmanager
def handed_to(address: str, say: Say = lambda words: None) -> Iterator[Make]:
    """What makes executors of a Dask scheduler's workers, as long as it is held; of worker processes here where there
    is no `address` (tcp://machine:port or tls://machine:port; certificates as Dask's configuration has them). `say` is
    told of what is unsafe. Raises JobError where it cannot be reached, has no workers, or those of another version."""
    if not address.strip():
        yield worker_pool
        return
    cluster = _Cluster(address.strip(), say)
    try:
        yield cluster.make
    finally:
        cluster.close()


def version_here() -> tuple[str, str]:
    """The version of this program and of Python, as a worker tells it."""
    return __version__, f"{sys.version_info.major}.{sys.version_info.minor}"


class _Cluster:
    def __init__(self, address: str, say: Say) -> None:
        self.address = address
        whole = urlsplit(address)
        if whole.scheme not in ("tcp", "tls") or not whole.hostname or not _port(address):
            raise JobError(f"“{address}” is no address of a Dask scheduler; give one such as tcp://machine:8786.")
        try:
            import distributed
        except ImportError:
            raise JobError("Other machines need Dask: install uncus[cluster].") from None
        if whole.scheme == "tcp" and whole.hostname not in _LOOPBACK:
            say(f"{address} is not encrypted: whoever reaches that scheduler can run programs on its machines; tls:// "
                "keeps others out.")  # fmt: skip
        try:
            self._client: Any = distributed.Client(  # type: ignore[no-untyped-call]
                address, timeout=_TIMEOUT, set_as_default=False, name="uncus"
            )
        except (OSError, ValueError, TypeError) as error:
            raise JobError(f"No Dask scheduler answers at {address} ({_first(error)}).") from None
        try:
            self._compared()
        except BaseException:
            self.close()
            raise

    def _compared(self) -> None:
        """See that there are workers, and that all of them run what runs here. Raises JobError."""
        told = self._client.run(version_here, on_error="return")
        if not told:
            raise JobError(f"The scheduler at {self.address} has no workers; start some: dask worker {self.address}")
        ours = version_here()
        for worker, theirs in told.items():
            if isinstance(theirs, BaseException):
                raise JobError(f"The worker {worker} has no Uncus that can be asked ({_first(theirs)}).")
            if tuple(theirs) != ours:
                raise JobError(f"The worker {worker} runs Uncus {theirs[0]} on Python {theirs[1]}, and here is "
                    f"{ours[0]} on {ours[1]}; bring both to the same.")  # fmt: skip

    def make(self, workers: int | None = None) -> Executor:
        """Raises JobError where the scheduler is gone."""
        if self._client.status != "running":
            raise JobError(f"The scheduler at {self.address} does not answer any more; nothing was left behind.")
        threads = sum(w["nthreads"] for w in self._client.scheduler_info(n_workers=-1)["workers"].values())
        return _Handed(self._client.get_executor(pure=False), 2 * max(1, threads))  # equal calls would share an answer

    def close(self) -> None:
        with suppress(Exception):  # whatever state the other side is in
            self._client.close(timeout=2)


class _Handed(Executor):
    """Dask's executor with the ways of those of the standard library: what dies, dies as it does there."""

    def __init__(self, inner: Any, at_once: int) -> None:
        self._inner, self.at_once = inner, at_once

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        found: Future[Any] = Future()
        try:
            inner = self._inner.submit(fn, *args, **kwargs)
        except Exception as error:  # the client is closed, or closing
            raise _Lost(_first(error)) from None
        inner.add_done_callback(lambda future: _passed_on(future, found))
        return found

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        with suppress(Exception):
            self._inner.shutdown(wait=wait and not cancel_futures)


def _passed_on(inner: Future[Any], to: Future[Any]) -> None:
    from distributed import KilledWorker
    from distributed.comm.core import CommClosedError

    try:
        to.set_result(inner.result())
    except KilledWorker as error:
        to.set_exception(WorkerDied(_first(error)))
    except (CancelledError, CommClosedError, OSError) as error:
        to.set_exception(_Lost(_first(error)))
    except BaseException as error:
        to.set_exception(error)


def _port(address: str) -> int:
    try:
        return urlsplit(address).port or 0
    except ValueError:
        return 0


def _first(error: BaseException) -> str:
    return (str(error).strip().splitlines() or [type(error).__name__])[0][:160]
