"""The command line as others run it: processes, exit codes, sentences."""

import io
import json
import os
import re
import shutil
import sqlite3
import subprocess
import sys
import time
from contextlib import closing, redirect_stderr, redirect_stdout
from pathlib import Path
from typing import NamedTuple

import msgspec
import pytest

from tests.job.test_file import forge
from uncus.cli import main
from uncus.draw.issue import opened
from uncus.job.job import Job
from uncus.job.records import Issue, IssuedMark, Level, Mark, Member


class Ran(NamedTuple):
    returncode: int
    stdout: str
    stderr: str


def uncus(*words) -> Ran:
    """A command in this process, as `python -m uncus` would run it."""
    out, err = io.StringIO(), io.StringIO()
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        patch.setattr(sys, "argv", ["uncus", *map(str, words)])
        with pytest.raises(SystemExit) as ended:
            main()
    return Ran(ended.value.code, out.getvalue(), err.getvalue())


def in_a_process(*words) -> subprocess.CompletedProcess:
    command = [sys.executable, "-m", "uncus", *map(str, words)]
    return subprocess.run(command, capture_output=True, text=True, timeout=120)


@pytest.fixture(scope="module")
def frame_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("cli") / "f.uncus"
    assert uncus("sample", path, "--bays", 1, "--storeys", 1).returncode == 0
    return path


def refused(run, *says):
    assert run.returncode == 2
    (line,) = [x for x in run.stderr.strip().splitlines() if x]
    assert line.startswith("uncus: ") and "Traceback" not in run.stderr
    assert all(s in line for s in says), line


def test_from_nothing_to_a_package(frame_file, tmp_path):
    refused(uncus("produce", frame_file, "--out", tmp_path / "p"), "not marked", "uncus mark")
    bare = re.findall(r"(pieces|parts): (\d+), under 0 marks, (\d+) not", uncus("summary", frame_file).stdout)
    assert [name for name, n, left in bare if n == left] == ["pieces", "parts"]
    assert not (tmp_path / "p").exists()
    assert "new" in uncus("mark", frame_file).stdout
    assert "0 pieces changed" in uncus("mark", frame_file, "--policy", "frozen", "--ordered", "AB-1").stdout
    refused(uncus("mark", frame_file, "--policy", "solid"), "loose, firm, frozen")
    done = uncus("produce", frame_file, "--out", tmp_path / "p", "--only", "nc,bills")
    assert done.returncode == 0, done.stderr
    manifest = json.loads((tmp_path / "p" / "manifest.json").read_text())
    summary = json.loads(uncus("summary", frame_file, "--json").stdout)
    assert {f["mark"]: f["number"] for f in manifest["files"] if f["kind"] == "nc"} == {
        p["mark"]: p["number"] for p in summary["parts"]
    }
    assert summary["members"] == summary["pieces"] == sum(a["number"] for a in summary["assemblies"])
    assert summary["parts_in_all"] == sum(p["number"] for p in summary["parts"])
    assert set(summary["assemblies"][0]) == {"mark", "number", "main_section", "length_mm", "gross_kg", "net_kg"}
    assert {"size", "length_mm", "number"} <= set(summary["bolts"][0])
    assert (
        f"pieces: {summary['pieces']}, under {len(summary['assemblies'])} marks\n"
        in uncus("summary", frame_file).stdout
    )
    assert (
        uncus("produce", frame_file, "--out", tmp_path / "q", "--only", "sheets", "--lens", "role is column").returncode
        == 0
    )
    with Job.open(frame_file) as job:
        kept = job.all(Issue)
        assert kept and {i.sheet for i in kept} <= {f.stem for f in (tmp_path / "q").rglob("*.pdf")}
        assert all(opened(i.packed)[1] for i in kept) and job.all(IssuedMark)


def test_what_is_wrong_is_one_sentence(frame_file, tmp_path):
    text = tmp_path / "t.uncus"
    text.write_text("not a job")
    refused(uncus("summary", tmp_path / "none.uncus", "--json"), "There is no job")
    refused(uncus("mark", text), "not an Uncus job")
    refused(uncus("sample", frame_file), "exists already")
    refused(uncus("sample", tmp_path / "x.uncus", "--bays", 2), "both")
    refused(uncus("sample", tmp_path / "x.uncus", "--bays", 2, "--storeys", 2, "--metric"), "leave out --metric")
    refused(uncus("produce", frame_file, "--out", tmp_path / "p", "--only", "paper"), "no output")
    refused(in_a_process("frobnicate"), "No such command")
    refused(uncus("mark"), "Missing argument")
    with Job.open(frame_file):
        refused(uncus("mark", frame_file), "open in another Uncus")


def test_copies_are_made_and_gone_back_to(frame_file, tmp_path):
    job, copy = tmp_path / "j.uncus", tmp_path / "c.uncus"
    assert uncus("copy", frame_file, job).returncode == 0 and uncus("copy", job, copy).returncode == 0
    refused(uncus("copy", job, copy), "exists already")
    refused(uncus("go-back", job, copy), "nothing to go back to")
    with Job.open(job) as opened:
        kept = dict(opened.records)
        with opened.change("cut down") as change:
            for member in opened.all(Member)[3:]:
                change.drop(member.id)
            change.put(Level(id="more", name="More", elevation=1.0))
    done = uncus("go-back", job, copy)
    assert done.returncode == 0 and "1 record that it lacks gone" in done.stdout
    with Job.open(job) as opened:
        assert dict(opened.records) == kept and opened.undo() and len(opened.all(Member)) == 3
    refused(uncus("go-back", job, tmp_path / "none.uncus"), "cannot be read")
    refused(uncus("go-back", job, Path(__file__)), f"{__file__} is not an Uncus job")
    bad = tmp_path / "bad.uncus"
    shutil.copyfile(copy, bad)
    with closing(sqlite3.connect(bad, isolation_level=None)) as db:
        db.execute("DELETE FROM records WHERE place > 40")
    refused(uncus("go-back", job, bad), "damaged itself", "missing")
    data = job.read_bytes()
    job.write_bytes(data[: len(data) // 2])
    refused(uncus("summary", job), "damaged", "go back to a copy")
    with Job.open(copy):
        assert "damaged file is kept as j.uncus.damaged-1" in uncus("go-back", job, copy).stdout
    with Job.open(job) as opened:
        assert dict(opened.records) == kept
    assert (tmp_path / "j.uncus.damaged-1").read_bytes() == data[: len(data) // 2]


def test_a_record_that_cannot_be_used_is_told_by_every_command(tmp_path):
    job = tmp_path / "j.uncus"
    uncus("sample", job, "--bays", 1, "--storeys", 1)
    uncus("mark", job)
    with Job.open(job) as opened:
        beam, mark = opened.all(Member)[-1], opened.all(Mark)[0]
    forge(job, beam.id, msgspec.json.encode(msgspec.structs.replace(beam, end=beam.start)))
    forge(job, mark.id, msgspec.json.encode(msgspec.structs.replace(mark, mark="../../victim\0")))
    for words in (("summary", job), ("lenses", job), ("connect", job), ("mark", job)):
        ran = uncus(*words)
        assert ran.returncode == 0 and "has no length" in ran.stderr and "is no mark" in ran.stderr
    found = json.loads(uncus("summary", job, "--json").stdout)["findings"]
    assert any("has no length" in f for f in found)
    ran = uncus("produce", job, "--out", tmp_path / "p", "--only", "nc,bills")
    assert ran.returncode == 2 and "Left out of the package: A member (record" in ran.stderr
    assert {p.name for p in tmp_path.iterdir()} == {"j.uncus", "p"}


def test_a_place_that_cannot_be_written_is_refused_before_the_work(frame_file, tmp_path, monkeypatch):
    monkeypatch.setattr("uncus.shop.shop.build", lambda _: pytest.fail("work was begun"))
    (tmp_path / "file").write_text("x")
    for words in (
        ("calculate", frame_file, "--out", tmp_path),
        ("lenses", frame_file, "--export", tmp_path),
        ("standards", frame_file, "--export", tmp_path / "file" / "s.json"),
        ("produce", frame_file, "--out", tmp_path / "file"),
        ("produce", frame_file, "--out", tmp_path / "file" / "p"),
    ):
        assert uncus(*words).returncode == 2
    assert [p.name for p in tmp_path.iterdir()] == ["file"]


def test_a_killed_package_leaves_no_workers_and_is_cleared_away_by_the_next(frame_file, tmp_path):
    uncus("mark", frame_file)
    run = subprocess.Popen(
        [sys.executable, "-c", KILLED, str(frame_file), str(tmp_path / "p")], stdout=subprocess.PIPE, text=True
    )
    workers = [int(pid) for pid in run.stdout.readline().split()]
    assert workers and list(tmp_path.glob(".p.being-written.*"))
    run.kill()
    run.wait()
    deadline = time.monotonic() + 20
    while any(Path(f"/proc/{pid}").exists() for pid in workers) and time.monotonic() < deadline:
        time.sleep(0.05)
    assert not [pid for pid in workers if Path(f"/proc/{pid}").exists()]
    assert list(tmp_path.glob(".p.being-written.*"))
    (tmp_path / ".p.being-written.of-another-kind").write_text("a file is left alone")
    assert uncus("produce", frame_file, "--out", tmp_path / "p", "--only", "bills").returncode == 0
    assert {p.name for p in tmp_path.iterdir()} == {"p", ".p.being-written.of-another-kind"}


KILLED = """
import sys, time
from multiprocessing import active_children
from pathlib import Path
from uncus.deliver.folder import written
from uncus.shop.batch import worker_pool
if __name__ == "__main__":
    with written(Path(sys.argv[2])) as folder, worker_pool(2) as pool:
        folder.put("nc", "half", ".nc1", b"half a file")
        list(pool.map(abs, range(8)))
        waiting = [pool.submit(time.sleep, 600) for _ in range(4)]
        print(*(child.pid for child in active_children()), flush=True)
        time.sleep(600)
"""


def test_a_stopped_command_leaves_nothing_half_written(frame_file, tmp_path):
    uncus("mark", frame_file)
    run = subprocess.Popen(
        [sys.executable, "-m", "uncus", "produce", str(frame_file), "--out", str(tmp_path / "p")],
        stderr=subprocess.PIPE,
    )
    deadline = time.monotonic() + 60
    while not list(tmp_path.glob(".p.being-written.*")) and time.monotonic() < deadline:
        time.sleep(0.02)
    run.terminate()
    _, said = run.communicate(timeout=60)
    assert run.returncode == 2 and b"Stopped" in said and b"Traceback" not in said
    assert list(tmp_path.iterdir()) == []


def test_a_beam_that_cannot_be_is_left_out_with_a_finding(frame_file):
    with Job.open(frame_file) as job:
        beam = job.all(Member)[-1]
        with job.change("wrong section") as change:
            change.put(msgspec.structs.replace(beam, section="W99X1"))
        summary = json.loads(uncus_in_process(job))
        job.undo()
    assert any("W99X1" in f for f in summary["findings"])


def uncus_in_process(job):
    from uncus.cli import _summary
    from uncus.shop.shop import build

    return msgspec.json.encode(_summary(job, build(job)))


def test_lenses_on_the_command_line(tmp_path):
    path, file = tmp_path / "b.uncus", tmp_path / "lenses.json"
    assert uncus("sample", path, "--metric").returncode == 0
    assert "12  columns: role is column" in uncus("lenses", path, "--export", file).stdout
    text = file.read_text().replace('"columns"', '"uprights"').replace('"column"', '"post"')
    file.write_text(text)
    shown = uncus("lenses", path, "--import", file).stdout
    assert "12  columns: role is column" in shown and "57  uprights: role is post" in shown
    assert uncus("lenses", path, "--try", "role is rafter or lot is 3").stdout.split()[0] == "29"
    lensed = json.loads(uncus("summary", path, "--json", "--lens", "role is rafter").stdout)
    assert lensed["members"] == 8
    refused(uncus("summary", path, "--lens", "walls"), "no lens “walls”", "columns")
    refused(uncus("lenses", path, "--try", "role is beam and"), "fact was expected")
    file.write_text("[1, 2")
    refused(uncus("lenses", path, "--import", file), "no lenses that can be read")
    refused(uncus("lenses", path, "--import", tmp_path / "none.json"), "cannot be read")


def test_series_and_answers_to_conflicts_on_the_command_line(frame_file, tmp_path):
    path = tmp_path / "f.uncus"
    shutil.copy(frame_file, path)
    words = ("series", path, "--prefix", "G")
    made = uncus(*words, "--of", "beam", "--lens", "length over 10'", "--start", 100, "--order", -1)
    assert made.stdout.splitlines()[0].split(None, 1) == ["G", "100 on  beam; length over 10'"]
    changed = uncus(*words, "--start", 200, "--last", 300, "--step", 2)
    assert "G       200 to 300 by 2" in changed.stdout
    assert uncus("mark", path, "--policy", "frozen").returncode == 0
    with Job.open(path) as job:
        marks = {m.piece: m.mark for m in job.all(Mark) if not m.part}
        first = min(job.all(Member), key=lambda m: (m.role != "column", m.id))
        assert {marks[m.id][0] for m in job.all(Member) if m.role == "beam"} == {"G"}
        with job.change("heavier") as change:
            change.put(msgspec.structs.replace(first, section="W14X90"))
    asked = uncus("mark", path).stdout
    assert "in conflict" in asked and "  a new mark" in asked
    number = asked.index("\n     ") and next(
        line.split("=")[0].strip() for line in asked.splitlines() if f"keep {marks[first.id]}" in line
    )
    refused(uncus("mark", path, "--settle", "99=1"), "no conflict 99")
    refused(uncus("mark", path, "--settle", f"{number}=9"), "no answer 9")
    refused(uncus("mark", path, "--settle", "one"), "is no answer")
    assert f"keep {marks[first.id]}" not in uncus("mark", path, "--settle", f"{number}=1").stdout
    with Job.open(path) as job:
        assert next(m.mark for m in job.all(Mark) if m.piece == first.id and not m.part) != marks[first.id]
    refused(uncus("series", path, "--prefix", "Q"), "no series Q")
    refused(uncus(*words, "--of", "beem"), "no role")
    refused(uncus("series", path, "--start", 3), "--prefix")
    assert "G " not in uncus(*words, "--away").stdout


def test_a_new_job_is_empty_and_in_its_units(tmp_path, monkeypatch):
    settings = tmp_path / "preferences.json"
    settings.write_text('{"units": "metric"}')
    monkeypatch.setenv("UNCUS_PREFERENCES", str(settings))
    assert uncus("new", tmp_path / "hall.uncus", "--number", "7").returncode == 0
    with Job.open(tmp_path / "hall.uncus") as job:
        assert (job.project.name, job.project.number, job.project.units) == ("hall", "7", "metric")
        assert job.rules.bolt == "M20" and job.all(Member) == [] and len(job.all(Level)) == 1
    assert uncus("new", tmp_path / "b.uncus", "--units", "imperial", "--name", "Barn").returncode == 0
    with Job.open(tmp_path / "b.uncus") as job:
        assert (job.project.name, job.rules.bolt) == ("Barn", "3/4")
    refused(uncus("new", tmp_path / "b.uncus"), "exists already")
    settings.write_text("{")
    refused(uncus("new", tmp_path / "c.uncus"), "no settings that can be read")
    settings.write_text('{"tools": ' + '{"a": ' * 5000 + "1" + "}" * 5001)
    refused(uncus("new", tmp_path / "c.uncus"), "nested too deeply")
    settings.unlink()
    os.mkfifo(settings)
    refused(uncus("new", tmp_path / "c.uncus"), "not a file that can be read")
    assert not (tmp_path / "c.uncus").exists()


def test_joining_calculating_and_standards(tmp_path):
    job, rules, pdf = tmp_path / "b.uncus", tmp_path / "standards.json", tmp_path / "c.pdf"
    assert uncus("sample", job).returncode == 0
    again = uncus("connect", job, "--redo", "--lens", "role is brace and not lot is 2")
    assert again.returncode == 0 and again.stdout.splitlines()[-1].endswith("done")
    assert uncus("standards", job, "--export", rules).returncode == 0
    held = json.loads(rules.read_text())
    held["shop_rules"]["load_rule"] = "share of the beam's capacity"
    held["joining"] = [{"type": "OfficeRule", "id": "r", "order": 1, "name": "Angles", "kind": "double angle"}]
    rules.write_text(json.dumps(held))
    assert "1 rules of joining" in uncus("standards", job, "--import", rules).stdout
    anew = uncus("connect", job, "--redo", "--lens", "role is purlin")
    assert anew.returncode == 0 and ("done" in anew.stdout or "failed" in anew.stdout)
    said = uncus("calculate", job, "--out", pdf, "--lens", "role is beam")
    assert re.search(
        r"joints calculated: \d+ passes, \d+ fails, \d+ not checked, \d+ no load given", said.stdout
    ) and pdf.read_bytes().startswith(b"%PDF")
    loads = tmp_path / "loads.csv"
    assert uncus("loads", job, "--export", loads).returncode == 0
    lines = loads.read_text().splitlines()
    assert lines[0].startswith("Mark,Place,Height,To,Section,End,Joint,Shear (kips)") and len(lines) > 100
    loads.write_text("\n".join([lines[0], *lines[1:3], "Q9,,,,,left,,5,,,"]))
    assert "no piece is marked" in uncus("loads", job, "--import", loads).stderr
    held["shop_rules"]["gap"] = -5
    rules.write_text(json.dumps(held))
    refused(uncus("standards", job, "--import", rules), "Gap at a beam's end")
