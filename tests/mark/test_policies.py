"""Series, policies, typed, unique and issued marks, families, standards and left-out pieces; a run over a lens;
conflicts settled."""

import json
import random

import msgspec
import pytest
from tests.connect.sound import beam, column, girder

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.migrations import records_from
from uncus.job.records import (
    AnyRecord,
    Connection,
    End,
    Fact,
    Grid,
    GridLine,
    IssuedMark,
    Level,
    Mark,
    MarkRules,
    Member,
    Role,
    Series,
    ShopRules,
    StandardPart,
)
from uncus.mark.content import mark_id
from uncus.mark.marker import Marker
from uncus.mark.marking import Marks
from uncus.mark.proposal import Choices, State, apply
from uncus.mark.sameness import maps
from uncus.mark.series import letters
from uncus.mark.standards import as_data, from_json, part_of, picked, taken_in, to_json
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build
from uncus.units import Units

B = Series(id="b", prefix="B", roles=(Role.BEAM,))
P = Series(id="m", prefix="m", roles=("rolled",), parts=True)


class Yard:
    """A job with its shop and marker following, and marks by piece."""

    def __init__(self, *records, **rules) -> None:
        self.job = Job([ShopRules(), MarkRules(**rules), *records])
        self.shop = build(self.job)
        self.marker = Marker(self.job, self.shop)
        self.job.follow(lambda delta: self.marker.follow(delta, self.shop.follow(delta)))

    def put(self, *records, drop=()) -> None:
        with self.job.change("x") as change:
            for id in drop:
                change.drop(id)
            for record in records:
                change.put(record)

    def run(self, choices=Choices(), only=None):
        proposal = self.marker.proposal(choices, only)
        apply(self.job, proposal)
        return proposal

    def mark(self, piece, part=False) -> str:
        found = self.job.get(mark_id(piece, part), Mark)
        return found.mark if found else ""

    def marks(self, part=False) -> dict[str, str]:
        return {m.piece: m.mark for m in self.job.all(Mark) if m.part == part and m.piece in self.shop.assemblies}

    def row(self, piece, part=False):
        return next(r for r in self.marker.proposal().rows if r.part == part and piece in r.pieces)


def beams(*lengths, section="W12X26", **more) -> list[Member]:
    return [
        beam(0, section, id=f"b{i}", length=1000.0 * n, start=(0.0, 900.0 * i), **more) for i, n in enumerate(lengths)
    ]


def changed(member, **values):
    return msgspec.structs.replace(member, **values)


def test_loose_marks_depend_on_nothing_but_the_steel():
    members = beams(5, 4, 5, 6, 3, 4, 7)
    expected = None
    for seed in range(4):
        order = random.Random(seed).sample(members, len(members))
        yard = Yard(B, P)
        for member in order:  # marked after each, in any order of drawing
            yard.put(member)
            yard.run()
        expected = expected or yard.marks()
        assert yard.marks() == expected
    assert sorted(set(expected.values())) == ["B1", "B2", "B3", "B4", "B5"] and expected["b6"] == "B1", "longest first"


@pytest.mark.parametrize("between", [False, True], ids=["at once", "marked between"])
@pytest.mark.parametrize("policy", ["firm", "frozen"])
@pytest.mark.parametrize("turned", [False, True], ids=["the same way", "from its other end"])
def test_a_piece_drawn_anew_gets_its_mark_back(policy, between, turned):
    yard = Yard(B, P, *beams(5, 4, 6), policy=policy)
    yard.run()
    old, part = yard.mark("b1"), yard.mark("b1", True)
    yard.put(drop=["b1"])
    if between:
        yard.run()
    again = beams(5, 4, 6)[1]
    again = changed(again, start=again.end, end=again.start) if turned else again
    yard.put(changed(again, id="new"), *(changed(m, id=f"more {m.id}") for m in beams(8)))
    yard.run()
    assert (yard.mark("new"), yard.mark("new", True)) == (old, part)
    assert yard.mark("more b0") not in (old, "", yard.mark("b0"), yard.mark("b2"))


def test_firm_marks_stay_and_gaps_are_refilled_where_asked():
    for refill, expected in ((True, "B2"), (False, "B4")):
        members = beams(6, 5, 4)
        yard = Yard(B, P, *members, policy="firm", refill=refill)
        yard.run()
        assert yard.marks() == {"b0": "B1", "b1": "B2", "b2": "B3"}
        shorter = (members[2].end[0], *members[1].end[1:])
        yard.put(changed(members[1], end=shorter))
        yard.run()
        assert yard.mark("b1") == "B3" == yard.mark("b2"), "what became the same shares the mark that was there"
        yard.put(changed(beams(9)[0], id="long", start=(0, -9e3, 3000.0), end=(9000.0, -9e3, 3000.0)))
        if refill:
            yard.put(drop=[m.id for m in yard.job.all(Mark) if m.mark == "B2"])
        yard.run()
        assert yard.mark("long") == expected and yard.mark("b0") == "B1"


def test_frozen_marks_ask_before_they_change():
    members = beams(6, 5, 5)
    yard = Yard(B, P, *members, policy="frozen")
    yard.run()
    yard.put(changed(members[1], section="W12X30"))
    assert yard.row("b1").state is State.NEW or yard.row("b1").state is State.MOVED
    yard.run()
    assert (yard.mark("b1"), yard.mark("b2")) == ("B3", "B2"), "the others keep it; the changed one is another piece"
    yard.put(changed(members[0], section="W12X30"))
    row = yard.row("b0")
    assert row.state is State.CONFLICT and "frozen" in row.why
    yard.run()
    assert yard.mark("b0") == "B1", "nothing changes unasked"
    new, keep = row.options
    kept = yard.marker.proposal(keep.choices)
    assert next(r for r in kept.rows if "b0" in r.pieces and not r.part).mark == "B1"
    yard.run(new.choices)
    assert yard.mark("b0") == "B4"


@pytest.mark.parametrize("policy", ["loose", "firm", "frozen"])
def test_marks_of_a_version_with_other_fingerprints_stay_and_a_change_is_still_seen(policy):
    members = beams(6, 5, 4)
    yard = Yard(B, P, *members, policy=policy)
    yard.run()
    was, marks = yard.marks(), yard.job.all(Mark)
    issued = IssuedMark(id="issued:assembly:B3", mark="B3", contents=("of then",), on="2026-11-20")
    older = [
        msgspec.convert(json.loads(body), AnyRecord)
        for one in (*marks, issued)
        for body in records_from(10, msgspec.json.encode(one))
    ]
    assert not any(m.content for m in older[:-1]) and not older[-1].contents
    yard.put(*older)
    again = Yard(*yard.job.records.values(), policy=policy)  # opened, and put back under an open window
    for one in (yard, again):
        assert "older version" in Marks(one.job).unmarked(one.shop.shipped.values())[0]
        assert {r.state for r in one.marker.proposal().rows} == {State.KEPT}
        one.put(changed(members[1], section="W12X30"))
        asked = one.row("b1").state is State.CONFLICT
        assert asked == (policy == "frozen"), "by its form, which marks have where they are kept"
        one.run()
        assert (
            (one.mark("b0"), one.mark("b2")) == (was["b0"], was["b2"]) if policy != "loose" else one.mark("b2") == "B3"
        )
        assert not Marks(one.job).unmarked(a for id, a in one.shop.shipped.items() if id != "b1")


@pytest.mark.parametrize("policy", ["loose", "firm", "frozen"])
def test_an_issued_mark_never_goes_to_another_piece(policy):
    members = beams(6, 5)
    yard = Yard(B, P, *members, policy=policy)
    yard.run()
    contents = {m.piece: m.content for m in yard.job.all(Mark) if not m.part}
    yard.put(IssuedMark(id="issued", mark="B1", contents=(contents["b0"],), on="2026-11-20"))
    yard.put(beam(0, id="longest", length=9000.0, start=(0, -2000.0)))
    yard.run()
    assert yard.mark("b0") == "B1" and yard.mark("longest") not in ("B1", "")
    yard.put(changed(members[0], section="W12X30"))
    row = yard.row("b0")
    assert row.state is State.CONFLICT and "issued" in row.why
    assert {o.words for o in row.options} == {"a new mark", "keep B1, to be issued again"}
    yard.run(row.options[0].choices)
    assert yard.mark("b0") not in ("B1", "") and "B1" not in yard.marks().values()
    yard.put(changed(members[0], id="again"))
    yard.run()
    assert "B1" in (yard.mark("again"), "B1") and all(
        m != "B1" for p, m in yard.marks().items() if p not in ("again", "b0")
    )


@pytest.mark.parametrize("policy", ["loose", "firm", "frozen"])
def test_a_frozen_mark_that_is_typed_on_another_piece_stays_and_is_asked_about(policy):
    yard = Yard(B, P, *beams(6, 5, 4), policy=policy)
    yard.run()
    was = yard.marks()
    yard.put(changed(yard.job.get(mark_id("b2", False), Mark), mark=was["b0"], how="typed"))
    frozen = policy == "frozen"
    assert yard.row("b0").mark == was["b0"] if frozen else yard.row("b0").mark != was["b0"]
    assert (yard.row("b2").state is State.CONFLICT) == frozen
    if frozen:
        assert "is the mark of 1 other piece" in yard.row("b2").why
        _, swap = yard.row("b2").options
        yard.run(swap.choices)
        assert yard.mark("b2") == was["b0"] != yard.mark("b0")


def test_a_mark_typed_by_hand_is_kept_and_a_clash_is_settled():
    yard = Yard(B, P, *beams(6, 5, 4))
    yard.run()
    typed = changed(yard.job.get(mark_id("b2", False), Mark), mark="B1", how="typed")
    yard.put(typed)
    yard.run()
    assert yard.marks() == {"b2": "B1", "b0": "B2", "b1": "B3"}, "the others make room"
    yard.put(changed(yard.job.get(mark_id("b0", False), Mark), mark="B1", how="typed"))
    rows = [r for r in yard.marker.proposal().rows if r.state is State.CONFLICT]
    assert len(rows) == 1 and len(rows[0].options) == 2
    proposal = yard.run(rows[0].options[1].choices)
    assert not proposal.count(State.CONFLICT) and len(set(yard.marks().values())) == 3
    assert sum(m.how == "typed" for m in yard.job.all(Mark)) == 1


def test_unique_and_left_out_pieces():
    yard = Yard(B, P, *beams(5, 5, 5, 5))
    yard.run()
    assert set(yard.marks().values()) == {"B1"}
    yard.put(changed(yard.job.get(mark_id("b1", False), Mark), how="unique"),
        changed(yard.job.get(mark_id("b2", False), Mark), mark="", how="left out"))  # fmt: skip
    proposal = yard.run()
    marks = yard.marks()
    assert marks["b0"] == marks["b3"] != marks["b1"] != "" and marks["b2"] == ""
    assert proposal.count(State.LEFT_OUT) == 1
    yard.put(changed(yard.job.get(mark_id("b1", False), Mark), how=""))
    yard.run()
    assert yard.mark("b1") == yard.mark("b0")


def test_series_by_lens_step_and_figures_and_a_range_that_runs_into_the_next():
    long = Series(id="long", prefix="B", roles=(Role.BEAM,), start=100, step=10, pad=3,
        members=Fact("length", "over", "6500 mm"), order=-1)  # fmt: skip
    short = Series(id="short", prefix="B", roles=(Role.BEAM,), start=98)
    yard = Yard(long, short, P, *beams(8, 7, 5, 4))
    yard.run()
    assert yard.marks() == {"b0": "B100", "b1": "B110", "b2": "B98", "b3": "B99"}
    yard.put(beam(0, id="one more", length=3000.0, start=(0, -900.0)))
    row = yard.row("one more")
    assert row.state is State.CONFLICT and "B99 is the last" in row.why
    shift, beyond = row.options
    yard.run(beyond.choices)
    assert yard.mark("one more") not in ("", "B100", "B110") and yard.mark("b0") == "B100"
    yard.job.undo()
    yard.run(shift.choices)
    marks = yard.marks()
    assert marks["one more"] == "B100" and marks["b0"] == "B200" and marks["b1"] == "B210"
    assert yard.job.get("long", Series).start == 200


def test_families_share_a_number_and_differ_by_a_letter():
    yard = Yard(
        B, P, *beams(6, 5, 5, 4), *(changed(m, id=f"w{m.id}") for m in beams(3, section="W16X31")), families="length"
    )
    yard.run()
    marks = yard.marks()
    assert marks["wb0"] == "B1a" and {marks[f"b{i}"] for i in range(4)} == {"B2a", "B2b", "B2c"}
    yard.put(changed(yard.job.mark_rules, policy="firm", families="length"))
    yard.put(beam(0, id="other", length=2000.0, start=(0, -900.0)))
    yard.run()
    assert yard.mark("other") == "B2d" and yard.mark("b0") == marks["b0"]
    assert [letters(n) for n in (0, 25, 26, 27, 701, 702)] == ["a", "z", "aa", "ab", "zz", "aaa"]


def test_standard_parts_have_their_mark_in_every_job():
    first = Yard(B, P, *beams(6, 5))
    part = first.shop.assemblies["b1"].main.part
    standard = StandardPart(id="s", mark="STD-7", shape=as_data(part))
    other = Yard(B, P, standard, *beams(4, 5, 3))
    other.run()
    assert other.mark("b1", True) == "STD-7" and other.mark("b0", True) != "STD-7"
    other.put(changed(other.job.get("b1", Member), section="W12X30"))
    other.run()
    assert other.mark("b1", True) != "STD-7"


def test_a_library_of_standard_parts_goes_from_job_to_job():
    first = Yard(P, *boathouse())
    first.run()
    pieces = [(p, first.job.get(mark_id(p.id, True), Mark).mark) for p in first.shop.pieces()]
    made = picked(pieces, (), Units.IMPERIAL)
    assert len(made) == len({mark for _, mark in pieces}) and not picked(pieces, made, Units.IMPERIAL)
    read = from_json(to_json(made))
    assert [part_of(s.shape) for s in read] == [part_of(s.shape) for s in made]
    assert all(any(maps(p.part, part_of(s.shape)) for s in read if s.mark == mark) for p, mark in pieces)
    second = Yard(P, *(r for r in boathouse() if r.id != "series plates"))
    second.put(*taken_in(second.job, [msgspec.structs.replace(s, mark=f"S-{s.mark}") for s in read]))
    second.run()
    assert all(second.mark(p.id, True) == f"S-{mark}" for p, mark in pieces)
    data = to_json(made)
    for bad in (b"{", data.replace(b"W12X26", b"W12X999"), data.replace(b'"kind": "hole"', b'"kind": "well"'),
        data.replace(b"parts 1", b"parts 9")):  # fmt: skip
        with pytest.raises(JobError):
            from_json(bad)


def test_a_run_over_some_pieces_leaves_the_rest():
    yard = Yard(B, P, *beams(6, 5, 4, 5))
    yard.run(only=frozenset(["b1", "b2"]))
    assert yard.mark("b1") and yard.mark("b2") and not yard.mark("b0") and not yard.mark("b3")
    before = yard.marks()
    yard.run(only=frozenset(["b0", "b3"]))
    after = yard.marks()
    assert {k: after[k] for k in before} == before and after["b3"] == after["b1"] and after["b0"] not in before.values()


@pytest.mark.parametrize("policy", ["loose", "firm", "frozen"])
@pytest.mark.parametrize("seed", [1, 2])
def test_following_edits_gives_what_sorting_anew_gives(policy, seed):
    rng = random.Random(seed)
    # series that ask for a level, a place by the grid and the joints at a piece, which may change while the piece does
    # not
    lensed = [changed(B, id=f"by {fact.fact}", prefix=prefix, members=fact, order=-1) for prefix, fact
        in (("L", Fact("level", "is", "Upper")), ("G", Fact("place", "has", "B")),
        ("J", Fact("joint", "is", "shear tab")))]  # fmt: skip
    levels = [Level(id="low", name="Lower", elevation=0.0), Level(id="high", name="Upper", elevation=6000.0)]
    grid = Grid(id="grid", numbers=(GridLine("1", 0.0),), letters=(GridLine("A", 0.0), GridLine("B", 40_000.0)))
    posts = [column("W14X90", id="post", roll=90), girder("W24X55", id="over", z=9000.0)]
    yard = Yard(B, P, *lensed, *levels, grid, *posts, *beams(6, 5, 4, 5, 6), policy=policy)

    def rows(marker):
        return sorted(
            (r.mark, r.state, r.part, tuple(sorted(r.pieces)), r.before, r.why) for r in marker.proposal().rows
        )

    for step in range(40):
        members = [m for m in yard.job.all(Member) if m.id not in ("post", "over")]
        one = rng.choice(members)
        how = rng.randrange(9)
        if how == 6:
            yard.put(changed(yard.job.get("high", Level), elevation=rng.choice([2900.0, 6000.0, 9000.0])))
        elif how == 7:
            at = rng.choice([900.0, 1800.0, 40_000.0])
            yard.put(changed(grid, letters=(GridLine("A", 0.0), GridLine("B", at))))
        elif how == 8:
            id = "joint"
            joint = Connection(
                id=id, kind=rng.choice(["shear tab", "double angle"]), member="b0", end=End.LEFT, support="post"
            )
            yard.put(joint) if id not in yard.job.records else yard.put(drop=[id])
        elif how == 0 and len(members) > 2:
            yard.put(drop=[one.id])
        elif how == 1:
            yard.put(
                changed(
                    one,
                    id=f"n{step}",
                    start=(0, 1e4 + step * 900.0, 3000.0),
                    end=(one.end[0], 1e4 + step * 900.0, 3000.0),
                )
            )
        elif how == 2:
            yard.put(changed(one, section=rng.choice(["W12X26", "W12X30", "W16X31"])))
        elif how == 3 and (mark := yard.job.get(mark_id(one.id, False), Mark)):
            yard.put(
                changed(mark, how=rng.choice(["", "unique", "left out", "typed"]))
                if mark.mark
                else changed(mark, how="")
            )
        elif how == 4:
            yard.run()
        elif yard.job.can_undo:
            yard.job.undo()
        assert rows(yard.marker) == rows(Marker(yard.job, build(yard.job)))
    proposal = yard.run()
    used = {}
    for row in proposal.rows:
        if row.state not in (State.CONFLICT, State.LEFT_OUT):
            assert used.setdefault((row.part, row.mark), row) is row or policy == "frozen", "no mark is given twice"
    apply(yard.job, proposal)
    assert apply(yard.job, yard.marker.proposal()) == 0, "applied twice, nothing changes"
