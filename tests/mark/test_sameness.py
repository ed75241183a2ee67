"""Sameness under every rotation the section allows, and never under a reflection."""

import msgspec
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tests.conftest import how_many
from tests.steel.test_parts import rolled_parts

from uncus.frame.placement import Placement
from uncus.mark.clusters import AssemblyClusters
from uncus.mark.differences import between, reflected, turned
from uncus.mark.sameness import MM, maps, rotations
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.part import Part, plate
from uncus.steel.solid import solid
from uncus.units import Units

FORMS = ("W12X26", "C10X15.3", "L4X4X3/8", "L6X4X1/2", "WT6X25", "HSS6X4X1/4", "HSS6X6X1/4")


def jittered(part: Part, rng: np.random.Generator, size: float) -> Part:
    def one(f):
        if isinstance(f, Hole):
            return msgspec.structs.replace(f, x=f.x + rng.uniform(-size, size), w=f.w + rng.uniform(-size, size))
        return f

    return msgspec.structs.replace(part, features=tuple(one(f) for f in part.features))


@settings(max_examples=how_many(50, 1500))
@given(rolled_parts(FORMS), st.integers(0, 7), st.integers(0, 2**32))
def test_a_turned_part_is_the_same_and_its_map_carries_one_solid_onto_the_other(part, which, seed):
    options = rotations(part)
    other = jittered(turned(part, options[which % len(options)]), np.random.default_rng(seed), MM * 0.7)
    found = maps(part, other)
    assert found and maps(other, part)
    g = found[0]
    assert np.linalg.det(g.axes) == pytest.approx(1)
    if seed % 8 == 0:  # solids are slow: for some
        moved = solid(part).transform(np.hstack([g.axes, g.origin[:, None]]))
        assert (moved - solid(other)).volume() < 0.01 * solid(part).volume()


@settings(max_examples=how_many(50, 1500))
@given(rolled_parts(FORMS))
def test_a_reflection_is_the_same_only_where_a_rotation_gives_it_too(part):
    other = reflected(part)[0]
    by_rotation = any(_very_near(turned(part, r), other) for r in rotations(part))
    assert bool(maps(part, other)) == by_rotation


def _very_near(a: Part, b: Part) -> bool:
    """Without any turning: both as they lie."""
    return any(g.near(Placement.identity(), 1e-6) for g in maps(a, b))


@settings(max_examples=how_many(26, 800))
@given(rolled_parts(FORMS), st.data())
def test_one_feature_moved_beyond_the_tolerance_makes_another_part(part, data):
    assume(part.holes)
    i = data.draw(st.sampled_from([i for i, f in enumerate(part.features) if isinstance(f, Hole)]))
    features = list(part.features)
    features[i] = msgspec.structs.replace(features[i], d=features[i].d + 2.0)
    assert not maps(part, msgspec.structs.replace(part, features=tuple(features)))
    assert not maps(part, msgspec.structs.replace(part, grade="A36"))
    assert not maps(part, msgspec.structs.replace(part, length=part.length + 1.2))


@pytest.mark.parametrize(
    ("section", "hole_ends", "same_mirrored"),
    [("W12X26", True, True), ("C10X15.3", False, False), ("L6X4X1/2", False, False)],
)
def test_hands_worked_out_by_hand(section, hole_ends, same_mirrored):
    """One web hole near an end above the middle. A W turned about its vertical axis gives its own mirror image; a
    channel's back would come to the front, so its mirror image is another piece; an unequal angle's is too."""
    from uncus.catalog.sections import section as find
    from uncus.steel.part import rolled

    part, _ = rolled(find(section), "A36", "", EndCut(0), EndCut(3000), [Hole(Face.WEB, 200, 40, 20)])
    assert bool(maps(part, reflected(part)[0])) is same_mirrored
    assert len(maps(part, part)) == 1


@settings(max_examples=how_many(33, 1000))
@given(st.integers(0, 2**32), st.floats(0, 6.28), st.booleans())
def test_plates_are_the_same_however_they_lie_but_not_mirrored(seed, turn, flip):
    rng = np.random.default_rng(seed)
    angles = np.sort(rng.uniform(0, 2 * np.pi, 6)) + np.arange(6) * 0.2
    ring = np.column_stack([np.cos(angles), np.sin(angles)]) * rng.uniform(80, 200, (6, 1))
    holes = rng.uniform(-40, 40, (3, 2))
    a = plate(ring, 10, "A36", "", [Hole(Face.WEB, x, w, 20 + i) for i, (x, w) in enumerate(holes)])
    c, s = np.cos(turn), np.sin(turn)
    r = np.array([[c, -s], [s, c]])

    def laid(points, sign):
        return (points * [1, sign]) @ r.T

    b_ring, b_holes = laid(ring, -1 if flip else 1), laid(holes, -1 if flip else 1)
    b = plate(b_ring, 10, "A36", "", [Hole(Face.WEB, x, w, 20 + i) for i, (x, w) in enumerate(b_holes)])
    found = maps(a, b)
    assert len(found) == 1
    moved = solid(a).transform(np.hstack([found[0].axes, found[0].origin[:, None]]))
    assert (moved - solid(b)).volume() < 1e-4 * solid(b).volume()
    # a flat plate has no hand of its own: turned over it is its mirror image; thickness and holes still count
    assert not maps(a, msgspec.structs.replace(b, thickness=12.0))
    assert not maps(a, msgspec.structs.replace(b, features=b.features[1:]))


def assembly(main: Part, plates: list[tuple[Part, Placement]], at: Placement) -> Assembly:
    from uncus.job.records import Member, Role, new_id

    m = Member(role=Role.COLUMN, section="W12X26", start=(0, 0, 0), end=(0, 0, 3000))
    pieces = [Piece(m.id, main, at, m.id, "column", m.id)]
    pieces += [Piece(f"{new_id()}/tab", p, at @ place, m.id, "tab", "c") for p, place in plates]
    return Assembly(m, tuple(pieces), (), (), (), ())


def clustered(*pieces: tuple[Assembly, str]) -> list[str]:
    """The cluster of each assembly of a series, as if each were another piece."""
    clusters = AssemblyClusters()
    for n, (one, series) in enumerate(pieces):
        clusters.put(msgspec.structs.replace(one, member=msgspec.structs.replace(one.member, id=f"m{n}")), series)
    clusters.settle()
    return [clusters.of(f"m{n}") for n in range(len(pieces))]


TAB = plate(
    [(0, -100), (90, -100), (90, 100), (0, 100)], 10, "A36", "", [Hole(Face.WEB, 50, w, 20) for w in (-60, 0, 60)]
)


def tab_at(x: float, y: float, z: float, up: bool) -> Placement:
    axes = np.column_stack([(0, 0, 1 if up else -1), (0, 1, 0), (-1 if up else 1, 0, 0)])
    return Placement((x, y, z), axes)


@settings(max_examples=how_many(26, 800))
@given(
    rolled_parts(("W12X26",)),
    st.integers(0, 3),
    st.lists(st.tuples(st.floats(300, 1200), st.floats(-40, 40), st.booleans()), min_size=1, max_size=4),
    st.integers(0, 99),
)
def test_assemblies_turned_are_the_same_and_mirrored_are_not_unless_turning_gives_it(main, which, tabs, seed):
    rng = np.random.default_rng(seed)
    half = main.section.d / 2
    placed = [(TAB, tab_at(x, y, half if up else -half, up)) for x, y, up in tabs]
    r = rotations(main)[which % 4]
    turn = Placement((main.length if r[0, 0] < 0 else 0, 0, 0), r)
    symmetric = [Placement.identity(), *maps(TAB, TAB)]
    again = [(TAB, turn @ place @ symmetric[rng.integers(len(symmetric))]) for _, place in placed]
    rng.shuffle(again)
    somewhere = Placement(rng.uniform(-1e4, 1e4, 3), np.column_stack([(0, 1, 0), (0, 0, 1), (1, 0, 0)]))
    moved = [(TAB, again[0][1].moved((3.0, 0.0, 0.0))), *again[1:]]
    first, same, other, in_series = clustered(
        (assembly(main, placed, Placement.identity()), "C"),
        (assembly(turned(main, r), again, somewhere), "C"),
        (assembly(turned(main, r), moved, somewhere), "C"),
        (assembly(main, placed, Placement.identity()), "B"),
    )
    assert first == same and len({first, other, in_series}) == 3


@pytest.mark.parametrize(("off", "same"), [(0.12, True), (0.45, True), (0.6, False)])
def test_cambers_are_the_same_within_the_tolerance(off, same):
    """A quarter inch turned to mm and back may be a tenth off; half a mm and more is another piece, and is said to
    be."""
    a = assembly(TAB, [], Placement.identity())
    one, two = (
        msgspec.structs.replace(a, member=msgspec.structs.replace(a.member, camber=6.35 + more)) for more in (0.0, off)
    )
    first, second = clustered((one, "C"), (two, "C"))
    assert (first == second) == same
    assert bool([text for text in between(one, two, Units.METRIC) if "camber" in text]) != same
