"""The NC heading, line by line, for each form of profile."""

import math

import msgspec
import numpy as np
import pytest
import shapely

from uncus.catalog.sections import section
from uncus.deliver.nc import LETTERS, Heading, Marking, nc_text
from uncus.deliver.nc_scribes import footprints, scribes_of
from uncus.frame.placement import Placement
from uncus.shop.pieces import Piece
from uncus.standin.bench import read
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.flat import face_outline
from uncus.steel.part import plate, rolled

HEAD = Heading("26-014", "m1", "m1", 3, texts=("Tern Point Boathouse", "Ünïcode"))


def lines(part):
    return nc_text(part, HEAD).splitlines()


@pytest.mark.parametrize(
    ("name", "code"),
    [
        ("W12X26", "I"),
        ("C10X15.3", "U"),
        ("L4X4X3/8", "L"),
        ("WT6X25", "T"),
        ("HSS6X4X1/4", "M"),
        ("PIPE4STD", "RO"),
        ("HEB200", "I"),
    ],
)
def test_headings(name, code):
    s = section(name)
    part, _ = rolled(s, "A992", "", EndCut(0), EndCut(3000))
    found = lines(part)
    assert found[0] == "ST" and found[-1] == "EN"
    assert [x.strip() for x in found[1:9]] == ["26-014", "m1", "1", "m1", "A992", "3", name, code]
    sizes = [float(x) for x in found[9:15]]
    assert sizes == pytest.approx([3000, s.d, s.b, s.tf, s.tw, s.r], abs=0.005)
    assert float(found[15]) == pytest.approx(s.kg_m, abs=0.001)
    assert [float(x) for x in found[17:21]] == [0, 0, 0, 0]
    assert found[21:25] == ["  Tern Point Boathouse", "  ?n?code", "  -", "  -"]
    assert all(x.isascii() for x in found)
    assert "AK" not in found and "BO" not in found and "SI" in found


def test_painted_surface_is_the_outside_of_the_profile():
    box, _ = rolled(section("HSS6X4X1/4"), "A500-C", "", EndCut(0), EndCut(1000))
    outside = (2 * (6 + 4) - 8 * 0.5 + 2 * math.pi * 0.5) * 25.4 / 1000
    assert float(lines(box)[16]) == pytest.approx(outside, rel=0.005)
    flat = plate([(0, 0), (300, 0), (300, 200), (0, 200)], 10, "A36", "")
    assert float(lines(flat)[16]) == pytest.approx(0.4)


def test_saw_angles_are_degrees_of_web_and_flange():
    part, _ = rolled(
        section("W12X26"),
        "A992",
        "",
        EndCut(0, 0.0, math.tan(math.radians(10))),
        EndCut(3000, math.tan(math.radians(-20)), 0.0),
    )
    web_start, web_end, flange_start, flange_end = (float(x) for x in lines(part)[17:21])
    assert (web_start, web_end, flange_start, flange_end) == pytest.approx((10, 0, 0, -20), abs=0.001)


def test_the_stamp_keeps_clear_of_holes():
    holes = [Hole(Face.WEB, x, 0.0, 22.0) for x in (290.0, 320.0, 500.0)]
    part, _ = rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(3000), holes)
    stamp = next(x for x in lines(part) if x.endswith("rm1"))
    x = float(stamp.split("u")[0].split()[1])
    assert min(abs(x - h.x) for h in holes) > 40


def test_a_plate_is_its_own_rectangle_and_contour():
    part = plate([(0, -50), (200, -50), (200, 50), (0, 50)], 12.7, "A36", "", [Hole(Face.WEB, 50, 0, 20)])
    found = lines(part)
    assert found[8].strip() == "B" and [float(x) for x in found[9:11]] == [200, 100]
    assert "  v 50.00u 50.00 20.00 0.00" in found
    start = found.index("AK")
    points = [tuple(float(v.rstrip("u")) for v in x.split()[1:3]) for x in found[start + 1 : start + 6]]
    assert points[0] == points[-1] and {(0, 0), (200, 0), (200, 100), (0, 100)} == set(points)


def test_what_sits_on_a_piece_is_scribed_with_its_mark(sample):
    """Every plate welded to a web is inside an outline on that face, as thick as it is; pieces alike keep what all
    of them have."""
    _, shop = sample
    tabbed = [
        a
        for a in shop.shipped.values()
        if any(p.words == "shear tab" for p in a.pieces) and a.member.section.startswith("W")
    ]
    one = min(tabbed, key=lambda a: a.id)
    by_id = {p.id: a for a in shop.shipped.values() for p in a.pieces}
    found = scribes_of([one.main], by_id, lambda id: id[-4:])
    welded = {j for w in one.welds if one.main.id in w.joins for j in w.joins} - {one.main.id}
    sat = {p.id[-4:] for p in one.pieces if p.id in welded}
    assert found and {s.mark for s in found} <= sat
    for scribe in found:
        assert scribe.points[0] == scribe.points[-1]
        outline = shapely.Polygon(scribe.points)
        assert (
            face_outline(one.main.part, scribe.face if scribe.face is not Face.BACK else Face.WEB)
            .buffer(0.1)
            .covers(outline)
        )
    program = read(nc_text(one.main.part, HEAD, Marking(True, "KO", found)))
    assert [s.face for s in program.scribes] == [LETTERS[s.face] for s in found]
    assert program.stamps == ["m1", *(s.mark for s in found)]
    bare = read(nc_text(one.main.part, HEAD, Marking(False)))
    assert not bare.scribes and not bare.stamps
    stripped = msgspec.structs.replace(one, welds=(), member=msgspec.structs.replace(one.member, id="other"))
    other = msgspec.structs.replace(one.main, id="other")
    alike = scribes_of(
        [one.main, other], {**by_id, "other": stripped}, lambda id: id[-4:] + ("x" if id == "other" else "")
    )
    assert alike == found or not alike


@pytest.mark.parametrize(("side", "face"), [(-1, Face.WEB), (1, Face.BACK)])
@pytest.mark.parametrize("flat", [False, True], ids=["web", "plate"])
def test_a_tab_on_either_side_of_a_web_or_a_plate_is_scribed_where_it_stands(flat, side, face):
    beam_, _ = rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(3000))
    main = plate([(0, -150), (900, -150), (900, 150), (0, 150)], 12, "A36", "") if flat else beam_
    tab = plate([(0, 0), (100, 0), (100, 200), (0, 200)], 10, "A36", "")
    reach = 6.0 if flat else section("W12X26").tw / 2
    # its length stands off the web, its thickness along the beam
    place = Placement((500.0, side * reach, -100.0), np.column_stack([(0, side, 0), (-side, 0, 0), (0, 0, 1)]))
    (scribe,) = footprints(Piece("a", main, Placement.identity(), "a", "beam", "a"),
        Piece("b", tab, place, "a", "tab", "c"), "p7")  # fmt: skip
    spots = np.array(scribe.points)
    assert (scribe.face, scribe.mark) == (face, "p7")
    assert (spots.min(axis=0), spots.max(axis=0)) == (pytest.approx((495, -100)), pytest.approx((505, 100)))
