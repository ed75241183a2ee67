"""Overall length; with it the work points where the steel stops short of them or runs past."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.rules.rule import LEAST, Rule
from uncus.draw.seen import Seen


def _said(stops: tuple[Stop, ...], works: tuple[float, float]) -> bool:
    """Whether one step of a chain is from work point to work point already."""
    steps = zip(stops, stops[1:], strict=False)
    return any(abs(a.at - works[0]) < LEAST and abs(b.at - works[1]) < LEAST for a, b in steps)


def longest(kz: float, way: float) -> bool:
    """Whether an end's long point is at the top: where its extension line begins."""
    return way * kz > 1e-4


def make(seen: Seen) -> Iterator[Annotation]:
    low, high = seen.main.depth_range
    if seen.subject.is_tie:
        yield from _tie(seen, low)
        return
    left, right = (
        high if longest(cut.kz, way) else low for cut, way in ((seen.main.left, -1.0), (seen.main.right, 1.0))
    )
    ends = Stop("left end", 0.0, left), Stop("right end", seen.length, right)
    works = seen.subject.works
    off = (
        []
        if works is None or "work points" in seen.preset.off
        else [
            s
            for s, end in (
                (Stop("left work point", works[0], low), 0.0),
                (Stop("right work point", works[1], low), seen.length),
            )
            if abs(s.at - end) > LEAST
        ]
    )
    stops = tuple(sorted([*ends, *off], key=lambda s: s.at))
    yield Chain(f"{seen.name}|overall", "below", stops, rank=2)
    if off and works is not None and stops[-1].at - stops[0].at > LEAST and not _said(stops, works):
        whole = Stop("left work point", works[0], low), Stop("right work point", works[1], low)
        yield Chain(f"{seen.name}|work points", "below", whole, rank=3, words="WP-WP ")


def _tie(seen: Seen, low: float) -> Iterator[Annotation]:
    """A tie rod is set to length between its pins: from pin to pin, and from the work points to them."""
    works = () if seen.subject.works is None or "work points" in seen.preset.off else seen.subject.works
    off = [Stop(f"{name} work point", at, low) for name, at in zip(("left", "right"), works, strict=False)]
    pins = [Stop(f"pin {n}", at, 0.0) for n, at in enumerate(seen.subject.pins, 1)]
    stops = tuple(sorted([*pins, *off], key=lambda s: s.at))
    if len(stops) > 1:
        yield Chain(f"{seen.name}|overall", "below", stops, rank=2)
    if len(off) == 2 and len(stops) > 2:
        yield Chain(f"{seen.name}|work points", "below", (off[0], off[1]), rank=3, words="WP-WP ")


RULE = Rule(
    "overall", "Overall and work points", make, "Length over all and from work point to work point.", ("front",)
)
