"""A short run of the script that tries to lose or break a job; `tools/fuzz.py` goes on for as long as it is given."""

import pytest
from tools.fuzz import PARTS, run

from tests.conftest import how_many


@pytest.mark.parametrize(("part", "few", "all"), [("kills", 12, 400), ("bytes", 150, 5000), ("records", 6, 400),
    ("texts", 2500, 100_000)])  # fmt: skip
def test_nothing_is_lost_or_broken(part, few, all):
    counts, faults = run(part, seed=5, most=how_many(few, all))
    assert not faults and sum(counts.values()) >= how_many(few, all)
    assert set(PARTS) == {"kills", "bytes", "records", "texts"}
