import math

import msgspec
import numpy as np
import pytest

from uncus.connect.kinds import KINDS
from uncus.connect.shear_tab import Params
from uncus.job.errors import JobError
from uncus.job.forms import checked, fields
from uncus.job.job import Job
from uncus.job.records import Connection, End, Line, Member, Role, ShopRules
from uncus.shop.shop import Shop
from uncus.steel.solid import solid
from uncus.units import FOOT, INCH


def column(section="W10X49", roll=0.0, at=(0.0, 0.0)):
    return Member(id="support", role=Role.COLUMN, section=section, start=(*at, 0.0), end=(*at, 6000.0), roll=roll)


def girder(section="W18X35", z=3000.0):
    return Member(
        id="support", role=Role.BEAM, section=section, start=(0, -4000.0, z), end=(0, 4000.0, z), line=Line.TOP
    )


def beam(direction, section="W12X26", length=5000.0, rise=0.0, z=3000.0, reverse=False, **more):
    a, b = (0.0, 0.0, z), (direction[0] * length, direction[1] * length, z + rise)
    start, end = (b, a) if reverse else (a, b)
    return Member(id="beam", role=Role.BEAM, section=section, start=start, end=end, line=Line.TOP, **more)


def joined(support, the_beam, reverse=False, params=None, rules=None) -> Shop:
    end = End.RIGHT if reverse else End.LEFT
    c = Connection(id="c", kind="shear tab", member="beam", end=end, support="support", params=params or {})
    return Shop([rules or ShopRules(), support, the_beam, c])


def sound(shop: Shop) -> None:
    """No finding; parts closed and apart; every bolt through a hole of every ply, on its axis."""
    made = shop.connections["c"]
    assert not [f.text for f in made.findings if f.severity == "wrong"]
    pieces = {p.id: p for p in shop.pieces()}
    bodies = {}
    for id, piece in pieces.items():
        matrix = np.hstack([piece.placement.axes, piece.placement.origin[:, None]])
        bodies[id] = solid(piece.part).transform(matrix)
        assert bodies[id].volume() > 0
    ids = sorted(bodies)
    for i, a in enumerate(ids):
        for b in ids[i + 1 :]:
            assert (bodies[a] ^ bodies[b]).volume() < 1.0, (a, b)
    for group in made.fasteners:
        for at in group.points:
            for ply in group.joins:
                part, place = pieces[ply].part, pieces[ply].placement
                local, axis = place.to_local(at), place.axes.T @ np.array(group.axis)
                assert abs(axis[1]) == pytest.approx(1)
                away = min(math.hypot(h.x - local[0], h.w - local[2]) for h in part.holes)
                assert away < 0.01
    weld = made.welds[0]
    tab = pieces["c/tab"]
    assert np.abs(tab.placement.to_local(weld.path)[:, 0]).max() < 0.01, (
        "the weld lies on the tab's edge at the support"
    )


CASES = (
    [
        pytest.param(column(roll=roll), d, {"section": s}, id=f"column {roll} {d} {s}")
        for roll in (0.0, 90.0)
        for d in ((1, 0), (-1, 0), (0, 1), (0, -1))
        for s in ("W12X26", "W16X31", "W8X18", "C10X15.3")
    ]
    + [
        pytest.param(girder(), d, {"section": s}, id=f"girder {d} {s}")
        for d in ((1, 0), (-1, 0))
        for s in ("W12X26", "W16X31", "W10X22")
    ]
    + [
        pytest.param(girder("W14X22"), (1, 0), {"section": "W14X22"}, id="same depth, both flanges coped"),
        pytest.param(column(), (0, 1), {"rise": 1500.0}, id="sloping up"),
        pytest.param(column(), (0, -1), {"rise": -900.0}, id="sloping down"),
        pytest.param(column("HP12X53"), (0, 1), {"section": "IPE300"}, id="other families"),
    ]
)


def test_a_tab_goes_to_site_on_the_support_or_on_the_beam():
    """Shop work belongs to what it is fixed to in the shop; what is left for the site is kept apart."""
    for on, owner, site_bolts in (("support", "support", True), ("beam", "beam", False)):
        shop = joined(column(), beam((0, 1)), params={"on": on})
        assert [p.owner for p in shop.pieces() if p.id == "c/tab"] == [owner]
        assembly = shop.assemblies["beam"]
        assert [g.field for g in assembly.holds] == [site_bolts]
        assert len(assembly.site_welds) == (0 if site_bolts else 1)
        assert len(shop.assemblies["support"].welds) == (1 if site_bolts else 0)
        assert len(assembly.shop_bolts("c/tab")) == (0 if site_bolts else 1)


@pytest.mark.parametrize("reverse", [False, True], ids=["left end", "right end"])
@pytest.mark.parametrize("side", ["near", "far"])
@pytest.mark.parametrize(("support", "direction", "more"), CASES)
def test_joints_are_sound(support, direction, more, side, reverse):
    sound(joined(support, beam(direction, reverse=reverse, **more), reverse, {"side": side}))


def test_the_first_bolt_stands_where_the_rules_say():
    shop = joined(column(), beam((0, 1)))
    tab = shop.assemblies["support"].pieces[-1].part
    assert tab.length == pytest.approx(3.5 * INCH) and tab.thickness == pytest.approx(0.375 * INCH)
    assert [h.x for h in tab.holes] == pytest.approx([2 * INCH] * 3)
    main = shop.assemblies["beam"].main.part
    tops = sorted(main.section.d / 2 - h.w for h in main.holes)
    assert tops == pytest.approx([3 * INCH, 6 * INCH, 9 * INCH], abs=1e-3)


def test_beams_are_cut_to_sixteenths_and_never_longer_than_the_gap_allows():
    shop = joined(column("W10X39"), beam((0, 1), length=20 * FOOT))
    length = shop.assemblies["beam"].main.part.length
    assert (20 * FOOT - length) / INCH * 16 == pytest.approx(round((20 * FOOT - length) / INCH * 16), abs=1e-3)
    gap = 20 * FOOT - length - 9.92 / 2 * INCH
    assert 0.5 * INCH <= gap < (0.5 + 1 / 16) * INCH + 0.01


def test_copes_clear_the_girder_and_carry_the_rules_radius():
    rules = ShopRules(cope_radius=19.05)
    shop = joined(girder(), beam((1, 0)), rules=rules)
    (cope,) = shop.assemblies["beam"].main.part.copes
    assert not cope.bottom and cope.radius == pytest.approx(19.05)
    assert cope.depth >= 1.125 * INCH - 0.1, "as deep as the girder's k"
    flange = (6.0 - 0.3) / 2 * INCH
    assert cope.length >= flange - 0.5 * INCH


@pytest.mark.parametrize(
    ("support", "the_beam", "params", "says"),
    [
        (column(), beam((math.cos(0.5), math.sin(0.5))), {}, "skewed by"),
        (column(), beam((0, 1), section="W6X9"), {"rows": 4}, "do not fit"),
        (column("HSS8X8X1/4"), beam((0, 1)), {}, "no flange or web"),
        (column(), beam((0, 1), section="HSS8X4X1/4"), {}, "has none"),
        (column(at=(9000.0, 0.0)), beam((1, 0), length=3000.0), {}, "does not reach"),
        (girder(z=6000.0), beam((1, 0)), {}, "does not reach"),
        (girder(z=3500.0), beam((1, 0)), {}, "over or under"),
        (girder("W6X9"), beam((1, 0), section="W16X31"), {}, "too shallow"),
        (girder(), beam((1, 0), rise=900.0), {}, "slopes onto"),
        (girder(), beam((0, 1), z=3000.0), {}, "runs along"),
        (column(), beam((0, 1)), {"edge": 16.0}, "Edge distance"),
        (column(), beam((0, 1)), {"pitch": 31.0}, "2 2/3"),
        (column(), beam((0, 1)), {"down": 30.0}, "fillet"),
    ],
)
def test_what_does_not_fit_is_a_finding_and_never_an_exception(support, the_beam, params, says):
    shop = joined(support, the_beam, params=params)
    texts = [f.text for f in shop.connections["c"].findings]
    assert any(says in t for t in texts), texts
    assert all(t.endswith(".") for t in texts)
    assert set(shop.assemblies) == {"beam", "support"}, "the rest is there all the same"


def test_the_joint_follows_its_members_and_comes_back():
    job = Job(
        [
            ShopRules(),
            column(),
            beam((0, 1)),
            Connection(id="c", kind="shear tab", member="beam", end=End.LEFT, support="support"),
        ]
    )
    shop = Shop(job.records.values())
    job.follow(shop.follow)
    good = shop.assemblies["beam"]
    for change in ({"section": "W16X31"}, {"end": (0.0, 7000.0, 3000.0)}, {"section": "HSS8X4X1/4"}):
        with job.change("x") as c:
            c.put(msgspec.structs.replace(job.get("beam", Member), **change))
    assert shop.connections["c"].findings and not shop.connections["c"].parts
    with job.change("drop") as c:
        c.drop("support")
    assert "lost what held it" in shop.connections["c"].findings[0].text
    for _ in range(4):
        job.undo()
    assert shop.assemblies["beam"] == good


def test_parameters_carry_their_own_form_and_limits():
    for kind in KINDS.values():
        about = fields(kind.params)
        assert set(about) == set(kind.params.__struct_fields__)
        assert all(a.words for a in about.values())
    for bad in ({"rows": 1}, {"bolt": "9"}, {"gap": float("nan")}, {"colour": 3}, {"edge": "wide"}, {"rows": 2.5}):
        with pytest.raises(JobError):
            checked(Params, bad)
