import json

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.draw.above import above
from uncus.draw.keeping import issue_of
from uncus.draw.register import register
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Both, Connection, Drawing, Either, Fact, Lens, Level, Mark, Member, Not, Role, Series
from uncus.lens.criteria import chosen, from_json, lens_named, passes, to_json
from uncus.lens.facts import FACTS, Relation, relations
from uncus.lens.grammar import read, write
from uncus.lens.unmet import unmet
from uncus.mark.marking import propose
from uncus.shop.shop import build

ROLE, LOT = Fact("role", "is", "beam"), Fact("lot", "is", "3")


@pytest.mark.parametrize(
    ("text", "rule"),
    [
        ("role is beam", ROLE),
        ("Role IS beam AND lot is 3", Both((ROLE, LOT))),
        ("role is beam or lot is 3 and role is beam", Either((ROLE, Both((LOT, ROLE))))),
        ("(role is beam or lot is 3) and role is beam", Both((Either((ROLE, LOT)), ROLE))),
        ("not (role is beam and not lot is 3)", Not(Both((ROLE, Not(LOT))))),
        ("lot is not 3", Not(LOT)),
        ('finish is "shop (grey) and site"', Fact("finish", "is", "shop (grey) and site")),
        ("role is eaves beam and weight over 1.5 t", Both((Fact("role", "is", "eaves beam"),
            Fact("weight", "over", "1.5 t")))),
        ("length under 12'-6 1/2", Fact("length", "under", "12'-6 1/2")),
        ("mark is", Fact("mark", "is", "")),
        ("", Both()),
        ("not anything", Not(Both())),
    ],
)  # fmt: skip
def test_typed_lenses(text, rule):
    assert read(text) == rule
    assert read(write(rule)) == rule


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("colour is red", "known are"),
        ("role", "relation is needed"),
        ("role is", "what it is compared with is missing: column, beam, "),
        ("lot is 3 or weight over", "is missing: a weight"),
        ("role over 3", "cannot be asked"),
        ("(role is beam", "not closed"),
        ('role is "beam', "not closed"),
        ("role is beam)", "does not belong"),
        ("role is beam and", "the end"),
        ("weight over much", "weight such as"),
        ("length over 3 stones", "not a length"),
        ("not " * 100 + "role is beam", "too deeply"),
        ("(" * 3000, "too deeply"),
        ("x" * 5000, "too long"),
    ],
)
def test_what_cannot_be_read_says_why(text, says):
    with pytest.raises(JobError, match=says):
        read(text)


def _rows():
    def value(fact):
        if FACTS[fact].measure:
            return st.integers(0, 999).map(str)
        return st.text(st.characters(codec="ascii", exclude_characters="\"'", min_codepoint=32), max_size=12)

    pair = st.sampled_from(sorted(FACTS)).flatmap(
        lambda f: st.tuples(st.just(f), st.sampled_from(relations(f)), value(f))
    )
    return pair.map(lambda t: Fact(t[0], str(t[1]), t[2]))  # fmt: skip


RULES = st.recursive(
    _rows(),
    lambda inner: (
        inner.map(Not)
        | st.lists(inner, min_size=2, max_size=3).map(lambda of: Both(tuple(of)))
        | st.lists(inner, min_size=2, max_size=3).map(lambda of: Either(tuple(of)))
    ),
    max_leaves=6,
)


@given(RULES)
def test_what_is_written_reads_back_as_the_same_rule(rule):
    assert read(write(rule)) == rule


@given(RULES)
def test_files_bring_the_same_lenses_back(rule):
    lens = Lens(name="one", rule=rule)
    assert from_json(to_json([lens])) == [lens]


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("role is column", 12),
        ("role is column or role is post", 16),
        ("not role is column", 72),
        ("section begins w12 and not lot is 3", 16),
        ("length over 20' and role is column", 12),
        ("length under 20' and role is column", 0),
        ("shape is tube", 17),
        ("grade begins A500 and shape is tube", 17),
        ("finish is galvanized and role is column", 0),
        ("finish has primer and role is column", 12),
        ("joint is base plate", 16),
        ("bolts is anchor rod", 16),
        ("state is unmarked and mark is", 84),
        ("findings is some", 0),
        ("level is Club room and role is beam", 26),
        ("place has 2 and role is column", 3),
        ("attachment is none", 79),
        ("part is base plate", 16),
        ("part has tab and role is column", 12),
        ("part mark is ", 84),
        ("sheet state is not sent", 84),
        ("anything", 84),
        ("nothing", 0),
    ],
)
def test_facts_on_the_sample_job(boathouse_steel, text, count):
    job, shop = boathouse_steel
    found = chosen(read(text), job, shop, above(job, shop))
    assert len(found) == count
    opposite = chosen(Not(read(text)), job, shop, above(job, shop))
    assert set(found) | set(opposite) == set(shop.assemblies) and not set(found) & set(opposite)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("role is beem", "No piece has a role “beem”; is “beam” meant?"),
        ("not role is collumn or lot is 3", "is “column” meant?"),
        ("level is Club rom and role is beam", "is “Club room” meant?"),
        ("section begins X12", "No piece has a section that begins with “X12”; there are HSS"),
        ("role is beam and length over 20' and mark is ", None),
        ("worklist is on", "there are off"),
    ],
)
def test_words_that_no_piece_has_are_said(boathouse_steel, text, says):
    job, shop = boathouse_steel
    said = unmet(read(text), job, shop, above(job, shop))
    assert (not said) if says is None else (len(said) == 1 and says in said[0]), said


@pytest.fixture(scope="module")
def boathouse_steel():
    from uncus.sample.boathouse import boathouse
    from uncus.shop.shop import build

    job = Job(boathouse())
    return job, build(job)


def test_a_lens_is_found_by_name_or_typed_in_its_place(boathouse_steel):
    job, shop = boathouse_steel
    assert chosen(lens_named(job, " COLUMNS ").rule, job, shop) == chosen(read("role is column"), job, shop)
    assert lens_named(job, "lot is 3").rule == LOT
    with pytest.raises(JobError, match="there are: “columns”, “roof”"):
        lens_named(job, "walls")
    with pytest.raises(JobError, match="which is not known"):
        passes(Fact("colour", "is", "red"), job, shop)


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"[]",
        b'{"lenses": [{"type": "Lens", "name": "x", "rule": {"type": "Fact", "fact": "colour", "relation": "is"}}]}',
        b'{"lenses": [], "format": "other"}',
        b'{"lenses": [{"type": "Lens", "name": " "}]}',
        b'{"lenses":[{"type":"Lens","name":"x","rule":' + b'{"type":"Not","of":' * 900 + b"1" + b"}" * 900 + b"}]}",
        json.dumps({"lenses": [{"type": "Lens", "name": "x", "rule": {"type": "Fact"}}]}).encode(),
    ],
)
def test_files_that_hold_no_lenses_say_so(data):
    with pytest.raises(JobError):
        from_json(data)


@pytest.mark.parametrize(
    ("z", "top", "names"),
    [(100, 100, "A"), (3000, 3000, "A"), (3800, 4200, "B"), (9000, 9000, "C"), (-900, -900, ""), (-100, 4100, "A, B")],
)
def test_a_piece_is_on_the_level_of_its_ends_or_else_on_the_next_one_below(z, top, names):
    levels = [Level(name=name, elevation=4000.0 * i) for i, name in enumerate("ABC")]
    beam = Member(id="b", role=Role.BEAM, section="W12X26", start=(0, 0, z), end=(5000, 0, top))
    job = Job([*levels, beam])
    shop = build(job)
    assert {x.name for x in levels if chosen(read(f"level is {x.name}"), job, shop)} == set(
        filter(None, names.split(", "))
    )


def test_every_relation_is_said_in_words():
    assert all(relation.words for relation in Relation) and all(relations(fact) for fact in FACTS)


def test_marks_and_the_worklist_can_be_asked_for(sample):
    job = Job(sample[0].records.values())
    shop = build(job)
    first = next(m for m in job.all(Mark) if m.mark == "B3" and not m.part)
    alike = {m.piece for m in job.all(Mark) if m.mark == "B3" and not m.part}
    assert set(chosen(read("mark is B3"), job, shop)) == alike and not chosen(read("state is unmarked"), job, shop)
    with job.change("flag") as change:
        change.put(Drawing(id="d", piece=first.piece, kind="assembly", flags=("worklist",)))
    assert set(chosen(read("worklist is on"), job, shop, above(job, shop))) == alike
    mixed = read("worklist is on and role is beam")  # what is known only from above beside what is not
    assert set(chosen(mixed, job, shop, above(job, shop))) == alike


def test_what_decides_a_thing_cannot_ask_for_what_is_made_from_it(sample):
    job, shop = Job(sample[0].records.values()), sample[1]
    for text in ("sheet is sent", "not (worklist is on)", "role is beam and (length over 10' or findings is some)"):
        with pytest.raises(JobError, match="known only after"):
            passes(read(text), job, shop)
        assert passes(read(text), job, shop, above(job, shop))
    series = next(s for s in job.all(Series) if not s.parts)
    with job.change("a circle") as change:
        change.put(msgspec.structs.replace(series, members=read("mark is B1")))
    with pytest.raises(JobError, match="“mark” cannot be asked here"):
        propose(job, shop)


def test_stale_and_current_sheets_can_be_asked_for(sample):
    job = Job(sample[0].records.values())
    shop = build(job)
    job.follow(shop.follow)
    with job.change("sent") as change:
        for entry in register(job, shop):
            change.put(issue_of(entry, "2026-11-01", copy="-"))
    tab = next(c for c in job.all(Connection) if c.kind == "shear tab")
    with job.change("thicker") as change:
        change.put(msgspec.structs.replace(tab, params={"thickness": 15.875}))
    stale = set(chosen(read("sheet state is stale"), job, shop, above(job, shop)))
    of_register = {p for e in register(job, shop) if e.kind == "assembly" and e.state == "stale" for p in e.pieces}
    assert stale == of_register and tab.support in stale
    fresh = chosen(read("sheet state is current"), job, shop, above(job, shop))
    assert set(fresh) == set(shop.assemblies) - stale


def test_a_sheet_counts_as_sent_for_the_pieces_it_shows_whatever_they_are_called_now(sample):
    job = Job(sample[0].records.values())
    shop = build(job)
    entry = next(e for e in register(job, shop) if e.name == "B3")
    with job.change("sent") as change:
        change.put(issue_of(entry, "2026-02-01"))
    assert set(chosen(read("sheet is sent"), job, shop, above(job, shop))) == set(entry.own)
    with job.change("renamed") as change:
        for mark in [m for m in job.all(Mark) if m.mark in ("B3", "B4") and not m.part]:
            change.put(msgspec.structs.replace(mark, mark={"B3": "B4", "B4": "B3"}[mark.mark]))
    assert set(chosen(read("sheet is sent"), job, shop, above(job, shop))) == set(entry.own)
