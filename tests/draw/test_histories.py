"""Nothing that went out is lost: a sheet follows its mark and its pieces through changes, splits, deletions and
other marks."""

import random

import pytest
from msgspec.structs import replace
from tests.connect.sound import beam

from uncus.draw.drawn import sheets
from uncus.draw.entry import State
from uncus.draw.histories import History, Place, matched
from uncus.draw.issue import opened
from uncus.draw.keeping import issue_of, revised
from uncus.draw.register import past, register
from uncus.draw.states import why
from uncus.job.job import Job
from uncus.job.records import Attachment, Level, Mark, MarkRules, Project, Series, SheetPreset, ShopRules
from uncus.job.start import SERIES
from uncus.mark.content import mark_id
from uncus.mark.marking import apply, propose
from uncus.shop.shop import build


class Yard:
    """Four like beams and one other, marked, their sheets revised once and sent."""

    def __init__(self, policy="firm"):
        beams = [beam(0, "W12X26", id=f"b{n}", start=(0.0, 900.0 * n)) for n in range(4)]
        self.job = Job([Project(), ShopRules(), MarkRules(policy=policy), *SERIES, *beams,
            beam(0, "W16X31", id="other", start=(0.0, 9000.0))])  # fmt: skip
        self.shop = build(self.job)
        self.job.follow(self.shop.follow)
        self.mark()
        with self.job.change("revise") as change:
            for drawing in revised(self.entries(), "2026-01-01", "FOR CONSTRUCTION"):
                change.put(drawing)
        with self.job.change("send") as change:
            for entry in self.entries():
                change.put(issue_of(entry, "2026-01-02"))

    def entries(self):
        return [e for e in register(self.job, self.shop) if e.kind == "assembly"]

    def entry(self, piece):
        return next(e for e in self.entries() if piece in e.own)

    def mark(self):
        apply(self.job, propose(self.job, self.shop))

    def put(self, *records, drop=()):
        with self.job.change("x") as change:
            for id in drop:
                change.drop(id)
            for record in records:
                change.put(record)

    def past(self):
        return [e for e in past(self.job, self.shop) if e.kind == "assembly"]

    def longer(self, id):
        one = self.job.records[id]
        return replace(one, end=(one.end[0] + 400.0, *one.end[1:]))


def sent(entry):
    return (entry.revision, entry.issue.revision if entry.issue else None)


def test_what_was_sent_stays_with_the_mark_when_the_piece_it_was_kept_by_goes_another_way():
    yard = Yard()
    name, keeper = yard.entry("b0").name, yard.entry("b0").keeper
    others = [id for id in ("b0", "b1", "b2", "b3") if id != keeper]
    yard.put(yard.longer(keeper))
    yard.mark()
    left, new = yard.entry(others[0]), yard.entry(keeper)
    assert left.name == name and sent(left) == ("1", "1") and left.state is State.STALE and why(left)
    assert new.name != name and sent(new) == ("", None) and new.state is State.NEW
    for _ in range(
        2
    ):  # what is done to the new one and sent of it is its own, and takes nothing of the old one's place
        yard.put(*revised([yard.entry(keeper)], "2026-01-10", "OWN"))
        yard.put(issue_of(yard.entry(keeper), "2026-01-11"))
    assert sent(yard.entry(keeper)) == ("2", "2") and sent(yard.entry(others[0])) == ("1", "1")
    assert yard.entry(keeper).keeper != left.keeper
    kept_of_it = {(i.sheet, i.number) for i in yard.job.all(type(left.issue)) if i.kind == "assembly"}
    assert {(name, 1), (new.name, 1), (new.name, 2)} <= kept_of_it
    with yard.job.change("back") as change:
        change.drop(yard.entry(keeper).hand.id)
        for one in [i for i in yard.job.all(type(left.issue)) if i.sheet == new.name]:
            change.drop(one.id)
    yard.put(drop=[keeper])  # and deleted: nothing changes for the mark
    assert sent(yard.entry(others[0])) == ("1", "1") and not yard.past()
    again = revised([yard.entry(others[0])], "2026-02-01", "ONE LESS")
    yard.put(*again)
    yard.put(issue_of(yard.entry(others[0]), "2026-02-02"))
    after = yard.entry(others[1])
    assert sent(after) == ("2", "2") and after.state is State.CURRENT and after.issue.number == 2
    assert len({(i.kind, i.piece) for i in yard.job.all(type(after.issue)) if i.sheet == name}) == 1, "one history"


def test_a_mark_whose_pieces_are_all_gone_or_on_other_sheets_is_still_in_the_register():
    yard = Yard()
    name, picture = yard.entry("other").name, sheets(yard.entry("other"))
    yard.put(drop=["other"])
    (gone,) = yard.past()
    assert (gone.name, gone.state, why(gone)) == (name, State.GONE, ["all of its pieces are gone"])
    assert sheets(gone) == picture == opened(gone.issue.packed)[1], "as it went out"
    yard.job.undo()
    assert not yard.past() and yard.entry("other").state is State.CURRENT
    # made the same as the rest, under their mark
    one = yard.job.records["other"]
    yard.put(replace(one, section="W12X26"))
    yard.put(*(m for m in [yard.job.get(mark_id("other", False), Mark)] if m), drop=[mark_id("other", False)])
    yard.mark()
    (old,) = yard.past()
    assert (
        old.name == name
        and old.state is State.SUPERSEDED
        and why(old) == [f"its pieces are on {yard.entry('b0').name} now"]
    )
    assert sent(yard.entry("b0")) == ("1", "1")


def test_other_marks_take_their_histories_along():
    yard = Yard(policy="loose")
    before = {e.own: e.issue.id for e in yard.entries()}
    yard.put(*(replace(s, prefix="Q") for s in yard.job.all(Series) if s.prefix == "B"))
    yard.mark()
    after = {e.own: e.issue.id if e.issue else "" for e in yard.entries()}
    assert (
        after == before
        and all(e.name.startswith("Q") and "marked" in why(e)[0] for e in yard.entries())
        and not yard.past()
    )


def test_pieces_drawn_anew_under_the_same_mark_go_on_with_its_history():
    yard = Yard()
    one, name = yard.job.records["other"], yard.entry("other").name
    yard.put(replace(one, id="anew"), drop=["other"])
    yard.mark()
    assert yard.entry("anew").name == name, "given back to what is drawn in its place"
    assert sent(yard.entry("anew")) == ("1", "1") and not yard.past()


@pytest.mark.parametrize("seed", range(6))
def test_each_sheet_has_one_history_and_each_history_one_sheet_whatever_the_order(seed):
    rng = random.Random(seed)
    pieces = [f"p{n}" for n in range(30)]
    histories, places = [], []
    for _ in range(8):
        own = rng.sample(pieces, rng.randint(1, 5))
        histories.append(
            History("assembly", own[0], f"B{rng.randint(1, 9)}", frozenset(own), rng.random() < 0.8, None, ())
        )
    left = pieces[:]
    rng.shuffle(left)
    for n in range(9):
        places.append(Place("assembly", f"B{n + 1}", tuple(left[3 * n : 3 * n + 3])))
    unique = list({h.piece: h for h in histories}.values())
    expected = {at: h.piece for at, h in matched(unique, places).items()}
    assert len(set(expected.values())) == len(expected)
    for _ in range(5):
        rng.shuffle(unique)
        rng.shuffle(places)
        assert {at: h.piece for at, h in matched(unique, places).items()} == expected
    for (_, name), piece in expected.items():
        h = next(h for h in unique if h.piece == piece)
        own = next(p.own for p in places if p.name == name)
        assert h.pieces & set(own) or h.sheet == name


def test_a_plan_whose_level_goes_and_plates_that_part_are_kept_as_they_went():
    """Of every kind of sheet: what went out is there, with its picture, or goes on."""
    yard = Yard()
    level = Level(id="low", name="Roof", elevation=2900.0)
    several = SheetPreset(id="p", name="plates", kinds=("part",), several=9)
    tabs = [Attachment(kind="end plates", member=f"b{n}", params={}) for n in range(2)]
    yard.put(level, several, *tabs)
    yard.mark()
    went = [e for e in register(yard.job, yard.shop) if e.kind in ("erection", "plates")]
    assert {e.kind for e in went} == {"erection", "plates"}
    yard.put(*(issue_of(e, "2026-02-01") for e in went))
    before = past(yard.job, yard.shop)
    assert not {e.kind for e in before} & {"erection", "plates"}
    yard.put(drop=["low", "p"])
    found = {e.kind: e for e in past(yard.job, yard.shop)}
    assert found["erection"].state is State.GONE and found["erection"].name == "E1"
    assert found["plates"].state is State.SUPERSEDED and found["plates"].heirs
    assert sheets(found["erection"]) == opened(found["erection"].issue.packed)[1]
    yard.job.undo()
    assert [e.kind for e in past(yard.job, yard.shop)] == [e.kind for e in before]
