"""Joints that are alike are made once: what comes back is what would have been made in place, and the key tells apart
whatever is made otherwise."""

import random
from collections import Counter

import msgspec
import numpy as np
import pytest

from uncus.connect.alike import fitting_home, joint_home
from uncus.connect.kind import Joint
from uncus.frame.moves import transformed, turn_about
from uncus.frame.placement import Placement
from uncus.job.joinery import Loads
from uncus.job.records import Attachment, Connection, Double, End, Member, Project, ShopRules
from uncus.sample.chance import drawn
from uncus.sample.frames import frame
from uncus.sample.joints import joints
from uncus.shop import joints as made
from uncus.shop.shop import Shop

GALLERY = joints()


def flat(thing) -> tuple[list[object], list[float]]:
    """What of a contribution must be equal, and its numbers, which may be off by the rounding of a point."""
    same, numbers = [], []

    def walk(one) -> None:
        if isinstance(one, Placement):
            numbers.extend([*one.origin.tolist(), *(100 * one.axes).ravel().tolist()])
        elif isinstance(one, float):
            numbers.append(one)
        elif isinstance(one, tuple | list):
            for each in one:
                walk(each)
        elif isinstance(one, msgspec.Struct):
            same.append(type(one).__name__)
            walk([getattr(one, name) for name in one.__struct_fields__])
        else:
            same.append(one)

    walk(thing)
    return same, numbers


@pytest.mark.parametrize("name", [name for name, _ in GALLERY])
def test_what_comes_back_is_what_is_made_in_place(name):
    shop = Shop(dict(GALLERY)[name])
    for id in (r.id for r in dict(GALLERY)[name] if isinstance(r, Connection)):
        joint = shop.joint(id)
        (same, numbers), (others, theirs) = map(flat, (made.contribution(joint), made.made_of(joint).brings))
        assert same == others
        assert numbers == pytest.approx(theirs, abs=2e-3)


def moved(records, seed):
    """The same building elsewhere, turned, under other ids and in another order."""
    lot = random.Random(seed)
    motion = turn_about((0.0, 0.0, 0.0), (0.0, 0.0, 1.0), lot.uniform(-180, 180))
    motion = msgspec.structs.replace(motion, shift=np.array([lot.uniform(-9e4, 9e4) for _ in range(3)]))
    ids = {r.id: f"{lot.getrandbits(64):016x}" for r in records if isinstance(r, Member | Connection | Attachment)}
    found = []
    for r in records:
        there = transformed(r, motion) if isinstance(r, Member) else r
        named = {f: ids.get(v, v) if isinstance(v, str) else tuple(map(ids.get, v)) for f in
            ("id", "member", "support", "others", "mate") if (v := getattr(there, f, None))}  # fmt: skip
        found.append(replaced(there, **named))
    lot.shuffle(found)
    return found


@pytest.mark.parametrize("seed", range(4))
def test_a_joint_is_the_same_wherever_it_stands_and_whoever_it_is(seed):
    """A regular frame with its attachments, which is all but as regular turned out of the axes (thirds are no round
    figures)."""
    wanted = [r for r in frame(2, 2) if isinstance(r, Member | Connection | Project | ShopRules)]
    wanted += [Attachment(kind="stiffeners", member=m.id) for m in wanted if isinstance(m, Member)][::3]
    there = Shop(moved(wanted, seed))
    here, turned = Counter(keys_of(Shop(wanted))), Counter(keys_of(there))
    assert (here & turned).total() > 0.8 * here.total() and len(here) < here.total() / 2


def keys_of(shop: Shop) -> list[bytes]:
    found = [joint_home(joint).key for id in shop.connections if (joint := shop.joint(id))]
    return sorted(found + [fitting_home(f).key for m in shop.assemblies for a in shop.attachments_at(m)
        if (f := shop.fitting(a))])  # fmt: skip


CHANGES = {
    "value": lambda j: replaced(j, record=replaced(j.record, params={**j.record.params, "rows": 5})),
    "end": lambda j: replaced(j, record=replaced(j.record, end=j.record.end.other)),
    "loads": lambda j: replaced(j, record=replaced(j.record, loads=Loads(shear=1.0))),
    "rules": lambda j: replaced(j, rules=replaced(j.rules, gap=13.0)),
    "standard": lambda j: replaced(j, standard="EN 1993"),
    "section": lambda j: body(j, section="W12X30"),
    "grade": lambda j: body(j, grade="A992-50"),
    "length": lambda j: body(j, end=(j.member.record.end[0] + 0.01, *j.member.record.end[1:])),
    "run-on": lambda j: body(j, left_back=0.01),
    "pair": lambda j: body(j, double=Double()),
    "seismic": lambda j: body(j, seismic=True),
    "support": lambda j: replaced(j, support=None),
    "place of the support": lambda j: replaced(j, support=replaced(j.support,
        frame=j.support.frame.moved((0.0, 1e-4, 0.0)))),
    "further member": lambda j: replaced(j, others=(j.support,)),
    "joint under it": lambda j: replaced(j, under=(Connection(kind="base plate", member=j.support.id,
        end=End.LEFT),)),
    "joint at the other end": lambda j: replaced(j, mate=replaced(j, record=replaced(j.record, id="mate"))),
    "units": lambda j: replaced(j, units=type(j.units)("metric")),
}  # fmt: skip
replaced = msgspec.structs.replace


def body(j: Joint, **values) -> Joint:
    return replaced(j, member=replaced(j.member, record=replaced(j.member.record, **values)))


def test_the_key_tells_apart_whatever_may_be_made_otherwise():
    """Every field that a joint is made of, and that no field came without one being thought of here."""
    joint = Shop(dict(GALLERY)[GALLERY[0][0]]).joint("joint")
    keys = {name: joint_home(change(joint)).key for name, change in CHANGES.items()}
    assert len({*keys.values(), joint_home(joint).key}) == len(keys) + 1
    assert Joint.__struct_fields__ == ("record", "member", "support", "rules", "others", "under", "mate", "units",
        "standard")  # fmt: skip
    other = replaced(joint, record=replaced(joint.record, member="other"))
    left = body(other, id="other", lot="9", finish="galvanized", camber=3.0, start=joint.member.record.start)
    assert joint_home(left).key == joint_home(joint).key


def test_one_that_is_known_is_not_made_again(monkeypatch):
    records = list(drawn(5))
    first = Shop(records)
    monkeypatch.setattr(made, "made_of", lambda joint: pytest.fail("made again"))
    again = Shop(records)
    assert again.connections == first.connections and again.all_findings == first.all_findings
