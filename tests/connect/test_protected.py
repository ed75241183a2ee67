"""Protected zones of seismic frames: by hand, what stands in them, and what sheets say."""

import pytest
from msgspec.structs import replace

from uncus.draw.drawn import draw_all
from uncus.draw.issue import reasons
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Double, End, Line, Member, Project, Role, ShopRules
from uncus.job.start import SERIES
from uncus.mark.marking import apply, propose
from uncus.shop.shop import build
from uncus.steel.features import Notch

FACE = 355.6 / 2  # W14X90: depth 14.0
D, BF = 449.58, 152.4  # W18X35: depth 17.7, flange 6.0


def frame(left="welded moment", right="moment end plate", *more, seismic=True, brace=None):
    """A beam between two columns' flanges, 8 m apart, with whatever else."""
    posts = [Member(id=id, role=Role.COLUMN, section="W14X90", start=(x, 0, 0), end=(x, 0, 6000.0), roll=90.0)
        for id, x in (("c", 0.0), ("d", 8000.0))]  # fmt: skip
    beam = Member(id="b", role=Role.BEAM, section="W18X35", start=(0, 0, 4000.0), end=(8000.0, 0, 4000.0),
        line=Line.TOP, seismic=seismic)  # fmt: skip
    ends = [Connection(id=f"m {end}", kind=kind, member="b", end=end, support=on)
        for end, kind, on in ((End.LEFT, left, "c"), (End.RIGHT, right, "d"))]  # fmt: skip
    job = Job([Project(), ShopRules(), *SERIES, *posts, beam, *ends, *more])
    return job, build(job)


def joist(x):
    member = Member(id=f"j{x}", role=Role.BEAM, section="W12X19", start=(x, 0, 4000.0), end=(x, 4000.0, 4000.0),
        line=Line.TOP)  # fmt: skip
    return member, Connection(id=f"tab {x}", kind="shear tab", member=member.id, end=End.LEFT, support="b")


def told(shop):
    return [f.text for f in shop.all_findings if "protected zone" in f.text]


@pytest.mark.parametrize(
    ("kind", "long"),
    [("welded moment", D), ("moment end plate", min(D, 3 * BF)), ("shear tab", None), ("knee", D)],
)
def test_zones_of_beams_reach_as_far_from_the_column_as_their_joints_say(kind, long):
    _, shop = frame(kind, kind)
    zones = shop.assemblies["b"].zones
    if long is None:
        assert zones == ()
        return
    assert [z.joint for z in zones] == ["m left", "m right"]
    assert zones[0].high == pytest.approx(FACE + long, abs=0.2) and zones[1].low == pytest.approx(
        8000 - FACE - long, abs=0.2
    )
    assert not frame(kind, kind, seismic=False)[1].assemblies["b"].zones


def test_past_flange_plates_a_zone_begins_at_their_last_bolt():
    _, shop = frame("flange plates", "shear tab")
    (zone,) = shop.assemblies["b"].zones
    last = max(p[0] for g in shop.connections["m left"].fasteners for p in g.points)
    assert last > FACE + 200 and zone.high == pytest.approx(last + D, abs=0.1)


def test_zones_of_a_brace_are_its_middle_quarter_and_its_depth_past_each_joint():
    one = Member(
        id="v", role=Role.BRACE, section="HSS6X6X1/4", start=(0, 0, 100.0), end=(8000.0, 0, 4000.0), seismic=True
    )
    at = Connection(
        id="g",
        kind="corner gusset",
        member="v",
        end=End.RIGHT,
        support="d",
        others=("b",),
        params={"to_column": "welded"},
    )
    _, shop = frame("shear tab", "shear tab", one, at)
    (middle, end), part = shop.assemblies["v"].zones, shop.assemblies["v"].main.part
    assert middle.high - middle.low == pytest.approx(part.length / 4)
    assert middle.low + middle.high == pytest.approx(part.length, abs=1.0)
    slot = min(x for owner, f in shop.connections["g"].features if isinstance(f, Notch) for x, _ in f.outline)
    assert end.high == pytest.approx(part.length) and end.low == pytest.approx(slot - 152.4, abs=0.01)


@pytest.mark.parametrize(
    ("x", "stands"), [(FACE + D - 30.0, True), (FACE + D + 80.0, False), (8000 - FACE - D + 60, True), (4000.0, False)]
)
def test_what_frames_into_a_zone_is_found_and_gone_when_it_moves(x, stands):
    job, shop = frame("welded moment", "moment end plate", *joist(x))
    job.follow(shop.follow)
    assert bool(told(shop)) == stands
    if stands:
        assert "Shear tab in a protected zone of the beam W18X35" in told(shop)[0]
        one = job.get(f"j{x}", Member)
        with job.change("Move") as change:
            change.put(replace(one, start=(3000.0, 0, 4000.0), end=(3000.0, 4000.0, 4000.0)))
        assert not told(shop)
        job.undo()
        assert told(shop)


@pytest.mark.parametrize(
    ("kind", "params"), [("studs", {}), ("nailer holes", {}), ("stiffeners", {"by": "count", "first": 300.0})]
)
def test_attachments_in_a_zone_are_found(kind, params):
    _, shop = frame("welded moment", "moment end plate", Attachment(id="a", kind=kind, member="b", params=params))
    assert len(told(shop)) == 1 and "from its left work point" in told(shop)[0]


def test_a_pair_of_angles_is_looked_at_in_both():
    one = Member(id="v", role=Role.BRACE, section="L4X4X3/8", start=(0, 0, 100.0), end=(8000.0, 0, 4000.0),
        seismic=True, double=Double())  # fmt: skip
    _, shop = frame("shear tab", "shear tab", one)
    assert len(shop.assemblies["v"].zones) == 1 and not told(shop)


def test_sheets_say_the_zones_and_why_they_are_stale():
    job, shop = frame()
    apply(job, propose(job, shop))

    def sheet():
        return next(e.job for e in register(job, build(job)) if e.name == "B1")

    was = sheet()
    said = " ".join(i.text for s in draw_all(was) for i in s.items if isinstance(i, Text))
    assert "PROTECTED ZONES: LEFT END TO" in said and said.count("PROTECTED ") == 3
    with job.change("Out of the seismic frame") as c:
        c.put(replace(job.get("b", Member), seismic=False))
    assert reasons(was, sheet()) == ["protected zones changed"]
    assert "PROTECTED" not in " ".join(i.text for s in draw_all(sheet()) for i in s.items if isinstance(i, Text))
