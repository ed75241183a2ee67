"""Every kind of thing of many parts, as it is asked for in many ways: it stands free, weighs what its solids do, is
written and read back."""

import math
import re

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from manifold3d import Manifold

from tests.compose.cases import CASES, IDS, STRAIGHT, UP, WINDING
from tests.conftest import how_many
from uncus.catalog.sections import Form, section
from uncus.compose.following import amended
from uncus.compose.kinds import COMPOUNDS
from uncus.compose.making import given_to, kind_of, parts
from uncus.compose.profile_plate import WAYS
from uncus.compose.stair_rules import RULES, broken, risers
from uncus.deliver.nc import Heading, Marking, nc_text
from uncus.deliver.nc_proof import differs
from uncus.frame.moves import turn_about
from uncus.frame.plates import SIDES
from uncus.job.composites import Anchor, Composite
from uncus.job.errors import JobError
from uncus.job.forms import checked, fields
from uncus.job.job import Job
from uncus.job.records import Attachment, Climb, Connection, Level, Member, Project, Role
from uncus.shop.shop import build
from uncus.standin.bench import read
from uncus.steel.features import Saddle
from uncus.steel.flat import net_volume
from uncus.steel.joint import Severity
from uncus.steel.solid import plain_mesh, solid
from uncus.units import Units


def composite(kind, points, params, **more):
    return Composite(kind=kind, anchors=tuple(Anchor(tuple(map(float, p))) for p in points), params=params, **more)


def job_of(*records, units=Units.IMPERIAL):
    job = Job([Project(name="Parts", units=units)])
    job.amend(amended)
    with job.change("make") as change:
        for record in records:
            change.put(record)
    return job


@pytest.mark.parametrize(("kind", "points", "params"), CASES, ids=IDS)
def test_it_stands_free_welded_and_bolted_and_weighs_what_it_is(kind, points, params):
    record = composite(kind, points, params)
    floor = Level("Floor", 0.0)  # whose points hang on it, as drawn on a floor, and nothing is fixed to it
    record = msgspec.structs.replace(record, anchors=tuple(Anchor(a.at, floor.id) for a in record.anchors))
    job = job_of(floor, record)
    shop = build(job)
    assert [f.text for f in shop.all_findings if f.severity is Severity.WRONG] == []
    members = job.all(Member)
    fixed = [id for one in (*job.all(Attachment), *job.all(Connection)) for id in one.members]
    assert set(fixed) <= {m.id for m in members}
    assert members and all(m.maker == record.id for m in members)
    assert kind_of(record).reading(given_to(record, job.records)) or kind == "saddle branch"
    for piece in shop.pieces():
        body, said = solid(piece.part).volume(), net_volume(piece.part)
        bent = any(bend.radius >= 0 for bend in piece.part.bends)  # whose neutral fibre is not its middle
        saddled = any(isinstance(cut.saddle, Saddle) for cut in (piece.part.left, piece.part.right))
        rel = 0.01 if bent else 0.005 if saddled else 0.002 if piece.part.holes else 1.5e-3
        assert body == pytest.approx(said, rel=rel, abs=100.0)  # mm3, of stubs of rails
    # nothing flies: each of its members is welded or bolted to another, whatever else holds it
    tied = {id.partition("/")[0] for made in shop.connections.values() for w in (*made.welds, *made.fasteners)
        for id in w.joins}  # fmt: skip
    laid = kind in ("grating", "lintel") or len(members) == 1  # on what is not of steel
    cast = {m.id for m in members if m.section == params.get("socket")}  # into the floor
    assert {m.id for m in members} <= tied | cast or laid


@pytest.mark.parametrize("name", COMPOUNDS)
def test_its_form_has_words_and_its_metric_values_can_be_used(name):
    kind = COMPOUNDS[name]
    assert all(a.words and (a.choices or a.low < a.high or a.unit in ("flag", "section", "text")) for a in
        fields(kind.params).values())  # fmt: skip
    assert checked(kind.params, kind.metric) and kind.words and kind.help and kind.picks
    points = next(points for k, points, _ in CASES if k == name)
    job = job_of(composite(name, points, dict(kind.metric)), units=Units.METRIC)
    assert all(m.section.startswith(("FL", "UPN", "CF", "HF", "RD", "L120X80")) for m in job.all(Member))


def test_two_alike_are_the_same_pieces_wherever_they_stand():
    one = composite("stair", STRAIGHT, {})
    other = composite("stair", [(x * 0 + 100 - y, 7 + x, z + 40) for x, y, z in STRAIGHT], {})  # turned a quarter
    job = job_of(one, other)
    made = [parts(r, job.records) for r in (one, other)]
    assert made[0].keys() == made[1].keys()
    assert not {p.id for p in made[0].values()} & {p.id for p in made[1].values()}
    shop = build(job)
    nets = [sum(a.net for a in shop.assemblies.values() if a.member.maker == r.id) for r in (one, other)]
    assert nets[0] == pytest.approx(nets[1], rel=1e-9)


def test_parts_of_a_transition_are_cut_by_their_files():
    job = job_of(composite("transition", ((0, 0, 1000), (100, 60, 400)), {"flange": "at both ends"}))
    for n, piece in enumerate(build(job).pieces()):
        text = nc_text(piece.part, Heading("J", f"p{n}", f"p{n}", 1), Marking())
        assert not differs(piece.part, read(text))


# -- stairs ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("climb", [500.0, 2600.0, 3048.0, 3657.6])
@pytest.mark.parametrize("rule", list(RULES))
def test_a_stair_steps_evenly_from_floor_to_floor(climb, rule):
    record = composite("stair", ((10, 20, 30), (10 + climb * 1.6, 20, 30 + climb)), {"rule": rule})
    job = job_of(record)
    made = parts(record, job.records)
    treads = sorted((m for k, m in made.items() if "tread" in k and isinstance(m, Member)), key=lambda m: m.start[2])
    n = risers(RULES[rule], climb, None)
    levels = [30.0] + [m.start[2] + 6.35 / 2 for m in treads] + [30.0 + climb]
    steps = np.diff(levels)
    assert np.ptp(steps) < 1e-5 and len(steps) == len(treads) + 1
    if RULES[rule].most_rise:
        assert steps.max() <= RULES[rule].most_rise + 0.05
    assert n >= 2


@pytest.mark.parametrize("going", [200.0, 280.0])
@pytest.mark.parametrize("stringer", ["UPN180", "C8X11.5", "FL200X12"])
@pytest.mark.parametrize("tread", ["checkered plate", "grating"])
def test_bolts_of_treads_are_on_the_flat_of_the_stringers_web(tread, stringer, going):
    params = {"held": "bolted", "tread": tread, "stringer": stringer, "going": going}
    job = job_of(composite("stair", *CASES[0][1:2], params))
    shop = build(job)
    s = section(stringer)
    flat = s.d / 2 - (s.k if s.form is Form.CHANNEL else 0.0)
    holes = [h for p in shop.pieces() if p.part.section is not None and p.part.section.name == s.name
        for h in p.part.holes if abs(h.d - 14.2875) < 0.01]  # fmt: skip
    assert len(holes) >= 8 and max(abs(h.w) for h in holes) <= flat - 1.4 * 14.2875
    assert not [f.text for f in shop.all_findings if f.severity is Severity.WRONG]


def test_what_breaks_a_rule_is_said_with_the_figure():
    def said(rule, rise, going, climb=2500.0, width=1000.0):
        return " ".join(s.text for s in broken(RULES[rule], rise, going, climb, width, Units.METRIC))

    ibc, osha, iso = list(RULES)[:3]
    assert said(ibc, 170.0, 285.0) == "" and said(iso, 180.0, 270.0) == "" and said(osha, 200.0, 270.0) == ""
    assert "at most 177.8" in said(ibc, 185.0, 285.0) and "at least 279.4" in said(ibc, 170.0, 270.0)
    assert "at least 101.6" in said(ibc, 90.0, 285.0) and "landing" in said(ibc, 170.0, 285.0, climb=4000.0)
    assert "at most 660" in said(iso, 220.0, 260.0) and "at least 600" in said(iso, 150.0, 250.0)
    assert "degrees" in said(osha, 240.0, 190.0) and "width" in said(osha, 200.0, 270.0, width=500.0)


def test_a_rail_tells_what_its_rule_asks_for():
    job = Job([Project(units=Units.METRIC)])
    record = composite("rail", UP, {"rule": "ISO 14122-3", "height": 900.0, "spacing": 2000.0})
    text = " ".join(s.text for s in kind_of(record).told(given_to(record, job.records)))
    assert all(words in text for words in ("height is 900", "toe board is 0", "spacing is 2000", "stand on nothing"))


@pytest.mark.parametrize("turn", [200.0, 700.0])
def test_a_winding_stair_tells_its_headroom_and_going(turn):
    job = Job([Project()])
    record = composite("winding stair", WINDING, {"turn": turn, "outer": 1500.0, "about": "between two stringers"})
    text = " ".join(s.text for s in kind_of(record).told(given_to(record, job.records)))
    assert ("headroom" in text) == (turn > 360) and "narrow side" not in text
    tight = msgspec.structs.replace(record, params={"turn": turn})
    assert (turn > 360) or "narrow side" in " ".join(s.text for s in kind_of(tight).told(given_to(tight, job.records)))


@pytest.mark.parametrize(
    ("kind", "points", "params", "said"),
    [
        ("stair", ((0, 0, 3000), (4000, 0, 0)), {}, "no higher than its foot"),
        ("stair", ((0, 0, 0), (0, 0, 3000)), {}, "stands over its foot"),
        ("stair", STRAIGHT, {"stringer": "W12X26"}, "channels, flats or tubes"),
        ("stair", STRAIGHT, {"lip": 5.0}, "shorter than its bend"),
        ("stair", STRAIGHT[:1], {}, "needs 2 points"),
        ("stair", STRAIGHT, {"widht": 3}, "no “widht”"),
        ("winding stair", WINDING, {"outer": 700.0, "about": "between two stringers"}, "narrower than a foot"),
        ("rail", ((0, 0, 0), (1, 0, 0)), {}, "stand over one another"),
        ("rail", UP, {"between": "bars"}, "square"),
        ("transition", ((0, 0, 0), (0, 0, 1)), {}, "lie on one another"),
        ("elbow", ((0, 0, 0), (0, 0, -9), (0, 0, 9)), {}, "in one line"),
        ("elbow", ((0, 0, 0), (0, 0, -900), (900, 0, 0)), {"radius": 100.0}, "tighter than half"),
        ("saddle branch", ((0, 0, 0), (1000, 0, 0), (0, 0, 900)), {"diameter": 600.0}, "wider than the duct"),
        ("saddle branch", ((0, 0, 0), (1000, 0, 0), (0, 0, 150)), {}, "within the duct"),
        ("carousel", STRAIGHT, {}, "knows no carousel"),
    ],
)
def test_what_cannot_be_made_is_refused_with_the_reason_and_leaves_no_trace(kind, points, params, said):
    job = Job([Project()])
    job.amend(amended)
    with pytest.raises(JobError, match=said), job.change("make") as change:
        change.put(composite(kind, points, params))
    assert list(job.records) == ["project"]


def test_anything_may_come_out_of_a_file():
    for record in (
        composite("stair", STRAIGHT, {"width": "wide"}),
        composite("rail", UP, {"rails": -1}),
        composite("stair", STRAIGHT, {}, hand={"flight tread 1": {"role": 7, "start": "x", "no such": 1}}),
        Composite(kind="stair", anchors=(Anchor((0.0, 0.0, 0.0), "gone"), Anchor((1.0, 0.0, 0.0)))),
    ):
        try:
            made = parts(record, Job([Project()]).records)
        except JobError as error:
            assert str(error).endswith(".")
            continue
        assert all(p.problem() is None for p in made.values())
    wrong = Member(role=Role.STRINGER, section="C10X15.3", start=(0, 0, 0), end=(1, 2, 3), climb=Climb(900, 9, 90))
    assert "does not come to its right end" in wrong.problem()
    assert math.isfinite(msgspec.convert(msgspec.to_builtins(wrong), Member).start[0])


@settings(max_examples=how_many(25, 400), deadline=None)
@given(
    st.lists(st.tuples(st.floats(120, 400), st.floats(20, 100) | st.floats(-100, -20)), min_size=1, max_size=4),
    st.floats(0, 360), st.floats(-80, 80), st.sampled_from([3.0, 6.35, 9.525]), st.sampled_from(SIDES),
    st.sampled_from(WAYS),
)  # fmt: skip
def test_a_bent_plate_lies_along_its_profile(legs, turn, lean, thickness, side, runs):
    """Its formed flats lie on the picked path, in their middle or on a face, and end where it ends, whichever way that
    lies; where it cannot be bent so, that is said."""
    heading, spots = 0.0, [np.zeros(2), np.array([150.0, 0.0])]
    for long, angle in legs:
        heading += math.radians(angle)
        spots.append(spots[-1] + long * np.array([math.cos(heading), math.sin(heading)]))
    plane = turn_about((0, 0, 0), (0, 0, 1), turn).turn @ turn_about((0, 0, 0), (1, 0, 0), lean).turn
    points = [tuple((plane @ (x, 0.0, z)).tolist()) for x, z in spots]
    record = composite("bent plate", points, {"thickness": thickness, "side": side, "runs": runs, "long": 300.0})
    try:
        job = job_of(record)
    except JobError as refused:
        assert "leg of its profile is shorter" in str(refused) or "comes upon" in str(refused), refused
        return
    (piece,) = build(job).pieces()
    where, body = piece.placement.to_local(np.array(points)), solid(piece.part)
    middles = (where[:-1] + where[1:]) / 2
    for point in (*middles, where[0] + 0.01 * (where[1] - where[0]), where[-1] + 0.01 * (where[-2] - where[-1])):
        assert body.min_gap(Manifold.sphere(0.01, 8).translate(point.tolist()), 50.0) < 0.2
    past = where[-1] + 0.05 * (where[-1] - where[-2])  # and ends there
    if shapely.LineString(spots[:-1]).distance(shapely.Point(spots[-1])) < 0.1 * legs[-1][0] + 2 * thickness:
        return  # all but closed: its end lies beside another flat
    assert body.min_gap(Manifold.sphere(0.01, 8).translate(past.tolist()), 50.0) > 0.02 * math.dist(
        where[-1], where[-2]
    )


@pytest.mark.parametrize("side", SIDES)
def test_a_bent_plate_does_not_turn_back_on_itself(side):
    with pytest.raises(JobError, match="turns back on itself"):
        job_of(composite("bent plate", ((0, 0, 0), (0, 0, 200), (0, 0, 20)), {"side": side}))


@pytest.mark.parametrize(("made", "shapes"), [
    ("two angles, back to back", ["L5X3-1/2X5/16"] * 2),
    ("one angle", ["L5X3-1/2X5/16"]),
    ("a plate", ["PL3/8X7"]),
    ("a beam with a plate under it", ["PL3/8X7", "W8X18"]),
])  # fmt: skip
@pytest.mark.parametrize("turn", [0.0, 137.0])
def test_a_lintel_lies_on_the_head_of_its_opening_within_the_wall(made, shapes, turn):
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    record = composite("lintel", ((500, 300, 2100), (500 + 1800 * c, 300 + 1800 * s, 2100)), {"made": made})
    job = job_of(record)
    shop = build(job)
    assert sorted(m.section for m in job.all(Member)) == sorted(shapes) and not list(said_of(record, job))
    spots = np.concatenate([p.placement.to_model(plain_mesh(p.part).points) for p in shop.pieces()])
    along = (spots[:, :2] - (500, 300)) @ (c, s)
    across = (spots[:, :2] - (500, 300)) @ (-s, c)
    assert (along.min(), along.max()) == pytest.approx((-203.2, 1800 + 203.2))
    assert spots[:, 2].min() == pytest.approx(2100.0)
    assert np.abs(across).max() <= 101.6 + 1e-6
    if made != "one angle":
        assert across.min() == pytest.approx(-across.max())
    else:  # short of the face at its left
        assert across.max() == pytest.approx(101.6 - 12.7)


@pytest.mark.parametrize(("params", "said"), [
    ({"bearing": 90.0}, "asks for at least"),
    ({"wall": 150.0}, "stands out of the wall"),
    ({"made": "a beam with a plate under it", "wall": 100.0}, "stands out of the wall"),
])  # fmt: skip
def test_a_lintel_that_bears_too_little_or_stands_out_says_so(params, said):
    record = composite("lintel", ((0, 0, 2100), (1800, 0, 2100)), params)
    assert any(said in one.text for one in said_of(record, job_of(record)))


@pytest.mark.parametrize(("points", "params", "said"), [
    (((0, 0, 2100), (0, 0, 2400)), {}, "one above the other"),
    (((0, 0, 2100), (900, 0, 2150)), {}, "higher than the other"),
    (((0, 0, 2100), (900, 0, 2100)), {"angle": "W8X18"}, "made of angles"),
    (((0, 0, 2100), (900, 0, 2100)), {"apart": 6.0, "held": "welded to each other"}, "nothing is between"),
    (((0, 0, 2100), (900, 0, 2100)), {"made": "a plate", "wall": 50.0}, "no width"),
    (((0, 0, 2100), (900, 0, 2100)), {"made": "a beam with a plate under it", "beam": "L4X4X1/4"}, "its beam is"),
])  # fmt: skip
def test_what_is_no_lintel_is_refused(points, params, said):
    with pytest.raises(JobError, match=said):
        job_of(composite("lintel", points, params))


def said_of(record, job):
    return kind_of(record).told(given_to(record, job.records))


LADDER = ((0, 0, 0), (0, 0, 9000), (0, -900, 0))


@pytest.mark.parametrize("units", [Units.IMPERIAL, Units.METRIC])
@pytest.mark.parametrize("side", [1.0, -1.0])
def test_flights_of_a_ladder_stand_on_landings_with_rungs_and_headroom_evenly(units, side):
    own = COMPOUNDS["ladder"].metric if units is Units.METRIC else {}
    params = {**own, "landing": 3100.0, "gate": "gates", "side": "to the right" if side > 0 else "to the left"}
    record = composite("ladder", LADDER, params)
    job = job_of(record, units=units)
    shop = build(job)
    assert not shop.all_findings and not shop.clashes
    made = {m.id: m for m in job.all(Member)}
    keys = {key: made[part.id] for key, part in parts(record, job.records).items() if part.id in made}
    rungs = sorted(m.start[2] for key, m in keys.items() if re.search(r"rung \d+$", key))
    assert np.ptp(np.diff(rungs)) == pytest.approx(0.0, abs=1e-4) and rungs[-1] == pytest.approx(9000.0)
    for n, floor in ((1, 3000.0), (2, 6000.0)):
        plate = keys[f"landing {n} floor"]
        assert plate.start[2] + section(plate.section).tw / 2 == pytest.approx(floor, abs=0.01)
        assert keys[f"flight {n + 1} left stile"].start[2] == pytest.approx(floor)
        middle = (plate.start[0] + plate.end[0]) / 2
        assert middle * side * (-1 if n == 2 else 1) > (0.0 if n == 1 else -params.get("beside", 762.0))
    plate, s = keys["landing 1 floor"], section(keys["landing 1 bearer 1"].section)
    bearers = sorted(m.start[0] for key, m in keys.items() if re.fullmatch(r"landing 1 bearer \d+", key))
    edges = sorted((plate.start[0], plate.end[0]))
    assert len(bearers) == 2
    assert (bearers[0] - s.b / 2, bearers[-1] + s.b / 2) == pytest.approx(edges, abs=0.01)
    stile, leaf = (section(keys[f"flight 3 {key}"].section) for key in ("left stile", "gate left"))
    left, right = (keys[f"flight 3 {side} stile"].start[0] for side in ("left", "right"))
    inner = left + stile.b / 2, right - stile.b / 2
    assert keys["flight 3 gate right"].start[0] + leaf.b / 2 == pytest.approx(inner[1] - 8.0)
    assert keys["flight 3 gate left"].start[0] - leaf.b / 2 > inner[0] + 20.0
    for key, m in keys.items():  # the landing's rails and gate stand on it
        if key.startswith("landing 1 ") and m.role is Role.POST:
            assert edges[0] < m.start[0] < edges[1] and -params.get("off", 177.8) - 800.1 < m.start[1] < 0.0
    post = next(m for key, m in keys.items() if key.startswith("landing 1 rail") and m.role is Role.POST)
    assert max(post.start[2], post.end[2]) - 3000.0 == pytest.approx(
        RULES[checked(COMPOUNDS["ladder"].params, params).rule].guard - section(post.section).d / 2, abs=0.1
    )


@pytest.mark.parametrize(("params", "said"), [
    ({"rule": "ISO 14122-3"}, ["landing after at most", "a cage or a fall arrester"]),
    ({"rule": "ISO 14122-3", "landing": 5000.0, "cage": "a cage"}, []),
    ({"rule": "ISO 14122-3", "landing": 5000.0}, ["a cage or a fall arrester"]),
    ({"rule": "OSHA, standard stairs", "cage": "a cage"}, ["a cage is none"]),
    ({"rule": "comfort alone"}, []),
])  # fmt: skip
def test_a_ladder_is_held_against_how_far_its_rule_lets_it_climb(params, said):
    record = composite("ladder", LADDER, {"spacing": 290.0, "over": 1110.0, **params})
    told = [one.text for one in said_of(record, job_of(record))]
    assert len(told) == len(said) and all(any(words in text for text in told) for words in said)


@pytest.mark.parametrize(("params", "said"), [
    ({"landing": 2000.0}, "no headroom"),
    ({"landing": 5000.0, "beside": 460.0}, "stand in one another"),
    ({"landing": 5000.0, "bearer": "W8X18"}, "under its landings are channels"),
    ({"gate": "gates", "leaf": "ROD1"}, "its gate is of flats"),
    ({"gate": "gates", "leaf": "PL1/4X2-1/2"}, "no stop"),
    ({"gate": "gates", "over": 300.0}, "far enough over the top"),
])  # fmt: skip
def test_what_is_no_ladder_is_refused(params, said):
    with pytest.raises(JobError, match=said):
        job_of(composite("ladder", LADDER, params))
