"""Ends that meet their support at a skew or a slope: the contact point, the bevel, and the way to the first hole."""

import math
from collections.abc import Iterator

from uncus.draw.annotation import Aligned, Annotation, Bevel, Chain, Note, Stop
from uncus.draw.rules.rule import LEAST, Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import SQUARE, Meets


def make(seen: Seen) -> Iterator[Annotation]:
    main, works = seen.main, seen.subject.works
    for met in seen.subject.meets:
        end = "right" if met.right else "left"
        angle, k = (met.slope, met.kz) if seen.name == "front" else (met.skew, met.ky)
        if abs(angle) < SQUARE:
            continue
        cut = main.right if met.right else main.left
        if abs(cut.kz if seen.name == "front" else cut.ky) < 1e-4:  # cut square: the support's own lean is said
            at = (main.length if met.right else 0.0, seen.high)
            yield Bevel(f"{seen.name}|lean {end}", at, k, met.right)
        steel = main.length if met.right else 0.0
        work = works[1 if met.right else 0] if works else steel
        # from the work point to where it meets its support; from there to the steel's end the overall chain says
        apart = all(abs(met.at - x) > LEAST for x in (work, steel))
        if apart and seen.first("contact", end):
            points = {"work point": work, "contact": met.at}
            stops = sorted((Stop(f"{end} {name}", x, seen.high) for name, x in points.items()), key=lambda s: s.at)
            yield Chain(f"{seen.name}|contact {end}", "above", tuple(stops), rank=1)
        yield from _to_hole(seen, met, k, end)


def _to_hole(seen: Seen, met: Meets, k: float, end: str) -> Iterator[Annotation]:
    """Square to the support's face from the nearest hole, and along the piece."""
    own = [h for h in seen.holes if h.own and (h.u > seen.length / 2) == met.right]
    if not own:
        return
    hole = min(own, key=lambda h: abs(h.u - met.at - k * h.v))
    away = hole.u - met.at - k * hole.v
    square = away / (1 + k * k)  # foot of the perpendicular on u = at + k v
    foot = hole.u - square, hole.v + k * square
    key = f"{seen.name}|to hole {end}"
    yield Aligned(f"{key} square", foot, (hole.u, hole.v), 5.0 if met.right else -5.0)
    if abs(away - math.hypot(square, k * square)) > LEAST:
        yield Aligned(f"{key} along", (hole.u - away, hole.v), (hole.u, hole.v), -5.0 if met.right else 5.0)
    if seen.first("frames to", end):
        yield Note(f"{seen.name}|frames to {end}", (met.at + k * seen.high, seen.high), f"FRAMES TO {met.words}")


RULE = Rule(
    "skewed",
    "Skewed ends",
    make,
    "Contact points, distances square to the support, and what it frames to.",
    ("front", "top"),
)
