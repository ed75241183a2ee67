"""What a sheet is made from is the whole of what it was made from: nothing is current that prints otherwise, every
sheet that is stale says why, and one that prints the same stays current."""

import random

import msgspec
import pytest
from msgspec.structs import replace
from tests.conftest import how_many
from tests.draw.gallery import hard

from uncus.draw.drawn import draw_all, going_out
from uncus.draw.entry import State
from uncus.draw.inputs import printed
from uncus.draw.issue import packed
from uncus.draw.keeping import issue_of
from uncus.draw.register import register
from uncus.draw.states import why
from uncus.job.job import Job
from uncus.job.records import Connection, Grid, Level, Member, Role, Series
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build

_LOOKED_AT = how_many(4, 1000)  # sheets drawn again under each edit


def _beams(job: Job) -> list[Member]:
    return [m for m in job.all(Member) if m.role is Role.BEAM]


def _moved(m: Member, by: float) -> Member:
    (x, y, z), (a, b, c) = m.start, m.end
    return replace(m, start=(x + by, y, z), end=(a + by, b, c))


# what is changed, and whether every sheet that it does not concern is known by name
EDITS = {
    "electrode": lambda job: [replace(job.rules, electrode="E70" if job.rules.electrode != "E70" else "G42")],
    "bolt grade": lambda job: [replace(job.rules, bolt_grade="A490" if job.rules.bolt_grade != "A490" else "10.9")],
    "levels raised": lambda job: [replace(one, elevation=one.elevation + 100.0) for one in job.all(Level)],
    "levels named": lambda job: [replace(one, name=f"{one.name} X") for one in job.all(Level)],
    "lots": lambda job: [replace(m, lot="9") for m in _beams(job)],
    "finish": lambda job: [replace(m, finish="galvanised") for m in _beams(job)[:4]],
    "camber": lambda job: [replace(m, camber=20.0) for m in _beams(job)[:4]],
    "project": lambda job: [replace(job.project, name="Another")],
    "the job's finish": lambda job: [replace(job.project, finish="red")],
    "grid": lambda job: [replace(g, letters=tuple(replace(one, at=one.at + 3.0) for one in g.letters)) for g
        in job.all(Grid)],
    "all of it moved": lambda job: [_moved(m, 1234.5) for m in job.all(Member)],
    "columns' prefix": lambda job: [replace(s, prefix="K") for s in job.all(Series) if Role.COLUMN in s.roles],
    "one beam shorter": lambda job: [replace(_beams(job)[0], right_back=_beams(job)[0].right_back + 13.0)],
    "rows of a joint": lambda job: [replace(c, params={**c.params, "rows": 3}) for c in job.all(Connection)[:6]
        if c.kind == "shear tab"],
}  # fmt: skip
UNPRINTED = {
    "lots": "erection",
    "finish": "erection",
    "camber": "erection",
    "electrode": "erection",
    "bolt grade": "erection",
}


def _plain(sheets):
    """What is on the paper, to a thousandth of a mm."""
    return [(s.name, s.width, s.scale, [_rounded(i) for i in s.items]) for s in sheets]


def _rounded(value):
    if isinstance(value, msgspec.Struct):
        value = msgspec.structs.astuple(value)
    if isinstance(value, tuple):
        return tuple(map(_rounded, value))
    return round(value, 3) + 0.0 if isinstance(value, float) else value


@pytest.fixture(scope="module", params=["imperial", pytest.param("metric", marks=pytest.mark.long)])
def sent(request, once):
    """A marked job whose every sheet went out, the steel that follows it, and those sheets."""

    def make():
        job = Job(boathouse() if request.param == "imperial" else hard())
        shop = build(job)
        apply(job, propose(job, shop))
        sheets = {(e.kind, e.piece): (e, draw_all(going_out(e, "2026-01-01"))) for e in register(job, shop)}
        with job.change("issue") as change:
            for e, drawn in sheets.values():
                change.put(issue_of(e, "2026-01-01", packed(e.job, drawn)))
        return list(job.records.values()), {key: _plain(drawn) for key, (_, drawn) in sheets.items()}

    records, sheets = once(f"sent {request.param}", make)
    job = Job(records)
    shop = build(job)
    job.follow(shop.follow)
    assert all(e.state is State.CURRENT for e in register(job, shop)), "read back it is as it was"
    return job, shop, sheets


@pytest.mark.parametrize("name", EDITS)
def test_nothing_is_current_that_prints_otherwise_and_nothing_stale_that_prints_the_same(sent, name):
    job, shop, sheets = sent
    with job.change(name) as change:
        for record in EDITS[name](job):
            change.put(record)
    marked = name == "columns' prefix" and apply(job, propose(job, shop))
    try:
        entries = [e for e in register(job, shop) if (e.kind, e.piece) in sheets]
        lot = random.Random(name)
        by_state = {state: [e for e in entries if e.state is state] for state in State}
        assert not by_state[State.NEW]
        for state, some in by_state.items():
            for entry in lot.sample(some, min(_LOOKED_AT // 2, len(some))):
                same = _plain(draw_all(entry.job)) == sheets[(entry.kind, entry.piece)]
                assert same == (state is State.CURRENT), (entry.kind, entry.name, state, why(entry))
        for entry in by_state[State.STALE]:
            assert why(entry), entry.name
            assert entry.kind != UNPRINTED.get(name)
    finally:
        for _ in range(1 + bool(marked)):
            job.undo()


def test_what_is_printed_of_a_job_is_printed_of_itself(drawn):
    for entry, _ in drawn("sample"):
        assert printed(entry.job) == entry.job


def test_a_sheet_is_the_same_whoever_it_goes_to(sample):
    """A lens picks sheets; what a sheet shows, and its number, do not hang on who gets it."""
    job, shop = sample
    whole = {e.name: e for e in register(job, shop)}
    few = set(sorted(shop.shipped)[::5])
    some = register(job, shop, lambda a: a.id in few)
    assert 5 < len(some) < len(whole)
    for entry in some:
        assert entry == whole[entry.name]
    assert {e.name for e in whole.values() if e.kind == "assembly" and few & set(e.own)} == {
        e.name for e in some if e.kind == "assembly"
    }
