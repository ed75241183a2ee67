"""Every kind of record goes to the file and comes back the same."""

import pytest

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import (
    Both,
    Connection,
    Double,
    Either,
    End,
    Fact,
    Grid,
    GridLine,
    Guide,
    Layout,
    Leg,
    Lens,
    Level,
    Line,
    Loads,
    Mark,
    Measured,
    Member,
    Not,
    Project,
    Role,
    Series,
    ShopRules,
    View,
    ViewFrame,
    ViewKind,
    WorkPlane,
)
from uncus.units import Units


def beam(**values) -> Member:
    return Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(6000, 0, 0), **values)


RECORDS = [
    Project(name="Ünïcode “job”", number="7", units=Units.METRIC, finish=""),
    Grid(
        id="g",
        numbers=(GridLine("1", 0.1), GridLine("2", 1 / 3, turn=-12.5, first=0.0, last=9e3)),
        letters=(GridLine("A", -5.0),),
    ),
    Level(id="l", name="Floor", elevation=-0.1),
    Member(
        id="m",
        role=Role.HANGER,
        section="L4X4X3/8",
        start=(0.1, 0.2, 0.3),
        end=(1e5, -1e5, 1 / 7),
        roll=33.3,
        line=Line.BOTTOM,
        camber=12.7,
        double=Double(layout=Layout.STAR, leg=Leg.SHORT, gap=12.7, stitches=3, spacing=None),
    ),
    Connection(
        id="c",
        kind="shear tab",
        member="m",
        end=End.RIGHT,
        support=None,
        params={"rows": 3, "bolt": "3/4", "gap": 12.7},
        loads=Loads(shear=1e5, axial=-2e4),
    ),
    ShopRules(pitch=70.5),
    Series(id="s", prefix="B", roles=("beam",), start=100, parts=True),
    Mark(id="mark:x", piece="m", mark="B1", content="abc", part=True),
    Lens(id="n", name="roof", rule=Either((Fact("lot", "is", "3"), Not(Both((Fact("role", "is", "beam"),)))))),
    WorkPlane(id="w", name="north wall", origin=(0.1, 2, 3), x=(1, 0, 0), y=(0, 0, 1), depth=-3.5),
    Guide(id="gu", a=(0, 0, 0), b=(1, 1 / 3, 0), endless=False),
    Measured(id="me", kind="chain", points=((0, 0, 0), (1, 2, 3)), words="to the eaves"),
    View(id="v", name="south", kind=ViewKind.ELEVATION, target=(1, 2, 3), yaw=1.5, pitch=0, scale=20, behind=900.0),
    ViewFrame(id="vf", name="grid 2", origin=(0, 0, 0), x=(0, 1, 0), y=(0, 0, 1), width=5000, height=4000),
]


@pytest.mark.parametrize("record", RECORDS, ids=lambda r: type(r).__name__)
def test_records_come_back_as_they_went(tmp_path, record):
    path = tmp_path / "a.uncus"
    with Job.create(path) as job, job.change("put") as change:
        change.put(record)
    with Job.open(path) as job:
        assert job.records[record.id] == record
        assert job.all(type(record)) == [record]
        assert job.get(record.id, type(record)) == record


def test_kinds_are_told_apart_and_kept_in_order():
    job = Job(RECORDS)
    for record in RECORDS:
        assert job.all(type(record)) == [record]
    with job.change("more") as change:
        change.put(Level(id="a", name="A", elevation=1))
        change.put(Level(id="l", name="Floor", elevation=2))
        change.drop("m")
    assert [level.id for level in job.all(Level)] == ["l", "a"] and job.all(Member) == []
    job.undo()
    assert [level.elevation for level in job.all(Level)] == [-0.1] and len(job.all(Member)) == 1
    assert job.get("l", Member) is None


@pytest.mark.parametrize(
    ("record", "says"),
    [
        (Grid(numbers=(GridLine("1", 0), GridLine("1", 5))), "Two grid lines"),
        (Grid(numbers=(GridLine("", 0),)), "needs a name"),
        (Grid(numbers=(GridLine("1", 0, turn=80),)), "skewed by up to 75"),
        (Grid(letters=(GridLine("A", 0, first=100, last=100),)), "must end after it begins"),
        (WorkPlane(name="w", origin=(0, 0, 0), x=(1, 0, 0), y=(1, 0, 0)), "square to each other"),
        (WorkPlane(name="", origin=(0, 0, 0), x=(1, 0, 0), y=(0, 1, 0)), "needs a name"),
        (Guide(a=(5, 5, 5), b=(5, 5, 5)), "no length"),
        (ViewFrame(name="f", origin=(0, 0, 0), x=(1, 0, 0), y=(0, 1, 0), width=0, height=5), "two opposite corners"),
        (
            ViewFrame(name="f", origin=(0, 0, 0), x=(1, 0, 0), y=(0, 1, 0), width=9, height=5, before=0, behind=0),
            "depth",
        ),
        (View(name=" ", kind=ViewKind.FREE, target=(0, 0, 0), yaw=0, pitch=0, scale=1), "needs a name"),
        (Lens(name=""), "needs a name"),
        (beam(left_back=3000, right_back=3000), "pulled back to nothing"),
        (beam(double=Double(gap=-1)), "gap between two angles"),
        (beam(double=Double(stitches=None, spacing=5)), "at least 100 mm"),
        (Series(prefix="", roles=()), "needs a prefix"),
        (Series(prefix="B/1", roles=()), "letters, figures"),
    ],
)
def test_what_a_record_may_not_be(record, says):
    with pytest.raises(JobError, match=says), Job().change("x") as change:
        change.put(record)
