"""Lists against the shop, piece by piece; templates there and back; formulas; printed pages; files that others read."""

import csv
import io
import shutil
import subprocess

import msgspec
import openpyxl
import pypdf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.bill.formula import formula
from uncus.bill.kept import kept, table_of
from uncus.bill.listing import USUAL, checked, from_json, listed, template_named, templates_of, to_json
from uncus.bill.loads import put_on, too_much
from uncus.bill.logo import logo
from uncus.bill.printed import printed, told
from uncus.bill.sources import SOURCES, Billing, facts_of, spares, surface
from uncus.bill.stood import stood
from uncus.bill.table import Column, Table, Unit, total
from uncus.deliver.pdf import pdf_bytes
from uncus.deliver.tables import csv_bytes, xlsx_bytes
from uncus.draw.sheet import Text
from uncus.job.billing import KeptList, ListColumn, ListTemplate, Load, SortBy
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import ErectionRules, Level
from uncus.mark.marking import Marks
from uncus.steel.flat import gross_weight, net_weight
from uncus.units import Units

FACTS = {"a": Column("A", Unit.LENGTH), "b": Column("B", Unit.LENGTH), "n": Column("N", Unit.COUNT),
    "w each": Column("W", Unit.WEIGHT), "words": Column("Words", Unit.TEXT)}  # fmt: skip


@pytest.fixture(scope="module", params=["sample", "metric_sample", "gallery_job", "grid_frame", "hard_job"])
def of(request):
    job, shop = request.getfixturevalue(request.param)
    return Billing(job, shop, Marks(job, shop.carried))


def made(of, name):
    return listed(template_named((), name), of)


def test_every_list_adds_up_to_the_shop_piece_by_piece(of):
    pieces = [p for a in of.chosen for p in a.pieces]
    own = [p for p in pieces if p.part.item is None]
    bars = [p for p in own if p.part.section is not None]
    weigh = sum(gross_weight(p.part) for p in own)

    def column(name, what):
        table = made(of, name)
        at = [c.what for c in template_named((), name).columns].index(what)
        return total(table, at)

    assert column("parts", "weight") == pytest.approx(weigh) == pytest.approx(column("paint", "weight"))
    assert column("parts", "number") == len(own) == column("paint", "number")
    assert column("cuts", "number") == len(bars)
    assert column("cuts", "number") + column("plates", "number") == len(own)
    assert column("cuts", "weight") == pytest.approx(sum(gross_weight(p.part) for p in bars))
    assert column("assemblies", "weight") == pytest.approx(sum(gross_weight(p.part) for p in own))
    bought = sum(p.part.item.kg for p in pieces if p.part.item)
    assert column("assemblies", "bought") == pytest.approx(bought) == pytest.approx(column("bought", "weight"))
    assert column("shipping", "weight") == pytest.approx(column("assemblies", "weight") + bought)
    assert column("paint", "area") == pytest.approx(sum(surface(p.part) for p in own))
    welds = [w for a in of.chosen for w in (*a.welds, *a.site_welds)]
    assert column("welds", "number") == len(welds)
    assert column("welds", "length") == pytest.approx(sum(w.length for w in welds))
    assert all(net_weight(p.part) <= gross_weight(p.part) * (1 + 1e-9) for p in pieces)


def test_nuts_washers_and_spares_go_by_the_bolts(of):
    table = made(of, "bolts and nuts")
    rows = [dict(zip([c.words for c in table.columns], row, strict=True)) for row in table.rows]
    for place in ("site", "shop"):
        counts = {
            k: sum(r["Number"] for r in rows if r["Where"] == place and r["Kind"] == k)
            for k in ("bolt", "nut", "washer")
        }
        assert len(set(counts.values())) == 1
    assert all(r["To order"] == r["Number"] + r["Spares"] for r in rows)
    assert all((r["Spares"] == 0) == (r["Where"] == "shop") for r in rows)
    rules = ErectionRules(spare=0.05)
    assert [spares(rules, n, "site") for n in (1, 40, 41, 1000)] == [2, 2, 3, 50] and spares(rules, 1000, "shop") == 0


@given(st.lists(st.tuples(st.floats(1, 1e4), st.floats(1, 1e4), st.integers(1, 50)), min_size=1, max_size=6))
def test_formulas_are_reckoned_as_they_read(rows):
    group = [{"a": a, "b": b, "n": n, "w each": a, "words": "x"} for a, b, n in rows]
    value, unit = formula("(a - b) * 2 / n + sum(a) / count()", FACTS)
    mean = sum(r["a"] for r in group) / len(group)
    for row in group:
        assert value.read(row, group) == pytest.approx((row["a"] - row["b"]) * 2 / row["n"] + mean)
    assert unit is Unit.LENGTH
    assert formula("count(words) + -n", FACTS)[0].read(group[0], group) == 1 - group[0]["n"]
    assert formula("w each * n", FACTS)[1] is Unit.WEIGHT and formula("w each / w each", FACTS)[1] is Unit.NUMBER
    assert formula("a / (n - n)", FACTS)[0].read(group[0], group) is None, "divided by nothing"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("a + n", "measured alike"),
        ("a + w each", "measured alike"),
        ("words * 2", "words"),
        ("length * 2", "no fact"),
        ("a *", "ends"),
        ("(a", "bracket"),
        ("a b c)", "no fact"),
        ("eval(a)", "not known"),
        ("__import__('os')", "cannot be read"),
        ("sum(a", "bracket"),
        ("count(length)", "counts"),
        ("(" * 60 + "a" + ")" * 60, "nested"),
        ("-" * 200 + "a", "nested"),
        ("a+" * 400 + "a", "letters"),
    ],
)
def test_a_formula_that_cannot_be_reckoned_says_why(text, says):
    with pytest.raises(JobError, match=says):
        formula(text, FACTS)


def test_templates_go_to_the_offices_file_and_back(of):
    columns = (ListColumn("mark"), ListColumn("weight / number", "Each"), ListColumn("number", total=True))
    own = ListTemplate(name="per lot", of="assemblies", columns=(*columns, ListColumn("level")), group=("lot",),
        sort=(SortBy("weight", True),), lens="role is beam", heading="B-04", notes=("AS OF TODAY",),
        office="Gull Works", landscape=True)  # fmt: skip
    assert from_json(to_json([own, *USUAL]), "x.json") == [own, *USUAL]
    assert [t.name for t in templates_of([own])] == ["per lot", *(t.name for t in USUAL)]
    table = listed(own, of)
    beams = [a for a in of.chosen if a.member.role == "beam"]
    assert total(table, 2) == len(beams) and table.heading == "B-04"
    lots = [g.words for g in table.groups]
    assert lots == sorted(set(lots)) and {a.member.lot for a in beams} == set(lots)
    for group in table.groups:
        weights = [row[1] * row[2] for row in table.rows[group.first : group.last]]
        assert weights == sorted(weights, reverse=True)
    if of.job.all(Level):
        assert {row[3] for row in table.rows if row[3]}, "what a lens knows can be a column"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"of": "birds"}, "lists are of"),
        ({"columns": (ListColumn("mass"),)}, "no fact"),
        ({"columns": (ListColumn("mark", total=True),)}, "added up"),
        ({"group": ("mass",)}, "sorts or groups"),
        ({"columns": ()}, "needs a column"),
    ],
)
def test_a_template_that_cannot_be_used_says_why(change, says):
    wrong = msgspec.structs.replace(USUAL[0], **change)
    with pytest.raises(JobError, match=says):
        from_json(to_json([wrong]), "x.json")


@pytest.mark.parametrize("data", [b"", b"[]", b'{"format": "x", "templates": []}', b'{"templates": [{"name": 3}]}'])
def test_a_file_that_holds_no_templates_is_refused(data):
    with pytest.raises(JobError):
        from_json(data, "x.json")


def test_every_usual_list_can_be_read_and_every_fact_shown(of):
    for source in SOURCES.values():
        columns = tuple(ListColumn(name) for name in facts_of(source))[:40]
        checked(ListTemplate(name="all", of=source.name, columns=columns))
    facts = facts_of(SOURCES["parts"])
    rows = [row for row, _ in SOURCES["parts"].rows(of)]
    assert all(set(row) == set(facts) for row in rows)


def test_what_rides_on_a_load_is_listed_with_it(sample):
    job, shop = sample
    riding = Job([*job.records.values(), Load(name="1st", pieces=tuple(list(shop.shipped)[:7]))])
    of = Billing(riding, shop, Marks(riding, shop.carried))
    table = made(of, "shipping")
    assert sum(row[2] for row in table.rows if row[0] == "1st") == 7
    assert total(table, 2) == len(of.chosen)


def test_printed_pages_hold_every_row_once_with_heads_and_numbers(of):
    units = of.units
    for name in ("parts", "cuts", "shipping"):
        table = made(of, name)
        pages = printed(table, units, "Tern Point")
        pdf = pypdf.PdfReader(io.BytesIO(pdf_bytes(*pages)))
        assert len(pdf.pages) == len(pages)
        for number, (page, sheet) in enumerate(zip(pdf.pages, pages, strict=True), 1):
            text = page.extract_text()
            assert f"{number} of {len(pages)}" in text and "Tern Point" in text
            words = [i.text for i in sheet.items if hasattr(i, "text")]
            heads = {word for c in table.columns for word in c.words.split()}
            assert heads <= {w for text in words for w in text.split()}
            x1 = max(i.x2 for i in sheet.items if hasattr(i, "x2"))
            assert x1 < sheet.width and min(i.y for i in sheet.items if hasattr(i, "text")) > 8
        heads = {g.words for g in table.groups}
        for sheet in pages:
            texts = [(i.y, i.text) for i in sheet.items if isinstance(i, Text) and i.y > 22]
            assert min(texts)[1] not in heads, "a group's head is not the last line of a page"
        marks = [str(row[0]) for row in table.rows]
        said = [i.text for sheet in pages for i in sheet.items if hasattr(i, "text")]
        assert all(said.count(m) >= 1 for m in marks if len(m) < 12)
        if table.columns[1].total:
            assert told(total(table, 1), table.columns[1].unit, units) in said


def test_files_say_what_the_table_says_and_run_nothing(of, tmp_path):
    table = made(of, "parts")
    bad = Table(
        "bad", "Bad", (Column("=1+1", Unit.TEXT), Column("N", Unit.COUNT, True)), (("=cmd", 1), ("@x", 2), ("+3", 3))
    )
    odd = Table("odd", "What changed since 12/3: [a] very long name of a job", bad.columns, ())
    book = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([table, bad, odd, odd], of.units, "=HYPERLINK(1)")))
    sheet = book[table.title]
    assert sheet.freeze_panes == "A3" and sheet.max_row == len(table.rows) + 3
    for n, row in enumerate(table.rows, 3):
        assert sheet.cell(n, 1).value == row[0] and sheet.cell(n, 2).value == row[1]
        assert isinstance(sheet.cell(n, 9).value, float | int), "a weight is a number"
    assert len(book.sheetnames) == 4 and all(len(name) <= 31 for name in book.sheetnames)
    assert all(book["Bad"].cell(n, 1).data_type == "s" for n in (1, 2, 3, 4, 5))
    lines = csv_bytes(bad, of.units).decode().splitlines()
    assert lines[0].startswith("'=") and [line[:2] for line in lines[1:]] == ["'=", "'@", "'+"]


def test_a_workbook_adds_up_groups_and_all_by_numbers(of, tmp_path):
    """Each sum leaves out the sums within it; lengths that are added up are numbers in either unit."""
    table = made(of, "welds")
    sheet = openpyxl.load_workbook(io.BytesIO(xlsx_bytes([table], of.units, "x"))).worksheets[0]
    rows = [[cell.value for cell in row] for row in sheet.iter_rows(min_row=3)]
    assert len(rows) == len(table.rows) + len(table.groups) + sum(g.last - g.first > 1 for g in table.groups) + 1
    in_feet = of.units is Units.IMPERIAL
    assert ("(ft)" in sheet.cell(2, 5).value) == in_feet
    lengths = [row[4] for row in rows if isinstance(row[4], float | int)]
    assert sum(lengths) * (304.8 if in_feet else 1.0) == pytest.approx(total(table, 4), rel=1e-3)
    last = 2 + len(rows)
    assert rows[-1][4] == f"=SUBTOTAL(9,E3:E{last - 1})" and rows[-1][0] == "Total"


def test_a_list_that_was_sent_is_seen_as_it_was(of):
    for name in ("cuts", "shipping"):
        table = made(of, name)
        one = kept(table, stood(of.job, of.shop, of.marks), "as sent", "2026-11-20")
        again = Job([one]).get(one.id, KeptList)
        assert one.problem() is None and again == one
        back = table_of(msgspec.convert(msgspec.to_builtins(one), KeptList))
        assert (back.columns, back.rows, back.groups) == (table.columns, table.rows, table.groups)
        assert printed(back, of.units, "x")[-1].items != printed(table, of.units, "x")[-1].items, "it says when"
    assert msgspec.structs.replace(one, rows=(("a",),)).problem()
    strange = msgspec.structs.replace(one, groups=(("x", 5, 10**9),), measures=("furlong",) * len(one.heads))
    assert table_of(strange).groups == ()


def test_what_is_too_much_for_a_load_is_said(sample):
    job, shop = sample
    marks, ids = Marks(job, shop.carried), list(shop.shipped)
    first = put_on([], "1", ids[:5])
    assert [load.pieces for load in first] == [tuple(ids[:5])]
    moved = put_on(first, "2", ids[3:6])
    assert {load.name: load.pieces for load in moved} == {"1": tuple(ids[:3]), "2": tuple(ids[3:6])}
    assert put_on(moved, "2", ids[3:6]) == [], "what rides there already"
    weight = sum(shop.shipped[id].lifted for id in ids[:5])
    for most, said in ((weight + 1, 0), (weight - 1, 1), (0.0, 0)):
        load = msgspec.structs.replace(first[0], most_kg=most, most_length=0.0)
        assert len(list(too_much([load], shop.shipped, marks, job.project.units))) == said
    short = msgspec.structs.replace(first[0], most_kg=0.0, most_length=1000.0)
    (words,) = too_much([short], shop.shipped, marks, job.project.units)
    assert "too long" in words
    riding = Job([*job.records.values(), short])
    assert words in made(Billing(riding, shop, marks), "shipping").notes


_SVG = '<svg xmlns="http://www.w3.org/2000/svg">{}</svg>'


def test_a_logo_is_drawn_at_the_right_of_the_title(of):
    svg = _SVG.format('<path d="M0 0 L20 0 C 20 5 10 10 0 10 Z"/><circle cx="30" cy="5" r="5"/>')
    rings = logo(svg)
    xs, ys = ([p[k] for r in rings for p in r] for k in (0, 1))
    assert (min(xs), max(xs), min(ys)) == (0.0, 1.0, 0.0) and max(ys) == pytest.approx(10 / 35)
    template = msgspec.structs.replace(USUAL[1], name="with a logo", logo=svg, office="Gull Works")
    assert from_json(to_json([template]), "x.json") == [template]
    page = printed(listed(template, of), of.units, "x")[0]
    rings = [i.points for i in page.items if hasattr(i, "points")]
    assert len(rings) == 2 and max(x for r in rings for x, _ in r) <= page.width - 13.9
    (office,) = [i for i in page.items if getattr(i, "text", "") == "Gull Works"]
    assert office.x < min(x for r in rings for x, _ in r)


@pytest.mark.parametrize(
    "svg",
    ["", "x", _SVG.format(""), '<!DOCTYPE s [<!ENTITY a "b">]><svg>&a;</svg>', _SVG.format('<path d="M nan 3 L 4 4"/>'),
     _SVG.format('<path d="L 3 3"/>'), _SVG.format('<path d="M1e400 0 L3 3"/>'), "x" * 300_000],
)  # fmt: skip
def test_a_logo_that_is_none_is_refused(svg):
    with pytest.raises(JobError, match="logo"):
        logo(svg)


@pytest.mark.long
def test_an_office_program_reads_the_workbook_as_the_table(of, tmp_path):
    """Opened and reckoned by LibreOffice without a screen: values, sums and words are the table's."""
    program = shutil.which("soffice") or shutil.which("libreoffice")
    if program is None:
        pytest.skip("LibreOffice is not installed")
    table = made(of, "cuts")
    (tmp_path / "a.xlsx").write_bytes(xlsx_bytes([table], of.units, "x"))
    command = [
        program,
        "--headless",
        f"-env:UserInstallation=file://{tmp_path}/profile",
        "--convert-to",
        "csv",
        "a.xlsx",
    ]
    subprocess.run(command, cwd=tmp_path, check=True, capture_output=True, timeout=180)
    rows = list(csv.reader((tmp_path / "a.csv").read_text().splitlines()))
    numbers = [float(row[4]) for row in rows[2:-1] if row[0] and row[4]]
    assert sum(numbers) == float(rows[-1][4]) == total(table, 4)
    assert {row[0] for row in table.rows} <= {row[0] for row in rows}
