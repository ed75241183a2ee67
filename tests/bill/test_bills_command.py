"""Bills, comparing and nesting on the command line: files, exit codes, what is kept in the job."""

import json
import re
import shutil

import msgspec
import pytest
from pypdf import PdfReader

from tests.test_cli import refused, uncus
from uncus.bill.listing import USUAL, to_json
from uncus.job.billing import ListColumn, ListTemplate
from uncus.job.job import Job
from uncus.job.records import AdvanceMark, KeptList, Member, Offcut, Role


@pytest.fixture(scope="module")
def path(tmp_path_factory):
    path = tmp_path_factory.mktemp("bills") / "f.uncus"
    assert uncus("sample", path, "--bays", 1, "--storeys", 1).returncode == 0
    assert uncus("mark", path).returncode == 0
    return path


@pytest.fixture
def job(path, tmp_path):
    return shutil.copyfile(path, tmp_path / "j.uncus")


def test_lists_are_written_by_name_and_by_template_and_kept(job, tmp_path):
    out = tmp_path / "out"
    ran = uncus("bills", job, "--out", out)
    assert ran.returncode == 0 and re.search(r"\d+ lists in \d+ files", ran.stdout)
    names = {p.name for p in out.iterdir()}
    assert {"parts.pdf", "parts.csv", "cuts.pdf", "lists.xlsx"} <= names and "studs.pdf" not in names
    own = ListTemplate(name="office / 7", of="cuts", columns=(ListColumn("section"), ListColumn("number", total=True)))
    (tmp_path / "t.json").write_bytes(to_json([own, USUAL[0]]))
    ran = uncus("bills", job, "--out", tmp_path / "own", "--template", tmp_path / "t.json", "--list", "office / 7",
        "--lens", "role is beam", "--keep", "to the mill")  # fmt: skip
    assert ran.returncode == 0
    assert {p.name for p in (tmp_path / "own").iterdir()} == {"office _ 7.pdf", "office _ 7.csv", "lists.xlsx"}
    assert "Cut lengths" in PdfReader(tmp_path / "own" / "office _ 7.pdf").pages[0].extract_text()
    with Job.open(job) as opened:
        (kept,) = opened.all(KeptList)
        beams = {m.id for m in opened.all(Member) if m.role is Role.BEAM}
        assert kept.name == "to the mill" and {p.owner for p in kept.parts} <= beams
        assert opened.can_undo == "List kept: to the mill" and opened.undo()
    refused(uncus("bills", job, "--out", out, "--list", "birds"), "birds", "cuts")
    refused(uncus("bills", job, "--out", job), "j.uncus")
    (tmp_path / "none.json").write_bytes(to_json([]))
    refused(uncus("bills", job, "--out", out, "--template", tmp_path / "none.json"), "none.json holds no templates")
    with Job.open(job) as opened, opened.change("a list that cannot be made") as change:
        change.put(ListTemplate(name="odd", of="birds", columns=(ListColumn("feathers"),)))
        change.put(own)
    ran = uncus("bills", job, "--out", tmp_path / "some")
    assert ran.returncode == 0 and "“odd” was not made" in ran.stderr and (tmp_path / "some" / "parts.pdf").exists()
    assert uncus("produce", job, "--out", tmp_path / "package", "--only", "bills").returncode == 2
    names = {p.name for p in (tmp_path / "package" / "bills").iterdir()}
    assert {"office _ 7.csv", "parts.csv", "pieces.json"} <= names, "one list never stops the others"


def test_what_changed_since_a_kept_list_a_package_and_another_job(job, tmp_path):
    before = shutil.copyfile(job, tmp_path / "before.uncus")
    package = tmp_path / "pkg"
    assert uncus("produce", job, "--out", package, "--only", "bills").returncode == 0
    assert uncus("bills", job, "--out", tmp_path / "o", "--keep", "first", "--list", "cuts").returncode == 0
    same = uncus("compare", job, before)
    assert same.returncode == 0 and "Nothing changed" in same.stdout
    with Job.open(job) as opened:
        beam = next(m for m in opened.all(Member) if m.role is Role.BEAM)
        with opened.change("x") as change:
            change.put(msgspec.structs.replace(beam, lot="9"))
    for other in ((before,), (package,), ("--kept", "first")):
        ran = uncus("compare", job, *other, "--json", "--out", tmp_path / "changes")
        assert ran.returncode == 1
        found = json.loads(ran.stdout)
        assert found["kg"][0] == found["kg"][1] and {tuple(r["changed"]) for r in found["changed"]} == {("lot",)}
        assert beam.id in {r["piece"] for r in found["changed"]}
    assert {"changes.pdf", "pieces changed.csv", "lists.xlsx"} <= {p.name for p in (tmp_path / "changes").iterdir()}
    said = uncus("compare", job, before).stdout
    assert "lot   +0 lb   lot 9, was" in said, said
    refused(uncus("compare", job), "kept list")
    refused(uncus("compare", job, "--kept", "second"), "first")
    refused(uncus("compare", job, tmp_path), "which pieces it held")


def test_lengths_are_ordered_ahead_under_marks_that_stay(job, tmp_path):
    assert uncus("bills", job, "--out", tmp_path / "a", "--advance", "AB-1").returncode == 0
    with Job.open(job) as opened:
        marks = {a.piece: a for a in opened.all(AdvanceMark) if a.part}
        assert marks and all(a.length > 0 and a.package == "AB-1" for a in marks.values())
    ran = uncus("bills", job, "--out", tmp_path / "a", "--advance", "AB-2")
    with Job.open(job) as opened:
        assert ran.returncode == 0 and {a.package for a in opened.all(AdvanceMark)} == {"AB-1"}


def test_bars_and_sheets_are_nested_and_offcuts_kept(job, tmp_path):
    out = tmp_path / "n"
    ran = uncus("nest", job, "--out", out, "--json", "--keep", "first")
    found = json.loads(ran.stdout)
    assert ran.returncode == 0 and found["bars"] and found["over_bound"] >= 0
    assert {"bars.pdf", "mill order.pdf", "mill order.csv", "lists.xlsx"} == {p.name for p in out.iterdir()}
    with Job.open(job) as opened:
        kept = opened.all(Offcut)
        assert {o.of for o in kept} == {"first"} and len({o.mark for o in kept}) == len(kept)
    ran = uncus("nest", job, "--out", tmp_path / "p", "--plates", "--json")
    found = json.loads(ran.stdout)
    names = {p.name for p in (tmp_path / "p").iterdir()}
    assert names == {"plates.pdf", *(f"sheet {n}.dxf" for n in range(1, len(found["sheets"]) + 1))}
    none = uncus("nest", job, "--out", out, "--lens", "role is brace")
    assert none.returncode == 2 and "No piece has a role “brace”" in none.stderr and "mark the pieces" in none.stderr
