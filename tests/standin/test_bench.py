import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import how_many
from tests.steel.test_parts import rolled_parts

from uncus.catalog.sections import section
from uncus.deliver.nc import Heading, nc_text
from uncus.standin.bench import BenchError, read, rebuild, work
from uncus.steel.features import Cope, EndCut, Face, Hole
from uncus.steel.flat import net_volume
from uncus.steel.part import plate, rolled
from uncus.steel.solid import solid

HEAD = Heading("26-014", "B1", "m1", 4, texts=("Tern Point Boathouse",))


@settings(max_examples=how_many(20, 600))
@given(rolled_parts())
def test_the_bench_makes_the_part_that_was_modelled(part):
    product = work(nc_text(part, HEAD))
    assert product.volume == pytest.approx(net_volume(part), rel=0.003)
    assert len(product.bores) == len(part.holes)


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
    web = dict(program.contours)["v"]
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
