"""Every kind of record goes to the file and comes back the same."""

import pytest

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import (
    Connection,
    End,
    Grid,
    GridLine,
    Lens,
    Level,
    Line,
    Mark,
    Member,
    Project,
    Role,
    Sent,
    Series,
    ShopRules,
)
from uncus.units import Units

RECORDS = [
    Project(name="Ünïcode “job”", number="7", units=Units.METRIC, finish=""),
    Grid(id="g", numbers=(GridLine("1", 0.1), GridLine("2", 1 / 3)), letters=(GridLine("A", -5.0),)),
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
    ),
    Connection(
        id="c",
        kind="shear tab",
        member="m",
        end=End.RIGHT,
        support=None,
        params={"rows": 3, "bolt": "3/4", "gap": 12.7},
    ),
    ShopRules(pitch=70.5),
    Series(id="s", prefix="B", roles=("beam",), start=100, parts=True),
    Mark(id="mark:x", piece="m", mark="B1", content="abc", part=True),
    Lens(id="n", name="roof", facts=(("lot", "3"), ("role", "beam"))),
    Sent(id="sent:B1", sheet="B1", content="abc", on="2026-01-01"),
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
        (Series(prefix="", roles=()), "needs a prefix"),
        (Series(prefix="B/1", roles=()), "letters, figures"),
    ],
)
def test_what_a_record_may_not_be(record, says):
    with pytest.raises(JobError, match=says), Job().change("x") as change:
        change.put(record)
