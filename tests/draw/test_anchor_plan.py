"""The anchor plan set out again from what is printed on it alone: every rod where the model has it."""

import math
import re
from collections import Counter

import msgspec
import numpy as np
import pytest
from tests.conftest import marked

from uncus.draw.bases import bases
from uncus.draw.drawn import draw_all
from uncus.draw.issue import opened, packed, reasons
from uncus.draw.legibility import legibility
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.frame.grids import crossings, runs
from uncus.job.records import Connection, Grid, Member
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame as regular
from uncus.steel.joint import FastenerKind
from uncus.units import SIXTEENTH, Units, format_elevation, parse_length

JOBS = {
    "imperial": lambda: boathouse(Units.IMPERIAL),
    "metric": lambda: boathouse(Units.METRIC),
    "regular": lambda: regular(3, 2),
}


def moved_off(records):
    """One column set off its crossing both ways and turned, another set lower."""
    plates = [r for r in records if isinstance(r, Connection) and r.kind == "base plate"]
    of = {r.id: r for r in records if isinstance(r, Member)}
    first, second = (of[p.member] for p in plates[:2])
    dx, dy = 3.25 * 25.4, -1.5 * 25.4
    shifted = msgspec.structs.replace(first, roll=first.roll + 30.0,
        start=(first.start[0] + dx, first.start[1] + dy, first.start[2]),
        end=(first.end[0] + dx, first.end[1] + dy, first.end[2]))  # fmt: skip
    low = [list(p) for p in (second.start, second.end)]
    min(low, key=lambda p: p[2])[2] -= 152.4
    lowered = msgspec.structs.replace(second, start=tuple(low[0]), end=tuple(low[1]))
    return [{first.id: shifted, second.id: lowered}.get(r.id, r) for r in records]


@pytest.fixture(scope="module", params=[*JOBS, "off"])
def plan(request):
    records = moved_off(JOBS["imperial"]()) if request.param == "off" else JOBS[request.param]()
    job, shop = marked(records)
    (entry,) = (e for e in register(job, shop) if e.title == "anchor plan")
    return job, shop, entry, draw_all(entry.job)


def read_off(entry, sheet, base, grid):
    """Where a base is by the words beside it and the grid."""
    said = [t for s in sheet.spots if s.key.startswith(f"plan|off {base.id} ") for t, _ in s.texts]
    lines = {run.label: run for run in runs(grid)}
    near = min(crossings(grid), key=lambda c: math.dist(c[1:], base.at))  # as the eye takes it from the drawing
    x, y = near[1:]
    for words in said:
        found = re.fullmatch(r"(.+) ([NSEW]) OF (.+)", words)
        if not found:
            continue
        away, way, label = found.groups()
        length = parse_length(away, entry.job.units)
        run = lines[label]
        spot = run.nearest(*base.at)
        if way in "EW":
            x = spot[0] + (length if way == "E" else -length)
        else:
            y = spot[1] + (length if way == "N" else -length)
    return np.array([x, y])


def test_every_rod_is_where_the_sheets_set_it_out(plan):
    job, shop, entry, sheets = plan
    grid = next(iter(job.all(Grid)))
    kinds, off = dict(entry.job.kinds), SIXTEENTH + 0.1 if entry.job.units is Units.IMPERIAL else 0.6
    rods = {tuple(np.round(p[:2], 2)) for a in shop.assemblies.values() for h in a.holds if h.kind is FastenerKind.ROD
        and -h.axis[2] > 0.999 for p in h.points}  # fmt: skip
    left = np.array(sorted(rods))
    for base in entry.job.bases:
        middle = read_off(entry, sheets[0], base, grid)
        assert middle == pytest.approx(base.at, abs=off)
        turn = math.radians(base.turn)
        c, s = math.cos(turn), math.sin(turn)
        for u, w in kinds[base.kind].rods:
            at = middle + (c * u - s * w, s * u + c * w)
            away = np.hypot(*(left - at).T)
            assert away.min() < 1.5 * off
            left = np.delete(left, int(away.argmin()), axis=0)
    assert not len(left)


def test_details_give_each_kind_its_plate_rods_and_dimensions_and_all_can_be_read(plan):
    _, _, entry, sheets = plan
    said = Counter(t.text for s in sheets[1:] for t in s.items if isinstance(t, Text))
    numbers = Counter(b.kind for b in entry.job.bases)
    assert list(numbers.values()) and sorted(numbers) == sorted(letter for letter, _ in entry.job.kinds)
    for letter, kind in entry.job.kinds:
        assert said[f"{letter}: {numbers[letter]} REQUIRED"] == 1
        assert any(text.startswith(f"{len(kind.rods)} RODS {kind.size} {kind.grade}") for text in said)
        assert kind.stands > kind.thickness and all(abs(u) < kind.wide[0] / 2 for u, _ in kind.rods)
    for sheet in sheets:
        assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0
    assert [s.name for s in sheets] == [f"AP1 ({n})" for n in range(1, len(sheets) + 1)] and len(sheets) >= 2


def test_a_base_that_stands_lower_says_its_height_and_one_off_its_lines_how_far():
    job, shop = marked(moved_off(boathouse(Units.IMPERIAL)))
    (entry,) = (e for e in register(job, shop) if e.title == "anchor plan")
    said = {t.text for t in draw_all(entry.job)[0].items if isinstance(t, Text)}
    assert any(re.match(r"3 1/4 [EW] OF", text) for text in said) and any(re.match(r"1 1/2 [NS] OF", t) for t in said)
    low = min(base.under for base in entry.job.bases)
    assert format_elevation(low, Units.IMPERIAL) in said


def test_an_anchor_plan_that_went_out_is_stale_with_the_reason_and_its_copy_opens(plan):
    _, _, entry, sheets = plan
    old = entry.job
    assert opened(packed(old, sheets))[0].content == old.content
    base = old.bases[0]
    for change, words in (
        ({"at": (base.at[0] + 5.0, base.at[1])}, "1 bases moved"),
        ({"under": base.under - 10.0}, "1 bases moved"),
        ({"turn": base.turn + 90.0}, "1 bases turned"),
        ({"mark": "X9"}, "1 bases marked otherwise"),
    ):
        new = msgspec.structs.replace(old, bases=(msgspec.structs.replace(base, **change), *old.bases[1:]))
        assert reasons(old, new) == [words]
    assert reasons(old, msgspec.structs.replace(old, bases=old.bases[1:])) == ["1 bases gone"]
    thicker = ((old.kinds[0][0], msgspec.structs.replace(old.kinds[0][1], thickness=99.0)), *old.kinds[1:])
    number = sum(b.kind == old.kinds[0][0] for b in old.bases)
    assert reasons(old, msgspec.structs.replace(old, kinds=thicker)) == [f"{number} bases of another kind"]


def test_the_kind_there_is_most_of_is_the_first():
    _, shop = marked(boathouse(Units.IMPERIAL))
    found, kinds = bases((a.id, a) for a in shop.assemblies.values())
    numbers = Counter(b.kind for b in found)
    assert [name for name, _ in kinds] == [f"BP{n}" for n in range(1, len(kinds) + 1)]
    assert [numbers[name] for name, _ in kinds] == sorted(numbers.values(), reverse=True)
