"""Plates without holes (or whose holes lie behind others) that lie flat to the view, lengths of section, and plates on the skew: where they begin and end,
along and across."""

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
    shown = {hole.column.partition("|")[0] for hole in seen.holes}  # by whose own holes they are set out
    for f in seen.subject.fixed:
        if f.normal != FACE_ON[seen.name] or f.id in shown or not seen.first("plate", f.id):
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
    if seen.name == "front":
        yield from _skewed(seen)
    if starts:
        stops = tuple(starts[u] for u in sorted(starts))
        yield Chain(f"{seen.name}|plates", "above", (Stop("left end", 0.0), *stops), "running")


def _skewed(seen: Seen) -> Iterator[Annotation]:
    """How far down plates on the skew begin, which no view shows face on; like ones at one end once."""
    _, high = seen.main.depth_range
    for f in seen.subject.fixed:
        near, far = f.box()
        top, right = float(far[2]), float(near[0] + far[0]) > seen.length
        if f.normal or abs(high - top) < _LEAST or not seen.first("skewed", right, round(top)):
            continue
        stops = Stop("top", max(high, top)), Stop(f"{f.id}|edge", min(high, top))
        yield Chain(f"{seen.name}|down {f.id}", "right" if right else "left", stops, rank=2)


RULE = Rule(
    "plates", "Plates lying flat", make, "Where plates without holes begin, and how far they stand from the middle."
)
