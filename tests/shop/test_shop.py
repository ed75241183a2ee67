from collections import Counter

import msgspec
import pytest

from uncus.job.joinery import SITE_WITH
from uncus.job.records import Connection, Grid, Line, Member, Project, Role, ShopRules
from uncus.sample.joints import joints
from uncus.shop.shop import Shop, build
from uncus.shop.whereabouts import whereabouts
from uncus.steel.joint import FastenerKind


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


@pytest.mark.parametrize("site", SITE_WITH)
def test_bolts_and_site_welds_are_counted_once_with_a_piece_that_they_go_through(sample, site):
    """Splice plates go with the length they are bolted to in the shop, clip angles with their gusset, a crossing
    plate with its brace, the bolts of either brace of a pair with that one."""
    rules = ShopRules(site_with=site)
    jobs = [sample[0].records.values(), *(records for _, records in joints())]
    for records in jobs:
        shop = Shop([*(r for r in records if not isinstance(r, ShopRules)), rules])
        made = shop.connections.values()
        for said, all_ in (
            ([(a, g) for a in shop.assemblies.values() for g in a.holds], [g for c in made for g in c.fasteners]),
            ([(a, w) for a in shop.assemblies.values() for w in a.site_welds],
                [w for c in made for w in c.welds if w.field]),
        ):  # fmt: skip
            assert Counter(one for _, one in said) == Counter(all_)
            for assembly, one in said:
                here = {p.id for p in assembly.pieces}
                assert here & set(one.joins) if one.field else here.issuperset(one.joins), (assembly.words, one.key)


def test_site_bolts_go_by_the_offices_rule_with_what_comes_or_with_what_stands(sample):
    """The clip angles of a gusset are bolted to the column by none of the brace's own bolts: they are the beam's, which
    brings the gusset. Either brace of a chevron has its own."""
    bolts = {}
    for site in SITE_WITH:
        records = (r for r in sample[0].records.values() if not isinstance(r, ShopRules))
        shop = Shop([*records, ShopRules(site_with=site)])
        for a in shop.assemblies.values():
            bolts[site, a.id] = sum(len(g.points) for g in a.holds if g.field and g.kind is FastenerKind.BOLT)
    comes, stands = SITE_WITH
    joint = {kind: [c for c in sample[0].all(Connection) if c.kind == kind] for kind in ("chevron gusset",
        "corner gusset", "shear tab")}  # fmt: skip
    (chevron,), (corner,) = joint["chevron gusset"], joint["corner gusset"]
    assert [bolts[comes, id] for id in (chevron.member, *chevron.others)] == [6, 6]
    assert [bolts[stands, id] for id in (chevron.member, *chevron.others)] == [0, 0]
    assert bolts[comes, corner.member] == 0 and bolts[comes, corner.others[0]] == 6 + 4
    tabs = [c for c in joint["shear tab"] if c.support == corner.support and c.member == corner.others[0]]
    assert tabs and bolts[comes, corner.support] == 0 and bolts[stands, corner.support] >= 4 + 3 * len(tabs)
    assert sum(n for (site, _), n in bolts.items() if site == comes) == sum(bolts.values()) / 2
