"""Things of many parts follow what they hang on, keep what was changed by hand, and go as one."""

import msgspec
import numpy as np
import pytest

from tests.compose.cases import STRAIGHT
from tests.compose.test_kinds import composite, job_of
from uncus.compose.following import amended
from uncus.compose.making import hung_on, parts
from uncus.frame.moves import mirror_in, move_by, transformed, turn_about
from uncus.job.composites import Composite
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Level, Line, Member, Project, Role
from uncus.mark.sameness import maps
from uncus.shop.shop import build

replace = msgspec.structs.replace
LOW, HIGH = Level(id="low", name="Low", elevation=0.0), Level(id="high", name="High", elevation=3048.0)


@pytest.fixture
def stair():
    anchors = tuple(hung_on(np.array(p, dtype=float), level) for p, level in zip(STRAIGHT, (LOW, HIGH), strict=True))
    job = Job([Project(), LOW, HIGH])
    job.amend(amended)
    with job.change("make") as change:
        change.put(Composite(id="stair", kind="stair", anchors=anchors))
    return job


def treads(job):
    found = [m for m in job.all(Member) if m.role is Role.TREAD]
    return sorted(found, key=lambda m: m.start[2])


def put(job, *records, drop=()):
    with job.change("change") as change:
        for record in records:
            change.put(record)
        for id in drop:
            change.drop(id)


def pure(job):
    record = job.get("stair", Composite)
    return {p.id: p for p in parts(record, job.records).values()}


def there(job):
    return {r.id: r for kind in (Member, Connection, Attachment) for r in job.all(kind)}


def test_it_follows_its_levels_with_even_rises_and_keeps_hand_edits(stair):
    third = treads(stair)[2]
    put(stair, replace(third, grade="A572-50"))
    assert stair.get("stair", Composite).hand == {"flight tread 3": {"grade": "A572-50"}}
    for height in (3300.0, 2700.0, 3048.0):
        put(stair, replace(HIGH, elevation=height))
        levels = [m.start[2] for m in treads(stair)]
        assert np.ptp(np.diff(levels)) < 1e-5 and there(stair) == pure(stair)
        assert next(m for m in treads(stair) if m.id == third.id).grade == "A572-50"
        assert not [f for f in build(stair).all_findings if f.severity == "wrong"]


def test_a_part_moved_or_taken_out_by_hand_stays_so(stair):
    second, fifth = treads(stair)[1], treads(stair)[4]
    put(stair, transformed(second, move_by((0.0, 0.0, 12.0))), drop=[fifth.id])
    put(stair, replace(LOW, elevation=100.0))
    assert fifth.id not in stair.records
    assert not [a for a in stair.all(Attachment) if fifth.id in a.members]
    made = {p.id: p for p in parts(replace(stair.get("stair", Composite), hand={}), stair.records).values()}
    assert stair.get(second.id, Member).start[2] == pytest.approx(made[second.id].start[2] + 12.0)
    put(stair, replace(stair.get("stair", Composite), hand={}))
    assert there(stair) == made


@pytest.mark.parametrize("motion", [move_by((300, -200, 50)), turn_about((9, 9, 0), (0, 0, 1), 37.0)])
def test_moved_with_all_its_parts_it_is_moved_itself(stair, motion):
    put(stair, *(transformed(m, motion) for m in stair.all(Member)))
    record = stair.get("stair", Composite)
    assert record.hand == {} and [a.on for a in record.anchors] == ["low", "high"]
    assert there(stair) == pure(stair)
    put(stair, replace(HIGH, elevation=3200.0))
    assert np.ptp(np.diff([m.start[2] for m in treads(stair)])) < 1e-5


def test_a_copy_of_its_parts_is_plain_pieces_and_a_mirror_keeps_them(stair):
    before = there(stair)
    put(stair, *(replace(transformed(m, move_by((0, 5000, 0))), id=f"copy {n}") for n, m in enumerate(treads(stair))))
    assert {m.maker for m in stair.all(Member) if m.id.startswith("copy")} == {""}
    assert {id: r for id, r in there(stair).items() if not id.startswith("copy")} == before
    put(stair, *(transformed(m, mirror_in((0, 0, 0), (0, 1, 0))) for m in stair.all(Member) if m.maker))
    assert stair.get("stair", Composite).hand  # kept as it was put by hand


def test_it_goes_with_its_last_member_and_comes_back_with_it(stair):
    whole = there(stair)
    put(stair, drop=[m.id for m in stair.all(Member)])
    assert not there(stair) and stair.get("stair", Composite) is None
    stair.undo()
    assert there(stair) == whole
    put(stair, drop=["stair"])
    assert not there(stair)
    stair.undo()
    stair.redo()
    assert not there(stair)


def test_made_plain_its_parts_stay_and_follow_no_more(stair):
    whole = there(stair)
    put(stair, *(replace(r, maker="") for r in whole.values()), drop=["stair"])
    put(stair, replace(HIGH, elevation=3300.0))
    assert there(stair) == {id: replace(r, maker="") for id, r in whole.items()}


def test_what_it_hangs_on_may_go_or_make_it_impossible(stair):
    whole = there(stair)
    put(stair, drop=["high"])
    assert there(stair) == whole
    stair.undo()
    with stair.change("flat") as change:
        change.put(replace(HIGH, elevation=-50.0))
    assert there(stair) == whole and stair.past()[-1].label.endswith("as they cannot follow")


def test_a_rail_on_a_beam_goes_where_the_beam_goes_and_lies_on_its_top():
    beam = Member(id="beam", role=Role.BEAM, section="W12X26", start=(0, 0, 3000), end=(5000, 0, 3000), line=Line.TOP)
    ends = tuple(hung_on(np.array(p), beam, "top") for p in ((200.0, 0.0, 3000.0), (4800.0, 0.0, 3000.0)))
    job = job_of(beam, Composite(id="rail", kind="rail", anchors=ends))
    posts = [m for m in job.all(Member) if m.role is Role.POST]
    put(job, replace(beam, start=(0, 0, 3500), end=(5000, 0, 3500)))
    assert all(job.get(m.id, Member).start[2] == pytest.approx(m.start[2] + 500) for m in posts)
    put(job, replace(job.get("beam", Member), section="W16X31", line=Line.BOTTOM))
    shop = build(job)
    assert not [f for f in shop.all_findings if f.severity == "wrong"]
    bolted = [a for a in job.all(Attachment) if a.kind == "bolted on"]
    assert bolted and all(len(shop.connections[a.id].fasteners) == 4 for a in bolted)


def test_any_order_of_changes_comes_to_what_is_made_anew(stair):
    rng = np.random.default_rng(5)
    for _ in range(12):
        record = stair.get("stair", Composite)
        change = int(rng.integers(5))
        if change == 0:
            put(stair, replace(HIGH, elevation=float(rng.integers(2600, 3400))))
        elif change == 1:
            put(stair, replace(record, params={**record.params, "width": float(rng.integers(700, 1300))}))
        elif change == 2:
            one = treads(stair)[int(rng.integers(3))]
            put(stair, replace(one, lot=str(rng.integers(5))))
        elif change == 3 and len(record.hand) < 3:
            put(stair, drop=[treads(stair)[-1].id])
        else:
            stair.undo()
        assert there(stair) == pure(stair)


def test_two_of_one_kind_share_marks_piece_by_piece():
    job = job_of(composite("stair", STRAIGHT, {}), composite("stair", [(x, y + 3000, z) for x, y, z in STRAIGHT], {}))
    pieces = list(build(job).pieces())
    one = [p.part for p in pieces if p.words == "tread"]
    assert len(one) == 2 * len([p for p in pieces if p.words == "tread"]) // 2 and maps(one[0], one[-1])
