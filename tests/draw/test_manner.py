"""How an office dimensions: the same places, said from another end, one from the next, or off another edge."""

from itertools import pairwise

import pytest
from msgspec.structs import replace

from uncus.draw.annotation import Chain
from uncus.draw.drawn import draw_all
from uncus.draw.legibility import legibility
from uncus.draw.preset import USUAL
from uncus.draw.rules import Sayings
from uncus.draw.seen import Seen
from uncus.job.drawings import MANNERS, SheetPreset


def chains(job, preset):
    sayings, found = Sayings(), {}
    for name in sorted(job.subject.views, key=lambda n: n != "front"):
        found |= {a.key: a for a in sayings.of(Seen(job.subject, name, job.units, preset)) if isinstance(a, Chain)}
    return found


@pytest.fixture(scope="module")
def pieces(drawn):
    """Assemblies and rolled parts of both samples, with holes and plates that stand across."""
    jobs = [e.job for which in ("sample", "metric_sample") for e, _ in drawn(which) if e.kind in ("assembly", "part")]
    return [job for job in jobs if job.subject.main.section is not None][::2]


@pytest.mark.parametrize("along", MANNERS["along"])
@pytest.mark.parametrize("start", MANNERS["start"])
def test_positions_along_are_the_same_places_in_every_manner(pieces, along, start):
    """From the right end each figure is the length less the one from the left; steps add up to what they stood for."""
    told = 0
    for job in pieces:
        preset, length = replace(USUAL, along=along, start=start), job.subject.main.length
        usual, asked = chains(job, USUAL), chains(job, preset)
        assert usual.keys() == asked.keys()
        for key, one in usual.items():
            other = asked[key]
            if not (one.how == "running" and one.along_u):
                assert {s.at for s in one.stops} == {s.at for s in other.stops} or "gage" in key or "along" in key
                continue
            if abs(one.stops[0].at) > 0.05 and start == "right end":
                continue  # begins elsewhere than at an end, and goes on doing so
            first = length if start == "right end" else one.stops[0].at
            places = {round(s.at, 3) for s in other.stops} - {round(first, 3)}
            if key != "front|along":  # plates' other edges are nearer from the other end
                assert places == {round(s.at, 3) for s in one.stops[1:] if abs(s.at - first) > 0.05}, key
            if along == "running":
                assert other.how == "running" and other.stops[0].at == pytest.approx(first)
            else:
                assert other.how == "steps" and any(s.at == pytest.approx(first) for s in other.stops)
                values = sorted(other.places)
                assert sum(b - a for a, b in pairwise(values)) == pytest.approx(values[-1] - values[0])
            told += 1
    assert told > 20


def test_plates_are_set_out_to_their_middles_and_rows_from_the_bottom_where_asked(pieces):
    middles = rows = 0
    for job in pieces:
        main, fixed = job.subject.main, {f.id: f for f in job.subject.fixed}
        for key, chain in chains(job, replace(USUAL, plates="middle")).items():
            for stop in chain.stops if key == "front|along" else ():
                id, _, what = stop.key.rpartition("|")
                if id in fixed and what == "middle":
                    assert stop.at == pytest.approx(float(fixed[id].centre[0]), abs=0.01)
                    middles += 1
        usual, low = chains(job, USUAL), main.depth_range[0]
        for key, chain in chains(job, replace(USUAL, gages="bottom")).items():
            if key.startswith("front|gage") and "top" in {s.key for s in usual[key].stops}:
                assert chain.stops[-1].key == "bottom" and chain.stops[-1].at == pytest.approx(low) and chain.to_edge
                assert [s.at for s in chain.stops[:-1]] == [s.at for s in usual[key].stops if s.key != "top"]
                rows += 1
    assert middles > 5 and rows > 10


def test_skewed_plates_give_their_bevel_where_asked(drawn):
    """12 in the run, the rise by the tangent; past half a right angle from square to it."""
    seen = 0
    for entry, _ in drawn("gallery_job"):
        lean = (
            [f for f in getattr(entry.job, "subject", None).fixed if f.normal == ""] if entry.kind == "assembly" else []
        )
        if not lean or entry.job.subject.main.section is None:
            continue
        plain, asked = (
            [t for s in draw_all(replace(entry.job, preset=p)) for spot in s.spots for t, _ in spot.texts]
            for p in (entry.job.preset, replace(entry.job.preset, twelfths=True))
        )
        degrees = [t for t in plain if "TURNED" in t and "DEG" in t]
        assert not [t for t in asked if "TURNED" in t and "DEG" in t]
        assert len([t for t in asked if "TURNED" in t and " IN 12" in t]) == len(degrees)
        seen += len(degrees)
        if any("TURNED 45.0 DEG" in t for t in degrees):
            assert any("TURNED 1'-0 IN 12" in t for t in asked)
    assert seen > 2


@pytest.mark.parametrize("manner", [{"along": "each from the next"}, {"start": "right end"}, {"gages": "bottom"}])
def test_sheets_read_as_well_in_any_manner(pieces, manner):
    """No text on text; what is not dimensioned twice in the usual manner is not in another."""
    for job in pieces[::8]:
        for sheet in draw_all(replace(job, preset=replace(USUAL, **manner))):
            assert legibility(sheet).on_text == 0, job.name


def test_a_manner_that_there_is_not_is_refused():
    assert "along is one of: running" in SheetPreset(name="x", along="sideways").problem()
