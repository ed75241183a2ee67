"""Jobs that many tests read; each is made once a run, for all its processes, and must not be changed by a test."""

import fcntl
import os
import pickle
import time
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings

from tests.draw.gallery import gallery, hard
from uncus.draw.drawn import draw_all
from uncus.draw.entry import Entry
from uncus.draw.register import register
from uncus.draw.sheet import Sheet
from uncus.job.job import Job
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame
from uncus.shop.shop import Shop, build
from uncus.units import Units

HOW = os.environ.get("UNCUS_CHECK", "")  # "", "quick" or "long", as ./check was asked
_QUICK = 35.0  # s after which a quick run starts no more tests
_BEGAN = time.monotonic()

# The same examples every time, so that a red run is somebody's change; a long run looks for new ones.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.register_profile("long", deadline=None)
settings.load_profile("long" if HOW == "long" else "steady")


def how_many(short: int, full: int) -> int:
    """How many examples, members or kills a test takes: few in every check, all of them in a long one."""
    return full if HOW == "long" else short


def pytest_collection_modifyitems(config, items):
    """Tests marked `long` are for long runs, those marked `slow` not for quick ones."""
    out = {"long"} - {HOW} | ({"slow"} if HOW == "quick" else set())
    left = [item for item in items if any(item.get_closest_marker(mark) for mark in out) or _is_spared(item)]
    if left:
        items[:] = [item for item in items if item not in left]
        config.hook.pytest_deselected(items=left)


def _is_spared(item) -> bool:
    """Of a table marked `sampled(n)` a short check takes one case in n, always the same ones."""
    mark = item.get_closest_marker("sampled")
    return mark is not None and HOW != "long" and zlib.crc32(item.name.encode()) % mark.args[0] != 0


def pytest_runtest_setup(item):
    if HOW == "quick" and time.monotonic() - _BEGAN > _QUICK:
        pytest.skip("left out: no time in a quick check")


def pytest_terminal_summary(terminalreporter):
    late = len(terminalreporter.stats.get("skipped", ())) if HOW == "quick" else 0
    if late:
        terminalreporter.write_line(f"left out: {late} tests for which a quick check has no time")


def marked(records) -> tuple[Job, Shop]:
    """A job in memory with every piece marked, and its steel."""
    job = Job(records)
    shop = build(job)
    apply(job, propose(job, shop))
    return job, shop


@pytest.fixture(scope="session", autouse=True)
def no_cache_of_the_users(tmp_path_factory):
    """What can be made again is kept in a folder of the run's own."""
    before = os.environ.get("XDG_CACHE_HOME")
    os.environ["XDG_CACHE_HOME"] = str(tmp_path_factory.mktemp("cache"))
    yield
    del os.environ["XDG_CACHE_HOME"]
    if before is not None:
        os.environ["XDG_CACHE_HOME"] = before


Once = Callable[[str, Callable[[], Any]], Any]


@pytest.fixture(scope="session")
def once(tmp_path_factory) -> Once:
    """What takes long is made by the first process that asks for it and read by the others."""
    base = tmp_path_factory.getbasetemp()
    folder: Path = base.parent if "PYTEST_XDIST_WORKER" in os.environ else base
    known: dict[str, Any] = {}

    def get(name: str, make: Callable[[], Any]) -> Any:
        if name not in known:
            kept = folder / f"once {name}"
            with open(folder / f"once {name}.lock", "w") as lock:
                fcntl.flock(lock, fcntl.LOCK_EX)
                if not kept.exists():
                    kept.write_bytes(pickle.dumps(make(), -1))
            known[name] = pickle.loads(kept.read_bytes())
        return known[name]

    return get


def made_once(once: Once, name: str, records: Callable[[], Any]) -> tuple[Job, Shop]:
    def make() -> Any:
        job, shop = marked(records())
        return tuple(job.records.values()), shop

    records_of, shop = once(name, make)
    return Job(records_of), shop


@pytest.fixture(scope="session")
def sample(once) -> tuple[Job, Shop]:
    return made_once(once, "sample", boathouse)


@pytest.fixture(scope="session")
def metric_sample(once) -> tuple[Job, Shop]:
    return made_once(once, "metric_sample", lambda: boathouse(Units.METRIC))


@pytest.fixture(scope="session")
def grid_frame(once) -> tuple[Job, Shop]:
    return made_once(once, "grid_frame", lambda: frame(4, 3))


@pytest.fixture(scope="session")
def hard_job(once) -> tuple[Job, Shop]:
    return made_once(once, "hard_job", hard)


@pytest.fixture(scope="session")
def gallery_job(once) -> tuple[Job, Shop]:
    return made_once(once, "gallery_job", gallery)


@pytest.fixture(scope="session")
def drawn(request, once):
    """Every entry of a job's register with its sheets, by the name of the job's fixture."""

    def get(which: str) -> list[tuple[Entry, tuple[Sheet, ...]]]:
        entries = register(*request.getfixturevalue(which))
        sheets = once(f"sheets of {which}", lambda: [draw_all(e.job) for e in entries])
        return list(zip(entries, sheets, strict=True))

    return get


@pytest.fixture
def job() -> Job:
    """The boathouse, to be changed freely."""
    return Job(boathouse())
