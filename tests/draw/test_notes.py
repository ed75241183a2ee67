"""What notes say of braces on gussets, of bases and of gages, held against the members as they are drawn."""

import math
import re
from collections import Counter

import pytest
from tests.conftest import marked

from uncus.catalog.sections import section, sections, usual_gage
from uncus.draw.bracing import OnGusset, on_gusset_words
from uncus.draw.notes import note_lines
from uncus.draw.register import register
from uncus.frame.numbers.kind import made as by_numbers
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.job.forms import checked
from uncus.job.records import Connection, End, Member, Project, Role, ShopRules
from uncus.job.start import SERIES
from uncus.sample.frames import connected
from uncus.steel.features import Face
from uncus.units import Units, parse_length


@pytest.mark.parametrize("which", ["sample", "metric_sample"])
def test_braces_say_the_slope_of_their_work_line_and_where_it_runs_on_the_angle(which, drawn, request):
    job, _shop = request.getfixturevalue(which)
    units, seen = job.project.units, set()
    for entry, sheets in drawn(which):
        if entry.kind != "assembly" or not (entry.job.role == "brace" or entry.job.subject.bracing):
            continue
        member, notes = job.get(entry.piece, Member), " ".join(note_lines(entry.job))
        rise = abs(member.end[2] - member.start[2]) / math.dist(member.start[:2], member.end[:2])
        if units is Units.METRIC:
            said = math.tan(math.radians(float(re.search(r"WORK LINE RISES ([\d.]+)°", notes)[1])))
        else:
            said, over = (
                12 if n == "12" else parse_length(n, units) / 25.4
                for n in re.search(r"WORK LINE RISES (.+?) IN (.+?)\.", notes).groups()
            )
            said /= over
        assert said == pytest.approx(rise, rel=0.01)
        main = entry.job.subject.main
        if main.section.name.startswith("L"):
            hole = next(h for h in main.holes if h.face.upright)
            gage = hole.w - main.depth_range[0]
            told = re.search(r"WORK LINE ON GAGE LINE, (.+?) FROM HEEL", notes)[1]
            assert parse_length(told, units) == pytest.approx(gage, abs=0.8) and "LEG ON" not in notes
        else:  # slotted: the welds at either slot, by symbol, in the view that shows it
            symbols = [s for sheet in sheets for s in sheet.spots if "|slot weld" in s.key]
            assert len(symbols) == 2 and all(s.key.startswith("top|") for s in symbols)
            assert all(any("4 AT" in words for words, _ in s.texts) for s in symbols)
            assert sum(w.number for w in entry.job.subject.end_welds) == 8
            assert Face.TOP in {n.face for n in main.notches}
        seen.add(main.section.form)
    assert len(seen) == 2


@pytest.mark.parametrize(
    ("on", "units", "words"),
    [
        ([OnGusset(0.5, 1.0)], Units.IMPERIAL, ["WORK LINE RISES 6 IN 12."]),
        ([OnGusset(1.0, 1.0)], Units.IMPERIAL, ["WORK LINE RISES 12 IN 12."]),
        ([OnGusset(1.0, 0.75), OnGusset(0.5, 1.0)], Units.IMPERIAL, ["WORK LINE RISES 12 IN 9 OR 6 IN 12."]),
        ([OnGusset(0.5, 1.0)], Units.METRIC, ["WORK LINE RISES 26.6°."]),
        ([OnGusset(0.0, 1.0)], Units.METRIC, []),
        ([OnGusset(0.0, 1.0, 120.0, 30.0, 65.0)], Units.METRIC,
            ["120 LEG ON GUSSETS.", "WORK LINE 30 FROM HEEL, GAGE LINE 65."]),
        ([OnGusset(0.0, 1.0, 0.0, 44.0, 44.45)], Units.IMPERIAL, ["WORK LINE ON GAGE LINE, 1 3/4 FROM HEEL."]),
    ],
)  # fmt: skip
def test_how_a_brace_lies_in_words(on, units, words):
    assert list(on_gusset_words(on, units)) == words


def test_gages_of_metric_legs_are_whole_and_those_of_the_catalogue():
    for name in sections():
        one = section(name)
        if one.family == "L EN" and one.gage and 30 <= one.d <= 200:
            assert usual_gage(one.d) == one.gage, name
    assert (usual_gage(80.0), usual_gage(110.0), usual_gage(250.0)) == (45, 60, 110)
    assert usual_gage(3 * 25.4) == pytest.approx(1.75 * 25.4) and usual_gage(101.6) == pytest.approx(2.5 * 25.4)


def test_columns_say_how_their_bases_are_levelled():
    """All that is asked of pieces of one mark, whichever of them stands where."""
    posts = [Member(id=f"p{n}", role=Role.COLUMN, section="W10X49", start=(3000 * n, 0, 0), end=(3000 * n, 0, 4000))
        for n in range(4)]  # fmt: skip
    asked = [{"grout": 38.1}, {"grout": 38.1}, {"grout": 38.1, "levelling": "plate"}, {"rows": 3}]
    bases = [Connection(id=f"b{m.id}", kind="base plate", member=m.id, end=End.LEFT, support=None, params=p)
        for m, p in zip(posts, asked, strict=True)]  # fmt: skip
    job, shop = marked([Project(), *SERIES, *posts, *bases])
    said = {n: note_lines(e.job) for e in register(job, shop) if e.kind == "assembly" for n in e.own}
    nuts, plate = (
        "BASE LEVELLED BY NUTS UNDER THE PLATE, 1 1/2 GROUT.",
        "BASE LEVELLED BY A LEVELLING PLATE, 1 1/2 GROUT.",
    )
    assert nuts in said["p0"] and said["p0"] == said["p1"] and plate not in said["p0"]
    assert plate in said["p2"] and nuts not in said["p2"]
    assert not [line for line in said["p3"] if "BASE" in line], "a joint that could not be made says nothing of it"


def truss_hall() -> list:
    """Two trusses of tubes between columns, all joined by rule."""
    kind = BY_NUMBERS["flat truss"]
    found: list = [Project(), ShopRules(), *SERIES]
    for y in (0.0, 5000.0):
        found += [Member(id=f"post {y} {x}", role=Role.COLUMN, section="W10X49", start=(x, y, 0), end=(x, y, 6400.0))
            for x in (0.0, 12_000.0)]  # fmt: skip
        values = checked(kind.params, {"inset": 250.0, "depth": 1200.0, "panels": 6})
        found += by_numbers(kind, values, [(0, y, 6000.0), (12_000.0, y, 6000.0)], Units.METRIC)
    return connected(found)


@pytest.mark.parametrize("which", ["sample", "metric_sample", "gallery_job", "truss"])
def test_the_bolts_and_site_welds_that_sheets_say_are_those_of_the_shop(which, request):
    """Over all sheets, each as often as its mark is required: neither more nor fewer than there are."""
    job, shop = marked(truss_hall()) if which == "truss" else request.getfixturevalue(which)
    said: Counter[tuple[str, str]] = Counter()
    for entry in register(job, shop):
        for line in note_lines(entry.job) if entry.kind == "assembly" else ():
            if found := re.match(r"(SHOP|SITE): (\d+) (BOLT|STUD|ANCHOR ROD|FILLET|GROOVE)", line):
                on = re.search(r", ON (\d+) OF \d+\.$", line)
                said[found[1], found[3].lower()] += int(found[2]) * (int(on[1]) if on else entry.job.required)
    there: Counter[tuple[str, str]] = Counter()
    for made in shop.connections.values():
        for group in made.fasteners:
            there["SITE" if group.field else "SHOP", str(group.kind)] += len(group.points)
        there.update(("SITE", str(weld.form).split()[-1]) for weld in made.welds if weld.field)
    assert said == there and sum(said.values()) > 30
