"""What is the same is gathered by what there is: by steps, in any order, and without a trace of what is gone."""

import random
from collections import defaultdict

import msgspec
import pytest
from tests.conftest import how_many
from tests.mark.test_sameness import TAB, assembly, clustered, tab_at

from uncus.catalog.sections import section
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.job.records import Member, Role, Series
from uncus.mark.clusters import AssemblyClusters, PartClusters
from uncus.mark.marking import propose
from uncus.mark.sameness import maps
from uncus.shop.pieces import Assembly
from uncus.shop.shop import build
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.joint import FastenerKind, Fasteners, Weld
from uncus.steel.part import Part, rolled


def long(mm: float, hole: float = 300.0) -> Part:
    ends = EndCut(0.0), EndCut(mm, 0.2)
    return rolled(section("W12X26"), "A992", "", *ends, [Hole(Face.WEB, hole, 40.0, 20.6)])[0]


def gathered(lengths: list[float]) -> list[int]:
    """How many lie in each cluster, of pieces in any order."""
    clusters, found = PartClusters(), {}
    for mm in lengths:
        clusters.add(long(mm))
    clusters.settle()
    for mm in lengths:
        found.setdefault(clusters.of(long(mm))[0], []).append(mm)
    return sorted(len(each) for each in found.values())


@pytest.mark.parametrize(
    ("lengths", "sizes"),
    [
        ([3000.0, 3000.4, 3000.8], [3]),
        ([3000.0, 3000.8], [1, 1]),
        ([3000.0, 3000.4, 3001.0], [1, 2]),
        ([3000.0 + 0.3 * i for i in range(9)], [9]),
        ([3000.0, 3000.4, 3001.2, 3001.6], [2, 2]),
    ],
)
def test_a_gap_over_the_tolerance_parts_and_steps_below_it_do_not(lengths, sizes):
    for seed in range(6):
        random.Random(seed).shuffle(lengths)
        assert gathered(lengths) == sizes


def test_what_joined_two_pieces_leaves_no_trace_when_it_goes():
    a, b, c = (long(mm) for mm in (3000.0, 3000.4, 3000.8))
    clusters = PartClusters()
    for part in (b, a, c):
        clusters.add(part)
    assert clusters.settle() and clusters.of(a)[0] == clusters.of(b)[0] == clusters.of(c)[0]
    assert not clusters.wide(clusters.of(a)[0]), "no two are further apart than a mm"
    clusters.add(long(3001.2))
    clusters.settle()
    assert clusters.wide(clusters.of(a)[0])
    clusters.drop(b)
    assert clusters.settle() and clusters.of(a)[0] != clusters.of(c)[0]
    clusters.add(b)
    clusters.settle()
    key, way = clusters.of(c)
    assert any(
        way.near(one, 1.0) for one in maps(c, clusters.lead(key), msgspec.structs.replace(clusters.alike, mm=1.0))
    )


def together(clusters: AssemblyClusters, ids) -> set[tuple[object, ...]]:
    """Which lie in one cluster, what they have in common, and whether they creep apart; not who leads."""
    found = defaultdict(set)
    for id in ids:
        found[clusters.of(id)].add(id)
    return {(head, clusters.wide(lead), frozenset(own)) for (lead, head), own in found.items()}


@pytest.mark.parametrize("seed", range(how_many(4, 200)))
def test_pieces_that_come_and_go_are_gathered_as_if_made_anew(seed):
    rng = random.Random(seed)
    mains = [long(3000.0 + 0.35 * rng.randrange(8), rng.choice([300.0, 300.4, 300.9])) for _ in range(8)]
    kept = AssemblyClusters()
    there: dict[str, tuple[object, str]] = {}
    for step in range(how_many(25, 60)):
        id = f"m{rng.randrange(12)}"
        if id in there and rng.random() < 0.4:
            kept.drop(id)
            del there[id]
        else:
            tabs = [(TAB, tab_at(700.0 + 0.4 * rng.randrange(5), 0.0, 155.0, True)) for _ in range(rng.randrange(2))]
            one = assembly(rng.choice(mains), tabs, Placement.identity())
            one = msgspec.structs.replace(one, member=msgspec.structs.replace(one.member, id=id))
            there[id] = one, rng.choice("BC")
            kept.put(*there[id])
        if step % 3:
            kept.settle()
            anew = AssemblyClusters()
            for other in rng.sample(sorted(there), len(there)):
                anew.put(*there[other])
            anew.settle()
            assert together(kept, there) == together(anew, there)
            assert {i: kept.main(i) for i in there} == {i: anew.main(i) for i in there}


def test_a_mark_whose_pieces_creep_apart_says_so():
    beams = [
        Member(role=Role.BEAM, section="W12X26", start=(0, 2000.0 * i, 0), end=(3000.0 + 0.4 * i, 2000.0 * i, 0))
        for i in range(4)
    ]
    job = Job([*beams, Series(prefix="B", roles=(Role.BEAM,), start=1)])
    rows = [r for r in propose(job, build(job)).rows if not r.part]
    assert len(rows) == 1 and len(rows[0].pieces) == 4 and "more than 1 mm apart" in rows[0].why


def test_what_a_fingerprint_leaves_out_parts_pieces_all_the_same():
    """Welds all around, and the way studs stand: neither is in the content that the gathering is remembered by."""
    one = assembly(long(3000.0), [(TAB, tab_at(700.0, 0.0, 155.0, True))], Placement.identity())
    main, tab = (p.id for p in one.pieces)

    def welded(around: bool) -> Assembly:
        weld = Weld("w", 6.0, ((0, 0, 0), (9, 0, 0)), (main, tab), 2, False, around)
        return msgspec.structs.replace(one, welds=(weld,))

    def studded(*axis: float) -> Assembly:
        stud = Fasteners("s", FastenerKind.STUD, "3/4", "A29", 100.0, 0.0, ((900, 0, 155),), axis, (main,), False)
        return msgspec.structs.replace(one, holds=(stud,))

    for a, b in ((welded(True), welded(False)), (studded(0, 0, -1), studded(0, 1, 0))):
        first, second, third = clustered((a, "B"), (b, "B"), (a, "B"))
        assert first == third != second
