"""Holes where they can be made and hold: from edges, from one another, and out of fillets.

Least edge distances: AISC 360-22 table J3.4, EN 1993-1-8 table 3.3 (1.2 d0), as the bolt's size has them. Spacing: AISC
360-22 J3.3, 2 2/3 diameters; EN 1993-1-8 table 3.3, 2.2 d0.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import shapely

from uncus.catalog.bolts import BoltSize, bolt_size
from uncus.catalog.sections import Form, Section
from uncus.connect.buildable.blocks import ends_of, to_end
from uncus.connect.buildable.site import Site
from uncus.connect.kind import Stock
from uncus.frame.placement import Vec
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Face, Notch
from uncus.steel.flats import flats
from uncus.steel.joint import FastenerKind, NewPart

_TOLERANCE = 0.05
_FAR = float("inf")


class Row(NamedTuple):
    """The bolts of one group in one piece: their points (n, 3) in the model."""

    size: BoltSize
    axis: Vec
    points: Vec


def rows(site: Site) -> dict[str, list[Row]]:
    """Bolts by the piece they pass."""
    found: dict[str, list[Row]] = defaultdict(list)
    for group in site.made.fasteners:
        if group.kind is FastenerKind.BOLT:
            row = Row(bolt_size(group.size), np.asarray(group.axis), np.asarray(group.points))
            for piece in group.joins:
                found[piece].append(row)
    return found


def inspect(site: Site) -> Iterator[str]:
    """Sentences on what is too near."""
    stocks = {s.id: (b, s) for b in site.bodies for s in b.stock}
    parts = {f"{site.about}/{p.key}": p for p in site.made.parts}
    known: set[tuple[int, ...]] = set()
    for piece, group in rows(site).items():
        same = tuple(id(row) for row in group)
        if same not in known:  # what holds in one ply holds in the next
            known.add(same)
            yield from _spacing(site, parts[piece].words if piece in parts else stocks[piece][0].words, group)
        new = parts.get(piece)
        if new is not None and new.part.item is not None:
            continue  # its maker bores it
        if new is not None and new.part.section is None:
            yield from _in_plate(site, new, group)
            continue
        if new is not None:
            assert new.part.section is not None
            words, stock = new.words, Stock(piece, new.part.section, new.placement)
            ends: tuple[EndCut | None, EndCut | None] = (new.part.left, new.part.right)
        else:
            body, stock = stocks[piece]
            words, ends = body.words, ends_of(body, stock, site.made)
        yield from _in_section(site, words, stock, ends, group)


# -- from one another -----------------------------------------------------------------------------------------


def _spacing(site: Site, words: str, group: list[Row]) -> Iterator[str]:
    points = np.concatenate([r.points for r in group])
    if len(points) < 2:
        return
    axes = np.concatenate([np.tile(r.axis, (len(r.points), 1)) for r in group])
    least = np.concatenate([np.full(len(r.points), _least(r.size)) for r in group])
    apart = points[:, None] - points
    along = np.einsum("ijk,ik->ij", apart, axes)
    across = np.sqrt(np.maximum(np.einsum("ijk,ijk->ij", apart, apart) - along**2, 0.0))
    alike = np.abs(axes @ axes.T) > 0.999
    far = np.abs(along) > 60.0  # in another wall of the piece
    across = np.where(alike & ~far & ~np.eye(len(points), dtype=bool), across, _FAR)
    short = across < np.maximum(least[:, None], least) - _TOLERANCE
    if short.any():
        i, j = np.unravel_index(np.argmin(np.where(short, across, _FAR)), short.shape)
        yield (
            f"Bolts in the {words} stand {site.said(float(across[i, j]))} apart, closer than the "
            f"{site.said(max(least[i], least[j]))} they need; enlarge the pitch or take smaller bolts."
        )


def _least(size: BoltSize) -> float:
    return 8 / 3 * size.d if size.system == "inch" else 2.2 * size.hole


# -- in plates ------------------------------------------------------------------------------------------------


def _in_plate(site: Site, new: NewPart, group: list[Row]) -> Iterator[str]:
    ring = shapely.LinearRing(new.part.outline)
    each = flats(new.part.outline, new.part.bends, new.part.thickness)
    for row in group:
        flat = max(each, key=lambda one: abs(float((new.placement.axes @ one.place.y) @ row.axis)))
        spots = shapely.points((new.placement @ flat.place).to_local(row.points)[:, [0, 2]])
        yield from _edge(site, new.words, row.size, float(shapely.distance(ring, spots).min()))
        if (
            new.part.bends
            and not shapely.Polygon(flat.outline).buffer(-row.size.head_flats / 2 + 1.0).covers(spots).all()
        ):
            yield (
                f"A {row.size.name} bolt stands in the bend of the {new.words}; give it more distance or a smaller "
                f"radius."
            )


def _edge(site: Site, words: str, size: BoltSize, away: float) -> Iterator[str]:
    if away <= 0.0:
        yield f"A {size.name} bolt misses the {words}; move its row onto the steel."
    elif away < size.edge - _TOLERANCE:
        yield (
            f"A {size.name} bolt stands {site.said(away)} from the edge of the {words} and needs "
            f"{site.said(size.edge)}; "
            "enlarge the edge distance or take smaller bolts."
        )


# -- in rolled pieces -----------------------------------------------------------------------------------------


def _in_section(
    site: Site, words: str, stock: Stock, ends: tuple[EndCut | None, EndCut | None], group: list[Row]
) -> Iterator[str]:
    faces = profile.faces(stock.section)
    shapes = [f for owner, f in site.made.features if owner == stock.id]
    for row in group:
        axis = row.axis @ stock.frame.axes
        upright = abs(axis[1]) > abs(axis[2])
        local = stock.frame.to_local(row.points)
        walls = [w for w in faces.values() if w.upright == upright]
        if not walls:
            continue
        least, fillet = _FAR, _FAR
        for x, y, z in local.tolist():
            w, depth = (z, y) if upright else (y, z)
            wall = min(walls, key=lambda one: abs(one.mid - depth))
            away = [to_end(cut, bool(i), x, w, wall.upright, wall.mid) for i, cut in enumerate(ends)]
            away.append(_to_side(stock.section, wall.face, w))
            away += [_to_shape(shape, wall.face, ends, stock.section, x, w) for shape in shapes]
            least = min(least, *away)
            fillet = min(fillet, to_fillet(stock.section, wall.face, w) - row.size.hole / 2)
        yield from _edge(site, words, row.size, least)
        if fillet < -_TOLERANCE:
            yield (
                f"A hole for a {row.size.name} bolt meets the fillet of the {words} by {site.said(-fillet)}; "
                "move the row or take another gage."
            )


def _to_side(s: Section, face: Face, w: float) -> float:
    """From a point across a face to its free edge."""
    if face is Face.WEB:
        return {Form.ANGLE: s.d / 2 - w, Form.TEE: s.d / 2 + w}.get(s.form, _FAR)
    if s.form is Form.BOX:
        return _FAR
    return s.b / 2 - w if s.form in (Form.ANGLE, Form.CHANNEL) else s.b / 2 - abs(w)


def to_fillet(s: Section, face: Face, w: float) -> float:
    """From a point across a face to where its fillet or rounded corner begins, by detailing k and k1."""
    if s.form is Form.FLAT:
        return _FAR  # it has none
    k = max(s.k, s.tf + s.r)
    if s.form is Form.BOX:
        return (s.d if face.upright else s.b) / 2 - s.r - abs(w)
    if s.form is Form.ANGLE:
        return w + (s.d if face.upright else s.b) / 2 - k
    if face is Face.WEB:
        return s.d / 2 - k - (w if s.form is Form.TEE else abs(w))
    return w + s.b / 2 - s.tw - s.r if s.form is Form.CHANNEL else abs(w) - s.clear


def _to_shape(
    shape: object, face: Face, ends: tuple[EndCut | None, EndCut | None], s: Section, x: float, w: float
) -> float:
    """From a point to a cope or a notch in the same face."""
    if isinstance(shape, Notch) and shape.face is face:
        return float(shapely.Polygon(shape.outline).distance(shapely.Point(x, w)))
    if isinstance(shape, Cope) and face is Face.WEB:
        cut = ends[shape.right]
        if cut is not None:
            inner = cut.at + (-shape.length if shape.right else shape.length)
            beside = (inner - x) if shape.right else (x - inner)
            over = (s.d / 2 - shape.depth) - (-w if shape.bottom else w)
            return float(np.hypot(max(beside, 0.0), max(over, 0.0))) if max(beside, over) > 0 else 0.0
    return _FAR
