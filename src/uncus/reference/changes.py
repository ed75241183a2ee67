"""Two copies of one model held against each other: what came, went, moved or changed, by GlobalId and shape."""

from __future__ import annotations

import hashlib
from collections import Counter, defaultdict
from enum import StrEnum
from typing import NamedTuple

import numpy as np

from uncus.reference.model import Array, Model, Product

_SAME = 0.1  # mm that a product may be off and still be where it was
_MOST = 0.8  # share of products that moved alike, from which the whole model did
_FACTS = (("name", "name"), ("cls", "class"), ("material", "material"), ("section", "profile"), ("storey", "storey"),
    ("layer", "layer"), ("tag", "tag"))  # fmt: skip


class Way(StrEnum):
    CAME = "came"
    WENT = "went"
    MOVED = "moved"
    CHANGED = "changed"


class Change(NamedTuple):
    """What became of a product; of one that went it is the old one."""

    way: Way
    product: Product
    words: str


class Compared(NamedTuple):
    """`renamed`: products that are as they were under another GlobalId; `moved`: by how much the whole model is
    elsewhere, if it is (mm)."""

    changes: tuple[Change, ...]
    renamed: int = 0
    moved: tuple[float, float, float] | None = None

    @property
    def ways(self) -> Counter[Way]:
        return Counter(c.way for c in self.changes)


class _Stands(NamedTuple):
    shape: bytes
    place: Array | None


def compared(old: Model, new: Model) -> Compared:
    """What changed from one copy to the other."""
    was, now = _stands(old), _stands(new)
    shift = _whole(old, new, was, now)
    gone = [p for p in old.products if p.guid not in new.by_guid]
    came = [p for p in new.products if p.guid not in old.by_guid]
    renamed = _renamed(gone, came, was, now, shift)
    changes: list[Change] = []
    for product in new.products:
        if product.guid in old.by_guid:
            before = old.products[old.by_guid[product.guid]]
            found = _change(before, product, was[before.guid], now[product.guid], shift)
            changes += [found] if found else []
    changes += [Change(Way.CAME, p, "is new") for p in came if p.guid not in renamed.values()]
    changes += [Change(Way.WENT, p, "is gone") for p in gone if p.guid not in renamed]
    moved = tuple(float(v) for v in shift) if np.abs(shift).max() > _SAME else None
    return Compared(tuple(changes), len(renamed), moved)  # type: ignore[arg-type]


def _stands(model: Model) -> dict[str, _Stands]:
    """The shape of each product and where it stands."""
    digests = [hashlib.blake2b(s.points.tobytes() + s.triangles.tobytes() + s.lines.tobytes(), digest_size=12).digest()
        for s in model.shapes]  # fmt: skip
    found = {p.guid: _Stands(b"", None) for p in model.products}
    for n, product in model.each():
        found[product.guid] = _Stands(digests[int(model.shape[n])], model.places[n])
    return found


def _whole(old: Model, new: Model, was: dict[str, _Stands], now: dict[str, _Stands]) -> Array:
    """By how much nearly all products that both have are moved alike."""
    offs = [now[p.guid].place[:, 3] - was[p.guid].place[:, 3] for p in new.products  # type: ignore[index]
        if p.guid in old.by_guid and was[p.guid].place is not None and now[p.guid].place is not None
        and was[p.guid].shape == now[p.guid].shape]  # fmt: skip
    if len(offs) < 5:
        return np.zeros(3)
    rows = np.round(np.array(offs), 1)
    values, counts = np.unique(rows, axis=0, return_counts=True)
    best = int(counts.argmax())
    return values[best] if counts[best] >= _MOST * len(rows) else np.zeros(3)


def _renamed(
    gone: list[Product], came: list[Product], was: dict[str, _Stands], now: dict[str, _Stands], shift: Array
) -> dict[str, str]:
    """Products that came just where the like of them went: some programs give new ids each time they write."""
    waiting: dict[object, list[str]] = defaultdict(list)
    for p in gone:
        waiting[_key(p, was[p.guid], shift)].append(p.guid)
    found: dict[str, str] = {}
    for p in came:
        rest = waiting.get(_key(p, now[p.guid], np.zeros(3)))
        if rest and now[p.guid].place is not None:
            found[rest.pop(0)] = p.guid
    return found


def _key(p: Product, stands: _Stands, shift: Array) -> object:
    if stands.place is None:
        return (p.cls, p.guid)
    place = np.round(stands.place[:, 3] + shift, 0).tolist()
    return (p.cls, stands.shape, tuple(place), tuple(np.round(stands.place[:, :3], 4).reshape(-1).tolist()))


def _change(before: Product, after: Product, was: _Stands, now: _Stands, shift: Array) -> Change | None:
    pairs = [(said, getattr(before, name), getattr(after, name)) for name, said in _FACTS]
    words = [f"{said} {a or 'none'} is now {b or 'none'}" for said, a, b in pairs if a != b]
    if was.shape != now.shape:
        return Change(Way.CHANGED, after, "; ".join(["its shape is another", *words]))
    if was.place is not None and now.place is not None:
        off = now.place[:, 3] - was.place[:, 3] - shift
        turned = float(np.abs(now.place[:, :3] - was.place[:, :3]).max())
        if np.abs(off).max() > _SAME or turned > 1e-4:
            far = float(np.linalg.norm(off))
            how = [f"moved by {far:.0f} mm"] if far > _SAME else []
            how += ["turned"] if turned > 1e-4 else []
            way = Way.CHANGED if words else Way.MOVED
            return Change(way, after, "; ".join([" and ".join(how), *words]))
    return Change(Way.CHANGED, after, "; ".join(words)) if words else None
