"""Lists against the shop, piece by piece; templates there and back; formulas; printed pages; files that others read."""

import io

import openpyxl
import pypdf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.bill.formula import formula
from uncus.bill.listing import USUAL, checked, from_json, listed, template_named, templates_of, to_json
from uncus.bill.printed import printed, told
from uncus.bill.sources import SOURCES, Billing, facts_of, spares, surface
from uncus.bill.table import Column, Table, Unit, total
from uncus.deliver.pdf import pdf_bytes
from uncus.deliver.tables import csv_bytes, xlsx_bytes
from uncus.job.billing import ListColumn, ListTemplate, Load, SortBy
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import ErectionRules, Level
from uncus.mark.marking import Marks
from uncus.steel.flat import gross_weight, net_weight

FACTS = {"a": Column("A", Unit.LENGTH), "b": Column("B", Unit.LENGTH), "n": Column("N", Unit.COUNT),
    "w each": Column("W", Unit.WEIGHT), "words": Column("Words", Unit.TEXT)}  # fmt: skip


@pytest.fixture(scope="module", params=["sample", "metric_sample", "gallery_job"])
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
    assert column("assemblies", "weight") == pytest.approx(sum(gross_weight(p.part) for p in pieces))
    assert column("shipping", "weight") == pytest.approx(column("assemblies", "weight"))
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
    import msgspec

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
