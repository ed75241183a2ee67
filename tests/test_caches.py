"""What was worked out is kept for as long as there is room, and never in place of something else."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.caches import Cache


@given(st.integers(1, 8), st.lists(st.integers(0, 20)))
def test_a_cache_gives_what_would_be_made_and_holds_no_more_than_it_may(most, asked):
    cache, made = Cache(most), []

    def make(n):
        made.append(n)
        return n * n

    for n in asked:
        assert cache.of(n, lambda n=n: make(n)) == n * n and len(cache) <= most
        assert cache.of(n, lambda: pytest.fail("just made")) == n * n
    latest = list(dict.fromkeys(reversed(asked)))[:most]
    assert all(cache.get(n) == n * n for n in latest), "those used last stay"


def test_what_cannot_be_made_is_not_kept_and_threads_do_not_disturb_one_another():
    cache = Cache(50)
    with pytest.raises(ValueError, match="no"):
        cache.of(1, lambda: (_ for _ in ()).throw(ValueError("no")))
    assert cache.get(1) is None
    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(lambda n: cache.of(n % 70, lambda: -(n % 70)), range(7000)))
    assert found == [-(n % 70) for n in range(7000)] and len(cache) <= 50
