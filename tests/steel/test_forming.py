"""Rolled and bent parts: their solids keep their volume and sizes, and joints on arcs land to the hundredth."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import how_many
from tests.steel.test_double import placed_solid
from uncus.catalog.sections import section
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.draw.gathering import of_assembly
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, End, Member, Project, Role, ShopRules
from uncus.job.start import new_job
from uncus.mark.marking import Marks
from uncus.shop.lines import hole_snaps
from uncus.shop.shop import build
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.flat import net_volume
from uncus.steel.flats import flats
from uncus.steel.forming import Bend, Curve, formed, neutral_radius, zone
from uncus.steel.part import plate, rolled
from uncus.steel.solid import facets, solid
from uncus.units import Units


@settings(max_examples=how_many(20, 400))
@given(st.floats(15, 150), st.floats(1, 4), st.floats(4, 20), st.sampled_from([-1, 1]))
def test_a_bent_plate_measures_what_its_legs_and_angle_say(angle, radii, t, way):
    radius = radii * t
    bend = Bend(0, 150, 400, 150, way * angle, radius)
    part = plate([(0, 0), (400, 0), (400, 300), (0, 300)], t, "A36", "", [Hole(Face.WEB, 200, 280, 18)], [bend])
    body = solid(part)
    assert len(body.decompose()) == 1 and body.volume() == pytest.approx(net_volume(part), rel=0.03)
    hole, far = formed(part, [(200, 0, 280), (200, 0, 300)])
    run = (far - hole) / 20
    assert math.degrees(math.acos(np.clip(run[2], -1, 1))) == pytest.approx(angle) and way * run[1] <= 0
    leg = 150 - zone(bend, t) / 2  # flat past the bend's zone
    corner = formed(part, [(200, 0, 300 - leg)])[0]
    assert np.linalg.norm(far - corner) == pytest.approx(leg)
    whole = [shapely.Polygon(one.outline) for one in flats(part.outline, part.bends, t)]
    assert len(whole) == 2 and [one.area for one in whole] == pytest.approx([400 * leg] * 2)


def test_the_neutral_fibre_is_that_of_the_standard():
    # DIN 6935: r/s of 5 and more bends about the middle of the thickness, r/s = 1 at 0.65 of half of it
    assert neutral_radius(50, 10) == pytest.approx(55, abs=0.01)
    assert neutral_radius(10, 10) == pytest.approx(10 + 0.65 * 5)


@pytest.mark.parametrize("name", ["W12X26", "C10X15.3", "L4X4X3/8", "HSS6X4X1/4"])
@pytest.mark.parametrize("turn", [0.0, 90.0, 200.0])
def test_an_arc_keeps_its_length_about_the_axis_and_its_ends_are_cut_true(name, turn):
    s, curve = section(name), Curve(5000.0, turn)
    part, _ = rolled(s, "A992", "", EndCut(0.0), EndCut(4000.0, 0.1, 0.2), (), curve)
    body = solid(part)
    assert len(body.decompose()) == 1
    assert body.volume() == pytest.approx(solid(rolled(s, "A992", "", EndCut(0.0),
        EndCut(4000.0, 0.1, 0.2))[0]).volume(), rel=0.02)  # fmt: skip
    ends = formed(part, [(0, 0, 0), (4000, 0, 0), (2000, 0, 0)])
    long = part.length
    assert np.linalg.norm(formed(part, [(long, 0, 0)])[0] - ends[0]) == pytest.approx(curve.chord(long), abs=0.01)
    at = part.right.at
    frame = formed(part, [(at, 0, 0), (at, 1, 0), (at, 0, 1)])
    normal = np.cross(frame[1] - frame[0], frame[2] - frame[0])
    normal = normal - 0.1 * (frame[1] - frame[0]) - 0.2 * (frame[2] - frame[0])
    off = (np.array(body.to_mesh64().vert_properties)[:, :3] - frame[0]) @ normal
    assert off.max() < 0.01 and (off > -0.01).sum() >= 4, "the end is a plane, sloped as the straight length's is"


def _arched(bow):
    job = Job(new_job("arched", "1", Units.IMPERIAL))
    with job.change("frame") as c:
        c.put(Member(id="a", role=Role.BEAM, section="W12X26", start=(0, 0, 4000), end=(6000, 0, 4000), bow=bow))
        at = np.array([3000, 0, 4000]) + np.array(bow)
        c.put(
            Member(id="p", role=Role.BEAM, section="W8X18", start=tuple(at), end=(float(at[0]), 2500.0, float(at[2])))
        )
        for n, x in enumerate((0.0, 6000.0)):
            c.put(Member(id=f"c{n}", role=Role.COLUMN, section="W8X31", start=(x, 0, 0), end=(x, 0, 5000)))
            end = End.RIGHT if n else End.LEFT
            c.put(Connection(id=f"k{n}", kind="shear tab", member="a", end=end, support=f"c{n}", params={}))
        c.put(Connection(id="k2", kind="shear tab", member="p", end=End.LEFT, support="a", params={}))
    return job


@pytest.mark.parametrize("bow", [(0, 0, 600.0), (0, 0, -250.0), (0, 400.0, 0.0)])
def test_bolts_pass_their_holes_wherever_they_join_an_arc(bow):
    job = _arched(bow)
    shop = build(job)
    pieces = {p.id: p for p in shop.pieces()}
    checked = 0
    for made in shop.connections.values():
        assert made.fasteners, made.findings
        for group in made.fasteners:
            for at in group.points:
                for id in group.joins:
                    spots = np.array([s.point for s in hole_snaps(pieces[id])]) - at
                    off = np.linalg.norm(np.cross(spots, group.axis), axis=1).min()
                    assert off < 0.1, (id, off)
                    checked += 1
    assert checked >= 12
    main = shop.assemblies["a"].main.part
    assert main.curve is not None and main.length > 5600


_STANDING = [name for name, kind in ATTACHMENTS.items() if kind.places and kind.rolls and not kind.crosses]


@pytest.mark.sampled(4)
@pytest.mark.parametrize("bow", [(0, 0, 300.0), (0, 0, -300.0), (0, 300.0, 0), (0, -200.0, 200.0)])
@pytest.mark.parametrize("name", ["W16X31", "C12X20.7", "HSS8X4X1/4", "WT6X20"])
@pytest.mark.parametrize("kind", _STANDING)
def test_what_stands_on_an_arc_touches_it_where_the_straight_length_has_it(kind, name, bow):
    """Its pieces are those of the straight length, as far along; each touches the arc, and none is in it."""

    def made(bow, long):
        one = Member(id="a", role=Role.BEAM, section=name, start=(0, 0, 0), end=(long, 0, 0), bow=bow)
        params = {"code": "HOOK-120"} if kind == "bought items" else {}
        return build(Job([Project(), ShopRules(), one, Attachment(id="s", kind=kind, member="a", params=params)]))

    shop = made(bow, 6000.0)
    arc, body = shop.body("a").arc, shop.body("a")
    straight = made((0, 0, 0), arc.length)
    there, plain = shop.assemblies["a"], straight.assemblies["a"]
    assert [f.text for f in shop.all_findings] == [f.text for f in straight.all_findings]
    assert [p.part for p in there.pieces[1:]] == [p.part for p in plain.pieces[1:]]
    main = placed_solid(there.main)
    slack = facets(there.main.part) + 0.02
    for one, other in zip(there.pieces[1:], plain.pieces[1:], strict=True):
        spot, before = (arc.unrolled(p.placement.to_model(p.part.centre)) if p is one else
            straight.body("a").frame.to_local(p.placement.to_model(p.part.centre)) for p in (one, other))  # fmt: skip
        assert spot[0] == pytest.approx(before[0], abs=0.01) and np.allclose(spot[1:], before[1:], atol=2.0)
        steel = placed_solid(one)
        assert main.min_gap(steel, 10.0) < slack or not any(one.id in w.joins and "a" in w.joins for w in there.welds)
        shared = main ^ steel
        assert 2 * shared.volume() < (slack + 0.1) * shared.surface_area() or shared.volume() < 2.0
    studs = [(head, group.axis) for group in there.holds for head in group.points]
    assert len(studs) == sum(len(g.points) for g in plain.holds)
    for head, axis in studs:
        x, up = arc.unrolled(np.array(head))[0], body.along(0).axes
        assert abs(float(np.dot(axis, arc.at(x).axes[:, 2]))) == pytest.approx(1.0), up
    sheet = of_assembly(there, Marks(Job([])), shop, Job([Project()]))
    flat = of_assembly(plain, Marks(Job([])), straight, Job([Project()]))
    where = [sorted(tuple(np.round(f.centre, 0)) for f in s.fixed) for s in (sheet, flat)]
    assert np.allclose(where[0], where[1], atol=3.0), "on paper they stand where the straight length has them"


def test_an_arc_says_what_it_cannot_take():
    job = _arched((0, 0, 600.0))
    with job.change("edge") as c:
        c.put(Attachment(id="s", member="a", kind="edge plates", params={}))
        c.put(Attachment(id="long", member="a", kind="bearing plates", params={"long": 1200.0}))
    texts = [f.text for f in build(job).all_findings]
    assert any("rolled to an arc" in t and "Edge plates" in t for t in texts)
    assert any("stands off it by" in t and "make it shorter" in t for t in texts)
    problem = Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(1000, 0, 0), bow=(0, 0, 700)).problem()
    assert problem and "two arcs" in problem
