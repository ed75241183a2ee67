"""A joint that is wrong gets the values of one that is right, and then is right."""

import msgspec
import pytest
from tests.check.test_rules import put

from uncus.check.checking import Told, look, stand
from uncus.check.like import faulty, given
from uncus.check.looked import Looked
from uncus.job.job import Job
from uncus.job.records import Connection, Member
from uncus.sample.frames import frame
from uncus.shop.shop import build

replace = msgspec.structs.replace


@pytest.fixture
def job():
    return Job(frame(2, 1))


def tabs(job, *sections):
    named = {m.id: m.section for m in job.all(Member)}
    found = [c for c in job.all(Connection) if c.kind == "shear tab"]
    return [c for c in found if (named[c.member], named[c.support]) == sections]


def looked_at(job) -> tuple[Looked, list[Told]]:
    looked = Looked(job, build(job))
    return looked, stand(look(looked), ())


def test_the_values_of_a_like_joint_that_is_right(job):
    wrong = tabs(job, "W12X19", "W18X35")[:2]
    put(job, *(replace(c, params={**c.params, "edge": 15.0, "thickness": 3.0}) for c in wrong))
    other = tabs(job, "W18X35", "W10X49")[0]
    put(job, replace(other, params={**other.params, "pitch": 80.0}))
    looked, told = looked_at(job)
    assert faulty(told) >= {c.id for c in wrong}
    changed = given(looked, [c.id for c in wrong] * 2, faulty(told))
    right = tabs(job, "W12X19", "W18X35")[-1]
    assert [(c.id, c.params) for c in changed] == [(c.id, right.params) for c in wrong]
    put(job, *changed)
    assert faulty(looked_at(job)[1]).isdisjoint(c.id for c in wrong)


def test_the_likest_is_taken(job):
    """Between the same two sections before one of the same member alone."""
    wrong, right = tabs(job, "W12X19", "W18X35")[:2]
    bad, own, other = {"edge": 15.0, "thickness": 3.0}, {"pitch": 80.0}, {"pitch": 79.0}
    put(job, replace(wrong, params={**wrong.params, **bad}), replace(right, params={**right.params, **own}))
    put(job, *(replace(c, params={**c.params, **other}) for c in tabs(job, "W12X19", "W16X31")))
    put(job, *(replace(c, params={**c.params, **bad}) for c in tabs(job, "W12X19", "W18X35")[2:]))
    looked, told = looked_at(job)
    (changed,) = given(looked, [wrong.id], faulty(told))
    assert changed.params["pitch"] == 80.0


def test_none_that_is_right(job):
    some = [c for c in job.all(Connection) if c.kind == "shear tab"]
    put(job, *(replace(c, params={**c.params, "edge": 15.0, "thickness": 3.0}) for c in some))
    looked, told = looked_at(job)
    assert not given(looked, [c.id for c in some], faulty(told)) and not given(looked, ["nothing"], set())
