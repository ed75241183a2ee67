"""Height of a plate's outline, and of its slanting edges the points where they turn."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen

_SAME = 0.5


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    if main.section is not None:
        return
    low, high = main.depth_range
    yield Chain(f"{seen.name}|height", "left", (Stop("top", high), Stop("bottom", low)), rank=3)
    square = {(x, z) for x in (0.0, main.length) for z in (low, high)}
    off = [p for p in main.outline if min(abs(p[0] - x) + abs(p[1] - z) for x, z in square) > _SAME]
    if not off or len(off) > 24:  # a rectangle, or an outline of arcs that its own notes tell
        return
    led = {round(hole.u, 1) for hole in seen.holes}  # where a running dimension goes already
    us = [u for u in _between([x for x, _ in off], 0.0, main.length) if round(u, 1) not in led]
    vs = _between([-z for _, z in off], -high, -low)
    if us:
        inner = tuple(Stop(f"corner x{i}", u, high) for i, u in enumerate(us))
        yield Chain(f"{seen.name}|corners along", "above", (Stop("left end", 0.0, high), *inner), "running")
    if vs:
        inner = tuple(Stop(f"corner z{i}", -v) for i, v in enumerate(vs))
        yield Chain(
            f"{seen.name}|corners down", "right", (Stop("top", high), *inner, Stop("bottom", low)), rank=2, to_edge=True
        )


def _between(values: list[float], low: float, high: float) -> list[float]:
    out: list[float] = []
    for value in sorted(values):
        if low + _SAME < value < high - _SAME and (not out or value - out[-1] > _SAME):
            out.append(value)
    return out


RULE = Rule("edges", "Edges of plates", make, "Height of a plate and where its outline turns.", ("front",))
