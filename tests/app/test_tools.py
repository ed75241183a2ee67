"""Picking tools are fed events and give previews and changes: no window needed."""

import numpy as np
import pytest

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.picking import Pickables
from uncus.app.canvas.scene import batches, extent
from uncus.app.tools.connect_one import ConnectTool
from uncus.app.tools.draw_members import BeamTool, ColumnTool, MeasureTool, measured
from uncus.app.tools.tool import Tool
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.records import End, Line, Member, Role
from uncus.units import FOOT, UnitError, Units

I = Units.IMPERIAL
BEAM = Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(1, 0, 0), line=Line.TOP)


def at(*point, piece=""):
    return Snap(point, "test", piece)


def test_a_beam_from_two_picks_or_a_typed_length():
    tool = BeamTool(I, BEAM)
    assert tool.picked(at(0, 0, 0)) is None and "far end" in tool.prompt
    tool.moved(at(3000, 4000, 0))
    assert tool.preview().members[0].end == (3000, 4000, 0) and tool.preview().words == "16'-4 7/8"
    done = tool.picked(at(3000, 4000, 0))
    assert done.put[0].section == "W12X26" and done.put[0].work_length == 5000 and tool.start is None
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 700, 0))
    assert tool.typed("18'").put[0].end == pytest.approx((0, 18 * FOOT, 0))
    tool.picked(at(0, 0, 0))
    assert tool.back() and not tool.back()


@pytest.mark.parametrize("text", ["18 parsecs", "0", ""])
def test_a_bad_length_is_refused_and_the_first_pick_kept(text):
    tool = BeamTool(I, BEAM)
    with pytest.raises((JobError, UnitError)):
        tool.typed("18'")
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 700, 0))
    with pytest.raises((JobError, UnitError)):
        tool.typed(text)
    assert tool.start is not None
    with pytest.raises(JobError, match="two different points"):
        tool.picked(at(0, 0, 0))


def test_columns_stand_on_each_pick_at_the_typed_height():
    tool = ColumnTool(I, BEAM, 12 * FOOT)
    assert tool.typed("14'") is None and "14'-0" in tool.prompt
    tool.moved(at(1, 2, 3))
    assert tool.preview().members[0].end == (1, 2, 3 + 14 * FOOT)
    a, b = tool.picked(at(0, 0, 0)), tool.picked(at(1, 0, 0))
    assert a.put[0].id != b.put[0].id and a.put[0].start == (0, 0, 0)
    with pytest.raises(JobError, match="too short"):
        tool.typed("1")


def test_measures_show_each_axis():
    tool = MeasureTool(I)
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 0, 10))
    assert tool.preview().line
    done = tool.picked(at(3 * FOOT, 4 * FOOT, 0))
    assert measured(done.a, done.b, I) == "5'-0   x 3'-0  y 4'-0"
    assert measured((0, 0, 0), (0, 0, 25.4), I) == "1"
    assert Tool(I).picked(at(0, 0, 0)) is None and Tool(I).preview().members == ()


def test_connecting_one_end_picks_the_nearer(job):
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    tool = ConnectTool(job)
    with pytest.raises(JobError, match="no member here"):
        tool.picked(at(0, 0, 0))
    with pytest.raises(JobError, match="first"):
        tool.typed("")
    tool.picked(at(*beam.end, piece=beam.id))
    assert tool.end is End.RIGHT
    with pytest.raises(JobError, match="cannot hold itself"):
        tool.picked(at(0, 0, 0, piece=beam.id))
    other = next(m for m in job.all(Member) if m.role is Role.COLUMN)
    (made,) = tool.picked(at(0, 0, 0, piece=other.id)).put
    assert (made.kind, made.member, made.end, made.support) == ("shear tab", beam.id, End.RIGHT, other.id)
    tool.picked(at(*other.start, piece=other.id))
    assert tool.typed("").put[0].kind == "base plate"


def test_the_camera_keeps_what_is_under_the_pointer_in_place():
    camera = Camera()
    point = np.array([3000.0, -500.0, 2000.0])
    before = camera.to_screen(point)[0]
    camera.orbit(40, -25, point)
    assert np.allclose(camera.to_screen(point)[0][:2], before[:2])
    camera.zoom(0.5, *before[:2])
    assert np.allclose(camera.to_screen(point)[0][:2], before[:2])
    camera.pan(10, -20)
    assert np.allclose(camera.to_screen(point)[0][:2], before[:2] + (10, -20))
    origin, direction = camera.ray(*camera.to_screen(point)[0][:2])
    away = point - origin
    assert np.linalg.norm(away - (away @ direction) * direction) < 1e-3
    clip = camera.matrix() @ np.append(point, 1)
    pixel = [(clip[0] + 1) / 2 * camera.width, (1 - clip[1]) / 2 * camera.height]
    assert np.allclose(pixel, camera.to_screen(point)[0][:2])


def test_framing_shows_everything(sample):
    camera = Camera()
    points = extent(sample[1].assemblies.values())
    camera.frame(points)
    screen = camera.to_screen(points)
    assert (screen[:, :2] >= 0).all() and (screen[:, 0] <= camera.width).all() and (screen[:, 1] <= camera.height).all()


def test_a_sight_line_meets_the_nearest_piece(sample):
    shop = sample[1]
    camera, pickables = Camera(), Pickables(shop.assemblies, shop.assemblies)
    camera.frame(extent(shop.assemblies.values()))
    hits = 0
    for assembly in shop.assemblies.values():
        middle = np.mean([assembly.member.start, assembly.member.end], axis=0)
        x, y, depth = camera.to_screen(middle)[0]
        found = pickables.at(*camera.ray(x, y))
        assert found is not None
        hits += found[0].owner == assembly.id
        assert camera.to_screen(found[1])[0][2] <= depth + 300, "nothing behind the member is picked through it"
    assert hits > len(shop.assemblies) * 0.6
    assert pickables.at(*camera.ray(-5000, -5000)) is None


def test_boxes_take_what_is_inside_or_what_they_touch(sample):
    shop = sample[1]
    camera, pickables = Camera(), Pickables(shop.assemblies, shop.assemblies)
    camera.frame(extent(shop.assemblies.values()))
    screen = camera.to_screen(pickables.corners().reshape(-1, 3))[:, :2].reshape(-1, 8, 2)
    everything = (-50.0, -50.0, camera.width + 50.0, camera.height + 50.0)
    assert pickables.within(screen, everything, True) == set(shop.assemblies)
    half = (0.0, 0.0, camera.width / 2, float(camera.height))
    inside, touched = pickables.within(screen, half, True), pickables.within(screen, half, False)
    assert inside < touched < set(shop.assemblies)
    assert Pickables({}, ()).within(np.zeros((0, 8, 2)), half, True) == set()


def test_equal_parts_are_drawn_as_one_batch(sample):
    shop = sample[1]
    made = batches(shop.assemblies.values())
    assert len(made) < 40
    parts = sum(len(b.places) for b in made)
    assert parts == len(list(shop.pieces())) + sum(len(f.points) for f in shop.fasteners())
    assert {o for b in made for o in b.owners} == set(shop.assemblies)
