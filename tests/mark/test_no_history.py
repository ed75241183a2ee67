"""Marks and sheets hang on the steel alone: not on the order in which it was drawn, nor on how Python lays sets in
memory."""

import os
import random
import subprocess
import sys

import pytest
from tests.conftest import how_many

from uncus.job.job import Job
from uncus.job.records import Mark
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build

_DIGEST = """
import hashlib, msgspec
from uncus.draw.register import register
from uncus.job.job import Job
from uncus.job.records import Mark
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build
job = Job(boathouse())
shop = build(job)
apply(job, propose(job, shop))
marks = sorted((m.id, m.mark, m.content) for m in job.all(Mark))
sheets = [(e.name, e.job.content, e.pieces) for e in register(job, shop)]
joints = shop.connections.items()
made = [(id, [(p.key, p.part) for p in c.parts], c.fasteners, c.welds, c.features) for id, c in joints]
print(hashlib.sha256(repr((marks, sheets, list(shop.assemblies), made)).encode()).hexdigest())
"""


@pytest.mark.parametrize("seed", range(how_many(2, 12)))
def test_marks_are_the_same_in_whatever_order_the_records_were_made(seed, sample):
    expected = {m.id: m.mark for m in sample[0].all(Mark)}
    records = boathouse()
    random.Random(seed).shuffle(records)
    job = Job(records)
    apply(job, propose(job, build(job)))
    assert {m.id: m.mark for m in job.all(Mark)} == expected


def test_nothing_hangs_on_the_hash_seed():
    found = set()
    for seed in range(how_many(2, 20)):
        own = {**os.environ, "PYTHONHASHSEED": str(seed)}
        found.add(
            subprocess.run([sys.executable, "-c", _DIGEST], env=own, capture_output=True, text=True, check=True).stdout
        )
    assert len(found) == 1
