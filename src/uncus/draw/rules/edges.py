"""Height of a plate's outline, the points where its edges turn, and the radii of its arcs."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen
from uncus.frame.outlines import Edge, middle_of, radius_of, with_arcs
from uncus.steel.forming import is_developed

_SAME = 0.5
_MOST = 24  # corners that are dimensioned: of more, the plate's own file tells
_MOST_FOLDED = 8  # and of a plate that is folded along many lines, which is cut from its file


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    if main.section is not None:
        return
    low, high = main.depth_range
    yield Chain(f"{seen.name}|height", "left", (Stop("top", high), Stop("bottom", low)), rank=3)
    square = {(x, z) for x in (0.0, main.length) for z in (low, high)}
    along = with_arcs(main.outline)
    yield from _arcs(seen, along)
    off = [e for e in along if min(abs(e.x - x) + abs(e.z - z) for x, z in square) > _SAME]
    folded = seen.subject.rolled_as is not None and is_developed(seen.subject.rolled_as)
    if not off or len(off) > (_MOST_FOLDED if folded else _MOST):
        return
    led = {round(hole.u, 1) for hole in seen.holes}  # where a running dimension goes already
    us = [u for u in _between([e.x for e in off], 0.0, main.length) if round(u, 1) not in led]
    vs = _between([-e.z for e in off], -high, -low)
    if us:
        inner = tuple(Stop(f"corner x{i}", u, high) for i, u in enumerate(us))
        yield Chain(f"{seen.name}|corners along", "above", (Stop("left end", 0.0, high), *inner), "running")
    if vs:
        inner = tuple(Stop(f"corner z{i}", -v) for i, v in enumerate(vs))
        yield Chain(
            f"{seen.name}|corners down", "right", (Stop("top", high), *inner, Stop("bottom", low)), rank=2, to_edge=True
        )


def _arcs(seen: Seen, along: list[Edge]) -> Iterator[Annotation]:
    """Each radius once, at the middle of the first arc that has it, with how many have it."""
    found: dict[float, list[tuple[float, float]]] = {}
    for a, b in zip(along, along[1:] + along[:1], strict=True):
        if a.bulge:
            found.setdefault(round(radius_of(a, b), 1), []).append(middle_of(a, b))
    for radius, spots in found.items():
        many = f" ({len(spots)} PLACES)" if len(spots) > 1 else ""
        yield Note(f"{seen.name}|radius {radius}", spots[0], f"R {seen.said(radius)}{many}")


def _between(values: list[float], low: float, high: float) -> list[float]:
    out: list[float] = []
    for value in sorted(values):
        if low + _SAME < value < high - _SAME and (not out or value - out[-1] > _SAME):
            out.append(value)
    return out


RULE = Rule("edges", "Edges of plates", make, "Height of a plate and where its outline turns.", ("front",))
