import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Point, Polygon, box

from tests.conftest import how_many
from uncus.catalog.sections import section
from uncus.steel.features import Cope, EndCut, Face, Hole, Notch
from uncus.steel.flat import cope_outline, face_outline, gross_weight, net_volume, net_weight
from uncus.steel.part import Part, plate, rolled
from uncus.steel.profile import area
from uncus.steel.solid import edges, mesh, plain_mesh, solid

SECTIONS = [
    "W12X26",
    "W10X49",
    "S12X35",
    "C10X15.3",
    "L4X4X3/8",
    "L6X4X1/2",
    "WT6X25",
    "HSS6X4X1/4",
    "PIPE4STD",
    "IPE200",
    "UPN200",
]
SLOPE = st.floats(-0.6, 0.6)


@st.composite
def rolled_parts(draw, names=tuple(SECTIONS)):
    """Any section with sloped and skewed ends, holes in any wall, copes on flanged ones."""
    s = section(draw(st.sampled_from(names)))
    length = draw(st.integers(1500, 9000))
    left, right = (EndCut(at, draw(SLOPE), draw(SLOPE)) for at in (0.0, float(length)))
    features = []
    faces = [Face.WEB]
    if s.form == "I":
        faces += [Face.TOP, Face.BOTTOM]
    for n in range(draw(st.integers(0, 6))):
        face = draw(st.sampled_from(faces))
        w = draw(st.floats(-0.25, 0.25)) * s.d if face is Face.WEB else draw(st.sampled_from([-0.3, 0.3])) * s.b
        slot = draw(st.sampled_from([0.0, 35.0]))
        features.append(
            Hole(face, 500.0 + n * (length - 1000) / 6, w, 20.0, slot, draw(st.sampled_from([0.0, 30.0, 90.0])))
        )
    if s.flanged:
        for right_end in (False, True):
            if draw(st.booleans()):
                features.append(
                    Cope(
                        right_end,
                        draw(st.booleans()),
                        draw(st.floats(60, 200)),
                        draw(st.floats(0.15, 0.35)) * s.d,
                        12.7,
                    )
                )
    return rolled(s, "A992", "", left, right, features)[0]


@settings(max_examples=how_many(20, 600))
@given(rolled_parts())
def test_volume_by_features_is_that_of_the_solid(part):
    assert net_volume(part) == pytest.approx(solid(part).volume(), rel=0.002)


@settings(max_examples=how_many(25, 250))
@given(rolled_parts())
def test_solids_are_closed_and_as_long_as_said(part):
    body = solid(part)
    assert body.volume() > 0 and len(body.decompose()) == 1
    assert 0 < net_weight(part) <= gross_weight(part) * (1 + 1e-9)
    low_x, high_x = body.bounding_box()[0], body.bounding_box()[3]
    assert low_x >= -0.01 and high_x <= part.length + 0.01
    m = mesh(part)
    assert 3 * len(m.triangles) % 2 == 0 and len(edges(m)) > 0


def test_equal_parts_are_one_solid():
    a, _ = rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(6000), [Hole(Face.WEB, 100, 0, 20)])
    b, shift = rolled(section("W12X26"), "A992", "", EndCut(500), EndCut(6500), [Hole(Face.WEB, 600.0000001, 0, 20)])
    assert a == b and hash(a) == hash(b) and shift == 500
    assert solid(a) is solid(b) and plain_mesh(a) is plain_mesh(b)


def test_weights_are_the_handbooks_gross_and_the_features_net():
    s = section("W12X26")
    plain, _ = rolled(s, "A992", "", EndCut(0), EndCut(1000))
    holed, _ = rolled(s, "A992", "", EndCut(0), EndCut(1000), [Hole(Face.WEB, 100, 0, 20.0)])
    assert gross_weight(plain) == gross_weight(holed) == pytest.approx(38.69, abs=0.01)
    assert net_volume(plain) == pytest.approx(area(s) * 1000)
    assert net_weight(plain) == pytest.approx(gross_weight(plain)), "the handbook's, though the model is a little more"
    gone = math.pi / 4 * 400 * s.tw / (area(s) * 1000)
    assert net_weight(holed) == pytest.approx(gross_weight(plain) * (1 - gone))
    assert net_volume(plain) - net_volume(holed) == pytest.approx(math.pi / 4 * 400 * s.tw)
    triangle = plate([(0, 0), (100, 0), (0, 200)], 10, "A36", "")
    assert net_weight(triangle) == pytest.approx(100 * 200 / 2 * 10 * 7.85e-6)
    assert gross_weight(triangle) == pytest.approx(2 * net_weight(triangle))


def test_a_bevelled_end_runs_to_its_longest_point():
    s = section("W12X26")
    part, shift = rolled(s, "A992", "", EndCut(0, 0, 0.5), EndCut(3000))
    assert shift == pytest.approx(-0.5 * s.d / 2)
    assert part.length == pytest.approx(3000 + 0.5 * s.d / 2, abs=1e-3)
    web = face_outline(part, Face.WEB)
    assert web.area == pytest.approx(3000 * s.d)


def test_what_is_left_must_be_something():
    with pytest.raises(ValueError, match="nothing is left"):
        rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(0.5))


def test_notches_cut_one_face_only():
    s = section("W12X26")
    notch = Notch(Face.TOP, ((500, 0), (600, 0), (600, 200), (500, 200)))
    part, _ = rolled(s, "A992", "", EndCut(0), EndCut(1000), [notch])
    gone = area(s) * 1000 - net_volume(part)
    assert gone == pytest.approx(100 * s.b / 2 * s.tf, rel=1e-6)
    assert solid(part).volume() == pytest.approx(net_volume(part), rel=2e-3)
    assert isinstance(part, Part) and part.notches == (notch,)


@pytest.mark.parametrize("right", [False, True])
@pytest.mark.parametrize("bottom", [False, True])
@pytest.mark.parametrize("radius", [0.0, 12.7, 40.0, 90.0])
def test_a_cope_is_a_box_with_its_corner_rounded_about_its_own_centre(right, bottom, radius):
    """Against a box, and a circle that touches both of its inner sides."""
    part, _ = rolled(section("W12X26"), "A992", "", EndCut(0.0), EndCut(2000.0))
    (low, high), length, depth = part.depth_range, 110.0, 60.0
    own = Polygon(cope_outline(part, Cope(right, bottom, length, depth, radius)))
    x0, x1 = (2000.0 - length, 2000.0) if right else (0.0, length)
    z0, z1 = (low, low + depth) if bottom else (high - depth, high)
    r = min(radius, depth)
    corner_x, corner_z = (x0 if right else x1), (z1 if bottom else z0)
    centre = corner_x + (r if right else -r), corner_z + (-r if bottom else r)
    square = box(min(corner_x, centre[0]), min(corner_z, centre[1]), max(corner_x, centre[0]), max(corner_z, centre[1]))
    expected = (
        box(x0, z0, x1, z1).difference(square).union(square.intersection(Point(centre).buffer(r, 64)) if r else square)
    )
    inside = own.intersection(box(0.0, low, 2000.0, high))
    assert inside.symmetric_difference(expected).area < 0.02 * max(1.0, r * r)
    assert own.area > inside.area + 5.0 * (length + depth) - 1.0, (
        "it reaches past the steel, so that nothing is left of it"
    )
