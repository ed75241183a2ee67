"""What was worked out is kept for as long as there is room, and never in place of something else."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.caches import Beside, Cache


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


def test_what_is_kept_beside_a_thing_goes_with_it_and_not_with_one_that_equals_it():
    kept, made = Beside(), []
    one, same = [1], [1]
    for thing, times in ((one, 1), (one, 1), (same, 2), (one, 3), (one, 3)):
        value = kept.of("a", thing, lambda: made.append(None) or len(made))
        assert value == len(made) == times and kept.knows("a", thing)
        assert not kept.knows("a", [1]) and not kept.knows("b", thing)
    kept.forget("a")
    assert not kept.knows("a", one) and kept.of("a", one, lambda: None) is None
    assert kept.of("a", one, lambda: pytest.fail("nothing is a value too")) is None
