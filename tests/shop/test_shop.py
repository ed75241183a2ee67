import random

import msgspec
import pytest
from tests.conftest import how_many

from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Double, Grid, Line, Member, Project, Role, ShopRules, new_id
from uncus.sample.joints import joints
from uncus.shop.shop import Shop, build
from uncus.shop.whereabouts import whereabouts


def same(a: Shop, b: Shop) -> bool:
    said = [sorted((f.about, f.text) for f in shop.all_findings) for shop in (a, b)]
    return a.assemblies == b.assemblies and dict(a.connections) == dict(b.connections) and said[0] == said[1]


def random_edit(rng: random.Random, job: Job) -> None:
    members, connections = job.all(Member), job.all(Connection)
    m = rng.choice(members)
    with job.change("edit") as change:
        match rng.randrange(12):
            case 0:
                change.put(
                    msgspec.structs.replace(m, section=rng.choice(["W12X26", "W16X31", "HSS6X6X1/4", "nonsense"]))
                )
            case 1:
                change.put(msgspec.structs.replace(m, end=(m.end[0], m.end[1], m.end[2] + rng.choice([-300.0, 300.0]))))
            case 2:
                change.drop(m.id)
            case 3:
                change.put(msgspec.structs.replace(m, id=new_id(), start=(m.start[0], m.start[1] + 700, m.start[2])))
            case 4:
                change.put(msgspec.structs.replace(rng.choice(connections), params={"rows": rng.randrange(2, 5)}))
            case 5:
                change.drop(rng.choice(connections).id)
            case 6:
                values = {"tab_thickness": rng.choice([9.525, 12.7]), "plate_grade": rng.choice(["A36", "A572-50"])}
                change.put(msgspec.structs.replace(job.rules, **values))
            case 7:
                change.put(msgspec.structs.replace(job.project, finish=rng.choice(["galvanized", "primer"])))
            case 8:  # a pair, or one angle again
                double = None if m.double else Double()
                change.put(msgspec.structs.replace(m, section="L4X4X3/8", double=double, role=Role.BRACE))
            case 9:
                kind = rng.choice(
                    ["stiffeners", "studs", "vent holes", "end plates", "concrete anchors", "nailer holes"]
                )
                mate = rng.choice(members).id if rng.random() < 0.3 else None
                kind, mate = ("crossing bolts", mate) if mate and mate != m.id else (kind, None)
                change.put(Attachment(id=f"attached {rng.randrange(4)}", kind=kind, member=m.id, mate=mate))
            case 10:
                change.put(
                    msgspec.structs.replace(m, left_back=rng.choice([0.0, 12.0]), camber=rng.choice([0.0, 19.0]))
                )
            case 11:
                for one in rng.sample(members, min(3, len(members))):
                    change.put(msgspec.structs.replace(one, roll=(one.roll + 90.0) % 360.0))


@pytest.mark.parametrize("seed", range(how_many(2, 12)))
def test_following_changes_gives_what_building_anew_gives(job, seed):
    """Forty random edits, undos and redos: the shop that followed equals one built from nothing."""
    rng = random.Random(seed)
    shop = build(job)
    job.follow(shop.follow)
    for _ in range(40):
        rng.choice([random_edit, random_edit, random_edit, lambda _r, j: j.undo(), lambda _r, j: j.redo()])(rng, job)
    assert same(shop, build(job))
    while job.undo():
        pass
    assert same(shop, build(job))


def test_an_edit_touches_only_its_neighbours(job):
    shop = build(job)
    seen = []
    job.follow(lambda delta: seen.append(shop.follow(delta)))
    before = dict(shop.assemblies)
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM and m.section == "W12X26")
    with job.change("section") as change:
        change.put(msgspec.structs.replace(beam, section="W14X30"))
    touched = seen[0].rebuilt
    assert beam.id in touched and len(touched) == 3, "the beam and the two columns that hold it"
    assert all(shop.assemblies[id] is before[id] for id in before.keys() - touched)


def test_an_unknown_section_is_a_finding_and_the_rest_goes_on(job):
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    shop = build(job)
    job.follow(shop.follow)
    with job.change("bad") as change:
        change.put(msgspec.structs.replace(beam, section="W12X27"))
    assert beam.id not in shop.assemblies and len(shop.assemblies) == len(job.all(Member)) - 1
    assert any("W12X26" in f.text for f in shop.all_findings)


def test_a_fault_in_one_member_leaves_its_bare_stock_and_the_rest(job, monkeypatch):
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    bare = Shop([job.project, beam]).assemblies[beam.id].main
    whole, real = build(job), Shop._assemble

    def fails(self, body):
        if body.id == beam.id:
            raise TypeError("secret")
        return real(self, body)

    monkeypatch.setattr(Shop, "_assemble", fails)
    shop = build(job)
    (piece,) = shop.assemblies[beam.id].pieces
    assert piece.part == bare.part and (piece.placement.origin == bare.placement.origin).all()
    assert (piece.placement.axes == bare.placement.axes).all()
    assert all(shop.assemblies[id] == a for id, a in whole.assemblies.items() if id != beam.id)
    (found,) = (f.text for f in shop.all_findings if "fill the same space" not in f.text)  # bare as it stands there
    assert "fault of the program at" in found and "TypeError" in found and "secret" not in found


def test_an_unknown_kind_of_connection_is_a_finding(job):
    first = job.all(Connection)[0]
    with job.change("kind") as change:
        change.put(msgspec.structs.replace(first, kind="magic"))
    texts = [f.text for f in build(job).all_findings]
    assert texts == ["This Uncus knows no connection “magic”; choose another kind for it."]


def test_ends_pull_back_run_on_and_meet():
    m = Member(
        id="m",
        role=Role.BEAM,
        section="W12X26",
        start=(0, 0, 0),
        end=(5000, 0, 0),
        line=Line.TOP,
        left_back=100,
        right_back=-50,
    )
    shop = Shop([Project(), ShopRules(), m])
    assert shop.assemblies["m"].main.part.length == pytest.approx(4950)
    assert shop.assemblies["m"].main.placement.origin[0] == pytest.approx(100)
    gone = Shop([msgspec.structs.replace(m, left_back=5049.8)])
    assert "nothing is left" in gone.all_findings[0].text


def test_all_of_the_sample_is_connected_without_findings(sample):
    job, shop = sample
    assert 55 <= len(shop.assemblies) <= 90 and not shop.all_findings
    places = {whereabouts(job.get("grid", Grid), a) for a in shop.assemblies.values()}
    assert {"1/A", "2/B", "1-2, A-B"} <= places


def test_shop_bolts_are_counted_where_all_they_join_is_and_none_is_lost(sample):
    """Splice plates go with the length they are bolted to in the shop, clip angles with their gusset, a crossing plate with its brace."""
    shops = [sample[1], *(Shop(records) for _, records in joints())]
    for shop in shops:
        counted = [(a, g) for a in shop.assemblies.values() for g in a.holds]
        made = [g for c in shop.connections.values() for g in c.fasteners]
        assert sorted(g.points for _, g in counted) == sorted(g.points for g in made)
        for assembly, group in counted:
            here = {p.id for p in assembly.pieces}
            assert group.field or here.issuperset(group.joins), (assembly.words, group.key)
