"""Ends that meet their support at a skew or a slope: the contact point, the bevel, and the way to the first hole."""

import math
from collections.abc import Iterator

from uncus.draw.annotation import Aligned, Annotation, Bevel, Chain, Note, Stop
from uncus.draw.rules.rule import LEAST, Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import SQUARE, Meets

_APART = 6.0  # mm between work point and contact point below which nobody asks for it


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    for met in seen.subject.meets:
        end = "right" if met.right else "left"
        angle, k = (met.slope, met.kz) if seen.name == "front" else (met.skew, met.ky)
        if abs(angle) < SQUARE:
            continue
        cut = main.right if met.right else main.left
        square = abs(cut.kz if seen.name == "front" else cut.ky) < 1e-4
        if square and not seen.subject.bracing:  # the support's own lean is said; of a brace a note says its slope
            at = (main.length if met.right else 0.0, seen.high)
            yield Bevel(f"{seen.name}|lean {end}", at, k, met.right)
        yield from _contact(seen, met, end)
        yield from _to_hole(seen, met, k, end)


def _contact(seen: Seen, met: Meets, end: str) -> Iterator[Annotation]:
    """From the work point to where the piece meets its support; from there to the steel's end the overall chain says.
    Not where a gusset keeps the steel far from it, nor where the two points are as good as one."""
    steel = seen.main.length if met.right else 0.0
    works = seen.subject.works
    work = works[1 if met.right else 0] if works else steel
    far = abs(met.at - steel) > (seen.high - seen.low) / 2
    if far or abs(met.at - steel) <= LEAST or abs(met.at - work) < _APART or not seen.first("contact", end):
        return
    points = {"work point": work, "contact": met.at}
    stops = sorted((Stop(f"{end} {name}", x, seen.high) for name, x in points.items()), key=lambda s: s.at)
    yield Chain(f"{seen.name}|contact {end}", "above", tuple(stops), rank=1)


def _to_hole(seen: Seen, met: Meets, k: float, end: str) -> Iterator[Annotation]:
    """Square to the support's face from the nearest hole, and along the piece."""
    own = [(h.u, h.v) for h in seen.holes if h.own] or _in_web(seen)
    own = [(u, v) for u, v in own if (u > seen.length / 2) == met.right]
    if not own:
        return
    u, v = min(own, key=lambda h: abs(h[0] - met.at - k * h[1]))
    away = u - met.at - k * v
    square = away / (1 + k * k)  # foot of the perpendicular on u = at + k v
    foot = u - square, v + k * square
    key = f"{seen.name}|to hole {end}"
    yield Aligned(f"{key} square", foot, (u, v), 5.0 if met.right else -5.0)
    if abs(away - math.hypot(square, k * square)) > LEAST:
        yield Aligned(f"{key} along", (u - away, v), (u, v), -5.0 if met.right else 5.0)
    if seen.first("frames to", end):
        yield Note(f"{seen.name}|frames to {end}", (met.at + k * seen.high, seen.high), f"FRAMES TO {met.words}")


def _in_web(seen: Seen) -> list[tuple[float, float]]:
    """Where the holes of a web are, seen from above, where they are not seen as holes."""
    return [(h.x, 0.0) for h in seen.main.holes if h.face.upright] if seen.name == "top" else []


RULE = Rule(
    "skewed",
    "Skewed ends",
    make,
    "Contact points, distances square to the support and along the piece, and what it frames to.",
    ("front", "top"),
)
