"""Ten thousand parts and two thousand assemblies, turned, moved and jittered: each under one of what it is, never
under another."""

import msgspec
import numpy as np
import pytest
from tests.conftest import how_many
from tests.mark.test_sameness import TAB, assembly, clustered, jittered, tab_at

from uncus.catalog.sections import section
from uncus.frame.carrying import flipped_with
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.mark.canonical import assembly_form, part_form
from uncus.mark.clusters import PartClusters
from uncus.mark.differences import reflected, turned
from uncus.mark.sameness import maps, rotations, spun
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import Shop, build
from uncus.steel.features import Cope, EndCut, Face, Hole
from uncus.steel.forming import Bend, Curve, Item
from uncus.steel.part import Part, plate, rolled
from uncus.steel.solid import solid

SECTIONS = (
    "W12X26",
    "W16X31",
    "C10X15.3",
    "L4X4X3/8",
    "L6X4X1/2",
    "WT6X25",
    "HSS6X4X1/4",
    "HSS6X6X1/4",
    "HSS6.000X0.250",
)
FACES = {"L": (Face.WEB, Face.BOTTOM), "T": (Face.WEB, Face.TOP)}


def random_rolled(rng: np.random.Generator) -> Part:
    s = section(str(rng.choice(SECTIONS)))
    long = float(rng.integers(10, 60) * 100)
    faces = FACES.get(s.form, (Face.WEB, Face.TOP, Face.BOTTOM))
    features = []
    for _ in range(rng.integers(0, 7)):
        face = faces[rng.integers(len(faces))]
        reach = (s.d if face is Face.WEB else s.b) / 2 - 15
        x, w = round(rng.uniform(40, long - 40), 1), round(rng.uniform(-reach, reach), 1)
        features.append(Hole(face, x, w, float(rng.choice([18.0, 20.6, 22.2]))))
    if s.form == "I" and rng.random() < 0.4:
        size = float(rng.integers(40, 120)), float(rng.integers(25, 60))
        features.append(Cope(bool(rng.integers(2)), bool(rng.integers(2)), *size, 12.0))
    if s.form == "TUBE":
        features = []  # a plain round tube is the same however it is turned about itself
    arc = (
        Curve(long * rng.uniform(1.0, 4.0), float(rng.choice([0.0, 90.0, 180.0, 37.0]))) if rng.random() < 0.3 else None
    )
    ends = EndCut(0.0), EndCut(long, float(rng.choice([0.0, 0.0, 0.3])))
    part, _ = rolled(s, "A992", "", *ends, features, arc)
    return part


def random_plate(rng: np.random.Generator) -> Part:
    n = int(rng.integers(3, 7))
    angles = np.sort(rng.uniform(0, 1, n)) * 0.5 + np.arange(n) * 2 * np.pi / n
    ring = np.column_stack([np.cos(angles), np.sin(angles)]) * rng.uniform(90, 250, (n, 1))
    holes = [Hole(Face.WEB, *np.round(rng.uniform(-30, 30, 2), 1).tolist(), 20.6) for _ in range(rng.integers(0, 4))]
    bends = []
    if rng.random() < 0.3:
        bends = [Bend(*np.round(rng.uniform(-60, 60, 4), 1).tolist(), float(rng.choice([-90.0, 45.0, 90.0])), 12.0)]
    return plate(ring, float(rng.choice([9.525, 12.7])), "A36", "", holes, bends)


def random_bought(rng: np.random.Generator) -> Part:
    """Two makers' items of one shape, which are two things to the buyer."""
    code, maker = rng.choice(["A-1", "A-2"]), rng.choice(["Northmoor", "Quayside"])
    ring = [(0, 0), (float(rng.integers(3, 30) * 10), 0), (100, 80), (0, 90)]
    return plate(ring, 40.0, "bought", "", item=Item(str(code), str(maker), "bracket", 2.0))


def random_part(i: int, rng: np.random.Generator) -> Part:
    return random_bought(rng) if i % 12 == 5 else random_rolled(rng) if i % 4 else random_plate(rng)


def another_way(part: Part, rng: np.random.Generator, jitter: float = 0.2) -> Part:
    """The same steel described from elsewhere, each hole out of place by less than the tolerance."""
    if part.section is not None:
        ways = rotations(part)
        way = ways[rng.integers(len(ways))]
        if part.section.form == "TUBE":
            way = spun(rng.uniform(0, 2 * np.pi)) @ way
        return jittered(turned(part, way), rng, jitter)
    angle, flip = rng.uniform(0, 2 * np.pi), float(rng.choice([-1.0, 1.0]))
    c, s = np.cos(angle), np.sin(angle)

    def lay(points):
        return (np.asarray(points).reshape(-1, 2) * [1.0, flip]) @ np.array([[c, s], [-s, c]])

    k = int(rng.integers(len(part.outline)))
    ring = lay(part.outline[k:] + part.outline[:k])
    holes = [Hole(f.face, *lay((f.x, f.w))[0].tolist(), f.d) for f in part.features]
    bends = []
    for b in part.bends:
        ends = lay([(b.x1, b.z1), (b.x2, b.z2)])[:: rng.choice([1, -1])]  # whichever leg is held still
        bends.append(Bend(*ends.ravel().tolist(), b.angle * flip, b.radius))
    again = plate(ring, part.thickness, part.grade, part.finish, holes, bends, part.item)
    return jittered(again, rng, jitter / 2)


def out_of_tolerance(part: Part, rng: np.random.Generator) -> Part:
    """One hole moved by more than the tolerance."""
    i = next(i for i, f in enumerate(part.features) if isinstance(f, Hole))
    step = float(rng.choice([-1.0, 1.0])) * rng.uniform(1.3, 4.0)
    hole = msgspec.structs.replace(part.features[i], x=part.features[i].x + step)
    return msgspec.structs.replace(part, features=(*part.features[:i], hole, *part.features[i + 1 :]))


def test_thousands_of_parts_fall_into_their_own_groups():
    rng = np.random.default_rng(20261123)
    kinds = how_many(150, 750)
    classes: list[Part] = [random_part(i, rng) for i in range(kinds)]
    classes += [out_of_tolerance(p, rng) for p in classes[: kinds // 5 * 2] if p.holes]
    hands = [(p, q) for p in classes for q in reflected(p)]
    everything = [(i, another_way(p, rng)) for i, p in enumerate(classes) for _ in range(10)]
    everything += [(-1 - i, another_way(q, rng)) for i, (_, q) in enumerate(hands)]
    assert len(everything) > 13 * kinds
    rng.shuffle(everything)
    clusters = PartClusters()
    for _, part in everything:
        clusters.add(part)
    clusters.settle()
    labels: dict[int, set[str]] = {}
    members: dict[str, set[int]] = {}
    for label, part in everything:
        number, turn = clusters.of(part)
        assert np.linalg.det(turn.axes) == pytest.approx(1.0)
        labels.setdefault(label, set()).add(number)
        members.setdefault(number, set()).add(label)
    assert all(len(found) == 1 for found in labels.values()), "no part is split"
    for found in members.values():
        own = [label for label in found if label >= 0]
        assert all(maps(classes[own[0]], classes[a]) for a in own[1:]), "two that share a group are truly the same"
        for hand in (label for label in found if label < 0):
            assert all(maps(hands[-1 - hand][1], classes[a]) for a in own), (
                "a mirror image only where a turn gives it too"
            )
    assert len(members) > 1.2 * kinds


def test_a_form_is_read_alike_whichever_way_the_piece_is_described():
    rng = np.random.default_rng(3)
    forms, apart = {}, 0
    for label in range(250):
        part = random_part(label, rng)
        forms[label] = part_form(part)
        for _ in range(4):
            apart += part_form(another_way(part, rng, 0.0)) != forms[label]
    assert apart <= 2, "of a thousand, those a hair from a step of the grid: sameness itself never rests on the reading"
    assert len(set(forms.values())) > 245, "and another part's is another"
    shop = build(Job(boathouse()))
    for one in shop.assemblies.values():
        flipped, _ = flipped_with(one.member, [])
        bare = [Shop([r]).assemblies[one.id] for r in (one.member, flipped[0])]
        assert assembly_form(bare[0]) == assembly_form(bare[1])


def test_two_thousand_assemblies_fall_into_their_own_groups():
    rng = np.random.default_rng(7)
    made: list[tuple[object, str]] = []
    labels: list[int] = []
    symmetries = maps(TAB, TAB)
    for label in range(200):
        main = random_rolled(rng)
        while main.section.form != "I":
            main = random_rolled(rng)
        half, count = main.section.d / 2, rng.integers(1, 5)
        spots = [
            (rng.uniform(200, main.length - 200), rng.uniform(-30, 30), bool(rng.integers(2))) for _ in range(count)
        ]
        placed = [(TAB, tab_at(x, y, half if up else -half, up)) for x, y, up in spots]
        for _ in range(10):
            r = rotations(main)[rng.integers(4)]
            turn = Placement((main.length if r[0, 0] < 0 else 0.0, 0.0, 0.0), r)
            again = [(TAB, turn @ place @ symmetries[rng.integers(len(symmetries))]) for _, place in placed]
            again = [(p, place.moved(rng.uniform(-0.1, 0.1, 3))) for p, place in again]
            order = rng.permutation(len(again))
            q, _ = np.linalg.qr(rng.normal(size=(3, 3)))
            at = Placement(rng.uniform(-2e4, 2e4, 3), q if np.linalg.det(q) > 0 else -q)
            made.append((assembly(turned(main, r), [again[i] for i in order], at), "B"))
            labels.append(label)
        moved = [*placed[:-1], (TAB, placed[-1][1].moved((0.0, 0.0, 1.5)))]
        made.append((assembly(main, moved, Placement.identity()), "B"))
        labels.append(-1 - label)
    of_cluster: dict[str, set[int]] = {}
    for label, cluster in zip(labels, clustered(*made), strict=True):
        of_cluster.setdefault(cluster, set()).add(label)
    assert all(len(found) == 1 for found in of_cluster.values()), "no two share a number"
    assert len(of_cluster) == 400, "no assembly is split"


def test_a_map_takes_the_steel_of_a_formed_part_onto_that_of_the_other():
    rng = np.random.default_rng(11)
    formed_parts = [p for p in (random_rolled(rng) if i % 2 else random_plate(rng) for i in range(260)) if p.is_formed]
    for part in formed_parts:
        other = another_way(part, rng, 0.0)
        ways = maps(part, other)
        assert ways
        for way in ways:
            its = np.array(solid(other).bounding_box())
            corners = np.array(solid(part).to_mesh64().vert_properties)[:, :3]
            there = way.to_model(corners)
            box = np.concatenate([there.min(axis=0), there.max(axis=0)])
            assert np.abs(box - its).max() < 0.7
    assert len(formed_parts) > 60
