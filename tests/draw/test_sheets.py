import io
import math
import re
from collections import Counter

import ezdxf
import msgspec
import numpy as np
import pytest
from tests.conftest import marked

from uncus.catalog.sections import section
from uncus.deliver.dxf import dxf_bytes
from uncus.draw import rules
from uncus.draw.board import Board, spread
from uncus.draw.cells import meet
from uncus.draw.dimension import gathered
from uncus.draw.drawn import draw, draw_all
from uncus.draw.entry import State
from uncus.draw.issue import opened, packed, reasons
from uncus.draw.lettering import box_of, clean, width
from uncus.draw.preset import from_json, preset_for, to_json
from uncus.draw.register import register
from uncus.draw.seen import Seen
from uncus.draw.sheet import Text
from uncus.draw.template import fill, read, shipped
from uncus.frame.grids import follow_grid, make_grid
from uncus.job.errors import JobError
from uncus.job.files import text_of
from uncus.job.job import Job
from uncus.job.records import Connection, End, Grid, GridLine, Issue, Level, Line, Member, Project, Role, SheetPreset
from uncus.job.start import SERIES, new_job, usual_rules
from uncus.lens.office import connect
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build
from uncus.units import Units


@pytest.fixture(scope="module")
def sheets(drawn):
    return {e.name: (e, sheets[0]) for e, sheets in drawn("sample")}


@pytest.fixture(scope="module")
def metric():
    """A metric job with what the sample has not: sloping and deep beams, European sections, tubes, angles, a tee."""
    grid = make_grid([7200.0, 6500.0], [6000.0])
    members = [
        Member(id=f"c{x}{y}", role=Role.COLUMN, section="HEB240", start=(x, y, 0), end=(x, y, 8000))
        for x in (0.0, 7200.0, 13700.0)
        for y in (0.0, 6000.0)
    ]
    members += [
        Member(id="b1", role=Role.BEAM, section="IPE400", start=(0, 0, 4000), end=(0, 6000, 4000), line=Line.TOP),
        Member(id="b2", role=Role.BEAM, section="IPE300", start=(0, 0, 4000), end=(7200, 0, 4000), line=Line.TOP),
        Member(
            id="b3", role=Role.RAFTER, section="IPE330", start=(7200, 0, 5000), end=(7200, 6000, 7500), line=Line.TOP
        ),
        Member(id="a1", role=Role.BRACE, section="L6X4X1/2", start=(0, 0, 0), end=(0, 6000, 4000)),
        Member(id="t1", role=Role.STRUT, section="WT6X25", start=(0, 0, 3000), end=(7200, 0, 3000), roll=30),
        Member(id="p1", role=Role.STRUT, section="PIPE4STD", start=(0, 6000, 3000), end=(7200, 6000, 3000)),
        Member(
            id="h1",
            role=Role.STRUT,
            section="HSS6X4X1/4",
            start=(0, 6000, 1000),
            end=(7200, 6000, 1000),
            left_back=300,
            right_back=300,
        ),
        Member(id="k1", role=Role.GIRT, section="UPN200", start=(0, 0, 2000), end=(0, 6000, 2000), roll=90),
    ]
    records = [
        Project(name="Metric hall", number="7", units=Units.METRIC),
        usual_rules(Units.METRIC),
        *SERIES,
        msgspec.structs.replace(grid, id="grid"),
        Level(id="l0", name="Ground", elevation=0),
        Level(id="l1", name="Floor", elevation=4000),
        *members,
    ]
    made = connect(Job(records), [m.id for m in members]).made
    job, shop = marked([*records, *made])
    return {e.name: (e, draw(e.job)) for e in register(job, shop)}


def texts(sheet):
    return [i for i in sheet.items if isinstance(i, Text)]


def check(sheet):
    """No text on text, none off the paper."""
    boxes = [(box_of(t, 0.0), t.text) for t in texts(sheet)]
    for i, (a, words) in enumerate(boxes):
        assert a[0] >= 0 and a[1] >= 0 and a[2] <= sheet.width and a[3] <= sheet.height, (sheet.name, words)
        for b, other in boxes[i + 1 :]:
            assert not meet(a, b), (sheet.name, words, other)


def test_text_never_lies_on_text_nor_off_the_paper(sheets, metric):
    for _, sheet in [*sheets.values(), *metric.values()]:
        check(sheet)
        assert all(t.height >= 1.8 for t in texts(sheet))


def test_everything_drawn_stays_on_the_paper(sheets, metric):
    for _, sheet in [*sheets.values(), *metric.values()]:
        for entity in ezdxf.read(io.StringIO(dxf_bytes(sheet).decode())).modelspace().query("LINE"):
            for p in (entity.dxf.start, entity.dxf.end):
                assert -0.01 <= p.x <= sheet.width + 0.01 and -0.01 <= p.y <= sheet.height + 0.01, sheet.name


def test_a_floor_beam_says_what_the_shop_needs(sheets, sample):
    _job, shop = sample
    name = next(e.name for e, _ in sheets.values() if e.kind == "assembly" and e.title == "beam W12X19")
    entry, sheet = sheets[name]
    part = shop.assemblies[entry.pieces[0]].main.part
    words = [t.text for t in texts(sheet)]
    length = "21'-10 5/8"
    assert part.length / 25.4 == pytest.approx(262.625)
    assert words.count(length) == 2, "overall once, and in the bill"
    assert "2 @ 3 = 6" in words and "W12X19" in words and "A992" in words
    assert any(w.startswith("HOLES 13/16 DIA.") for w in words)
    assert any("BOLTS 3/4 A325 x 2." in w for w in words) and any(w.startswith("COPE RADIUS 1/2") for w in words)
    assert any(f"{len(entry.pieces)} REQUIRED" in w for w in words)
    assert "1 1/4" in words and "2 3/4" in words, "cope depth and length"


def test_views_are_those_that_say_something(sheets):
    def views(title, kind="assembly"):
        sheet = next(s for e, s in sheets.values() if e.kind == kind and e.title == title)
        return {t.text for t in texts(sheet) if "VIEW" in t.text or "END" in t.text or "SECTION" in t.text}

    assert not views("beam W12X19") - {"LEFT END OF THE SHEET IS THE PIECE'S LEFT END."}
    assert {"TOP VIEW FACE A", "LEFT END"} <= views("column W10X49")
    assert any(v.startswith("SECTION A-A") for v in views("beam W16X31"))


def test_bevels_in_twelfths_or_degrees(sheets, metric):
    rafter = next(s for e, s in sheets.values() if e.title == "rafter W14X22")
    assert [t.text for t in texts(rafter)].count("12") == 2
    sloping = next(s for e, s in metric.values() if e.title == "rafter IPE330")
    assert any(t.text == "22.6°" for t in texts(sloping))


def test_plans_show_every_mark_the_grid_and_its_dimensions(sheets, sample):
    _job, shop = sample
    plans = [(e, s) for e, s in sheets.values() if e.title.startswith("plan")]
    assert {len(e.pieces) for e, _ in plans} and sum(len(e.pieces) for e, _ in plans) == len(shop.shipped)
    for entry, sheet in plans:
        words = [t.text for t in texts(sheet)]
        for mark, _ in entry.job.members:
            assert mark in words
        assert {"1", "4", "A", "C", "22'-0", "64'-0", "40'-0", "N"} <= set(words)


def test_a_plan_of_skewed_and_partial_lines():
    """Each line has its bubble once, clear of the dimensions; steel follows the skewed line."""
    job = Job(boathouse())
    grid = job.get("grid", Grid)
    skewed = msgspec.structs.replace(grid.numbers[3], turn=12.0)
    ending = GridLine("2.5", 9753.6, first=6096.0, last=12192.0)
    inside = GridLine("B.5", 9144.0, first=6705.6, last=12801.6)
    odd = msgspec.structs.replace(grid, numbers=(*grid.numbers[:3], skewed, ending), letters=(*grid.letters, inside))
    with job.change("skew") as change:
        change.put(odd)
        for m in follow_grid(job.all(Member), grid, odd):
            change.put(m)
    for entry in register(*marked(job.records.values())):
        if entry.kind == "erection":
            sheet = draw(entry.job)
            check(sheet)
            words = [t.text for t in texts(sheet)]
            assert [words.count(label) for label in ("2.5", "B.5", "A", "C")] == [1] * 4, sheet.name


def test_drawing_is_deterministic(sample, sheets):
    for entry in register(*sample)[::16]:
        assert draw(entry.job) == sheets[entry.name][1]


def test_states_follow_what_was_sent(sample):
    job = Job(sample[0].records.values())
    shop = build(job)
    job.follow(shop.follow)
    first = register(job, shop)
    assert {e.state for e in first} == {State.NEW}
    with job.change("sent") as change:
        for e in first:
            change.put(Issue("", "", e.name, "", "2026-01-01", e.job.content, "", id=f"sent:{e.name}"))
    assert {e.state for e in register(job, shop)} == {State.CURRENT}
    tab = next(c for c in job.all(Connection) if c.kind == "shear tab")
    with job.change("thicker") as change:
        change.put(msgspec.structs.replace(tab, params={"thickness": 12.7}))
    stale = [e for e in register(job, shop) if e.state is State.STALE]
    assert stale and any(tab.support in e.pieces for e in stale)
    assert all(tab.support in e.pieces or tab.member in e.pieces for e in stale if e.kind == "assembly")


def test_spread_keeps_order_and_distance():
    placed = spread([0.0, 0.5, 0.6, 10.0, 10.1], 3.0)
    assert all(b - a >= 3.0 - 1e-9 for a, b in zip(placed, placed[1:], strict=False))
    assert placed[1] == pytest.approx((0 + 0.5 + 0.6) / 3) and sum(placed[3:]) / 2 == pytest.approx(10.05)


def test_a_board_finds_the_next_place_when_the_best_is_taken():
    board = Board()
    first = board.place(Text(0, 3.0 * k, "same", 2.5) for k in range(9))
    second = board.place(Text(0, 3.0 * k, "same", 2.5) for k in range(9))
    assert first.y == 0 and not meet(box_of(first), box_of(second))
    third = board.place([Text(0, 0, "same", 2.5)])  # however little it asks, it goes where nothing lies, and is told
    assert not any(meet(box_of(third), box_of(other)) for other in (first, second)) and board.faults == 1


def test_lettering_and_runs():
    assert width("12'-6 1/2", 5.0) == pytest.approx(2 * width("12'-6 1/2", 2.5))
    assert clean("5" + chr(0x2713) + chr(0x4E2D)) == "5??" and clean("12'-6 1/2") == "12'-6 1/2"
    assert gathered([3.0, 3.0, 2.0]) == [(2, 3.0), (1, 2.0)]


def test_an_empty_job_has_no_sheets_and_a_grid_alone_breaks_nothing():
    job = Job([Project(), Grid(id="g"), Level(name="L", elevation=0)])
    assert register(job, build(job)) == []


def test_small_plates_go_several_to_a_sheet_on_request(sample):
    job = Job(sample[0].records.values())
    with job.change("preset") as change:
        change.put(SheetPreset(id="p", name="plates", kinds=("part",), several=6))
    found = [e for e in register(job, build(job)) if e.title.endswith("plates")]
    before = [
        e
        for e in register(*sample)
        if e.kind == "part"
        and e.job.subject.main.is_plate
        and max(e.job.subject.main.length, e.job.subject.main.width) <= 400
    ]
    assert found and sum(len(e.job.jobs) for e in found) == len(before)
    for entry in found:
        (sheet,) = draw_all(entry.job)
        check(sheet)
        words = [t.text for t in texts(sheet)]
        assert all(any(w.startswith(f"{one.name}   {one.required} REQUIRED") for w in words) for one in entry.job.jobs)
        kept, copies = opened(packed(entry.job, (sheet,)))
        assert copies == (sheet,) and not reasons(kept, entry.job)


def test_a_template_is_read_and_a_bad_one_says_why():
    own = shipped("A3")
    assert own.width == 420 and {f.name for f in own.fields} >= {"name", "project", "scale"}
    bomb = '<?xml version="1.0" encoding="UTF-16"?><!DOCTYPE svg [<!ENTITY a "b"><!ENTITY c "&a;&a;">]><svg>&c;</svg>'
    bad = [
        ("<svg", "cannot be read"),
        ('<svg width="420mm" height="297mm"/>', "drawing"),
        ('<svg width="1mm" height="2mm"/>', "paper"),
        (bomb, "entities of its own"),
        ('<!DOCTYPE svg SYSTEM "http://example.org/x"><svg/>', "entities of its own"),
        (text_of(b"\xff\xfe" + bomb.encode("utf-16-le")), "entities of its own"),
        ("<svg>" * 100_001, "too large"),
        ("<a>" * 50_000, "cannot be read"),
        ('<?xml version="1.0" encoding="none"?><svg', "cannot be read"),
    ]
    for text, words in bad:
        with pytest.raises(JobError, match=words):
            read(text, "mine")
    with pytest.raises(JobError, match="no sheet template"):
        shipped("B99")


def test_an_offices_own_title_block_says_what_it_has_no_field_for_beside_what_it_has():
    said = {"name": "B1", "drawn": "AB", "checked": "CD", "date": "2026-11-23", "revision": "2"}
    whole = """<svg width="420mm" height="297mm"><rect id="drawing" x="9" y="9" width="300" height="270"/>
        <rect id="column" x="320" y="9" width="90" height="200"/>
        <text data-field="name" x="320" y="250" font-size="7" data-room="90"/>
        <text data-field="drawn" x="320" y="260" font-size="2.5" data-room="90"/>
        <text x="320" y="270" font-size="2.5"> Ames &amp; <tspan>Brook</tspan> </text><text x="1" y="1"/>%s</svg>"""
    revision = '<text data-field="revision" x="400" y="260" font-size="2.5" data-room="9"/>'
    for more, words in (("", {"B1  REV 2", "DRAWN AB   CHECKED CD   DATE 2026-11-23"}), (revision, {"B1", "2"})):
        board = Board()
        fill(board, read(whole % more, "own"), said)
        assert words < {t.text for t in board.items if isinstance(t, Text)} and len(words) == 2
        assert sum(t.text == "Ames & Brook" for t in board.items if isinstance(t, Text)) == 1
    assert {label.text for label in shipped("A1").labels} == {"DRAWN", "CHECKED", "DATE", "REVISION", "SCALE", "SHEET",
        "PAPER"}  # fmt: skip


def test_presets_go_through_a_file_and_choose_by_role():
    one = SheetPreset(name="columns", kinds=("column",), off=("welds",), degrees=True)
    assert from_json(to_json([one])) == [one]
    assert preset_for([one], "assembly", "column") is one and preset_for([one], "assembly", "beam").name == "usual"
    for bad in (b"{", to_json([one]).replace(b"presets 1", b"presets 9"), to_json([one]).replace(b'"columns"', b'" "')):
        with pytest.raises(JobError):
            from_json(bad)


def test_the_order_of_the_rules_means_nothing(sample, sheets, monkeypatch):
    monkeypatch.setattr("uncus.draw.rules.RULES", tuple(reversed(rules.RULES)))
    for entry in register(*sample)[::9]:
        assert draw(entry.job) == sheets[entry.name][1]


@pytest.mark.parametrize("several", [2, 3, 5])
def test_small_plates_go_so_many_to_a_sheet_in_the_order_of_their_marks(sample, several):
    job = Job([*sample[0].records.values(), SheetPreset(id="p", name="plates", kinds=("part",), several=several)])
    shop = build(job)
    alone = {e.name: e for e in register(*sample) if e.kind == "part"}
    small = [
        name
        for name, e in alone.items()
        if (part := e.job.bill[0][1]).is_plate and max(np.ptp(np.array(part.outline), axis=0)) <= 400.0
    ]
    entries = register(job, shop)
    together = [e for e in entries if e.kind == "plates"]
    assert [one.name for e in together for one in e.plates] == small and len(small) > several
    assert [len(e.plates) for e in together[:-1]] == [several] * (len(together) - 1)
    assert 1 <= len(together[-1].plates) <= several
    assert {e.name for e in entries if e.kind == "part"} == alone.keys() - set(small)


@pytest.mark.parametrize("slope", [15.0, -25.0])
@pytest.mark.parametrize("right", [False, True])
def test_the_distance_square_to_a_support_is_that_of_the_steel(slope, right):
    """From the nearest hole of a sloping end to the face it stands at, as the holes lie in the model."""
    column = Member(id="c", role=Role.COLUMN, section="W14X90", start=(0, 0, 0), end=(0, 0, 6000), roll=90.0)
    run, rise = 5000 * math.cos(math.radians(slope)), 5000 * math.sin(math.radians(slope))
    ends = [(0.0, 0.0, 3000.0), (run, 0.0, 3000.0 + rise)]
    beam = Member(id="b", role=Role.BEAM, section="W16X31", start=ends[right], end=ends[not right])
    end = End.RIGHT if right else End.LEFT
    job, shop = marked(
        [
            *new_job("x", "1", Units.IMPERIAL),
            column,
            beam,
            Connection(id="j", kind="shear tab", member="b", end=end, support="c"),
        ]
    )
    entry = next(e for e in register(job, shop) if e.kind == "assembly" and e.own == ("b",))
    said = {a.key: a for a in rules.Sayings().of(Seen(entry.job.subject, "front", Units.IMPERIAL, entry.job.preset))}
    side = "right" if right else "left"
    square = next(a for key, a in said.items() if key.endswith(("to hole left square", "to hole right square")))
    along = next(a for key, a in said.items() if "to hole" in key and key.endswith(" along"))
    main = shop.assemblies["b"].main
    holes = [main.placement.to_model((h.x, 0.0, h.w)) for h in main.part.holes]
    face = section("W14X90").d / 2
    nearest = min(p[0] - face for p in holes)
    assert math.dist(square.a, square.b) == pytest.approx(nearest, abs=0.05), side
    assert math.dist(along.a, along.b) == pytest.approx(nearest / math.cos(math.radians(slope)), abs=0.05)


def test_the_metric_sample_is_the_same_building_of_european_shapes(sample, metric_sample, drawn):
    """Joined alike, without a finding; its sheets in millimetres on A sizes, with no word of the other kind."""
    jobs = (sample[0], metric_sample[0])
    kinds = [Counter(c.kind for c in job.all(Connection)) for job in jobs]
    assert kinds[0] == kinds[1] and not metric_sample[1].all_findings
    american = {m.section for m in jobs[0].all(Member)}
    assert not american & {m.section for m in jobs[1].all(Member)}
    for _, sheets in drawn("metric_sample"):
        for sheet in sheets:
            words = " ".join(i.text for i in sheet.items if isinstance(i, Text))
            assert not re.search(r"\d'-|\b(W|HSS)\d|\d/\d\d?\b(?! )|E70|A325|ASTM", words), words
            assert (sheet.width, sheet.height) in {(297.0, 210.0), (420.0, 297.0), (594.0, 420.0), (841.0, 594.0)}
