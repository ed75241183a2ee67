"""Pieces of two marks that would be one if what is fixed to them stood on the other side."""

import math
from collections import defaultdict
from collections.abc import Iterator
from itertools import combinations
from typing import NamedTuple

import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.connect.clash import bounds
from uncus.connect.kinds import KINDS
from uncus.frame.placement import Vec
from uncus.job.forms import fields
from uncus.job.records import Connection
from uncus.mark.canonical import part_form
from uncus.mark.content import natural
from uncus.mark.sameness import maps
from uncus.shop.pieces import Assembly
from uncus.steel.joint import Severity

_SAME = 1.0  # mm within which two places are one
_WEB = 80.0  # mm that a web and a tab are thick at most


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    of_mark: dict[tuple[object, str], list[str]] = defaultdict(list)
    for id, piece in sorted(looked.likeness.items()):
        of_mark[piece.of, piece.mark].append(id)
    alike: dict[object, list[str]] = defaultdict(list)
    for like, mark in of_mark:
        alike[like].append(mark)
    for like, marks in alike.items():
        for a, b in combinations(sorted(marks, key=lambda mark: (-len(of_mark[like, mark]), natural(mark))), 2):
            one, other = of_mark[like, a], of_mark[like, b]
            if _could_be_one(looked, looked.shipped[one[0]], looked.shipped[other[0]]):
                text = (
                    f"{b} ({len(other)}) is {a} ({len(one)}) but for the side of the web that tabs stand on: give "
                    f"their joints the same side, and it is one mark."
                )
                for id in other:
                    yield Found("hands", (id,), text, Severity.SAVING, looked.likeness[id].at, form_of(a, b))


class _Place(NamedTuple):
    """A piece in the frame of the main one: what it is, the middle of it, the way its thickness lies, who made it."""

    form: str
    at: tuple[float, float, float]
    normal: Vec
    maker: str


def _could_be_one(looked: Looked, a: Assembly, b: Assembly) -> bool:
    """Whether two pieces have the same main part and on it the same others, all at the same places but for tabs that
    stand on the other side of the web that they hold."""
    here, there = _places(a), _places(b)
    for turn in maps(a.main.part, b.main.part):
        own = sorted((form, tuple(turn.to_model(at).tolist()), turn.axes @ normal, maker)
            for form, at, normal, maker in here)  # fmt: skip
        moved = [(_Place(*one), two) for one, two in zip(own, there, strict=True) if math.dist(one[1], two.at) > _SAME]
        if moved and all(_changed_side(one, two) and _has_sides(looked, two.maker) for one, two in moved):
            return True
    return False


def _changed_side(one: _Place, other: _Place) -> bool:
    """Whether a plate stands where another would, set over by a web's thickness and its own."""
    over = np.subtract(other.at, one.at)
    along = abs(float(over @ one.normal))
    return along < _WEB and bool(np.linalg.norm(over) < along + _SAME)


def _has_sides(looked: Looked, maker: str) -> bool:
    joint = looked.get(maker, Connection)
    kind = KINDS.get(joint.kind) if joint else None
    return kind is not None and "side" in fields(kind.params)


def _places(a: Assembly) -> list[_Place]:
    inverse = a.main.placement.inverse
    found = []
    for p in a.pieces[1:]:
        x, y, z = inverse.to_model(p.placement.to_model(np.mean(bounds(p.part), axis=0))).tolist()
        found.append(_Place(part_form(p.part), (x, y, z), inverse.axes @ p.placement.axes[:, 1], p.maker))
    return sorted(found, key=lambda place: place[:2])


KIND = Rule("hands", "Could be one mark", "Marks that differ by the side alone on which something is fixed.",
    whole=whole, state=lambda looked: looked.likeness)  # fmt: skip
