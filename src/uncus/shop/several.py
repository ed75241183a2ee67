"""Members made of several parts: pairs of angles with their stitch plates, tie rods in two lengths."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import msgspec

from uncus.catalog.fittings import rod_fittings, thread_of
from uncus.connect.kind import Body
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.double import Set, angles, stitch_welds, stitches
from uncus.steel.features import Feature, Hole
from uncus.steel.tie import lengths


class Stock(NamedTuple):
    """What a member's lengths are made from: grade and finish, where they begin and end along the member, what is done
    to the first and to the second, and the grade of plates."""

    grade: str
    finish: str
    ends: tuple[float, float]
    features: tuple[list[Feature], list[Feature]]
    plates: str


def is_several(body: Body) -> bool:
    return body.record.double is not None or body.record.turnbuckle is not None


def with_lengths(body: Body, stock: Stock, bare: Assembly) -> Assembly:
    """An assembly of what connections bring, with the member's own lengths before it. Raises ValueError where a length
    is left with nothing."""
    return _pair(body, stock, bare) if body.record.double is not None else _tie(body, stock, bare)


def _pair(body: Body, stock: Stock, bare: Assembly) -> Assembly:
    """A double angle: both angles and their stitch plates."""
    member, double, features = body.record, body.record.double, stock.features
    assert double is not None
    first, second = angles(body.section, double, stock.grade, stock.finish, member.work_length, stock.ends, features)
    inner = body.frame.inverse @ body.stock[0].frame
    held = [float(inner.to_model((f.x, 0.0, 0.0))[0]) for f in features[0] if isinstance(f, Hole)]
    plates = stitches(body.section, double, stock.plates, stock.finish, *stock.ends, held)
    welds = stitch_welds(plates, body.frame, member.id, body.section, double)
    own = _made_of(body, (first, second, *plates))
    return msgspec.structs.replace(bare, pieces=(*own, *bare.pieces), welds=(*welds, *bare.welds))


def _tie(body: Body, stock: Stock, bare: Assembly) -> Assembly:
    """A tie rod: its two lengths and their turnbuckle."""
    turnbuckle, thread = body.record.turnbuckle, thread_of(body.section)
    assert turnbuckle is not None and thread is not None
    make, long = (stock.grade, stock.finish), body.record.work_length
    own = lengths(body.section, turnbuckle, rod_fittings()[thread.name], make, long, stock.ends, stock.features)
    return msgspec.structs.replace(bare, pieces=(*_made_of(body, own), *bare.pieces))


def _made_of(body: Body, sets: Iterable[Set]) -> list[Piece]:
    """What a member of several parts is made of, the first of them its main part."""
    id, role = body.id, str(body.record.role)
    return [
        Piece(f"{id}/{s.key}" if s.key else id, s.part, body.frame @ s.place, id, s.words if s.key else role, id)
        for s in sets
    ]
