"""Things of many parts follow what they hang on, keep what was changed by hand, and go as one."""

import shutil
from pathlib import Path

import msgspec
import numpy as np
import pytest

from tests.compose.cases import STRAIGHT
from tests.compose.test_kinds import composite, job_of
from uncus.compose.carried import carried
from uncus.compose.following import amended
from uncus.compose.kind import part_id
from uncus.compose.making import hung_on, parts
from uncus.frame.moves import mirror_in, move_by, transformed, turn_about
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_frame, plate_in
from uncus.job.blanks import Blank
from uncus.job.composites import Anchor, Composite
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Level, Line, Member, Project, Role
from uncus.mark.sameness import maps
from uncus.shop.shop import build
from uncus.units import Units

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


def _across(x, y, z, section, line=Line.TOP, roll=0.0):
    """A level beam across the way that a flight goes."""
    return Member(id="host", role=Role.BEAM, section=section, start=(x, y - 2000.0, z), end=(x, y + 2000.0, z),
        line=line, roll=roll)  # fmt: skip


@pytest.mark.parametrize(
    ("head", "host", "bolts"),
    [
        ("on a beam's web, with a tab", _across(4682.4, 0.0, 3041.6, "W12X26"), (2, 2)),
        ("hung under a beam, with a plate", _across(4550.0, 0.0, 4000.0, "W12X26"), (4, 4, 4, 4)),
        (
            "against a face, with an end plate",
            _across(4633.0, 0.0, 2914.6, "C10X15.3", Line.CENTRE, 180.0),
            (4, 4),
        ),
    ],
)
def test_the_head_of_a_flight_is_held_by_the_beam_it_was_picked_on_and_follows_it(head, host, bolts):
    anchors = Anchor((0.0, 0.0, 0.0)), hung_on(np.array((4600.0, 0.0, 3048.0)), host, "top")
    job = job_of(host, Composite(id="stair", kind="stair", anchors=anchors, params={"head": head}))
    for up in (0.0, 120.0):
        put(job, transformed(job.get("host", Member), move_by((0.0, 0.0, up))))
        shop = build(job)
        assert not [f.text for f in shop.all_findings if f.severity == "wrong"]
        heads = [a for a in job.all(Attachment) if a.kind == "bolted on"]
        assert sorted(len(shop.connections[a.id].fasteners) for a in heads) == list(bolts)
    askew = replace(host, id="askew", end=(host.end[0] + 900.0, *host.end[1:]))
    if head.startswith(("on", "hung")):
        put(job, askew)
        on = replace(job.get("stair", Composite), anchors=(anchors[0], replace(anchors[1], on="askew")))
        with pytest.raises(JobError, match="square to the flight"):
            put(job, on)


@pytest.mark.parametrize("sign", [1, -1])
def test_climbing_stringers_are_bolted_to_the_face_at_their_head(sign):
    turn = np.radians(-150.0 * sign)
    host = Member(id="host", role=Role.BEAM, section="C10X15.3", start=(400.0, sign * 33.02, 2914.65),
        end=(2600.0, sign * 33.02, 2914.65), line=Line.CENTRE, roll=0.0 if sign > 0 else 180.0)  # fmt: skip
    first = Anchor((float(1000.0 * np.cos(turn)), float(1000.0 * np.sin(turn)), 0.0))
    params = {"about": "between two stringers", "turn": 150.0, "stringer": "C10X15.3", "outer": 1524.0,
        "hand": "to the left" if sign > 0 else "to the right", "head": "against a face, with an end plate"}  # fmt: skip
    anchors = Anchor((0.0, 0.0, 0.0)), first, hung_on(np.array((0.0, 0.0, 3048.0)), host, "top")
    job = job_of(host, Composite(id="stair", kind="winding stair", anchors=anchors, params=params))
    shop = build(job)
    assert not [f.text for f in shop.all_findings if f.severity == "wrong"]
    assert sorted(len(shop.connections[a.id].fasteners) for a in job.all(Attachment) if a.kind == "bolted on") == [4, 4]


def test_a_rail_on_a_stair_follows_what_the_stair_follows_and_goes_with_it_as_one(stair):
    stringer = next(m for m in stair.all(Member) if m.id == part_id("stair", "flight left stringer"))
    ends = tuple(Anchor((x, 0.0, 0.0), stringer.id, "top") for x in (300.0, 5200.0))
    put(stair, Composite(id="a rail", kind="rail", anchors=ends, params={"foot": "welded on"}))

    def of_rail():
        return {m.id: m for m in stair.all(Member) if m.maker == "a rail"}

    before = of_rail()
    put(stair, replace(HIGH, elevation=3300.0))
    now = stair.get("a rail", Composite)
    assert of_rail() == {p.id: p for p in parts(now, stair.records).values() if p.id in
        before}, "as it is made anew on the stringer as it lies now"  # fmt: skip
    assert max(m.start[2] - before[id].start[2] for id, m in of_rail().items()) > 60.0
    both = list(stair.all(Member))
    was = of_rail()
    put(stair, *(transformed(m, move_by((100.0, 40.0, 0.0))) for m in both))
    assert all(m.start[0] == pytest.approx(was[id].start[0] + 100.0) for id, m in of_rail().items()), "moved once"
    stair.undo()
    assert of_rail() == was


def test_a_plate_of_ones_own_goes_with_what_it_is_on():
    beam = Member(id="beam", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(4000, 0, 0), line=Line.TOP)
    frame = Placement((1000.0, 0.0, 6.0), np.column_stack([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]]))
    made = plate_in(frame, Blank(rectangle((0.0, -60.0), (200.0, 60.0))), 12.0, Units.IMPERIAL)
    plate = replace(made, id="plate")
    upright = Placement((1100.0, 0.0, 12.0), np.column_stack([[1.0, 0, 0], [0, 1.0, 0], [0, 0, 1.0]]))
    fin = replace(plate_in(upright, Blank(rectangle((-50.0, 0.0), (50.0, 80.0))), 8.0, Units.IMPERIAL), id="fin")
    job = Job([Project(), beam, plate, fin, Attachment(id="a", member="plate", kind="welded on", mate="beam"),
        Attachment(id="b", member="fin", kind="welded on", mate="plate")])  # fmt: skip
    job.amend(carried)
    for motion in (move_by((50.0, 900.0, -30.0)), turn_about((0, 0, 0), (0, 0, 1), 35.0), turn_about((0, 0, 0),
        (1, 0, 0), 20.0)):  # fmt: skip
        before = {id: job.get(id, Member) for id in ("plate", "fin")}
        put(job, transformed(job.get("beam", Member), motion))
        for id, was in before.items():
            there = job.get(id, Member)
            assert np.allclose(there.start, motion(was.start), atol=1e-3)
            assert np.allclose(plate_frame(there).axes, motion.turn @ plate_frame(was).axes, atol=1e-5)
        assert not [f.text for f in build(job).all_findings]
    where = job.get("plate", Member).start
    put(job, replace(job.get("beam", Member), section="W12X26", right_back=30.0))
    assert job.get("plate", Member).start == where, "a beam that is only cut shorter stays where it is"
    put(job, transformed(job.get("fin", Member), move_by((0.0, 0.0, 5.0))))
    assert job.get("plate", Member).start == where
    job.undo()
    assert not [f.text for f in build(job).all_findings]


def test_things_of_many_parts_out_of_an_older_file_stand_and_are_made_anew_by_a_change(tmp_path):
    """Of the first version that had them: what it made stays as it is until it is changed."""
    path = tmp_path / "old.uncus"
    shutil.copyfile(Path(__file__).parent / "files" / "v15.uncus", path)
    with Job.open(path) as job:
        job.amend(amended)
        kinds = {c.kind: c for c in job.all(Composite)}
        assert set(kinds) == {"rail", "grating", "transition"}
        before = dict(job.records)
        assert not [f.text for f in build(job).all_findings if f.severity == "wrong"]
        put(job, replace(kinds["rail"], params={**kinds["rail"].params, "corners": "bent", "from_end": 300.0}))
        assert (
            any(m.is_rolled for m in job.all(Member) if m.maker == kinds["rail"].id) or len(kinds["rail"].anchors) == 2
        )
        job.undo()
        assert dict(job.records) == before
