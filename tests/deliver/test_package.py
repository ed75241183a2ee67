import csv
import hashlib
import io
import json
import os
import re
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from pathlib import Path

import ezdxf
import ezdxf.path
import ifcopenshell
import msgspec
import numpy as np
import openpyxl
import pytest
import shapely
from pypdf import PdfReader
from tests.conftest import marked

from uncus.bill.listing import all_lists
from uncus.bill.lists import bolt_counts
from uncus.bill.sources import Billing
from uncus.bill.table import Column, Table, Unit
from uncus.deliver.calculation import calculation_pdf, sheets_of
from uncus.deliver.flat_dxf import flat_document
from uncus.deliver.nc import Scribe
from uncus.deliver.outputs import OUTPUTS, chosen
from uncus.deliver.package import Progress, Stopped, produce, went_out
from uncus.deliver.pdf import pdf_bytes
from uncus.deliver.stamps import stamped
from uncus.deliver.tables import csv_bytes, xlsx_bytes
from uncus.draw.drawn import sheets
from uncus.draw.issue import opened
from uncus.draw.keeping import revised
from uncus.draw.register import register
from uncus.draw.sheet import UNPRINTED, Layer, Line, Sheet, Text
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Connection, Member, Project, Role, Showing, ViewFrame
from uncus.mark.marking import Marks, apply, propose
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.bench import work
from uncus.steel.features import Face, Hole
from uncus.steel.flat import gross_weight, hole_outline, net_volume
from uncus.steel.forming import laid_flat
from uncus.steel.joint import FastenerKind
from uncus.steel.part import plate
from uncus.units import POUND, Units


@pytest.fixture(scope="module")
def package(sample, drawn, tmp_path_factory):
    job, shop = sample
    out = tmp_path_factory.mktemp("package") / "out"
    sheets = {entry.job.name: sheets for entry, sheets in drawn("sample")}
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("uncus.deliver.package.draw_all", lambda job: sheets[job.name])
        made = produce(job, out, shop=shop, make=ThreadPoolExecutor)  # any workers will do
    return out, made


def test_the_manifest_tells_every_file_truly(package, sample):
    out, _made = package
    manifest = json.loads((out / "manifest.json").read_text())
    assert not manifest["failures"] and manifest["number"] == "26-014"
    listed = {f["file"]: f for f in manifest["files"]}
    there = {str(p.relative_to(out)) for p in out.rglob("*") if p.is_file()} - {"manifest.json"}
    assert set(listed) == there
    for name, f in listed.items():
        assert hashlib.sha256((out / name).read_bytes()).hexdigest() == f["sha256"]
    marks = Marks(sample[0])
    pieces = {marks.of_part(p.id): p for p in sample[1].pieces() if p.part.item is None}
    for f in manifest["files"]:
        if f["kind"] == "nc":
            assert f["gross_kg"] == pytest.approx(gross_weight(pieces[f["mark"]].part), abs=0.001)
    assert sum(f["kind"] == "nc" for f in manifest["files"]) == len(pieces)
    assert not list(out.parent.glob(".out*"))


def test_every_pdf_opens_and_gives_its_text(package):
    out, made = package
    for entry in made.sheets:
        page, *more = PdfReader(out / f"sheets/{entry.kind}/{entry.name}.pdf").pages
        assert all(entry.name in one.extract_text() for one in more)
        words = page.extract_text()
        assert entry.name in words and "Tern Point Boathouse" in words
        fonts = page["/Resources"]["/Font"]
        assert all(
            "/FontFile2" in str(f.get_object()["/FontDescriptor"].get_object())
            for f in fonts.values()
            if "/FontDescriptor" in f.get_object()
        )


def test_every_dxf_passes_its_audit(package):
    out, _made = package
    for path in (out / "dxf").rglob("*.dxf"):
        document = ezdxf.readfile(path)
        audit = document.audit()
        assert not audit.errors and not audit.fixes
        assert {e.dxf.layer for e in document.modelspace()} >= {"BORDER", "TEXT", "THIN"}


def test_every_plate_lies_flat_as_it_is_cut(package, sample):
    """Read back: closed outlines whose area is the plate's, bends on their own layer, nothing else and no words."""
    out, _made = package
    marks = Marks(sample[0])
    plates = {marks.of_part(p.id): p.part for p in sample[1].pieces() if p.part.is_plate and p.part.item is None}
    files = {path.stem: path for path in (out / "flat").glob("*.dxf")}
    assert set(files) == set(plates) and any(p.bends for p in plates.values())
    for mark, part in plates.items():
        space = ezdxf.readfile(files[mark]).modelspace()
        assert {e.dxf.layer for e in space} <= {"CUT", "BEND"} and not space.query("TEXT MTEXT")
        rings = [
            shapely.Polygon([tuple(v)[:2] for v in ezdxf.path.make_path(e).flattening(0.005)])
            for e in space.query("LWPOLYLINE CIRCLE")
        ]
        whole = max(rings, key=lambda r: r.area)
        assert whole.area * 2 - sum(r.area for r in rings) == pytest.approx(
            net_volume(laid_flat(part)) / part.thickness, rel=2e-4
        )
        assert len(space.query("LINE")) == len(part.bends)


def test_slots_and_marks_of_a_plate_laid_flat():
    hole = Hole(Face.WEB, 100, 50, 20, 60, 30)
    part = plate([(0, 0), (300, 0), (300, 200), (0, 200)], 10, "A36", "", [hole])
    document = flat_document(part, [Scribe(Face.WEB, ((10, 10), (50, 10))), Scribe(Face.BACK, ((10, 10), (50, 10)))])
    layers = [e.dxf.layer for e in document.modelspace()]
    assert layers == ["CUT", "CUT", "MARK"]
    slot = shapely.Polygon([tuple(v)[:2] for v in ezdxf.path.make_path(document.modelspace()[1]).flattening(0.005)])
    assert slot.symmetric_difference(hole_outline(hole)).area < 0.01 * hole.area


def test_lists_add_up(sample):
    job, shop = sample
    assemblies, parts, bolts, bought, anchors = all_lists(Billing(job, shop, Marks(job)))
    total = sum(a.gross for a in shop.assemblies.values())
    assert sum(r[7] for r in assemblies.rows) == pytest.approx(total)
    assert sum(r[8] for r in parts.rows) == pytest.approx(total)
    assert sum(r[7] for r in bought.rows) == pytest.approx(sum(a.bought for a in shop.assemblies.values()))
    assert sum(r[1] for r in (*parts.rows, *bought.rows)) == len(list(shop.pieces()))
    assert not {r[0] for r in parts.rows} & {r[0] for r in bought.rows}
    assert {r[2] for r in bought.rows} >= {"RACK-600", "HOOK-120"}
    assert sum(r[5] for r in bolts.rows) == sum(bolt_counts(shop.assemblies.values()).values())
    rods = sorted(tuple(np.round(p, 1) + 0.0) for a in shop.assemblies.values() for h in a.holds
        if h.kind is FastenerKind.ROD and -h.axis[2] > 0.999 for p in h.points)  # fmt: skip
    assert np.array(sorted(r[5:8] for r in anchors.rows)) == pytest.approx(np.array(rods), abs=0.21)
    (plan,) = (e for e in register(job, shop) if e.title == "anchor plan")
    letters = {(b.mark, b.kind) for b in plan.job.bases}
    assert {(r[0], r[1]) for r in anchors.rows} == letters and all(r[2] for r in anchors.rows)
    rows = list(csv.reader(io.StringIO(csv_bytes(assemblies, Units.IMPERIAL).decode())))
    assert rows[0][5] == "Weight each, gross (lb)" and len(rows) == 1 + len(assemblies.rows)
    assert float(rows[1][5]) == pytest.approx(assemblies.rows[0][5] / POUND, abs=0.05)
    book = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([assemblies, parts, bolts], Units.IMPERIAL, "x")))
    assert book.sheetnames == ["Assemblies", "Parts", "Bolts, rods and studs"]
    assert str(book["Assemblies"].cell(3 + len(assemblies.rows), 2).value).startswith("=SUBTOTAL(9,B3")


def test_text_from_the_job_is_never_run_by_a_spreadsheet():
    hostile = [
        "=1+1",
        "+1",
        "-1",
        "@x",
        "\t=1",
        "\n=1",
        " \r\n =1",
        "=cmd|1",
        "a\x0b\x00b",
        "a\rb\nc",
        "x\ud800",
        "é" * 40_000,
    ]
    table = Table("t", "T", (Column("Mark", Unit.TEXT),), tuple((text,) for text in (*hostile, "plain")))
    rows = [row[0] for row in csv.reader(io.StringIO(csv_bytes(table, Units.METRIC).decode(), newline=""))]
    assert len(rows) == len(hostile) + 2 and rows[1] == "'=1+1" and rows[-1] == "plain"
    assert not any(row.lstrip()[:1] in "=+-@" or "\r" in row or "\n" in row for row in rows)
    book = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([table], Units.METRIC, "=cmd|1")))
    cells = [cell for column in book["T"].columns for cell in column if cell.value is not None]
    assert len(cells) == len(rows) + 1 and {c.data_type for c in cells} == {"s"}
    assert book["T"]["A1"].value == "=cmd|1: T" and book["T"]["A1"].quotePrefix and book["T"]["A3"].value == "=1+1"


HOSTILE = Project(
    name="=cmd|1\x0b\x00A\r\nB Ünïcode 木 😀 “x” " + "x" * 20_000,
    number="../../out\x1f<b>&amp;\\P{}%%u" + "n" * 5_000,
    finish="\u202eprimer\x07" + "é" * 500,
)


def test_any_text_in_a_job_goes_through_every_writer(tmp_path):
    """Names that no writer can take as they are: a whole package all the same, inside its folder, that others can
    read."""
    job, _ = marked([HOSTILE if isinstance(r, Project) else r for r in frame(1, 1)])
    with job.change("odd") as change:
        for n, member in enumerate(job.all(Member)):
            change.put(msgspec.structs.replace(member, lot=["\x0b=1", "é\n", "l" * 999][n % 3], finish="@x\t"))
    apply(job, propose(job, build(job)))
    made = produce(job, tmp_path / "p")
    assert not made.failures, made.failures
    assert [p.name for p in tmp_path.iterdir()] == ["p"] and len(made.files) > 20
    for path in (tmp_path / "p").rglob("*.*"):
        match path.suffix:
            case ".pdf":
                assert PdfReader(path).pages
            case ".dxf":
                assert not ezdxf.readfile(path).audit().errors
            case ".ifc":
                assert ifcopenshell.open(path).by_type("IfcProject")
            case ".nc1":
                assert work(path.read_text("ascii")).weight > 0
            case ".xlsx":
                assert openpyxl.load_workbook(path).sheetnames
            case ".json":
                assert json.loads(path.read_text())["job"] == HOSTILE.name


def test_only_some_and_only_through_a_lens(sample, tmp_path):
    job, shop = sample
    made = produce(job, tmp_path / "p", lens="columns", only=["nc", "bills"], shop=shop)
    assert {f.kind for f in made.files} == {"nc", "bill", "pieces"}
    columns = {p.part for a in shop.assemblies.values() if a.member.role == "column" for p in a.pieces}
    assert sum(f.kind == "nc" for f in made.files) == len(
        {Marks(job).of_part(p.id) for p in shop.pieces() if p.part in columns and not p.part.item}
    )


def test_sheets_say_the_day_they_went_out_and_keep_it_when_they_go_again(tmp_path):
    job, shop = marked(frame(1, 1))

    def go(on: str) -> set[str]:
        made = produce(job, tmp_path / "p", only=["sheets"], shop=shop, on=on, make=ThreadPoolExecutor)
        with job.change("went out") as change:
            for record in went_out(job, made):
                change.put(record)
        words = {p.stem: PdfReader(p).pages[0].extract_text() for p in (tmp_path / "p").rglob("*.pdf")}
        assert all((on in text) != (on != "2026-02-01" and "2026-02-01" in text) for text in words.values())
        return {name for name, text in words.items() if on in text}

    every = go("2026-02-01")
    assert len(every) > 5 and not go("2026-03-01"), "nothing changed: the same sheets as before"
    assert all(opened(e.issue.packed)[1] == sheets(e) for e in register(job, shop))
    entry = next(e for e in register(job, shop) if e.name == "B1")
    with job.change("a revision") as change:
        for record in revised([entry], "2026-03-02", "as asked"):
            change.put(record)
    assert go("2026-04-01") == {"B1"}


class Stopping(Progress):
    def __init__(self, at):
        self.at, self.count = at, 0

    def tell(self, done, of, words):
        assert 0 <= done <= of and words
        self.count = done

    def stopped(self):
        return self.count >= self.at


def test_a_stopped_package_leaves_nothing_and_the_earlier_one_stays(sample, tmp_path):
    job, shop = sample
    out = tmp_path / "p"
    produce(job, out, only=["nc"], shop=shop)
    before = sorted(p.name for p in out.rglob("*"))
    with pytest.raises(Stopped):
        produce(job, out, only=["nc", "ifc"], shop=shop, progress=Stopping(30))
    assert sorted(p.name for p in out.rglob("*")) == before and list(tmp_path.iterdir()) == [out]


def test_what_cannot_be_produced_says_why(sample, tmp_path):
    job, shop = sample
    (tmp_path / "mine").mkdir()
    (tmp_path / "mine" / "letter.txt").write_text("keep")
    (tmp_path / "file").write_text("x")
    foreign = '{"name": "my page", "files": ["index.html"]}'
    added = '{"files": [{"file": "nc/B1.nc1"}]}'
    for name, manifest in (("page", foreign), ("added to", added)):
        (tmp_path / name / "nc").mkdir(parents=True)
        (tmp_path / name / "manifest.json").write_text(manifest)
        (tmp_path / name / "nc" / "my job.uncus").write_text("keep")
    (tmp_path / "linked").mkdir()
    (tmp_path / "linked" / "elsewhere").symlink_to(tmp_path / "mine")
    for make, says in [
        (lambda: produce(job, tmp_path / "linked", shop=shop), "holds elsewhere, which is not of a package"),
        (lambda: produce(job, tmp_path / "mine", shop=shop), "holds letter.txt, which is not of a package"),
        (lambda: produce(job, tmp_path / "page", shop=shop), "holds manifest.json, which is not of a package"),
        (lambda: produce(job, tmp_path / "added to", shop=shop), "holds nc/my job.uncus, which is not of a package"),
        (lambda: produce(job, tmp_path / "file", shop=shop), "is a file"),
        (lambda: produce(job, tmp_path / "p", lens="nothing", shop=shop), "no lens “nothing”"),
        (lambda: produce(Job(boathouse()), tmp_path / "p"), "not marked"),
        (lambda: produce(Job(), tmp_path / "p"), "nothing to produce"),
        (lambda: chosen(["paper"]), "no output “paper”"),
    ]:
        with pytest.raises(JobError, match=says):
            make()
    assert sorted(p.name for p in tmp_path.iterdir()) == ["added to", "file", "linked", "mine", "page"]
    assert len(list(tmp_path.rglob("*.*"))) == 5, "nothing was touched"
    assert chosen([]) == tuple(o for o in OUTPUTS if not o.asked)


def test_a_sheet_that_fails_is_named_and_the_rest_go_on(sample, tmp_path, monkeypatch):
    from uncus.deliver import package as module

    real = module.draw_all
    monkeypatch.setattr(module, "draw_all", lambda job: 1 / 0 if job.name == "C1" else real(job))
    made = produce(sample[0], tmp_path / "p", "columns", ["sheets"], shop=sample[1], make=ThreadPoolExecutor)
    assert len(made.failures) == 1 and "C1" in made.failures[0]
    assert len(made.files) == len(made.sheets) - 1


def test_a_member_that_could_not_be_made_is_named(sample, tmp_path):
    job = Job(sample[0].records.values())
    with job.change("bad") as change:
        change.put(Member(id="bad", role=Role.BEAM, section="W99X9", start=(0, 0, 0), end=(9000, 0, 0)))
    made = produce(job, tmp_path / "p", only=["bills"])
    assert len(made.failures) == 1 and "W99X9" in made.failures[0] and len(made.files) == 7


def test_a_joint_of_a_kind_nobody_knows_is_on_its_calculation_sheet():
    records = [msgspec.structs.replace(r, kind="x" * 500) if isinstance(r, Connection) else r for r in frame(1, 1)]
    odd = Job(records)
    sheets = sheets_of(odd, build(odd), odd.all(Connection)[:3])
    assert all("x…”, " in one.title and one.findings and not one.values for one in sheets) and len(sheets) == 3
    assert calculation_pdf("odd", sheets).startswith(b"%PDF")


def test_what_a_sheet_is_asked_for_and_cannot_show_is_told_with_the_package(tmp_path):
    job, shop = marked(frame(1, 1))
    asked = Showing(only="colour is red")
    with job.change("view") as change:
        change.put(ViewFrame("Wall", (0.0, 0.0, 2000.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0), 60_000, 9000, shows=asked))
    made = produce(job, tmp_path / "out", only=["sheets"], shop=shop, make=ThreadPoolExecutor)
    (told,) = made.failures
    assert told.startswith("Sheet E3: Wall: ") and "colour" in told
    assert (tmp_path / "out" / "sheets" / "erection" / "E3.pdf").exists()


def test_what_is_for_reference_only_is_not_printed():
    lines = [Line(layer, 10.0 + 5 * n, 10.0, 10.0 + 5 * n, 90.0) for n, layer in enumerate(Layer)]
    sheet = Sheet("x", "X", "assembly", 297.0, 210.0, 1.0, tuple(lines))
    content = PdfReader(io.BytesIO(pdf_bytes(sheet))).pages[0].get_contents().get_data().decode("latin-1")
    there = {n for n in range(len(lines)) if re.search(rf"\b{10 + 5 * n} 10 m", content)}
    assert there == {n for n, layer in enumerate(Layer) if layer not in UNPRINTED} and len(there) < len(lines)


def test_letters_of_any_sheet_are_its_own():
    """Faces are taken out once for all files: what one sheet writes another may lack."""
    plain, odd = (Sheet(n, n, "list", 210.0, 297.0, 1.0, (Text(20.0, 20.0, n),)) for n in ("ABC", "ÄÖß ½"))
    for sheet in (plain, odd, plain):
        assert sheet.name in PdfReader(io.BytesIO(pdf_bytes(sheet))).pages[0].extract_text()


def test_made_again_it_is_the_same_to_the_byte(tmp_path):
    """Whatever the clock, the order of sets and the process: dates and ids come from the package."""
    job, _ = marked(frame(1, 1))
    path = tmp_path / "j.uncus"
    Job.create(path, job.records.values()).close()
    held = []
    for seed in ("1", "2"):
        out = tmp_path / f"out {seed}"
        words = [sys.executable, "-m", "uncus", "produce", str(path), "--out", str(out)]
        done = subprocess.run(words, capture_output=True, text=True, env={**os.environ, "PYTHONHASHSEED": seed})
        assert done.returncode == 0, done.stderr
        held.append({str(p.relative_to(out)): p.read_bytes() for p in out.rglob("*") if p.is_file()})
    one, two = held
    assert one.keys() == two.keys() and {Path(name).suffix for name in one} >= {".pdf", ".dxf", ".ifc", ".xlsx", ".nc1"}
    assert [name for name in one if one[name] != two[name]] == []
    for ending, reader in ((".dxf", lambda data: ezdxf.read(io.StringIO(data.decode()))),
            (".xlsx", lambda data: openpyxl.load_workbook(io.BytesIO(data)))):  # fmt: skip
        name = next(n for n in one if n.endswith(ending))
        other = stamped(ending, one[name], "2020-02-29")
        assert other != one[name] and stamped(ending, other, date.today().isoformat()) == one[name]
        assert reader(other) is not None
