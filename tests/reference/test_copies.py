"""Newer copies of a model: what changed, and what of it is offered for the members that were made of it."""

import random
import shutil

import ifcopenshell
import ifcopenshell.guid
import msgspec
import numpy as np
import pytest

from tests.conftest import how_many
from tests.reference.made_up import Written, moved
from uncus.catalog.sections import section
from uncus.deliver.ifc import ifc_text
from uncus.job.job import Job
from uncus.job.records import Connection, End, Member, Reference, Taken
from uncus.job.start import new_job
from uncus.mark.marking import Marks
from uncus.reference.changes import Way, compared
from uncus.reference.laying import laid, shapes_folder
from uncus.reference.members import Made, Settings, is_steel, made
from uncus.reference.reading import read
from uncus.reference.taking import What, records_of, taking
from uncus.units import Units

S = section("W12X26")
N = 30


def building(path):
    w = Written("IFC4", "mm")
    for n in range(N):
        w.bar(S, (0, n * 1000, 0), (6000, n * 1000, 0), name=f"b{n}", material="A992", guid=guid(n))
    return w, w.save(path)


def guid(n):
    return ifcopenshell.guid.compress(f"{n:032x}")


def edited(path, to, rng):
    """A copy of a building with some things done to it; what, by GlobalId."""
    file = ifcopenshell.open(str(path))
    beams = sorted(file.by_type("IfcBeam"), key=lambda b: b.Name)
    rng.shuffle(beams)
    truth = {}
    for beam in beams[:2]:
        beam.ObjectPlacement.RelativePlacement.Location.Coordinates = (0.0, 40_000.0 + len(truth), 250.0)
        truth[beam.GlobalId] = Way.MOVED
    for beam in beams[2:4]:
        beam.Representation.Representations[0].Items[0].Depth = 7000.0
        truth[beam.GlobalId] = Way.CHANGED
    beams[4].Name = "renamed"
    truth[beams[4].GlobalId] = Way.CHANGED
    for beam in beams[5:8]:
        truth[beam.GlobalId] = Way.WENT
        file.remove(beam)
    beams[8].GlobalId = guid(900)  # the same beam under another id: as it was
    new = ifcopenshell.util.element.copy(file, beams[9])
    new.GlobalId, new.ObjectPlacement = guid(901), ifcopenshell.util.element.copy_deep(file, beams[9].ObjectPlacement,
        exclude=("IfcLocalPlacement",))  # fmt: skip
    new.ObjectPlacement.RelativePlacement.Location.Coordinates = (0.0, 60_000.0, 0.0)
    truth[guid(901)] = Way.CAME
    file.write(str(to))
    return truth


def test_known_edits_are_told_exactly(tmp_path):
    import ifcopenshell.util.element  # noqa: F401

    _, path = building(tmp_path / "a.ifc")
    old = read(path, tmp_path / "kept").model
    assert not compared(old, old).changes
    for seed in range(how_many(2, 12)):
        to = tmp_path / f"b{seed}.ifc"
        truth = edited(path, to, random.Random(seed))
        found = compared(old, read(to, tmp_path / "kept").model)
        assert {c.product.guid: c.way for c in found.changes} == truth
        assert found.renamed == 1 and found.moved is None
        back = compared(read(to, tmp_path / "kept").model, old)  # the other way round
        other = {Way.CAME: Way.WENT, Way.WENT: Way.CAME}
        assert {c.product.guid: c.way for c in back.changes} == {g: other.get(w, w) for g, w in truth.items()}


def test_a_model_that_is_moved_as_a_whole_is_said_once(tmp_path):
    _, path = building(tmp_path / "a.ifc")
    file = ifcopenshell.open(str(path))
    site = file.by_type("IfcSite")[0]
    site.ObjectPlacement.RelativePlacement.Location = file.create_entity("IfcCartesianPoint", (500.0, -250.0, 0.0))
    file.write(str(tmp_path / "b.ifc"))
    found = compared(read(path, tmp_path / "kept").model, read(tmp_path / "b.ifc", tmp_path / "kept").model)
    assert not found.changes and found.moved == pytest.approx((500.0, -250.0, 0.0))


def take(job, path, of=None):
    made_, model, _ = laid(path, job)
    with job.change("lay") as change:
        change.put(made_)
    found = taking(job, model, made_)
    put, drop = records_of(job, found, found.open)
    with job.change("take") as change:
        for record in put:
            change.put(record)
        for id in drop:
            change.drop(id)
    return found


def test_done_again_only_what_changed_is_offered_and_joints_stay(tmp_path):
    _, path = building(tmp_path / "a.ifc")
    job = Job.create(tmp_path / "j.uncus", new_job("j", "1", Units.METRIC))
    first = take(job, path)
    assert len(first.of(What.NEW)) == N and not first.left
    by_guid = {t.product: t.member for t in job.all(Taken)}
    joints = {}
    with job.change("by hand") as change:
        for product, id in by_guid.items():
            joint = Connection(kind="base plate", member=id, end=End.LEFT)
            joints[product] = joint.id
            change.put(joint)
        hand = job.get(by_guid[guid(3)], Member)
        change.put(msgspec.structs.replace(hand, finish="galvanized", camber=20.0))
        change.drop(by_guid[guid(4)])
        change.drop(joints[guid(4)])
    shutil.copy(path, tmp_path / "was.ifc")
    file = ifcopenshell.open(str(path))
    beams = {b.GlobalId: b for b in file.by_type("IfcBeam")}
    for n in (3, 5):
        beams[guid(n)].Representation.Representations[0].Items[0].Depth = 7000.0
    file.remove(beams[guid(6)])
    file.write(str(path))
    again = take(job, path)
    assert {o.product: o.what for o in again.open} == {guid(3): What.CHANGED, guid(5): What.CHANGED, guid(6): What.GONE}
    assert [left.product.guid for left in again.left] == [guid(4)]
    changed = job.get(by_guid[guid(3)], Member)
    assert changed.finish == "galvanized" and changed.camber == 20.0 and changed.work_length == pytest.approx(7000.0)
    assert job.get(joints[guid(3)], Connection) is not None
    assert job.get(by_guid[guid(6)], Member) is None and job.get(joints[guid(6)], Connection) is None
    assert not take(job, path).open
    reference = job.all(Reference)[0]
    assert reference.before and reference.before != reference.sum and reference.path == "a.ifc"
    job.undo()
    job.close()


@pytest.mark.parametrize(
    "which", ["sample", "grid_frame", *(pytest.param(n, marks=pytest.mark.long) for n in ("metric_sample", "hard_job"))]
)
def test_our_own_model_read_in_again_gives_the_same_members(which, request, tmp_path):
    job, shop = request.getfixturevalue(which)
    path = tmp_path / "ours.ifc"
    path.write_text(ifc_text(job, shop, Marks(job)))
    model = read(path, tmp_path / "kept").model
    of = Reference(name="ours", path="ours.ifc")
    found = [made(model, n, of, Settings(job.project.units)) for n, p in enumerate(model.products) if is_steel(p)]
    back = {f.member.id: f.member for f in found if isinstance(f, Made)}
    want = {m.id: msgspec.structs.replace(m, maker="") for m in job.all(Member) if m.id in shop.assemblies}
    assert back.keys() == want.keys()
    assert back == want  # to the letter, and so to the tenth of a millimetre


def test_ours_moved_by_somebody_is_where_he_put_it(tmp_path):
    """A record that its body does not bear out any more is not believed."""
    from uncus.job.records import Line, Role
    from uncus.shop.shop import build

    member = Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(6000, 0, 0), line=Line.TOP)
    job = Job([*new_job("j", "1", Units.IMPERIAL), member])
    path = tmp_path / "a.ifc"
    path.write_text(ifc_text(job, build(job), Marks(job)))
    file = ifcopenshell.open(str(path))
    for place in {p.ObjectPlacement for p in file.by_type("IfcBeam")}:
        at = place.RelativePlacement.Location.Coordinates
        place.RelativePlacement.Location = file.create_entity("IfcCartesianPoint", (at[0], at[1] + 300.0, at[2]))
    file.write(str(path))
    model = read(path, tmp_path / "kept").model
    n = next(n for n, p in enumerate(model.products) if p.cls == "IfcBeam")
    of = Reference(name="ours", path="a.ifc")
    one = made(model, n, of, Settings())
    assert isinstance(one, Made) and one.by != "ours" and one.member.start[1] == pytest.approx(300.0)
    # and laid in turned and moved, ours is turned and moved with its web as it was
    path.write_text(ifc_text(job, build(job), Marks(job)))
    model = read(path, tmp_path / "kept").model
    turned = msgspec.structs.replace(of, turn=90.0, origin=(0.0, 0.0, 1000.0))
    one = made(model, n, turned, Settings())
    assert one.by == "ours" and np.allclose([one.member.start, one.member.end], [(0, 0, 1000), (0, 6000, 1000)])
    assert one.member.roll == 0.0 and one.member.line is Line.TOP
    assert shapes_folder(tmp_path / "j.uncus").name == "j.uncus.models" and moved(0, 0, 0).shape == (4, 4)
