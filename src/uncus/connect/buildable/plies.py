"""Bolts through every ply they join: a hole of each on the bolt's line, and no air between the plies in its grip."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from itertools import product
from typing import NamedTuple

import numpy as np

from uncus.catalog.sections import Section
from uncus.connect.buildable.site import Site
from uncus.frame.placement import Placement, Vec
from uncus.steel import profile
from uncus.steel.features import Face, Hole
from uncus.steel.flats import flats
from uncus.steel.joint import FastenerKind, Fasteners
from uncus.steel.solid import TOLERANCE

_SQUARE = 1e-3
# mm of air that tightening draws together, the sixteenth of an inch up to which the trade puts no fill (webs of two
# weights
# under one pair of splice plates)
DRAWN_UP = 1.6


class Ply(NamedTuple):
    """A piece that bolts pass: in words, its section (None: a plate so thick), its frame (of a bent plate each
    flat's) and its holes."""

    words: str
    section: Section | None
    thickness: float
    frames: tuple[Placement, ...]
    holes: tuple[Hole, ...]


def inspect(site: Site) -> Iterator[str]:
    plies = _plies(site)
    for group in site.made.fasteners:
        if group.kind is FastenerKind.BOLT and all(piece in plies for piece in group.joins):
            yield from _through(site, group, [plies[piece] for piece in group.joins])


def _plies(site: Site) -> dict[str, Ply]:
    holes: dict[str, list[Hole]] = defaultdict(list)
    for owner, feature in site.made.features:
        if isinstance(feature, Hole):
            holes[owner].append(feature)
    found = {}
    for body in site.bodies:
        for stock in body.stock:
            if profile.faces(stock.section):
                found[stock.id] = Ply(body.words, stock.section, 0.0, (stock.frame,), tuple(holes[stock.id]))
    for new in site.made.parts:
        part, section = new.part, new.part.section
        if part.item is not None:
            continue  # its maker bores it
        if not section or profile.faces(section):
            bent = flats(part.outline, part.bends, part.thickness) if part.bends else ()
            frames = tuple(new.placement @ flat.place for flat in bent) or (new.placement,)
            found[f"{site.about}/{new.key}"] = Ply(new.words, section, part.thickness, frames, part.holes)
    return found


def _through(site: Site, group: Fasteners, plies: list[Ply]) -> Iterator[str]:
    """What is wrong with a group's plies, said once."""
    points, axis = np.asarray(group.points), np.asarray(group.axis)
    spans = [_spans(ply, points, axis, group.grip) for ply in plies]
    for ply, span in zip(plies, spans, strict=True):
        missed = int(np.isnan(span[:, 0]).sum())
        if missed:
            yield (
                f"{missed} of the {group.size} bolts miss the {ply.words}, which has no hole on their line; give other "
                f"distances."
            )
            return
    enter, leave = np.sort([s[:, 0] for s in spans], axis=0), np.sort([s[:, 1] for s in spans], axis=0)
    air = float(max((enter[1:] - leave[:-1]).max(initial=0.0), enter[0].max(), (group.grip - leave[-1]).max()))
    if air > DRAWN_UP:
        first, last = plies[0].words, plies[-1].words
        yield (
            f"There is {site.said(air)} of air between the {first} and the {last} in the grip of the {group.size} "
            f"bolts; put a fill there."
        )


def _spans(ply: Ply, points: Vec, axis: Vec, grip: float) -> Vec:
    """Where each bolt's line (from its head) enters and leaves a ply (n, 2); not a number where it has no hole
    there. A tube that is pierced on both sides within the grip is one ply from its one side to the other."""
    found = np.full((len(points), 2), np.nan)
    for frame, (face, holes) in product(ply.frames, _by_face(ply.holes)):
        local, along = frame.to_local(points), frame.axes.T @ axis
        wall = profile.faces(ply.section)[face] if ply.section else None
        mid, half = (wall.mid, wall.thickness / 2) if wall else (0.0, ply.thickness / 2)
        normal, across = (1, 2) if wall is None or wall.upright else (2, 1)
        if abs(along[normal]) < 1 - _SQUARE:
            continue
        step = (mid - local[:, normal]) / along[normal]
        there = local + step[:, None] * along
        spots = np.array([(hole.x, hole.w) for hole in holes])
        off = np.hypot(there[:, None, 0] - spots[:, 0], there[:, None, across] - spots[:, 1]).min(axis=1)
        here = (off < TOLERANCE) & (step > -half - grip) & (step < 2 * grip + half)
        within = here & (step > -half - 1.0) & (step < grip + half + 1.0)
        both = within & (found[:, 0] > -1.0) & (found[:, 1] < grip + 1.0) & (ply.section is not None)
        far = np.column_stack([np.minimum(found[:, 0], step - half), np.maximum(found[:, 1], step + half)])
        found[both] = far[both]
        near = (
            here & ~both & (np.isnan(found[:, 0]) | (np.abs(step - grip / 2) < np.abs(found.mean(axis=1) - grip / 2)))
        )
        found[near] = np.column_stack([step - half, step + half])[near]
    return found


def _by_face(holes: Iterable[Hole]) -> Iterable[tuple[Face, list[Hole]]]:
    found: dict[Face, list[Hole]] = defaultdict(list)
    for hole in holes:
        found[hole.face].append(hole)
    return found.items()
