"""Work in worker processes: all of it is done once, a failing piece is named, and one that kills its worker takes
nothing along."""

import itertools
import os
import threading
from concurrent.futures import ThreadPoolExecutor

import pytest

from uncus.shop.batch import Done, each, meanwhile


def square(n: int) -> int:
    """Stands in for work of which one piece is refused and others bring their process down."""
    if n == 7:
        raise ValueError("not seven")
    if n in (23, 61):
        os._exit(1)
    return n * n


@pytest.mark.slow
def test_a_worker_that_dies_takes_nothing_along_and_its_piece_is_named():
    found = list(each(square, range(90)))
    assert sorted(d.item for d in found) == list(range(90)), "each once"
    assert {d.item: d.failure for d in found if d.failure} == {
        7: "not seven",
        23: "its worker process died of it",
        61: "its worker process died of it",
    }
    assert all(d.result == d.item**2 for d in found if not d.failure)


@pytest.mark.parametrize("few", [0, 1000])
def test_all_is_done_once_and_what_fails_is_told(few):
    found = list(each(lambda n: 1 // (n % 10), range(200), few=few, make=ThreadPoolExecutor))
    assert sorted(d.item for d in found) == list(range(200))
    for done in found:
        assert done == Done(done.item, 1 // (done.item % 10) if done.item % 10 else None, done.failure)
        assert bool(done.failure) == (done.item % 10 == 0)


@pytest.mark.parametrize("few", [0, 1000])
def test_it_stops_between_two_results_where_asked(few):
    found, asked = [], []
    for done in each(abs, range(500), lambda: len(found) >= 40, few, ThreadPoolExecutor):
        found.append(done)
        asked.append(done.item)
    assert 40 <= len(found) < 80 and len(set(asked)) == len(found)
    assert not list(each(abs, range(500), lambda: True, few, ThreadPoolExecutor))


def test_results_come_while_something_else_is_done():
    begun, gone = threading.Event(), threading.Event()

    def results(unwanted):
        for n in range(5):
            begun.set()
            yield n
        while not unwanted():  # more than anybody takes
            yield 5
        gone.set()

    with pytest.raises(ZeroDivisionError), meanwhile(results, ahead=3) as found:
        assert begun.wait(10), "before any is asked for"
        assert list(itertools.islice(found, 5)) == list(range(5))
        raise ZeroDivisionError
    assert gone.is_set(), "nothing goes on behind a caller that failed"

    def failing(_unwanted):
        yield 1
        raise LookupError("lost")

    with meanwhile(failing) as found:
        assert next(found) == 1
        with pytest.raises(LookupError, match="lost"):
            next(found)
