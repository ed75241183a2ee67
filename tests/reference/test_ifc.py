"""Others' IFC models, in all three schemas: what is read, where it stands, what it is made into."""

import itertools
import json
import math
import random

import msgspec
import numpy as np
import pytest
from typer.testing import CliRunner

from tests.reference.made_up import Written, along, moved, turned
from uncus.catalog.sections import section
from uncus.frame.axes import member_frame
from uncus.job.records import Member, Reference, Role
from uncus.reference.ifc_sweeps import arc_through, axes3
from uncus.reference.members import Left, Made, Settings, made
from uncus.reference.placing import placed, shift_for
from uncus.reference.profiles import Names, by_outline, twins
from uncus.reference.reading import read
from uncus.steel import profile
from uncus.steel.part import EndCut, rolled
from uncus.steel.profile import outline
from uncus.steel.solid import mesh
from uncus.units import Units

SCHEMAS = ("IFC2X3", "IFC4", "IFC4X3")
HERE = Reference(name="theirs", path="theirs.ifc")


def all_made(model, of=HERE, **how):
    return [made(model, n, of, Settings(**how)) for n in range(len(model.products))]


def stands_as(found, name, start, end, z, role=None):
    """Whether a member is a section between two points on its middle line (either way), its web in a direction."""
    assert isinstance(found, Made), found
    member = found.member
    s = section(member.section)
    assert name == s.name or (name in twins(s) and any(name in note for note in found.notes)), (name, found)
    frame = member_frame(member, s)
    long = member.work_length - member.right_back
    ends = frame.to_model([(member.left_back, 0, 0), (long, 0, 0)])
    off = min(np.abs(ends - [a, b]).max() for a, b in ((start, end), (end, start)))
    assert off < 0.1, (found.product.name, ends, start, end)
    z = np.array(z, dtype=float) / np.linalg.norm(z)
    if s.form.value == "L" and s.d == s.b:  # turned over its diagonal it is the same, seen from the other end
        x = np.subtract(end, start) / math.dist(start, end)
        assert np.allclose(frame.y + frame.z, np.cross(z, x) + z, atol=1e-6), found
    elif s.form.value == "U":  # even in z
        x = np.subtract(end, start) / math.dist(start, end)
        assert np.allclose(frame.y, np.cross(z, x), atol=1e-6), found
    elif s.form.value not in ("TUBE", "ROUND"):
        even = s.form.value in ("I", "BOX", "FLAT")  # looks the same upside down
        square = s.form.value == "BOX" and s.d == s.b
        assert (abs(frame.z @ z) if even else frame.z @ z) > 1 - 1e-6 or (square and abs(frame.y @ z) > 1 - 1e-6), found
    assert role is None or member.role is role


def outline_ring(s):
    whole = profile.outline(s)
    rings = [list(r.coords)[:-1] for r in (whole.exterior, *whole.interiors)]
    return rings[0], rings[1:]


@pytest.mark.parametrize(("schema", "unit"), [*zip(SCHEMAS, ("mm", "m", "ft"), strict=True), ("IFC4", "ft")])
def test_every_way_to_write_a_bar_gives_the_bar(schema, unit, tmp_path):
    """Extruded by parameters, drawn, mapped, faceted, clipped, with an opening, in rotated placements: each at the same
    places, each known."""
    base = moved(12_000, -3_000, 0) @ turned(27)
    w = Written(schema, unit, base)
    w.storey("First", 3600.0)
    start, end = np.array((500.0, 700.0, 3600.0)), np.array((4500.0, 3700.0, 3600.0))
    want = {}

    def put(name, s, product, z=(0, 0, 1)):
        there = [base[:3, :3] @ p + base[:3, 3] for p in (start, end)]
        want[name] = (s, *there, base[:3, :3] @ z)
        product.Name = name
        start[2] += 900
        end[2] += 900

    wide, angle, channel, tee, tube = (section(n) for n in ("W12X26", "L5X3X1/4", "C10X15.3", "WT7X21.5", "HSS6X4X1/4"))
    for s in (wide, angle, channel, tee, tube, section("PIPE4STD"), section("IPE300")):
        put(f"by sizes {s.name}", s, w.bar(s, start, end, storey="First", material="A992"))
    for s in (wide, angle, channel, tee, tube):  # no name, no parameters: drawn as a ring of points
        ring, holes = outline_ring(s)
        item = w.extruded(w.drawn(ring, holes), math.dist(start, end))
        put(f"drawn {s.name}", s, w.product("IfcMember", w.shape(item), along(start, end)))
    for s in (wide, angle, tube):  # nothing but triangles
        part, _ = rolled(s, "A36", "", EndCut(0.0), EndCut(math.dist(start, end)))
        body = mesh(part)
        item = w.faceted(body.points, body.triangles)
        turn = along(start, end)
        turn[:3, :3] = turn[:3, [2, 0, 1]]  # a part's x runs along it
        put(f"faceted {s.name}", s, w.product("IfcColumn", w.shape(item, kind="Brep"), turn))
    shared = w.mapped(w.extruded(w.profile(wide), math.dist(start, end)))
    for n in range(2):
        put(f"mapped {n}", wide, w.product("IfcBeam", w.instance(shared), along(start, end)))
    longer = w.extruded(w.profile(wide), math.dist(start, end) + 500)
    cut = w.clipped(w.clipped(longer, (0, 0, math.dist(start, end)), (0, 0, 1)), (0, 0, 0), (0, 0.5, -1))
    put("clipped", wide, w.product("IfcBeam", w.shape(cut, kind="Clipping"), along(start, end)))
    bored = w.bar(wide, start, end)
    opening = w.root("IfcOpeningElement", ObjectPlacement=w.placement(bored.ObjectPlacement),
        Representation=w.shape(w.box(300, 80, 500, (-150, -40, 800))))  # fmt: skip
    w.root("IfcRelVoidsElement", RelatingBuildingElement=bored, RelatedOpeningElement=opening)
    put("bored", wide, bored)
    turned_web = w.bar(wide, start, end, z=(0, 0, -1))
    put("web turned", wide, turned_web, (0, 0, -1))
    away = w.shape(w.extruded(w.profile(wide), math.dist(start, end)), axis=((0, 155.0, -40), (0, 155.0, 9999)))
    put("off its axis", wide, w.product("IfcBeam", away, along(start, end)))
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    found = {m.product.name: m for m in all_made(model) if isinstance(m, Made)}
    assert found.keys() == want.keys(), [m for m in all_made(model) if isinstance(m, Left)]
    for name, (s, a, b, z) in want.items():
        stands_as(found[name], s.name, a, b, z)
    assert found["off its axis"].member.left_back == pytest.approx(40, abs=1e-4)
    assert found["by sizes W12X26"].member.grade == "A992"
    assert found["by sizes W12X26"].product.storey == "First"
    assert len(model.shapes) < len(model.products)  # what is mapped is there once
    assert model.extent is not None


def test_mirrored_and_turned_profiles_lie_as_they_look(tmp_path):
    """Each way that a profile can be turned, mirrored or moved in its plane: the member's outline is where the body
    is."""
    w = Written("IFC4", "mm")
    x = 0.0
    for name, quarter, mirrored in itertools.product(("L5X3X1/4", "C10X15.3", "W12X26", "WT7X21.5", "L4X4X1/4",
            "HSS6X4X1/4"), (0, 35), (False, True)):  # fmt: skip
        s = section(name)
        c, k = math.cos(math.radians(quarter)), math.sin(math.radians(quarter))
        flat = w.profile(s, at=(40.0, -25.0), x=(c, k))
        if mirrored:
            flat = w.new("IfcMirroredProfileDef", "AREA", None, flat, None)
        w.product("IfcMember", w.shape(w.extruded(flat, 2000.0)), moved(x, 0, 0), name=name)
        x += 1000.0
        item = w.mapped(w.extruded(w.profile(s, at=(40.0, -25.0), x=(c, k)), 2000.0))
        over = w.way(1, 0, 0), w.way(0, -1, 0), w.point(x, 5000, 0), None, w.way(0, 0, 1)
        target = w.new("IfcCartesianTransformationOperator3D", *over)
        shape = w.shape(w.new("IfcMappedItem", item, target), kind="MappedRepresentation")
        w.product("IfcMember", shape, name=f"{name} mapped as its mirror image")
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    for n, _ in enumerate(model.products):
        one = made(model, n, HERE, Settings())
        assert isinstance(one, Made), one
        s = section(one.member.section)
        frame = member_frame(one.member, s)
        body = model.points_of(model.instance_of[n])
        local = frame.to_local(body)
        ring = np.array(profile.outline(s).exterior.coords)
        assert np.allclose([local[:, 1:].min(axis=0), local[:, 1:].max(axis=0)], [ring.min(axis=0), ring.max(axis=0)],
            atol=0.3)  # fmt: skip
        # the centroid of its corners tells a mirrored angle or channel from one that is not
        heavy = local[:, 1:].mean(axis=0)
        assert np.linalg.norm(heavy - np.array(ring[:-1]).mean(axis=0)) < 0.35 * max(s.b, s.d)
        if s.form.value in ("L", "U"):
            corner = np.array((-s.b / 2, -s.d / 2))
            assert np.hypot(*(local[:, 1:] - corner).T).min() < 0.5
            far = np.array((s.b / 2, s.d / 2)) if s.form.value == "L" else np.array((s.b / 2, 0.0))
            assert np.hypot(*(local[:, 1:] - far).T).min() > 0.2 * s.b


def test_plates_and_what_stays_a_reference(tmp_path):
    """Flat plates with their holes and slant corners; walls, concrete, curved and odd things are left with a reason."""
    w = Written("IFC4", "m")
    ring = [(0, 0), (400, 0), (400, 200), (300, 300), (0, 300)]
    hole = [(100 + 11 * math.cos(a), 80 + 11 * math.sin(a)) for a in np.linspace(0, 2 * math.pi, 33)[:-1]]
    flat = w.extruded(w.drawn(ring, [hole]), 12.0)
    w.product("IfcPlate", w.shape(flat), moved(2000, 0, 0) @ turned(30, "x"), name="gusset", material="S275JR")
    tilted = w.extruded(w.drawn([(0, 0), (500, 0), (500, 250), (0, 250)]), 20.0)
    w.product("IfcPlate", w.shape(tilted), turned(90, "y"), name="upright")
    unknown = w.new("IfcIShapeProfileDef", "AREA", "X99", w.flat2(), 0.123, 0.456, 0.007, 0.009)
    left = {
        "wall": w.product("IfcWall", w.shape(w.box(5000, 200, 3000)), moved(0, 9000, 0)),
        "concrete": w.product("IfcColumn", w.shape(w.box(300, 300, 3000)), moved(5000, 0, 0), material="Concrete C30"),
        "odd": w.product("IfcBeam", w.shape(w.extruded(w.drawn([(0, 0), (90, 10), (30, 170)]), 900.0)), moved(0, 0, 0)),
        "no shape": w.product("IfcBeam", None),
        "thick": w.product("IfcPlate", w.shape(w.box(300, 300, 280)), moved(0, 3000, 0)),
        "unknown": w.product("IfcBeam", w.shape(w.extruded(unknown, 900.0)), moved(0, 6000, 0)),
    }
    for name, product in left.items():
        product.Name = name
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    found = {m.product.name: m for m in all_made(model, units=Units.METRIC)}
    assert {n for n, m in found.items() if isinstance(m, Left)} == left.keys()
    assert "Concrete" in found["concrete"].why and "456.0 x 123.0" in found["unknown"].why
    gusset = found["gusset"].member
    assert gusset.role is Role.PLATE and gusset.section == "FL300X12" and gusset.grade == "S275JR"
    assert [round(h.d, 1) for h in gusset.blank.holes] == [22.0]
    assert len(gusset.blank.outline) == 5
    assert section(found["upright"].member.section).tw == 20.0
    frame = member_frame(gusset, section(gusset.section))
    local = frame.to_local(model.points_of(model.instance_of[model.by_guid[found["gusset"].product.guid]]))
    assert np.allclose([local[:, 1].min(), local[:, 1].max()], (-6, 6), atol=0.05)


def test_names_are_learnt_and_fitted(tmp_path):
    w = Written("IFC4", "mm")
    s = section("HSS6X6X1/4")
    thin = w.new("IfcRectangleHollowProfileDef", "AREA", "my tube", w.flat2(), s.b, s.d, 5.5, None, None)
    w.product("IfcBeam", w.shape(w.extruded(thin, 2000.0)), name="a", material="Steel 43A")
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    first = made(model, 0, HERE, Settings())
    taught = Names({"MYTUBE": "HSS6X6X1/4"}, {"STEEL43A": "S275JR"})
    second = made(model, 0, HERE, Settings(names=taught))
    assert isinstance(first, Left) or first.member.section != "HSS6X6X1/4" or first.notes
    assert second.member.section == "HSS6X6X1/4" and second.by == "learnt" and second.member.grade == "S275JR"


def test_survey_coordinates_are_shifted_and_a_turn_is_a_turn(tmp_path):
    w = Written("IFC4", "m", moved(532_000_000, 181_000_000, 12_000))
    w.bar(section("W12X26"), (0, 0, 0), (6000, 0, 0), name="a")
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    shift = shift_for(model.extent)
    assert shift[0] % 1000 == 0 and abs(shift[0] + 532_003_000) <= 1000 and shift[2] == 0.0
    of = msgspec.structs.replace(HERE, shift=shift, turn=90.0, origin=(100.0, 0.0, 0.0))
    one = made(model, 0, of, Settings())
    want = placed(of, [(532_000_000, 181_000_000, 12_000), (532_006_000, 181_000_000, 12_000)])
    assert np.allclose(want[1] - want[0], (0, 6000, 0), atol=1e-6)
    stands_as(one, "W12X26", *want, (0, 0, 1))


@pytest.mark.parametrize("members", [500])
def test_a_frame_of_500_members_is_right_in_every_one(members, tmp_path):
    """Random sections, directions and rolls, by parameters, drawn and faceted, in feet: each member right in section,
    ends and web, none missing."""
    rng = random.Random(25)
    names = ("W12X26", "W10X49", "W18X35", "C10X15.3", "L5X3X1/4", "L4X4X1/4", "WT7X21.5", "HSS6X4X1/4", "HSS6X6X1/4",
        "PIPE4STD", "IPE300", "HEA200", "UPN200", "L 100X100X10")  # fmt: skip
    w = Written("IFC4", "ft", moved(3000, 4000, 0) @ turned(12))
    base = moved(3000, 4000, 0) @ turned(12)
    want = {}
    for n in range(members):
        s = section(rng.choice(names))
        start = np.array([rng.uniform(0, 60_000), rng.uniform(0, 30_000), rng.uniform(0, 12_000)])
        way = np.array(
            rng.choice(((1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (1, 0.2, 0.3), (-1, 2, 0.5))), dtype=float
        )
        end = start + way / np.linalg.norm(way) * rng.uniform(600, 9000)
        x = (end - start) / np.linalg.norm(end - start)
        z = np.array([rng.gauss(0, 1) for _ in range(3)])
        z -= (z @ x) * x
        z /= np.linalg.norm(z)
        name, kind = f"m{n}", rng.choice(("IfcBeam", "IfcColumn", "IfcMember"))
        how = rng.random()
        if how < 0.6:
            w.bar(s, start, end, z, kind, name=name)
        elif how < 0.85:
            ring, holes = outline_ring(s)
            flat = w.drawn(ring, holes, s.name if how < 0.7 else None)
            w.product(kind, w.shape(w.extruded(flat, math.dist(start, end))), along(start, end, z), name=name)
        else:
            part, _ = rolled(s, "A36", "", EndCut(0.0), EndCut(math.dist(start, end)))
            body, turn = mesh(part), along(start, end, z)
            turn[:3, :3] = turn[:3, [2, 0, 1]]
            w.product(kind, w.shape(w.faceted(body.points, body.triangles), kind="Tessellation"), turn, name=name)
        want[name] = (s, *(base[:3, :3] @ p + base[:3, 3] for p in (start, end)), base[:3, :3] @ z)
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    found = all_made(model)
    wrong = [f for f in found if isinstance(f, Left)]
    assert not wrong and len(found) == members
    for one in found:
        s, a, b, z = want[one.product.name]
        stands_as(one, s.name, a, b, z)


def test_grids_and_storeys_become_the_jobs_own(tmp_path):
    w = Written("IFC2X3", "ft")
    w.storey("First", 3600.0)
    w.grid([("1", (0, -1000), (0, 9000)), ("2", (6000, -1000), (6000, 9000)), ("3", (12000, 0), (13000, 9000))],
        [("A", (-1000, 0), (13000, 0)), ("B", (13000, 7000), (-1000, 7000))])  # fmt: skip
    w.bar(section("W12X26"), (0, 0, 0), (6000, 0, 0), name="a")
    path = w.save(tmp_path / "frame.ifc")
    from uncus.cli import (
        main,  # noqa: F401  (takes all commands in)
        references,  # noqa: F401
    )
    from uncus.cli.common import app
    from uncus.job.job import Job
    from uncus.job.records import Grid, Level, Project
    from uncus.job.start import new_job

    records = [r for r in new_job("Theirs", "1", Units.METRIC) if not isinstance(r, Grid | Level)]
    job_path = tmp_path / "j.uncus"
    Job.create(job_path, records).close()
    done = CliRunner().invoke(app, ["reference", str(job_path), str(path), "--members", "--json"])
    assert done.exit_code == 0, done.output
    told = json.loads(done.stdout)
    assert told["members"]["new"] == 1 and told["grid lines"] == 5 and told["levels"] == 2
    with Job.open(job_path) as job:
        grid = job.all(Grid)[0]
        assert [(line.label, round(line.at, 3)) for line in grid.numbers] == [("1", 0), ("2", 6000), ("3", 12000)]
        assert grid.numbers[2].turn == pytest.approx(-math.degrees(math.atan2(1000, 9000)), abs=1e-5)
        assert [(line.label, round(line.at, 3)) for line in grid.letters] == [("A", 0), ("B", 7000)]
        assert {(x.name, x.elevation) for x in job.all(Level)} == {("Ground", 0), ("First", 3600)}
        assert job.project.units is Units.METRIC and isinstance(job.project, Project)
        member = job.all(Member)[0]
        with job.change("Turn it") as change:  # by hand
            change.put(msgspec.structs.replace(member, grade="A36"))
    # a newer copy: the beam is longer, one is new
    w.file.by_type("IfcExtrudedAreaSolid")[0].Depth = 7000 / 304.8
    w.bar(section("W10X49"), (0, 0, 0), (0, 0, 3000), kind="IfcColumn", name="new")
    w.save(path)
    done = CliRunner().invoke(app, ["reference", str(job_path), str(path), "--members", "--json"])
    told = json.loads(done.stdout)
    assert told["members"] == {"new": 1, "changed": 1, "gone": 0, "as it was": 0}
    assert told["changes"] == {"came": 1, "changed": 1}
    with Job.open(job_path) as job:
        beam = next(m for m in job.all(Member) if m.id == member.id)
        assert beam.work_length == pytest.approx(7000) and beam.grade == "A36"
    done = CliRunner().invoke(app, ["reference", str(job_path), str(path), "--members", "--json"])
    assert json.loads(done.stdout)["members"] == {"new": 0, "changed": 0, "gone": 0, "as it was": 2}


@pytest.mark.parametrize("names", [("HSS16.000X0.375", "PIPE16STD"), ("HSS14.000X0.500", "PIPE14XS")])
def test_of_sections_of_one_outline_the_name_decides(names):
    for name in names:
        ring = outline(section(names[0]))
        found = by_outline(ring, [name], Names({}, {}))
        assert found.section.name == name and found.by == "name and outline"
        learnt = by_outline(ring, ["TUBE A"], Names({Names.plain("TUBE A"): name}, {}))
        assert learnt.section.name == name
    assert by_outline(outline(section(names[0])), ["nothing known"], Names({}, {})).section.name in names


@pytest.mark.parametrize("z", [*np.eye(3), *-np.eye(3), np.array([0.6, 0.0, 0.8])])
def test_axes_of_a_frame_are_right_handed_whatever_lies_along_it(z):
    for x in (z, -z, np.array([0.0, 0.6, 0.8]), np.array([1.0, 0.0, 0.0])):
        found = axes3(z, x)
        assert np.allclose(found.T @ found, np.eye(3)) and np.linalg.det(found) > 0 and np.allclose(found[:, 2], z)


@pytest.mark.parametrize("swept", [0.3, 1.6, 3.1, 4.5, 6.0, -0.3, -1.6, -3.1, -4.5, -6.0])
def test_an_arc_goes_through_its_three_points_on_its_own_side(swept):
    middle, radius, first = np.array([310.0, -45.0]), 120.0, 0.7
    at = middle + radius * np.array([(math.cos(first + k * swept), math.sin(first + k * swept)) for k in (0, 0.4, 1)])
    found = arc_through(*at)
    assert np.allclose(found[[0, -1]], at[[0, 2]]) and np.allclose(np.linalg.norm(found - middle, axis=1), radius)
    steps = np.linalg.norm(np.diff(found, axis=0), axis=1)
    assert steps.sum() == pytest.approx(radius * abs(swept), rel=2e-3) and steps.max() < 0.14 * radius
    assert np.linalg.norm(found - at[1], axis=1).min() <= steps.max()
