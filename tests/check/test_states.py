"""What was said of findings: it stays through edits elsewhere, and opens again when either piece changes there."""

import random

import msgspec
import pytest
from tests.check.test_rules import beam, crossing_flats, put, unjoined

from uncus.check.checking import Stands, aside, look, seen, stand
from uncus.check.looked import Looked
from uncus.check.rules import RULES
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import CheckRules, Connection, Member, Verdict
from uncus.sample.frames import frame
from uncus.shop.shop import build

replace = msgspec.structs.replace


@pytest.fixture
def job():
    made = Job(frame(1, 1))
    crossing_flats(made)
    return made


def told(job):
    return stand(look(Looked(job, build(job))), job.all(Verdict))


def one_of(job, rule="overlap"):
    (one,) = [t for t in told(job) if t.found.rule == rule]
    return one


def put_aside(job, *rules):
    found = [t.found for t in told(job) if t.found.rule in rules]
    put(job, *aside(found, "R. Ito", "the flats are one piece later", "2026-11-28"))


def test_who_and_why_must_be_said(job):
    for by, why in (("", "so"), ("R. Ito", " ")):
        with pytest.raises(JobError, match="who puts"):
            aside([one_of(job).found], by, why, "2026-11-28")


def test_what_was_put_aside_stays_so_through_a_hundred_other_edits(job):
    unjoined(job)
    put_aside(job, "overlap", "hanging")
    shop = build(job)
    job.follow(shop.follow)
    lot = random.Random(5)
    held = {one.found.about[0] for one in told(job) if one.found.rule == "hanging"} | {"one", "two"}
    for n in range(100):
        members = [m for m in job.all(Member) if m.id not in held]
        m = lot.choice(members)
        match lot.randrange(4):
            case 0:
                put(job, replace(m, section=lot.choice(("W12X26", "W16X31", "W18X35"))))
            case 1:
                put(job, replace(m, lot=str(n)))
            case 2:
                put(job, replace(m, id=f"new {n}", start=(n * 1e3, -9e3, 0), end=(n * 1e3, -9e3, 3e3)))
            case 3:
                assert job.undo()
                assert job.redo()
    now = {
        t.found.rule: t
        for t in stand(look(Looked(job, shop)), job.all(Verdict))
        if t.found.rule in ("overlap", "hanging")
    }
    assert now["overlap"].stands is Stands.ASIDE and now["hanging"].stands is Stands.ASIDE
    assert now["overlap"].verdict.by == "R. Ito" and not now["overlap"].counts


def test_it_comes_back_when_either_piece_changes_there_and_not_elsewhere(job):
    put_aside(job, "overlap")
    two = job.get("two", Member)
    put(job, replace(two, end=(51_000, 3000, 0)))  # longer, away from the clash
    assert one_of(job).stands is Stands.ASIDE
    put(job, replace(two, section="FL100X12"))
    assert one_of(job).stands is Stands.BACK and one_of(job).counts
    job.undo()
    assert one_of(job).stands is Stands.ASIDE
    job.undo()
    job.undo()
    assert one_of(job).stands is Stands.OPEN, "putting aside is undone like anything else"


def test_a_run_says_what_is_solved_and_what_came_back(job):
    put(job, *seen(told(job), "2026-11-28"))
    assert one_of(job).stands is Stands.OPEN
    two = job.get("two", Member)
    put(job, drop=["two"])
    assert one_of(job).stands is Stands.SOLVED and not one_of(job).counts
    put(job, *seen(told(job), "2026-11-29"))
    assert one_of(job).stands is Stands.SOLVED
    put(job, two)
    assert one_of(job).stands is Stands.BACK and one_of(job).counts
    put(job, *seen(told(job), "2026-11-30"))
    assert one_of(job).stands is Stands.OPEN
    assert not seen(told(job), "2026-12-01"), "a run that finds nothing new writes nothing"


def test_a_rule_that_is_off_broken_or_not_done_solves_nothing(job, monkeypatch):
    put(job, *seen(told(job), "2026-11-28"))
    put(job, Verdict(id="verdict:strength:x", rule="strength", about=("x",), text="fails", form="f"))
    held = {v.id: v for v in job.all(Verdict)}
    put(job, CheckRules(off=("overlap",)))
    assert not [t for t in told(job) if t.stands is Stands.SOLVED], "off; and no joint's strength is worked out yet"
    put(job, CheckRules())
    broken = replace(RULES["overlap"], whole=lambda *_: 1 / 0)
    monkeypatch.setattr("uncus.check.checking.RULES", {**RULES, "overlap": broken})
    assert not [t for t in told(job) if t.stands is Stands.SOLVED]
    assert not [v for v in seen(told(job), "2026-11-29") if v.id in held], "and a run that is kept says nothing of them"
    shop = build(job)
    for id in shop.connections:
        shop.design(id)
    solved = [t.found.rule for t in stand(look(Looked(job, shop)), job.all(Verdict)) if t.stands is Stands.SOLVED]
    assert solved == ["strength"]


def test_pieces_that_stay_are_not_looked_at_again(job, monkeypatch):
    shop = build(job)
    job.follow(shop.follow)
    before = Looked(job, shop)
    first = look(before).found
    looked_at = []
    monkeypatch.setattr(
        "uncus.check.rules.edges._of_piece", lambda _, piece, *__: looked_at.append(piece.owner) or iter(())
    )
    m = beam(job)
    put(job, replace(m, lot="7"))
    assert [f.key for f in look(Looked(job, shop, before=before)).found] == [f.key for f in first]
    near = {id for c in job.all(Connection) if c.member == m.id for id in c.members}
    assert m.id in looked_at and near.issuperset(looked_at), "only what the edit made anew"
