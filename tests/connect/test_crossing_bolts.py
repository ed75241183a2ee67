"""Braces bolted through back to back where they cross: sound whatever the bay, found by rule, kept through every
change."""

import math

import numpy as np
import pytest
from msgspec.structs import replace
from tests.connect.sound import sound, wrong
from tests.edits import steel_differences

from uncus.frame.carrying import between, copies
from uncus.frame.cuts import join, split
from uncus.frame.moves import Motion
from uncus.frame.numbers.bracing import BRACING
from uncus.frame.numbers.kind import made
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.job import Job
from uncus.job.records import Attachment, Member, Project
from uncus.job.start import SERIES, usual_rules
from uncus.lens.office import connect
from uncus.mark.marking import Marks, apply, propose
from uncus.shop.shop import Shop, build
from uncus.units import Units


def crossed(section="L4X4X3/8", turn=0.0, gap=9.525, wide=6000.0, high=4000.0) -> list[Member]:
    """Two braces of an X at either side of its plane, in a wall that stands `turn` degrees from east."""
    t = math.radians(turn)
    corner = (wide * math.cos(t), wide * math.sin(t), high)
    values = checked(BRACING.params, {"section": section, "crossing": "set off to either side", "gap": gap})
    one, two = made(BRACING, values, [(0.0, 0.0, 0.0), corner], Units.IMPERIAL)
    return [replace(one, id="one"), replace(two, id="two")]


def bolts(**values) -> Attachment:
    return Attachment(id="c", kind="crossing bolts", member="one", mate="two", params=values)


def shop_of(members, units=Units.IMPERIAL, **values) -> Shop:
    return Shop([Project(units=units), usual_rules(units), *members, bolts(**values)])


@pytest.mark.parametrize("turn", [0.0, 37.0, 180.0])
@pytest.mark.parametrize(("section", "units"), [("L4X4X3/8", Units.IMPERIAL), ("L6X4X1/2", Units.IMPERIAL),
    ("C8X11.5", Units.IMPERIAL), ("L100X100X10", Units.METRIC), ("UPN160", Units.METRIC)])  # fmt: skip
@pytest.mark.parametrize(("gap", "wide"), [(9.525, 6000.0), (0.0, 6000.0), (20.0, 2500.0)])
def test_braces_back_to_back_are_bolted_where_they_cross(section, units, gap, wide, turn):
    for values in ({}, {"count": 2}, {"filler": "none"}):
        shop = shop_of(crossed(section, turn, gap, wide), units, **values)
        made_ = shop.connections["c"]
        if values.get("count") == 2 and wrong(shop):
            assert all("edge" in text or "leg" in text for text in wrong(shop)), wrong(shop)
            continue
        (group,) = made_.fasteners
        if gap and "filler" in values:
            assert any("a filler keeps them straight" in f.text for f in made_.findings)
            continue
        sound_or_said(shop)
        assert group.field and len(group.points) == values.get("count", 1)
        assert bool(made_.parts) == (gap > 1.6) and set(group.joins) >= {"one", "two"}
        middle = np.mean(group.points, axis=0)  # the gage lines of like braces cross on the bay's own middle line
        assert math.hypot(*middle[:2]) == pytest.approx(wide / 2, abs=40.0)
        for part in made_.parts:
            assert part.part.thickness == pytest.approx(gap)


def sound_or_said(shop: Shop) -> None:
    """Everything `sound` asks of a joint, of an attachment whose own cuts are none."""
    assert not wrong(shop), wrong(shop)
    if shop.connections["c"].parts:
        sound(shop)


WAYS = [
    (lambda a, b: (a, replace(b, start=b.end, end=b.start)), "do not turn their backs"),
    (lambda a, b: (a, replace(b, section="HSS4X4X1/4")), "are not single angles or channels"),
    (lambda a, b: (replace(a, end=tuple(np.add(a.start, np.subtract(a.end, a.start) * 0.3))), b),
        "do not cross between their ends"),
    (lambda a, b: (a, replace(b, aside=b.aside + 90.0)), "stand too far apart"),
    (lambda a, b: (replace(a, aside=a.aside - 12.0), b), "fill the same space"),
    (lambda a, b: (replace(a, start=b.end, end=b.start), b), "lie along one another"),
]  # fmt: skip


@pytest.mark.parametrize(("change", "says"), WAYS)
def test_what_is_not_back_to_back_is_told_and_no_steel_is_made(change, says):
    shop = shop_of(change(*crossed()))
    assert any(says in text for text in wrong(shop)), wrong(shop)
    assert not shop.connections["c"].fasteners and not shop.connections["c"].features


def test_a_mate_that_goes_is_told_and_comes_back():
    job = Job([Project(), usual_rules(Units.IMPERIAL), *crossed(), bolts()])
    shop = build(job)
    job.follow(shop.follow)
    holes = {id: len(shop.assemblies[id].main.part.holes) for id in ("one", "two")}
    assert holes == {"one": 1, "two": 1}
    with job.change("delete") as change:
        change.drop("two")
    assert any("is gone" in text for text in wrong(shop)) and not shop.assemblies["one"].main.part.holes
    assert not steel_differences(shop, build(job))
    job.undo()
    assert not steel_differences(shop, build(job)) and not wrong(shop)
    for id, dz in (("two", 90.0), ("one", -40.0)):
        member = job.get(id, Member)
        with job.change("move") as change:
            change.put(replace(member, start=(*member.start[:2], member.start[2] + dz)))
        assert not steel_differences(shop, build(job)), "both follow, whichever moves"
    assert {len(shop.assemblies[id].main.part.holes) for id in ("one", "two")} == {1}
    with pytest.raises(JobError, match="needs another one"), job.change("itself") as change:
        change.put(replace(bolts(), mate="one"))


def test_by_rule_each_crossing_is_bolted_once_and_again_where_asked():
    job = Job([Project(), usual_rules(Units.IMPERIAL), *crossed()])
    report = connect(job, ["one"])
    (made_,) = report.fixed
    assert made_.members == ("one", "two") and report.records == (*report.made, made_)
    with job.change("connect") as change:
        for record in report.records:
            change.put(record)
    assert not connect(job, ["one", "two"]).fixed and connect(job, ["two"], redo=True).fixed == (made_,)
    with job.change("lock") as change:
        change.put(replace(made_, locked=True))
    assert not connect(job, ["two"], redo=True).fixed


def test_copies_take_it_along_where_both_are_copied_and_pieces_keep_it_where_they_cross():
    members, fixed = crossed(), bolts()
    both = copies(members, [Motion(np.eye(3), np.array([0.0, 9000.0, 0.0]))], [fixed])
    (copy,) = [r for r in both if isinstance(r, Attachment)]
    assert set(copy.members) == {r.id for r in both if isinstance(r, Member)}
    assert not [
        r
        for r in copies(members[:1], [Motion(np.eye(3), np.array([0.0, 9000.0, 0.0]))], [fixed])
        if isinstance(r, Attachment)
    ]
    there = {m.id: m for m in members}
    for share, kept in ((0.3, False), (0.7, True)):
        done = split(members[1:], [[share]], (), there)
        pieces = [r for r in done.put if isinstance(r, Member)]
        held = between({"two": pieces}, there, [fixed])
        assert bool(held) != kept
        after = {m.id: m for m in (members[0], *pieces)}
        shop = Shop([Project(), usual_rules(Units.IMPERIAL), *after.values(), *(held or [fixed])])
        assert not wrong(shop) and shop.connections["c"].fasteners
        back = join(pieces if pieces[0].id == "two" else pieces[::-1], (), Units.IMPERIAL, held or [fixed])
        again = {r.id: r for r in (*(held or [fixed]), *back.put) if isinstance(r, Attachment)}
        assert again["c"].members == ("one", "two") and "c" not in back.drop


def test_both_braces_of_a_bay_are_one_mark_where_neither_has_the_filler():
    for filler, marks in (("none", 1), ("welded to the first", 2)):
        job = Job([Project(), usual_rules(Units.IMPERIAL), *SERIES, *crossed(), bolts(filler=filler)])
        apply(job, propose(job, build(job)))
        assert len({Marks(job).of_assembly(id) for id in ("one", "two")}) == marks
