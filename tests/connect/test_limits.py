"""Every kind of joint under loads by every standard: none is silently safe, and every figure is looked at before it
changes."""

import csv
import math
import re
from pathlib import Path

import msgspec
import pytest
from tests.connect.cases import CASES, EACH, EVERY, designed, loaded
from tests.connect.sound import joined

from uncus.connect.kinds import KINDS
from uncus.connect.strength.design import State, design
from uncus.job.records import Loads, ShopRules
from uncus.job.start import usual_rules
from uncus.steel.joint import WeldForm
from uncus.units import Units

FIGURES = Path(__file__).with_name("limits.csv")
EN = msgspec.structs.replace(usual_rules(Units.METRIC), bolt="M16", edge=32.0)
# welds and bolts that carry nothing of what a joint is designed for
IDLE = {
    "seat": {"seat to beam", "top to beam", "top", "top to support"},
    "cap plate": {"bolts"},
    "knee": {"cap inner", "cap outer"},
    "welded moment": {"top backing"},
    "wall bearing": {"near", "rods"},
}


@pytest.mark.sampled(4)
@pytest.mark.parametrize("rules", [ShopRules(), ShopRules(method="ASD"), EN], ids=["LRFD", "ASD", "EN"])
@pytest.mark.parametrize(("kind", "members", "roles"), CASES, ids=[f"{i} {c[0]}" for i, c in enumerate(CASES)])
def test_every_kind_is_checked(kind, members, roles, rules):
    """Each has limits that grow with the load, a clause and working that prints; pushed as well as pulled."""
    for sign in (1.0, -1.0):
        loads = msgspec.structs.replace(EVERY, axial=sign * EVERY.axial)
        once = designed(kind, members, loads=loads, rules=rules, **roles)
        assert len(once.limits) >= 3 or not joined(kind, members, rules=rules, **roles).connections["c"].parts
        used = [limit.used for limit in once.limits]
        assert used == sorted(used, reverse=True)
        for limit in once.limits:
            assert math.isfinite(limit.capacity) and limit.capacity > 0, limit
            assert limit.clause and limit.where and limit.demand >= 0
            for step in limit.steps:
                for put_in in (False, True):
                    assert step.written(once.code.units, put_in)


@pytest.mark.parametrize(("kind", "members", "roles"), EACH, ids=[f"{i} {c[0]}" for i, c in enumerate(EACH)])
def test_no_load_passes_because_nothing_looks_at_it(kind, members, roles):
    """A load that nothing would hold, alone and beside a small one of another kind: it fails or is named as not
    checked."""
    shop = joined(kind, members, **roles)
    if not shop.connections["c"].parts and kind != "welded end":
        return
    for name, sign in (("shear", 1), ("axial", 1), ("axial", -1), ("moment", 1)):
        small = {"shear": 1.0, "axial": 1.0, "moment": 1.0}
        given = [Loads(**{**beside, name: sign * 1e13}) for beside in ({}, small)]
        for loads, found in zip(given, loaded(shop, *given), strict=True):
            assert found.state is not State.PASSES, loads
            words = " ".join(found.unchecked)
            assert found.used > 1 or any(w in words for w in (name, "tension", "compression", "axial"))


def test_all_kinds_that_carry_have_checks():
    checked = {name for name, kind in KINDS.items() if kind.checks is not None}
    assert checked == {name for name, kind in KINDS.items() if kind.carries} == {c[0] for c in CASES}


def figures(case):
    """Rows of a case's limits and of what is not checked, pulled and pushed, by both standards."""
    kind, members, roles = case
    pulled, pushed = EVERY, msgspec.structs.replace(EVERY, axial=-EVERY.axial)
    for rules in (ShopRules(), EN):
        shop = joined(kind, members, loads=EVERY, rules=rules, **roles)
        for sign, found in zip(("+1", "-1"), loaded(shop, pulled, pushed), strict=True):
            code = found.code.name[:4]
            for x in found.limits:
                yield code, sign, x.where, x.words, f"{x.demand:.4g}", f"{x.capacity:.4g}"
            for words in found.unchecked:
                yield code, sign, "not checked", words, "", ""


@pytest.fixture(scope="module")
def known():
    with FIGURES.open(newline="") as file:
        rows = [tuple(row) for row in csv.reader(file)]
    return {name: {row[1:] for row in rows if row[0] == name} for name in {row[0] for row in rows}}


@pytest.mark.parametrize("n", range(len(EACH)), ids=[f"{i} {c[0]}" for i, c in enumerate(EACH)])
def test_no_figure_changes_unseen(n, known):
    """Not that they are right, which the examples worked by hand show: that a change of any is meant (N, N mm)."""
    name = f"{n} {EACH[n][0]}"
    found = set(figures(EACH[n]))
    assert known.get(name, set()) == found, "if this is meant, run this file as a program and read what it changes"


def twins(key):
    """A weld's or a bolt group's key and those at the other side or end, which carry what it does."""
    alike = {key, re.sub(r"\d| of support", "", key)}
    for one, other in (("near", "far"), ("top", "bottom"), ("support", "member"), ("low", "high")):
        alike |= {k.replace(a, b) for k in alike for a, b in ((one, other), (other, one))}
    return alike


@pytest.mark.parametrize(("kind", "members", "roles"), EACH, ids=[f"{i} {c[0]}" for i, c in enumerate(EACH)])
def test_every_weld_and_bolt_group_counts(kind, members, roles):
    """A weld or bolt made weaker, its twins too, weakens some limit of the joint, or it is named as not checked or
    as idle."""
    shop = joined(kind, members, loads=EVERY, **roles)
    joint, made = shop.joint("c"), shop.connections["c"]
    as_made = design(joint, made, KINDS[kind])
    filled = [w.key for w in made.welds if w.form is WeldForm.GROOVE]  # as strong as what they join
    for key in [x.key for x in (*made.welds, *made.fasteners) if x.key not in filled]:
        alike = twins(key)
        welds = [msgspec.structs.replace(w, size=w.size / 2) if twins(w.key) & alike else w for w in made.welds]
        bolts = [msgspec.structs.replace(g, grade="A307") if twins(g.key) & alike else g for g in made.fasteners]
        weaker = msgspec.structs.replace(made, welds=tuple(welds), fasteners=tuple(bolts))
        found = design(joint, weaker, KINDS[kind])
        named = ("mate" in key and "other" in " ".join(found.unchecked)) or key.split()[0] in " ".join(found.unchecked)
        assert found.limits != as_made.limits or named or alike & IDLE.get(kind, set()), key


if __name__ == "__main__":
    with FIGURES.open("w", newline="") as out:
        csv.writer(out).writerows(
            (f"{n} {c[0]}", *row) for n, c in enumerate(EACH) for row in dict.fromkeys(figures(c))
        )
