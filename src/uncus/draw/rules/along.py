"""Running dimensions from the left end to each column of holes and each plate that stands across."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen

_SAME = 0.6  # mm along within which two things are one stop


def make(seen: Seen) -> Iterator[Annotation]:
    stops: dict[float, Stop] = {}
    for hole in seen.holes:
        if hole.u < 0.0 or abs(hole.u - seen.length) < _SAME:
            continue  # at or past the end: on a plate whose own sheet sets it out
        stops.setdefault(hole.u, Stop(hole.column, hole.u))
    if seen.name == "front":
        for f in seen.subject.fixed:
            if f.end_on and 1.0 < (u := float(f.centre[0])) < seen.length - 1.0:
                stops.setdefault(u, Stop(f"{f.id}|end on", u))
            if f.is_member or (seen.subject.is_tie and f.part.item is not None):
                continue  # set out by its work points, or screwed on
            root = f.root(seen.main) if f.normal == "" and seen.main.section is not None else None
            low, high = (ends[0] for ends in f.box())
            edge = high if seen.preset.start == "right end" else low
            at = float((low + high) / 2 if seen.preset.plates == "middle" else edge)
            at = at if root is None else float(root[:, 0].min())
            if f.normal in ("x", "") and 1.0 < at < seen.length - 1.0:
                stops.setdefault(at, Stop(f"{f.id}|{_where(seen, root is None)}", at))
    fresh: list[Stop] = []
    flat = "web" if seen.name == "front" else "flange"  # a hole through both flanges is said in the top view alone
    for u in sorted(stops):
        if fresh and u - fresh[-1].at < _SAME:
            continue
        if seen.first("stop", flat, round(u)):
            fresh.append(stops[u])
    if fresh:
        yield Chain(f"{seen.name}|along", "below", (Stop("left end", 0.0), *fresh), "running")


def _where(seen: Seen, flat: bool) -> str:
    """What of a plate its stop is at."""
    return "root" if not flat else "middle" if seen.preset.plates == "middle" else "edge"


RULE = Rule("along", "Running positions", make, "From the left end to holes and to plates that stand across.")
