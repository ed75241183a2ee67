"""Two joints at one wall: the bolts both use are made once, through all plies; stiffeners are not made twice."""

import msgspec
import pytest
from tests.connect.sound import beam, column, girder, sound

from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, End, ShopRules
from uncus.shop.shop import Shop, build
from uncus.steel.joint import Severity


def at(id, member, kind, **more) -> Connection:
    return Connection(id=id, kind=kind, member=member, end=End.LEFT, support="support", **more)


def two(kind, support, sections=("W12X26", "W12X26"), params=({}, {})) -> list:
    """Beams at either side of a support, each by a joint of its own."""
    return [
        ShopRules(),
        support,
        beam(0, sections[0], id="beam"),
        beam(180, sections[1], id="other"),
        at("c", "beam", kind, params=params[0]),
        at("d", "other", kind, params=params[1]),
    ]


def rows(shop: Shop, support="support"):
    """The bolts through a support's web: joint, number, plies, grip."""
    return sorted(
        (id, len(g.points), len(g.joins), round(g.grip, 2))
        for id, made in shop.connections.items()
        for g in made.fasteners
        if support in g.joins
    )


@pytest.mark.parametrize("kind", ["double angle", "shear end plate"])
@pytest.mark.parametrize("other", ["W12X26", "W12X35"])
def test_beams_at_both_sides_of_a_web_share_their_bolts(kind, other):
    shop = Shop(two(kind, girder("W21X44"), ("W12X26", other)))
    for id in ("c", "d"):
        sound(shop, id)
    found = rows(shop)
    assert {id for id, *_ in found} == {"c"} and {plies for _, _, plies, _ in found} == {3}
    single = rows(Shop(two(kind, girder("W21X44"))[:3] + [at("c", "beam", kind)]))
    ply = {"double angle": 25.4 * 5 / 16, "shear end plate": 9.525}[kind]
    assert [(n, grip) for _, n, _, grip in found] == [
        (n, pytest.approx(grip + ply, abs=0.02)) for _, n, _, grip in single
    ]
    holes = shop.assemblies["support"].main.part.holes
    assert len(holes) == sum(n for _, n, _, _ in found)


def test_rows_beyond_the_shallower_beam_stay_its_neighbours_own():
    shop = Shop(two("shear end plate", girder("W24X55"), ("W16X31", "W12X26")))
    sound(shop, "c")
    sound(shop, "d")
    plies = {(n, joined) for _, n, joined, _ in rows(shop)}
    assert plies == {(6, 3), (2, 2)} and len(shop.assemblies["support"].main.part.holes) == 8


def test_a_joint_taken_away_or_changed_gives_the_other_its_own_bolts_back():
    job = Job(two("shear end plate", girder("W21X44")))
    shop = build(job)
    job.follow(shop.follow)
    alone = rows(Shop([r for r in job.records.values() if r.id != "c"]))
    with job.change("away") as change:
        change.drop("c")
    assert rows(shop) == alone and alone
    job.undo()
    with job.change("wider") as change:
        change.put(msgspec.structs.replace(job.get("d", Connection), params={"gage": 120.0}))
    assert {plies for _, _, plies, _ in rows(shop)} == {2}
    texts = [f.text for id in ("c", "d") for f in shop.connections[id].findings if f.severity is Severity.WRONG]
    assert texts and all("too near those of the joint opposite" in t for t in texts)


def test_beams_on_the_same_bolts_through_a_column_are_pointed_out():
    shop = Shop(two("double angle", column("W14X90"), ("W8X18", "W8X18")))
    assert any("1926.756" in f.text for f in shop.all_findings)
    assert not any("1926.756" in f.text for f in Shop(two("double angle", girder("W21X44"))).all_findings)


@pytest.mark.parametrize("deeper", ["W12X26", "W18X35"])
def test_continuity_plates_of_two_moment_joints_are_made_once(deeper):
    shop = Shop(two("welded moment", column("W14X90", roll=90), ("W12X26", deeper)))
    for id in ("c", "d"):
        sound(shop, id)
    plates = [p for p in shop.pieces() if p.words == "continuity plate"]
    assert len(plates) == (4 if deeper == "W12X26" else 6), "the tops are level; the bottoms of unlike beams are not"


@pytest.mark.parametrize("side", ["near side", "both sides"])
def test_a_doubler_both_joints_ask_for_is_one_and_both_stand_on_it(side):
    params = {"doubler": side}
    shop = Shop(two("welded moment", column("W14X90", roll=90), ("W12X26", "W18X35"), (params, params)))
    for id in ("c", "d"):
        sound(shop, id)
    assert sum(p.words == "doubler plate" for p in shop.pieces()) == (1 if side == "near side" else 2)
    welded = {j for w in shop.connections["c"].welds for j in w.joins}
    assert "d/doubler near" in welded, "the larger one stays, and the other joint's plates are welded to it"


def test_a_stiffener_gives_way_to_the_tab_opposite_and_comes_back():
    job = Job(two("shear tab", girder("W18X35"), params=({"opposite": "stiffener"}, {"side": "far"})))
    shop = build(job)
    job.follow(shop.follow)
    fixed = Attachment(
        id="s", kind="stiffeners", member="support", params={"by": "places", "places": "4000", "first": 0.0}
    )

    def stiffeners():
        return sorted(p.id for p in shop.pieces() if p.words == "stiffener")

    sound(shop, "c")
    assert stiffeners() == []
    with job.change("away") as change:
        change.drop("d")
        change.put(fixed)
    assert stiffeners() == ["c/opposite"], "stiffeners of its own stand neither in the tab nor in the one opposite"
