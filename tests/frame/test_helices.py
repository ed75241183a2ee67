"""Members that climb about an axis, against the closed formulas of a helix."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.catalog.sections import section
from uncus.connect.own_ends import own_ends
from uncus.frame.helices import helix_of, pieces, shares_at
from uncus.frame.moves import mirror_in, move_by, transformed, turn_about
from uncus.job.errors import JobError
from uncus.job.records import Climb, Member, Role
from uncus.mark.differences import reflected
from uncus.mark.sameness import maps
from uncus.shop.own_parts import own_part
from uncus.shop.records import body_of
from uncus.steel.flat import net_volume
from uncus.steel.forming import formed
from uncus.steel.solid import solid

SECTIONS = ("C10X15.3", "PL3/8X10", "HSS6X4X1/4", "W8X18", "HSS3.500X0.216")


def climbing(name="C10X15.3", radius=1500.0, turn=200.0, rise=3000.0, roll=0.0, **more):
    climb = Climb(1000.0, -500.0, turn)
    start = (1000.0 + radius, -500.0, 250.0)
    return Member(
        role=Role.STRINGER, section=name, start=start, end=climb.at(start, 1.0, rise), climb=climb, roll=roll, **more
    )


def made(member):
    body = body_of(member)
    part, shift = own_part(body, "", own_ends(body))
    return body, part, body.along(shift + part.length / 2).moved((shift, 0.0, 0.0))


@pytest.mark.parametrize("turn", [90.0, -200.0, 650.0, 12.0])
@pytest.mark.parametrize("rise", [3000.0, 0.0, -1200.0])
def test_length_radius_and_twist_are_those_of_a_helix(turn, rise):
    _, part, _ = made(climbing("PL3/8X10", turn=turn, rise=rise))
    run = 1500.0 * math.radians(abs(turn))
    climb = math.atan2(abs(rise), run)
    assert part.length == pytest.approx(math.hypot(run, rise), rel=1e-4)
    assert part.coil.rolled_to == pytest.approx(1500.0 / math.cos(climb) ** 2, rel=1e-6)
    assert part.coil.twist == pytest.approx(math.degrees(math.sin(climb) * math.cos(climb) / 1500.0) * 1000, abs=1e-6)
    assert math.degrees(part.coil.turn(part.length)) == pytest.approx(abs(turn), rel=1e-6)


@pytest.mark.parametrize("turn", [200.0, -200.0])
@pytest.mark.parametrize("roll", [0.0, 180.0])
def test_the_web_stands_plumb_and_is_a_circle_seen_from_above(turn, roll):
    member = climbing(turn=turn, roll=roll)
    _, part, place = made(member)
    s = section(member.section)
    xs = np.linspace(0.0, part.length, 181)
    for y in (-s.b / 2, -s.b / 2 + s.tw):  # both sides of the web
        radii = []
        for z in (-s.d / 2, 0.0, s.d / 2):
            spots = place.to_model(formed(part, np.column_stack([xs, np.full(181, y), np.full(181, z)])))
            radii.append(np.hypot(spots[:, 0] - 1000.0, spots[:, 1] + 500.0))
        lean = np.degrees(np.arctan2(np.abs(radii[2] - radii[0]), s.d))
        assert np.ptp(radii) < 1e-3 and lean.max() < 0.01


@pytest.mark.parametrize("name", SECTIONS)
@pytest.mark.parametrize("roll", [0.0, 180.0, 35.0])
def test_its_solid_has_the_volume_that_is_said_of_it(name, roll):
    for turn in (200.0, -200.0):
        _, part, _ = made(climbing(name, turn=turn, roll=roll, left_cut="level", right_cut="plumb"))
        assert solid(part).volume() == pytest.approx(net_volume(part), rel=1e-3)


@given(st.floats(-700, 700), st.floats(-2000, 4000), st.floats(300, 6000), st.floats(0, 360), st.integers(0, 10))
def test_points_come_back_out_of_the_roll(turn, rise, radius, roll, n):
    turn = 30.0 if abs(turn) < 5 else turn
    member = climbing(radius=radius, turn=turn, rise=rise, roll=roll)
    if member.problem() or radius < 600:
        return
    helix = helix_of(member, (0.0, 0.0), section(member.section).centroid)
    x = helix.length * n / 10
    y, z = 20.0, -30.0
    _, part, place = made(member)
    spot = place.to_model(formed(part, [(x, y, z)])[0])
    assert np.abs(helix.unrolled(spot) - (x, y, z)).max() < 0.02 or abs(turn) > 359


def test_ends_are_cut_plumb_and_level():
    body, part, place = made(climbing(left_cut="level", right_cut="plumb"))
    s = body.section
    corners = [(y, z) for y in (-s.b / 2, s.b / 2) for z in (-s.d / 2, s.d / 2)]
    foot = [place.to_model(formed(part, [(part.left.x(y, z), y, z)])[0]) for y, z in corners]
    assert np.ptp([p[2] for p in foot]) < 0.01
    head = [place.to_model(formed(part, [(part.right.x(y, z), y, z)])[0]) for y, z in corners]
    angles = [math.degrees(math.atan2(p[1] + 500.0, p[0] - 1000.0)) for p in head]
    assert np.ptp(angles) < 1e-4


def test_it_is_moved_and_turned_about_plumb_lines_and_mirrored():
    member = climbing(roll=0.0)
    part = made(member)[1]
    for motion in (move_by((100, 200, 300)), turn_about((5, 5, 5), (0, 0, 1), 73.0)):
        assert maps(made(transformed(member, motion))[1], part)
    image = made(transformed(member, mirror_in((0, 0, 0), (1.0, 0.3, 0.0))))[1]
    assert not maps(image, part)
    assert any(maps(one, image) for one in reflected(part))
    with pytest.raises(JobError, match="plumb"):
        transformed(member, turn_about((0, 0, 0), (1, 0, 0), 90.0))


def test_the_same_piece_end_for_end_has_one_mark_and_the_other_hand_another():
    one = climbing(turn=200.0, roll=0.0)
    up = made(one)[1]
    turned = transformed(one, turn_about((0, 0, 0), (0, 0, 1), 180.0))
    assert maps(made(turned)[1], up)
    assert not maps(made(climbing(turn=-200.0, roll=180.0))[1], up)


def test_it_is_cut_where_a_plane_crosses_it():
    member = climbing(turn=400.0)
    shares = shares_at(member, np.array([1000.0, -500.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    assert shares == pytest.approx([180 / 400, 360 / 400], abs=1e-6)
    parts = pieces(member, shares)
    assert sum(p.climb.turn for p in parts) == pytest.approx(400.0)
    assert [p.problem() for p in parts] == [None] * 3
    assert all(np.allclose(a.end, b.start, atol=1e-5) for a, b in zip(parts, parts[1:], strict=False))
