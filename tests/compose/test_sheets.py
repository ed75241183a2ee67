"""Sheets of what is made of many parts: every mark is on a view, figures lie on nothing, and what stands round an axis,
climbs or is a rung is set out by angles, heights and places that come from how it was asked for."""

import math
import re

import pytest

from tests.compose.cases import CASES, IDS
from tests.compose.test_kinds import composite, job_of
from tests.conftest import marked
from uncus.compose.making import given_to
from uncus.compose.winding import laid_out
from uncus.draw.drawn import draw_all
from uncus.draw.legibility import culprits, legibility
from uncus.draw.legs import corners_of, legs_of, lines_of
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.job.records import Member
from uncus.units import Units, format_length

_DRAWN = [0, 9, 11, 13, 15, 28, 36]  # flight, round a post, between two stringers, rails, ladder, hopper
_TURNING = {14: 4, 18: 2, 19: 4, 22: 4, 26: 2}  # rails, and how many legs they have


@pytest.mark.parametrize("case", _DRAWN, ids=[IDS[n] for n in _DRAWN])
def test_an_assembly_is_told_whole_on_a_sheet_that_reads(case):
    kind, points, params = CASES[case]
    record = composite(kind, points, params)
    job, shop = marked(job_of(record).records.values())
    entry = max((e for e in register(job, shop) if e.kind == "assembly"), key=lambda e: len(e.job.subject.fixed))
    sheets = draw_all(entry.job)
    texts = [t.text for s in sheets for t in s.items if isinstance(t, Text)]
    for s in sheets:
        assert legibility(s).clean, (legibility(s), culprits(s))
    assert not [t for t in texts if re.search(r"= 0$|^0$|^0 @", t)], "a step of nothing"
    words = {w for t in texts for w in t.split()}
    assert {mark for mark, _, _ in entry.job.bill[1:]} <= words
    assert len([t for t in texts if t.startswith("SECTION")]) <= 1, "like parts are not cut one by one"
    if kind == "winding stair":
        wound = laid_out(given_to(record, job.records))
        turns = sorted(float(t[:-1]) for t in texts if re.fullmatch(r"[\d.]+°", t))
        steps = {round(b - a, 1) for a, b in zip(turns, [*turns[1:], turns[0] + 360.0], strict=True)}
        assert len(turns) == wound.risers - 1
        assert any(abs(s - math.degrees(abs(wound.step))) < 0.11 for s in steps) and len(steps) <= 3
        way = "ANTICLOCKWISE" if wound.hand > 0 else "CLOCKWISE"
        assert any(t.endswith(f"EVERY {math.degrees(abs(wound.step)):.2f}° {way}") for t in texts)
    if case == 11:  # tops of treads, from the underside of the base plates
        tops = [format_length(n * wound.rise, Units.IMPERIAL) for n in range(1, wound.risers)]
        assert set(tops) <= set(texts)
    if kind == "ladder":
        rungs = sorted(m.start[2] for m in job.all(Member) if m.section.startswith("ROD"))
        foot = min(m.start[2] for m in job.all(Member) if not m.section.startswith("ROD"))
        assert {format_length(z - foot, Units.IMPERIAL) for z in rungs} <= set(texts)


@pytest.mark.parametrize("case", _TURNING, ids=[IDS[n] for n in _TURNING])
def test_a_rail_is_drawn_leg_by_leg_and_its_corners_are_set_out_as_asked(case):
    record = composite(*CASES[case])
    job, shop = marked(job_of(record).records.values())
    entry = max((e for e in register(job, shop) if e.kind == "assembly"), key=lambda e: len(e.job.subject.fixed))
    subject = entry.job.subject
    legs = legs_of(subject, entry.job.bill[0][0])
    assert sorted(n for leg in legs for n in leg.numbers) == list(range(1, _TURNING[case] + 1))
    assert sum(len(leg.numbers) * (1 + len(leg.subject.fixed)) for leg in legs) == 1 + len(subject.fixed)
    for leg in legs:  # what is drawn of a leg lies in its plane
        assert all(abs(float(f.centre[1])) < 120.0 for f in leg.subject.fixed if f.is_member), leg.numbers
    sheets = draw_all(entry.job)
    texts = [t.text for s in sheets for t in s.items if isinstance(t, Text)]
    for s in sheets:
        assert legibility(s).clean and not s.lost, (legibility(s), culprits(s))
    assert {mark for mark, _, _ in entry.job.bill} <= {w for t in texts for w in t.split()}
    if not record.params.get("removable"):  # corners lie as far apart as those of the path, whichever way it is turned
        corners, path = corners_of(lines_of(legs)), [a.at[:2] for a in record.anchors]
        inner = list(zip(corners, corners[1:], strict=False))[1:-1]
        inner_path = list(zip(path, path[1:], strict=False))[1:-1]
        aside = abs(record.params.get("aside", 0.0))
        for (a, b), (p, q) in zip(inner, inner_path, strict=True):
            assert math.dist(a, b) == pytest.approx(math.dist(p, q), abs=2 * aside + 1.0)


@pytest.mark.parametrize("hand", ["to the left", "to the right"])
def test_a_climbing_stringer_tells_how_it_is_rolled(hand):
    record = composite(*CASES[9][:2], {"hand": hand})
    job, shop = marked(job_of(record).records.values())
    entry = next(e for e in register(job, shop) if e.kind == "part" and e.job.subject.rolled_as
        and e.job.subject.rolled_as.coil)  # fmt: skip
    sheet = draw_all(entry.job)[0]
    texts = [t.text for t in sheet.items if isinstance(t, Text)]
    coil, part = entry.job.subject.rolled_as.coil, entry.job.subject.rolled_as
    assert f"R {format_length(coil.radius, Units.IMPERIAL)}, TURNS {math.degrees(coil.turn(part.length)):.1f}°" in texts
    plan = next(f for f in sheet.frames if f.name == "as formed, plan")
    assert (plan.box[2] - plan.box[0]) * plan.scale == pytest.approx(2 * (coil.radius + 4.8), abs=12.0)
    assert {"PLAN, AS ROLLED", "ELEVATION, AS ROLLED"} <= set(texts) and legibility(sheet).clean
