"""Schedules and the site plan: what they add up to is the building's, and what is wrong on site is told."""

import math
import re
from collections import Counter

import msgspec
import pytest
from tests.conftest import marked

from uncus.draw.drawn import draw_all
from uncus.draw.issue import opened, packed, reasons
from uncus.draw.legibility import legibility
from uncus.draw.register import register
from uncus.draw.sheet import Layer, Line, Text
from uncus.frame.moves import move_by, transformed
from uncus.job.records import Crane, ErectionRules, LayDown, Level, Member, Reach, Role
from uncus.lens.criteria import lens_named, passes
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame
from uncus.shop.lifting import lift, lot_of
from uncus.steel.joint import FastenerKind
from uncus.units import FOOT, Units, format_elevation, format_weight, parse_length

replace = msgspec.structs.replace
ALL = ErectionRules(columns=True, bolts=True, welds=True, lots=True, order="1, 2, 3", spare=0.05, spare_least=4)
TABLE = (Reach(3000.0, 4000.0), Reach(12_000.0, 900.0), Reach(20_000.0, 300.0))


def erecting(records, *more):
    """The erection sheets of a job with all schedules, by name, and its steel."""
    job, shop = marked([*records, ALL, *more])
    return {e.name: (e, draw_all(e.job)) for e in register(job, shop) if e.kind == "erection"}, job, shop


@pytest.fixture(scope="module", params=Units)
def house(request):
    return erecting(boathouse(request.param))


def rows(entry, title):
    """A schedule's rows, with what goes on from the row above filled in."""
    (table,) = (t for t in entry.job.tables if t.title == title)
    found, first = [], ""
    for row in table.rows:
        first = row[0] or first
        found.append((first, *row[1:]))
    return found


def test_site_bolts_by_level_add_up_to_the_buildings_with_spares_by_rule(house):
    sheets, _, shop = house
    told, total = Counter(), {}
    for level, size, length, grade, number, spare, send in rows(sheets["SC1"][0], "SITE BOLTS"):
        if level == "ALL":
            total[size, length, grade] = tuple(map(int, (number, spare, send)))
        else:
            told[size, length, grade] += int(number)
    wanted = Counter()
    for a in shop.shipped.values():
        for g in a.holds:
            if g.field and g.kind is FastenerKind.BOLT:
                wanted[g.size, round(g.length, 1), g.grade] += len(g.points)
    assert {key: n for key, (n, _, _) in total.items()} == told and sorted(told.values()) == sorted(wanted.values())
    assert all(spare == max(4, math.ceil(n * 0.05 - 1e-9)) and send == n + spare for n, spare, send in total.values())


def test_lots_add_up_to_the_steel_and_say_what_holds_them(house):
    sheets, job, shop = house
    units, weights, pieces = job.project.units, Counter(), Counter()
    for a in shop.shipped.values():
        weights[lot_of(a)] += a.lifted
        pieces[lot_of(a)] += 1
    told = rows(sheets["SC1"][0], "LOTS")
    assert [row[:2] for row in told] == [("1", "1"), ("2", "2"), ("3", "3")], "as it was said"
    assert {row[1]: (int(row[2]), row[3]) for row in told} == {
        lot: (pieces[lot], format_weight(kg, units)) for lot, kg in weights.items()
    }
    assert all("1" in row[7] for row in told[1:])


def test_columns_stand_between_their_levels_with_splices_bases_and_every_mark():
    records = frame(2, 2)
    lower = next(m for m in records if isinstance(m, Member) and m.role is Role.COLUMN)
    middle = (lower.start[2] + lower.end[2]) / 2 + 300.0
    foot = replace(lower, end=(*lower.end[:2], middle))
    head = replace(lower, id="head", section="W10X39", start=(*lower.start[:2], middle))
    sheets, _, shop = erecting([foot if r is lower else r for r in records] + [head])
    entry, drawn = sheets["CS1"]
    said = Counter(t.text for s in drawn for t in s.items if isinstance(t, Text))
    columns = [a for a in shop.shipped.values() if a.member.role is Role.COLUMN]
    assert sum(len(p.partition(": ")[2].split(" + ")) for s in entry.job.shafts for p in s.places) == len(columns)
    (spliced,) = (s for s in entry.job.shafts if len(s.lengths) == 2)
    assert [one.section for one in spliced.lengths] == [foot.section, "W10X39"] and len(spliced.places) == 1
    assert said[format_elevation(middle, Units.IMPERIAL)] == 1
    assert all(s.base.startswith("BP") for s in entry.job.shafts)
    levels = dict(entry.job.levels)
    for name in levels:
        assert said[name.upper()] >= 1
    for sheet in drawn:
        assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0
        heavy = [i for i in sheet.items if isinstance(i, Line) and i.layer is Layer.STICK]
        assert heavy and all(i.x1 == i.x2 for i in heavy)


def test_a_column_that_leans_is_listed_at_its_foot():
    records = frame(1, 1)
    column = next(r for r in records if isinstance(r, Member) and r.role is Role.COLUMN)
    leaning = replace(column, id="leans", start=(20_000.0, 0.0, 0.0), end=(21_000.0, 0.0, 4000.0))
    sheets, _, _ = erecting([*records, leaning])
    (shaft,) = (s for s in sheets["CS1"][0].job.shafts if s.lengths[0].top == 4000.0)
    assert len(shaft.places) == 1 and not shaft.base


def test_a_large_schedule_goes_on_over_sheets_and_loses_no_row():
    records = frame(3, 2)
    levels = [r for r in records if isinstance(r, Level)]
    top = max(levels, key=lambda one: one.elevation)
    columns = [r for r in records if isinstance(r, Member) and r.role is Role.COLUMN and r.start[0] < 1.0]
    towers = [replace(m, id=f"{m.id} {n}", lot=str(n)) for n in range(40) for m in columns]
    spread = [transformed(m, move_by((50_000.0 + 900.0 * n, 0, n * 17.0))) for n, m in enumerate(towers)]
    sheets, _, shop = erecting([*records, *spread])
    entry, drawn = sheets["CS1"]
    assert len(drawn) > 1 and top.name.upper() in {t.text for t in drawn[-1].items if isinstance(t, Text)}
    places = [s.key for sheet in drawn for s in sheet.spots if s.key.startswith("shaft|")]
    assert len(places) == len(set(places)) == len(entry.job.shafts)
    lots = [s.key for sheet in sheets["SC1"][1] for s in sheet.spots if s.key.startswith("schedule|LOTS")]
    assert len(lots) == len({lot_of(a) for a in shop.shipped.values()})
    assert all(legibility(s).on_text == 0 and legibility(s).off_paper == 0 for _, some in sheets.values() for s in some)


# -- site -----------------------------------------------------------------------------------------------
@pytest.mark.parametrize(("radius", "lifts"), [(1400.0, None), (1600.0, 4000.0), (3000.0, 4000.0), (3001.0, 900.0),
    (12_000.0, 900.0), (19_999.0, 300.0), (20_001.0, None)])  # fmt: skip
def test_a_crane_lifts_what_the_next_row_of_its_table_says(radius, lifts):
    crane = Crane("Mobile", (0.0, 0.0, 0.0), TABLE, nearest=1500.0)
    assert crane.problem() is None and crane.lifts(radius) == lifts
    assert replace(crane, nearest=0.0).lifts(0.0) == 4000.0, "inside the first ring its row counts"
    assert replace(crane, nearest=-1.0).problem()


@pytest.mark.parametrize(("table", "words"), [
    ((Reach(5000.0, 10.0), Reach(5000.0, 9.0)), "from row to row"), ((Reach(1.0, 10.0), Reach(9.0, 11.0)), "from row"),
    ((Reach(5000.0, 0.0),), "each row"), ((Reach(float("nan"), 5.0),), "each row"), ((TABLE * 30), "60 rows"),
])  # fmt: skip
def test_a_load_table_that_cannot_be_is_refused(table, words):
    assert words in Crane("Mobile", (0.0, 0.0, 0.0), table).problem()


def test_a_piece_is_lifted_from_where_it_lies_to_where_it_stands_by_the_best_crane():
    _, _, shop = erecting(boathouse(Units.IMPERIAL))
    near = Crane("Near", (0.0, 0.0, 0.0), (Reach(0.0, 9000.0), Reach(30_000.0, 9000.0)))
    weak = replace(near, name="Weak", table=(Reach(0.0, 90.0), Reach(60_000.0, 90.0)))
    yard = LayDown("Yard", ((90_000.0, 0.0, 0.0), (99_000.0, 0.0, 0.0), (99_000.0, 9000.0, 0.0)), ("2",))
    for a in shop.shipped.values():
        assert lift(a, [], []) is None and lift(a, [Crane("Bare", (0.0, 0.0, 0.0))], []) is None
        found = lift(a, [weak, near], [])
        assert found.crane is (near if found.lifts != 90.0 else weak) and found.takes(a.lifted) == (found.crane is near
            or a.lifted <= 90.0)  # fmt: skip
        assert found.radius == pytest.approx(math.dist(a.centre[:2], (0.0, 0.0)))
        assert (lift(a, [near], [yard]).lifts is None) == (lot_of(a) == "2" or found.radius > 30_000.0)


def test_the_site_plan_shows_reach_what_is_not_lifted_and_what_areas_bear():
    crane = Crane("Mobile", (-20 * FOOT, 20 * FOOT, 0.0), TABLE, nearest=5 * FOOT)
    yard = LayDown("Yard", tuple((x * FOOT, y * FOOT, 0.0) for x, y in ((-40, -20), (-10, -20), (-10, 0), (-40, 0))),
        ("2", "3"), 500.0)  # fmt: skip
    sheets, job, shop = erecting(boathouse(Units.IMPERIAL), crane, yard)
    entry, (sheet,) = sheets["SP1"]
    marks = {e.mark for e in entry.job.unlifted}
    beyond = {a.id for a in shop.shipped.values() if not lift(a, [crane], [yard]).takes(a.lifted)}
    assert {one.id for one in entry.job.unlifted} == beyond and 5 < len(beyond) < len(shop.shipped)
    heavy = [i for i in sheet.items if isinstance(i, Line) and i.layer is Layer.HEAVY]
    assert len(heavy) == len(beyond)
    said = [t.text for t in sheet.items if isinstance(t, Text)]
    assert all(mark in said for mark in marks) and any(words.startswith("MORE THAN THE 1102 lb") for words in said)
    rings = [w for w in said if re.match(r".+: \d+ lb$", w) and not w.startswith("LOT")]
    assert "NOT NEARER THAN 5'-0" in said
    radii = sorted(parse_length(w.partition(":")[0], Units.IMPERIAL) for w in rings)
    assert radii == pytest.approx([row.radius for row in TABLE], abs=0.8)
    assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0
    wanted = passes(lens_named(job, "crane is lifted").rule, job, shop)
    assert {a.id for a in shop.shipped.values() if not wanted(a)} == beyond


def test_schedules_and_site_plans_that_went_out_are_stale_with_the_reason_and_open_again(house):
    sheets, _, _ = house
    for name, change, words in (
        (
            "SC1",
            lambda job: {"tables": (replace(job.tables[0], rows=job.tables[0].rows[1:]), *job.tables[1:])},
            "1 row gone",
        ),
        ("SC1", lambda job: {"says": ()}, "notes changed"),
        ("CS1", lambda job: {"shafts": job.shafts[1:]}, "columns changed: "),
        ("CS1", lambda job: {"levels": job.levels[1:]}, "levels changed"),
    ):
        entry, drawn = sheets[name]
        assert opened(packed(entry.job, drawn))[0].content == entry.job.content
        assert reasons(entry.job, entry.job) == []
        (why,) = reasons(entry.job, replace(entry.job, **change(entry.job)))
        assert why.startswith(words)
