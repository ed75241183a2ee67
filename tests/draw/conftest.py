"""Marked jobs whose sheets are tested; none may be changed by a test."""

import pytest
from tests.conftest import marked
from tests.draw.gallery import gallery, hard


@pytest.fixture(scope="session")
def hard_job():
    return marked(hard())


@pytest.fixture(scope="session")
def gallery_job():
    return marked(gallery())
