"""Jobs that many tests read; each is made once and must not be changed by a test."""

import os

import pytest
from hypothesis import settings

from uncus.job.job import Job
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame
from uncus.shop.shop import Shop, build

# The same examples every time, so that a red run is somebody's change; UNCUS_HYPOTHESIS=default looks for new ones.
settings.register_profile("steady", derandomize=True, deadline=None)
settings.load_profile(os.environ.get("UNCUS_HYPOTHESIS", "steady"))


def marked(records) -> tuple[Job, Shop]:
    """A job in memory with every piece marked, and its steel."""
    job = Job(records)
    shop = build(job)
    apply(job, propose(job, shop))
    return job, shop


@pytest.fixture(scope="session")
def sample() -> tuple[Job, Shop]:
    return marked(boathouse())


@pytest.fixture(scope="session")
def grid_frame() -> tuple[Job, Shop]:
    return marked(frame(4, 3))


@pytest.fixture
def job() -> Job:
    """The boathouse, to be changed freely."""
    return Job(boathouse())
