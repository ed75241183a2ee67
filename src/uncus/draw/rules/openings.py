"""Openings in plates: where they begin and end, along and across, and how wide a round one is."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import LEAST, Rule
from uncus.draw.seen import Seen
from uncus.frame.outlines import Edge, circle_of, middle_of, radius_of, with_arcs
from uncus.steel.features import Notch

_SAME = 0.05  # mm


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    if main.section is not None:
        return
    _, high = main.depth_range
    for n, notch in enumerate(main.notches):
        along = with_arcs(notch.outline)
        key = f"{seen.name}|opening {n}"
        round_ = _circle(along)
        if round_ is not None:
            x, z, radius = round_
            yield Note(f"{key} size", (x + radius * 0.7, z + radius * 0.7), f"{seen.said(2 * radius)} DIA. OPENING")
            across, down = [Stop(f"{key} x", x, high)], [Stop(f"{key} z", z)]
        else:
            xs, zs = [p[0] for p in notch.outline], [p[1] for p in notch.outline]
            across = [Stop(f"{key} x{i}", x, high) for i, x in enumerate((min(xs), max(xs)))]
            down = [Stop(f"{key} z{i}", z) for i, z in enumerate((max(zs), min(zs)))]
            yield from _radii(seen, key, along)
        if _reaches_edge(seen, notch):
            continue
        yield Chain(f"{key} along", "above", (Stop("left end", 0.0, high), *across), "running", rank=1 + n)
        yield Chain(f"{key} down", "right", (Stop("top", high), *down), rank=1 + n)


def _circle(along: list[Edge]) -> tuple[float, float, float] | None:
    """Centre and radius of an outline that is a whole circle."""
    if len(along) != 2 or not all(e.bulge for e in along):
        return None
    a, b = along
    one, other = circle_of((a.x, a.z), (b.x, b.z), a.bulge), circle_of((b.x, b.z), (a.x, a.z), b.bulge)
    return one if max(abs(p - q) for p, q in zip(one, other, strict=True)) < _SAME else None


def _radii(seen: Seen, key: str, along: list[Edge]) -> Iterator[Annotation]:
    said: set[float] = set()
    for a, b in zip(along, along[1:] + along[:1], strict=True):
        if a.bulge and (radius := round(radius_of(a, b), 1)) not in said:
            said.add(radius)
            yield Note(f"{key} radius {radius}", middle_of(a, b), f"R {seen.said(radius)} OPENING")


def _reaches_edge(seen: Seen, notch: Notch) -> bool:
    """Whether it runs out over an edge of the plate, whose own corners tell of it."""
    low, high = seen.main.depth_range
    inside = (-LEAST < x < seen.main.length + LEAST and low - LEAST < z < high + LEAST for x, z in notch.outline)
    return not all(inside)


RULE = Rule("openings", "Openings in plates", make, "Where openings of a plate are, and how large.", ("front",))
