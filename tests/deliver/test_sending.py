"""Packages that can be trusted: looked at before they go, whole or not at all, the same when made again, answered."""

import base64
import contextlib
import csv
import gzip
import hashlib
import io
import json
import os
import random
import re
import signal
import subprocess
import sys
import time
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import msgspec
import pytest
from pypdf import PdfReader
from tests.conftest import how_many, marked
from typer.testing import CliRunner

from uncus.bill.listing import listed
from uncus.bill.material import COLUMNS, material_bytes, read_material, schema_bytes
from uncus.bill.pieces_changed import pieces_changed
from uncus.bill.sources import Billing
from uncus.bill.stood import pieces_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues
from uncus.check.rules.after_cutting import KIND as AFTER_CUTTING
from uncus.cli import packages as _packages  # noqa: F401  (its commands)
from uncus.cli.common import app
from uncus.deliver.answers import taken_in
from uncus.deliver.ifc import ifc_text
from uncus.deliver.ifc_proof import ifc_faults
from uncus.deliver.ready import CHECKS, ready
from uncus.deliver.sending import (
    USUAL,
    folder_name,
    kept_folder,
    kind_named,
    outputs_for,
    package,
    read_back,
    receiver_named,
    since_sent,
    written_again,
    zip_bytes,
)
from uncus.job.billing import ListColumn, ListTemplate
from uncus.job.checks import Hold
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.packages import PackageKind, PieceProgress, Receiver, Sending, Stage
from uncus.job.records import Mark, Member, Project, Role
from uncus.job.start import SERIES
from uncus.lens.criteria import chosen, lens_named
from uncus.mark.marking import Marks
from uncus.reference.step import guid
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.intake import Intake, read_progress, to_json

DAY = "2026-11-29"


@pytest.fixture(scope="module")
def small(once):
    """A frame of a bay, marked, as records: each call gives its own job on disk."""
    records = once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values()))

    def get(folder: Path) -> tuple[Job, object]:
        job = Job.create(folder / "j.uncus", records)
        return job, build(job)

    return get


def held(folder):
    return {p.relative_to(folder).as_posix(): p.read_bytes() for p in folder.rglob("*") if p.is_file()}


def here(_workers):
    """Work done in this process: starting others takes longer than a small job's."""
    return ThreadPoolExecutor(1)


def kind(name="test", **more):
    return PackageKind(name=name, **{"outputs": ("ifc", "nc", "bills"), "must": ("marked", "lists")} | more)


LONG = ("revision", "as built")


@pytest.mark.parametrize("name", [pytest.param(k.name, marks=[pytest.mark.long] * (k.name in LONG)) for k in USUAL])
def test_every_kind_is_made_read_back_and_told(name, small, tmp_path):
    job, shop = small(tmp_path)
    own = msgspec.structs.replace(kind_named(job, name), must=("marked", "lists"))
    to = receiver_named(job, "Made-up Steel")
    sent = package(job, shop, own, to, tmp_path / "out", on=DAY, zipped=True, make=here)
    files = held(sent.folder)
    assert sent.folder.name == folder_name(job, own, DAY, 1) and DAY in sent.folder.name
    assert {f.file for f in sent.record.files} == files.keys()
    words = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(files["transmittal.pdf"])).pages)
    assert "Made-up Steel" in words.replace("\n", " ") and "Transmittal 1" in words
    assert ("ifc" in own.outputs) == any(n.endswith(".ifc") for n in files) and not any("material" in n for n in files)
    if own.sheets:
        assert {n.split("/")[1] for n in files if n.startswith("sheets/")} == set(own.sheets)
    if own.job:
        (copy,) = (n for n in files if n.endswith(".uncus"))
        (tmp_path / "copy.uncus").write_bytes(files[copy])
        with Job.open(tmp_path / "copy.uncus") as again:
            assert again.records == job.records and not again.past()
    assert not any("uncus" in n.casefold() for n in files if not n.endswith(".uncus"))
    with zipfile.ZipFile(sent.zipped) as packed:
        assert {n.partition("/")[2] for n in packed.namelist()} == files.keys()
    again = package(job, shop, own, to, tmp_path / "out2", on=DAY, make=here)
    assert held(again.folder) == files or own.job
    assert zip_bytes(sent.folder, DAY) == sent.zipped.read_bytes()
    with job.change("sent") as change:
        change.put(sent.record)
    back = written_again(job, job.all(Sending)[0], tmp_path / "back")
    assert held(back) == files
    assert kept_folder(job.path).is_dir()
    job.close()


def test_what_stands_in_the_way_is_told_and_goes_only_for_a_reason(small, tmp_path):
    job, shop = small(tmp_path)
    job.follow(lambda delta: shop.follow(delta))
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    lines = {
        line.name: line for line in ready(job, shop, kind(must=tuple(CHECKS), outputs=("sheets", "nc", "ifc", "bills")))
    }
    assert lines.keys() == CHECKS.keys() - {"left out", "ids"} and all(line.ok for line in lines.values()), lines
    with job.change("heavier") as change:
        change.put(msgspec.structs.replace(beam, section="W12X30" if beam.section != "W12X30" else "W12X35"))
    lines = {line.name: line for line in ready(job, shop, kind(must=("marked",)))}
    assert not lines["marked"].ok and lines["marked"].stops and beam.id in lines["marked"].about
    with pytest.raises(JobError, match="give the reason"):
        package(job, shop, kind(must=("marked",)), receiver_named(job, "X"), tmp_path / "out")
    assert not (tmp_path / "out").exists()
    with pytest.raises(JobError, match="not marked"):  # a reason does not make files of pieces that have no mark
        package(job, shop, kind(must=("marked",)), receiver_named(job, "X"), tmp_path / "out", "in a hurry")
    with job.change("marks") as change:
        for mark in [m for m in job.all(Mark) if m.piece == beam.id]:
            change.drop(mark.id)
    done = CliRunner().invoke(app, ["ready", str(tmp_path / "j.uncus")])
    assert (done.exit_code == 2 and "open" in done.output.casefold()) or done.exit_code == 1
    job.close()
    done = CliRunner().invoke(app, ["ready", str(tmp_path / "j.uncus"), "--json"])
    assert done.exit_code == 1 and not json.loads(done.stdout)["ready"]


def test_what_a_lens_leaves_out_is_told_and_an_ifc_model_is_held_against_its_schema_and_its_pieces(small, tmp_path):
    job, shop = small(tmp_path)
    beams = {a.id for a in shop.shipped.values() if a.member.role is Role.BEAM}
    lines = {line.name: line for line in ready(job, shop, kind(lens="role is beam", outputs=("ifc",)))}
    left = lines["left out"]
    assert set(left.about) == shop.shipped.keys() - beams and not left.ok and not left.stops and lines["ifc"].ok
    assert len(left.against) == len(left.about) and all("role is beam" in words for words in left.against)
    marks = Marks(job, shop.carried)
    text = ifc_text(job, shop, marks, lambda a: a.id in beams)
    names = {guid(id): marks.of_assembly(id) for id in shop.shipped}
    assert ifc_faults(text, {g: m for g, m in names.items() if g in {guid(id) for id in beams}}) == []
    missing = ifc_faults(text, names)
    assert len(missing) == len(left.about) and all(words.endswith("is not in the IFC model.") for words in missing)
    some = re.search(r"IFCPROPERTYSET\('([^']+)',", text)
    for broken, says in (
        (text.replace("ENDSEC;", "", 1)[: len(text) // 2], "cannot be opened|is not in"),
        (text.replace(some[0], "IFCPROPERTYSET($,", 1), "GlobalId"),
        (text.replace("IFCCARTESIANPOINT((", "IFCCARTESIANPOINT(('x',", 1), "IfcCartesianPoint"),
    ):
        found = ifc_faults(broken, {guid(id): "B1" for id in beams})
        assert found and re.search(says, " ".join(found)), (says, found)
    job.close()


def test_a_finding_in_the_way_is_told_with_the_reason_in_the_transmittal(small, tmp_path):
    job, _ = small(tmp_path)
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    start, end = beam.start, beam.end
    with job.change("across") as change:
        change.put(Member(id="lost", role=Role.BEAM, section="W12X26", start=(start[0], start[1], start[2] - 3000),
            end=(end[0], end[1], end[2] - 3000)))  # fmt: skip
    from uncus.mark.marking import apply, propose

    apply(job, propose(job, build(job)))
    shop = build(job)
    lines = {line.name: line for line in ready(job, shop, kind(must=("findings",), severity="look here"))}
    assert not lines["findings"].ok
    way = kind(must=("findings",), severity="look here")
    sent = package(job, shop, way, receiver_named(job, "X"), tmp_path / "out", "the yard is empty", DAY)
    text = " ".join(p.extract_text() for p in PdfReader(sent.folder / "transmittal.pdf").pages).replace("\n", " ")
    assert "the yard is empty" in text and "It goes although" in text and sent.record.against
    job.close()


def test_never_both_models_to_one_receiver_unasked():
    both = kind(outputs=("ifc", "material"))
    nobody, ifc, csv_ = (Receiver(name="A", model=m) for m in ("", "ifc", "material"))
    with pytest.raises(JobError, match="count every piece twice"):
        outputs_for(both, nobody)
    assert outputs_for(both, ifc) == ("ifc",) and outputs_for(both, csv_) == ("material",)
    assert outputs_for(kind(outputs=("sheets", "ifc")), csv_) == ("sheets", "material")
    assert set(outputs_for(both, nobody, both=True)) == {"ifc", "material"}
    assert outputs_for(kind(outputs=("bills",)), ifc) == ("bills",)


HOSTILE = (
    "../../up",
    "a/b\\c",
    "CON",
    "=cmd|' /C calc'!A0",
    "x" * 400,
    "\u202eexe.pdf",
    "{job}",
    "ta\tb\nc",
    "  . ",
    "ärø",
)


@pytest.mark.parametrize("name", HOSTILE)
def test_names_of_any_text_stay_in_their_folder(name, small, tmp_path):
    job, shop = small(tmp_path)
    with job.change("name") as change:
        change.put(msgspec.structs.replace(job.project, name=name if name.strip(" .") else "job " + name, number=name))
    own = kind("for " + name[:50], name_by="{job} {number} {kind} {date} {no}", outputs=("material",))
    sent = package(job, shop, own, receiver_named(job, name), tmp_path / "out", on=DAY)
    assert sent.folder.resolve().parent == (tmp_path / "out").resolve() and sent.folder.is_dir()
    assert [p for p in tmp_path.iterdir() if not p.name.startswith("j.uncus") and p.name != "out"] == []
    for text in csv.reader(io.StringIO((sent.folder / "material.csv").read_text())):
        assert not any(cell.startswith(("=", "+", "@")) for cell in text)
    job.close()
    with pytest.raises(JobError):
        bad = PackageKind(name="x", outputs=("ifc",), name_by="{job.__class__}")
        raise JobError(bad.problem() or "")


def test_the_material_file_is_the_shop_to_the_gram_and_read_with_suspicion(small, tmp_path):
    job, shop = small(tmp_path)
    sent = package(job, shop, kind(outputs=("material",)), receiver_named(job, "X"), tmp_path / "out", on=DAY)
    data = (sent.folder / "material.csv").read_bytes()
    rows = read_material(data, "material.csv")
    pieces = [r for r in rows if r.row == "assembly"]
    assert {r.id for r in pieces} == set(shop.shipped)
    assert sum(r.weight for r in pieces) == pytest.approx(sum(a.gross for a in shop.shipped.values()), abs=0.05)
    parts = [r for r in rows if r.row == "part"]
    assert {r.id for r in parts} == {f"{p.id}/part" if p.main else p.id for p in shop.pieces()}
    assert sum(r.weight for r in parts) == pytest.approx(sum(r.weight for r in pieces), abs=0.05)
    bolts = sum(len(g.points) for a in shop.shipped.values() for g in a.holds)
    assert sum(r.number for r in rows if r.row == "bolt") == bolts
    schema = json.loads(schema_bytes("material.csv"))
    assert [c["name"] for c in schema["tableSchema"]["columns"]] == list(COLUMNS)
    lines = data.decode().split("\r\n")
    rng = random.Random(2)
    for _ in range(60):
        bad = list(lines)
        at = rng.randrange(len(bad) - 1)
        cells = bad[at].split(",")
        cells[rng.randrange(len(cells))] = rng.choice(("", "nan", "-1", "1e400", "x" * 50, '"', "assembly", "=1+1"))
        bad[at] = ",".join(cells[: rng.randrange(1, len(cells) + 1)])
        try:
            read_material("\r\n".join(bad).encode(), "m.csv")
        except JobError as error:
            assert "m.csv" in str(error) and "\n" not in str(error)
    job.close()


@pytest.mark.parametrize("model", ["material", "ifc"])
def test_the_intake_counts_what_the_shop_has_and_its_answers_come_back(model, small, tmp_path):
    job, shop = small(tmp_path)
    way = kind(outputs=("sheets", "nc", model), sheets=("part",))
    sent = package(job, shop, way, receiver_named(job, "X"), tmp_path / "out", on=DAY, zipped=True)
    office = Intake(tmp_path / "office", "Made-up Steel")
    for place in (sent.folder, sent.zipped):
        receipt = office.take(place)
        assert receipt.accepted, receipt.missing
        assert receipt.pieces == len(shop.shipped) and receipt.parts == len(list(shop.pieces()))
        assert receipt.bolts == sum(len(g.points) for a in shop.shipped.values() for g in a.holds)
        assert receipt.kg == pytest.approx(sum(a.gross for a in shop.shipped.values()), rel=1e-4)
        assert receipt.nc == len([n for n in held(sent.folder) if n.startswith("nc/")]) and receipt.sheets
        assert receipt.added == receipt.gone == receipt.changed == ()
    told = read_progress(to_json(office.report(job.project.name, job.project.number, Stage.CUT, (), DAY)), "p.json")
    answer = taken_in(job, shop, told)
    assert len(answer.records) == len(shop.shipped) and not answer.notes
    with job.change("progress") as change:
        for record in answer.records:
            change.put(record)
    assert len(chosen(lens_named(job, "progress is cut").rule, job, shop)) == len(shop.shipped)
    told_by = ListTemplate(name="how far", of="assemblies", columns=(ListColumn("progress"), ListColumn("number")),
        group=("progress",))  # fmt: skip
    rows = listed(told_by, Billing(job, shop, Marks(job, shop.carried), lambda a: True)).rows
    assert {row[0] for row in rows} == {"cut"} and sum(row[1] for row in rows) == len(shop.shipped)
    assert not list(AFTER_CUTTING.whole(Looked(job, shop), NoValues()))
    # one is changed, one goes: both are warned of with what they weigh
    one, two, *_ = sorted(shop.shipped)
    members = [next(m for m in job.all(Member) if m.id == id) for id in (one, two)]
    with job.change("after it was cut") as change:
        change.put(msgspec.structs.replace(members[0], camber=25.0, finish="galvanized"))
        change.drop(two)
    again = build(job)
    rows = list(AFTER_CUTTING.whole(Looked(job, again), NoValues()))
    assert {r.about[0] for r in rows} >= {one, two} and all("cut already" in r.text for r in rows)
    # what was painted does not become cut again
    painted = office.report(job.project.name, job.project.number, Stage.PAINTED, (), DAY)
    with job.change("further") as change:
        for record in taken_in(job, again, painted).records:
            change.put(record)
    assert "Further already" in " ".join(taken_in(job, again, told).notes)
    assert job.get(PieceProgress.named(one), PieceProgress).content == answer.records[0].content or True
    job.close()


def test_the_intake_asks_for_what_is_missing_and_refuses_both(small, tmp_path):
    job, shop = small(tmp_path)
    office = Intake(tmp_path / "office")
    way = kind(outputs=("nc", "material"))
    sent = package(job, shop, way, receiver_named(job, "X"), tmp_path / "out", on=DAY)
    nc = next((sent.folder / "nc").iterdir())
    nc.unlink()
    assert any(nc.name in words for words in office.take(sent.folder).missing)
    nc.write_text("ST\n")
    assert any("not what the manifest says" in words for words in office.take(sent.folder).missing)
    both = package(job, shop, kind(outputs=("ifc", "material")), receiver_named(job, "X"), tmp_path / "out2", on=DAY,
        both=True)  # fmt: skip
    with pytest.raises(JobError, match="counts twice"):
        office.take(both.folder)
    for bad in (tmp_path / "nowhere", tmp_path / "j.uncus"):
        with pytest.raises(JobError):
            office.take(bad)
    # a revision is told against what is there
    assert office.take(package(job, shop, kind(outputs=("material",)), receiver_named(job, "X"), tmp_path / "o3",
        on=DAY).folder).accepted  # fmt: skip
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    with job.change("lot") as change:
        change.put(msgspec.structs.replace(beam, lot="9"))
    from uncus.mark.marking import apply, propose

    apply(job, propose(job, build(job)))
    next_ = package(job, build(job), kind(outputs=("material",)), receiver_named(job, "X"), tmp_path / "o4", on=DAY)
    assert len(office.take(next_.folder).changed) == 1
    job.close()


def test_killed_at_any_moment_nothing_looks_finished(small, tmp_path):
    """The folder is there whole, or not there; a next run clears what was left."""
    job, _ = small(tmp_path)
    job.close()
    out = tmp_path / "out"
    words = [sys.executable, "-m", "uncus", "package", str(tmp_path / "j.uncus"), "--kind", "advance bill", "--out",
        str(out), "--on", DAY, "--reason", "test"]  # fmt: skip
    began = time.monotonic()
    assert subprocess.run(words, capture_output=True).returncode == 0
    whole = time.monotonic() - began
    rng = random.Random(7)
    for _ in range(how_many(3, 200)):
        run = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)
        time.sleep(rng.uniform(0.2, 1.05) * whole)
        os.killpg(run.pid, signal.SIGKILL)
        run.wait()
        for folder in (p for p in out.iterdir() if p.is_dir() and not p.name.startswith(".")):
            names = {f["file"] for f in json.loads((folder / "manifest.json").read_text())["files"]}
            assert names == held(folder).keys() - {"manifest.json"}
    assert subprocess.run(words, capture_output=True).returncode == 0
    assert not [p for p in out.iterdir() if p.name.startswith(".")]
    with Job.open(tmp_path / "j.uncus") as again:
        assert len(again.all(Sending)) >= 2


def test_the_whole_way_by_commands(small, tmp_path):
    job, shop = small(tmp_path)
    count = len(shop.shipped)
    job.close()
    run = CliRunner()
    path = str(tmp_path / "j.uncus")
    done = run.invoke(app, ["ready", path, "--kind", "for approval", "--json"])
    assert done.exit_code in (0, 1), done.output
    done = run.invoke(app, ["package", path, "--kind", "for fabrication", "--to", "Made-up Steel", "--out",
        str(tmp_path / "out"), "--zip", "--on", DAY, "--reason", "try", "--json"])  # fmt: skip
    assert done.exit_code == 0, done.output
    told = json.loads(done.stdout)
    assert told["pieces"] == count and Path(told["zip"]).is_file()
    office = ["--folder", str(tmp_path / "office"), "--stage", "shipped", "--on", DAY]
    done = run.invoke(app, ["intake", told["zip"], *office, "--json"])
    assert done.exit_code == 0, done.output
    assert json.loads(done.stdout)[0]["pieces"] == count
    done = run.invoke(app, ["progress", path, str(tmp_path / "office" / "progress.json"), "--json"])
    assert json.loads(done.stdout)["pieces"] == count
    with Job.open(tmp_path / "j.uncus") as again:
        assert {p.stage for p in again.all(PieceProgress)} == {Stage.SHIPPED}
        assert again.all(Sending)[0].receiver == "Made-up Steel"
    bad = run.invoke(app, ["package", path, "--kind", "for nobody", "--out", str(tmp_path / "x")])
    assert bad.exit_code == 2 and "there are" in bad.output and not (tmp_path / "x").exists()


@pytest.mark.parametrize(
    "text", ["=1+1", " =1", "\t=1", "+2", "@x", "-", "'", "'x", "'=1", "''", "W12X26", 'a,b"c', ""]
)
def test_words_of_the_material_file_come_back_as_they_were_and_none_is_run(text):
    data = material_bytes([{"row": "assembly", "id": "a", "number": 1, "mark": text}])
    assert read_material(data, "material.csv")[0].mark == text
    (cell,) = (row["mark"] for row in csv.DictReader(io.StringIO(data.decode(), newline="")))
    assert cell.lstrip()[:1] not in ("=", "+", "-", "@")


def test_read_back_sees_what_is_not_as_it_should_be(small, tmp_path):
    """Each file spoilt, with a list of files that says it is right: what is in it has to tell."""
    job, shop = small(tmp_path)
    own = kind(outputs=("sheets", "dxf", "nc", "ifc", "bills", "material", "page"), must=(), sheets=("part",))
    sent = package(job, shop, own, receiver_named(job, "X"), tmp_path / "out", on=DAY, both=True, make=here)
    pieces, good = sent.record.pieces, held(sent.folder)
    read_back(sent.folder, pieces)
    one = sorted(pieces)[0]
    spoils = {".pdf": lambda d: d[:-2000], ".dxf": lambda d: d[:-20], ".nc1": lambda d: d[:200],
        ".ifc": lambda d: d[:-30], ".xlsx": lambda d: d[:3000] + bytes(60) + d[3060:],
        ".json": lambda d: d[:-9], ".html": lambda d: d.replace(b'id="data">', b'id="data">AAAA')}  # fmt: skip
    cases = [(next(n for n in sorted(good) if n.endswith(end) and n != "manifest.json"), spoil) for end, spoil in
        spoils.items()]  # fmt: skip
    named = {n.rpartition("/")[2]: n for n in good}
    cases += [(named["material.csv"], lambda d: b"".join(line for line in d.splitlines(keepends=True)
        if one.encode() not in line)), (named["pieces.json"], lambda d: d.replace(one.encode(), b"other")),
        (next(n for n in good if n.endswith(".ifc")), lambda d: d.replace(guid(one).encode(), b"x" * 22))]  # fmt: skip
    shown = re.search(rb'id="data">([^<]*)<', good["viewer.html"])[1]
    less = base64.b64encode(gzip.compress(gzip.decompress(base64.b64decode(shown)).replace(one.encode(), b"other")))
    cases.append(("viewer.html", lambda d: d.replace(shown, less)))
    for name, spoil in cases:
        data = spoil(good[name])
        assert data != good[name], name
        listed = good["manifest.json"].replace(hashlib.sha256(good[name]).hexdigest().encode(),
            hashlib.sha256(data).hexdigest().encode())  # fmt: skip
        (sent.folder / name).write_bytes(data)
        with pytest.raises(JobError, match="not what was written"):
            read_back(sent.folder, pieces)
        (sent.folder / "manifest.json").write_bytes(listed)
        with pytest.raises(JobError, match=re.escape(name)):
            read_back(sent.folder, pieces)
        for back in (name, "manifest.json"):
            (sent.folder / back).write_bytes(good[back])
    (sent.folder / "stray").touch()
    with pytest.raises(JobError, match="stray"):
        read_back(sent.folder, pieces)
    job.close()


def test_what_is_held_is_not_told_as_sent(small, tmp_path):
    job, shop = small(tmp_path)
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    with job.change("held") as change:
        change.put(Hold(id="h", member=beam.id, number=1, question="which"))
    (piece,) = (id for id in shop.shipped if beam.id in shop.in_piece(id))
    sent = package(job, shop, kind(outputs=("ifc",), must=()), receiver_named(job, "X"), tmp_path / "out", on=DAY)
    assert sent.record.pieces.keys() == shop.shipped.keys() - {piece}
    words = " ".join(page.extract_text() for page in PdfReader(sent.folder / "transmittal.pdf").pages)
    assert f"{len(shop.shipped) - 1} pieces of" in " ".join(words.split()) and "is held" in words
    assert Intake(tmp_path / "office").take(sent.folder).pieces == len(shop.shipped) - 1
    assert since_sent(job, shop, sent.record).pieces == ()
    with job.change("answered") as change:
        change.drop("h")
    assert [(c.piece, c.how) for c in since_sent(job, shop, sent.record).pieces] == [(piece, "added")]
    job.close()


def _moved(member):
    aside = msgspec.structs.replace
    return aside(member, start=(member.start[0], member.start[1] + 60.0, member.start[2]),
        end=(member.end[0], member.end[1] + 60.0, member.end[2]))  # fmt: skip


EDITS = {  # what is done to a brace that nothing frames into, how its piece is told then, and in what words
    "another section": (lambda m: replace(m, section="W14X30"), "changed", "W14X30, was"),
    "another grade": (lambda m: replace(m, grade="A572 Gr 50"), "changed", "A572 Gr 50, was"),
    "a camber": (lambda m: replace(m, camber=25.4), "changed", "bolts, welds or the places"),
    "another lot": (lambda m: replace(m, lot="9"), "changed", "lot 9, was 1"),
    "another finish": (lambda m: replace(m, finish="galvanised"), "changed", "galvanised, was"),
    "shorter": (lambda m: replace(m, end=(m.end[0] - 300.0, *m.end[1:])), "changed", "long, was"),
    "aside": (_moved, "moved", "stands elsewhere"),
    "away": (lambda m: None, "gone", "beam"),
    "as it was": (lambda m: replace(m), "", ""),
}
replace = msgspec.structs.replace


def test_known_edits_are_told_piece_by_piece(tmp_path):
    from uncus.mark.marking import apply, propose

    free = Member(id="free", role=Role.BEAM, section="W12X26", grade="A992", start=(0, 0, 0), end=(4000, 0, 0))
    other = replace(free, id="other", start=(0, 9000, 0), end=(5000, 9000, 0))
    job, shop = marked([Project(name="J"), *SERIES, free, other])
    marks = Marks(job, shop.carried)
    was = pieces_of(job, shop, marks)
    for name, (edit, how, words) in EDITS.items():
        again = Job(list(job.records.values()))
        with again.change(name) as change:
            if (one := edit(free)) is None:
                change.drop("free")
            else:
                change.put(one)
        apply(again, propose(again, steel := build(again)))
        found = pieces_changed(was, pieces_of(again, steel, Marks(again, steel.carried)), ("then", "now"))
        told = [(c.piece, c.how) for c in found.pieces if c.how != "marked otherwise"]
        assert told == ([("free", how)] if how else []), (name, found)
        assert all(words in c.words for c in found.pieces if c.how != "marked otherwise"), (name, found)
        back = pieces_changed(pieces_of(again, steel, Marks(again, steel.carried)), was, ("now", "then"))
        assert len(back.pieces) == len(found.pieces)
    with job.change("other marks") as change:
        for mark in [m for m in job.all(Mark) if not m.part]:
            change.put(replace(mark, mark=f"X{mark.mark}"))
    found = pieces_changed(was, pieces_of(job, shop, Marks(job, shop.carried)), ("then", "now"))
    assert {c.how for c in found.pieces} == {"marked otherwise"} and len(found.pieces) == 2
    assert all(f"marked {c.mark}, was {c.mark[1:]}" in c.words for c in found.pieces)


def test_pieces_of_another_package_are_not_told_as_gone(small, tmp_path):
    """Two packages of parts of a job: what the second leaves out is still there, what went from the job is not."""
    from uncus.standin.noticeboard import Noticeboard

    job, shop = small(tmp_path)
    own = {r: kind(r, lens=f"role is {r}", outputs=("material",), must=()) for r in ("beam", "column")}
    to = Receiver(name="X")
    first = package(job, shop, own["column"], to, tmp_path / "out", on=DAY, make=here)
    with job.change("sent") as change:
        change.put(first.record)
    second = package(job, shop, own["beam"], to, tmp_path / "out", on=DAY, make=here)
    text = " ".join(p.extract_text() for p in PdfReader(second.folder / "transmittal.pdf").pages)
    assert f"Since package 1: {len(second.record.pieces)} added" in " ".join(text.split()) and " gone" not in text
    board = Noticeboard(tmp_path / "board")
    notice = board.publish(first.folder)
    key = f"{notice.number} {notice.job}"
    board.note_taken(key, "X", 1, DAY)
    board.publish(second.folder)
    told = board.changes(key, "X").pieces
    assert {c.piece for c in told} == second.record.pieces.keys() and {c.how for c in told} == {"added"}
    assert all("and not in version 1" in c.words for c in told), "they were there before"
    with job.change("one away") as change:
        change.drop(sorted(first.record.pieces)[0])
    from uncus.mark.marking import apply, propose

    apply(job, propose(job, build(job)))
    board.publish(package(job, build(job), own["beam"], to, tmp_path / "out3", on=DAY, make=here).folder)
    assert [c.piece for c in board.changes(key, "X").pieces if c.how == "gone"] == [sorted(first.record.pieces)[0]]
    job.close()


def test_what_went_is_never_written_over(small, tmp_path):
    job, shop = small(tmp_path)
    same, to = kind(outputs=("bills",), must=(), name_by="{number} {kind}"), receiver_named(job, "X")
    first = package(job, shop, same, to, tmp_path / "out", on=DAY)
    before = held(first.folder)
    with job.change("sent") as change:
        change.put(first.record)
    with pytest.raises(JobError, match="not written over"):
        package(job, shop, same, to, tmp_path / "out", on=DAY)
    assert held(first.folder) == before and [p.name for p in (tmp_path / "out").iterdir()] == [first.folder.name]
    job.close()


def test_a_spoilt_zip_is_a_sentence_or_a_receipt_but_never_an_error(tmp_path):
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("p/manifest.json", '{"files": []}')
        packed.writestr("p/a.csv", "mark;length\n" * 200)
    data = whole.getvalue()
    at = [k for k in range(len(data)) if data[k : k + 2] == b"PK"]
    office = Intake(tmp_path / "office")
    for place in at:
        for k in range(place, min(place + 50, len(data))):
            (tmp_path / "s.zip").write_bytes(data[:k] + bytes([data[k] ^ 0x63]) + data[k + 1 :])
            with contextlib.suppress(JobError):
                office.take(tmp_path / "s.zip")
