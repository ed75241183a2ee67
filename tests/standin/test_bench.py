import math
import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import how_many
from tests.steel.test_parts import rolled_parts

from uncus.catalog.sections import section
from uncus.deliver.nc import Heading, burst, nc_text
from uncus.deliver.nc_proof import differs
from uncus.job.errors import JobError
from uncus.standin.bench import BenchError, read, rebuild, work
from uncus.steel.features import Cope, EndCut, Face, Hole, Notch
from uncus.steel.flat import net_volume
from uncus.steel.forming import Bend
from uncus.steel.part import plate, rolled
from uncus.steel.solid import mesh, solid

HEAD = Heading("26-014", "B1", "m1", 4, texts=("Tern Point Boathouse",))


@pytest.mark.parametrize("name", ["W16X31", "C12X20.7"])
@pytest.mark.parametrize("saw", [EndCut(0.0, 0.0, 0.3), EndCut(0.0, 0.3, 0.2)])
def test_a_saw_makes_one_end_and_the_torch_the_other(name, saw):
    """The right end is burnt off all faces, so that what is sawn and what is burnt are told apart end by end."""
    off = ((2800.0, -400.0), (3200.0, -400.0), (3200.0, 400.0), (2800.0, 400.0))
    notches = [Notch(face, off) for face in (Face.WEB, Face.TOP, Face.BOTTOM)]
    part, _ = rolled(section(name), "A992", "", saw, EndCut(3000.0), notches)
    assert differs(part, read(nc_text(part, HEAD))) is None


@settings(max_examples=how_many(20, 600))
@given(rolled_parts())
def test_the_bench_makes_the_part_that_was_modelled(part):
    if burst(part):
        with pytest.raises(JobError, match="runs out over an edge"):
            nc_text(part, HEAD)
        return
    program = read(nc_text(part, HEAD))
    assert differs(part, program) is None
    (lo, _, _), (hi, _, _) = mesh(part).points.min(axis=0), mesh(part).points.max(axis=0)
    by_saw = all(a or b.square for a, b in zip((any(program.cuts[0::2]), any(program.cuts[1::2])),
        (part.left, part.right), strict=True))  # fmt: skip
    assert program.length == pytest.approx(hi - lo, abs=0.02 if by_saw else 8.0), "the steel's own length"


def test_the_bench_puts_every_hole_where_the_model_has_it():
    """Solids laid over one another: nothing differs but slivers. Holes in all faces, both hands, slots, copes."""
    s = section("W12X26")
    features = [
        Hole(Face.WEB, 300, 60, 20.6),
        Hole(Face.TOP, 500, 40, 22),
        Hole(Face.BOTTOM, 800, 50, 26),
        Hole(Face.BOTTOM, 1200, -30, 20, 60, 25),
        Hole(Face.WEB, 1600, -30, 20, 60, 25),
        Cope(False, False, 100, 40, 12.7),
        Cope(True, True, 150, 60, 12.7),
    ]
    part, _ = rolled(s, "A992", "", EndCut(0, 0, 0.2), EndCut(2000), features)
    made = rebuild(read(nc_text(part, HEAD))).translate((0, -s.b / 2, -s.d / 2))
    model = solid(part)
    assert (made - model).volume() + (model - made).volume() < 0.001 * model.volume()
    box = plate([(0, 0), (300, 0), (300, 200), (60, 200), (0, 120)], 12, "A36", "", [Hole(Face.WEB, 80, 60, 20.6)])
    flat = rebuild(read(nc_text(box, HEAD))).translate((0, -6, 0))
    assert (flat - solid(box)).volume() + (solid(box) - flat).volume() < 0.001 * solid(box).volume()


@pytest.mark.parametrize("w", [0, 20, -28.575, 40])
def test_a_hole_off_the_middle_of_a_round_tube_goes_through_its_leaning_wall(w):
    plain, bored = (
        rolled(section("PIPE4STD"), "A53B", "", EndCut(0), EndCut(800), holes)[0]
        for holes in ([], [Hole(Face.WEB, 300, w, 20.6)])
    )
    gone = net_volume(plain) - net_volume(bored)
    for volume in (lambda part: work(nc_text(part, HEAD)).volume, lambda part: solid(part).volume()):
        assert volume(plain) - volume(bored) == pytest.approx(gone, rel=0.03)


def test_faces_are_unfolded_and_heights_run_as_the_standard_draws_them():
    s = section("W12X26")
    part, _ = rolled(
        s,
        "A992",
        "",
        EndCut(0),
        EndCut(2000),
        [
            Hole(Face.WEB, 300, s.d / 2 - 50, 20),
            Hole(Face.TOP, 500, -s.b / 2 + 30, 22),
            Hole(Face.BOTTOM, 600, -s.b / 2 + 30, 22),
        ],
    )
    program = read(nc_text(part, HEAD))
    at = {b.face: (round(b.x, 2), round(b.y, 2)) for b in program.bores}
    assert at == {"v": (300, round(s.d - 50, 2)), "o": (500, 30), "u": (600, round(s.b - 30, 2))}
    assert (program.mark, program.quantity, program.profile, program.code, program.grade) == (
        "m1",
        4,
        "W12X26",
        "I",
        "A992",
    )
    assert program.contours == [], "a plain beam needs no contour"


def test_rounded_copes_are_written_as_arcs():
    part, _ = rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(2000), [Cope(False, False, 100, 40, 12.7)])
    program = read(nc_text(part, HEAD))
    (web,) = (c.points for c in program.contours if c.face == "v")
    assert [round(v.radius, 1) for v in web if v.radius] == [-12.7] and len(web) == 8


GOOD = nc_text(
    rolled(
        section("W12X26"),
        "A992",
        "",
        EndCut(0),
        EndCut(2000),
        [Hole(Face.WEB, 300, 0, 20), Cope(False, False, 100, 40, 12.7)],
    )[0],
    HEAD,
)


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ("ST\n", "", "starts with ST"),
        ("EN\n", "", "must be EN"),
        ("\n  I\n", "\n  Q\n", "profile code"),
        ("  4\n", "  many\n", "more than nothing"),
        ("BO\n", "XX\n", "no block"),
        ("300.00u", "3000.00u", "misses the steel"),
        ("300.00u", "1995.00u", "breaks out over an edge"),
        ("AK\n", "IK\n", "wrong way round"),
        ("EN\n", "KA\n  v 1.00u 1.00 90.00\nEN\n", "a bend needs"),
        ("20.00 0.00\n", "0.00 0.00\n", "diameter"),
        ("20.00 0.00\n", "wide\n", "not numbers"),
        ("  v 300.00u", "  v 300.00q", "not a BO line"),
        ("2000.00\n", "nan\n", "out of reach"),
        ("2000.00\n", "\x1e\n", "a number is missing"),
    ],
)
def test_a_spoiled_program_is_refused_with_its_line(old, new, says):
    assert old in GOOD
    with pytest.raises(BenchError, match=says):
        work(GOOD.replace(old, new, 1))


@settings(max_examples=how_many(66, 2000))
@given(st.integers(0, len(GOOD) - 1), st.integers(0, 60), st.text(max_size=20))
def test_whatever_is_read_is_worked_or_refused(at, cut, junk):
    try:
        work(GOOD[:at] + junk + GOOD[at + cut :])
    except BenchError as refused:
        assert str(refused)


THROUGH = rolled(
    section("HSS10X10X3/8"),
    "A500-C",
    "",
    EndCut(0),
    EndCut(5200),
    [Notch(f, ((2600.0, -5.0), (2850.0, -5.0), (2850.0, 5.0), (2600.0, 5.0))) for f in (Face.WEB, Face.BACK)],
)[0]
PIPE = rolled(section("PIPE4STD"), "A53B", "", EndCut(0), EndCut(3000),
    [Notch(f, ((-5.0, -6.0), (180.0, -6.0), (180.0, 6.0), (-5.0, 6.0))) for f in (Face.WEB, Face.BACK)])[0]  # fmt: skip
FOLDED = plate([(0, 0), (300, 0), (300, 200), (0, 200)], 10, "A36", "", [Hole(Face.WEB, 250, 60, 20)],
    [Bend(100, 0, 100, 200, 60.0, 15.0)])  # fmt: skip
COPED = rolled(
    section("W16X31"), "A992", "", EndCut(0, 0.1, -0.14), EndCut(4000, 0, 0.3), [Cope(False, False, 120, 40, 12.7)]
)[0]


@pytest.mark.parametrize(
    ("part", "old", "new", "says"),
    [
        (THROUGH, r"IK\n(  v.*\n)+", "", "leaves steel on its web at x 2[67]"),
        (THROUGH, r"(IK\n  v )2850", r"\g<1>2853", None),
        (PIPE, r"AK\n(  h.*\n)+", "", "leaves steel"),
        (FOLDED, r"60.00 15.00", "-60.00 15.00", "a bend lies elsewhere"),
        (FOLDED, r"KA\n.*\n", "", "0 bends of 1"),
        (FOLDED, r"  v 250.00u", "  v 251.00u", "its face at x"),
        (COPED, r"(AK\n  o )(\d+)\.", r"\g<1>3900.", None),
    ],
)
def test_a_program_that_does_not_give_the_part_is_told_with_the_place(part, old, new, says):
    """A slot of 0.17 % of a tube's weight, a bend the other way, a hole a millimetre off, a corner of a flange."""
    text = nc_text(part, HEAD)
    assert differs(part, read(text)) is None
    spoiled, count = re.subn(old, new, text, count=1)
    assert count == 1
    try:
        assert (found := differs(part, read(spoiled))) and re.search(says or "at x", found)
    except BenchError:
        assert says is None


def test_cutouts_run_the_other_way_and_the_steel_begins_at_nothing():
    program = read(nc_text(THROUGH, HEAD))
    assert [(c.face, c.inner) for c in program.contours] == [("v", False), ("v", True), ("h", False), ("h", True)]
    long = read(nc_text(COPED, HEAD))
    spans = [(min(v.x for v in c.points), max(v.x for v in c.points)) for c in long.contours]
    assert min(a for a, _ in spans) == 0.0 and max(b for _, b in spans) == pytest.approx(long.length, abs=0.01)
    assert long.length < COPED.length - 5 and long.cuts[0] == 0.0 and long.cuts[1] == pytest.approx(
        math.degrees(math.atan(0.3)), abs=0.01)  # fmt: skip
