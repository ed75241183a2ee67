"""Clashes of many parts: growth by number, beside a collision library on whether pairs cross, and volumes beside plain
booleans of all pairs.

usage: pip install -e .[peers]; PYTHONPATH=src python bench/clashes.py [--sizes 1000,3000,10000,30000] [--peers 10000]
Parts of the sample job in random places and turns. The library (FCL) tells whether surfaces cross: it misses a part
that lies wholly in another, and counts faces that touch. Random places have no flush faces, and what lies in another is
told apart. Both are given their shapes ready made. Ours tells whether pairs cross by the boxes about walls, fillets and
plates, all at once, and then works out volume, depth and place of those; both times are told.
"""

from __future__ import annotations

import argparse
import random
import time
from functools import cache

import numpy as np

from uncus.connect import clash
from uncus.connect.clash import overlap
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.job.records import Member, Role
from uncus.sample.boathouse import boathouse
from uncus.shop import clashes
from uncus.shop.clashes import Clash, Clashes
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import build
from uncus.steel.part import Part
from uncus.steel.solid import TOLERANCE, plain_solid, solid

_ROOM = 1.2e10  # mm3 of space a part: about one clash to eight of them


def shapes() -> list[Part]:
    """The sample's parts that are not formed, each once."""
    shop = build(Job(boathouse()))
    return sorted(
        {p.part for p in shop.pieces() if not p.part.is_formed}, key=lambda p: (p.length, len(p.features), p.thickness)
    )


def turn(rng: random.Random) -> np.ndarray:
    """A rotation drawn evenly (Shoemake 1992)."""
    u, v, w = rng.random(), rng.random() * 2 * np.pi, rng.random() * 2 * np.pi
    a, b = np.sqrt(1 - u), np.sqrt(u)
    x, y, z, r = a * np.sin(v), a * np.cos(v), b * np.sin(w), b * np.cos(w)
    return np.array([
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * r), 2 * (x * z + y * r)],
        [2 * (x * y + z * r), 1 - 2 * (x * x + z * z), 2 * (y * z - x * r)],
        [2 * (x * z - y * r), 2 * (y * z + x * r), 1 - 2 * (x * x + y * y)],
    ])  # fmt: skip


class Loose:
    """Steel of which no two ends are joined."""

    def ends_loose(self, a: Piece, b: Piece) -> bool:
        return False


def strewn(parts: list[Part], number: int, seed: int = 1) -> list[Piece]:
    """So many of some parts at random places and turns in a cube."""
    rng = random.Random(seed)
    side = (number * _ROOM) ** (1 / 3)
    placed = []
    for n in range(number):
        at = np.array([rng.random() * side for _ in range(3)])
        placed.append(Piece(f"{n:06}", rng.choice(parts), Placement(at, turn(rng)), f"{n:06}", "part", f"{n:06}"))
    return placed


def ours(pieces: list[Piece]) -> list[Clash]:
    """Every clash, with its volume, depth and place."""
    found = Clashes()
    member = Member(role=Role.BEAM, section="W12X26", start=(0, 0, 0), end=(1, 0, 0))
    assemblies = {p.id: Assembly(_named(member, p.id), (p,), (), (), (), ()) for p in pieces}
    found.follow(Loose(), assemblies, assemblies, ())  # type: ignore[arg-type]
    return list(found.all())


def _named(member: Member, id: str) -> Member:
    import msgspec

    return msgspec.structs.replace(member, id=id)


def library(pieces: list[Piece]) -> tuple[set[tuple[str, str]], float]:
    """Pairs whose surfaces cross, by FCL, and how long it took once it had its shapes."""
    import fcl

    @cache
    def shape(part: Part):  # type: ignore[no-untyped-def]
        raw = solid(part).to_mesh64()
        model = fcl.BVHModel()
        points, triangles = np.array(raw.vert_properties)[:, :3], np.array(raw.tri_verts, dtype=np.int64)
        model.beginModel(len(points), len(triangles))
        model.addSubModel(points, triangles)
        model.endModel()
        return model

    for p in pieces:
        shape(p.part)
    start = time.perf_counter()
    objects = [fcl.CollisionObject(shape(p.part), fcl.Transform(p.placement.axes, p.placement.origin)) for p in pieces]
    known = {tuple(p.placement.origin.round(6)): p.id for p in pieces}  # the library hands over others than it got
    manager = fcl.DynamicAABBTreeCollisionManager()
    manager.registerObjects(objects)
    manager.setup()
    pairs: set[tuple[str, str]] = set()

    def met(a, b, _) -> bool:  # type: ignore[no-untyped-def]
        if fcl.collide(a, b, fcl.CollisionRequest(num_max_contacts=1), fcl.CollisionResult()):
            one, two = (known[tuple(o.getTranslation().round(6))] for o in (a, b))
            pairs.add((min(one, two), max(one, two)))
        return False

    manager.collide(None, met)
    return pairs, time.perf_counter() - start


def timed(pieces: list[Piece]) -> tuple[list[Clash], float]:
    for p in pieces:
        solid(p.part), plain_solid(p.part)  # shapes ready made
    start = time.perf_counter()
    found = ours(pieces)
    return found, time.perf_counter() - start


def growth(parts: list[Part], sizes: list[int]) -> None:
    print(f"{'parts':>8} {'clashes':>8} {'s':>8} {'ms a part':>10}")
    each = {}
    for number in sizes:
        found, took = timed(strewn(parts, number))
        each[number] = took / len(found)
        print(f"{number:8} {len(found):8} {took:8.2f} {took / number * 1000:10.4f}")
    print(f"growth per clash, {sizes[0]} to {sizes[-1]}: {each[sizes[-1]] / each[sizes[0]]:.2f} "
        "(a small lot has fewer to a part, for what lies at its rim)")  # fmt: skip


def whether(pieces: list[Piece]) -> tuple[set[tuple[str, str]], float]:
    """Pairs that cross as far as boxes tell, and how long that took."""
    pairs: set[tuple[str, str]] = set()

    def meet(some):  # type: ignore[no-untyped-def]
        for ((_, at), (_, by)), found in zip(some, clash.crossing(clash.keys_of(some)), strict=True):
            if found:
                one, two = known[id(at)], known[id(by)]
                pairs.add((min(one, two), max(one, two)))
        return iter([None] * len(some))

    known = {id(p.placement): p.id for p in pieces}
    before, clashes.overlaps = clashes.overlaps, meet  # type: ignore[assignment]
    try:
        start = time.perf_counter()
        ours(pieces)
        return pairs, time.perf_counter() - start
    finally:
        clashes.overlaps = before


def beside_the_library(parts: list[Part], number: int) -> None:
    pieces = strewn(parts, number, seed=2)
    met, met_took = whether(pieces)
    found, took = timed(pieces)
    theirs, theirs_took = library(pieces)
    mine = {(min(c.a.id, c.b.id), max(c.a.id, c.b.id)) for c in found}
    by_id = {p.id: p for p in pieces}
    inside = [pair for pair in mine - theirs if _is_inside(*(by_id[id] for id in pair))]
    shallow = [pair for pair in theirs - mine if _shared(*(by_id[id] for id in pair)) is None]
    print(f"{number} parts: whether they cross, ours {met_took:.2f} s ({len(met)} pairs), FCL {theirs_took:.2f} s "
        f"({len(theirs)}): {met_took / theirs_took:.2f}")  # fmt: skip
    print(
        f"  with volume, depth and place {took:.2f} s ({len(mine)}); clashes that boxes do not tell: {len(mine - met)}"
    )
    print(f"  only ours {len(mine - theirs)}, of these wholly inside {len(inside)}; only FCL's {len(theirs - mine)}, "
        f"of these no deeper than {TOLERANCE} mm, or in holes, {len(shallow)}")  # fmt: skip


def _shared(a: Piece, b: Piece):  # type: ignore[no-untyped-def]
    return overlap(a.part, a.placement, b.part, b.placement)


def _is_inside(a: Piece, b: Piece) -> bool:
    shared = _body(a) ^ _body(b)
    return shared.volume() > 0.999 * min(_body(a).volume(), _body(b).volume())


def _body(p: Piece):  # type: ignore[no-untyped-def]
    return solid(p.part).transform(np.column_stack([p.placement.axes, p.placement.origin]))


def volumes(parts: list[Part], number: int = 120) -> None:
    """Beside booleans of every pair of a small lot."""
    pieces = strewn(parts, number, seed=3)
    found = {(c.a.id, c.b.id): c.shared.volume for c in ours(pieces)}
    start, worst, many = time.perf_counter(), 0.0, 0
    bodies = [_body(p) for p in pieces]
    for i in range(number):
        for j in range(i):
            shared = (bodies[i] ^ bodies[j]).volume()
            said = found.get((pieces[j].id, pieces[i].id), found.get((pieces[i].id, pieces[j].id)))
            if said is not None:
                many += 1
                worst = max(worst, abs(said - shared) / shared)
            elif shared > 1e4:
                print("  missed:", pieces[i].id, pieces[j].id, shared)
    print(f"volumes of {many} clashes beside booleans of all {number * (number - 1) // 2} pairs: "
        f"off by {worst:.1e} at most ({time.perf_counter() - start:.1f} s for those)")  # fmt: skip


def main() -> None:
    asked = argparse.ArgumentParser()
    asked.add_argument("--sizes", default="1000,3000,10000,30000")
    asked.add_argument("--peers", type=int, default=10_000)
    args = asked.parse_args()
    parts = shapes()
    growth(parts, [int(n) for n in args.sizes.split(",")])
    volumes(parts)
    beside_the_library(parts, args.peers)


if __name__ == "__main__":
    main()
