"""Bars and sheets as they are cut, looked at again by other means: nothing overlaps, nothing is lost, nothing is of
another section; how near the least there can be, in figures."""

import io
import itertools
import random
from collections import Counter

import ezdxf
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from uncus.bill.nesting.bars import Cut, cuts_of, mill_order, nest, offcuts_of, stock_for
from uncus.bill.nesting.patterns import Bar, Want, cutting
from uncus.bill.nesting.pictures import bar_pages, plate_pages
from uncus.bill.nesting.plates import Blank, blanks_of, nest_plates
from uncus.deliver.nest_dxf import nest_dxf
from uncus.job.billing import Offcut, PlateSize, StockLength, StockRules
from uncus.job.job import Job
from uncus.job.records import Member, Role
from uncus.mark.marking import Marks
from uncus.shop.shop import build
from uncus.units import Units

HAIR = 1e-6


def held_against(found, cuts, rules):
    """Every cut is on one bar of its own section and grade, within what the saw reaches, a kerf from the next."""
    laid = Counter(one.cut.id for bar in found.bars for one in bar.laid)
    assert set(laid.values()) <= {1} and laid.keys() <= {c.id for c in cuts}
    for bar in found.bars:
        assert all((c.cut.section, c.cut.grade) == (bar.section, bar.grade) for c in bar.laid)
        assert not rules.by_lot or {c.cut.lot for c in bar.laid} == {bar.lot}
        assert not rules.most or len(bar.laid) <= rules.most
        assert bar.laid[0].at >= rules.trim - HAIR
        assert bar.laid[-1].at + bar.laid[-1].cut.length <= bar.length - rules.grip + HAIR
        for a, b in itertools.pairwise(bar.laid):
            saved = rules.kerf + a.at + a.cut.length - b.at
            assert saved <= HAIR or (
                rules.mitres and a.cut.saves == pytest.approx(b.cut.saves) and saved <= a.cut.saves + 0.011
            )
        for a, b, c in zip(bar.laid, bar.laid[1:], bar.laid[2:], strict=False):  # of a pair one end alone is shared
            shared = [x.at + x.cut.length + rules.kerf - y.at > HAIR for x, y in ((a, b), (b, c))]
            assert not (b.cut.pairs and all(shared))
    return laid


cuts = st.lists(
    st.tuples(st.floats(150, 11000), st.integers(1, 6), st.sampled_from(["W12X26", "L4X4X1/4"]), st.sampled_from("12"),
        st.sampled_from([(0.0, False, False), (120.0, False, True), (80.0, True, True), (60.0, False, False)])),
    min_size=1, max_size=7,
)  # fmt: skip
rules = st.builds(
    StockRules,
    kerf=st.floats(0, 10),
    trim=st.floats(0, 50),
    grip=st.floats(0, 300),
    most=st.sampled_from([0, 0, 1, 4]),
    mitres=st.booleans(),
    by_lot=st.booleans(),
    lengths=st.sampled_from([
        (StockLength(6096.0), StockLength(12192.0)),
        (StockLength(12192.0, number=2), StockLength(9144.0, "W", price=3.0), StockLength(6096.0, "W", price=2.0)),
    ]),
)  # fmt: skip


@settings(max_examples=25)
@given(cuts, rules)
def test_what_is_cut_lies_on_its_bar(some, rules):
    all_ = [
        Cut(f"{n}.{k}", f"m{n}", section, "A992", long, lot, min(saves, long / 2), pairs, turns)
        for n, (long, number, section, lot, (saves, pairs, turns)) in enumerate(some)
        for k in range(number)
    ]
    offcut = Offcut(mark="R1", section="W12X26", grade="A992", length=4000.0)
    found = nest(all_, rules, [offcut])
    laid = held_against(found, all_, rules)
    told = sum(int(words.split()[0]) for words in found.told)
    assert len(laid) + told == len(all_), found.told
    assert found.over_bound >= -1e-9 and 0.0 <= found.drop < 1.0
    for group in found.groups:
        assert group.cost >= group.bound - 1e-6
    for s in rules.lengths:
        used = sum(b.length == s.length and not b.offcut and b.section.startswith(s.section or "L") for b in found.bars)
        assert not s.number or used <= s.number * 2  # of each section apart
    assert sum(b.offcut == "R1" for b in found.bars) <= 1
    kept = offcuts_of(found, rules, "n1", [offcut])
    names = [o.mark for o in kept]
    assert len(set(names)) == len(names) and all(o.used or o.length >= rules.kept for o in kept)
    assert sum(n for _, _, _, n, _ in mill_order(found)) == sum(not b.offcut for b in found.bars)


@pytest.mark.parametrize("seed", [1, pytest.param(2, marks=pytest.mark.long), pytest.param(3, marks=pytest.mark.long)])
def test_two_thousand_cuts_of_forty_lengths_are_within_a_hundredth_of_the_least(seed):
    lot = random.Random(seed)
    wants = [Want(lot.uniform(600, 9000) + 3.2, 50) for _ in range(40)]
    stock = [Bar(long - 9.5, long) for long in (6096.0, 12192.0, 18288.0)]
    found = cutting(wants, stock)
    assert found.cost <= 1.01 * found.bound and not any(found.short)
    assert [sum(p.made(n) * times for p, times in found.bars) for n in range(40)] == [50] * 40
    assert found.bound >= sum(w.width * w.number for w in wants) - HAIR, "no less than what is cut"


def test_the_cheaper_stock_is_bought_and_head_to_tail_saves():
    lengths = StockLength(6000.0, price=1.0), StockLength(12000.0, price=1.5)
    plain = StockRules(lengths=lengths, kerf=0.0, trim=0.0, mitres=True)
    cuts = [Cut(str(n), "m1", "W12X26", "A992", 3000.0) for n in range(4)]
    assert [b.length for b in nest(cuts, plain).bars] == [6000.0, 6000.0]
    leaning = [Cut(str(n), "m1", "W12X26", "A992", 1600.0, "", 200.0, False, True) for n in range(4)]
    (bar,) = nest(leaning, plain).bars
    assert [one.at for one in bar.laid] == pytest.approx([0.0, 1400.0, 2800.0, 4200.0])
    assert [one.turned for one in bar.laid] == [False, True, False, True]
    assert len(list(nest(leaning, StockRules(lengths=lengths, kerf=0.0, trim=0.0, mitres=False)).bars)) == 2


def test_stock_is_that_said_of_a_section_and_grade():
    short, wide, best, long = (
        StockLength(6000.0), StockLength(9000.0, "W"), StockLength(12000.0, "W12", "A992"), StockLength(15000.0, "W12"),
    )  # fmt: skip
    rules = StockRules(lengths=(short, wide, best, long))
    for section, grade, wanted in (
        ("L4X4X1/4", "A36", [short]), ("W16X36", "A992", [wide]), ("W12X26", "A992", [best]), ("W12X26", "A36", [long]),
    ):  # fmt: skip
        assert stock_for(rules, section, grade) == wanted


@pytest.mark.parametrize("which", ["sample", "metric_sample"])
def test_a_whole_job_is_nested_and_drawn(which, request):
    job, shop = request.getfixturevalue(which)
    marks, rules = Marks(job, shop.carried), job.stock
    unit = 1000.0 if job.project.units is Units.METRIC else 304.8
    assert all(s.length / unit == pytest.approx(round(s.length / unit)) for s in rules.lengths), "round figures"
    cuts = cuts_of(shop.shipped.values(), lambda p: marks.of_part(p.id))
    blanks = {b.id for b in blanks_of(shop.shipped.values(), lambda p: marks.of_part(p.id))}
    made = {p.id for a in shop.shipped.values() for p in a.pieces if p.part.item is None and not p.part.is_grating}
    assert blanks | {c.id for c in cuts} == made and not blanks & {c.id for c in cuts}, "each is bought once"
    found = nest(cuts, rules, units=job.project.units)
    assert sum(held_against(found, cuts, rules).values()) == len(cuts) and not found.told
    assert sum(b.used for b in found.bars) == pytest.approx(sum(c.length for c in cuts))
    marked = {c.mark for c in cuts if c.length > 1000}
    words = {i.text for page in bar_pages(found, job.project.units, "x") for i in page.items if hasattr(i, "text")}
    assert marked <= words


def apart(found, rules):
    for sheet in found.sheets:
        inside = shapely.box(0, 0, sheet.long, sheet.wide).buffer(-rules.margin + 0.01, join_style="mitre")
        for n, one in enumerate(sheet.plates):
            assert inside.contains(one.outline)
            assert one.outline.area == pytest.approx(one.blank.outline.area)
            assert (one.blank.grade, one.blank.thickness) == (sheet.grade, sheet.thickness)
            assert all(one.outline.distance(other.outline) >= rules.gap - 0.01 for other in sheet.plates[:n])
    return Counter(p.blank.id for s in found.sheets for p in s.plates)


def odd(lot, n):
    w, h = lot.uniform(60, 700), lot.uniform(60, 600)
    shapes = [
        [(0, 0), (w, 0), (0, h)],
        [(0, 0), (w, 0), (w * 0.6, h), (w * 0.1, h)],
        [(0, 0), (w, 0), (w, h * 0.3), (w * 0.3, h), (0, h)],
        [(0, 0), (w, 0), (w, h), (0, h)],
    ]
    return Blank(str(n), f"p{n}", lot.choice(["A36", "A572-50"]), 9.53, shapely.Polygon(lot.choice(shapes)))


@pytest.mark.parametrize("seed", range(3))
def test_plates_lie_apart_on_their_sheets_and_true_outlines_take_less(seed):
    lot = random.Random(seed)
    rules = StockRules(plates=(PlateSize(3048.0, 1524.0), PlateSize(1500.0, 900.0, number=1)), turns=4)
    blanks = [odd(lot, n) for n in range(30)]
    found = nest_plates(blanks, rules)
    assert apart(found, rules) == Counter(b.id for b in blanks) and not found.told
    boxes = [Blank(b.id, b.mark, b.grade, b.thickness, shapely.box(*b.outline.bounds)) for b in blanks]
    sheets = nest_plates(boxes, rules).sheets
    assert sum(s.long * s.wide for s in found.sheets) <= sum(s.long * s.wide for s in sheets)


def test_small_plates_lie_inside_openings_where_they_may():
    ring = shapely.box(0, 0, 1400, 1400).difference(shapely.box(200, 200, 1200, 1200))
    blanks = [Blank("ring", "p1", "A36", 10.0, ring), *(
        Blank(str(n), "p2", "A36", 10.0, shapely.box(0, 0, 300, 300)) for n in range(4))]  # fmt: skip
    rules = StockRules(plates=(PlateSize(1524.0, 1524.0),))
    assert len(nest_plates(blanks, rules).sheets) == 1
    without = StockRules(plates=(PlateSize(1524.0, 1524.0),), inside=False)
    found = nest_plates(blanks, without)
    assert len(found.sheets) == 2
    big = nest_plates([Blank("big", "p9", "A36", 10.0, shapely.box(0, 0, 9000, 100))], rules)
    assert not big.sheets and "p9" in big.told[0]


def test_a_jobs_plates_are_cut_from_the_dxf_as_they_are(sample):
    job, shop = sample
    marks, rules = Marks(job, shop.carried), StockRules()
    blanks = blanks_of(shop.shipped.values(), lambda p: marks.of_part(p.id))
    found = nest_plates(blanks, rules)
    assert apart(found, rules) == Counter(b.id for b in blanks)
    sheet = found.sheets[0]
    document = ezdxf.read(io.StringIO(nest_dxf(sheet).decode()))
    assert not document.audit().has_errors
    space = document.modelspace()
    assert sorted(t.dxf.text for t in space.query("TEXT")) == sorted(p.blank.mark for p in sheet.plates)
    holes = sum(len(p.blank.part.holes) for p in sheet.plates)
    round_ = sum(not h.slot for p in sheet.plates for h in p.blank.part.holes)
    assert len(space.query("CIRCLE[layer=='CUT']")) == round_ <= holes
    areas = sorted(
        shapely.Polygon([tuple(v)[:2] for v in ezdxf.path.make_path(e).flattening(0.01)]).area
        for e in space.query("LWPOLYLINE[layer=='CUT']")
        if e.is_closed
    )
    whole = sorted(p.blank.outline.area for p in sheet.plates)
    assert areas[-1] == pytest.approx(whole[-1], rel=2e-3)
    assert len(plate_pages(found, Units.IMPERIAL, "x")) == len(found.sheets)


@pytest.mark.parametrize(("section", "bars", "plates"), [("FL100X12", 1, 0), ("PL3/4X14", 0, 1), ("W12X26", 1, 0)])
def test_a_length_of_flat_is_a_bar_and_a_strip_of_plate_is_cut_from_one(section, bars, plates):
    shop = build(Job([Member(id="f", role=Role.BEAM, section=section, start=(0, 0, 0), end=(3000, 0, 0))]))
    assemblies = list(shop.shipped.values())
    assert len(cuts_of(assemblies, lambda p: p.id)) == bars and len(blanks_of(assemblies, lambda p: p.id)) == plates
