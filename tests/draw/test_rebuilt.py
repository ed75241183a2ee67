"""Every piece set out again from its printed sheets alone, and found to be the piece: parts whole, assemblies'
plates placed."""

import math
from collections import Counter

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tests.conftest import how_many
from tests.draw.locating import placings
from tests.draw.reading import Incomplete, Reader

from uncus.catalog.sections import Form, section
from uncus.draw.legibility import legibility
from uncus.draw.piece_job import PieceJob
from uncus.draw.piece_sheet import draw_all as piece_sheets
from uncus.draw.subject import of_part
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Face, Hole, Notch, Saddle, saddle_at
from uncus.steel.forming import Bend, Curve
from uncus.steel.part import Part, plate, rolled
from uncus.units import SIXTEENTH, Units

INCH = 25.4


def same(got: Part, true: Part, units: Units) -> None:
    """Two parts are one, to half a sixteenth (or half a mm) a figure; each feature once, none more."""
    off = SIXTEENTH / 2 + 0.02 if units is Units.IMPERIAL else 0.52
    assert (got.section, got.grade, got.finish) == (true.section, true.grade, true.finish)
    assert got.length == pytest.approx(true.length, abs=off) and got.thickness == pytest.approx(true.thickness, abs=off)
    for mine, its in ((got.left, true.left), (got.right, true.right)):
        assert np.degrees(np.arctan([mine.ky, mine.kz])) == pytest.approx(
            np.degrees(np.arctan([its.ky, its.kz])), abs=0.15
        )
        assert mine.at == pytest.approx(its.at, abs=3 * off)  # what the slopes' own rounding comes to over the depth
        assert _close(_saddle(mine), _saddle(its), off / 2)
    middle = sum(true.depth_range) / 2 if true.is_plate else 0.0
    _paired(got.holes, true.holes, lambda a, b: _same_hole(a, b, middle, off))
    _paired(got.copes, true.copes, lambda a, b: (a.right, a.bottom) == (b.right, b.bottom)
        and _close((a.length, a.depth, a.radius), (b.length, b.depth, b.radius), off))  # fmt: skip
    _paired(got.notches, [n for n in true.notches if _taken(n, true)], lambda a, b: a.face == b.face
        and _same_cut(a, b, true, off))  # fmt: skip
    _paired(got.bends, true.bends, lambda a, b: _same_bend(a, b, middle, off))
    if true.is_plate:
        mine, its = shapely.Polygon(got.outline), shapely.Polygon([(x, z - middle) for x, z in true.outline])
        assert shapely.hausdorff_distance(mine, its) < 2 * off
    assert (got.curve is None) == (true.curve is None)
    if true.curve:
        assert got.curve.radius == pytest.approx(true.curve.radius, abs=off)
        assert abs((got.curve.turn - true.curve.turn + 180) % 360 - 180) < 0.1


def _saddle(cut: EndCut) -> tuple[float, ...]:
    s = cut.saddle
    return (s.radius, s.turn, s.right) if isinstance(s, Saddle) else ()


def _paired(got, wanted, alike) -> None:
    left = list(got)
    for one in wanted:
        hit = next((g for g in left if alike(g, one)), None)
        assert hit is not None, (one, got)
        left.remove(hit)
    assert not left, left


def _close(a, b, off) -> bool:
    return bool(np.allclose(a, b, atol=off, rtol=0))


def _same_hole(a: Hole, b: Hole, middle: float, off: float) -> bool:
    turned = abs((a.angle - b.angle + 90) % 180 - 90) if b.slot else 0.0
    return a.face == b.face and _close((a.x, a.d, a.slot), (b.x, b.d, b.slot),
        off) and abs(a.w - b.w + middle) < 2 * off and turned < 0.6  # fmt: skip


def _same_bend(a: Bend, b: Bend, middle: float, off: float) -> bool:
    mine = shapely.LineString([(a.x1, a.z1), (a.x2, a.z2)])
    its = shapely.LineString([(b.x1, b.z1 - middle), (b.x2, b.z2 - middle)])
    return (
        abs(a.angle - b.angle) < 0.06
        and abs(a.radius - b.radius) < off
        and shapely.hausdorff_distance(mine, its) < 2 * off
    )


def _taken(notch: Notch, part: Part) -> shapely.Polygon | None:
    half = (part.section.d if notch.face.upright else part.section.b) / 2
    ends = (part.left, -half), (part.right, -half), (part.right, half), (part.left, half)
    room = [(cut.x(0, w), w) for cut, w in ends] if notch.face is Face.WEB and part.form == "I" else None
    room = shapely.Polygon(room) if room else shapely.box(0, -half, part.length, half)
    taken = shapely.Polygon(notch.outline).intersection(room)
    return taken if taken.area > 1.0 else None


def _same_cut(a: Notch, b: Notch, part: Part, off: float) -> bool:
    mine, its = _taken(a, part), _taken(b, part)
    return mine is not None and shapely.hausdorff_distance(mine, its) < 2.5 * off


@pytest.mark.parametrize(
    "which", ["sample", "metric_sample", "hard_job", pytest.param("grid_frame", marks=pytest.mark.long), "gallery_job"]
)
def test_every_part_can_be_made_from_its_sheet(which, drawn):
    features = sheets = 0
    for entry, (sheet, *_) in drawn(which):
        if entry.kind == "part":
            subject = entry.job.subject
            same(Reader(sheet, entry.job.units).part(), subject.rolled_as or subject.main, entry.job.units)
            features += len(subject.main.features)
            sheets += 1
    assert sheets > 14 and features > 70


def length(name, long, *features, left=(0.0, 0.0), right=(0.0, 0.0), curve=None):
    cuts = EndCut(0.0, *left), EndCut(long, *right)
    return rolled(section(name), "A992", "shop primer", *cuts, features, curve)[0]


def saddled(name, long, *ends, right=None):
    """A round tube with saddles: of each the tube's slope, turn and radius; or cut flat at the right end."""
    cuts = []
    for n, (slope, turn, radius) in enumerate(ends):
        along = (math.sin(math.radians(turn)), math.cos(math.radians(turn)))
        cuts.append(EndCut(n * long, slope * along[0], slope * along[1], saddle_at(radius, along, n == 1)))
    cuts += [EndCut(long, *right)] if right else []
    return rolled(section(name), "A500-C", "shop primer", *cuts)[0]


def pattern(face, x, w, columns, rows, gage, d=20.64, slot=0.0, angle=0.0):
    return [Hole(face, x + 75.0 * i, w - gage * j, d, slot, angle) for i in range(columns) for j in range(rows)]


# fmt: off
HARD = {
    "saddles": saddled("HSS4.000X0.250", 3000.0, (0.5, 30.0, 84.14), (0.0, 120.0, 50.8)),
    "a saddle and a slope": saddled("PIPE6STD", 2200.0, (-0.8, 90.0, 109.5), right=(0.3, -0.4)),
    "deep and sloping": length(
        "W36X150", 9000.0, *pattern(Face.WEB, 180, 300, 1, 8, 80), left=(0, -0.25), right=(0, 0.4)
    ),
    "skewed and sloping": length(
        "W18X35", 4000.0, *pattern(Face.WEB, 200, 90, 2, 3, 70), left=(0.3, 0.1), right=(-0.5, -0.2)
    ),
    "four copes": length(
        "W24X55",
        6000.0,
        Cope(False, False, 120, 40, 12.7),
        Cope(True, False, 150, 60, 12.7),
        Cope(False, True, 90, 40, 19.05),
        Cope(True, True, 110, 35, 19.05),
    ),
    "flange holes apart": length(
        "W14X90",
        5000.0,
        *pattern(Face.TOP, 400, 140, 3, 2, 280),
        *pattern(Face.BOTTOM, 900, 70, 2, 2, 90, 27.0),
        *pattern(Face.TOP, 4200, 60, 1, 1, 0),
    ),
    "slots": length(
        "W12X26",
        3000.0,
        *pattern(Face.WEB, 150, 70, 1, 3, 70, 20.64, 25.4),
        *pattern(Face.WEB, 2600, 70, 1, 3, 70, 20.64, 50.8, 90),
        *pattern(Face.WEB, 1500, 0, 1, 1, 0, 20.64, 60.0, 30.0),
    ),
    "slanting flange cuts": length(
        "W16X31",
        4000.0,
        Notch(Face.TOP, ((0, 20), (60, 20), (80, 90), (0, 90))),
        Notch(Face.BOTTOM, ((0, -20), (60, -20), (60, -90), (0, -90))),
        Notch(Face.TOP, ((4000, -3.5), (3900, -3.5), (3900, -80), (4000, -80))),
    ),
    "opening in a web": length("W21X44", 5000.0, Notch(Face.WEB, ((2000, -90), (2600, -90), (2600, 110), (2000, 110)))),
    "channel": length(
        "C12X20.7",
        3500.0,
        *pattern(Face.WEB, 60, 76, 1, 3, 76),
        *pattern(Face.TOP, 300, 5, 4, 1, 0),
        *pattern(Face.BOTTOM, 900, -5, 2, 1, 0),
        Cope(True, False, 80, 30, 12.7),
    ),
    "angle": length("L6X4X1/2", 1500.0, *pattern(Face.WEB, 40, 10, 3, 2, 60), *pattern(Face.BOTTOM, 500, 8, 4, 1, 0)),
    "tee": length("WT7X34", 2500.0, *pattern(Face.WEB, 50, -20, 3, 1, 0), *pattern(Face.TOP, 100, 60, 2, 2, 120)),
    "box through and not": length(
        "HSS8X6X3/8",
        3000.0,
        *pattern(Face.WEB, 100, 40, 1, 2, 80),
        *pattern(Face.BACK, 100, 40, 1, 2, 80),
        *pattern(Face.WEB, 1500, 0, 1, 1, 0, 17.46), *pattern(Face.WEB, 2150, 0, 1, 1, 0, 17.46),
        *pattern(Face.BACK, 2600, 30, 2, 2, 60),
    ),
    "box notched to another web": length(
        "HSS4X4X1/4",
        1500.0,
        *(Notch(f, ((20, -56), (84, 56), (-300, 56), (-300, -56))) for f in (Face.WEB, Face.BACK)),
        Notch(Face.TOP, ((81, -56), (81, 56), (-300, 56), (-300, -56))),
        left=(0, -0.577),
    ),
    "box slotted": length(
        "HSS6X6X3/8",
        3000.0,
        *(Notch(f, ((-20, -6), (200, -6), (200, 6), (-20, 6))) for f in (Face.TOP, Face.BOTTOM)),
        Notch(Face.WEB, ((1400, -5), (1600, -5), (1600, 5), (1400, 5))),
        Notch(Face.TOP, ((2950, 20), (3050, 20), (3050, 45), (2950, 45))),
    ),
    "arc": length(
        "W8X31",
        6000.0,
        *pattern(Face.WEB, 60, 50, 1, 2, 100),
        *pattern(Face.WEB, 5800, 50, 1, 2, 100),
        curve=Curve(12000.0, 180.0),
    ),
    "gusset": plate(
        [(0, 0), (300, 0), (480, 160), (420, 350), (130, 400), (0, 250)],
        12.7,
        "A36",
        "shop primer",
        [Hole(Face.WEB, 150 + 60 * i + 30 * j, 120 + 45 * i - 40 * j, 20.64) for i in range(3) for j in range(2)],
    ),
    "plate with slots": plate(
        [(0, -100), (300, -100), (300, 100), (0, 100)],
        9.525,
        "A36",
        "shop primer",
        pattern(Face.WEB, 50, 60, 2, 3, 60, 20.64, 32.0, -13.1),
    ),
    "notched plate": plate(
        [(0, 0), (250, 0), (250, 60), (200, 60), (200, 140), (250, 140), (250, 200), (0, 200)],
        9.525,
        "A36",
        "shop primer",
    ),
    "bent along": plate(
        [(0, -120), (900, -120), (900, 120), (0, 120)],
        6.35,
        "A36",
        "shop primer",
        pattern(Face.WEB, 60, 60, 3, 1, 0),
        [Bend(0, 70, 900, 70, 90, 9.525), Bend(900, -60, 0, -60, -45, 9.525)],
    ),
    "bent across": plate(
        [(0, -60), (500, -60), (500, 60), (0, 60)], 9.525, "A36", "shop primer", (), [Bend(200, -60, 200, 60, 30, 12.7)]
    ),
    "bent on the skew": plate(
        [(0, 0), (500, 0), (500, 300), (0, 300)], 9.525, "A36", "shop primer", (), [Bend(350, 0, 500, 180, 60, 12.7)]
    ),
}
# fmt: on


@pytest.mark.parametrize("units", list(Units))
@pytest.mark.parametrize("name", HARD)
def test_hard_parts_can_be_made_from_their_sheets(name, units):
    part = HARD[name]
    bill = ((("p9", part, 1)),)
    job = PieceJob("p9", "part", of_part(part), bill, 1, "part", (), (), (), "Hard", "9", part.finish, "E70", units, "")
    (sheet,) = piece_sheets(job)
    same(Reader(sheet, units).part(), part, units)


@st.composite
def rolled_parts(draw):
    """Lengths of section with patterns of holes in any face, copes at any corner and ends cut any way."""
    shape = section(draw(st.sampled_from(["W24X55", "W10X49", "C12X20.7", "HSS8X6X3/8", "L6X4X1/2", "WT7X34"])))
    long = draw(st.floats(1500.0, 12_000.0))
    holes: list[Hole] = []
    for face, wall in profile.faces(shape).items():
        for _ in range(draw(st.integers(0, 2))):
            x, w = draw(st.floats(300.0, long - 600.0)), draw(st.floats(-0.25, 0.25)) * (wall.hi - wall.lo)
            columns, rows = draw(st.integers(1, 3)), draw(st.integers(1, 2))
            slot = draw(st.sampled_from([0.0, 0.0, 32.0, 50.0]))
            d = draw(st.sampled_from([14.3, 20.64, 27.0]))
            angle = draw(st.sampled_from([0.0, 90.0, 25.0])) if slot else 0.0
            holes += [Hole(face, x + 70.0 * i, w + 0.18 * (wall.hi - wall.lo) * j, d, slot, angle) for i
                in range(columns) for j in range(rows)]  # fmt: skip
    kept: list[Hole] = []
    for h in holes:  # none in another, nor so near a line of others that no figure could tell them apart
        if all(h.face is not o.face or (abs(h.x - o.x) > 90.0 or (abs(h.w - o.w) > 40.0 and abs(h.x - o.x) < 0.01))
            for o in kept):  # fmt: skip
            kept.append(h)
    copes = [Cope(right, bottom, draw(st.floats(60, 200)), draw(st.floats(25, 60)),
        draw(st.sampled_from([12.7, 19.05]))) for right in (False, True) for bottom in (False, True) if shape.form
        in ("I", "U") and draw(st.booleans())]  # fmt: skip
    lean = st.sampled_from([0.0, 0.0, 0.12, -0.35])
    slopes = [(0.0, 0.0), (0.0, 0.0)] if copes else [(draw(lean), draw(lean)) for _ in range(2)]
    return rolled(shape, "A992", "shop primer", EndCut(0.0, *slopes[0]), EndCut(long, *slopes[1]), [*kept, *copes])[0]


@settings(max_examples=how_many(20, 600))
@given(rolled_parts(), st.sampled_from(Units))
def test_any_rolled_part_can_be_made_from_its_sheets(part, units):
    job = PieceJob("p9", "part", of_part(part), (("p9", part, 1),), 1, "part", (), (), (), "Any", "9", part.finish,
        "E70", units, "")  # fmt: skip
    sheets = piece_sheets(job)
    assert len(sheets) == 1 or len(part.features) > 12
    same(Reader(sheets[0], units).part(), part, units)
    assert all(legibility(s).on_text == 0 and legibility(s).off_paper == 0 for s in sheets)


@st.composite
def plates(draw):
    """Plates of any outline about their middle, with a pattern of holes or slots on the skew, and a bend across."""
    wide, high = draw(st.floats(150.0, 900.0)), draw(st.floats(120.0, 500.0))
    turns = sorted(draw(st.lists(st.floats(0.0, 6.28), min_size=3, max_size=7, unique_by=lambda a: round(a, 1))))
    assume(max(np.diff([*turns, turns[0] + 2 * np.pi])) < 2.6)
    outline = [(5.0 * round(wide / 10 * (1 + np.cos(a))), 5.0 * round(high / 10 * np.sin(a))) for a in turns]
    shape = shapely.Polygon(outline).buffer(-30)
    assume(shape.area > 8000 and shape.geom_type == "Polygon")
    d, slot = draw(st.sampled_from([17.5, 20.64, 27.0])), draw(st.sampled_from([0.0, 0.0, 40.0]))
    lean, step = draw(st.sampled_from([0.0, 0.3, 0.7])), 60.0
    x0, z0 = shape.representative_point().coords[0]
    spots = [(x0 + step * (i * np.cos(lean) - j * np.sin(lean)), z0 + step * (i * np.sin(lean) + j * np.cos(lean)))
        for i in range(3) for j in range(2)]  # fmt: skip
    holes = [Hole(Face.WEB, x, z, d, slot, np.degrees(lean)) for x, z in spots if shape.contains(shapely.Point(x, z))]
    return plate(outline, draw(st.sampled_from([6.35, 9.525, 25.4])), "A36", "shop primer", holes)


@settings(max_examples=how_many(20, 600))
@given(plates(), st.sampled_from(Units))
def test_any_plate_can_be_made_from_its_sheet(part, units):
    job = PieceJob("p9", "part", of_part(part), (("p9", part, 1),), 1, "part", (), (), (), "Any", "9", part.finish,
        "E70", units, "")  # fmt: skip
    (sheet,) = piece_sheets(job)
    same(Reader(sheet, units).part(), part, units)
    assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0


def test_a_sheet_that_says_too_little_is_not_complete():
    """The measure itself: a figure less, and the part can no longer be made."""
    part = HARD["gusset"]
    job = PieceJob("p9", "part", of_part(part), (("p9", part, 1),), 1, "part", (), (), (), "Hard", "9", part.finish,
        "E70", Units.METRIC, "")  # fmt: skip
    (sheet,) = piece_sheets(job)
    for chain in ("front|along", "front|corners along", "front|corners down"):
        less = msgspec.structs.replace(sheet, spots=tuple(s for s in sheet.spots if s.key != chain))
        with pytest.raises(Incomplete):
            Reader(less, Units.METRIC).part()


def ways(subject) -> dict[str, str]:
    """The way each view of an assembly's sheets looks."""
    sections = {f"section {s.key}": "left end" if s.at_end and s.x < subject.main.length / 2 else "right end" for s
        in subject.sections()}  # fmt: skip
    return {"front": "front", "top": "top", "bottom": "bottom", **sections}


FLAT = {"y": "front", "z": "top", "": "skewed"}  # the view in which a plate square to an axis is seen face on


def unplaced(entry, sheets, counted: Counter) -> list:
    """What is fixed on and has no place along, across or up from the sheets of an assembly: by a figure that is
    right, or because it touches what has a place, or lies about the middle; bolts and slots, which the part's sheet
    has, place it too."""
    subject, units = entry.job.subject, entry.job.units
    off = SIXTEENTH / 2 + 0.02 if units is Units.IMPERIAL else 0.52
    scale = sheets[0].scale
    flat = {f.id: "skewed" if f.is_member else FLAT.get(f.normal, "") for f in subject.fixed}
    found = placings(sheets, units, [f.id for f in subject.fixed], subject.main.section, ways(subject), flat)
    for cut in subject.sections():  # one section stands for all places that look like it
        for f in subject.fixed:
            if any(abs(float(f.centre[0]) - x) < 61 for x in cut.others) and f.normal == "x":
                like = next((g for g in cut.fixed if g.mark == f.mark
                    and np.allclose(g.centre[1:], f.centre[1:], atol=0.5)), None)  # fmt: skip
                found[f.id] |= {axis: how for axis, how in found[like.id].items() if axis} if like else {}
    tube = bool(subject.main.section) and subject.main.section.form in (Form.BOX, Form.TUBE)
    slotted = {f.id for f in subject.fixed if f.normal == "" and tube and subject.main.notches}
    asked = [f for f in subject.fixed if not subject.is_bolted(f) and f.id not in slotted]
    faults = [(entry.name, f.mark, f.id, found[f.id]) for f in asked if len(found[f.id]) < 3]
    for f in asked:
        near, far = f.box()
        root = f.root(subject.main) if f.normal == "" else None
        if root is not None:  # what is on the skew has its root about the middle
            near, far = root.min(axis=0), root.max(axis=0)
        for axis, how in found[f.id].items():
            counted["figure" if isinstance(how, tuple) else "words" if isinstance(how, float) else how] += 1
            if isinstance(how, tuple):
                right = abs(how[0] - how[1]) < 2 * off
            elif isinstance(how, float):
                right = np.abs(f.corners[:, axis] - how).min() < off
            else:
                right = how != "middle" or abs(near[axis] + far[axis]) / 2 < max(
                    off, 0.06 * scale, (f.part.thickness / 4 + 0.01) * (f.normal == "")
                )
            if not right:
                faults.append((entry.name, f.mark, axis, how))
    return faults


@pytest.mark.parametrize(
    "which", ["sample", "metric_sample", "hard_job", pytest.param("grid_frame", marks=pytest.mark.long), "gallery_job"]
)
def test_every_part_fixed_on_has_its_place_from_the_sheet(which, drawn):
    counted = Counter()
    for entry, sheets in drawn(which):
        if entry.kind == "assembly" and entry.job.subject.fixed:
            assert not unplaced(entry, sheets, counted)
    assert counted["figure"] > 20 and counted["touches"] > 10
