"""Plates without holes that lie flat to the view, and lengths of section: where they begin and end, along and across."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.projection import axes_of
from uncus.draw.rules.marks import FACE_ON
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen

_LEAST = 1.0  # mm


def make(seen: Seen) -> Iterator[Annotation]:
    axes = axes_of(seen.name)
    starts: dict[int, Stop] = {}
    for f in seen.subject.fixed:
        if f.normal != FACE_ON[seen.name] or f.part.holes or not seen.first("plate", f.id):
            continue
        corners = [axes @ p for p in f.box()]
        u0 = min(float(c[0]) for c in corners)
        v0, v1 = sorted(float(c[1]) for c in corners)
        if u0 > _LEAST:
            starts.setdefault(round(u0), Stop(f"{f.id}|edge", u0))
        middle = (v0 + v1) / 2
        if abs(middle) > _LEAST and seen.first("plate across", f.mark, round(v0), round(v1)):
            outer = v1 if middle > 0 else v0
            ends = sorted((Stop("middle", 0.0), Stop(f"{f.id}|outer", outer)), key=lambda s: -s.at)
            if abs(outer) > _LEAST:
                yield Chain(f"{seen.name}|across {f.mark} {round(outer)}", "left", tuple(ends), rank=2)
    if starts:
        stops = tuple(starts[u] for u in sorted(starts))
        yield Chain(f"{seen.name}|plates", "above", (Stop("left end", 0.0), *stops), "running")


RULE = Rule(
    "plates", "Plates lying flat", make, "Where plates without holes begin, and how far they stand from the middle."
)
