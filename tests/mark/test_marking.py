import random

import msgspec
import pytest
from tests.conftest import marked

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Connection, Mark, Member, Role
from uncus.mark.kept import ordered, since_ordered
from uncus.mark.lines import assembly_lines, part_lines
from uncus.mark.marking import Marks, State, apply, natural, propose
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame
from uncus.shop.shop import build


def test_marks_sort_as_people_sort():
    assert sorted(["B10", "B2", "A1", "B2a", "p1"], key=natural) == ["A1", "B2", "B2a", "B10", "p1"]


def test_marking_twice_changes_nothing(job):
    shop = build(job)
    first = propose(job, shop)
    assert all(r.state is State.NEW for r in first.rows)
    assert apply(job, first) > 0
    again = propose(job, shop)
    assert all(r.state is State.KEPT for r in again.rows) and apply(job, again) == 0
    assert job.can_undo == "Apply marks"


def test_a_proposal_does_not_touch_the_job(job):
    before = dict(job.records)
    propose(job, build(job))
    assert dict(job.records) == before


@pytest.mark.parametrize("seed", range(3))
def test_the_order_of_making_does_not_matter(seed):
    def marks(records):
        job = Job(records)
        apply(job, propose(job, build(job)))
        return {m.id: m.mark for m in job.all(Mark)}

    records = boathouse()
    shuffled = list(records)
    random.Random(seed).shuffle(shuffled)
    assert marks(records) == marks(shuffled)


def by(job, **rules):
    with job.change("rules") as change:
        change.put(msgspec.structs.replace(job.mark_rules, **rules))


def test_an_edit_moves_only_its_own_marks_and_no_mark_holds_two_kinds(job):
    by(job, policy="firm")
    shop = build(job)
    job.follow(shop.follow)
    apply(job, propose(job, shop))
    before = {m.id: m.mark for m in job.all(Mark)}
    purlin = next(m for m in job.all(Member) if m.role is Role.PURLIN)
    with job.change("heavier") as change:
        change.put(msgspec.structs.replace(purlin, section="W8X21"))
    marks = Marks(job)
    assert any("changed" in words for words in marks.unmarked(shop.shipped.values()))
    with pytest.raises(JobError, match="Mark them first"):
        marks.require(shop.shipped.values())
    proposal = propose(job, shop)
    moved = [r for r in proposal.rows if r.state is State.MOVED and not r.part]
    assert purlin.id in {p for r in moved for p in r.pieces} and all(r.why for r in moved)
    apply(job, proposal)
    after = {m.id: m.mark for m in job.all(Mark)}
    changed = {k for k in before if before[k] != after[k]}
    assert changed <= {
        f"mark:{k}"
        for r in proposal.rows
        if r.state is not State.KEPT
        for p in r.pieces
        for k in (f"assembly:{p}", f"part:{p}")
    }
    by_mark = {}
    for line in part_lines(shop.shipped.values(), Marks(job)):
        sections = {p.part.section.name if p.part.section else "plate" for p in line.pieces}
        assert len(sections) == 1
        by_mark[line.mark] = sections
    job.undo(), job.undo()
    assert {m.id: m.mark for m in job.all(Mark)} == before
    assert not Marks(job).unmarked(shop.shipped.values())


def test_gaps_are_refilled_and_gone_pieces_lose_their_marks(job):
    shop = build(job)
    job.follow(shop.follow)
    apply(job, propose(job, shop))
    rafter = next(m for m in job.all(Member) if m.role is Role.RAFTER)
    count = len(job.all(Mark))
    with job.change("gone") as change:
        change.drop(rafter.id)
        for c in shop.connections_at(rafter.id):
            change.drop(c.id)
    apply(job, propose(job, shop))
    assert len(job.all(Mark)) < count
    names = [line.mark for line in assembly_lines(shop, Marks(job))]
    columns = [n for n in names if n.startswith("C")]
    assert columns == [f"C{i}" for i in range(1, len(columns) + 1)] and len(names) == len(set(names))


def test_a_frame_has_few_marks_and_each_counts_its_pieces(grid_frame):
    job, shop = grid_frame
    lines = assembly_lines(shop, Marks(job))
    assert sum(len(line.assemblies) for line in lines) == len(shop.shipped)
    assert len(lines) < len(shop.shipped) / 2
    assert len(frame(1, 1)) < len(frame(2, 1)) < len(frame(2, 2))


def test_what_was_ordered_says_of_each_part_and_piece_what_became_of_it():
    """A plate grown thicker is not the one that was ordered; those beside it are, whatever they are called now."""
    job, shop = marked([*frame(1, 1)])
    job.follow(shop.follow)
    tabs = {c.id for c in job.all(Connection) if c.kind == "shear tab"}  # a base plate would change its column too
    assembly = next(a for a in shop.shipped.values() if any(p.maker in tabs for p in a.pieces))
    with job.change("ordered") as change:
        for one in ordered(job, [assembly], "2026-01-01", "AB-1"):
            change.put(one)
    plate = next(p for p in assembly.pieces if p.maker in tabs and p.part.is_plate)
    told = {p.id: since_ordered(job, shop, p.id, True, Marks(job).of_part(p.id)) for p in assembly.pieces}
    assert all("AB-1" in words and "changed" not in words for words in told.values())
    joint = job.get(plate.maker, Connection)
    with job.change("thicker") as change:
        change.put(msgspec.structs.replace(joint, params={**joint.params, "thickness": plate.part.thickness + 3.175}))
    assert "changed since" in since_ordered(job, shop, plate.id, True, "p1")
    main = assembly.main.id
    assert "changed" not in since_ordered(job, shop, main, True, "Z9") and "Z9 now" in since_ordered(
        job, shop, main, True, "Z9"
    )
    assert "changed since" in since_ordered(job, shop, assembly.id, False, "B1")
    assert since_ordered(job, shop, "never", False, "B1") == ""
