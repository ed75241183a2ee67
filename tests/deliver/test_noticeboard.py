"""The noticeboard: versions, who took which, what changed for him; as a folder and served; whatever is named."""

import hashlib
import io
import json
import os
import socket
import subprocess
import sys
import urllib.error
import urllib.request
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import msgspec
import pytest
from tests.conftest import marked
from typer.testing import CliRunner

from uncus.cli import packages as _packages  # noqa: F401  (its commands)
from uncus.cli.common import app
from uncus.deliver.sending import package, receiver_named, zip_bytes
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.packages import PackageKind, Sending
from uncus.job.records import Member, Role
from uncus.mark.marking import apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.noticeboard import Noticeboard, job_folder, with_changes
from uncus.standin.parcels import unpacked
from uncus.standin.serving import Server, publish_to

DAY = "2026-11-29"
KIND = PackageKind(name="lists", outputs=("material",), must=("marked",))


@pytest.fixture(scope="module")
def sent(once, tmp_path_factory):
    """Two packages of a frame, the second after known edits; and the job."""
    place = tmp_path_factory.mktemp("sent")
    job = Job.create(
        place / "j.uncus", once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values()))
    )
    first = package(job, build(job), KIND, receiver_named(job, "X"), place, on=DAY)
    beams = sorted((m for m in job.all(Member) if m.role is Role.BEAM), key=lambda m: m.id)
    with job.change("first") as change:
        change.put(first.record)
        change.put(msgspec.structs.replace(beams[0], lot="9"))
        change.drop(beams[1].id)
    apply(job, propose(job, build(job)))
    second = package(job, build(job), KIND, receiver_named(job, "X"), place, on=DAY)
    with job.change("second") as change:
        change.put(second.record)
    job.close()
    return place / "j.uncus", first, second, beams[0].id, beams[1].id


def files(folder):
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def test_versions_are_laid_out_taken_and_told_by_receiver(sent, tmp_path):
    _, first, second, changed, gone = sent
    board = Noticeboard(tmp_path / "board")
    one = board.publish(first.folder)
    key = job_folder(one.job, one.number)
    assert (one.version, one.kind, one.receiver, one.on) == (1, "lists", "X", DAY) and board.jobs() == [key]
    assert one.pieces == len(first.record.pieces) and board.publish(first.folder) == one, "it is there already"
    took = board.take(key, "Made-up Steel", tmp_path / "his", DAY)
    assert took.changes is None and files(took.folder) == files(first.folder)
    assert board.publish(second.folder).version == 2 and [n.version for n in board.versions(key)] == [1, 2]
    assert board.changes(key, "nobody yet") is None
    told = board.changes(key, "made-up steel")
    hows = {c.piece: c.how for c in told.pieces if c.how != "marked otherwise"}
    assert hows[changed] == "changed" and hows[gone] == "gone" and (told.was, told.now) == (
        one.words, board.version(key).words)  # fmt: skip
    assert board.take(key, "Made-up Steel", tmp_path / "his", DAY).notice.version == 2
    assert board.changes(key, "Made-up Steel").pieces == ()
    assert {(t.receiver, t.version) for t in board.taken(key)} == {("Made-up Steel", 2)}
    with pytest.raises(JobError, match="not written over"):
        board.take(key, "Made-up Steel", tmp_path / "his", DAY)
    for wrong in ((key, 9), ("nowhere", 0), ("..", 0), ("", 0)):
        with pytest.raises(JobError):
            board.version(*wrong)
    board.note_taken(key, "A/B", 1, DAY)
    board.note_taken(key, "A_B", 2, DAY)
    assert (board.last_taken(key, "A/B"), board.last_taken(key, "a_b")) == (1, 2)


def test_many_lay_out_at_once_and_nothing_is_half_there(sent, tmp_path):
    _, first, _, *_ = sent
    board = Noticeboard(tmp_path)

    def lay(n):
        parcel = unpacked(zip_bytes(first.folder, DAY), "p.zip")
        body = parcel.files["manifest.json"].replace(b'"on": "2026', b'"on": "%d' % n)
        return board.lay_out(msgspec.structs.replace(parcel, files={**parcel.files, "manifest.json": body})).version

    with ThreadPoolExecutor(4) as pool:
        assert sorted(pool.map(lay, range(1000, 1012))) == list(range(1, 13))
    (key,) = board.jobs()
    assert sorted(p.name for p in (tmp_path / key).iterdir()) == [f"{n:03d}" for n in range(1, 13)]
    spoilt = unpacked(zip_bytes(first.folder, DAY), "p.zip")
    spoilt.files["material.csv"] += b"x"
    with pytest.raises(JobError, match="not whole"):
        board.lay_out(spoilt)


def asked(server, path, method="GET", data=None, **heads):
    """A request, written by hand so that nothing tidies its path; status, heads, body."""
    with socket.create_connection(("127.0.0.1", server.server_address[1]), timeout=20) as at:
        told = {"Host": f"127.0.0.1:{server.server_address[1]}", "Connection": "close", **heads}
        if data is not None:
            told["Content-Length"] = str(len(data))
        lines = "".join(f"{k}: {v}\r\n" for k, v in told.items())
        at.sendall(f"{method} {path} HTTP/1.1\r\n{lines}\r\n".encode() + (data or b""))
        whole = b""
        while more := at.recv(65536):
            whole += more
    head, _, body = whole.partition(b"\r\n\r\n")
    first, *rest = head.decode().split("\r\n")
    return int(first.split()[1]), dict(r.split(": ", 1) for r in rest), body


@pytest.fixture
def server(tmp_path):
    with Server(Noticeboard(tmp_path / "board")) as found:
        found.start()
        yield found
        found.shutdown()


def test_it_is_served_on_this_machine_alone_and_nothing_leads_out_of_it(sent, server, tmp_path):
    _, first, second, *_ = sent
    (tmp_path / "board").mkdir(exist_ok=True)
    (tmp_path / "secret").write_text("secret")
    assert server.server_address[0] == "127.0.0.1"
    notice = publish_to(server.place, zip_bytes(first.folder, DAY), "p.zip")
    key = urllib.request.quote(job_folder(notice.job, notice.number), safe="")
    status, heads, body = asked(server, f"/{key}/1/transmittal.pdf")
    assert status == 200 and body == (first.folder / "transmittal.pdf").read_bytes()
    assert heads["X-Content-Type-Options"] == "nosniff" and "default-src 'none'" in heads["Content-Security-Policy"]
    out = ("../notice.json", "%2e%2e/notice.json", "..%2fnotice.json", "..%5c..%5cnotice.json", "/etc/hostname",
        "%00", "../../../../secret", "....//notice.json", "notice.json", "%2fetc%2fhostname", "")  # fmt: skip
    for path in out:
        status, _, body = asked(server, f"/{key}/1/{path}")
        assert status in (400, 404) and b"secret" not in body, path
    os.symlink(tmp_path / "secret", tmp_path / "board" / urllib.request.unquote(key) / "001" / "package" / "link")
    assert asked(server, f"/{key}/1/link")[0] == 404
    assert asked(server, "/", Host="elsewhere.example")[0] == 403  # a name that was made to lead here
    for path, data in (("/publish", b"PK"), (f"/{key}/1/taken?receiver=X", b"")):
        assert asked(server, path, "POST", data)[0] == 403  # as a page of somebody else's would send it
    for data in (b"", b"PK no zip", b"\0" * 1000):
        with pytest.raises(JobError):
            publish_to(server.place, data, "bad.zip")
    with pytest.raises(JobError, match="of this machine"):
        publish_to("http://example.com:80", b"", "a.zip")
    ask = urllib.request.Request(f"{server.place}/{key}/1/taken?receiver=Z", b"", {"X-Noticeboard": "yes"})
    assert urllib.request.urlopen(ask).status == 200
    publish_to(server.place, zip_bytes(second.folder, DAY), "q.zip")
    told = json.loads(asked(server, f"/{key}/changes?receiver=z")[2])
    assert {c["how"] for c in told["pieces"]} >= {"changed", "gone"}


HOSTILE = ("<script>alert(1)</script>", "</script><img src=x onerror=alert(1)>", "\"onmouseover=\"x", "../../up",
    "a\0b", "{job}", "CON", "\u202egnp.exe", "x" * 500, "; rm -rf ~", "=cmd|' /C calc'!A0", "🏗 ärø")  # fmt: skip


@pytest.mark.parametrize("name", HOSTILE)
def test_names_of_any_text_are_text_and_stay_in_their_place(name, server, tmp_path):
    board = server.board
    body = msgspec.json.encode({"job": name, "number": name, "kind": name, "receiver": name, "on": DAY, "package": 1,
        "files": []})  # fmt: skip
    notice = board.lay_out(unpacked(zipped({"manifest.json": body}), f"{name[:100]}.zip"))
    key = job_folder(notice.job, notice.number)
    assert job_folder(*("", key)) == key and [p.name for p in board.folder.iterdir()] == [key]
    board.take(key, name, tmp_path / "his", DAY)
    assert {p.name for p in tmp_path.iterdir()} == {"board", "his"} and len(list((tmp_path / "his").iterdir())) == 1
    page = asked(server, "/")[2].decode()
    assert "<script" not in page and "<img" not in page and 'onmouseover="x' not in page
    said = with_changes(b'<script type="application/json" id="changes">null</script>', name)
    assert said.count(b"<") == 2 and json.loads(said.partition(b">")[2].rpartition(b"<")[0]) == name


def zipped(held):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as target:
        for name, data in held.items():
            target.writestr(f"p/{name}", data)
    return out.getvalue()


@pytest.mark.parametrize("name", ["../up.txt", "/up.txt", "a/../../up.txt", "a\\..\\..\\up.txt"])
def test_a_package_that_lists_places_outside_is_refused_whole(name, tmp_path):
    listed = [{"file": name, "kind": "x", "sha256": hashlib.sha256(b"x").hexdigest()}]
    body = msgspec.json.encode({"job": "J", "number": "1", "files": listed})
    board = Noticeboard(tmp_path / "board")
    with pytest.raises(JobError):
        board.lay_out(unpacked(zipped({"manifest.json": body, name: b"x"}), "p.zip"))
    assert not board.jobs() and not [p for p in tmp_path.rglob("*") if p.is_file()]


def test_from_the_command_line(sent, tmp_path):
    path, first, _, *_ = sent
    run = CliRunner().invoke
    board = str(tmp_path / "board")
    done = run(app, ["publish", str(path), "1", "--board", board, "--json"])
    assert json.loads(done.stdout)["notice"]["version"] == 1, done.output
    key = job_folder("Frame 1 x 1", "M-1")
    took = run(
        app, ["noticeboard", board, "--take", key, "--receiver", "Made-up Steel", "--out", str(tmp_path / "his")]
    )
    assert took.exit_code == 0 and files(tmp_path / "his" / first.folder.name) == files(first.folder)
    done = run(app, ["publish", str(path), "2", "--board", board])
    assert "version 2" in done.stdout and "Made-up Steel: has version 1; " in done.stdout and "1 gone" in done.stdout
    listed = json.loads(run(app, ["noticeboard", board, "--json"]).stdout)
    assert [n["version"] for n in listed[key]] == [1, 2]
    other = Job.create(tmp_path / "other.uncus", [])
    other.close()
    assert run(app, ["publish", str(tmp_path / "other.uncus"), str(first.folder), "--board", board]).exit_code == 2
    with Job.open(path) as job:
        assert len(job.all(Sending)) == 2
    for wrong, says in ((["publish", str(path), "9", "--board", board], "There is no package 9"),
            (["publish", str(path), "1", "--board", "http://example.com"], "of this machine"),
            (["publish", str(path), "1", "--board", str(path)], "could not be"),
            (["noticeboard", board, "--serve", "70000"], "65535"),
            (["noticeboard", board, "--take", "../x", "--receiver", "A"], "no job of this")):  # fmt: skip
        done = run(app, wrong)
        assert done.exit_code == 2 and says in done.output and "Traceback" not in done.output, done.output
    assert "Nothing is laid out" in run(app, ["noticeboard", str(tmp_path / "none")]).stdout
    command = [sys.executable, "-m", "uncus", "noticeboard", board, "--serve", "0"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ}) as serving:
        try:
            place = serving.stdout.readline().split(" at ")[1].split(";")[0]
            assert b"Noticeboard" in urllib.request.urlopen(place).read()
        finally:
            serving.terminate()
    assert Path(board).is_dir()
