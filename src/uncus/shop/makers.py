"""Which connection or attachment made what is seen at a point of a piece: a plate, a bolt, a hole."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from uncus.shop.lines import hole_snaps
from uncus.shop.pieces import Piece
from uncus.shop.shop import Shop
from uncus.steel.features import Hole

_SAME = 1.0  # mm within which a hole or bolt is the one a maker set out


def maker_at(shop: Shop, piece: Piece, at: NDArray[np.float64], reach: float) -> str | None:
    """The record that made the plate, or the bolt or hole within `reach` of a point on a member; None for plain
    steel."""
    if piece.maker != piece.owner:
        return piece.maker
    makers = [c.id for c in shop.connections_at(piece.owner)] + [a.id for a in shop.attachments_at(piece.owner)]
    best: tuple[float, str] | None = None
    for id in makers:
        made = shop.connections.get(id)
        for group in made.fasteners if made else ():
            heads = np.asarray(group.points)
            axis = np.asarray(group.axis)
            off = at - heads
            along = np.clip(off @ axis, -15.0, group.length)
            away = float(np.linalg.norm(off - along[:, None] * axis, axis=1).min())
            if away < reach + 10.0 and (best is None or away < best[0]):
                best = (away, id)
    if best is None:
        for spot, hole in zip(hole_snaps(piece), piece.part.holes, strict=True):
            away = float(np.linalg.norm(at - spot.point)) - hole.d / 2
            if away < reach and (best is None or away < best[0]):
                owner = _of_hole(shop, makers, piece, hole)
                best = (away, owner) if owner else best
    return best[1] if best else None


def _of_hole(shop: Shop, makers: list[str], piece: Piece, hole: Hole) -> str | None:
    body = shop.body(piece.owner)
    if body is None:
        return None
    stock = next((s for s in body.stock if s.id == piece.id), body.stock[0])
    shift = float(stock.frame.to_local(piece.placement.origin)[0])
    for id in makers:
        made = shop.connections.get(id)
        for owner, feature in made.features if made else ():
            if owner != piece.id or not isinstance(feature, Hole) or feature.face is not hole.face:
                continue
            if abs(feature.x - shift - hole.x) < _SAME and abs(feature.w - hole.w) < _SAME:
                return id
    return None
