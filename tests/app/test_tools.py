"""Picking tools are fed events and give previews and changes: no window needed."""

import math

import numpy as np
import pytest
from msgspec.structs import replace

from uncus.app.canvas import massing
from uncus.app.canvas.camera import Camera
from uncus.app.canvas.laid import Layouts
from uncus.app.canvas.picking import Pickables
from uncus.app.canvas.scene import Solid, extent
from uncus.app.tools.change_members import (
    ArrayTool,
    CopyTool,
    MirrorTool,
    MoveTool,
    RotateTool,
    WorkPointTool,
    labels_of,
)
from uncus.app.tools.connect_one import ConnectTool
from uncus.app.tools.cut_members import SplitTool, TrimTool
from uncus.app.tools.draw_members import BeamTool, ColumnTool, NumbersTool, PolylineTool
from uncus.app.tools.guide import ACROSS, BOLTS, GAGES, PARALLEL, ROUND, GuideTool
from uncus.app.tools.lay_out import DepthTool, MemberPlaneTool, ThreePointsTool, ViewFrameTool, grips, stretched
from uncus.app.tools.measure import MeasureTool
from uncus.app.tools.tool import Commit, Tool
from uncus.frame.grids import make_grid, runs
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.frame.planes import Plane, level_plane
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Connection, End, Grid, Guide, Level, Line, Member, Role, ViewFrame
from uncus.job.start import usual_rules
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import Shop, build
from uncus.units import FOOT, UnitError, Units

BEAM = Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(1, 0, 0), line=Line.TOP)


class Place:
    """Where tools work, without a window: a job, its steel, a plane, some members chosen."""

    def __init__(self, records=(), chosen=(), **options):
        self.job = Job(records)
        self.shop = build(self.job)
        self.plane = level_plane(Level(name="Floor", elevation=0.0))
        self.chosen, self.options = list(chosen), options
        self.grid = next(iter(self.job.all(Grid)), None)
        self.units = Units.IMPERIAL

    @property
    def members(self):
        return [m for id in self.chosen if (m := self.job.get(id, Member))]

    def remembered(self, tool):
        return self.options


def at(*point, piece="", line=None):
    return Snap(tuple(map(float, point)), "test", piece, line=line)


def test_a_beam_from_two_picks_or_a_typed_length():
    tool = BeamTool(Place(), BEAM)
    assert tool.picked(at(0, 0, 0)) is None and "far end" in tool.prompt
    tool.moved(at(3000, 4000, 0))
    assert tool.preview().members[0].end == (3000, 4000, 0) and tool.preview().words.startswith("16'-4 7/8")
    done = tool.picked(at(3000, 4000, 0))
    assert done.put[0].section == "W12X26" and done.put[0].work_length == 5000 and not tool.picks
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 700, 0))
    assert tool.typed("18'").put[0].end == pytest.approx((0, 18 * FOOT, 0))
    tool.picked(at(0, 0, 0))
    assert tool.typed("3', 4'").put[0].end == pytest.approx((3 * FOOT, 4 * FOOT, 0))
    tool.picked(at(0, 0, 0))
    assert tool.back() and not tool.back()


@pytest.mark.parametrize("text", ["18 parsecs", "0", ""])
def test_a_bad_length_is_refused_and_the_first_pick_kept(text):
    tool = BeamTool(Place(), BEAM)
    with pytest.raises((JobError, UnitError)):
        tool.typed("18'")
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 700, 0))
    with pytest.raises((JobError, UnitError)):
        tool.typed(text)
    assert len(tool.picks) == 1
    with pytest.raises(JobError, match="two different points"):
        tool.picked(at(0, 0, 0))
    assert len(tool.picks) == 1


def test_columns_stand_on_each_pick_at_the_typed_height():
    tool = ColumnTool(Place(boathouse()), BEAM, 12 * FOOT)
    assert tool.typed("14'") is None and "14'-0" in tool.prompt
    tool.moved(at(1, 2, 3))
    assert tool.preview().members[0].end == pytest.approx((1, 2, 3 + 14 * FOOT))
    a, b = tool.picked(at(0, 0, 0)), tool.picked(at(1, 0, 0))
    assert a.put[0].id != b.put[0].id and a.put[0].start == (0, 0, 0)
    assert tool.typed("2/B").put[0].start == pytest.approx((22 * FOOT, 20 * FOOT, 0))
    for text, says in (("1", "too short"), ("tall", "not a length"), ("9/Z", "no grid crossing")):
        with pytest.raises((JobError, UnitError), match=says):
            tool.typed(text)


def test_a_path_becomes_members():
    tool = PolylineTool(Place(), BEAM)
    with pytest.raises(JobError, match="two points"):
        tool.typed("")
    for p in ((0, 0, 0), (3000, 0, 0), (3000, 4000, 0)):
        tool.picked(at(*p))
    with pytest.raises(JobError, match="no length"):
        tool.picked(at(3000, 4000, 0))
    tool.moved(at(0, 4000, 0))
    assert len(tool.preview().members) == 3 and "3 members" in tool.preview().words
    assert [m.end for m in tool.typed("").put] == [(3000, 0, 0), (3000, 4000, 0)]


def test_a_frame_by_numbers_is_seen_before_it_is_made():
    tool = NumbersTool(Place(shape="mono", eaves=4000.0, nonsense=3), BY_NUMBERS["portal frame"])
    assert tool.options.shape == "mono"
    tool.set_option("shape", "pitched")
    with pytest.raises(JobError, match="must lie between"):
        tool.set_option("eaves", 1.0)
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 0, 5))
    assert "above one another" in tool.preview().words
    tool.moved(at(9000, 0, 0))
    assert len(tool.preview().members) == 4
    done = tool.picked(at(9000, 0, 0))
    assert len(done.put) == 4 and "4 members made" in done.words and tool.options.eaves == 4000


def test_measures_of_every_kind():
    tool = MeasureTool(Place())
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, 0, 10))
    assert tool.preview().lines
    assert tool.picked(at(3 * FOOT, 4 * FOOT, 0)).words == "5'-0   x 3'-0  y 4'-0"
    tool.picked(at(0, 0, 0))
    assert tool.picked(at(0, 0, 25.4)).words == "1"
    tool.set_option("kind", "angle")
    tool.picked(at(0, 0, 0)), tool.picked(at(1000, 0, 0))
    assert tool.picked(at(500, 500, 1000)).words == "65.91°   on the plane 45°"
    tool.picked(at(0, 0, 0)), tool.picked(at(1000, 0, 0))
    with pytest.raises(JobError, match="three different"):
        tool.picked(at(0, 0, 0))
    tool.set_option("kind", "edge distance")
    tool.picked(at(50.8, 38.1, 0))
    with pytest.raises(JobError, match="Pick the edge"):
        tool.picked(at(0, 0, 0))
    done = tool.picked(at(0, 0, 0, line=((0, 0, 0), (9, 0, 0))))
    assert done.words == "1 1/2" and done.points[1] == (50.8, 0, 0)
    tool.set_option("kind", "chain")
    for x in (0, 304.8, 914.4):
        tool.picked(at(x, 0, 0))
    assert tool.typed("").words == "1'-0 + 2'-0 = 3'-0"
    with pytest.raises(JobError, match="two points"):
        tool.typed("")
    assert Tool(Place()).picked(at(0, 0, 0)) is None and Tool(Place()).preview().members == ()


# -- changing the selected ------------------------------------------------------------------------------

A = Member(id="a", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(6000, 0, 0))
B = Member(id="b", role=Role.BEAM, section="W12X26", start=(2000, 0, 0), end=(2000, 4000, 0))
JOINT = Connection(id="j", kind="shear tab", member="b", end=End.LEFT, support="a")


def ends(done):
    return sorted((m.start[:2], m.end[:2]) for m in done.put if isinstance(m, Member))


def test_copies_follow_one_another_with_or_without_connections():
    tool = CopyTool(Place([A, B, JOINT], ["a", "b"]))
    tool.picked(at(0, 0, 0))
    tool.moved(at(0, -5000, 0))
    assert len(tool.preview().members) == 2
    done = tool.picked(at(0, -5000, 0))
    assert ends(done) == [((0, -5000), (6000, -5000)), ((2000, -5000), (2000, -1000))]
    assert "with 1 connection" in done.words
    tool.set_option("connections", "without")
    again = tool.picked(at(0, -9000, 0))
    assert not any(isinstance(r, Connection) for r in again.put) and len(again.put) == 2
    with pytest.raises(JobError, match="nothing was made"):
        tool.picked(at(0, 0, 0))
    with pytest.raises(JobError, match="works on members"):
        CopyTool(Place([A])).picked(at(0, 0, 0))


POSTS = [
    Member(id=f"post{n}", role=Role.COLUMN, section="W10X49", start=(6000.0 * n, 0, 0), end=(6000.0 * n, 0, 5000.0))
    for n in range(4)
]
LOW = replace(POSTS[3], id="low", section="W8X31", start=(24_000, 0, 0), end=(24_000, 0, 5000.0))
SPAN = Member(id="span", role=Role.BEAM, section="W12X26", start=(0, 0, 4000), end=(6000, 0, 4000), line=Line.TOP)
HELD = [
    Connection(id=f"held {end}", kind="shear tab", member="span", end=end, support=f"post{n}")
    for n, end in enumerate(End)
]


def test_copies_are_joined_to_what_stands_there_as_the_first_s_supports_do_and_the_rest_is_told():
    """A beam between columns, arrayed over the bays: each copy is joined to its own columns; the last bay's column is
    another, so that joint is left out and said."""
    place = Place([*POSTS, LOW, SPAN, *HELD], ["span"], count=3)
    tool = ArrayTool(place)
    tool.picked(at(0, 0, 0))
    done = tool.picked(at(6000, 0, 0))
    joints = [r for r in done.put if isinstance(r, Connection)]
    held = sorted((str(c.support), str(c.end)) for c in joints)
    assert held == [("post1", "left"), ("post2", "left"), ("post2", "right"), ("post3", "left"), ("post3", "right")]
    assert len({c.id for c in joints} | {"held left", "held right"}) == 7
    assert done.words == (
        "3 members copied with 5 connections; 1 joint left out, as nothing stands there like what holds the first"
    )
    job = Job([usual_rules(Units.IMPERIAL), *place.job.records.values(), *done.put])
    assert not Shop(job.records.values()).all_findings
    tool.set_option("connections", "without")
    tool.picked(at(0, 0, 0))
    assert "left out" not in tool.picked(at(6000, 0, 0)).words


@pytest.mark.parametrize("other", [{"roll": 90.0}, {"section": "W8X31"}, {"start": (6000.0, 2.0, 0.0)},
    {"end": (6000.0, 0.0, 3000.0)}, {"line": Line.TOP}])  # fmt: skip
def test_what_only_looks_like_a_support_holds_no_copy(other):
    tool = CopyTool(Place([POSTS[0], replace(POSTS[1], **other), SPAN, HELD[0]], ["span"]))
    tool.picked(at(0, 0, 0))
    assert "1 joint left out" in tool.picked(at(6000, 0, 0)).words


def test_what_is_moved_is_held_by_what_stands_at_its_new_place():
    tool = MoveTool(Place([*POSTS, SPAN, *HELD], ["span"]))
    tool.picked(at(0, 0, 0))
    done = tool.picked(at(6000, 0, 0))
    assert {(r.id, r.support) for r in done.put if isinstance(r, Connection)} == {
        ("held left", "post1"), ("held right", "post2")}  # fmt: skip


def test_a_tool_follows_an_undo_meanwhile():
    place = Place([A, B], ["b"])
    tool = MoveTool(place)
    for _ in range(2):
        tool.picked(at(0, 0, 0))
        done = tool.picked(at(0, 500, 0))
        assert done.put[0].start == (2000, 500, 0), "from where it is, not from where it was moved to"
        with place.job.change("move") as change:
            change.put(done.put[0])
        place.job.undo()
    with place.job.change("gone") as change:
        change.drop("b")
    with pytest.raises(JobError, match="works on members"):
        tool.picked(at(0, 0, 0))


@pytest.mark.parametrize(
    "kept", [{"count": -4}, {"count": "many"}, {"connections": "perhaps"}, {"count": [1]}, {"x": 1}]
)
def test_options_that_no_longer_fit_fall_back(kept):
    assert ArrayTool(Place([B], ["b"], **kept)).options == type(ArrayTool(Place([B], ["b"])).options)()


def test_moving_takes_connections_off_where_asked():
    tool = MoveTool(Place([A, B, JOINT], ["b"], connections="without"))
    tool.picked(at(0, 0, 0))
    done = tool.typed("0, 0, 300mm")
    assert done.put[0].start == (2000, 0, 300) and done.drop == ("j",)


def test_rotating_by_angle_or_by_directions():
    tool = RotateTool(Place([A, B], ["b"]))
    tool.picked(at(2000, 0, 0))
    assert ends(tool.typed("180")) == [((2000, 0), (2000, -4000))]
    tool.picked(at(2000, 0, 0)), tool.picked(at(2000, 1000, 0))
    tool.moved(at(2000, -1000, 0))
    assert tool.preview().words == "-180°"
    tool.set_option("originals", "stay")
    done = tool.picked(at(2000, -1000, 0))
    assert done.put[0].id != "b" and ends(done) == [((2000, 0), (2000, -4000))]
    tool.picked(at(0, 0, 0))
    for text in ("0", "some"):
        with pytest.raises((JobError, UnitError)):
            tool.typed(text)


def test_mirroring_in_a_line():
    tool = MirrorTool(Place([A, B, JOINT], ["a", "b"]))
    tool.picked(at(0, -1000, 0))
    with pytest.raises(JobError, match="same"):
        tool.picked(at(0, -1000, 50))
    done = tool.picked(at(500, -1000, 0))
    assert ends(done) == [((0, -2000), (6000, -2000)), ((2000, -2000), (2000, -6000))]
    assert [r.params for r in done.put if isinstance(r, Connection)] == [{"side": "far"}]


def test_arrays_by_count_and_to_grid_lines():
    tool = ArrayTool(Place(boathouse(), ["x"], count=2))
    column = Member(id="x", role=Role.COLUMN, section="W8X31", start=(0, -3000, 0), end=(0, -3000, 3000))
    tool.site.job = Job([*boathouse(), column])
    tool.chosen_ids = ["x"]
    tool.picked(at(0, 0, 0))
    assert ends(tool.picked(at(0, -500, 0))) == [((0, -4000), (0, -4000)), ((0, -3500), (0, -3500))]
    tool.set_option("lines", "2-4")
    done = tool.picked(at(0, 0, 0))
    assert [m.start[0] for m in done.put] == pytest.approx([22 * FOOT, 42 * FOOT, 64 * FOOT])
    tool.set_option("lines", "9")
    with pytest.raises(JobError, match="no grid line “9”"):
        tool.picked(at(0, 0, 0))
    tool.set_option("lines", "B")
    assert tool.picked(at(1234, 0, 0)).put[0].start[1] == pytest.approx(20 * FOOT - 3000)
    tool.set_option("lines", "")
    tool.set_option("count", 10_000_000)
    tool.picked(at(0, 0, 0))
    with pytest.raises(JobError, match="20,000"):
        tool.picked(at(0, -500, 0))
    assert labels_of("4-2, 1", ["1", "2", "3", "4"]) == ["2", "3", "4", "1"]


@pytest.mark.parametrize("away", [1, -1])
@pytest.mark.parametrize("lines", ["3", "2, 3"])
def test_an_array_to_a_skewed_grid_line_stands_on_it_and_turns_with_it(lines, away):
    """Line 3 leans by 20 degrees: what stands along line 1 stands along it there, from the crossing of the same letter
    or, off any crossing, from the nearest point; and it is said."""
    lean = 20.0 * away
    grid = make_grid([6000.0, 6000.0], [5000.0])
    numbers = (*grid.numbers[:2], replace(grid.numbers[2], turn=lean))
    along = Member(id="b", role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(0, 4000, 0))
    tool = ArrayTool(Place([replace(grid, id="grid", numbers=numbers), along], ["b"], lines=lines))
    run = next(r for r in runs(tool.site.grid) if r.label == "3")
    for y in (0.0, 1700.0):
        done = tool.picked(at(0, y, 0))
        last = done.put[-1]
        for point in (last.start, last.end):
            assert abs(run.away(*point[:2])) < 1e-6, "on the line, from one end to the other"
        assert math.dist(last.start, last.end) == pytest.approx(4000)
        assert len(done.put) == len(lines.split(",")) and "turned with grid line 3, 20° off" in done.words
        foot = np.array(last.start[:2]) + np.array(run.along) * y
        met = np.array(run.at(float(-np.dot(run.origin, run.along)))) if y == 0.0 else None
        assert y or np.allclose(foot, (12_000, 0)) or np.allclose(foot, met), "from the crossing with A"
        assert y == 0.0 or np.linalg.norm(foot - (0, y)) == pytest.approx(abs(run.away(0, y))), "the nearest point"
    if "," in lines:
        assert done.put[0].start[0] == pytest.approx(6000) and done.put[0].end[0] == pytest.approx(6000)


def test_a_work_point_moves_what_stands_on_it():
    tool = WorkPointTool(Place([A, B]))
    with pytest.raises(JobError, match="No member has its end"):
        tool.picked(at(9, 9, 9))
    tool.picked(at(6000, 0, 0))
    tool.moved(at(6000, 600, 0))
    assert "2 follow" in tool.preview().words
    done = tool.picked(at(6000, 600, 0))
    assert {m.id: m.start[:2] for m in done.put} == {"a": (0, 0), "b": (2000, 200)}


def test_splitting_by_lines_and_keeping_a_side():
    tool = SplitTool(Place([A, B, JOINT], ["a"]))
    tool.picked(at(3000, -900, 0)), tool.picked(at(3000, 900, 0))
    done = tool.typed("")
    assert ends(done) == [((0, 0), (3000, 0)), ((3000, 0), (6000, 0))] and "1 cut into 2" in done.words
    with pytest.raises(JobError, match="Pick both ends"):
        tool.typed("")
    tool = SplitTool(Place([A, B, JOINT], ["a"], keep="the right end's side"))
    tool.picked(at(3000, -900, 0)), tool.picked(at(3000, 900, 0))
    done = tool.typed("")
    assert ends(done) == [((3000, 0), (6000, 0))] and set(done.drop) >= {"a", "j"}
    tool = SplitTool(Place([B], ["b"], by="work plane"))
    tool.site.plane = Plane("wall", tool.site.plane.base.__class__((0, 1000, 0), [[1, 0, 0], [0, 0, 1], [0, -1, 0]]))
    assert ends(tool.typed("")) == [((2000, 0), (2000, 1000)), ((2000, 1000), (2000, 4000))]


def test_trimming_to_a_picked_member_or_the_plane():
    short = Member(id="s", role=Role.BEAM, section="W12X26", start=(0, 3000, 0), end=(1500, 3000, 0))
    tool = TrimTool(Place([A, B, short], ["s"]))
    with pytest.raises(JobError, match="no member here"):
        tool.picked(at(0, 0, 0))
    with pytest.raises(JobError, match="Pick the member"):
        tool.typed("")
    done = tool.picked(at(2000, 1000, 0, piece="b"))
    assert done.put[0].end == (2000, 3000, 0) and "1 extended" in done.words
    with tool.site.job.change("extend") as change:
        change.put(done.put[0])
    with pytest.raises(JobError, match="already"):
        tool.picked(at(2000, 1000, 0, piece="b"))


@pytest.mark.parametrize(("turn", "lean", "section", "off"), [
    (0.0, 0.0, "W10X49", 10.0 * 25.4 / 2),  # to the flange, half the depth off the line
    (90.0, 0.0, "W10X49", 0.34 * 25.4 / 2),  # to the web, half its thickness
    (0.0, 25.0, "HSS8X8X1/2", 4 * 25.4 / math.cos(math.radians(25))),
    (0.0, 0.0, "PIPE8STD", 8.625 * 25.4 / 2),
])  # fmt: skip
@pytest.mark.parametrize("right", [False, True])
def test_trimming_to_the_face_of_a_member(turn, lean, section, off, right):
    post = Member(id="post", role=Role.COLUMN, section=section, start=(0, 0, 0), end=(0, 0, 5000), roll=turn + 90)
    way = np.array([math.cos(math.radians(lean)), math.sin(math.radians(lean)), 0.0])
    near, far = (200 * way + (0, 0, 3000)).tolist(), (4000 * way + (0, 0, 3000)).tolist()
    ends = (far, near) if right else (near, far)
    one = Member(id="one", role=Role.BEAM, section="W12X26", start=tuple(ends[0]), end=tuple(ends[1]))
    tool = TrimTool(Place([post, one], ["one"], to="a member's face"))
    moved = tool.picked(at(0, 0, 2000, piece="post")).put[0]
    end, other = (moved.end, moved.start) if right else (moved.start, moved.end)
    assert float(np.array(end) @ way) == pytest.approx(off, abs=0.4) and other == pytest.approx(far)


# -- laying out -------------------------------------------------------------------------------------------


def test_guides_of_every_kind(sample):
    job, shop = sample
    tool = GuideTool(Place())
    tool.picked(at(0, 0, 0))
    (first,) = tool.picked(at(500, 0, 0)).put
    assert first == Guide(id=first.id, a=(0, 0, 0), b=(500, 0, 0))
    line = ((0, 0, 0), (6000, 0, 0))
    tool.set_option("kind", PARALLEL)
    with pytest.raises(JobError, match="between its ends"):
        tool.picked(at(0, 0, 0))
    tool.picked(at(0, 0, 0, line=line))
    tool.moved(at(100, -50, 0))
    assert tool.preview().words == "1 15/16"
    guide = tool.typed("6'-8").put[0]
    assert guide.a[1] == pytest.approx(-80 * 25.4) and guide.endless
    tool.picked(at(0, 0, 0, line=line))
    assert tool.picked(at(5, 700, 0)).put[0].a[1] == 700
    tool.set_option("kind", ACROSS)
    tool.set_option("angle", 45.0)
    tool.picked(at(0, 0, 0, line=line))
    guide = tool.picked(at(100, 0, 0)).put[0]
    d = np.subtract(guide.b, guide.a)
    assert d[0] == pytest.approx(d[1]) and guide.a == (100, 0, 0)
    tool.site.job, tool.site.shop = job, shop
    assembly = next(a for a in shop.assemblies.values() if a.member.role is Role.COLUMN)
    plate = next(p for p in assembly.pieces if p.words == "base plate")
    middle = plate.placement.to_model((plate.part.length / 2, 0, 0))
    on_plate = at(*middle, piece=assembly.id)
    tool.set_option("kind", ROUND)
    ring = tool.picked(on_plate).put
    assert len(ring) == 4 and not any(g.endless for g in ring)
    tool.set_option("kind", BOLTS)
    assert len(tool.picked(on_plate).put) == 4, "two rows each way of four rods"
    tool.set_option("kind", GAGES)
    main = assembly.main
    flange = at(*main.placement.to_model((main.part.length / 2, 0, 0)), piece=assembly.id)
    assert len(tool.picked(flange).put) == 4
    with pytest.raises(JobError, match="no usual gage"):
        tool.picked(on_plate)
    with pytest.raises(JobError, match="no piece here"):
        tool.picked(at(0, 0, 0))


def test_planes_by_picking_and_depth():
    tool = ThreePointsTool(Place())
    tool.picked(at(0, 0, 0)), tool.picked(at(1000, 0, 0))
    with pytest.raises(JobError, match="in line"):
        tool.picked(at(5000, 0, 0))
    plane = tool.picked(at(0, 0, 500))
    assert np.allclose(plane.base.z, (0, -1, 0))
    place = Place([A])
    web = MemberPlaneTool(place, flat=False).picked(at(0, 0, 0, piece="a"))
    assert np.allclose(np.abs(web.base.z), (0, 1, 0)) and web.name == "web of beam W12X26"
    with pytest.raises(JobError, match="no member here"):
        MemberPlaneTool(place, flat=True).picked(at(0, 0, 0))
    depth = DepthTool(place)
    assert depth.typed("-2'").depth == pytest.approx(-2 * FOOT)
    assert depth.picked(at(9, 9, 700)).depth == 700
    with pytest.raises(JobError, match="out of reach"):
        depth.typed("20000000mm")


def test_view_frames_are_placed_and_stretched_by_their_grips():
    tool = ViewFrameTool(Place(before=100.0))
    tool.picked(at(0, 0, 0))
    frame = tool.picked(at(6000, -4000, 0)).put[0]
    assert (frame.width, frame.height, frame.before, frame.origin) == (6000, 4000, 100, (3000, -2000, 0))
    assert frame.name == "Floor 1"
    for n, p in enumerate(grips(frame)):
        assert stretched(frame, n, p) == frame, "a grip put where it is changes nothing"
    wide = stretched(frame, 5, (9000, 77, 0))
    assert (wide.width, wide.height, wide.origin) == (9000, 4000, (4500, -2000, 0))
    assert stretched(frame, 0, (99_000, 99_000, 0)).width == 1.0, "never inside out"
    tool.picked(at(0, 0, 0))
    with pytest.raises(JobError, match="opposite corner"):
        tool.picked(at(0, 5, 0))
    assert isinstance(frame, ViewFrame) and Commit("x").put == ()


def test_connecting_one_end_picks_the_nearer(job):
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    tool = ConnectTool(Place(job.records.values()))
    with pytest.raises(JobError, match="no member here"):
        tool.picked(at(0, 0, 0))
    with pytest.raises(JobError, match="first"):
        tool.typed("")
    tool.picked(at(*beam.end, piece=beam.id))
    assert tool.end is End.RIGHT
    with pytest.raises(JobError, match="takes part already"):
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
    camera, pickables = Camera(), Pickables(Layouts.of(shop.assemblies.values()))
    camera.frame(extent(shop.assemblies.values()))
    hits = 0
    for assembly in shop.assemblies.values():
        middle = np.mean([assembly.member.start, assembly.member.end], axis=0) + assembly.member.bow
        x, y, depth = camera.to_screen(middle)[0]
        found = pickables.at(*camera.ray(x, y))
        assert found is not None
        hits += found[0].owner == assembly.id
        assert camera.to_screen(found[1])[0][2] <= depth + 300, "nothing behind the member is picked through it"
    assert hits > len(shop.assemblies) * 0.6
    assert pickables.at(*camera.ray(-5000, -5000)) is None


def test_boxes_take_what_is_inside_or_what_they_touch(sample):
    shop = sample[1]
    camera, pickables = Camera(), Pickables(Layouts.of(shop.assemblies.values()))
    camera.frame(extent(shop.assemblies.values()))
    screen = camera.to_screen(pickables.corners().reshape(-1, 3))[:, :2].reshape(-1, 8, 2)
    everything = (-50.0, -50.0, camera.width + 50.0, camera.height + 50.0)
    assert pickables.within(screen, everything, True) == set(shop.assemblies)
    half = (0.0, 0.0, camera.width / 2, float(camera.height))
    inside, touched = pickables.within(screen, half, True), pickables.within(screen, half, False)
    assert inside < touched < set(shop.assemblies)
    assert Pickables(Layouts()).within(np.zeros((0, 8, 2)), half, True) == set()


def test_equal_parts_are_drawn_as_one_batch(sample):
    shop = sample[1]
    laid = Layouts.of(shop.assemblies.values())
    made = Solid().follow(laid, laid.flags((), False)).values()
    assert len(made) < 60
    parts = sum(len(b.places) for b in made)
    assert parts == len(list(shop.pieces())) + sum(len(f.points) for f in shop.fasteners())
    assert {laid.owners[o] for b in made for o in b.owners} == set(shop.assemblies)


@pytest.mark.parametrize("most", [10**9, 0])
def test_a_moving_view_draws_what_lies_in_it_and_where_it_is(sample, monkeypatch, most):
    """All of it from afar, some of it from near by; its stock, or boxes of the size of each piece."""
    monkeypatch.setattr(massing, "MOST", most)
    laid, camera = Layouts.of(sample[1].assemblies.values()), Camera()
    mass = massing.Massing(laid, laid.flags((), False))
    camera.frame(extent(sample[1].assemblies.values()))
    whole = mass.picture(camera)
    assert sum(len(b.places) for b in whole) == laid.count and mass.picture(camera) is whole
    for batch in whole:
        for place, owner in zip(batch.places, batch.owners, strict=True):
            points = batch.shape.triangles[:, :3] @ place.reshape(3, 4)[:, :3].T + place.reshape(3, 4)[:, 3]
            rows = np.array(laid.rows[laid.owners[owner]])
            away = np.linalg.norm(points[:, None] - laid.centre[rows], axis=2) - laid.radius[rows]
            fills = (away.max(axis=0) < 1.0) & (away.max(axis=0) > -0.2 * laid.radius[rows])
            assert fills.any(), "an instance lies about one of its owner's pieces, and is as large as it"
    camera.zoom(0.05, camera.width / 2, camera.height / 2)
    near = mass.picture(camera)
    assert 0 < sum(len(b.places) for b in near) < laid.count / 2


def test_rows_that_are_let_go_are_used_again(sample):
    there = dict(sample[1].assemblies)
    laid = Layouts.of(there.values())
    size, some = len(laid.there), list(there)[::3]
    less = {id: a for id, a in there.items() if id not in some}
    laid.follow(less, some)
    assert laid.count == sum(len(a.pieces) for a in less.values()) == int(laid.there.sum())
    assert not set(some) & {laid.owners[n] for n in laid.owner[laid.there]}
    laid.follow(there)
    assert len(laid.there) == size and laid.count == sum(len(a.pieces) for a in there.values())
    pieces = sorted(str(p) for p in laid.pieces if p is not None)
    assert pieces == sorted(str(p) for p in sample[1].pieces())
