"""What a view frame asks of its drawing is done: ways to show steel, what is said, sheets of several views, signs,
match lines, the usual set."""

import io
import math
from collections import Counter
from functools import partial
from itertools import pairwise

import msgspec
import numpy as np
import pypdfium2
import pytest
from pypdf import PdfReader
from tests.conftest import how_many, marked

from uncus.deliver.pdf import pdf_bytes
from uncus.draw.dimension import TEXT
from uncus.draw.drawn import draw_all
from uncus.draw.issue import packed, reasons
from uncus.draw.legibility import legibility
from uncus.draw.plan import BUBBLE
from uncus.draw.register import register
from uncus.draw.sheet import Circle, Layer, Line, Polyline, Text, linked
from uncus.draw.sights import placed
from uncus.draw.view_lines import _figures, _rows
from uncus.draw.view_sheet import _cuts
from uncus.frame.usual_views import Steel, elevations, fitted, followed, plans, usual
from uncus.job.drawings import Moved
from uncus.job.job import Job
from uncus.job.packages import PieceProgress, Stage
from uncus.job.records import Connection, Drawing, Grid, GridLine, Level, Member, Role, Showing, ViewFrame
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame as regular
from uncus.sample.frames import frame_of, irregular, irregular_of
from uncus.units import FOOT, Units, format_length

replace = msgspec.structs.replace
UP, ACROSS = (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)


@pytest.fixture(scope="module")
def house():
    return marked(boathouse(Units.IMPERIAL))


@pytest.fixture(scope="module")
def line_b(house):
    """The elevation of a line with columns, beams, rafters and braces beside it."""
    steel = Steel.of(house[0], Units.IMPERIAL)
    return next(f for f in elevations(steel) if f.name == "Elevation B")


def seen(house, frame, **shows):
    """The one view of a frame, and its sheets."""
    job, shop = house
    with job.change("view") as change:
        for old in job.all(ViewFrame):
            change.drop(old.id)
        change.put(replace(frame, shows=Showing(**shows)))
    (entry,) = (e for e in register(job, shop) if e.title.startswith("view"))
    return entry.job.sights[0], draw_all(entry.job)


def on(sheet, layer):
    """How much of a layer there is on a sheet, mm of paper."""
    lines = [(i.x1, i.y1, i.x2, i.y2) for i in sheet.items if isinstance(i, Line) and i.layer is layer]
    rings = [
        (*p, *q) for i in sheet.items if isinstance(i, Polyline) and i.layer is layer for p, q in pairwise(i.points)
    ]
    return sum(math.dist(one[:2], one[2:]) for one in (*lines, *rings))


def said(sheets):
    return Counter(t.text for s in sheets for t in s.items if isinstance(t, Text))


def pdf_words(sheets):
    """The texts of a PDF as they were written, each by itself, and how often."""
    found = Counter()
    for page in pypdfium2.PdfDocument(pdf_bytes(*sheets)):
        own = page.get_textpage()
        texts = page.get_objects([pypdfium2.raw.FPDF_PAGEOBJ_TEXT], textpage=own)
        found += Counter(text.extract().strip() for text in texts)
    return found


WAYS = {
    "as lines": (Layer.STICK, Layer.OUTLINE),
    "as outlines": (Layer.OUTLINE, Layer.STICK),
    "as solids, by hidden lines": (Layer.OUTLINE, Layer.STICK),
    "as outlines, with its lines": (Layer.STICK, Layer.OUTLINE),
}


@pytest.mark.parametrize("way", WAYS)
def test_each_way_to_show_steel_draws_it_so_and_marks_every_piece(house, line_b, way):
    sight, sheets = seen(house, line_b, steel=way)
    much, none = WAYS[way]
    assert on(sheets[0], much) > 300.0 and on(sheets[0], none) < 1e-6
    head = f"{line_b.id}|mark "
    assert {s.key.removeprefix(head) for s in sheets[0].spots if s.key.startswith(head)} == {
        p.member.id for p in sight.own
    }
    assert legibility(sheets[0]).on_text == 0 and sheets[0].wrong == sheets[0].lost == ()


def test_hidden_lines_are_left_out_dashed_or_full_and_what_is_fixed_on_is_left_out_on_request(house, line_b):
    solid = "as solids, by hidden lines"
    out, dashed, full = (
        seen(house, line_b, steel=solid, hidden=how)[1][0] for how in ("left out", "dashed", "in full")
    )
    assert on(out, Layer.OUTLINE) == pytest.approx(on(dashed, Layer.OUTLINE)) == pytest.approx(on(full, Layer.OUTLINE))
    hidden = on(dashed, Layer.HIDDEN) - on(out, Layer.HIDDEN)
    assert hidden > 100.0 and on(full, Layer.THIN) - on(out, Layer.THIN) == pytest.approx(hidden)
    bare, _ = seen(house, line_b, steel=solid, fixed=False)
    whole, _ = seen(house, line_b, steel=solid)
    assert all(len(p.bodies) == 1 for p in bare.own) and sum(len(p.bodies) for p in whole.own) > len(whole.own)


def test_lenses_choose_what_is_shown_and_in_which_line_and_one_that_nobody_knows_is_told(house, line_b):
    every, _ = seen(house, line_b)
    some, sheets = seen(house, line_b, only="role is column", standing="section begins W10", heavy='lot is "1"')
    assert {p.member.role for p in some.own} == {Role.COLUMN} != {p.member.role for p in every.own}
    assert all(p.standing == p.member.section.startswith("W10") for p in some.own)
    assert on(sheets[0], Layer.STANDING) > 0 and on(sheets[0], Layer.HEAVY) == 0, "what stands is not heavy too"
    _, heavy = seen(house, line_b, heavy="role is column")
    assert on(heavy[0], Layer.HEAVY) > 0 and any("HEAVY LINES" in words for words in said(heavy))
    _, wrong = seen(house, line_b, only="nonsense is 3")
    assert len(wrong[0].wrong) == 1 and "nonsense" in wrong[0].wrong[0]


def test_what_lies_behind_is_faint_without_marks_and_braces_aslant_as_asked(house, line_b):
    near, _ = seen(house, line_b)
    far, sheets = seen(house, line_b, beyond=7000.0)
    assert len(far.own) == len(near.own) < len(far.pieces) and on(sheets[0], Layer.FAINT) > 100.0
    job, _ = house
    braces = [m for m in job.all(Member) if m.role is Role.BRACE]
    assert braces
    z = max(max(m.start[2], m.end[2]) for m in braces)
    plan = ViewFrame("Plan", (10_000.0, 6000.0, z / 2), ACROSS, (0.0, 1.0, 0.0), 60_000, 60_000, z, z)
    in_plan = [p for p in seen(house, plan)[0].own if p.member.role is Role.BRACE]
    dashed = [p for p in seen(house, plan, braces="dashed")[0].own if p.member.role is Role.BRACE]
    none = [p for p in seen(house, plan, braces="left out")[0].own if p.member.role is Role.BRACE]
    aslant = {p.member.id for p in in_plan if abs(p.member.start[2] - p.member.end[2]) > 100}
    assert aslant and {p.member.id for p in dashed if p.dashed} == aslant
    assert {p.member.id for p in none} == {p.member.id for p in in_plan} - aslant


def test_site_bolts_and_welds_are_those_of_the_pieces_in_the_box(house, line_b):
    sight, sheets = seen(house, line_b, bolts=True)
    _, shop = house
    frame, place = line_b, placed(line_b)
    there = {p.member.id for p in sight.own}
    spots = np.array([p for a in shop.shipped.values() if a.id in there for g in a.holds if g.field
        and g.kind.value == "bolt" for p in g.points])  # fmt: skip
    u, v, w = place.to_local(spots).T
    inside = (abs(u) <= frame.width / 2) & (abs(v) <= frame.height / 2) & (-frame.behind <= w) & (w <= frame.before)
    wanted = {(round(a, 1), round(b, 1)) for a, b in zip(u[inside].tolist(), v[inside].tolist(), strict=True)}
    assert set(sight.bolts) == wanted and len(wanted) > 20
    filled = [i.points for i in sheets[0].items if isinstance(i, Polyline) and i.filled]
    diamonds = [points for points in filled if len(points) == 4 and len({x for x, _ in points}) == 3]
    assert len(diamonds) == len(wanted)
    assert seen(house, line_b, bolts=False)[0].bolts == ()
    site = [w for a in shop.shipped.values() if a.id in there for w in a.site_welds]
    assert bool(site) == bool(seen(house, line_b)[0].welds) and seen(house, line_b, welds=False)[0].welds == ()


def test_like_pieces_are_marked_once_with_their_number_and_how_far_they_go():
    job, shop = marked(regular(2, 1))
    level = job.all(Level)[1]
    plan = ViewFrame("Plan", (8000.0, 10_000.0, level.elevation), ACROSS, (0.0, 1.0, 0.0), 40_000, 40_000)
    each, sheets = seen((job, shop), plan)
    _, fewer = seen((job, shop), plan, repeats=True)
    marks, once = said(sheets), said(fewer)
    told = Counter()
    for words, n in once.items():
        mark, _, number = words.partition(" (")
        if number[:-1].isdigit() and mark in marks:
            told[mark] += int(number[:-1]) * n
        elif words in marks:
            told[words] += n
    kinds = {p.mark for p in each.own}
    assert all(told[mark] == marks[mark] for mark in kinds)
    assert sum(once[m] for m in kinds) < sum(marks[m] for m in kinds)


@pytest.mark.parametrize("roll", [0.0, 90.0])
def test_a_section_turned_into_the_view_shows_which_way_a_column_is_turned(roll):
    column = Member(id="c", role=Role.COLUMN, section="W14X22", start=(0, 0, 0), end=(0, 0, 4000), roll=roll)
    front = ViewFrame("Front", (0.0, 0.0, 2000.0), ACROSS, UP, 3000, 5000)
    job = marked([Grid(id="grid"), Level(id="l", name="Ground", elevation=0.0), column])
    _, (sheet,) = seen(job, front, shape=True)
    (shape,) = (np.array(i.points) for i in sheet.items if isinstance(i, Polyline) and i.closed and len(i.points) > 15)
    across, along = np.ptp(shape, axis=0)
    seen_wide = job[1].body("c").frame.to_model([(0, b * 127 / 2, d * 348 / 2) for d in (-1, 1) for b in (-1, 1)])
    assert (across > along) == (np.ptp(seen_wide[:, 0]) > np.ptp(seen_wide[:, 1]))
    assert max(across, along) > 3.9 and max(across, along) / min(across, along) == pytest.approx(349 / 127, rel=0.02)


def test_facts_are_said_after_the_size_and_one_it_cannot_say_is_refused(house, line_b):
    sight, sheets = seen(house, line_b, says="lot, grade")
    words = said(sheets)
    told = [text for text in words if "LOT " in text]
    assert told and all(p.words[0].startswith("LOT ") for p in sight.own)
    assert any(text.endswith(f"LOT {sight.own[0].member.lot} {sight.own[0].words[1]}") for text in told)
    _, wrong = seen(house, line_b, says="colour, lot, sheet")
    assert [w.partition(": ")[2][:21].rstrip("”") for w in wrong[0].wrong] == [
        "It cannot say “colour",
        "It cannot say “sheet",
    ]


def test_how_far_pieces_are_is_shown_and_said(house, line_b):
    """What its fabricator has said of a piece is a fact of a plan as any other."""
    job, _ = house
    sight, _ = seen(house, line_b)
    cut = sight.own[0].member.id
    with job.change("cut") as change:
        change.put(PieceProgress(id=PieceProgress.named(cut), piece=cut, stage=Stage.CUT, on="2026-11-29"))
    sight, sheets = seen(house, line_b, other="progress is cut", other_steel="as outlines", says="progress")
    assert {p.member.id for p in sight.own if p.way == "as outlines"} == {cut}
    assert sum(n for text, n in said(sheets).items() if text.endswith(" CUT")) == 1
    with job.change("not cut") as change:
        change.drop(PieceProgress.named(cut))


def test_another_lens_is_shown_its_own_way_with_its_holes_and_shop_bolts(house, line_b):
    sight, (sheet,) = seen(house, line_b, other="role is column", other_steel="as outlines", holes=True)
    assert {p.way for p in sight.own if p.member.role is Role.COLUMN} == {"as outlines"}
    assert {p.way for p in sight.own if p.member.role is not Role.COLUMN} == {"as lines"}
    assert on(sheet, Layer.OUTLINE) > 100.0 and on(sheet, Layer.STICK) > 100.0
    rings = [i for i in sheet.items if isinstance(i, Circle) and i.r < 2.0]
    _, (bare,) = seen(house, line_b, other="role is column", other_steel="as outlines")
    assert len(rings) > 10 and not [i for i in bare.items if isinstance(i, Circle) and i.r < 2.0]
    shop, (dotted,) = seen(house, line_b, shop=True)
    opened = [i for i in dotted.items if isinstance(i, Polyline) and not i.filled and len(i.points) == 4]
    assert len(opened) >= len(shop.shop) and not set(shop.shop) & set(seen(house, line_b, bolts=True)[0].bolts)


@pytest.mark.parametrize("many", [False, True])
def test_bolts_that_are_not_the_usual_are_told_where_they_are_and_of_many_whose_they_are(many):
    records = boathouse(Units.IMPERIAL)
    tabs = [r for r in records if isinstance(r, Connection) and r.kind == "shear tab"]
    odd = {c.id: replace(c, params={**c.params, "bolt": "7/8"}) for c in (tabs[:12] if many else tabs[:1])}
    job, shop = marked([odd.get(r.id, r) for r in records])
    groups = [g for a in shop.shipped.values() for g in a.holds if g.field and g.size == "7/8"]
    number, grade = sum(len(g.points) for g in groups), groups[0].grade
    plan = ViewFrame("Plan", (9000.0, 6000.0, 0.0), ACROSS, (0.0, 1.0, 0.0), 60_000, 60_000, 20_000, 1000)
    sight, sheets = seen((job, shop), plan)
    told = [w.words for w in sight.welds if "7/8" in w.words]
    assert any(text.startswith("SITE BOLTS ARE 3/4 ") for text in said(sheets))
    if many:
        assert told == [] and sight.notes[1].startswith(f"{number} SITE BOLTS ARE 7/8 {grade}: AT B")
    else:
        assert told == [f"{number} - 7/8 {grade}"] and len(sight.notes) == 1
    off = seen((job, shop), plan, odd=False)[0]
    assert not [w for w in off.welds if "7/8" in w.words] and off.notes == ()


def test_the_side_that_a_tab_stands_on_is_the_side_of_its_plate_in_both_views(house):
    job, shop = house
    level = job.all(Level)[1].elevation
    boxes = {1: ((0.0, 1.0, 0.0)), -1: ((0.0, -1.0, 0.0))}
    sides = {}
    for way, y in boxes.items():
        plan = ViewFrame("Plan", (9000.0, 6000.0, level), ACROSS, y, 40_000, 40_000, 400, 400)
        sight, (sheet,) = seen(house, plan, tabs=True)
        sides[way] = {p.member.id: p.tabs for p in sight.own if p.tabs != (0, 0)}
        assert on(sheet, Layer.OUTLINE) > 10.0
    assert len(sides[1]) > 8 and {id: (-a, -b) for id, (a, b) in sides[1].items()} == sides[-1]
    for id, (left, _) in sides[1].items():
        a = shop.assemblies[id]
        tabs = [p for c in shop.connections_at(id) if c.member == id and c.end.value == "left"
            for p in shop.made_by(c.id)[0] if p.words == "shear tab"]  # fmt: skip
        if tabs:
            run = np.subtract(a.member.end, a.member.start)[:2]
            off = tabs[0].placement.to_model((0.0, 0.0, 0.0))[:2] - np.array(a.member.start[:2])
            assert np.sign(run[0] * off[1] - run[1] * off[0]) == left


@pytest.mark.parametrize(("shows", "bubbles"), [
    ({}, (1, 1)), ({"below": True}, (2, 1)), ({"below": True, "above": False}, (1, 1)), ({"right": True}, (1, 2)),
    ({"above": False, "left": False}, (1, 1)),
])  # fmt: skip
def test_grid_lines_have_bubbles_and_dimensions_on_the_sides_asked_for(house, shows, bubbles):
    job, _ = house
    (grid,) = job.all(Grid)
    plan = ViewFrame("Plan", (9753.6, 6096.0, 3657.6), ACROSS, (0.0, 1.0, 0.0), 24_000, 18_000, 400, 400)
    _, sheets = seen(house, plan, offs=False, sizes="in the list only", signs=False, **shows)
    words = Counter(t.text for t in sheets[0].items if isinstance(t, Text) and t.height == TEXT)  # no scale bar's
    middles = {(i.x, i.y) for i in sheets[0].items if isinstance(i, Circle) and i.r == BUBBLE}
    round_about = Counter(t.text for t in sheets[0].items if isinstance(t, Text) and (t.x, t.y) in middles)
    wanted = {line.label: n for lines, n in zip((grid.numbers, grid.letters), bubbles, strict=True) for line in lines}
    assert round_about == wanted
    up, across = (grid.numbers, shows.get("above", True) + shows.get("below", False)), (
        grid.letters, shows.get("left", True) + shows.get("right", False))  # fmt: skip
    wanted = Counter()
    for lines, times in (up, across):
        at = sorted(line.at for line in lines)
        for a, b in [*pairwise(at), (at[0], at[-1])]:
            wanted[format_length(b - a, Units.IMPERIAL)] += times
    assert all(words[figure] == n for figure, n in wanted.items())
    x0, y0, x1, y1 = sheets[0].frames[0].box
    figures = [t for t in sheets[0].items if isinstance(t, Text) and t.text in wanted and t.height == TEXT]
    asked = {"above": True, "left": True, **shows}
    assert any(t.y > y1 for t in figures) == asked["above"] and any(t.y < y0 for t in figures) == ("below" in shows)
    assert any(t.x < x0 for t in figures) == asked["left"] and any(t.x > x1 for t in figures) == ("right" in shows)
    assert not [t for t in figures if x0 < t.x < x1 and y0 < t.y < y1], "none in the view"
    _, bare = seen(house, plan, offs=False, sizes="in the list only", signs=False, overall=False, **shows)
    assert said(bare)[format_length(max(line.at for line in grid.numbers), Units.IMPERIAL)] == 0


def test_a_view_goes_on_to_the_lines_next_to_its_steel_and_no_farther():
    numbers = tuple(GridLine(name, at) for name, at in (("1", 0.0), ("2", 6000.0), ("3", 12_000.0)))
    beam = Member(role=Role.BEAM, section="W12X26", start=(1500.0, 0, 0), end=(5500.0, 0, 0))
    job = marked(
        [Grid(id="g", numbers=numbers, letters=(GridLine("A", 0.0),)), Level(id="l", name="L", elevation=0), beam]
    )
    wide = ViewFrame("Plan", (6000.0, 0.0, 0.0), ACROSS, (0.0, 1.0, 0.0), 30_000, 9000)
    _, (sheet,) = seen(job, wide, sizes="in the list only", offs=False)
    middles = {(i.x, i.y) for i in sheet.items if isinstance(i, Circle) and i.r == BUBBLE}
    assert {t.text for t in sheet.items if isinstance(t, Text) and (t.x, t.y) in middles} == {"1", "2", "A"}


def test_what_is_on_no_line_is_dimensioned_from_those_next_to_it():
    """Set out again from the chains alone, every joist of a regular floor is where it is."""
    job, shop = marked(regular(3, 1))
    (grid,), level = job.all(Grid), job.all(Level)[1].elevation
    plan = ViewFrame("Plan", (12_000.0, 9000.0, level), ACROSS, (0.0, 1.0, 0.0), 40_000, 40_000)
    sight, (sheet,) = seen((job, shop), plan)
    lines = sorted(line.at for line in (*grid.numbers, *grid.letters))
    joists = [m for m in (job.get(p.member.id, Member) for p in sight.own) if m.role is Role.BEAM]
    steps = Counter()
    for m in joists:
        for axis, family in ((0, grid.numbers), (1, grid.letters)):
            at, along = m.start[axis], abs(m.start[axis] - m.end[axis])
            if along < 1.0 and min(abs(at - line.at) for line in family) > 2.0:
                below = max(line.at for line in family if line.at < at)
                above = min(line.at for line in family if line.at > at)
                steps[round(above - below), round(at - below)] += 1
    assert steps and lines
    told = [t.text for t in sheet.items if isinstance(t, Text) and " @ " in t.text]
    for bay in {bay for bay, _ in steps}:
        own = sorted({at for b, at in steps if b == bay})
        apart = np.diff([0.0, *own, bay])
        assert np.ptp(apart) < 2.0
        words = (
            f"{len(apart)} @ {format_length(bay / len(apart), Units.IMPERIAL)} = {format_length(bay, Units.IMPERIAL)}"
        )
        assert words in told
    assert not [t for t in seen((job, shop), plan, offs=False)[1][0].items if isinstance(t, Text) and " @ " in t.text]


@pytest.mark.parametrize(("stops", "figures"), [
    ([0, 1000, 2000, 3000], ["3 @ 1000 = 3000"]), ([0, 1000, 2500], ["1000", "1500"]),
    ([0, 500, 1500, 2500, 2600], ["500", "2 @ 1000 = 2000", "100"]),
])  # fmt: skip
def test_equal_steps_of_a_chain_are_told_together(stops, figures):
    found = list(_figures([s / 20.0 for s in stops], stops, Units.METRIC))
    assert [words for _, words in found] == figures
    assert [a for (a, _), _ in found][1:] == [b for (_, b), _ in found][:-1]


@pytest.mark.parametrize(("how", "words"), [
    ("absolute", "(+9'-0)"), ("from the view's level", "(-1'-6)"), ("left out", ""),
])  # fmt: skip
def test_heights_are_said_as_asked_and_only_where_they_differ(how, words):
    z = 10.5 * FOOT
    low = Member(role=Role.BEAM, section="W8X18", start=(0, 3000, 9 * FOOT), end=(6000, 3000, 9 * FOOT))
    level = Member(role=Role.BEAM, section="W8X18", start=(0, 0, z), end=(6000, 0, z))
    job = marked([Grid(id="grid"), Level(id="l", name="Floor", elevation=z), low, level])
    plan = ViewFrame("Plan", (3000.0, 1500.0, z), ACROSS, (0.0, 1.0, 0.0), 9000, 9000, 1000, 1000)
    _, sheets = seen(job, plan, heights=how, sizes="at each piece")
    found = [text for text in said(sheets) if text.startswith("W8X18") and text != "W8X18"]
    assert found == ([f"W8X18 {words}"] if words else [])


def test_a_view_of_solids_is_stale_with_the_marks_whose_parts_are_made_otherwise(house, line_b):
    seen(house, line_b, steel="as solids, by hidden lines")
    (entry,) = (e for e in register(*house) if e.title.startswith("view"))
    (sight,) = entry.job.sights
    first = next(p for p in sight.own if len(p.bodies) > 2)
    other = replace(first, bodies=first.bodies[:-1])
    after = replace(sight, pieces=tuple(other if p is first else p for p in sight.pieces))
    assert reasons(entry.job, replace(entry.job, sights=(after,))) == [f"{first.mark} made otherwise"]


def test_work_points_of_braces_are_said_where_one_is_at_no_level():
    brace = partial(Member, role=Role.BRACE, section="L4X4X1/4")
    levels = [Level(id=name, name=name, elevation=z) for name, z in (("Ground", 0.0), ("Roof", 12 * FOOT))]
    records = [Grid(id="grid"), *levels,
        brace(id="low", start=(0, 0, 0), end=(15 * FOOT, 0, 10.5 * FOOT)),
        brace(id="high", start=(20 * FOOT, 0, 0), end=(35 * FOOT, 0, 12 * FOOT))]  # fmt: skip
    wall = ViewFrame("Wall", (20 * FOOT, 0.0, 6 * FOOT), ACROSS, UP, 60 * FOOT, 30 * FOOT)
    words = said(seen(marked(records), wall, sizes="at each piece")[1])
    assert words["L4X4X1/4 (WP +0'-0 to +10'-6)"] == 1 and words["L4X4X1/4"] >= 1


def test_a_view_revised_is_clouded_where_it_changed_since_it_went_out(house, line_b):
    _, sheets = seen(house, line_b)
    job, shop = house
    (entry,) = (e for e in register(job, shop) if e.title.startswith("view"))
    sent = packed(entry.job, sheets)
    first = next(p for p in entry.job.sights[0].own if p.member.role is Role.BEAM)
    other = replace(first, mark="B777")
    sight = replace(entry.job.sights[0], pieces=tuple(other if p is first else p for p in entry.job.sights[0].pieces))
    (after,) = draw_all(replace(entry.job, sights=(sight,), since=sent))
    clouds = [i for i in after.items if isinstance(i, Polyline) and i.layer is Layer.CLOUD]
    box = next(s.texts[0][1] for s in after.spots if s.key.endswith(f"|mark {first.member.id}"))
    assert clouds and len(clouds) <= 6, "its mark, what gave way to it, its lines of the bill"
    round_it = [np.array(c.points) for c in clouds]
    assert any((c.min(axis=0) <= box[:2]).all() and (c.max(axis=0) >= box[2:]).all() for c in round_it)


def test_words_that_no_room_is_left_for_are_told_and_none_lies_off_the_paper(house):
    job, _ = house
    middle = tuple(np.mean([m.start for m in job.all(Member)], axis=0).tolist())
    plan = ViewFrame("All", middle, ACROSS, (0.0, 1.0, 0.0), 60_000, 60_000, 20_000, 20_000, scale=900.0)
    sight, sheets = seen(house, plan, sizes="at each piece", says="lot, weight, mark, place")
    assert len(sight.own) > 60 and len(sheets[0].wrong) == 1 and "no room" in sheets[0].wrong[0]
    assert all(legibility(s).on_text == legibility(s).off_paper == 0 for s in sheets)


def test_lines_nearer_to_one_another_than_their_bubbles_have_them_in_rows(house):
    rows = _rows([0.0, 4.0, 8.0, 30.0, 41.0])
    assert [rows[x] > 0 for x in (0.0, 4.0, 8.0, 30.0, 41.0)] == [False, True, True, False, False]
    assert rows[4.0] != rows[8.0]


# -- several views on a sheet ---------------------------------------------------------------------------
def test_views_of_one_sheet_stand_together_each_at_its_scale_and_one_is_moved_by_hand(house):
    job, shop = house
    steel = Steel.of(job, job.project.units)
    made = [replace(f, sheet="Walls", scale=96.0 if n == 0 else 0.0)
        for n, f in enumerate(elevations(steel._replace(there=()))[:3])]  # fmt: skip
    with job.change("views") as change:
        for old in job.all(ViewFrame):
            change.drop(old.id)
        for one in made:
            change.put(one)
    (entry,) = (e for e in register(job, shop) if e.title.startswith("view"))
    assert entry.title == "views: Walls" and set(entry.own) == {f.id for f in made}
    (sheet,) = draw_all(entry.job)
    assert {f.name for f in sheet.frames} == set(entry.own)
    assert next(f.scale for f in sheet.frames if f.name == made[0].id) == 96.0
    boxes = [f.box for f in sheet.frames]
    for n, a in enumerate(boxes):
        for b in boxes[n + 1 :]:
            assert a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1], "views lie beside one another"
    assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0
    hand = Drawing(id="d", piece="", kind="erection", edits=(Moved(f"{made[1].id}|place", 7.0, -3.0),))
    (after,) = draw_all(replace(entry.job, hand=hand))
    was, now = ({f.name: f for f in s.frames} for s in (sheet, after))
    for name, frame in now.items():
        by = (7.0, -3.0) if name == made[1].id else (0.0, 0.0)
        assert np.subtract(frame.box[:2], was[name].box[:2]) == pytest.approx(by)
    assert after.lost == ()


def test_a_view_too_large_for_paper_is_parted_and_every_piece_marked_in_each_part_it_is_in():
    job, shop = marked(regular(6, 1))
    level = job.all(Level)[1]
    wide = ViewFrame("Plan", (25_000.0, 10_000.0, level.elevation), ACROSS, (0.0, 1.0, 0.0), 90_000, 60_000, scale=12.0)
    sight, sheets = seen((job, shop), wide)
    assert len(sheets) > 3 and len({s.name for s in sheets}) == len(sheets)
    names = {s.name for s in sheets}
    matched = [
        w.removeprefix("MATCH LINE, SEE SHEET ") for s in sheets for w in said([s]) if w.startswith("MATCH LINE")
    ]
    assert matched and set(matched) <= names
    head = f"{wide.id}|mark "
    marks = [Counter(s.key for s in sheet.spots if s.key.startswith(head)) for sheet in sheets]
    assert set().union(*marks) == {f"{head}{p.member.id}" for p in sight.own}
    assert all(set(own.values()) <= {1} for own in marks)
    middles = {s.name: _middle(s.frames[0]) for s in sheets}
    for sheet in sheets:
        assert legibility(sheet).on_text == 0 and on(sheet, Layer.MATCH) > 0
        x0, y0, x1, y1 = sheet.frames[0].box
        edges = {
            (x0, y0, x0, y1): (0, -1),
            (x1, y0, x1, y1): (0, 1),
            (x0, y0, x1, y0): (1, -1),
            (x0, y1, x1, y1): (1, 1),
        }
        lines = [i for i in sheet.items if isinstance(i, Line) and i.layer is Layer.MATCH]
        words = [t for t in sheet.items if isinstance(t, Text) and t.text.startswith("MATCH LINE")]
        assert len(lines) == len(words)
        for line in lines:
            ends = line.x1, line.y1, line.x2, line.y2
            (axis, way) = next(own for edge, own in edges.items() if np.allclose(edge, ends, atol=0.01))
            middle = np.array([line.x1 + line.x2, line.y1 + line.y2]) / 2
            near = min(words, key=lambda t: math.dist((t.x, t.y), middle))
            other = middles[near.text.partition("SEE SHEET ")[2]]
            steps = np.subtract(other, middles[sheet.name])
            assert steps[axis] * way > 1000.0 and abs(steps[1 - axis]) < 1.0, "that sheet lies there"


def test_of_a_view_that_is_nearly_empty_only_windows_with_steel_are_sheets():
    far = [Member(id=str(x), role=Role.BEAM, section="W12X26", start=(x, 0, 0), end=(x + 6000.0, 0, 0))
        for x in (0.0, 5e6)]  # fmt: skip
    job = marked([Grid(id="grid"), Level(id="l", name="L" * 200, elevation=0.0), *far])
    wide = ViewFrame("Plan", (2.5e6, 0.0, 0.0), ACROSS, (0.0, 1.0, 0.0), 6e6, 9000)
    _, sheets = seen(job, wide)
    assert [sum("|mark " in s.key for s in sheet.spots) for sheet in sheets] == [1, 1]
    assert not [w for w in said(sheets) if w.startswith("MATCH")], "nothing goes on beside them"


def _middle(frame):
    """The middle of a view's window, in the view's own mm."""
    x0, y0, x1, y1 = frame.box
    return frame.own((x0 + x1) / 2, (y0 + y1) / 2)


@pytest.mark.parametrize(("grids", "number"), [([0, 6, 12, 18, 24], 2), ([], 3), ([0, 100], 2), ([11, 12, 13], 4)])
def test_parts_of_a_view_meet_and_cover_it(grids, number):
    cuts = _cuts(-1.0, 25.0, number, grids)
    assert cuts[0] == -1.0 and cuts[-1] == 25.0 and len(cuts) == number + 1
    assert all(a < b for a, b in pairwise(cuts)) and not set(cuts[1:-1]) & set(grids)


def test_signs_lead_to_the_sheets_of_the_views_that_cut_here_in_pdf_too(house):
    job, shop = house
    frames = elevations(Steel.of(job, job.project.units)._replace(there=()))
    with job.change("views") as change:
        for old in job.all(ViewFrame):
            change.drop(old.id)
        for one in frames:
            change.put(one)
    entries = {e.name: e for e in register(job, shop) if e.title.startswith("view")}
    sights = {e.job.sights[0].frame.id: (name, e) for name, e in entries.items()}
    for name, entry in entries.items():
        (sheet,) = draw_all(entry.job)
        own = entry.job.sights[0].frame
        signs = {s.key: linked(s) for s in sheet.spots if linked(s)}
        for key, to in signs.items():
            other = key.partition("|sign ")[2]
            assert sights[other][0] == to != name
            across = np.cross(own.x, own.y) @ np.cross(sights[other][1].job.sights[0].frame.x, UP)
            assert abs(across) < 0.02, "what is parallel does not cut it"
        assert signs
        links = [a.get_object() for a in PdfReader(io.BytesIO(pdf_bytes(sheet))).pages[0].get("/Annots", ())]
        assert Counter(link["/A"]["/F"] if "/F" in link["/A"] else link["/A"]["/URI"] for link in links).keys() == {
            f"{to}.pdf" for to in signs.values()
        }


# -- the usual set --------------------------------------------------------------------------------------
JOBS = {"sample": lambda: boathouse(Units.METRIC), "irregular": lambda: irregular(2, 1)}


@pytest.mark.parametrize("name", JOBS)
def test_the_usual_set_is_made_once_read_back_from_pdf_with_each_mark_once(name):
    job, shop = marked(JOBS[name]())
    steel = Steel.of(job, job.project.units)
    made = usual(steel)
    assert {"Isometric"} < {f.name for f in made} and len({f.id for f in made}) == len(made)
    lots = {m.lot for m in steel.members}
    assert sum(f.name.startswith("Isometric, lot") for f in made) == (len(lots) if len(lots) > 1 else 0)
    with job.change("set") as change:
        for one in made:
            change.put(replace(one, name=f"{one.name} of mine", drawn=one.name != "Isometric"))
    assert usual(Steel.of(job, job.project.units)) == [], "neither renamed nor left out ones come again"
    entries = [e for e in register(job, shop) if e.title.startswith("view")]
    assert len(entries) == len(made) - 1
    for entry in entries[: how_many(3, 99)]:
        sheets = draw_all(entry.job)
        assert all(legibility(s).on_text == 0 for s in sheets)
        sight = entry.job.sights[0]
        wanted = Counter(p.mark for p in sight.own)
        text = pdf_words(sheets)
        rows = {s.key for sheet in sheets for s in sheet.spots if s.key.startswith("bill|")}
        assert {mark: text[mark] for mark in wanted} == {m: n + (f"bill|{m}" in rows) for m, n in wanted.items()}


def test_a_usual_view_is_fitted_to_steel_that_came_and_nothing_else_of_it_is_touched(house):
    steel = Steel.of(house[0], Units.IMPERIAL)._replace(there=())
    made = next(f for f in elevations(steel) if f.name == "Elevation A")
    mine = replace(made, name="Front", sheet="Walls", scale=96.0)
    assert fitted(mine, steel) == mine
    more = Member(role=Role.BEAM, section="W12X26", start=(0.0, 0.0, 9000.0), end=(40 * FOOT, 0.0, 15_000.0))
    after = fitted(mine, steel._replace(members=[*steel.members, more]))
    assert after is not None and after.height > mine.height + 5000.0
    assert (after.name, after.sheet, after.scale, after.id) == ("Front", "Walls", 96.0, mine.id)
    assert fitted(ViewFrame("own", (0, 0, 0), ACROSS, UP, 100, 100), steel) is None


def test_braced_walls_off_the_grid_have_a_view_square_to_them():
    grid = Grid(id="grid", numbers=(), letters=())
    beam = Member(role=Role.BEAM, section="W8X18", start=(0, 0, 3000), end=(4000, 3000, 3000))
    brace = Member(role=Role.BRACE, section="HSS4X4X1/4", start=(0, 0, 0), end=(4000, 3000, 3000))
    flat = Member(role=Role.BRACE, section="HSS4X4X1/4", start=(0, 9000, 3000), end=(4000, 9900, 3000))
    walls = [f for f in usual(Steel(grid, [Level("Ground", 0.0)], [beam, brace, flat])) if f.name.startswith("Braced")]
    (wall,) = walls
    assert np.cross(np.array(wall.x), (0.8, 0.6, 0.0)) == pytest.approx(0.0) and wall.y == UP
    assert wall.width == pytest.approx(5000 + 2 * 600) and wall.problem() is None


def test_plans_as_views_stand_for_the_levels_plans_with_all_that_those_show():
    job, shop = marked(boathouse(Units.IMPERIAL))
    before = {e.title: e for e in register(job, shop) if e.title.startswith("plan: ")}
    made = plans(Steel.of(job, Units.IMPERIAL))
    with job.change("plans") as change:
        for one in made:
            change.put(one)
    entries = {e.title: e for e in register(job, shop) if e.kind == "erection"}
    assert not [title for title in entries if title.startswith("plan: ")]
    for title, entry in before.items():
        view = entries[f"view: Plan {title.removeprefix('plan: ')}"]
        assert set(entry.pieces) <= set(view.pieces), "columns are marked at each level that they pass"
        assert legibility(draw_all(view.job)[0]).on_text == 0
    assert plans(Steel.of(job, Units.IMPERIAL)) == []
    with job.change("more") as change:
        for one in usual(Steel.of(job, Units.IMPERIAL)):
            change.put(one)
    order = [
        e.title.removeprefix("view: ").split()[0].rstrip(",") for e in register(job, shop) if e.title[:4] == "view"
    ]
    assert list(dict.fromkeys(order)) == ["Plan", "Elevation", "Isometric"] and order == sorted(
        order, key=["Plan", "Elevation", "Isometric"].index
    )


def test_usual_views_go_where_their_levels_and_grid_lines_go_in_the_same_step():
    job = Job(regular(2, 2))
    job.amend(followed)
    steel = Steel.of(job, Units.IMPERIAL)
    own = [replace(f, name=f"my {f.name}", width=f.width + 500.0) for f in (*usual(steel), *plans(steel))]
    with job.change("views") as change:
        for one in own:
            change.put(one)
    level, (grid,) = job.all(Level)[1], job.all(Grid)
    there = {f.name: f for f in job.all(ViewFrame)}
    with job.change("higher") as change:
        change.put(replace(level, elevation=level.elevation + 700.0))
    now = {f.name: f for f in job.all(ViewFrame)}
    plan = f"my Plan {level.name}"
    assert now[plan].origin == pytest.approx(np.add(there[plan].origin, (0.0, 0.0, 700.0)))
    assert replace(now[plan], origin=there[plan].origin) == there[plan], "its size by hand is kept"
    assert all(now[name] == there[name] for name in there if name != plan)
    job.undo()
    assert {f.name: f for f in job.all(ViewFrame)} == there
    line = grid.numbers[1]
    with job.change("aside") as change:
        change.put(replace(grid, numbers=(grid.numbers[0], replace(line, at=line.at + 400.0), *grid.numbers[2:])))
        for m in job.all(Member):
            by = [400.0 if abs(p[0] - line.at) < 1.0 else 0.0 for p in (m.start, m.end)]
            change.put(replace(m, start=(m.start[0] + by[0], *m.start[1:]), end=(m.end[0] + by[1], *m.end[1:])))
    now = {f.name: f for f in job.all(ViewFrame)}
    name = f"my Elevation {line.label}"
    assert now[name].origin[0] == pytest.approx(there[name].origin[0] + 400.0) and now[name].width == there[name].width
    assert all(now[n] == there[n] for n in there if n != name)


FRAMES = [
    pytest.param(lambda: frame_of(100), id="100"),
    pytest.param(lambda: irregular(2, 1), id="skewed and sloping"),
    pytest.param(lambda: frame_of(500), id="500", marks=pytest.mark.long),
    pytest.param(lambda: frame_of(2000), id="2000", marks=pytest.mark.long),
    pytest.param(lambda: irregular_of(400), id="400, skewed and sloping", marks=pytest.mark.long),
]


@pytest.mark.parametrize("records", FRAMES)
def test_plans_and_elevations_of_frames_of_any_size_have_every_mark_once_near_its_left_end(records):
    job, shop = marked(records())
    with job.change("views") as change:
        for one in elevations(Steel.of(job, Units.IMPERIAL)):
            change.put(one)
    entries = [e for e in register(job, shop) if e.title.startswith(("plan:", "view"))]
    away = []
    for entry in entries:
        sheets = draw_all(entry.job)
        marks, there = {m.id: mark for mark, m in entry.job.members}, set()
        for sheet in sheets:
            text, own = pdf_words([sheet]), [s.key.partition("|mark ")[2] for s in sheet.spots if "|mark " in s.key]
            rows = {s.key.removeprefix("bill|") for s in sheet.spots if s.key.startswith("bill|")}
            wanted = Counter(marks[id] for id in own) + Counter(rows & set(marks.values()))
            assert len(own) == len(set(own)) and {mark: text[mark] for mark in wanted} == wanted
            there |= set(own)
            assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0
            tips = {key.partition("|")[0]: p[:2] for f in sheet.frames for key, p in f.points.items()}
            for spot in sheet.spots:
                if "|mark " in spot.key:
                    x0, y0, x1, y1 = spot.texts[0][1]
                    x, y = tips[spot.key.partition("|mark ")[2]]
                    away.append(math.hypot(max(x0 - x, 0, x - x1), max(y0 - y, 0, y - y1)))
        assert there == marks.keys()
    assert np.median(away) < 6.0 and np.quantile(away, 0.9) < 15.0 and max(away) < 40.0, "mm of paper"
