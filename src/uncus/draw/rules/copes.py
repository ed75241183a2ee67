"""Copes: their length along the end and their depth."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    low, high = main.depth_range
    for cope in main.copes:
        end = "right" if cope.right else "left"
        key = f"{seen.name}|cope {end} {'bottom' if cope.bottom else 'top'}"
        x1, x2 = (main.length - cope.length, main.length) if cope.right else (0.0, cope.length)
        foot = low if cope.bottom else high
        stops = Stop("cope", x1, foot), Stop("end", x2, foot)
        yield Chain(f"{key} length", "below" if cope.bottom else "above", stops, rank=-1)
        falling = (low + cope.depth, low) if cope.bottom else (high, high - cope.depth)
        yield Chain(f"{key} depth", end, (Stop("edge", falling[0]), Stop("cope", falling[1])), rank=1)


RULE = Rule("copes", "Copes", make, "Length and depth of each cope.", ("front",))
