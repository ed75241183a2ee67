"""Plates set in walls: lengths of flat like any member, held by studs or straps, to which beams are joined by rule."""

import math

import numpy as np
import pytest
from msgspec.structs import replace
from tests.conftest import marked
from tests.connect.sound import beam, joined, placed, sound, wrong
from tests.draw.reading import Reader

from uncus.catalog.sections import Form, UnknownSection, section
from uncus.deliver.flat_dxf import flat_document
from uncus.deliver.nc import Heading, nc_text
from uncus.deliver.nc_proof import differs
from uncus.draw.drawn import draw_all
from uncus.draw.projection import project
from uncus.draw.register import register
from uncus.draw.studs import with_studs
from uncus.frame.numbers.embed import EMBED
from uncus.frame.numbers.kind import made
from uncus.job.forms import checked
from uncus.job.job import Job
from uncus.job.records import Attachment, Loads, Member, Project, Role
from uncus.job.start import SERIES, usual_rules
from uncus.lens.office import connect
from uncus.mark.marking import Marks
from uncus.mark.sameness import rotations
from uncus.shop.shop import Shop, build
from uncus.standin.bench import read
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.flat import as_plate, net_volume
from uncus.steel.joint import FastenerKind
from uncus.steel.part import rolled
from uncus.steel.solid import solid
from uncus.units import Units

SIZE = {"high": 460.0, "up": -200.0}
STRAPS = {"anchors": "straps"}


def plate_in_wall(turn=0.0, units=Units.IMPERIAL, id="embed", at=(0.0, 0.0, 3000.0), **values):
    """A plate whose face looks `turn` degrees from east."""
    t, at = math.radians(turn), np.array(at)
    points = [at, at + 800.0 * np.array([math.cos(t), math.sin(t), 0.0])]
    kind = checked(EMBED.params, {**EMBED.metric, **SIZE, **values} if units is Units.METRIC else {**SIZE, **values})
    return replace(made(EMBED, kind, points, units)[0], id=id)


def anchors(member="embed", id="c", **values) -> Attachment:
    return Attachment(id=id, kind="concrete anchors", member=member, params=values)


@pytest.mark.parametrize(
    ("typed", "name", "width", "thickness"),
    [("PL3/4X14", "PL3/4X14", 355.6, 19.05), ("pl 3/4 x 14 1/2", "PL3/4X14-1/2", 368.3, 19.05),
        ("PL0.75X14", "PL3/4X14", 355.6, 19.05), ("FL200X20", "FL200X20", 200, 20), ("fl 80 x 8", "FL80X8", 80, 8),
        ("PL.3X4", "PL0.3X4", 101.6, 7.62)],
)  # fmt: skip
def test_flats_of_any_size_are_sections(typed, name, width, thickness):
    s = section(typed)
    assert (s.name, s.form, s.d) == (name, Form.FLAT, pytest.approx(width)) and s.tw == pytest.approx(thickness)
    assert section(s.name) == s and s.kg_m == pytest.approx(width * thickness * 7.85e-3)
    with pytest.raises(UnknownSection):
        section("PL14X3/4" if name.startswith("PL") else "FL8X200")


def test_a_length_of_flat_is_a_plate_to_the_shop():
    part = rolled(
        section("FL200X20"), "S275JR", "", EndCut(0.0, 0.0, 0.3), EndCut(900.0), [Hole(Face.WEB, 300, 40, 22)]
    )[0]
    assert solid(part).volume() == pytest.approx(net_volume(part), rel=1e-3) and len(rotations(part)) == 4
    text = nc_text(part, Heading("1", "1", "m", 1))
    assert "\n  B\n" in text and differs(part, read(text)) is None
    assert net_volume(as_plate(part)) == pytest.approx(net_volume(part), rel=1e-3)
    assert [e.dxftype() for e in flat_document(part).modelspace()] == ["LWPOLYLINE", "CIRCLE"]


@pytest.mark.parametrize("right", [False, True])
@pytest.mark.parametrize(("units", "name"), [(Units.IMPERIAL, "W16X31"), (Units.METRIC, "IPE300")])
@pytest.mark.parametrize("turn", [0.0, 90.0, 215.0])
@pytest.mark.parametrize("values", [{}, {"rows": 3, "columns": 3, "size": "1/2"}, STRAPS, {**STRAPS, "hook": 0.0}])
def test_a_beam_is_held_by_a_plate_in_a_wall_by_rule(values, turn, units, name, right):
    embed = plate_in_wall(turn, units)
    job = Job([Project(units=units), usual_rules(units), embed, beam(turn, name, right=right), anchors(**values)])
    shop = build(job)
    out = np.array([math.cos(math.radians(turn)), math.sin(math.radians(turn)), 0.0])
    body = placed(shop.assemblies["embed"].main).to_mesh64().vert_properties[:, :3]
    faces = (body - [0, 0, 3000.0]) @ out
    assert faces.max() == pytest.approx(0.0, abs=1e-6) and faces.min() == pytest.approx(-section(embed.section).tw)
    if values.get("anchors"):
        sound(shop)
        behind = max(float(((placed(p).to_mesh64().vert_properties[:, :3]) @ out).max()) for p in shop.pieces()
            if "strap" in p.words)  # fmt: skip
    else:
        (group,) = shop.connections["c"].fasteners
        assert group.kind is FastenerKind.STUD and not group.field
        behind = max(float(np.array(p) @ out) for p in group.points)
    assert behind < -section(embed.section).tw + 1e-6, "all of them are in the concrete"
    report = connect(job, ["embed", "beam"], shop)
    (joint,) = report.made
    assert (joint.kind, joint.support, joint.member) == ("double angle", "embed", "beam")
    with job.change("connect") as change:
        change.put(joint)
    shop = build(job)
    sound(shop, joint.id)
    assert not [f.text for f in shop.all_findings if f.severity == "wrong"]
    assert all(w.field for w in shop.connections[joint.id].welds if "embed" in w.joins), "welded to it on site"
    assert not [p for p in shop.assemblies["embed"].pieces if "angle" in p.words], (
        "and the plate goes ahead without them"
    )
    loaded = replace(joint, loads=Loads(shear=20e3))
    shop = Shop([r for r in job.records.values() if r.id != joint.id] + [loaded])
    assert any("anchors in the concrete" in words for words in shop.design(joint.id).unchecked)


@pytest.mark.parametrize("hook", [0.0, 50.8, 90.0])
def test_a_strap_is_as_long_as_typed_and_turned_up_by_its_hook(hook):
    shop = Shop(
        [
            Project(),
            usual_rules(Units.IMPERIAL),
            plate_in_wall(),
            anchors(**STRAPS, hook=hook, long=160.0, rows=1, columns=1),
        ]
    )
    (strap,) = (p for p in shop.pieces() if "strap" in p.words)
    low, high = np.array(placed(strap).bounding_box()).reshape(2, 3)
    t = section("PL3/4X12").tw
    assert low[0] == pytest.approx(-t - 160.0, abs=0.1) and high[0] == pytest.approx(-t, abs=0.1)
    assert high[2] - low[2] == pytest.approx(max(hook, 6.35), abs=0.1) and high[1] - low[1] == pytest.approx(38.1)


def test_anchors_that_do_not_fit_are_told_and_no_rod_is_set():
    for values, says in (
        ({"rows": 9, "pitch": 80.0}, "edge distance"),
        ({"columns": 5, "gage": 90.0}, "edge distance"),
        ({**STRAPS, "hook": 12.0}, "shorter than their bend"),
    ):
        shop = Shop([Project(), usual_rules(Units.IMPERIAL), plate_in_wall(), anchors(**values)])
        assert any(says in text for text in wrong(shop)), wrong(shop)
        assert not shop.connections["c"].parts and not shop.connections["c"].fasteners
    shop = Shop([Project(), usual_rules(Units.IMPERIAL), plate_in_wall(), anchors(rows=6, size="7/8")])
    assert any("four diameters" in f.text for f in shop.said("c"))


def test_other_joints_stand_on_it_too():
    for kind, params in (("shear tab", {}), ("seat", {"to_support": "welded"}), ("welded end", {})):
        name = "HSS6X6X1/4" if kind == "welded end" else "W12X26"
        shop = joined(kind, [plate_in_wall(id="support", high=700.0, up=-200.0), beam(0, name)], params=params)
        sound(shop)


@pytest.mark.parametrize("units", list(Units))
def test_studs_tell_pieces_apart_and_stand_on_the_sheet(units):
    """Of five plates those are the same whose studs are, however they are turned; and each stud is where its sheet
    says."""
    given = [{}, {}, {"columns": 1}, {"long": 200.0}, {"pitch": 150.0}]
    records = [Project(units=units), usual_rules(units), *SERIES]
    for n, values in enumerate(given):
        embed = plate_in_wall(70.0 * n, units, f"e{n}", (4000.0 * n, 0.0, 3000.0))
        if n == 1:  # drawn from the top down
            embed = replace(embed, start=embed.end, end=embed.start, roll=(180.0 - embed.roll) % 360.0)
        records += [embed, anchors(embed.id, f"c{n}", **values)]
    job, shop = marked(records)
    marks = [Marks(job).of_assembly(f"e{n}") for n in range(len(given))]
    assert marks[0] == marks[1] and len(set(marks)) == len(given) - 1 and all(m.startswith("EP") for m in marks)
    off = 0.9 if units is Units.IMPERIAL else 0.6
    for entry in register(job, shop):
        if entry.kind != "assembly":
            continue
        assert job.get(entry.pieces[0], Member).role is Role.EMBED
        reader = Reader.of_assembly(draw_all(entry.job)[0], units)
        along = np.cumsum([f for s in reader.spots("front|studs along") for f in reader.figures(s)])
        rows = np.cumsum([0.0, *(f for s in reader.spots("front|studs across") for f in reader.figures(s))])
        said = {(round(x), round(r - rows.mean())) for x in along for r in rows}
        studs = entry.job.subject.studs
        assert len(said) == len(studs)
        for stud in studs:
            assert min(math.hypot(stud.foot[0] - x, stud.foot[2] - z) for x, z in said) < 2 * off
        side = with_studs(project(entry.job.subject.bodies, "top"), studs)
        drawn = np.ptp(side.seen.reshape(-1, 2)[:, 1])
        assert drawn == pytest.approx(entry.job.subject.main.section.tw + studs[0].long, abs=0.005), (
            "from the side as long as they are"
        )
        widest = np.unique(np.round(np.abs(side.seen[:, 0] - side.seen[:, 2]), 2))
        assert round(1.6 * studs[0].d, 2) in widest, "and headed"
        (note,) = reader.spots("front|studs note")
        assert note.words.startswith(f"{len(studs)} STUDS 3/4 x") and note.words.endswith((" FS", ""))
