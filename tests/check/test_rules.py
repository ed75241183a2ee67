"""Each rule of checking finds what it is for and nothing else, in a small frame that is clean."""

from functools import partial

import msgspec
import numpy as np
import pytest

from uncus.check.checking import alike, look, rules_problem, stand, values_of
from uncus.check.looked import Looked
from uncus.check.raising import waits
from uncus.check.rules import RULES
from uncus.compose.following import amended
from uncus.compose.making import given_to
from uncus.compose.stair import laid_out
from uncus.connect.standards import from_json, of_job, taken_in, to_json
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_in
from uncus.job.blanks import Blank, Fold
from uncus.job.job import Job
from uncus.job.records import (
    Anchor,
    Attachment,
    CheckRules,
    Composite,
    Connection,
    Crane,
    End,
    ErectionRules,
    Level,
    Line,
    Member,
    Reach,
    Role,
)
from uncus.mark.marking import apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.steel.joint import Severity, WeldForm
from uncus.units import Units

replace = msgspec.structs.replace


@pytest.fixture
def job():
    return Job(frame(1, 1))


def found(job, rule="", marks=False):
    shop = build(job)
    if marks:
        apply(job, propose(job, shop))
    return [f for f in look(Looked(job, shop)).found if not rule or f.rule == rule]


def beam(job, section="W12X19") -> Member:
    return next(m for m in job.all(Member) if m.section == section and m.role is Role.BEAM)


def put(job, *records, drop=()):
    with job.change("test") as change:
        for record in records:
            change.put(record)
        for id in drop:
            change.drop(id)


def flat(id: str, start, end, roll=0.0) -> Member:
    return Member(id=id, role=Role.BRACE, section="FL100X10", start=start, end=end, roll=roll)


def asked(job, **values):
    put(job, CheckRules(values={name.replace("_", " "): own for name, own in values.items()}))


def steep_stair(job):
    """A flight that keeps its rise and not its going, and is made of nothing here."""
    put(job, Composite(kind="stair", anchors=(Anchor((90_000.0, 0.0, 0.0)), Anchor((92_000.0, 0.0, 2500.0)))))


def under_a_beam(job, low=1900.0):
    """A flight under a beam whose underside lies so high over its third tread, and another's far over all of it."""
    job.amend(amended)
    stair = Composite(id="s", kind="stair", anchors=(Anchor((90_000.0, 0.0, 0.0)), Anchor((94_600.0, 0.0, 3048.0))))
    flight = laid_out(given_to(stair, job.records)).flight
    x, z = 90_000.0 + 2.5 * flight.going, 3 * flight.rise
    put(job, stair, *(Member(id=f"{up} beam", role=Role.BEAM, section="W12X19", start=(x, -3000.0, z + up), end=(x,
        3000.0, z + up), line=Line.BOTTOM) for up in (low, 4000.0)))  # fmt: skip


def sharply_bent(job):
    """A plate whose leg is shorter than its tool holds."""
    place = Placement((90_000.0, 0.0, 0.0), np.eye(3))
    blank = Blank(rectangle((0.0, 0.0), (300.0, 200.0)), folds=(Fold(0.0, 180.0, 300.0, 180.0, 90.0, 15.0),))
    put(job, replace(plate_in(place, blank, 9.525, Units.IMPERIAL), id="bent"))


# -- what each is for: an edit, and how many findings of the rule it brings -----------------------------------
def crossing_flats(job):
    """Two flats through one another amid their lengths, far from the frame: 10 x 10 x 100 mm."""
    put(job, flat("one", (50_000, 0, 0), (52_000, 0, 0)), flat("two", (51_000, -1000, 0), (51_000, 1000, 0)))


def double(job, back=False):
    m = beam(job)
    put(job, replace(m, id="again", start=m.end if back else m.start, end=m.start if back else m.end))


def joint_twice(job):
    put(job, replace(next(c for c in job.all(Connection) if c.kind == "base plate"), id="again"))


def unjoined(job):
    c = next(c for c in job.all(Connection) if c.kind == "shear tab")
    put(job, drop=[c.id])


def alone(job):
    """A girder and a beam that frames into it, far from everything."""
    girder = replace(beam(job, "W18X35"), id="girder", start=(50_000, 0, 0), end=(50_000, 6000, 0))
    joist = replace(beam(job), id="joist", start=(50_000, 3000, 0), end=(55_000, 3000, 0))
    put(job, girder, joist, Connection(id="tie", kind="shear tab", member="joist", end=End.LEFT, support="girder"))


def moved_end(job, by, end="start", section="W12X19"):
    m = beam(job, section)
    at = getattr(m, end)
    put(job, replace(m, **{end: tuple(a + b for a, b in zip(at, by, strict=True))}))


def changed(job, section="W12X19", **values):
    put(job, replace(beam(job, section), **values))


def raised(job, by):
    """A beam between two girders, for their tops to be held beside its own."""
    m = next(m for m in job.all(Member) if m.section == "W12X19" and m.start[1] == pytest.approx(2032))
    put(job, replace(m, start=(*m.start[:2], m.start[2] + by), end=(*m.end[:2], m.end[2] + by)))


def tube(job, vents=False):
    put(job, Member(id="tube", role=Role.POST, section="HSS4X4X1/4", start=(50_000, 0, 0), end=(50_000, 0, 3000),
        finish="hot-dip galvanized"))  # fmt: skip
    if vents:
        put(job, Attachment(id="vents", kind="vent holes", member="tube"))


def marked_then_changed(job):
    apply(job, propose(job, build(job)))
    changed(job, section="W16X31", camber=25.4)


def lying_on(job, by=10.0):
    """A flat on another, and nothing between them."""
    put(job, flat("under", (50_000, 0, 0), (52_000, 0, 0), 90.0), flat("upper", (50_500, 0, by), (51_500, 0, by), 90.0))


def too_near(job, by=40.0):
    lying_on(job, by)
    asked(job, gaps={"lens": "section is FL100X10", "other_lens": "section is FL100X10", "clear": 50.0})


def hole_in_fillet(job):
    put(job, Attachment(id="holes", kind="nailer holes", member=beam(job).id, params={"gage": 38.0}))


def long_joist(job, braced=False):
    ends = [replace(beam(job, "W18X35"), id=f"girder {x}", start=(x, 0, 0), end=(x, 9000, 0)) for x in (50_000, 64_000)]
    joist = replace(beam(job), id="joist", start=(50_000, 4000, 0), end=(64_000, 4000, 0))
    joints = [Connection(id=f"tie {end}", kind="shear tab", member="joist", end=end, support=girder.id)
        for end, girder in zip((End.LEFT, End.RIGHT), ends, strict=True)]  # fmt: skip
    put(job, *ends, joist, *joints)
    if braced:
        strut = replace(beam(job), id="strut", start=(57_000, 4000, 0), end=(57_000, 9000, 0))
        put(job, strut, Connection(id="amid", kind="shear tab", member="strut", end=End.LEFT, support="joist"))


def set_early(job, order="2, 1"):
    """A beam of a lot that comes before that of its girders."""
    put(job, ErectionRules(order=order), replace(beam(job), lot="2"))


def weak_crane(job):
    """A crane that lifts the beams, and neither the columns nor two girders."""
    put(
        job,
        Crane(id="crane", name="Mobile", at=(3000.0, 3000.0, 0.0), table=(Reach(0.0, 900.0), Reach(40_000.0, 300.0))),
    )


CASES = {
    "set before its girders": ("raising", set_early, 2),
    "too heavy for the crane there": ("cranes", weak_crane, 10),
    "a flat on another": ("touching", lying_on, 1),
    "nearer than is wanted": ("gaps", too_near, 1),
    "a hole in a fillet": ("fillets", hole_in_fillet, 1),
    "a long joist": ("joists", long_joist, 1),
    "two flats through one another": ("overlap", crossing_flats, 1),
    "a stair too steep for its rule": ("parts", steep_stair, 1),
    "a beam low over a stair": ("headroom", under_a_beam, 1),
    "a leg too short to bend": ("bends", sharply_bent, 1),
    "a member twice": ("twice", double, 1),
    "a member twice, end for end": ("twice", partial(double, back=True), 1),
    "a joint twice": ("twice", joint_twice, 1),
    "an end without a joint": ("open end", unjoined, 1),
    "held at one end": ("hanging", unjoined, 1),
    "a work point off a grid line": ("off lines", partial(moved_end, by=(12.0, 0, 0)), 1),
    "a work point off a level": ("off lines", partial(moved_end, by=(0, 0, -9.0)), 1),
    "all but level": ("askew", partial(moved_end, by=(0, 0, -9.0)), 1),
    "tops a sixteenth apart": ("heights", partial(raised, by=-1.5875), 2),
    "a top in the deck": ("deck", partial(raised, by=50.0), 1),
    "camber on a short beam": ("camber", partial(changed, section="W16X31", camber=25.4), 1),
    "too little camber": ("camber", partial(changed, camber=6.0), 1),
    "a tube without vents": ("vents", tube, 1),
    "three rods": ("rods", partial(asked, rods={"least": 5}), 8),
    "too long for the trailer": ("shipping", partial(asked, shipping={"length": 7200.0}), 10),
    "too heavy for the crane": ("lifting", partial(asked, lifting={"crane": 100}), 24),
    "not in stock": ("stock", partial(asked, stock={"sections": "W12X19, W10X49, W16X31"}), 2),
    "hardly any length": ("no length", partial(asked, no_length={"least": 5000.0}), 8),
    "a hole at an edge": ("edges", partial(asked, edges={"share": 1.2}), 8),
    "changed since it was marked": ("unmarked", marked_then_changed, 1),
}


def test_a_clean_frame_and_the_sample_have_nothing(job, sample):
    """But for what could be saved, which no job is without."""
    for some in (found(job, marks=True), look(Looked(*sample)).found):
        assert {f.rule for f in some} <= {"hands"}, [f.text for f in some]


@pytest.mark.parametrize("name", CASES)
def test_a_rule_finds_what_it_is_for(name, job):
    rule, edit, number = CASES[name]
    edit(job)
    some = found(job, rule)
    assert len(some) == number, [f.text for f in found(job)]
    assert len({f.key for f in some}) == number and all(f.at and f.form and f.text.endswith(".") for f in some)
    job.undo()
    if rule != "unmarked":
        assert found(job, rule) == [] or name in ("a tube without vents",), "gone with what made it"


@pytest.mark.parametrize(("role", "end", "waiting"), [
    (Role.BEAM, End.LEFT, True), (Role.BEAM, End.RIGHT, True), (Role.BRACE, End.RIGHT, True),
    (Role.COLUMN, End.LEFT, True), (Role.COLUMN, End.RIGHT, False), (Role.POST, End.RIGHT, False),
])  # fmt: skip
def test_a_piece_waits_for_what_its_ends_are_joined_to_but_for_what_lies_on_a_head(role, end, waiting):
    member = Member(id="m", role=role, section="W8X18", start=(0, 0, 0), end=(1000, 0, 4000))  # rising to its right end
    joint = Connection(id="c", kind="shear tab", member="m", end=end, support="s")
    found = list(waits([joint], {"m": member}.get, lambda id: id))
    assert [(w.piece, w.holder) for w in found] == ([("m", "s")] if waiting else [])
    assert not list(waits([joint], {"m": member}.get, lambda _: "one piece"))


def test_findings_are_told_apart(job):
    """No two have one key, however much is wrong at one joint or piece: what is said of one is said of no other."""
    for _, edit, _ in CASES.values():
        edit(job) if edit not in (joint_twice, marked_then_changed) else None
    for n, c in enumerate(c for c in job.all(Connection) if c.kind == "shear tab"):
        put(job, replace(c, params={"rows": 3 + n % 9, "edge": 20.0, "thickness": 3.0 + n % 5}))
    some = found(job)
    assert len(some) > 60 and len({f.rule for f in some}) > 8
    keys = [f.key for f in some]
    assert len(keys) == len(set(keys)), [k for k in keys if keys.count(k) > 1][:3]


def test_near_cases_are_none(job):
    tube(job, vents=True)
    moved_end(job, (0.0, 0.0, 0.2))
    changed(job, section="W18X35", camber=25.4)
    put(job, CheckRules(off=("camber",)))
    names = {f.rule for f in found(job)}
    assert names.isdisjoint({"vents", "off lines", "askew", "camber", "heights"}), names
    put(job, drop=["vents", "tube"])
    long_joist(job)
    put(job, *(replace(job.get(f"girder {x}", Member), role=Role.COLUMN) for x in (50_000, 64_000)))
    assert "joists" not in {f.rule for f in found(job)}, "from column to column"
    put(job, drop=["girder 50000", "girder 64000", "joist", "tie left", "tie right"])
    long_joist(job, braced=True)
    lying_on(job, by=10.5)
    names = {f.rule: f.text for f in found(job)}
    assert names.keys().isdisjoint({"joists", "touching", "overlap"}), names


def test_headroom_is_told_to_the_sixteenth_and_only_where_it_is_short(job):
    under_a_beam(job, low=2000.0)
    (one,) = found(job, "headroom")
    assert "6'-6 3/4\" of headroom under the beam W12X19" in one.text, one.text
    job.undo()
    under_a_beam(job, low=2032.5)
    assert not found(job, "headroom")


def test_every_rule_has_a_case_that_fires():
    elsewhere = {"made", "strength", "room", "loose", "lengths", "grades", "held", "topic", "hands", "weld room"}
    elsewhere |= {"others", "after cutting"}
    assert {rule for rule, _, _ in CASES.values()} | elsewhere == set(RULES)
    assert all(rule.words and rule.help for rule in RULES.values())


def test_a_clash_is_known_to_its_volume_depth_and_place(job):
    put(job, replace(next(iter(job.all(Level))), id="l9", name="Club room", elevation=1000.0))
    crossing_flats(job)
    (one,) = found(job, "overlap")
    assert one.about == ("one", "two")
    assert one.volume == pytest.approx(10 * 10 * 100, rel=1e-3) and one.depth == pytest.approx(10, abs=0.05)
    assert one.at == pytest.approx((51_000, 0, 0), abs=0.1)
    where = Looked(job, build(job)).place((0.0, 6096.0, 4267.2 - 914.4))
    assert where == "grid 1/B, 3'-0\" under Level 1"


@pytest.mark.parametrize(("sides", "off", "words"), [
    ((1, -1), 45.0, "cannot be entered"),
    ((1, -1), 65.0, "cannot be turned tight"),
    ((1, -1), 12.0, "have no room for head and nut"),
    ((1,), 45.0, ""),
    ((1, -1), 400.0, ""),
])  # fmt: skip
def test_bolts_that_other_steel_is_in_the_way_of(sides, off, words, job):
    """Flats set up beside the bolts of a joint that knows nothing of them, so far from its plies."""
    joint = next(c for c in job.all(Connection) if c.member == beam(job).id)
    (group,) = build(job).connections[joint.id].fasteners
    (x, y, z), (ax, ay, _) = group.points[0], group.axis
    assert abs(ax) < 0.01
    walls = []
    for side in sides:
        at = y + ay * (group.grip / 2 + side * (group.grip / 2 + off + 5.0))
        walls.append(flat(f"wall{side}", (x - 300, at, z), (x + 300, at, z)))
    put(job, *(replace(w, section="FL250X10") for w in walls))
    some = found(job, "room")
    assert [f.about[0] for f in some] == ([f"{joint.id}/{group.key}"] if words else [])
    assert all(words in f.text and "brace FL250X10 stands in the way" in f.text for f in some)


def test_site_welds_that_other_steel_is_in_the_way_of(gallery_job):
    """Flats set up beside the gusset that a brace is welded to on site."""
    records, shop = list(gallery_job[0].records.values()), gallery_job[1]
    welds = ((id, w, p) for id, made in shop.connections.items() for w in made.welds for p in made.parts
        if w.field and f"{id}/{p.key}" in w.joins and p.part.is_plate and w.form is WeldForm.FILLET)  # fmt: skip
    joint, weld, plate = next(one for one in welds if abs(one[2].placement.axes[1, 1]) > 0.99)
    x, y, z = np.mean(weld.path, axis=0).tolist()
    for off, number in ((34.0, 1), (400.0, 0)):
        walls = [replace(flat(f"wall{s}", (x - 600, y + s * off, z), (x + 600, y + s * off, z)), section="FL250X10")
            for s in (1, -1)]  # fmt: skip
        made = Job([*records, *walls])
        some = [f for f in look(Looked(made, build(made))).found if f.rule == "weld room"]
        assert len({f.about[0].partition("/")[0] for f in some} & {joint}) == number, (plate.words, len(some))
        assert all("stands in the way of the electrode" in f.text and "FL250X10" in f.text for f in some)


def test_pieces_that_a_tab_alone_tells_apart_could_be_one_mark(job):
    """Two girders are alike but for the side of the beams that their tabs stand on."""
    girders = {m.id for m in job.all(Member) if m.section == "W18X35"}
    (one,) = [f for f in found(job, "hands", marks=True) if f.about[0] in girders]
    assert one.severity is Severity.SAVING and "give their joints the same side, and it is one mark" in one.text
    tabs = [c for c in job.all(Connection) if c.kind == "shear tab" and c.support == one.about[0]]
    put(job, *(replace(c, params={**c.params, "side": "far"}) for c in tabs))
    assert girders.isdisjoint(f.about[0] for f in found(job, "hands", marks=True)), "and so it is"
    put(job, *(replace(c, params={**c.params, "rows": 2}) for c in tabs))
    assert girders.isdisjoint(f.about[0] for f in found(job, "hands", marks=True)), "its tabs are other tabs now"


def test_what_is_loose_is_told_with_what_holds_to_it(job):
    alone(job)
    some = found(job, "loose")
    assert [f.about for f in some] == [("girder",)] and "and what holds to it are tied to nothing" in some[0].text


@pytest.mark.parametrize(("rule", "change", "words"), [
    ("grades", lambda g: replace(g, grade="A490"), "A325 (109 of them) and A490 (3)"),
    ("lengths", lambda g: replace(g, length=g.length - 6.35), "3 of the 3/4 A325 bolts are 1 3/4"),
    ("lengths", lambda g: replace(g, length=g.length - 60.0), ""),
])  # fmt: skip
def test_bolts_that_are_mixed_up_or_could_be_one(rule, change, words, job):
    shop = build(job)
    joint = next(c.id for c in job.all(Connection) if c.member == beam(job).id)
    made = shop._contributions[joint]
    shop._contributions[joint] = replace(made, fasteners=tuple(change(g) for g in made.fasteners))
    some = [f for f in look(Looked(job, shop)).found if f.rule == rule]
    assert [f.records for f in some] == ([(joint,)] if words else [])
    assert all(words in f.text for f in some), some


def test_the_same_at_many_places_is_one_row(job):
    asked(job, rods={"least": 6})
    (row,) = [r for r in alike(stand(look(Looked(job, build(job))), ())) if r[0].found.rule == "rods"]
    assert len(row) == 8 and len({t.found.at for t in row}) == 8


def test_values_of_rules_are_held_to_their_limits():
    assert rules_problem(CheckRules(values={"rods": {"least": 4}})) is None
    assert "between 1 and 12" in rules_problem(CheckRules(values={"rods": {"least": 99}}))
    assert "no rule" in rules_problem(CheckRules(off=("rod",)))
    assert values_of(RULES["camber"], CheckRules()).span == 7315.2


def test_rules_go_with_the_offices_standards(job):
    asked(job, rods={"least": 6})
    found_there = from_json(to_json(of_job(job)))
    other = Job(frame(1, 1))
    put(other, *taken_in(other, found_there))
    assert len(found(other, "rods")) == 8
    wrong = replace(found_there, checks=CheckRules(values={"rods": {"least": 99}}))
    put(other, *taken_in(other, from_json(to_json(wrong))))
    assert "could not be looked at: Rods a column must lie between" in found(other, "rods")[0].text


def test_a_rule_whose_lens_is_gone_says_so_once(job):
    asked(job, gaps={"lens": "no such lens", "other_lens": "role is beam"})
    (one,) = found(job, "gaps")
    assert one.text.startswith("The rule “Is too near” could not be looked at") and one.broken


def test_a_rule_that_fails_is_a_finding_and_the_rest_go_on(job, monkeypatch):
    broken = replace(RULES["deck"], each=lambda *_: 1 / 0)
    monkeypatch.setattr("uncus.check.checking.RULES", {**RULES, "deck": broken})
    crossing_flats(job)
    some = found(job)
    assert {f.rule for f in some} >= {"deck", "overlap"}
    assert "fault of the program" in next(f.text for f in some if f.rule == "deck")


def test_every_joint_of_the_gallery_and_both_samples_stands_free(gallery_job, sample, metric_sample):
    """Nothing that a kind makes stands in other steel, touches it unheld, or bores where no hole may be."""
    free = {"overlap", "room", "weld room", "touching", "edges", "fillets", "no length", "twice"}
    for made in (gallery_job, sample, metric_sample):
        some = [f for f in look(Looked(*made)).found if f.rule in free]
        assert not some, [f.text for f in some]
