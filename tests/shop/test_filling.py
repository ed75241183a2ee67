"""Steel that is made after it is asked for: in whatever order, beside whatever edits, it comes to the same."""

import random

import pytest
from tests.conftest import how_many
from tests.edits import steel_differences, step

from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Member
from uncus.mark.marker import Marker
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame
from uncus.shop.shop import Shop, build


class Filling:
    """A job whose steel is made bit by bit while it is edited."""

    def __init__(self, records):
        self.job = Job(list(records))
        self.shop = build(self.job, bare=True)
        self.seen = {id: a for id, a in self.shop.so_far.items()}  # noqa: C416
        self.job.follow(lambda delta: self.told(self.shop.follow(delta)))

    @property
    def marker(self):
        return Marker(self.job, build(self.job))

    def told(self, touched):
        """What a view does: it takes in what it is told of, and nothing else."""
        for id in touched.gone:
            self.seen.pop(id, None)
        for id in touched.rebuilt:
            self.seen[id] = self.shop.so_far[id]

    def some(self, rng, kind):
        there = self.job.all(kind)
        return rng.choice(there) if there else None


def read(rng, of):
    """Something asked for by its id, which is made at once and as it will be in the end."""
    whole = build(of.job)
    if (member := of.some(rng, Member)) is not None and member.id in whole.assemblies:
        assert of.shop.assemblies[member.id] == whole.assemblies[member.id]
    if (joint := of.some(rng, rng.choice([Connection, Attachment]))) is not None:
        assert of.shop.said(joint.id) == whole.said(joint.id)
        assert of.shop.made_by(joint.id) == whole.made_by(joint.id)
        assert (a := of.shop.design(joint.id)) == (b := whole.design(joint.id)) or (a and a.limits == b.limits)


@pytest.mark.parametrize("seed", range(how_many(4, 40)))
def test_steel_that_is_made_bit_by_bit_comes_to_the_same(seed):
    rng = random.Random(seed)
    of = Filling(boathouse() if seed % 2 else frame(1, 1))
    for _ in range(how_many(12, 60)):
        rng.choice([lambda: of.told(of.shop.fill(rng.randrange(1, 40), rng.randrange(1, 9))), lambda: read(rng, of),
            lambda: step(rng, of)])()  # fmt: skip
    while of.shop.waiting:
        of.told(of.shop.fill())
    of.told(of.shop.fill())
    assert not steel_differences(of.shop, build(of.job))
    assert of.seen == of.shop.so_far


def test_what_is_asked_for_as_a_whole_is_made_first():
    records = boathouse()
    whole = Shop(records)
    for ask in ("shipped", "carried", "connections", "all_findings", "known_findings"):
        shop = Shop(records, bare=True)
        assert len(shop.so_far) == len(whole.assemblies) and len(shop.waiting) > len(shop.so_far)
        assert sorted(map(str, getattr(shop, ask))) == sorted(map(str, getattr(whole, ask))) and not shop.waiting
    shop = Shop(records, bare=True)
    assert list(shop.assemblies) == list(whole.assemblies) and shop.waiting
    assert list(shop.pieces()) == list(whole.pieces())


def test_one_that_is_asked_for_does_not_wait_for_the_rest():
    shop = Shop(frame(12, 3), bare=True)
    before = len(shop.waiting)
    shop.said(next(iter(shop.waiting.joints)))
    assert 0 < before - len(shop.waiting) < before / 8
