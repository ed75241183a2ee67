"""Bevel triangles of sloping and skewed cuts."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Bevel
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    for cut, right in ((main.left, False), (main.right, True)):
        slope = cut.kz if seen.name == "front" else cut.ky
        if abs(slope) > 1e-4:
            yield Bevel(
                f"{seen.name}|bevel {'right' if right else 'left'}",
                (main.length if right else 0.0, seen.high),
                slope,
                right,
            )


RULE = Rule("bevels", "Bevels", make, "The triangle of each cut that is not square.", ("front", "top"))
