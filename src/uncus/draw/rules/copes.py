"""Copes: their length along the end, their depth, and their radius where it is not one for all."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    low, high = main.depth_range
    several = len({round(c.radius, 1) for c in main.copes}) > 1
    for cope in main.copes:
        end = "right" if cope.right else "left"
        key = f"{seen.name}|cope {end} {'bottom' if cope.bottom else 'top'}"
        x1, x2 = (main.length - cope.length, main.length) if cope.right else (0.0, cope.length)
        foot = low if cope.bottom else high
        stops = Stop("cope", x1, foot), Stop("end", x2, foot)
        yield Chain(f"{key} length", "below" if cope.bottom else "above", stops, rank=-1, datum=x1)
        falling = (low + cope.depth, low) if cope.bottom else (high, high - cope.depth)
        yield Chain(f"{key} depth", end, (Stop("edge", falling[0]), Stop("cope", falling[1])), rank=1)
        if several:  # else the sheet's notes say it for all
            corner = (x1 if cope.right else x2), (falling[0] if cope.bottom else falling[1])
            yield Note(f"{key} radius", corner, f"R {seen.said(cope.radius)}", not cope.bottom)


RULE = Rule("copes", "Copes", make, "Length and depth of each cope.", ("front",))
