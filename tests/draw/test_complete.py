"""What the shop needs is on the sheet: every hole and cut of every part can be set out from the printed figures
alone."""

import math
import re
from collections import Counter
from itertools import pairwise

import msgspec
import numpy as np
import pytest
from tests.conftest import marked
from tests.draw.reading import Reader

from uncus.bill.listing import all_lists
from uncus.bill.sources import Billing
from uncus.catalog.bolts import HoleKind
from uncus.catalog.sections import Form, section
from uncus.draw.drawn import draw_all
from uncus.draw.issue import reasons
from uncus.draw.notes import note_lines
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.draw.subject import Fixed, Subject
from uncus.frame.placement import Placement
from uncus.job.records import Connection, End, Member, Project, Role
from uncus.job.start import usual_rules
from uncus.mark.marking import Marks
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.joint import Weld
from uncus.steel.part import plate, rolled
from uncus.units import Units, format_elevation, format_length


@pytest.fixture(scope="module")
def parts(drawn):
    return [(e, sheets[0]) for e, sheets in drawn("sample") if e.kind == "part"]


def words(sheet):
    return [i.text for i in sheet.items if isinstance(i, Text)]


def test_overall_lengths_are_printed(parts):
    for entry, sheet in parts:
        assert format_length(entry.job.subject.main.length) in words(sheet), entry.name


def test_copes_are_dimensioned_and_their_radius_noted(parts):
    seen = 0
    for entry, sheet in parts:
        for cope in entry.job.subject.main.copes:
            printed = words(sheet)
            assert format_length(cope.length) in printed and format_length(cope.depth) in printed
            assert f"COPE RADIUS {format_length(cope.radius)}." in printed
            seen += 1
    assert seen > 4


def test_notches_are_said_with_their_figures(parts):
    """The sample's beams that stand between columns have their bottom flange cut flush beside the tabs."""
    seen = set()
    for entry, sheet in parts:
        main = entry.job.subject.main
        for notch in main.notches if main.section else ():
            xs = [min(max(x, 0.0), main.length) for x, _ in notch.outline]
            figure = format_length(max(xs) - min(xs))
            texts = [w for w in words(sheet) if figure in w and ("FLANGE" in w or "SLOT" in w or "ACCESS" in w)]
            assert texts, (entry.name, figure)
            seen |= {t.partition(" CUT")[0] for t in texts}
    assert any(s.startswith("BOTTOM FLANGE") for s in seen)


def test_assembly_sheets_show_every_mark_and_weld_of_the_bill(drawn):
    for entry, sheets in drawn("sample"):
        if entry.kind != "assembly":
            continue
        printed = words(sheets[0])
        for mark, part, count in entry.job.bill[1:]:
            labels = [w for w in printed if w == mark or w.startswith(mark + " ")]
            assert len(labels) > 1, f"{mark} stands in the bill and at the part on {entry.name}"
            welds = {format_length(f.weld.size) for f in entry.job.subject.fixed if f.mark == mark and f.weld}
            assert welds <= set(printed)
            assert (part.thickness or part.section) and count


@pytest.mark.parametrize("which", ["sample", "metric_sample", "gallery_job"])
def test_a_mark_said_once_for_many_says_how_many_and_can_be_of_no_other(which, drawn):
    """Its number is the bill's, it stands at no other part, and nothing of its shape has another mark."""
    seen = 0
    for entry, sheets in drawn(which):
        for words in (s.words for sheet in sheets for s in sheet.spots if "|mark " in s.key and " TYP (" in s.words):
            mark, number = words.split()[0], int(words.rpartition("(")[2].rstrip(")"))
            bill = {m: (part, n) for m, part, n in entry.job.bill}
            others = [m for m, (part, _) in bill.items() if m != mark and part.section == bill[mark][0].section
                and part.thickness == bill[mark][0].thickness and m != entry.job.bill[0][0]]  # fmt: skip
            shown = [
                s.words for sheet in sheets for s in sheet.spots if "|mark " in s.key and not s.key.startswith("sec")
            ]
            assert number == bill[mark][1] > 4 and sum(w.split()[0] == mark for w in shown) == 1, (entry.name, words)
            assert not [w for w in shown if w.split()[0] in others], (entry.name, others)
            seen += 1
    assert seen or which != "sample"


def test_sheets_and_lists_tell_the_same_numbers(sample, drawn):
    job, shop = sample
    assemblies, part_rows, *_ = all_lists(Billing(job, shop, Marks(job)))
    numbers = {row[0]: row[1] for row in (*assemblies.rows, *part_rows.rows)}
    for entry, sheets in drawn("sample"):
        if entry.kind == "erection":
            continue
        assert entry.job.required == numbers[entry.name]
        title = next(w for w in words(sheets[0]) if "REQUIRED" in w)
        assert title.startswith(f"{numbers[entry.name]} REQUIRED")


def test_plans_count_every_member_once(sample):
    job, shop = sample
    shown = [id for e in register(job, shop) if e.title.startswith("plan") for id in e.pieces]
    assert sorted(shown) == sorted(shop.shipped)


def intervals(sheet):
    """Each distance that a chain prints: its view, its axis, from where to where, and the chain's key."""
    frames = {f.name: f for f in sheet.frames}
    for spot in sheet.spots:
        view, _, what = spot.key.partition("|")
        if spot.kind != "chain" or view not in frames:
            continue
        flat = abs(spot.stops[0][2] - spot.stops[-1][2]) < 1e-6
        at = [round(frames[view].own(x, y)[0 if flat else 1]) for _, x, y in spot.stops]
        running = flat and what.startswith(("along", "plates", "columns", "panel points", "corners along"))
        for a, b in ((at[0], b) for b in at[1:]) if running else pairwise(at):
            long = flat and view in ("front", "top", "bottom")
            yield ("along" if long else view, flat, *sorted((a, b))), spot.key


def each_for_itself(a: str, b: str) -> bool:
    """Chains that may say the same distance: of the left end and of the right, and holes of one view and of another."""
    ends = all(any(f" {end} " in key for key in (a, b)) for end in ("left", "right"))
    views = a.partition("|")[0] != b.partition("|")[0] and "|along" in b
    return ends or views or {a.partition("|")[2].split()[0], b.partition("|")[2].split()[0]} == {"gage", "corners"}


@pytest.mark.parametrize(
    "which", ["sample", "metric_sample", "hard_job", pytest.param("grid_frame", marks=pytest.mark.long), "gallery_job"]
)
def test_nothing_is_dimensioned_twice(which, drawn):
    twice = []
    for entry, sheets in drawn(which):
        said: dict[tuple, str] = {}
        for sheet in sheets if entry.kind != "erection" else ():
            for where, key in intervals(sheet):
                first = said.setdefault(where, key)
                if first != key and not each_for_itself(first, key):
                    twice.append((entry.name, where, first, key))
    assert not twice, twice


@pytest.mark.parametrize("which", ["hard_job", "gallery_job"])
def test_a_skewed_end_says_what_it_frames_to_and_how_far_its_holes_are_square_and_along(which, drawn):
    """From the nearest column of holes in the web, in the view from above, worked out from the plane that it meets;
    and a tube's slot is said in a view that shows it."""
    ends, slots = 0, 0
    for entry, (sheet, *_) in drawn(which):
        if entry.kind != "assembly":
            continue
        paper, main = Reader.of_assembly(sheet, entry.job.units), entry.job.subject.main
        for met in entry.job.subject.meets:
            near = [h.x for h in main.holes if h.face.upright and (h.x > main.length / 2) == met.right]
            if abs(met.skew) < 1.0 or not near or any(not h.face.upright for h in main.holes):
                continue
            end = "right" if met.right else "left"
            away = min(abs(x - met.at) for x in near)
            square = paper.one(f"top|to hole {end} square")
            assert square == pytest.approx(away / math.hypot(1.0, met.ky), abs=1.0), (entry.name, end)
            along = paper.spots(f"top|to hole {end} along")
            assert not along or paper.figures(along[0])[0] == pytest.approx(away, abs=1.0)
            assert any(w.startswith("FRAMES TO") for w in words(sheet)), entry.name
            ends += 1
        for spot in sheet.spots:
            if "SLOT" in spot.words and "|notch" in spot.key and "CENTRED" in spot.words:
                view = spot.key.partition("|")[0]
                assert ("SIDE" in spot.words) == (view == "front"), spot.words
                slots += 1
    assert ends > 2 if which == "hard_job" else slots > 2


@pytest.mark.parametrize("which", ["sample", "metric_sample"])
def test_a_column_s_sheet_says_what_frames_to_each_face_and_how_high(which, drawn, request):
    """Reckoned anew from where members end and what side of the column's middle they come from: each once, on the
    letter of the side that looks their way."""
    job, shop = request.getfixturevalue(which)
    marks, seen = Marks(job), 0
    compass = {"A": 0.0, "B": 90.0, "C": 180.0, "D": 270.0}
    for entry, (sheet, *_) in drawn(which):
        if entry.kind != "assembly" or not entry.title.startswith("column") or len(entry.own) != 1:
            continue
        (id,) = entry.own
        letters = dict(entry.job.subject.faces)
        place = shop.assemblies[id].main.placement
        a = next(face for face, letter in letters.items() if letter == "A")
        north = {"web": -place.y, "back": place.y, "top": place.z, "bottom": -place.z}[a]
        expected = Counter()
        for c in job.all(Connection):
            if c.support == id and c.member != id:
                m = job.get(c.member, Member)
                here, there = (m.start, m.end) if c.end is End.LEFT else (m.end, m.start)
                away = np.subtract(there, here)[:2]
                turn = math.degrees(math.atan2(*away) - math.atan2(*north[:2])) % 360
                letter = min(compass, key=lambda one: abs((turn - compass[one] + 180) % 360 - 180))
                expected[(letter, marks.of_assembly(m.id), format_elevation(here[2], job.project.units))] += 1
        text = " ".join(i.text for i in sheet.items if isinstance(i, Text) and i.x > 0.6 * sheet.width)
        found = Counter(
            (letter, *one.strip().split(" AT "))
            for letter, words in re.findall(r"FACE (\w): (.*?)\.(?=\s|$)", text)
            for one in words.split(",")
        )
        assert found == expected, entry.name
        seen += len(found)
    assert seen > 20


def test_the_job_s_facts_stand_on_the_sheets_they_are_of_and_surfaces_that_stay_bare_are_said():
    """What the shop works to on every piece's sheet, tests of welds where there are welds; each change has its own
    reason."""
    tab = {"tab_hole": HoleKind.OVERSIZE}
    rules = msgspec.structs.replace(usual_rules(Units.IMPERIAL), **tab)
    site = Connection(id="site", kind="welded end", member="web", end=End.LEFT, support="chord",
        params={"where": "on site"})  # fmt: skip
    members = [
        Member(id="chord", role=Role.BEAM, section="HSS6X6X1/4", start=(0, 0, 0), end=(6000, 0, 0)),
        Member(id="web", role=Role.BRACE, section="HSS3X3X1/4", start=(3000, 0, 0), end=(3000, 0, 2000)),
        Member(id="post", role=Role.COLUMN, section="W10X49", start=(9000, 0, 0), end=(9000, 0, 4000), roll=90),
        Member(id="beam", role=Role.BEAM, section="W16X31", start=(9000, 0, 3000), end=(12_000, 0, 3000)),
        Member(id="plain", role=Role.BEAM, section="W12X26", start=(0, 9000, 0), end=(3000, 9000, 0)),
    ]
    tabbed = Connection(id="tab", kind="shear tab", member="beam", end=End.LEFT, support="post")
    told = Project(work="AISC 303", weld_tests="VT 100%")
    before, after = (
        {e.title: e.job for e in register(*marked([p, rules, *members, site, tabbed])) if e.kind == "assembly"}
        for p in (Project(), told)
    )
    notes = {title: note_lines(job) for title, job in after.items()}
    assert all("WORK TO AISC 303." in lines for lines in notes.values())
    welded = {title for title, lines in notes.items() if "TESTS OF WELDS: VT 100%." in lines}
    assert welded == {"brace HSS3X3X1/4", "column W10X49"}
    bare = {title for title, lines in notes.items() if "NO PAINT WITHIN 2 OF SITE WELDS." in lines}
    assert bare == {"brace HSS3X3X1/4"}, "where the office counts them"
    wide = {title for title, lines in notes.items() if any("OVERSIZE HOLES" in line for line in lines)}
    assert wide == {"column W10X49"}, "whose tab has them"
    for title, job in after.items():
        why = ["what the shop works to changed", *(["tests of welds changed"] if title in welded else [])]
        assert reasons(before[title], job) == why


@pytest.mark.parametrize("which", ["sample", "gallery_job"])
def test_parts_are_set_off_what_their_piece_has(which, drawn):
    """The heel of an angle or the back of a channel; the centre line of everything else."""
    seen = Counter()
    for entry, sheets in drawn(which):
        if entry.kind != "assembly" or entry.job.subject.main.section is None:
            continue
        words = [t for s in sheets for spot in s.spots for t, _ in spot.texts if re.search(r" (of|ON) (HEEL|CL)\b", t)]
        form = entry.job.subject.main.form
        for text in words:
            heel = "HEEL" in text
            assert heel == (form is Form.ANGLE) or form is Form.CHANNEL, (entry.name, text)
            seen[form] += 1
    assert seen[Form.I] > 3


def test_what_is_neither_welded_nor_bolted_to_the_piece_is_not_held_by_it():
    beam, _ = rolled(section("W12X26"), "A992", "", EndCut(0.0), EndCut(3000.0))
    two = tuple(Hole(Face.WEB, x, 0.0, 20.0) for x in (50.0, 120.0))
    tab = plate([(0, -50), (200, -50), (200, 50), (0, 50)], 10.0, "A36", "", two)
    at = Placement((1000.0, 200.0, 0.0), np.eye(3))
    loose = Fixed("j/loose", tab, at, "p1", None, "y")
    weld = Weld("w", 6.0, ((0.0, 0.0, 0.0), (1.0, 0.0, 0.0)), ("a", "b"), 1, False)
    beside = Fixed("j/held", tab, Placement((1000.0, 210.0, 0.0), np.eye(3)), "p1", weld, "y")
    alone = Subject(beam, (loose,))
    assert not alone.is_bolted(loose)
    pair = Subject(beam, (loose, msgspec.structs.replace(beside, id="j/too", weld=None)))
    assert not pair.is_bolted(loose), "nor by what is held no better"
    both = Subject(beam, (loose, beside))
    assert both.is_bolted(loose) and not both.is_bolted(beside), "through the holes of what is welded on"


@pytest.mark.parametrize(
    ("bow", "deep"), [((0.0, 0.0, 400.0), 12.2), ((0.0, 400.0, 0.0), 6.49), ((0.0, 0.0, -400.0), 12.2)]
)
def test_a_rolled_piece_is_shown_from_the_side_from_which_it_bends(bow, deep):
    """As rolled, in the view as it is formed: as high as its middle stands out and it is deep there."""
    arch = Member(id="arch", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(5000, 0, 0), bow=bow)
    job, shop = marked([Project(), usual_rules(Units.IMPERIAL), arch])
    entry = next(e for e in register(job, shop) if e.kind == "assembly")
    frame = next(f for s in draw_all(entry.job) for f in s.frames if f.name == "as formed")
    high = (frame.box[3] - frame.box[1]) * frame.scale
    assert high == pytest.approx(400 + deep * 25.4, abs=30)
