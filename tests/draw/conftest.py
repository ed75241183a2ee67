"""Marked jobs whose sheets are tested; none may be changed by a test."""

import pytest
from tests.conftest import made_once
from tests.draw.gallery import gallery, hard


@pytest.fixture(scope="session")
def hard_job(once):
    return made_once(once, "hard_job", hard)


@pytest.fixture(scope="session")
def gallery_job(once):
    return made_once(once, "gallery_job", gallery)
