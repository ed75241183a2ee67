"""Outlines of plates out of drawings that others made."""

import io
import math
import random

import ezdxf
import pytest

from uncus.deliver.flat_dxf import flat_dxf
from uncus.frame.outlines import circle, polygon, rectangle
from uncus.job.blanks import Blank, Corner, HoleRow
from uncus.job.errors import JobError
from uncus.reference.plate_outline import read_outline
from uncus.steel.blanks import cut_to
from uncus.steel.features import EndCut


def drawn(tmp_path, draw, units=4):
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = units
    draw(document.modelspace())
    path = tmp_path / "plate.dxf"
    document.saveas(path)
    return path


def test_what_we_write_we_read_as_it_was(tmp_path):
    ring = (Corner(0, -150, round=40), Corner(500, -150, clip=30), Corner(500, 150, 0.2), Corner(0, 150))
    blank = Blank(ring, (rectangle((200, -60), (300, 0)),), (HoleRow(60, 0, 22, columns=2, rows=2, dx=80, dz=70),))
    part, _ = cut_to(blank, 10.0, "A36", "", (EndCut(0.0), EndCut(500.0)))
    path = tmp_path / "p1.dxf"
    path.write_bytes(flat_dxf(part))
    read = read_outline(path)
    assert polygon(read.outline).symmetric_difference(polygon(blank.outline)).area < 5.0
    assert sorted((round(h.x), round(h.z), h.d) for h in read.holes) == sorted(
        (round(x), round(z), 22.0) for x, z in blank.holes[0].spots()
    )
    assert len(read.openings) == 1 and sum(bool(c.bulge) for c in read.outline) == 2


def test_lines_and_arcs_that_meet_make_it_in_any_order_and_way(tmp_path):
    lines = [((0, 0), (400, 0)), ((400, 200), (400, 0)), ((100, 300), (0, 300)), ((0, 300), (0, 0))]

    def draw(space):
        random.Random(3).shuffle(lines)
        for a, b in lines:
            space.add_line(a, b)
        space.add_arc((400, 300), 100, 180, 270)
        space.add_arc((400, 300), 100, 190, 260, dxfattribs={"layer": "notes"})
        space.add_line((100, 300), (300, 300))
        space.add_circle((200, 100), 11)
        space.add_circle((200, 200), 80)
        space.add_text("PL 3/8")

    read = read_outline(drawn(tmp_path, draw))
    assert polygon(read.outline).area == pytest.approx(400 * 300 - math.pi * 100**2 / 4, rel=1e-3)
    assert [h.d for h in read.holes] == [22.0] and len(read.openings) == 1


@pytest.mark.parametrize(("units", "size"), [(1, 25.4), (2, 304.8), (4, 1.0), (5, 10.0), (6, 1000.0), (0, 1.0)])
def test_units_are_as_the_file_says(tmp_path, units, size):
    path = drawn(tmp_path, lambda space: space.add_lwpolyline([(0, 0), (12, 0), (12, 6), (0, 6)], close=True), units)
    assert polygon(read_outline(path).outline).bounds[2:] == pytest.approx((12 * size, 6 * size))
    if not units:
        assert polygon(read_outline(path, inches=True).outline).bounds[2] == pytest.approx(12 * 25.4)


def test_a_disc_is_a_plate(tmp_path):
    read = read_outline(drawn(tmp_path, lambda s: (s.add_circle((5, 5), 200), s.add_circle((5, 5), 20))))
    assert polygon(read.outline).area == pytest.approx(polygon(circle(0, 0, 200)).area)
    assert [h.d for h in read.holes] == [40.0]


def _open(space):
    space.add_line((0, 0), (400, 0))
    space.add_line((400, 0), (400, 200))


@pytest.mark.parametrize("what", ["nothing", "open", "crossing", "no dxf", "cut short", "missing", "bits"])
def test_what_is_no_outline_is_refused_in_a_sentence(tmp_path, what):
    draws = {"open": _open, "crossing": lambda s: s.add_lwpolyline([(0, 0), (9, 9), (9, 0), (0, 9)], close=True)}
    path = drawn(tmp_path, draws.get(what, lambda s: None))
    if what == "no dxf":
        path.write_bytes(b"\x00\xff" * 300)
    elif what == "cut short":
        path.write_bytes(path.read_bytes()[:900])
    elif what == "missing":
        path = tmp_path / "none.dxf"
    elif what == "bits":
        data = bytearray(drawn(tmp_path, lambda s: s.add_lwpolyline([(0, 0), (9, 0), (9, 9)], close=True)).read_bytes())
        for _ in range(400):
            data[random.Random(1).randrange(len(data))] = 255
        path.write_bytes(bytes(data[: len(data) // 3]))
    with pytest.raises(JobError) as told:
        read_outline(path)
    assert str(told.value).endswith(".") and path.name in str(told.value)


def test_numbers_that_are_none_are_left_out(tmp_path):
    out = io.StringIO()
    document = ezdxf.new("R2010")
    document.modelspace().add_lwpolyline([(0, 0), (100, 0), (100, 50), (0, 50)], close=True)
    document.modelspace().add_circle((50, 25), 5)
    document.write(out)
    path = tmp_path / "a.dxf"
    path.write_text(out.getvalue().replace("\n 40\n5.0\n", "\n 40\nnan\n"))
    assert read_outline(path).holes == ()
