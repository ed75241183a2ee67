"""Worker processes for batches of independent work; none outlives the process that asked for it."""

from __future__ import annotations

import os
import threading
from concurrent.futures import Executor, ProcessPoolExecutor
from multiprocessing import connection, get_context, parent_process


def worker_pool(workers: int | None = None) -> Executor:
    """Worker processes, spawned: a fork of a process with a window hangs."""
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
