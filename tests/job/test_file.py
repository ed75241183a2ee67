"""The job file between two openings: copies, logs of other files, damage, hostile tables, older versions, file
servers."""

import json
import os
import random
import shutil
import sqlite3
import struct
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import msgspec
import pytest

from uncus.connect.standards import Standards, from_json, to_json
from uncus.draw.entry import State
from uncus.draw.keeping import issue_of
from uncus.draw.register import past, register
from uncus.draw.states import why
from uncus.job import logs
from uncus.job.errors import Damaged, JobError
from uncus.job.job import Job
from uncus.job.migrations import records_from, step_from
from uncus.job.mounts import mount_of
from uncus.job.records import Issue, Level, Mark, Member, NcOptions, Project, Role
from uncus.job.schema import VERSION, Head, head_of, sum_of, total_of
from uncus.job.store import Store
from uncus.shop.shop import build

OLD = sorted((Path(__file__).parent / "files").glob("v*.uncus"), key=lambda p: int(p.stem[1:]))
V6 = OLD[5]  # the last that kept a write-ahead log


def level(n: int, name: str = "") -> Level:
    return Level(id=f"level {n}", name=name or f"L{n} " + "x" * 300, elevation=float(n))


def grow(job: Job, *numbers: int, name: str = "") -> None:
    for n in numbers:
        with job.change(f"level {n}") as change:
            change.put(level(n, name))


def levels(job: Job) -> dict[str, str]:
    return {one.id: one.name for one in job.all(Level)}


def killed_mid_write(path: Path, number: int) -> None:
    """Leave a file and its hot journal as a kill between the two writes of a change would."""
    work = path.with_name("work.uncus")
    shutil.copyfile(path, work)
    store = Store.open(work)
    job = Job(store.read()[0], store)
    db = store._db
    db.execute("PRAGMA cache_size = 1")  # so that pages go to the file before the change is through
    db.execute("BEGIN IMMEDIATE")
    db.execute("INSERT INTO steps VALUES (99, zeroblob(200000), 0)")
    store._write({f"level {number}": level(number)}, 99)
    db.execute("INSERT INTO steps VALUES (100, zeroblob(200000), 0)")
    shutil.copyfile(work, path)
    shutil.copyfile(logs.beside(work, "-journal"), logs.beside(path, "-journal"))
    db.execute("ROLLBACK")
    job.close()
    work.unlink()


def test_a_copy_taken_while_the_job_is_open_has_every_change(tmp_path):
    path, copy = tmp_path / "a.uncus", tmp_path / "b.uncus"
    with Job.create(path) as job:
        for n in range(5):
            grow(job, n)
            shutil.copyfile(path, copy)
            with Job.open(copy) as there:
                assert levels(there) == levels(job) and there.can_undo == f"level {n}" and not there.notes
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a.uncus", "b.uncus"]


def test_save_a_copy_is_whole_and_leaves_the_job_alone(tmp_path):
    path, copy = tmp_path / "a.uncus", tmp_path / "folder" / "copy.uncus"
    with Job.create(path) as job:
        grow(job, 1, 2)
        with pytest.raises(JobError, match="no folder"):
            job.save_copy(copy)
        copy.parent.mkdir()
        logs.beside(copy, "-wal").write_bytes(b"left by another")
        job.save_copy(copy)
        with pytest.raises(JobError, match="exists already"):
            job.save_copy(copy)
        with pytest.raises(JobError, match="open in another"):
            job.save_copy(path, replace=True)
        grow(job, 3)
        job.save_copy(copy, replace=True)
        with Job.open(copy) as there:
            assert dict(there.records) == dict(job.records) and not there.notes
            there.undo()
            assert len(levels(there)) == 2 and len(levels(job)) == 3


@pytest.mark.parametrize("kind", ["-journal", "-wal"])
def test_a_new_job_never_becomes_what_a_log_left_by_another_holds(tmp_path, kind):
    path = tmp_path / "a.uncus"
    with Job.create(path, [Project(name="Old")]) as job:
        grow(job, *range(20))
    killed_mid_write(path, 30)
    logs.beside(path, "-journal").rename(logs.beside(path, kind))
    path.unlink()
    with Job.create(path, [Project(name="New")]) as job:
        assert job.project.name == "New" and not levels(job) and not job.notes
    aside = [p.name for p in tmp_path.iterdir()]
    assert sorted(aside) == ["a.uncus", "a.uncus.log-put-aside-1"], "nothing is thrown away"


def test_a_copy_put_back_after_a_crash_is_that_copy_and_the_log_is_put_aside(tmp_path):
    """Copies of every day put back under the log of a crash on the last: each opens as its own day or, where it is
    the very state that the log leads to, as that."""
    path = tmp_path / "a.uncus"
    days: list[tuple[Path, dict[str, str]]] = []
    with Job.create(path) as job:
        for day in range(6):
            grow(job, *range(day * 4, day * 4 + 4), name=f"day {day}")
            grow(job, 0, name=f"day {day}")
            shutil.copyfile(path, tmp_path / f"day{day}")
            days.append((tmp_path / f"day{day}", levels(job)))
    killed_mid_write(path, 50)
    crashed, journal = path.read_bytes(), logs.beside(path, "-journal").read_bytes()
    for copy, then in days:
        shutil.copyfile(copy, path)
        logs.beside(path, "-journal").write_bytes(journal)
        with Job.open(path) as job:
            assert levels(job) == then, copy.name
            assert bool(job.notes) == (copy is not days[-1][0])
            assert all("put aside as a.uncus.log-put-aside-" in note for note in job.notes)
    path.write_bytes(crashed)
    logs.beside(path, "-journal").write_bytes(journal)
    with Job.open(path) as job:
        assert levels(job) == days[-1][1] and not job.notes, "its own log is applied"


@pytest.mark.parametrize("page_by_page", [True, False])
def test_a_copy_that_went_on_by_itself_is_not_rolled_back_by_the_journal_of_the_other(tmp_path, page_by_page):
    """Both stood at one state, so that the journal's state is named by each. Over a copy with the same pages the
    journal would take the copy's own change back and leave a whole file."""
    path, copy = tmp_path / "a.uncus", tmp_path / "copy.uncus"
    with Job.create(path) as job:
        grow(job, *range(8 if page_by_page else 20))
        if page_by_page:
            shutil.copyfile(path, copy)
        else:
            job.save_copy(copy)
    killed_mid_write(path, 50)
    with Job.open(copy) as job:
        if page_by_page:
            grow(job, 70, name="short")
        else:
            grow(job, 3, name=level(3).name.replace("x", "y"))  # as long as it was: no page but its own is another
    shutil.copyfile(copy, path)
    with Job.open(path) as job, Job.open(copy) as other:
        assert dict(job.records) == dict(other.records) and job.can_undo in ("level 70", "level 3")
        assert page_by_page or "put aside" in job.notes[0]


PAGE = 4096


def journal(before: bytes) -> bytes:
    """A hot rollback journal that leads to these bytes, every page of them (SQLite's file format, 3)."""
    nonce, count = 7, len(before) // PAGE
    found = (logs._HOT + struct.pack(">IIIII", count, nonce, count, 512, PAGE)).ljust(512, b"\0")
    for number in range(count):
        page = before[number * PAGE :][:PAGE]
        found += struct.pack(">I", number + 1) + page + struct.pack(">I", nonce + sum(page[PAGE - 200 : 0 : -200]))
    return found


@pytest.mark.parametrize("version", [7, VERSION])
def test_a_change_cut_off_after_any_of_its_pages_is_there_whole_or_not_at_all(tmp_path, version):
    """The disk may take a change's pages in any order: every mixture of old and new pages is either state, its
    history too; under an older version as well, which is then brought up to date."""
    path = tmp_path / "a.uncus"
    with Job.create(path, [level(n) for n in range(30)]) as job:
        grow(job, 40, 41, name="short")
        job.undo()
        was, before = levels(job), path.read_bytes()
        grow(job, 3, name="another")
        is_now, after = levels(job), path.read_bytes()
    assert len(before) == len(after)
    before, after = (data[:60] + struct.pack(">I", version) + data[64:] for data in (before, after))
    places = [at for at in range(0, len(after), PAGE) if before[at : at + PAGE] != after[at : at + PAGE]]
    assert len(places) >= 3, "the head, the records and the history"
    for written in range(2 ** len(places)):
        torn = bytearray(before)
        for n, at in enumerate(places):
            if written >> n & 1:
                torn[at : at + PAGE] = after[at : at + PAGE]
        path.write_bytes(torn)
        logs.beside(path, "-journal").write_bytes(journal(before))
        with Job.open(path) as job:
            assert levels(job) in (was, is_now), written
            assert ["brought up to date" in note for note in job.notes] == [True] * (version < VERSION)
            new = levels(job) == is_now
            assert (job.can_undo, job.can_redo) == (("level 3", None) if new else ("level 40", "level 41"))
            assert job.undo() and levels(job) == (was if new else {k: v for k, v in was.items() if k != "level 40"})


def test_a_damaged_file_does_not_become_what_another_days_journal_holds(tmp_path):
    path = tmp_path / "a.uncus"
    with Job.create(path, [level(n) for n in range(30)]) as job:
        grow(job, 40)
        early = path.read_bytes()
        grow(job, 41, 42)
    spoil(path, "UPDATE records SET body = CAST('{}' AS BLOB), sum = 1 WHERE id = 'level 7'")
    logs.beside(path, "-journal").write_bytes(journal(early))
    with Job.open(path) as job:
        assert "level 42" in job.records and job.aside and "put aside" in job.notes[0]


def test_a_write_ahead_log_beside_a_file_of_today_is_never_its_own(tmp_path):
    path = tmp_path / "a.uncus"
    Job.create(path, [level(1)]).close()
    shutil.copyfile(V6, tmp_path / "old.uncus")
    logged(tmp_path / "old.uncus", "stray", 1)
    shutil.copyfile(logs.beside(tmp_path / "old.uncus", "-wal"), logs.beside(path, "-wal"))
    with Job.open(path) as job:
        assert job.get("level 1", Level) == level(1) and "put aside" in job.notes[0]
    assert logs.beside(path, "-wal").exists() is False


def test_a_job_opened_twice_in_one_process_keeps_its_lock(tmp_path):
    path, link = tmp_path / "a.uncus", tmp_path / "link.uncus"
    link.symlink_to(path)
    with Job.create(path) as job:
        for name in (path, link):
            with pytest.raises(JobError, match="open in another Uncus"):
                Job.open(name)
        grow(job, 1)
        code = f"from pathlib import Path; from uncus.job.job import Job; Job.open(Path({str(path)!r}))"
        other = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
        assert "open in another Uncus" in other.stderr, "a lock of the process goes with any handle that it closes"
    with Job.open(link) as job:
        assert levels(job) and job.path == path


# -- damage --------------------------------------------------------------------------------------------


def test_a_changed_bit_is_seen_wherever_it_is(tmp_path):
    """Every bit that is changed is refused, told or makes no difference; never is another job shown as if nothing
    were."""
    path = tmp_path / "a.uncus"
    with Job.create(path, [level(n) for n in range(30)]) as job:
        grow(job, *range(30, 50))
        kept = dict(job.records)
    data, rng, seen = path.read_bytes(), random.Random(3), 0
    for _ in range(250):
        at, bit = rng.randrange(len(data)), rng.randrange(8)
        path.write_bytes(data[:at] + bytes([data[at] ^ 1 << bit]) + data[at + 1 :])
        try:
            with Job.open(path) as job:
                seen += bool(job.aside or job.notes)
                assert dict(job.records) == kept or job.aside or job.notes, (at, bit)
                assert kept.items() >= job.records.items(), "what is shown is as it was"
                try:
                    while job.undo():
                        pass
                except JobError as error:
                    assert "of the history" in str(error)
        except JobError as error:
            seen += 1
            assert str(error).endswith(".") and len(str(error)) < 400
    assert seen > 60, "most of a small file is empty room, where nothing is lost"


def test_a_change_of_the_history_that_was_altered_is_neither_taken_back_nor_done_again(tmp_path):
    path = tmp_path / "a.uncus"
    with Job.create(path) as job:
        grow(job, 1, 2)
        grow(job, 2, name="renamed")
        job.undo()
    spoil(path, "UPDATE steps SET body = CAST(replace(body, 'renamed', 'another') AS BLOB)")
    with Job.open(path) as job:
        with pytest.raises(JobError, match="Change 3 of the history"):
            job.redo()
        assert job.undo() and set(levels(job)) == {"level 1"}


def test_a_forged_head_is_not_counted_from(tmp_path):
    path = tmp_path / "a.uncus"
    with Job.create(path) as job:
        grow(job, 1)
    for number in (2**63 - 1, -5):
        with closing(sqlite3.connect(path, isolation_level=None)) as db:
            head = msgspec.structs.replace(Head(), number=number, total=total_of(db))
            db.execute("UPDATE head SET number = ?, turn = ?, last = ?, total = ?, sum = ?", head.row)
        with Job.open(path) as job:
            assert any("history" in note for note in job.notes)
            grow(job, 5)


def spoil(path: Path, statement: str, *values: object) -> None:
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        db.execute("PRAGMA writable_schema = ON")
        db.execute(statement, values)


def forge(path: Path, id: str, body: bytes) -> None:
    """Put a record's JSON into a file as a careful forger would, its sum made right."""
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        place = db.execute("SELECT place FROM records WHERE id = ?", (id,)).fetchone()[0]
        db.execute("UPDATE records SET body = ?, sum = ? WHERE id = ?", (body, sum_of(id, place, body), id))
        head = msgspec.structs.replace(head_of(db), total=total_of(db))
        db.execute("UPDATE head SET number = ?, turn = ?, last = ?, total = ?, sum = ?", head.row)


MEMBER = Member(id="m", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(6000, 0, 0))
NO_LENGTH = msgspec.json.encode(msgspec.structs.replace(MEMBER, end=(0.5, 0, 0)))
DEEP = (
    b'{"type":"Connection","id":"m","kind":"x","member":"p","end":"left","params":{"a":'
    + b"[" * 9000
    + b"]" * 9000
    + b"}}"
)


@pytest.mark.parametrize(
    ("body", "about", "says"),
    [
        (NO_LENGTH, "m", "has no length"),
        (msgspec.json.encode(Mark(id="m", piece="p", mark="B\0")), "p", "is no mark"),
        (msgspec.json.encode(Mark(id="m", piece="p", mark="../../victim")), "p", "is no mark"),
        (b'{"type":"Member","start":"x"}', "m", "cannot be read"),
        (b'{"type":"Level","id":"other","name":"a","elevation":1}', "m", "its id is another's"),
        (DEEP, "m", "cannot be read"),
        (b"\xff\xfe\x00", "m", "cannot be read"),
        (b'{"type":"Nonsense"}', "m", "cannot be read"),
        (b"[]", "m", "cannot be read"),
        (b"1e999", "m", "cannot be read"),
    ],
)
def test_a_record_that_cannot_be_used_is_set_aside_and_the_rest_goes_on(tmp_path, body, about, says):
    path = tmp_path / "a.uncus"
    Job.create(path, [level(1), MEMBER]).close()
    forge(path, "m", body)
    for _ in range(2):
        with Job.open(path) as job:
            assert "m" not in job.records and "level 1" in job.records
            (aside,) = job.aside
            assert (aside.id, aside.about) == ("m", about) and says in aside.text and len(aside.text) < 400
    with Job.open(path) as job:
        with job.change("anew") as change:
            change.put(MEMBER)
        assert not job.aside
    with Job.open(path) as job:
        assert not job.aside and not job.notes and job.get("m", Member) == MEMBER
    forge(path, "m", body)
    with Job.open(path) as job:
        job.clear_aside()
        assert not job.aside
    with Job.open(path) as job:
        assert not job.aside and not job.notes and "level 1" in job.records


HOSTILE = [
    "DROP TABLE records",
    "CREATE VIEW more AS SELECT 1",
    "CREATE TRIGGER t AFTER INSERT ON steps BEGIN DELETE FROM records; END",
    "UPDATE sqlite_schema SET sql = replace(sql, 'body BLOB', 'body BLOB DEFAULT 1')",
    "UPDATE sqlite_schema SET sql = 'CREATE VIEW records AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i FROM n)"
    " SELECT i AS id, i AS place, i AS body, i AS sum FROM n', type = 'view', rootpage = 0 WHERE name = 'records'",
    "INSERT INTO sqlite_schema VALUES ('table', 'x', 'x', 0, 'CREATE VIRTUAL TABLE x USING fts5(a)')",
    "UPDATE sqlite_schema SET name = CAST(x'e7e7' AS TEXT), sql = CAST(x'43e7' AS TEXT) WHERE name = 'steps'",
]


@pytest.mark.parametrize("statement", HOSTILE, ids=lambda s: s[:24])
def test_a_file_with_tables_of_anybodys_making_is_refused(tmp_path, statement):
    path = tmp_path / "a.uncus"
    Job.create(path, [level(1)]).close()
    spoil(path, statement)
    with pytest.raises(Damaged, match="is damaged"):
        Job.open(path)


@pytest.mark.parametrize(
    ("statement", "value"),
    [
        ("UPDATE records SET body = ?", 7),
        ("UPDATE records SET body = ?", "text"),
        ("UPDATE records SET sum = ?", "text"),
        ("UPDATE records SET id = ?", b"\xff\xfe"),
        ("UPDATE head SET number = ?", "far"),
        ("UPDATE head SET number = ?", 2**63 - 1),
        ("UPDATE head SET turn = ?", b"\xff"),
        ("UPDATE steps SET body = ?", 7),
        ("DELETE FROM head WHERE 1 OR ?", 1),
        ("DELETE FROM records WHERE 1 OR ?", 1),
    ],
)
def test_values_of_another_kind_are_told_and_end_nothing(tmp_path, statement, value):
    path = tmp_path / "a.uncus"
    with Job.create(path) as job:
        grow(job, 1)
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        db.execute("DELETE FROM records WHERE id = 'project'")
        db.execute(statement, (value,))
    with Job.open(path) as job:
        assert job.aside or job.notes
        try:
            job.undo()
        except JobError as error:
            assert "of the history" in str(error)
        grow(job, 5)
    with Job.open(path) as job:
        assert "level 5" in job.records


# -- older versions ------------------------------------------------------------------------------------


def test_a_job_of_every_older_version_is_kept():
    assert [p.name for p in OLD] == [f"v{n}.uncus" for n in range(1, VERSION)]


@pytest.mark.parametrize("old", OLD, ids=lambda p: p.stem)
def test_an_older_job_opens_whole_and_is_brought_up_to_date(tmp_path, old):
    path = tmp_path / "a.uncus"
    shutil.copyfile(old, path)
    path.chmod(0o640)
    with Job.open(path) as job:
        assert path.stat().st_mode & 0o777 == 0o640
        assert f"file version {old.stem[1:]}" in job.notes[0]
        kept = dict(job.records)
        assert len(job.all(Member)) == 10 and len(job.all(Mark)) > 20 and job.get("lens kept", type(kept["lens kept"]))
        assert (job.can_undo, job.can_redo) == ("Apply marks", "Raise another")
        while job.undo():
            pass
        rises = {m.rise for m in job.all(Member)}
        while job.redo():
            pass
        assert len({m.rise for m in job.all(Member)}) == len(rises) + 2
        job.undo()
        assert dict(job.records) == kept
    with Job.open(path) as job:
        assert dict(job.records) == kept and not job.notes
    assert [p.name for p in tmp_path.iterdir()] == ["a.uncus"]


def logged(path: Path, name: str, *numbers: int, whole: bool = True, every_page: bool = False) -> None:
    """Work on a file of version 6 that is then killed: its last changes are in a log beside it."""
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA wal_autocheckpoint = 0")
        bodies = {f"level {n}": msgspec.json.encode(level(n, name)) for n in numbers}
        nulls = b",".join([b"null"] * len(bodies))
        step = b'{"label":"by a crash","before":[' + nulls + b'],"after":[' + b",".join(bodies.values()) + b"]}"
        head = db.execute("SELECT number FROM head").fetchone()[0] + 1
        db.execute("BEGIN")
        db.execute("DELETE FROM steps WHERE number >= ?", (head,))
        db.execute("INSERT INTO steps VALUES (?, ?)", (head, step))
        for id, body in bodies.items() if whole else ():
            db.execute("INSERT OR REPLACE INTO records VALUES (?, 5000, ?)", (id, body))
        db.execute("UPDATE head SET number = ?", (head,))
        db.execute("COMMIT")
        if every_page:
            db.execute("VACUUM")
        data, log = path.read_bytes(), logs.beside(path, "-wal").read_bytes()
    path.write_bytes(data)
    logs.beside(path, "-wal").write_bytes(log)


def test_the_log_of_a_crash_under_version_6_is_taken_where_it_is_its_own(tmp_path):
    path, other = tmp_path / "a.uncus", tmp_path / "b.uncus"
    shutil.copyfile(V6, path)
    logged(path, "earlier" * 100, *range(2, 40))
    with closing(sqlite3.connect(path)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    logged(path, "crashed", 1)
    log, worked_on = logs.beside(path, "-wal").read_bytes(), path.read_bytes()
    with Job.open(path) as job:
        assert levels(job)["level 1"] == "crashed" and job.can_undo == "by a crash" and len(levels(job)) == 42
    assert [p.name for p in tmp_path.iterdir()] == ["a.uncus"]
    # the same log beside another job's file, and beside an earlier state of its own
    shutil.copyfile(OLD[3], other)
    shutil.copyfile(V6, path)
    for stray in (other, path):
        logs.beside(stray, "-wal").write_bytes(log)
        with Job.open(stray) as job:
            assert "crashed" not in levels(job).values() and any("put aside" in note for note in job.notes)
    # a copy put back later than the crash is taken as it is
    path.write_bytes(worked_on)
    logs.beside(path, "-wal").write_bytes(log)
    os.utime(logs.beside(path, "-wal"), (1_000_000, 1_000_000))
    with Job.open(path) as job:
        assert "crashed" not in levels(job).values()


def test_the_log_of_another_job_of_version_6_is_told_by_what_nobody_changed(tmp_path):
    path, other = tmp_path / "a.uncus", tmp_path / "b.uncus"
    shutil.copyfile(V6, path)
    logged(path, "crashed", 1, every_page=True)  # the log alone is a whole job
    shutil.copyfile(OLD[4], other)
    spoil(other, "UPDATE records SET body = CAST(replace(body, 'Tern', 'Gull') AS BLOB) WHERE id = 'project'")
    shutil.copyfile(logs.beside(path, "-wal"), logs.beside(other, "-wal"))
    with Job.open(other) as job:
        assert "Gull" in job.project.name and "put aside" in job.notes[0]
    logs.beside(path, "-wal").unlink()
    shutil.copyfile(V6, path)
    logged(path, "half", 1, whole=False)  # the history says a change that the records do not show
    with Job.open(path) as job:
        assert job.can_undo == "Apply marks" and "put aside" in job.notes[0]


# -- where a file lies ---------------------------------------------------------------------------------

TABLE = r"""22 1 254:0 / / rw,relatime - ext4 /dev/vda rw
31 22 0:40 / /srv/jobs rw,relatime shared:1 - nfs4 server:/jobs rw,vers=4.2,local_lock=none
32 22 0:41 / /srv/loose rw,relatime - nfs server:/loose rw,nolock
33 22 0:42 / /srv/with\040space rw - cifs //server/share rw,nobrl
34 22 0:43 / /home/me/remote rw - fuse.sshfs me@server: rw
35 22 0:44 / /srv/jobs/local rw - xfs /dev/vdb rw
36 22 0:45 / /mnt/share rw - cifs //server/share rw,vers=3.1
nonsense
"""


@pytest.mark.parametrize(
    ("path", "kind", "server", "locks"),
    [
        ("/work/a.uncus", "ext4", False, True),
        ("/srv/jobs/x/a.uncus", "nfs4", True, True),
        ("/srv/jobs/local/a.uncus", "xfs", False, True),
        ("/srv/loose/a.uncus", "nfs", True, False),
        ("/srv/with space/a.uncus", "cifs", True, False),
        ("/srv/with spaces/a.uncus", "ext4", False, True),
        ("/home/me/remote/a.uncus", "fuse.sshfs", True, False),
        ("/mnt/share/a.uncus", "cifs", True, True),
    ],
)
def test_file_servers_are_recognised(path, kind, server, locks):
    mount = mount_of(Path(path), TABLE)
    assert (mount.kind, mount.is_server, mount.keeps_locks) == (kind, server, locks)
    assert mount_of(Path(path), "").keeps_locks


def test_a_server_without_locks_is_refused_and_no_log_ever_needs_sharing(tmp_path, monkeypatch):
    path = tmp_path / "a.uncus"
    with Job.create(path) as job:
        grow(job, 1)
        assert {p.name for p in tmp_path.iterdir()} <= {"a.uncus", "a.uncus-journal"}
        assert path.read_bytes()[18:20] == b"\1\1", "the file's own format asks for a rollback journal"
    monkeypatch.setattr("uncus.job.store.mount_of", lambda p: mount_of(Path("/srv/loose") / p.name, TABLE))
    with pytest.raises(JobError, match=r"file server \(nfs\)"):
        Job.open(path)


def test_sheets_sent_before_copies_were_kept_are_still_known_as_sent(tmp_path):
    path = tmp_path / "a.uncus"
    shutil.copyfile(OLD[7], path)
    with Job.open(path) as job:
        shop = build(job)
        states = {e.name: (e.state, why(e)) for e in register(job, shop)}
        assert {name for name, (state, _) in states.items() if state is not State.NEW} == {"E1", "B1", "p1"}
        assert states["B1"] == (State.STALE, ["sent before copies were kept; what changed is not known"])
        assert {i.sheet for i in job.all(Issue)} == {"E1", "B1", "p1", "B99"} and not past(job, shop)
        entry = next(e for e in register(job, shop) if e.name == "B1")
        issue = issue_of(entry, "2026-02-01")
        with job.change("sent") as change:
            change.put(issue)
        assert next(e for e in register(job, shop) if e.name == "B1").state is State.CURRENT


def test_options_of_nc_that_were_among_the_shops_rules_go_over_with_their_undo():
    rules = {"type": "ShopRules", "id": "shop rules", "bolt": "7/8", "layout": "powder"}
    first, own = (json.loads(one) for one in records_from(8, json.dumps(rules).encode()))
    assert first == {"type": "ShopRules", "id": "shop rules", "bolt": "7/8"}
    assert own == {"type": "NcOptions", "id": "nc options", "layout": "powder"}
    step = {"label": "x", "before": [None, {"type": "Lens", "id": "l"}], "after": [rules, None]}
    found = json.loads(step_from(8, json.dumps(step).encode()))
    assert found == {"label": "x", "before": [None, None, {"type": "Lens", "id": "l"}], "after": [first, own, None]}
    old = b'{"shop_rules": {"type": "ShopRules", "layout": "punch", "stamps": false}, "format": "uncus standards 1"}'
    assert from_json(old).nc == NcOptions(layout="punch", stamps=False)
    assert from_json(to_json(Standards(nc=NcOptions(layout="powder")))).nc.layout == "powder"
