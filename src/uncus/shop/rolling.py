"""What joints do to a member rolled to an arc: said of the straight length that touches it there, told of the arc; and
what is fixed to one, set out on its straight length and then taken to where the arc is."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Section
from uncus.connect.kind import Body
from uncus.frame.arcs import Arc
from uncus.frame.helices import Helix
from uncus.frame.placement import Placement
from uncus.job.records import End, Point
from uncus.steel import profile
from uncus.steel.features import EndCut, Feature, Hole, Notch
from uncus.steel.joint import Contribution, Fasteners, Finding, NewPart, Weld, direction, point
from uncus.units import Units, length_in_words


def feature_on(body: Body, straight: Placement, feature: Feature) -> Feature:
    """A feature given in the frame of a straight length, where it lies on the arc. Copes are given from their ends and
    stay as they are."""
    if body.arc is None:
        return feature
    if isinstance(feature, Hole):
        x, w = _spot(body.arc, straight, body.section, feature, (feature.x, feature.w))
        return msgspec.structs.replace(feature, x=x, w=w)
    if isinstance(feature, Notch):
        ring = tuple(_spot(body.arc, straight, body.section, feature, p) for p in feature.outline)
        return msgspec.structs.replace(feature, outline=ring)
    return feature


def _spot(
    arc: Arc | Helix, straight: Placement, section: Section, feature: Hole | Notch, at: tuple[float, float]
) -> tuple[float, float]:
    wall = profile.faces(section).get(feature.face)
    mid = wall.mid if wall else 0.0
    local = (at[0], mid, at[1]) if feature.face.upright else (at[0], at[1], mid)
    x, y, z = arc.unrolled(straight.to_model(local)).tolist()
    return x, z if feature.face.upright else y


def cut_on(arc: Arc | Helix, straight: Placement, cut: EndCut) -> EndCut:
    """An end's plane, given in the frame of a straight length, as it crosses the arc."""
    normal = straight.axes @ np.array([1.0, -cut.ky, -cut.kz])
    foot = straight.to_model((cut.at, 0.0, 0.0))
    at = cut.at
    for _ in range(4):  # Newton's steps along the arc
        here = arc.at(at)
        at -= float((here.to_model((at, 0.0, 0.0)) - foot) @ normal) / float(here.x @ normal)
    n = arc.at(at).axes.T @ normal
    ky, kz = (round(float(-v / n[0]), 9) + 0.0 for v in n[1:])
    return EndCut(at, ky, kz)


def straight_at(body: Body, of: Body, end: End) -> Placement:
    """The frame in which a joint at an end of member `of` sees this one."""
    return body.touching(of.end(end)).frame


_DRAWN = 1.6  # mm of a gap under a weld that its leg is not grown for (AWS D1.1, 7.21.1)
_BRIDGED = 5.0  # and that no weld may bridge


def straightened(body: Body) -> Body:
    """A member as it is before it is rolled, along its chord."""
    return msgspec.structs.replace(body, arc=None)


def rolled_up(body: Body, made: Contribution, about: str, units: Units) -> Contribution:
    """What was made on a member's straight length, each thing where it comes to stand on the arc: flat things stay flat
    and touch it in their middle or, on its hollow side, at their ends; welds bridge what is left between."""
    assert body.arc is not None
    straight = straightened(body)
    moves = {f"{about}/{p.key}": _move(body.arc, straight, made, p, about) for p in made.parts}
    parts = tuple(msgspec.structs.replace(p, placement=moves[f"{about}/{p.key}"].to @ p.placement) for p in made.parts)
    findings = list(made.findings)
    widest = max((m.gap for m in moves.values()), default=0.0)
    if widest > _BRIDGED:
        findings.append(
            Finding(about, f"A flat thing on the {body.words}, which is rolled to an arc, stands off it by "
            f"{length_in_words(widest, units)}; make it shorter.")
        )  # fmt: skip
    return msgspec.structs.replace(
        made,
        parts=parts,
        welds=tuple(_weld(w, moves, body) for w in made.welds),
        fasteners=tuple(f for g in made.fasteners for f in _fasteners(g, moves, body.arc, straight)),
        findings=tuple(findings),
    )


class _Move(NamedTuple):
    """How a thing comes from the straight length to the arc, and the gap that is left under it."""

    to: Placement
    gap: float = 0.0


def _move(arc: Arc | Helix, straight: Body, made: Contribution, part: NewPart, about: str) -> _Move:
    own = f"{about}/{part.key}"
    foot = [p for w in made.welds if own in w.joins and straight.id in w.joins for p in w.path]
    middle = part.placement.to_model(part.part.centre)
    local = straight.frame.to_local(np.array([*foot, middle]))
    xs = local[:-1, 0] if foot else local[:, 0]
    at = float(xs.min() + xs.max()) / 2
    to = _to(arc, straight, at)
    out = np.array(arc.out)
    across = local[:, 1:] @ out
    if not foot or float(np.ptp(across[:-1])) > 1.0:
        return _Move(to)  # not on a face that is bent
    face = float(across[:-1].mean())
    rise = float(np.ptp(xs)) ** 2 / 8 / max(arc.bent_to + face, 1.0)
    if across[-1] > face - 1.0:
        return _Move(to, rise)  # on the outside: it touches in its middle
    lifted = straight.frame.moved((0.0, *(-rise * out))) @ straight.frame.inverse
    return _Move(to @ lifted, rise)


def _to(arc: Arc | Helix, straight: Body, x: float) -> Placement:
    """What takes things at x of the straight length to the arc, model to model."""
    return arc.at(x) @ straight.frame.inverse


def _weld(weld: Weld, moves: Mapping[str, _Move], body: Body) -> Weld:
    move = next((moves[j] for j in weld.joins if j in moves), None)
    assert body.arc is not None
    if move is None:
        x = float(body.frame.to_local(np.array(weld.path))[:, 0].mean())
        move = _Move(_to(body.arc, straightened(body), x))
    path = tuple(point(move.to.to_model(p)) for p in weld.path)
    root = move.gap if move.gap > _DRAWN and body.id in weld.joins else 0.0
    return msgspec.structs.replace(weld, path=path, size=weld.size + root, root=weld.root + root)


def _fasteners(group: Fasteners, moves: Mapping[str, _Move], arc: Arc | Helix, straight: Body) -> Iterator[Fasteners]:
    """Bolts go with what they hold; studs each to where they stand, those at one place along the arc as one group."""
    own = next((moves[j].to for j in group.joins if j in moves), None)
    if own is not None:
        yield _turned(group, group.key, own, group.points)
        return
    at: dict[float, list[Point]] = defaultdict(list)
    for p in group.points:
        at[round(float(straight.frame.to_local(p)[0]), 2)].append(p)
    for n, (x, points) in enumerate(sorted(at.items()), 1):
        yield _turned(group, f"{group.key} {n}", _to(arc, straight, x), points)


def _turned(group: Fasteners, key: str, to: Placement, points: Iterable[Point]) -> Fasteners:
    there = tuple(point(to.to_model(p)) for p in points)
    axis = direction(to.axes @ np.asarray(group.axis))
    return msgspec.structs.replace(group, key=key, points=there, axis=axis)
