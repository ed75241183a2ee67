"""Joints made ahead of their turn, in worker processes: they are only known afterwards, nothing of a job changes by
it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence

from uncus.connect.alike import Home
from uncus.connect.kind import Joint
from uncus.shop.batch import Make, each, worker_pool
from uncus.shop.joints import Made, made_of
from uncus.shop.shop import Shop

WORTH_IT = 600  # joints to make, fewer than which are made sooner than a worker process starts


def never() -> bool:
    return False


def made_ahead(
    joints: Sequence[tuple[bytes, Joint]], stopped: Callable[[], bool] = never, make: Make = worker_pool
) -> Iterator[tuple[bytes, Made]]:
    """Joints at home made, each with its key, in any order. One that fails is left to be made, and told, in its
    turn."""
    keys = {id(joint): key for key, joint in joints}
    for done in each(made_of, [joint for _, joint in joints], stopped, make=make):
        if done.result is not None:
            yield keys[id(done.item)], done.result


def complete(shop: Shop) -> None:
    """Make all steel of a shop that waits, its joints by worker processes where there are enough of them."""
    unknown = shop.unknown()
    if len(unknown) > WORTH_IT:
        for key, made in made_ahead(placed(unknown)):
            shop.take({key: made})
    shop.complete()


def placed(unknown: Iterable[Home[Joint]]) -> list[tuple[bytes, Joint]]:
    """Joints at home as they are handed to workers."""
    return [(home.key, home.placed()) for home in unknown]
