"""What is kept on disk of joints: the same comes back, whatever happens to the file, and no more than is wanted."""

import os
import signal
import sqlite3
import subprocess
import sys
import time

import msgspec
import pytest

from uncus.job.job import Job
from uncus.sample.frames import irregular
from uncus.shop import joints
from uncus.shop.ahead import complete
from uncus.shop.joints import Made
from uncus.shop.kept import Kept
from uncus.shop.shop import build
from uncus.steel.joint import Contribution, Finding

WRITER = """
import sys
from pathlib import Path
from uncus.shop.joints import Made
from uncus.shop.kept import Kept
from uncus.steel.joint import Contribution, Finding
kept = Kept(Path(sys.argv[1]), own="test")
for n in range(10**6):
    kept.keep({b"%d" % n: Made(Contribution(findings=(Finding("#0", str(n) * 40),)))})
    if n == 3000:
        print("under way", flush=True)
"""


@pytest.fixture(scope="module")
def small():
    return irregular(1, 1)


@pytest.fixture
def anew():
    joints.forget()
    yield
    joints.forget()


def one(n, size=1) -> tuple[bytes, Made]:
    return b"%d" % n, Made(Contribution(findings=(Finding("#0", str(n) * size),)))


def test_a_job_opened_again_is_made_of_what_was_kept(small, tmp_path, anew, monkeypatch):
    job = Job(small)
    kept = Kept(tmp_path)
    first = build(job, kept=kept)
    kept.close()
    joints.forget()
    monkeypatch.setattr(joints, "made_of", lambda joint: pytest.fail("made again"))
    again = Kept(tmp_path)
    shop = build(job, bare=True, kept=again)
    complete(shop)
    again.close()
    assert shop.connections == first.connections and shop.assemblies == first.assemblies
    assert shop.all_findings == first.all_findings


def test_what_is_kept_is_never_believed_over_the_records(small, tmp_path, anew):
    """A joint whose values are others is another joint, however like the rest of it is."""
    job, kept = Job(small), Kept(tmp_path)
    build(job, kept=kept)
    tab = next(r for r in small if getattr(r, "kind", "") == "shear tab")
    with job.change("thicker") as change:
        change.put(msgspec.structs.replace(tab, params={**tab.params, "thickness": 15.875}))
    joints.forget()
    made = build(job, kept=kept).connections[tab.id]
    kept.close()
    assert [p.part.thickness for p in made.parts] == [15.875]


def test_another_version_throws_it_away_unread(tmp_path):
    old = Kept(tmp_path, own="one")
    old.keep(dict([one(1)]))
    old.close()
    new = Kept(tmp_path, own="two")
    assert new.get([b"1"]) == {} and [f.name for f in tmp_path.glob("*.db")] == ["joints-two.db"]
    new.close()


def test_there_is_never_more_of_it_than_is_wanted_and_what_was_used_last_stays(tmp_path):
    most = 400_000
    kept = Kept(tmp_path, most, "test")
    kept.keep(dict([one(0)]))
    kept.flush()
    for start in range(1, 3000, 100):
        kept.keep(dict(one(n, 100) for n in range(start, start + 100)))
        kept.flush()
        assert kept.get([b"0"]), "what is asked for again and again is not what goes"
    kept.close()
    assert (tmp_path / "joints-test.db").stat().st_size < 1.5 * most


@pytest.mark.parametrize("harm", ["cut short", "overwritten", "a row", "not a file of ours", "a folder", "locked"])
def test_a_file_that_is_not_whole_costs_what_it_held_and_no_more(tmp_path, harm):
    kept = Kept(tmp_path, own="test")
    kept.keep(dict(one(n, 50) for n in range(800)))
    kept.close()
    file = tmp_path / "joints-test.db"
    held = None
    if harm == "cut short":
        os.truncate(file, file.stat().st_size // 2)
    elif harm == "overwritten":
        data = bytearray(file.read_bytes())
        data[4096:] = b"\xa5" * (len(data) - 4096)
        file.write_bytes(data)
    elif harm == "a row":
        with sqlite3.connect(file) as base:
            for key, made in base.execute("SELECT key, made FROM joints").fetchall():  # one digit of what is said
                other = made.replace(key * 50, key * 49 + b"8" * len(key))
                base.execute("UPDATE joints SET made = ? WHERE key = ?", (other, key))
    elif harm == "not a file of ours":
        file.write_text("a letter\n" * 999)
    elif harm == "a folder":
        file.unlink()
        file.mkdir()
    else:
        held = sqlite3.connect(file, isolation_level=None)
        held.execute("BEGIN EXCLUSIVE")
    again = Kept(tmp_path, own="test")
    found = again.get([b"%d" % n for n in range(800)])
    assert all(found[key] == one(int(key), 50)[1] for key in found) and (harm == "locked" or len(found) < 799)
    again.keep(dict([one(900)]))
    again.close()
    if held is not None:
        held.close()


def test_a_kill_while_it_is_written_loses_what_was_under_way_alone(tmp_path):
    writer = subprocess.Popen([sys.executable, "-c", WRITER, tmp_path], stdout=subprocess.PIPE, text=True)
    assert writer.stdout.readline() == "under way\n"
    time.sleep(0.05)
    writer.send_signal(signal.SIGKILL)
    writer.wait()
    kept = Kept(tmp_path, own="test")
    found = kept.get([b"%d" % n for n in range(2500)])
    assert len(found) == 2500 and found[b"17"].brings.findings[0].text == "17" * 40
    kept.keep(dict([one(10**7)]))
    kept.flush()
    assert kept.get([b"10000000"])
    kept.close()
