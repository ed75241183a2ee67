"""Surfaces of straight rulings between two outlines: how they lie between them, laid flat, and as plates with folds.

A strip is a row of rulings, each from a point of the one outline to a point of the other; between two of them that
follow each other the surface is flat. Laid flat, facet by facet, it keeps all its lengths and its area.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely

from uncus.frame.outlines import OutlineError
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank, Corner, Fold
from uncus.steel.blanks import ordered
from uncus.steel.forming import folded

_SAME = 1e-6  # mm
_FLAT = 1e-3  # degrees of a fold that is none
_ASTRAY = 0.05  # mm that a pattern may miss its surface by when it is folded again


class Strip(NamedTuple):
    """Rulings (n, 3) from one outline to the other, in order; the surface lies between each two that follow."""

    first: Vec
    last: Vec

    def part(self, begin: int, end: int) -> Strip:
        """From one ruling to another; round the end of a closed strip, whose last ruling is its first."""
        n = len(self.first) - 1
        take = [begin + k if begin + k <= n else begin + k - n for k in range(end - begin + 1)]
        return Strip(self.first[take], self.last[take])


class Flat(NamedTuple):
    """A strip laid flat: its rulings' ends (n, 2), the angle in radians of each fold between two facets (as
    `fold_angles`), and where the flat's plane lies: x and z of a frame, its y the normal of the facet `root`, which
    stays."""

    first: Vec
    last: Vec
    folds: Vec
    place: Placement
    root: int

    @property
    def outline(self) -> Vec:
        """Its ring (m, 2), without points that lie on one another."""
        ring = np.vstack([self.first, self.last[::-1]])
        step = np.linalg.norm(ring - np.roll(ring, 1, axis=0), axis=1)
        return np.asarray(ring[step > _SAME])

    @property
    def area(self) -> float:
        x, z = np.vstack([self.first, self.last[::-1]]).T
        return float(abs(x @ np.roll(z, -1) - z @ np.roll(x, -1)) / 2)


def hull_strip(first: Vec, last: Vec) -> Strip:
    """The surface that is stretched about two convex outlines (n, 3) and (m, 3), given in the same sense: no point of
    either lies outside of it. Raises ValueError where one of them is not convex or the other passes through it."""
    n, m = len(first), len(last)
    inside = (first.mean(axis=0) + last.mean(axis=0)) / 2
    i, j = 0, _start(first, last, inside)
    begin = np.cross(last[j] - first[0], first[1] - first[0])
    out = -math.copysign(1.0, float(begin @ (inside - first[0])))  # both go round in one sense, and so do all facets
    pairs = [(i, j)]
    while len(pairs) < n + m + 1:
        a, b = first[i % n], last[j % m]
        on_first, on_last = first[(i + 1) % n], last[(j + 1) % m]
        left_first, left_last = i < n, j - pairs[0][1] < m
        if left_first and (not left_last or _is_within(a, b, on_first, on_last, out)):
            i += 1
        else:
            j += 1
        pairs.append((i, j))
    strip = Strip(np.array([first[p % n] for p, _ in pairs]), np.array([last[q % m] for _, q in pairs]))
    return _merged(strip)


def _start(first: Vec, last: Vec, inside: Vec) -> int:
    """The point of the second outline whose plane with the first's first edge has all else on its inner side."""
    edge = first[1] - first[0]
    plane = np.cross(edge, last - first[0])
    plane = plane / np.maximum(np.linalg.norm(plane, axis=1, keepdims=True), 1e-12)
    plane *= -np.sign(plane @ (inside - first[0]))[:, None]
    beyond = np.vstack([first, last]) - first[0]
    return int((beyond @ plane.T).max(axis=0).argmin())


def _is_within(a: Vec, b: Vec, on: Vec, other: Vec, out: float) -> bool:
    """Whether the facet a, b, `on` has the other candidate on its inner side."""
    normal = np.cross(b - a, on - a)
    size = float(np.linalg.norm(normal))
    return size < 1e-9 or out * float(normal @ (other - a)) / size <= 1e-9


def _merged(strip: Strip) -> Strip:
    """Without rulings across which the surface is flat, but for the first and the last."""
    keep = np.ones(len(strip.first), dtype=bool)
    folds = fold_angles(strip)
    keep[1:-1] = np.abs(np.degrees(folds)) > _FLAT
    return Strip(strip.first[keep], strip.last[keep])


def normals(strip: Strip) -> Vec:
    """Unit normals (n - 1, 3) of the facets, all to one side."""
    a, b = strip.first[:-1], strip.last[:-1]
    c, d = strip.first[1:], strip.last[1:]
    found = np.cross(d - a, c - b)  # of its diagonals
    return np.asarray(found / np.linalg.norm(found, axis=1, keepdims=True))


def fold_angles(strip: Strip) -> Vec:
    """By how much the surface turns at each ruling between two facets, in radians, about the way from the first outline
    to the last."""
    n = normals(strip)
    way = strip.last[1:-1] - strip.first[1:-1]
    way = way / np.linalg.norm(way, axis=1, keepdims=True)
    across = np.einsum("ij,ij->i", np.cross(n[:-1], n[1:]), way)
    return np.asarray(np.arctan2(across, np.einsum("ij,ij->i", n[:-1], n[1:])))


def laid_flat(strip: Strip) -> Flat:
    """A strip laid flat about its middle facet, its rulings standing up. Raises ValueError where it turns so far that
    it has to be parted."""
    n = len(strip.first)
    root = (n - 1) // 2
    normal = normals(strip)
    up = _unit(strip.last[root] - strip.first[root])
    axes = np.column_stack([np.cross(normal[root], up), normal[root], up])
    place = Placement(strip.first[root], axes)
    first, last = np.zeros((n, 2)), np.zeros((n, 2))
    for k in (root, root + 1):
        first[k], last[k] = (place.to_local(p)[[0, 2]] for p in (strip.first[k], strip.last[k]))
    for k in range(root + 1, n - 1):
        first[k + 1], last[k + 1] = _on(strip, first[k], last[k], k, k + 1, 1.0)
    for k in range(root, 0, -1):
        first[k - 1], last[k - 1] = _on(strip, first[k], last[k], k, k - 1, -1.0)
    folds = fold_angles(strip)
    flat = Flat(first, last, folds, place, root)
    if _missed(flat, strip) > _ASTRAY:
        raise ValueError("a piece of it goes too far round to be laid flat in one; part it into more pieces")
    return flat


def _missed(flat: Flat, strip: Strip) -> float:
    """How far a pattern that is folded again misses its surface: where it goes so far round that the endless line of a
    fold comes upon what the fold does not turn."""
    folds = blank_of(flat, 1.0).folds
    try:
        bends = ordered(folds, shapely.Polygon(flat.outline), 1.0)
    except OutlineError:
        return math.inf
    ends = np.vstack([flat.first, flat.last])
    there = folded(np.column_stack([ends[:, 0], np.zeros(len(ends)), ends[:, 1]]), bends, 1.0)
    return float(np.abs(flat.place.to_model(there) - np.vstack([strip.first, strip.last])).max())


def _on(strip: Strip, a: Vec, b: Vec, k: int, to: int, side: float) -> tuple[Vec, Vec]:
    """The next ruling in the flat, beyond the one from a to b: as far from its ends as it is in space."""
    long = float(np.linalg.norm(b - a))
    z = (b - a) / long
    x = side * np.array([z[1], -z[0]])
    up = _unit(strip.last[k] - strip.first[k])

    def laid(p: Vec) -> Vec:
        off = p - strip.first[k]
        high = float(off @ up)
        wide = math.sqrt(max(0.0, float(off @ off) - high * high))
        return np.asarray(a + high * z + wide * x)

    return laid(strip.first[to]), laid(strip.last[to])


def _unit(v: Vec) -> Vec:
    return np.asarray(v / np.linalg.norm(v))


def inset(flat: Flat, first: float, last: float) -> Flat:
    """A flat whose first and last rulings are drawn in so far square to themselves, their ends along its outline: for
    the corner that it makes with what comes there."""
    one, other = flat.first.copy(), flat.last.copy()
    for at, to, by in ((0, 1, first), (-1, -2, last)):
        way = flat.last[at] - flat.first[at]
        across = np.array([way[1], -way[0]]) / np.linalg.norm(way)
        for ends, kept in ((one, flat.first), (other, flat.last)):
            step = kept[to] - kept[at]
            wide = abs(float(step @ across))
            if wide > 2 * by > 0:
                ends[at] = kept[at] + step * (by / wide)
    return flat._replace(first=one, last=other)


def corner(one: Strip, other: Strip) -> float:
    """By how much the surface turns from one strip to the one after it, in radians."""
    a, b = normals(one)[-1], normals(other)[0]
    return math.atan2(float(np.linalg.norm(np.cross(a, b))), float(a @ b))


def blank_of(flat: Flat, thickness: float) -> Blank:
    """The plate that a flat strip is cut to, its folds sharp and about the middle of its thickness."""
    folds = []
    for k, angle in enumerate(flat.folds.tolist(), 1):
        if abs(math.degrees(angle)) <= _FLAT:
            continue
        (x1, z1), (x2, z2) = flat.first[k].tolist(), flat.last[k].tolist()
        before = k <= flat.root
        ends = (x1, z1, x2, z2) if before else (x2, z2, x1, z1)  # what lies left of a line turns
        folds.append(Fold(*ends, -math.degrees(angle), -thickness / 2))
    return Blank(tuple(Corner(float(x), float(z)) for x, z in flat.outline), (), (), tuple(folds))


def seams(strip: Strip, number: int, at: Sequence[float]) -> list[Strip]:
    """A closed strip parted at rulings: those nearest to shares of the way round (0 to 1) along its first outline, or
    into so many alike."""
    shares = list(at) or [k / number for k in range(number)]
    steps = np.linalg.norm(np.diff(strip.first, axis=0), axis=1) + np.linalg.norm(np.diff(strip.last, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)]) / steps.sum()
    cuts = sorted({int(np.abs(along[:-1] - share % 1.0).argmin()) for share in shares})
    n = len(strip.first) - 1
    return [strip.part(a, b if b > a else b + n) for a, b in zip(cuts, [*cuts[1:], cuts[0]], strict=True)]
