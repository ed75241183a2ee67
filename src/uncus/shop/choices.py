"""What each choice of a value makes of a joint or attachment, as lines: small pictures are drawn of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.connect.kind import Body
from uncus.connect.meaning import Bed, places_on_members, ring
from uncus.frame.numbers.kind import ByNumbers, made
from uncus.frame.placement import Vec
from uncus.job.errors import JobError
from uncus.job.forms import FLAGS, fields
from uncus.job.records import Attachment, Connection, Member, Point
from uncus.shop.lines import edge_lines
from uncus.shop.meaning import remade
from uncus.shop.records import body_of
from uncus.shop.shop import Shop
from uncus.steel.joint import Contribution
from uncus.units import UnitError, Units

_ROUND = 1.3  # of the joint's own size that is seen of the members
_CORNERS = (0, 2, 12, 14)  # of the ring round a section


class Picture(NamedTuple):
    """(n, 2, 3) lines of the members near by, of the joint's own parts and of its welds, and (n, 3) bolts and holes."""

    members: NDArray[np.float64]
    parts: NDArray[np.float64]
    welds: NDArray[np.float64]
    dots: NDArray[np.float64]

    @property
    def points(self) -> NDArray[np.float64]:
        return np.concatenate([a.reshape(-1, 3) for a in self])

    def like(self, other: Picture) -> bool:
        return all(a.shape == b.shape and np.allclose(a, b, atol=0.01) for a, b in zip(self, other, strict=True))


def pictures(shop: Shop, record: Connection | Attachment, name: str) -> dict[str, Picture]:
    """A picture of the joint or attachment with each choice of a value, by the choice's words; those that cannot be
    made are missing, and there is none where all are alike. Raises JobError where its values cannot be used."""
    of = remade(shop, record)
    if of is None:
        return {}
    about, with_each = fields(type(of.params))[name], {}
    for words in FLAGS if about.unit == "flag" else about.choices:
        value: Any = words == FLAGS[0] if about.unit == "flag" else words
        try:
            with_each[words] = of.make(msgspec.structs.replace(of.params, **{name: value}))
        except JobError:
            continue
    own = {words: _own(each, of.bed) for words, each in with_each.items()}
    spots = [p.points for p in own.values() if len(p.points)]
    if not spots:
        return {}
    every = np.concatenate(spots)
    found = {
        words: own[words]._replace(members=_array(_near(each, of.bed.bodies, every), 2))
        for words, each in with_each.items()
    }
    return _told_apart(found)


_PICKS = {  # where a frame stands in its pictures before it is placed
    2: ((0.0, 0.0, 0.0), (8_000.0, 0.0, 3_000.0)),
    3: ((0.0, 0.0, 3_000.0), (0.0, 4_000.0, 4_500.0), (5_000.0, 0.0, 3_000.0)),
    4: ((0.0, 0.0, 0.0), (6_000.0, 0.0, 0.0), (6_000.0, 5_000.0, 0.0), (0.0, 5_000.0, 0.0)),
}


def frame_pictures(
    kind: ByNumbers, params: Any, points: Sequence[Point], units: Units, name: str
) -> dict[str, Picture]:
    """A picture of a frame by numbers with each choice of a value; none where all are alike."""
    spots = [np.asarray(p) for p in (points if len(points) == len(kind.picks) else _PICKS[len(kind.picks)])]
    found = {}
    for words in fields(kind.params)[name].choices:
        try:
            frame = made(kind, msgspec.structs.replace(params, **{name: words}), spots, units)
        except (JobError, UnitError):
            continue
        none = _array((), 2)
        found[words] = Picture(none, _array((line for m in frame for line in _stick(m)), 2), none, _array((), 1))
    return _told_apart(found)


def _told_apart(found: dict[str, Picture]) -> dict[str, Picture]:
    first = next(iter(found.values()), None)
    return found if first is not None and not all(first.like(p) for p in found.values()) else {}


def _stick(m: Member) -> Iterator[tuple[Vec, Vec]]:
    """A member's four edges; its work line where its section is not known."""
    body = body_of(m)
    if isinstance(body, str):
        yield np.asarray(m.start), np.asarray(m.end)
        return
    a, b = (ring(body, x)[list(_CORNERS)] for x in (0.0, body.length))
    yield from zip(a, b, strict=True)


def _array(of: Iterator[Any] | Sequence[Any], ends: int) -> NDArray[np.float64]:
    return np.array(list(of), dtype=np.float64).reshape((-1, ends, 3) if ends > 1 else (-1, 3))


def _own(made: Contribution, bed: Bed) -> Picture:
    bolts = [np.asarray(at) for group in made.fasteners for at in group.points]
    holes = [spot for key, spot in places_on_members(made, bed, []) if key[0] == "hole" and key[-1] == 0]
    welds = ((a, b) for weld in made.welds for a, b in zip(weld.path, weld.path[1:], strict=False))
    parts = (line for p in made.parts for line in edge_lines(p))
    return Picture(_array((), 2), _array(parts, 2), _array(welds, 2), _array(bolts or holes, 1))


def _near(made: Contribution, bodies: Sequence[Body], every: NDArray[np.float64]) -> Iterator[tuple[Vec, Vec]]:
    """The members' edges as far as they lie near, from where the joint cuts them."""
    middle, reach = every.mean(axis=0), _ROUND * float(np.ptp(every, axis=0).max()) + 50.0
    for body in bodies:
        x = float(body.frame.to_local(middle)[0])
        low, high = max(0.0, x - reach), min(body.length, x + reach)
        for owner, end, cut in made.cuts:
            if owner == body.id and end == "left":
                low = max(low, cut.at)
            elif owner == body.id:
                high = min(high, cut.at)
        if low < high:
            a, b = ring(body, low)[list(_CORNERS)], ring(body, high)[list(_CORNERS)]
            yield from zip(a, b, strict=True)
            for face in (a, b):
                yield from ((face[i], face[j]) for i, j in ((0, 1), (1, 3), (3, 2), (2, 0)))
