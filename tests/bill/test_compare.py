"""What changed, told exactly: a table of known edits, in pieces and kilograms; ordered lengths; kept lists."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.bill.advance import advance_lengths, keep_advance, length_ordered
from uncus.bill.changes import change_tables
from uncus.bill.compare import SERVES, SHORT, compare, in_words, summed
from uncus.bill.stood import of_package, pieces_bytes, pieces_of, stood
from uncus.job.billing import AdvanceRules, Allowance, Stood
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Mark, Member, Role
from uncus.mark.marking import Marks, apply, propose
from uncus.shop.shop import build
from uncus.units import Units

BEAMS = {
    "b1": ("W12X26", (0, 0, 0), (6000, 0, 0)),
    "b2": ("W12X26", (0, 3000, 0), (6000, 3000, 0)),
    "b3": ("W16X36", (0, 6000, 0), (9000, 6000, 0)),
    "b4": ("L4X4X1/4", (0, 9000, 0), (2000, 9000, 0)),
}


def job_of(beams=BEAMS):
    job = Job([Member(id=id, role=Role.BEAM, section=s, start=a, end=b) for id, (s, a, b) in beams.items()])
    apply(job, propose(job, build(job)))
    return job


def parts(job):
    shop = build(job)
    return stood(job, shop, Marks(job, shop.carried))


def edited(**change):
    """The job with `b1` changed, its marks as they were."""
    job = job_of()
    with job.change("x") as c:
        c.put(msgspec.structs.replace(job.get("b1", Member), **change))
    return job


W26 = 26 * 0.45359237 / 0.3048  # kg/m


def split():
    job = job_of()
    with job.change("x") as c:
        one = job.get("b1", Member)
        c.put(msgspec.structs.replace(one, end=(2000.0, 0, 0)))
        c.put(msgspec.structs.replace(one, id="b1 half", start=(2000.0, 0, 0)))
    return job


def remarked():
    job = job_of()
    with job.change("x") as c:
        for mark in job.all(Mark):
            if mark.piece == "b1":
                c.put(msgspec.structs.replace(mark, mark="Z9"))
    return job


def unmarked():
    return Job([r for r in job_of().records.values() if not isinstance(r, Mark)])


@pytest.mark.parametrize(
    ("now", "told"),
    [
        (job_of, {}),
        (lambda: edited(start=(0, 0, 500.0), end=(6000, 0, 500.0)), {"b1": (("moved",), 0, 0.0)}),
        (lambda: edited(start=(250.0, 0, 0), end=(6250.0, 0, 0)), {"b1": (("moved",), 0, 0.0)}),
        (lambda: edited(roll=90.0), {"b1": (("moved",), 0, 0.0)}),
        (lambda: edited(section="W12X30"), {"b1": (("section",), 0, None)}),
        (lambda: edited(end=(6500.0, 0, 0)), {"b1": (("length",), 0, 0.5 * W26)}),
        (lambda: edited(end=(6003.0, 0, 0)), {"b1": (("length",), 0, 0.003 * W26)}),
        (unmarked, {}),
        (lambda: edited(end=(6000.5, 0, 0)), {"b1": (("detail",), 0, None)}),
        (lambda: edited(lot="2"), {"b1": (("lot",), 0, 0.0)}),
        (lambda: edited(grade="A572-50"), {"b1": (("grade",), 0, 0.0)}),
        (remarked, {"b1": (("mark",), 0, 0.0)}),
        (split, {"b1": (("length",), 0, -4.0 * W26), "b1 half": (("added",), 1, 4.0 * W26)}),
        (lambda: job_of({k: v for k, v in BEAMS.items() if k != "b1"}), {"b1": (("gone",), -1, -6.0 * W26)}),
    ],
)
def test_known_edits_are_told_exactly(now, told):
    found = compare(parts(job_of()), parts(now()))
    assert {d.id: d.kinds for d in found.differences} == {id: kinds for id, (kinds, _, _) in told.items()}
    for d in found.differences:
        _, pieces, kg = told[d.id]
        assert d.pieces == pieces and d.words
        if kg is not None:
            assert d.kg == pytest.approx(kg, abs=0.02)
    if not told:
        assert in_words(found, Units.METRIC).startswith("Nothing changed")


def test_a_mirrored_piece_is_told_by_its_parts():
    """Two angles cut alike on the other hand: the same section, grade and length, and other steel."""
    one = Stood(id="p", owner="p", mark="m1", section="L4X4X1/4", grade="A36", length=1000.0, kg=9.8, form="left")
    other = msgspec.structs.replace(one, form="right")
    (d,) = compare([one], [other], why=lambda id: ["the other hand"]).differences
    assert d.kinds == ("detail",) and d.words == "the other hand" and d.kg == 0.0


@given(st.integers(0, 2**32))
def test_sums_are_what_both_sides_differ_by(seed):
    """Whatever changed: pieces and kg of all differences, one by one and put together, are those of the totals; and
    the other way round they come back."""
    import random

    lot = random.Random(seed)

    stuff = ["W12X26", "PL 9.53 x 100.0", "PL 9.53 x 100.4"]

    def one(id):
        grade, long = lot.choice(["A36", "A992"]), lot.choice([1000.0, 1000.6, 3000.0])
        return Stood(id=id, owner=id, mark=f"m{id}", section=lot.choice(stuff), grade=grade, length=long,
            kg=lot.uniform(1, 500), lot=lot.choice("12"))  # fmt: skip

    def some():
        return {id: one(id) for id in map(str, lot.sample(range(30), 20))}

    a, b = some(), some()
    there, back = compare(a.values(), b.values()), compare(b.values(), a.values())
    change = there.after[1] - there.before[1]
    quiet = sum(b[i].kg - a[i].kg for i in a.keys() & b.keys() if i not in {d.id for d in there.differences})
    assert sum(d.kg for d in there.differences) + quiet == pytest.approx(change, abs=0.2)
    assert sum(s.kg for s in summed(there.differences)) == pytest.approx(sum(d.kg for d in there.differences))
    assert sum(d.pieces for d in there.differences) == there.after[0] - there.before[0]
    assert {d.id for d in there.differences} == {d.id for d in back.differences}
    for table in change_tables(there, Units.METRIC):
        assert all(len(row) == len(table.columns) for row in table.rows)


def test_lengths_are_ordered_by_rule_and_looked_at_again():
    rules = AdvanceRules(
        step=100.0, allowances=(Allowance(more=20.0, mitre=30.0), Allowance("W16", more=5.0, share=0.01))
    )
    job = job_of()
    shop = build(job)
    marks = Marks(job, shop.carried)
    found = advance_lengths(shop.shipped.values(), marks, rules, lambda a: a.member.id != "b4")
    assert {o.piece: o.ordered for o in found} == {"b1": 6100.0, "b2": 6100.0, "b3": pytest.approx(9100.0)}
    part = shop.assemblies["b1"].main.part
    mitred = msgspec.structs.replace(part, left=msgspec.structs.replace(part.left, kz=0.5))
    assert length_ordered(mitred, 0.0, msgspec.structs.replace(rules, step=0.0)) == pytest.approx(part.length + 50.0)
    with job.change("order") as c:
        for record in keep_advance(job, list(shop.shipped.values()), found, "2026-11-29", "AB-1"):
            c.put(record)
    cambered = AdvanceRules(step=0.0, allowances=(Allowance(more=20.0, camber=7.0),))
    assert [length_ordered(part, up, cambered) - part.length for up in (0.0, 12.0)] == pytest.approx([20.0, 27.0])
    assert keep_advance(job, list(shop.shipped.values()), found, "2026-12-01", "AB-2") == [], "kept for good"
    then = parts(job)
    for long, how in ((6050.0, SERVES), (6100.9, SERVES), (6300.0, SHORT)):
        later = Job(job.records.values())
        with later.change("x") as c:
            c.put(msgspec.structs.replace(later.get("b1", Member), end=(long, 0, 0)))
        looked = {o.was.id: o.how for o in compare(then, parts(later)).ordered}
        assert looked == {"b1": how, "b2": SERVES, "b3": SERVES}
    with job.change("bare") as c:
        for mark in job.all(Mark):
            c.drop(mark.id)
    shop = build(job)
    bare = advance_lengths(shop.shipped.values(), Marks(job), rules, lambda a: True)
    with pytest.raises(JobError, match="mark them first"):
        keep_advance(job, list(shop.shipped.values()), bare, "2026-11-29", "AB-3")


def test_a_package_says_which_pieces_it_held(sample, tmp_path):
    job, shop = sample
    whole = pieces_of(job, shop, Marks(job, shop.carried))
    all_ = whole.parts
    (tmp_path / "bills").mkdir()
    (tmp_path / "bills" / "pieces.json").write_bytes(pieces_bytes(whole))
    assert not compare(of_package(tmp_path), all_).differences
    for data in (b"{}", b'{"job": "", "number": "", "parts": [], "format": "x"}', b"\xff"):
        (tmp_path / "bills" / "pieces.json").write_bytes(data)
        with pytest.raises(JobError):
            of_package(tmp_path)
    with pytest.raises(JobError, match="does not say"):
        of_package(tmp_path / "nowhere")


def test_the_same_building_made_again_has_not_changed(sample):
    job, shop = sample
    again = Job(job.records.values())
    assert not compare(stood(job, shop, Marks(job, shop.carried)), parts(again)).differences
