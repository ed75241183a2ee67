"""The rules that look at one thing after another, looked at in shares by workers: worth it where those are other
machines, since each makes the job's steel for itself, once for as long as the job stays the same."""

from __future__ import annotations

import hashlib
import pickle
import zlib
from collections import defaultdict
from collections.abc import Callable
from functools import lru_cache
from typing import NamedTuple

from uncus.check.checking import Elsewhere, found_at, rules_in, values_of
from uncus.check.found import Found
from uncus.check.looked import Looked
from uncus.check.rules import RULES
from uncus.job.checks import CheckRules
from uncus.job.job import Job
from uncus.job.records import Connection
from uncus.shop.batch import Make, each
from uncus.shop.shop import build

_SHARES = 16  # of the things of each rule: a share that a worker dies of is looked at here


class Share(NamedTuple):
    """One of so many shares of a job, which is known by its sum."""

    sum: str
    packed: bytes
    number: int
    of: int


def found_elsewhere(job: Job, make: Make, stopped: Callable[[], bool] = lambda: False) -> Elsewhere:
    """What every rule finds at each thing that it looks at, by workers. What a worker could not do is not in it, and is
    looked at in its turn by whoever asks."""
    packed = zlib.compress(pickle.dumps(list(job.records.values())), 1)
    sum = hashlib.sha256(packed).hexdigest()
    shares = [Share(sum, packed, n, _SHARES) for n in range(_SHARES)]
    found: dict[str, dict[str, tuple[Found, ...]]] = defaultdict(dict)
    for done in each(looked_at, shares, stopped, few=0, make=make):
        for rule, own in (done.result or {}).items():
            found[rule] |= own
    return dict(found)


def looked_at(share: Share) -> Elsewhere:
    """A share of the things of every rule, and what was found at each: what a worker does."""
    looked = _looked(share.sum, share.packed)
    asked = rules_in(looked.get("check rules", CheckRules))
    found = {}
    for rule in RULES.values():
        if rule.each is not None and rule.name not in asked.off:
            own = sorted(rule.over.things(looked))[share.number :: share.of]
            values = values_of(rule, asked)
            found[rule.name] = {id: tuple(found_at(rule, looked, values, id)) for id in own}
    return found


@lru_cache(maxsize=1)
def _looked(sum: str, packed: bytes) -> Looked:
    job = Job(pickle.loads(zlib.decompress(packed)))  # what whoever asks has sent, as every piece of work is
    shop = build(job)
    for one in job.all(Connection):
        shop.design(one.id)
    return Looked(job, shop)
