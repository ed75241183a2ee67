"""A look that goes by what the look before found is as one at everything."""

import random
from functools import partial

import msgspec
import pytest
from tests.check.test_rules import CASES, alone, beam, flat, moved_end, put

from uncus.check import checking
from uncus.check.checking import look
from uncus.check.looked import Looked
from uncus.job.job import Job
from uncus.job.records import CheckRules, Connection, Grid, Hold, Level, Mark, Member, Role
from uncus.mark.marking import apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.units import Units

replace = msgspec.structs.replace


def walled(job):
    """Steel in the way of a joint's bolts."""
    m = beam(job)
    (x, y, z), across = m.start, 60.0
    put(job, *(replace(flat(f"wall{k}", (x - 400, y + k * across, z - 200), (x + 400, y + k * across, z - 200)),
        section="FL250X10") for k in (1, -1)))  # fmt: skip


def of_some(job, record, **values):
    found = job.all(record)
    if found:
        put(job, replace(found[len(found) // 2], **values))


def moved_level(job, by=8.0):
    level = job.all(Level)[-1]
    put(job, replace(level, elevation=level.elevation + by))


def moved_grid(job):
    grid = job.all(Grid)[0]
    put(job, replace(grid, numbers=tuple(replace(line, at=line.at + 6.0) for line in grid.numbers)))


def raised_girder(job):
    """What a beam is held by, and not itself."""
    m = beam(job, "W18X35")
    put(job, replace(m, start=(*m.start[:2], m.start[2] + 1.6), end=(*m.end[:2], m.end[2] + 1.6)))


EDITS = {
    **{words: edit for words, (_, edit, _) in CASES.items()},
    "walled": walled,
    "alone": alone,
    "moved level": moved_level,
    "moved grid": moved_grid,
    "raised girder": raised_girder,
    "other units": lambda job: put(job, replace(job.project, units=Units.METRIC)),
    "held": lambda job: put(job, Hold(id="h", member=beam(job).id, number=1, question="which", on="2026-11-28")),
    "marked": lambda job: apply(job, propose(job, build(job))),
    "marks taken off": lambda job: put(job, drop=[r.id for r in job.records.values() if r.id.startswith("mark:")]),
    "all joints gone": lambda job: put(job, drop=[c.id for c in job.all(Connection)]),
    "a member gone": lambda job: put(job, drop=[beam(job).id]),
    "the other end": partial(moved_end, by=(0, 0, -9.0), end="end"),
    "other joints": lambda job: of_some(job, Connection, kind="shear tab", params={}),
}


@pytest.fixture
def job():
    return Job(frame(1, 1))


def all_found(job, shop, before=None):
    looked = Looked(job, shop, before=before)
    return set(look(looked).found), looked


@pytest.mark.parametrize("seed", range(4))
def test_a_look_goes_by_what_was_touched(seed, job):
    rng, shop = random.Random(seed), build(job)
    job.follow(shop.follow)
    _, looked = all_found(job, shop)
    rules = set()
    for words in rng.sample(sorted(EDITS), len(EDITS)):
        try:
            EDITS[words](job)
        except StopIteration:  # there is nothing left that it is an edit of
            continue
        for step in ("done", "undone"):
            if rng.random() < 0.3:
                for id in shop.connections:
                    shop.design(id)
            some, looked = all_found(job, shop, looked)
            anew, _ = all_found(job, shop)
            assert some == anew, f"{words}, {step}"
            rules |= {f.rule for f in some}
            if step == "done" and rng.random() < 0.5:
                break
            job.undo()
    assert len(rules) > 15


SEQUENCES = {
    "a support's role, of which its joint takes no notice": [
        CASES["tops a sixteenth apart"][1],
        lambda job: put(job, *(replace(m, role=Role.POST) for m in job.all(Member) if m.section != "W12X19")),
    ],
    "a column that is one no more": [
        CASES["three rods"][1],
        lambda job: put(job, *(replace(m, role=Role.POST) for m in job.all(Member) if m.role is Role.COLUMN)),
    ],
    "one of two walls gone, which no finding names": [walled, lambda job: put(job, drop=["wall1"])],
    "the other of them": [walled, lambda job: put(job, drop=["wall-1"])],
    "one mark taken off": [
        EDITS["marked"],
        lambda job: put(job, drop=[next(r.id for r in job.all(Mark) if not r.part)]),
    ],
    "rules that were off while something changed": [
        EDITS["marked"],
        lambda job: put(job, CheckRules(off=("hands", "made", "room", "loose", "twice"))),
        lambda job: put(job, replace(beam(job), lot="7")),
        lambda job: put(job, CheckRules()),
    ],
    "a level below what was in its deck": [CASES["a top in the deck"][1], partial(moved_level, by=-400.0)],
}


@pytest.mark.parametrize("edits", SEQUENCES.values(), ids=SEQUENCES)
def test_what_is_touched_from_afar_is_looked_at(edits, job):
    shop = build(job)
    job.follow(shop.follow)
    some, looked = all_found(job, shop)
    for edit in edits:
        edit(job)
        before, (some, looked) = some, all_found(job, shop, looked)
        assert some == all_found(job, shop)[0]
    assert some != before


def test_only_what_was_touched_is_looked_at(monkeypatch):
    job = Job(frame(4, 1))
    shop = build(job)
    job.follow(shop.follow)
    asked = set()
    each = checking.found_at
    monkeypatch.setattr(checking, "found_at", lambda rule, looked, values, id: asked.add(id)
        or each(rule, looked, values, id))  # fmt: skip
    _, before = all_found(job, shop)
    assert asked == shop.assemblies.keys() | shop.connections.keys(), "a first look asks of all"
    asked.clear()
    m = beam(job)
    put(job, replace(m, lot="7"))
    all_found(job, shop, before)
    far = {o.id for o in job.all(Member) if min(abs(o.start[0] - m.end[0]), abs(o.end[0] - m.end[0])) > 15_000}
    assert m.id in asked and far and asked.isdisjoint(far | {c.id for c in job.all(Connection) if c.member in far})
