"""Marks and sheets hang on the steel alone: not on the order in which it was drawn, nor on how Python lays sets in
memory."""

import hashlib
import os
import random
import subprocess
import sys

import msgspec
import numpy as np
import pytest
from tests.conftest import how_many

from uncus.frame.moves import transformed, turn_about
from uncus.job.job import Job
from uncus.job.records import Level, Mark, Member
from uncus.mark import canonical, content
from uncus.mark.content import assembly_content
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import Shop, build

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


@pytest.mark.parametrize("which", ["sample", "metric_sample", "gallery_job"])
def test_numbers_do_not_hang_on_fingerprints(which, request, monkeypatch):
    """The next version may reckon them otherwise; pieces are ordered by what a person can tell apart."""
    job, shop = request.getfixturevalue(which)
    expected = {(row.mark, row.pieces) for row in propose(job, shop).rows}
    real = hashlib.sha256
    monkeypatch.setattr(content.hashlib, "sha256", lambda data: real(b"salt" + data))
    for known in (content.part_content, canonical.part_reading):
        known.cache_clear()
    try:
        assert {(row.mark, row.pieces) for row in propose(job, shop).rows} == expected
    finally:
        content.part_content.cache_clear()


@pytest.mark.parametrize("which", ["sample", "gallery_job", "grid_frame"])
def test_a_building_that_is_moved_and_turned_reads_the_same(which, request):
    """To the last digit: what was marked is not changed by it, and no sheet is out of date."""
    job, shop = request.getfixturevalue(which)
    turn = turn_about((0.0, 0.0, 0.0), (0.0, 0.0, 1.0), 37.0)
    motion = msgspec.structs.replace(turn, shift=np.array((1234.567, 891.2, 333.3)))
    there = Shop(
        transformed(r, motion)
        if isinstance(r, Member)
        else msgspec.structs.replace(r, elevation=r.elevation + 333.3)
        if isinstance(r, Level)
        else r
        for r in job.records.values()
    )
    before = {id: assembly_content(a) for id, a in shop.assemblies.items()}
    assert {id: assembly_content(a) for id, a in there.assemblies.items()} == before


def test_nothing_hangs_on_the_hash_seed():
    found = set()
    for seed in range(how_many(2, 20)):
        own = {**os.environ, "PYTHONHASHSEED": str(seed)}
        found.add(
            subprocess.run([sys.executable, "-c", _DIGEST], env=own, capture_output=True, text=True, check=True).stdout
        )
    assert len(found) == 1
