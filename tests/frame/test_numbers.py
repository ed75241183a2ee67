"""Frames by numbers against figures worked by hand; every kind against every choice for soundness."""

import itertools
import math

import msgspec
import numpy as np
import pytest

from uncus.catalog.sections import section
from uncus.frame.axes import member_frame
from uncus.frame.cuts import double_of
from uncus.frame.numbers.kind import made
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.job.errors import JobError
from uncus.job.forms import checked, fields, shown_value, typed_value
from uncus.job.job import Job
from uncus.job.records import Layout, Leg, Line, Member, Role
from uncus.sample.boathouse import AISLES, BAYS, EAVES, RIDGE, boathouse
from uncus.shop.shop import build
from uncus.units import UnitError, Units

MM = Units.METRIC


def frame(name, *points, units=MM, **values):
    kind = BY_NUMBERS[name]
    return made(kind, checked(kind.params, values), points, units)


def ends(members):
    return [(str(m.role), tuple(np.round(m.start, 1)), tuple(np.round(m.end, 1))) for m in members]


def test_a_pitched_portal_with_haunches():
    # span 10 m at 3:4 slope: the ridge stands 5000 * 3/4 = 3750 above the eaves; 1250 along the rafter is 1000 level,
    # 750 up
    found = frame("portal frame", (0, 0, 100), (0, 10_000, 900), eaves=4000.0, pitch=math.degrees(math.atan2(3, 4)),
                  haunch=1250.0, haunch_depth=500.0)  # fmt: skip
    assert ends(found) == [
        ("column", (0, 0, 100), (0, 0, 4100)),
        ("column", (0, 10_000, 100), (0, 10_000, 4100)),
        ("rafter", (0, 0, 4100), (0, 5000, 7850)),
        ("rafter", (0, 10_000, 4100), (0, 5000, 7850)),
        ("strut", (0, 0, 3600), (0, 1000, 4850)),
        ("strut", (0, 10_000, 3600), (0, 9000, 4850)),
    ]


def test_a_mono_portal():
    found = frame(
        "portal frame", (0, 0, 0), (8000, 0, 0), shape="mono", eaves=4000.0, pitch=math.degrees(math.atan2(1, 8))
    )
    assert ends(found)[1:] == [("column", (8000, 0, 0), (8000, 0, 5000)), ("rafter", (0, 0, 4000), (8000, 0, 5000))]


@pytest.mark.parametrize(
    ("shape", "expected"),
    [
        ("X", [((0, 200), (6, 3700)), ((0, 3700), (3, 1950)), ((3, 1950), (6, 200))]),
        ("rising left to right", [((0, 200), (6, 3700))]),
        ("falling left to right", [((0, 3700), (6, 200))]),
        ("K up", [((0, 200), (3, 3700)), ((3, 3700), (6, 200))]),
        ("K down", [((0, 3700), (3, 200)), ((3, 200), (6, 3700))]),
    ],
)
def test_bracing_between_corners(shape, expected):
    for a, c in (((0, 9, 0), (6000, 9, 4000)), ((0, 9, 4000), (6000, 9, 0))):
        found = frame("bay of bracing", a, c, shape=shape, drop=300.0, lift=200.0)
        assert [((m.start[0] / 1000, m.start[2]), (m.end[0] / 1000, m.end[2])) for m in found] == expected
        assert all(m.start[1] == m.end[1] == 9 and m.double is None for m in found)
        backs = [member_frame(m, section(m.section)).to_model((0, -section(m.section).b / 2, 0)) for m in found]
        assert all(m.line is Line.GAGE for m in found) and np.allclose([b[1] for b in backs], 9), "backs on the plane"
    found = frame("bay of bracing", (0, 0, 0), (6000, 0, 4000), shape=shape, pair="star", leg="short", gap=12.0)
    assert all(m.double.layout is Layout.STAR and m.double.leg is Leg.SHORT and m.double.gap == 12 for m in found)


def test_bracing_in_plan():
    found = frame("bay of bracing", (0, 0, 50), (6000, -4000, 50))
    halves = {((0, 0), (3000, -2000)), ((3000, -2000), (6000, -4000))}
    assert {(m.start[:2], m.end[:2]) for m in found} == {((0, -4000), (6000, 0)), *halves}
    found = frame("bay of bracing", (0, 0, 50), (6000, -4000, 50), crossing="both in one length")
    assert {(m.start[:2], m.end[:2]) for m in found} == {((0, -4000), (6000, 0)), ((0, 0), (6000, -4000))}


SKEWED = ((0, 0, 4000), (6000, 0, 4000), (7500, 5000, 4000), (500, 4200, 4000))
SLOPING = tuple((x, y, z + y / 4) for x, y, z in SKEWED)


@pytest.mark.parametrize("name", ["L4X4X3/8", "C8X11.5", "WT5X15", "HSS6X4X1/4"])
@pytest.mark.parametrize("corners", [SKEWED, SKEWED[::-1], SLOPING], ids=["level", "the other way round", "on a slope"])
def test_braces_between_four_corners_lie_in_their_plane_and_cross_where_its_diagonals_do(corners, name):
    """By hand: 7500 s = 6000 - 5500 t and 5000 s = 4200 t give t = 30000/59000 and s = 0.84 t."""
    found = frame("bracing between four corners", *corners, section=name, below=100.0)
    s = 0.84 * 30 / 59
    meet = np.array([7500 * s, 5000 * s])
    a, b, c = (np.array(p, dtype=float) for p in corners[:3])
    normal = np.cross(b - a, c - a)
    normal *= math.copysign(1.0, normal[2]) / np.linalg.norm(normal)
    at = np.array(found[1].end) + 100.0 * normal
    assert np.allclose(at[:2], meet, atol=0.1) and found[1].end == found[2].start
    for m in found:
        assert (
            abs((np.array(m.start) - a) @ normal + 100.0) < 0.01 and abs((np.array(m.end) - a) @ normal + 100.0) < 0.01
        )
        own = member_frame(m, section(m.section))
        assert abs(float(own.y @ normal)) == pytest.approx(1.0), "its back, web or side lies flat on the plane"


@pytest.mark.parametrize("shape", ["rising left to right", "X"])
def test_bracing_in_plan_lies_flat(shape):
    for m in frame("bay of bracing", (0, 0, 4000), (6000, 5000, 4000), shape=shape, drop=150.0):
        own = member_frame(m, section(m.section))
        assert abs(own.y[2]) == pytest.approx(1.0) and m.start[2] == m.end[2] == 3850.0


def test_purlins_of_the_sample_by_numbers():
    """The south slope's purlins, given the sample's own figures, are the sample's members."""
    pitch = math.hypot(AISLES[0], RIDGE - EAVES)
    sample = [m for m in boathouse() if isinstance(m, Member) and m.role is Role.PURLIN and m.start[1] < AISLES[0]]
    found = frame(
        "run of purlins or girts", (0, 0, EAVES), (0, AISLES[0], RIDGE), (sum(BAYS), 0, EAVES), units=Units.IMPERIAL,
        bays="22', 20', 22'", first=pitch / 3, last=pitch / 3, largest=pitch / 3, line="top of steel",
    )  # fmt: skip
    assert len(found) == len(sample) == 6

    def key(m):
        return (*np.round(m.start, 1), *np.round(m.end, 1), round(m.roll, 4), m.section, m.line, m.role)

    assert sorted(map(key, found)) == sorted(map(key, sample))


def test_girts_stand_plumb_on_a_wall_and_spacings_are_typed():
    found = frame(
        "run of purlins or girts", (0, 0, 0), (0, 0, 5000), (9000, 0, 0), role="girt", lines="2@1500", first=600.0
    )
    assert [m.start[2] for m in found] == [600, 2100, 3600] and all(m.roll == 0 and m.role is Role.GIRT for m in found)


@pytest.mark.parametrize(
    ("web", "diagonals"),
    [  # n, up (1) or down (0) from panel point n to n + 1
        ("Pratt", [0, 0, 1, 1]),
        ("Howe", [1, 1, 0, 0]),
        ("Warren", [1, 0, 1, 0]),
    ],
)
def test_trusses(web, diagonals):
    found = frame("flat truss", (0, 0, 9000), (8000, 0, 9000), web=web, panels=4, depth=1000.0, gap=0.0)
    braces = [m for m in found if m.role is Role.BRACE]
    assert [int(m.end[2] > m.start[2]) for m in braces] == diagonals
    assert [m.end[0] for m in braces] == [2000, 4000, 6000, 8000]
    assert len([m for m in found if m.role is Role.POST]) == (2 if web == "Warren" else 5)
    assert [(m.start[2], m.end[0]) for m in found[:2]] == [(9000, 8000), (8000, 8000)]


@pytest.mark.parametrize(
    ("form", "upper", "lower"),
    [  # work points (x, z) of the lengths of the chords, worked by hand: span 8 m, depth 0.5, rise 1.5, lift 0.6
        ("pitched", [(0, 500), (4000, 2000), (8000, 500)], [(0, 0), (8000, 0)]),
        ("scissors", [(0, 500), (4000, 2000), (8000, 500)], [(0, 0), (4000, 600), (8000, 0)]),
        # the bow's radius is (4^2 + 1.5^2) / 3 = 6.08333 m; at 1 m from the middle it stands 0.0828 m lower
        ("bow", [(0, 500), (3000, 1917.25), (5000, 1917.25), (8000, 500)], [(0, 0), (8000, 0)]),
    ],
)
@pytest.mark.parametrize("way", [(1.0, 0.0), (0.0, 1.0), (-0.6, 0.8)])
def test_trusses_rise_to_the_middle(form, upper, lower, way):
    far = (8000 * way[0], 8000 * way[1], 0)
    values = {"form": form, "panels": 4, "depth": 500.0, "rise": 1500.0, "lift": 600.0, "below": "bottom chord"}
    found = frame("flat truss", (0, 0, 0), far, **values)
    chords = [m for m in found if m.role in (Role.RAFTER, Role.BEAM)]
    spots = [(np.dot(p[:2], way), p[2]) for m in chords for p in (m.start, m.end)]
    pairs = [p for line in (upper, lower) for pair in itertools.pairwise(line) for p in pair]
    assert spots == [pytest.approx(p, abs=0.1) for p in pairs]
    posts = [m for m in found if m.role is Role.POST]
    assert len(posts) == 5 and [m.end[2] - m.start[2] for m in (posts[0], posts[-1])] == pytest.approx([500, 500])


def test_chords_that_meet_at_their_ends_have_no_web_there_and_the_lower_one_runs_on():
    found = frame("flat truss", (0, 0, 0), (8000, 0, 0), form="pitched", panels=4, depth=0.0, rise=1500.0,
        below="bottom chord")  # fmt: skip
    assert [m.start[0] for m in found if m.role is Role.POST] == [2000, 4000, 6000]
    assert len([m for m in found if m.role is Role.BRACE]) == 2
    lower = next(m for m in found if m.role is Role.BEAM)
    assert lower.start[0] < -150 and lower.end[0] > 8150


@pytest.mark.parametrize(("end", "roll"), [((9000, 0), 90), ((0, 9000), 0), ((-6000, -8000), 143.130102)])
def test_a_portal_s_columns_stand_with_their_webs_in_its_plane(end, roll):
    found = frame("portal frame", (0, 0, 0), (*end, 0))
    columns = [m for m in found if m.role is Role.COLUMN]
    assert len(columns) == 2 and all(m.roll == pytest.approx(roll, abs=1e-5) for m in columns)
    way = np.array(end) / np.linalg.norm(end)
    for m in columns:
        assert abs(float(member_frame(m, section(m.section)).z[:2] @ way)) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("name", "points", "values", "says"),
    [
        ("portal frame", [(0, 0, 0), (0, 0, 900)], {}, "above one another"),
        ("portal frame", [(0, 0, 0), (6000, 0, 0)], {"haunch": 9000.0}, "longer than the rafter"),
        ("portal frame", [(0, 0, 0), (6000, 0, 0)], {"eaves": 5.0}, "must lie between"),
        ("portal frame", [(0, 0, 0), (6000, 0, 0)], {"haunch": 900.0, "eaves": 600.0, "haunch_depth": 700.0},
            "below the column"),
        ("bay of bracing", [(0, 0, 0), (0, 0, 3000)], {}, "no width"),
        ("bay of bracing", [(0, 0, 0), (3000, 0, 0)], {}, "no width or no height"),
        ("bay of bracing", [(0, 0, 0), (3000, 0, 3000)], {"drop": 2000.0, "lift": 1000.0}, "past each other"),
        ("bracing between four corners", [(0, 0, 0), (6000, 5000, 0), (6500, 0, 0), (0, 4000, 0)], {}, "go round"),
        ("bracing between four corners", [(0, 0, 0), (6000, 0, 0), (6000, 5000, 0), (0, 5000, 400)], {}, "one plane"),
        ("bracing between four corners", [(0, 0, 0), (6000, 0, 0), (6000, 0, 0), (0, 5000, 0)], {}, "on one another"),
        ("run of purlins or girts", [(0, 0, 0), (0, 9000, 0), (0, 5000, 0)], {}, "in line"),
        ("run of purlins or girts", [(0, 0, 0), (0, 9000, 0), (5000, 0, 0)], {"bays": "2@2000"}, "do not add up"),
        ("run of purlins or girts", [(0, 0, 0), (0, 9000, 0), (5000, 0, 0)], {"lines": "9@2000"}, "past the edge"),
        ("run of purlins or girts", [(0, 0, 0), (0, 900, 0), (5000, 0, 0)], {"first": 1000.0}, "past each other"),
        ("run of purlins or girts", [(0, 0, 0), (0, 9000, 0), (5000, 0, 0)], {"lines": "many"}, "not a length"),
        ("run of purlins or girts", [(0, 0, 0), (0, 9e6, 0), (9e6, 0, 0)], {"largest": 250.0, "bays": "1000@9000"},
            "at once"),
        ("flat truss", [(0, 0, 0), (6000, 0, 0)], {"panels": 5}, "type 6"),
        ("flat truss", [(0, 0, 0), (6000, 0, 0)], {"web": "Fink"}, "must be one of"),
        ("flat truss", [(0, 0, 0), (6000, 0, 0)], {"form": "bow", "panels": 5}, "A bow truss needs an even number"),
        ("flat truss", [(0, 0, 0), (6000, 0, 0)], {"form": "bow", "rise": 3100.0}, "less than half its span"),
        ("flat truss", [(0, 0, 0), (6000, 0, 0)], {"form": "scissors", "lift": 2500.0}, "too near to one another"),
        ("flat truss", [(0, 0, 0), (6000, 0, 0)], {"inset": 3000.0}, "too far in"),
    ],
)  # fmt: skip
def test_what_does_not_work_says_why(name, points, values, says):
    with pytest.raises((JobError, UnitError), match=says):
        frame(name, *points, **values)


@pytest.mark.parametrize("name", list(BY_NUMBERS))
def test_every_choice_makes_sound_steel(name):
    """All combinations of choices give members that can be made, none on another."""
    kind = BY_NUMBERS[name]
    about = fields(kind.params)
    chosen = [a for a in about.items() if a[1].choices and a[0] != "turnbuckles"]  # rods alone have any
    points = SKEWED if len(kind.picks) == 4 else [(0, 0, 0), (0, 6000, 2500), (7000, 0, 0)][: len(kind.picks)]
    assert frame(name, *points, **kind.metric), "what a metric job starts from works too"
    for values in itertools.product(*(a.choices for _, a in chosen)):
        given = dict(zip([n for n, _ in chosen], values, strict=True))
        if given.get("shape") == "X" and given["crossing"] == "set off to either side" and given["pair"] != "single":
            with pytest.raises(JobError, match="choose two lengths"):
                frame(name, *points, **given)
            continue
        members = frame(name, *points, **given)
        assert double_of(members, []) is None
        shop = build(Job(members))
        said = [f.text for f in shop.all_findings]
        crossed = given.get("shape") == "X" and given["crossing"] == "both in one length"
        assert len(shop.assemblies) == len(members) and bool(said) == crossed, (given, said)
        assert all("fill the same space" in text for text in said)


@pytest.mark.parametrize("kind", list(BY_NUMBERS.values()), ids=lambda k: k.name)
@pytest.mark.parametrize("units", list(Units))
def test_forms_show_what_they_read(kind, units):
    defaults = kind.params() if units is Units.IMPERIAL else checked(kind.params, kind.metric)
    for name, about in fields(kind.params).items():
        value = getattr(defaults, name)
        again = typed_value(about, shown_value(about, value, units), units)
        assert again == (pytest.approx(value, abs=0.02) if isinstance(value, float) else value)
        assert about.words and name in msgspec.structs.asdict(defaults)
        if about.only:  # shown with some values of another field alone, all of which it can have
            other, *values = about.only
            assert set(values) < set(fields(kind.params)[other].choices)
            met = [
                about.counts(msgspec.structs.replace(defaults, **{other: v}))
                for v in fields(kind.params)[other].choices
            ]
            assert sum(met) == len(values)
    assert Line("bottom") and kind.help and kind.picks
    with pytest.raises(JobError, match="whole number"):
        typed_value(fields(BY_NUMBERS["flat truss"].params)["panels"], "six", units)
    assert shown_value(fields(BY_NUMBERS["flat truss"].params)["panels"], None, units) == ""


@pytest.mark.parametrize("web", ["Pratt", "Howe", "Warren"])
@pytest.mark.parametrize("gap", [10.0, 40.0])
def test_webs_stand_apart_on_the_chords_face_by_the_gap(web, gap):
    """Between the toes of neighbouring webs on the upper chord's underside, worked from where their axes come to it."""
    values = {"web": web, "panels": 6, "depth": 1300.0, "gap": gap, "chord": "HSS6X6X1/4", "diagonal": "HSS4X4X1/4"}
    found = frame("flat truss", (0, 0, 9000), (9000, 0, 9000), **values, post="HSS3X3X1/4")
    face = 9000.0 - section("HSS6X6X1/4").d / 2
    toes = []
    for m in found:
        run = np.subtract(m.end, m.start)
        if m.role in (Role.BRACE, Role.POST) and abs(run[2]) > 100:
            at = m.start[0] + run[0] * (face - m.start[2]) / run[2]
            half = section(m.section).d / 2 / (abs(run[2]) / np.linalg.norm(run))
            toes.append((at - half, at + half))
    toes.sort()
    near = [b[0] - a[1] for a, b in itertools.pairwise(toes) if b[0] - a[1] < 400.0]
    # webs whose axes meet on the chord's own stay there if they are farther apart than that already: no eccentricity
    meet = 2 * (9000.0 - face) * 1500 / 1300 - section("HSS4X4X1/4").d / math.sin(math.atan2(1300, 1500))
    expected = max(gap, meet) if web == "Warren" else gap
    assert len(near) >= 2 and min(near) >= gap - 0.1 and max(near) == pytest.approx(expected, abs=2.0)
