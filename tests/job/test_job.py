import os
import sqlite3
import subprocess
import sys
from contextlib import closing

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Level, Line, Member, Project, Role, ShopRules, derived_id, new_id


def member(n: float = 0.0, **values) -> Member:
    plain = {"id": f"m{n}", "role": Role.BEAM, "section": "W12X26", "start": (n, 0, 0), "end": (n + 1000, 0, 0)}
    return Member(**(plain | values))


def put(job: Job, *records, label="put"):
    with job.change(label) as change:
        for record in records:
            change.put(record)


def test_a_change_is_one_delta_with_before_and_after():
    job, seen = Job(), []
    job.follow(seen.append)
    put(job, member(1), member(2))
    put(job, member(1, section="W16X31"))
    assert len(seen) == 2 and len(seen[0].edits) == 2
    assert (seen[1].edits[0].before.section, seen[1].edits[0].after.section) == ("W12X26", "W16X31")
    put(job, member(1, section="W16X31"))
    assert len(seen) == 2, "nothing changed, so nothing is said"


def test_a_change_that_raises_leaves_no_trace():
    job = Job([member(1)])
    with pytest.raises(RuntimeError), job.change("half") as change:
        change.put(member(2))
        change.drop("m1")
        raise RuntimeError
    assert list(job.records) == ["m1"] and job.can_undo is None


@pytest.mark.parametrize(
    "record",
    [
        member(1, end=(1.0, 0, 0)),
        member(1, end=(float("nan"), 0, 0)),
        member(1, roll=float("inf")),
        member(1, start=(1e12, 0, 0)),
        Level(name="high", elevation=1e9),
        Project(name="  "),
        ShopRules(pitch=0),
    ],
)
def test_bad_records_are_refused_with_a_sentence(record):
    job = Job()
    with pytest.raises(JobError) as refused:
        put(job, record)
    assert str(refused.value).endswith(".") and not job.records


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(0, 5), st.sampled_from(["put", "drop", "undo", "redo"]), st.integers(1, 9)), max_size=30
    )
)
def test_undo_and_redo_walk_the_same_states(steps):
    job, states, at = Job(), [{}], 0
    for key, what, size in steps:
        if what == "undo":
            at = max(0, at - 1)
            job.undo()
        elif what == "redo":
            at = min(len(states) - 1, at + 1)
            job.redo()
        else:
            before = dict(job.records)
            with job.change(what) as change:
                change.put(member(key, rise=float(size))) if what == "put" else change.drop(f"m{key}")
            if dict(job.records) != before:
                del states[at + 1 :]
                states.append(dict(job.records))
                at += 1
        assert dict(job.records) == states[at]
    while job.undo():
        pass
    assert not job.records


def test_everything_survives_closing_undo_included(tmp_path):
    path = tmp_path / "a.uncus"
    with Job.create(path, [member(1)]) as job:
        put(job, member(1, line=Line.TOP, rise=12.7), member(2), label="two")
        with job.change("gone") as change:
            change.drop("m1")
        job.undo()
        kept = dict(job.records)
    with Job.open(path) as job:
        assert dict(job.records) == kept
        assert (job.can_undo, job.can_redo) == ("two", "gone")
        job.redo()
        assert "m1" not in job.records
        job.undo(), job.undo()
        assert job.get("m1", Member) == member(1) and "m2" not in job.records
        assert job.undo() is None


def test_a_job_is_locked_while_it_is_open_and_free_after_a_crash(tmp_path):
    path = tmp_path / "a.uncus"
    Job.create(path).close()
    code = (
        f"import time; from uncus.job.job import Job; from pathlib import Path; j = Job.open(Path({str(path)!r})); "
        f"print('open', flush=True); time.sleep(60)"
    )
    other = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
    try:
        assert other.stdout.readline().strip() == b"open"
        with pytest.raises(JobError, match="open in another Uncus"):
            Job.open(path)
        with pytest.raises(JobError, match="open in another Uncus"):
            Job.create(path, replace=True)
    finally:
        other.kill()
        other.wait()
    Job.open(path).close()


def broken(path, how):
    """Spoil a good job file."""
    data = path.read_bytes()
    if how == "text":
        path.write_text("hello " * 100)
    elif how == "empty":
        path.write_bytes(b"")
    elif how == "cut":
        path.write_bytes(data[: len(data) // 2])
    elif how == "scrambled":
        path.write_bytes(data[:4096] + os.urandom(len(data) - 4096))
    elif how == "foreign":
        path.unlink()
        with closing(sqlite3.connect(path, isolation_level=None)) as db:
            db.execute("CREATE TABLE a (b)")
    elif how == "newer":
        with closing(sqlite3.connect(path, isolation_level=None)) as db:
            db.execute("PRAGMA user_version = 99")
    elif how == "read-only":
        path.chmod(0o444)
    elif how == "missing":
        path.unlink()
    elif how == "folder":
        path.unlink()
        path.mkdir()


@pytest.mark.parametrize(
    ("how", "says"),
    [
        ("text", "not an Uncus job"),
        ("empty", "not an Uncus job"),
        ("cut", "damaged"),
        ("scrambled", "damaged"),
        ("foreign", "not an Uncus job"),
        ("newer", "newer Uncus"),
        ("read-only", "read-only"),
        ("missing", "There is no job"),
        ("folder", "not a file"),
    ],
)
def test_what_cannot_be_opened_is_said_in_a_sentence_and_left_untouched(tmp_path, how, says):
    path = tmp_path / "a.uncus"
    Job.create(path, [member(n) for n in range(200)]).close()
    broken(path, how)
    before = path.read_bytes() if path.is_file() else None
    with pytest.raises(JobError, match=says):
        Job.open(path)
    if path.is_file() and how in ("text", "empty", "foreign", "newer", "read-only"):
        assert path.read_bytes() == before


def test_a_full_disk_changes_nothing(tmp_path):
    path = tmp_path / "a.uncus"
    with Job.create(path, [member(1)]) as job:
        job._store._db.execute(
            f"PRAGMA max_page_count = {job._store._db.execute('PRAGMA page_count').fetchone()[0] + 1}"
        )
        with pytest.raises(JobError, match="disk is full"):
            put(job, *(member(n) for n in range(2, 3000)))
        assert set(job.records) == {"project", "m1"}
        assert job.can_undo is None
    with Job.open(path) as job:
        assert set(job.records) == {"project", "m1"}


def test_making_a_job_never_writes_over_one_or_leaves_half_of_one(tmp_path):
    path = tmp_path / "a.uncus"
    Job.create(path, [member(1)]).close()
    with pytest.raises(JobError, match="exists already"):
        Job.create(path)
    with pytest.raises(JobError, match="no folder"):
        Job.create(tmp_path / "none" / "a.uncus")
    with Job.create(path, [member(2)], replace=True) as job:
        assert "m2" in job.records
    assert [p.name for p in tmp_path.iterdir()] == ["a.uncus"]


def test_ids():
    assert new_id() != new_id()
    assert derived_id("a", "b") == derived_id("a", "b") != derived_id("a/c", "b")
    assert msgspec.json.decode(msgspec.json.encode(member(1)), type=Member) == member(1)
