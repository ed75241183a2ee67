"""Tie rods: lengths and threads by hand, an X of them joined by rule in both units, its sheets, lists and strength."""

import itertools
import math

import numpy as np
import pytest
from msgspec.structs import replace

from uncus.bill.listing import all_lists
from uncus.bill.sources import Billing
from uncus.catalog.fittings import rod_fittings
from uncus.catalog.sections import Form, UnknownSection, section
from uncus.connect.kinds import KINDS
from uncus.connect.strength.design import design
from uncus.draw.drawn import draw_all
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.frame.numbers.bracing import BRACING, Params
from uncus.frame.numbers.kind import made
from uncus.job.job import Job
from uncus.job.records import Connection, Line, Loads, Member, Project, Role, ShopRules, Turnbuckle
from uncus.job.start import SERIES, usual_rules
from uncus.mark.marking import Marks, apply, propose
from uncus.sample.frames import connected
from uncus.shop.shop import build
from uncus.steel.features import Thread
from uncus.units import Units, format_length


def bay(units=Units.IMPERIAL, shape="X", rod="", **values):
    inch = units is Units.IMPERIAL
    column, beam, rod = ("W10X49", "W14X30", rod or "ROD1") if inch else ("HEB200", "IPE300", rod or "RD24")
    members = [Member(id=f"post {x}", role=Role.COLUMN, section=column, start=(x, 0, 0), end=(x, 0, 8000.0), roll=90.0)
        for x in (0.0, 6000.0)]  # fmt: skip
    members += [Member(id=f"beam {z}", role=Role.BEAM, section=beam, start=(0, 0, z), end=(6000.0, 0, z), line=Line.TOP)
        for z in (4000.0, 8000.0)]  # fmt: skip
    rods = made(BRACING, Params(section=rod, shape=shape, **values), [(0, 0, 0), (6000.0, 0, 4000.0)], units)
    rules = usual_rules(units)
    job = Job(connected([Project(units=units), rules, *SERIES, *members, *rods]))
    return job, build(job), [r.id for r in rods]


@pytest.mark.parametrize("text,d,kg", [("ROD3/4", 19.05, 2.2375), ("rod 1-1/4", 31.75, 6.2152), ("RD24", 24.0, 3.5513)])
def test_round_bars_of_any_size_are_sections(text, d, kg):
    s = section(text)
    assert s.form is Form.ROUND and s.d == s.b == pytest.approx(d)
    assert s.kg_m == pytest.approx(math.pi / 4 * d**2 * 7.85e-3) == pytest.approx(kg, rel=1e-4)


@pytest.mark.parametrize("text", ["ROD0", "ROD9", "RD7", "ROD1X2"])
def test_no_round_bar(text):
    with pytest.raises(UnknownSection):
        section(text)


_JOINTS = {"X": 4, "K up": 3, "K down": 2, "falling left to right": 2}


@pytest.mark.parametrize(("units", "shape"), itertools.product(Units, _JOINTS))
def test_rods_by_numbers_are_joined_by_rule_and_nothing_is_found(units, shape):
    job, shop, rods = bay(units, shape)
    assert [f.text for f in shop.all_findings if "tab is extended" not in f.text] == []
    assert len([c for c in job.all(Connection) if c.member in rods]) == _JOINTS[shape]


@pytest.mark.parametrize("units", list(Units))
def test_a_rod_is_as_long_as_its_pins_and_fittings_leave_it(units):
    """From pin to pin less both clevises' reach past the thread; both lengths and the turnbuckle's gap make it up."""
    job, shop, (one, other) = bay(units)
    name, fitting = ("1", rod_fittings()["1"]) if units is Units.IMPERIAL else ("M24", rod_fittings()["M24"])
    for id in (one, other):
        pieces = {p.words: p for p in shop.assemblies[id].pieces}
        pins = [g for g in shop.assemblies[id].holds if g.key == "pin"]
        apart = abs(float(pieces["brace"].placement.x @ np.subtract(*(g.points[0] for g in pins))))
        lengths = [pieces["brace"].part.length, pieces["second rod"].part.length]
        assert sum(lengths) + fitting.apart == pytest.approx(apart - 2 * (fitting.long - fitting.engage), abs=0.01)
        assert {g.size for g in pins} == {name} and all(g.grip == pytest.approx(fitting.over) for g in pins)
        kg = shop.assemblies[id].lifted
        assert kg == pytest.approx(sum(lengths) / 1000 * section(shop.assemblies[id].member.section).kg_m
            + 2 * fitting.kg + fitting.sleeve_kg, rel=1e-6)  # fmt: skip
        hands = {t.left_handed for p in (pieces["brace"], pieces["second rod"]) for t in p.part.threads}
        sleeve = {pieces[w].part.threads[k].left_handed for w, k in (("brace", 1), ("second rod", 0))}
        assert hands == sleeve == {True, False}, "turned, the turnbuckle draws both lengths in"
    apply(job, propose(job, shop))
    marks = Marks(job)
    assert marks.of_assembly(one) == marks.of_assembly(other) != "", "rods that cross are one piece twice"


def test_a_rod_in_one_length_has_threads_of_both_hands():
    _, shop, (one, _) = bay(turnbuckles="turned themselves")
    (rod, *rest) = shop.assemblies[one].pieces
    assert [p.words for p in rest] == ["clevis", "clevis"]
    assert sorted((t.right, t.left_handed) for t in rod.part.threads) == [(False, False), (True, True)]
    assert Thread(True, 1.0, False) not in rod.part.threads


def test_sheets_and_lists_of_rods():
    job, shop, (one, _) = bay()
    apply(job, propose(job, shop))
    marks = Marks(job)
    mark = marks.of_assembly(one)
    entry = next(e for e in register(job, shop) if e.name == mark)
    said = " ".join(p.text for sheet in draw_all(entry.job) for p in sheet.items if isinstance(p, Text))
    pins = [g.points[0] for g in shop.assemblies[one].holds if g.key == "pin"]
    apart = abs(float(shop.assemblies[one].main.placement.x @ np.subtract(*pins)))
    assert format_length(apart, Units.IMPERIAL) in said
    assert said.count("THREAD 1 x") == 4 and said.count("LEFT HAND") == 1
    lists = {table.name: table.rows for table in all_lists(Billing(job, shop, marks))}
    bought = {str(row) for name, rows in lists.items() if "bought" in name for row in rows}
    assert len(bought) == 2 and any("CLEVIS 1" in r for r in bought) and any("TURNBUCKLE 1" in r for r in bought)


@pytest.mark.parametrize(("units", "capacity"), [(Units.IMPERIAL, 0.75 * 0.75 * 58 * 6.894757 * math.pi / 4 * 25.4**2),
    (Units.METRIC, 0.85 * 0.9 * 430 * 353.0 / 1.25)])  # fmt: skip
def test_the_thread_of_a_rod_by_hand(units, capacity):
    """AISC 360-22 J3.7: 0.75 F_u A_b, phi 0.75, A36; EN 1993-1-8 table 3.4 with 0.85 for cut threads, S275."""
    job, shop, (one, _) = bay(units)
    id = next(c.id for c in job.records.values() if getattr(c, "member", "") == one)
    joint = shop.joint(id)
    found = design(replace(joint, record=replace(joint.record, loads=Loads(axial=10_000.0))), shop.connections[id],
        KINDS[joint.record.kind])  # fmt: skip
    by = {limit.where: limit for limit in found.limits}
    assert by["rod"].capacity == pytest.approx(capacity, rel=1e-6)
    assert {"pin of the clevis", "gusset beside the pin", "gusset past the pin"} <= by.keys()
    assert "the clevis and the turnbuckle" in " ".join(found.unchecked)
    pushed = design(replace(joint, record=replace(joint.record, loads=Loads(axial=-10_000.0))), shop.connections[id],
        KINDS[joint.record.kind])  # fmt: skip
    assert pushed.used > 1, "a rod cannot push"


@pytest.mark.parametrize(
    ("rod", "at", "words"),
    [("W8X31", None, "round bar"), ("ROD2-1/8", None, "round bar"), ("ROD1", 50.0, "too near an end")],
)
def test_what_has_no_turnbuckle_is_told(rod, at, words):
    one = Member(id="v", role=Role.BRACE, section=rod, start=(0, 0, 0), end=(3000.0, 0, 4000.0),
        turnbuckle=Turnbuckle(at))  # fmt: skip
    shop = build(Job([Project(), ShopRules(), one]))
    assert any(words in f.text for f in shop.all_findings)
