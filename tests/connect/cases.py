"""One joint or more of every kind, to be loaded."""

from collections.abc import Iterator

from msgspec.structs import replace
from tests.connect.sound import LEVEL, beam, column, girder, joined
from tests.connect.test_kinds import (
    BOX,
    BRACES,
    CROSSED,
    FLANGE,
    WEB,
    at_each_gusset,
    beside_web,
    brace,
    crossed,
    in_plan,
    overlapping,
)

from uncus.connect.kinds import KINDS
from uncus.connect.strength.design import Design, design
from uncus.job.records import Double, Line, Loads, Member, Role
from uncus.shop.shop import Shop

EVERY = Loads(shear=60_000.0, axial=40_000.0, moment=40e6)


def cases():
    tube = beam(0, "HSS6X4X1/4", z=LEVEL - 200, line=Line.CENTRE)
    yield "shear tab", [girder("W24X55"), beam(0, "W16X31")], {}
    yield "shear tab", [FLANGE, beam(20, "W16X31")], {}
    yield "double angle", [FLANGE, beam(0, "W16X31")], {}
    yield "double angle", [girder("W24X55"), beam(0, "W16X31")], {"params": {"to_beam": "welded"}}
    yield "double angle", [FLANGE, beam(0, "W16X31")], {"params": {"to_support": "welded"}}
    yield "shear end plate", [girder("W24X55"), beam(0, "W16X31")], {}
    yield "seat", [FLANGE, beam(0, "W16X31")], {}
    yield "seat", [FLANGE, beam(0, "W16X31")], {"params": {"to_support": "bolted"}}
    yield "through plate", [BOX, beam(0, "W16X31"), beam(180, "W16X31", id="mate", right=True)], {"others": ("mate",)}
    yield "end tee", [FLANGE, tube], {}
    yield "moment end plate", [FLANGE, beam(0, "W18X35")], {"params": {"flange_weld": "fillet"}}
    yield "flange plates", [FLANGE, beam(0, "W18X35")], {}
    yield "welded moment", [FLANGE, beam(0, "W18X35")], {"params": {"continuity": "none"}}
    yield "beam splice", [beam(180, "W16X31", id="support", right=True), beam(0, "W16X31")], {}
    top = Member(id="beam", role=Role.COLUMN, section="W12X65", start=(0.0, 0.0, 4000.0), end=(0.0, 0.0, 8000.0))
    yield "column splice", [column("W12X65", top=4000.0), top], {}
    yield "knee", [column("W14X53", roll=90, top=LEVEL), beam(0, "W14X22", 14)], {}
    yield "apex", [beam(180, "W14X22", -10, id="support", right=True), beam(0, "W14X22", -10)], {}
    yield "base plate", [column(id="beam")], {"support": None, "params": {"lug": 100.0}}
    yield "wall bearing", [beam(0, "W16X31")], {"support": None}
    post = Member(id="beam", role=Role.COLUMN, section="W10X49", start=(0.0, 0.0, 4000.0), end=(0.0, 0.0, 0.0))
    yield "cap plate", [girder("W16X40", z=4500.0), post], {}
    floor = beam(0, "W16X31", id="floor")
    up = beside_web(brace("L4X4X3/8", (3500.0, 0.0, 5600.0), at=(0.0, 0.0, 2800.0)), floor, "near")
    yield "gusset and tab", [column("W14X90", roll=90, id="col"), floor, up], {"support": "col", "others": ("floor",)}
    yield "welded end", [girder("HSS12X12X1/2", line=Line.CENTRE), beam(90, "HSS4X4X1/4", 45, line=Line.CENTRE)], {}
    yield "welded end", [FLANGE, beam(0, "HSS4X4X1/4", 30, line=Line.CENTRE)], {}
    for section_name in ("HSS6X6X1/4", "L4X4X3/8", "WT6X20"):
        one = {"line": Line.CENTRE}
        yield (
            "brace splice",
            [beam(180, section_name, id="support", right=True, **one), beam(0, section_name, **one)],
            {},
        )
    yield "crossing gusset", crossed("L4X4X3/8"), CROSSED
    yield "crossing gusset", crossed("L4X3X3/8", double=Double()), {**CROSSED, "params": {"to_brace": "welded"}}
    for section_name, more in BRACES:
        for kind, members, roles in at_each_gusset(section_name, more, False, {}):
            yield kind, members, roles
            if kind == "side gusset" and section_name.startswith("L"):
                yield kind, members, {**roles, "params": {"to_brace": "welded"}}
    yield "double angle", [girder("W24X55"), beam(25, "W16X31")], {}
    skewed = {"to_beam": "welded", "to_support": "welded"}
    yield "double angle", [girder("W24X55"), beam(-35, "W16X31")], {"params": skewed}
    yield "seat", [FLANGE, beam(20, "W14X30", 10, start=(180.0, 0.0))], {}
    yield "seat", [FLANGE, beam(0, "W14X30", -10)], {"params": {"to_support": "bolted"}}
    yield "moment end plate", [FLANGE, beam(15, "W18X35", 8, start=(178.0, 0.0))], {}
    yield "flange plates", [WEB, beam(0, "W18X35")], {}
    yield "flange plates", [FLANGE, beam(15, "W18X35", -8, start=(178.0, 0.0))], {}
    yield "welded moment", [WEB, beam(0, "W18X35")], {}
    yield "through plate", [BOX, beam(20, "W16X31")], {}
    post, floor = column("W14X90", roll=90, id="col"), beam(0, "W16X31", id="floor")
    one = brace("HSS4X4X1/4", (3500.0, 0.0, 5800.0), line=Line.CENTRE, aside=40.0)
    yield "corner gusset", [post, floor, one], {"support": "col", "others": ("floor",)}
    yield "welded end", overlapping(60, 60, 40, "HSS3X3X1/4"), {"others": ("web",)}
    for name, params in (("L4X4X3/8", {}), ("HSS4X4X1/4", {"to_first": "welded"})):
        members, roles = in_plan(70, name)
        yield "plan gusset", members, {**roles, "params": params}
    chord = girder("PIPE8STD", line=Line.CENTRE)
    for name in ("HSS4.000X0.250", "PIPE8STD"):
        yield "welded end", [chord, beam(90, name, 45, line=Line.CENTRE)], {}
    for name, slope in (("HSS6X6X1/4", -20), ("W14X22", -10), ("PIPE6STD", 15), ("C10X15.3", 25)):
        one = {"line": Line.CENTRE}
        met = [beam(180, name, slope, id="support", right=True, **one), beam(0, name, slope, **one)]
        yield "mitred ends", met, {"params": {"weld": "fillet" if name.startswith("P") else "groove"}}


def one_each(cases):
    """The cases without the gussets of braces and columns that are like others: a leg, legs in a star, a slotted
    tube and an I."""
    seen = set()
    for case in cases:
        kind, members, roles = case
        one = next(m for m in members if isinstance(m, Member) and m.id == "beam")
        like = (kind, one.section, bool(one.double), bool(roles.get("params")))
        if "gusset" not in kind or (
            one.section in ("L4X4X3/8", "HSS6X6X1/4", "HSS4X4X1/4", "W8X31") and like not in seen
        ):
            seen.add(like)
            yield case


CASES = list(cases())
EACH = list(one_each(CASES))


def designed(kind, members, params=None, loads=None, rules=None, **roles) -> Design:
    made = joined(kind, members, params=params, loads=loads, rules=rules, **roles).design("c")
    assert made is not None
    return made


def loaded(shop: Shop, *loads: Loads) -> Iterator[Design]:
    """The design of joint `c` as made once, under each of some loads."""
    joint, made = shop.joint("c"), shop.connections["c"]
    assert joint is not None
    for one in loads:
        given = replace(joint, record=replace(joint.record, loads=one))
        yield design(given, made, KINDS.get(joint.record.kind))
