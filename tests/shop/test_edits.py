"""What follows a job change by change is what would be made anew from its records: steel, findings, marks, sheets
and arrays."""

import random

import pytest
from tests.conftest import how_many
from tests.edits import EDITS, Followed, differences, step

from uncus.sample.frames import frame


@pytest.mark.parametrize("seed", range(how_many(2, 20)))
def test_following_changes_gives_what_making_anew_gives(seed):
    rng = random.Random(seed)
    of = Followed(start())
    done = []
    for n in range(how_many(60, 300)):
        done.append(step(rng, of))
        if n % 12 == 11:
            assert not differences(of), done[-12:]
    while of.job.undo():
        pass
    assert not differences(of)


def start():
    return [*frame(1, 1)]


def test_there_are_edits_of_every_kind():
    assert len(EDITS) >= 30
