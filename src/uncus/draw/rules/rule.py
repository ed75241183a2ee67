"""What a rule of dimensioning is: one kind of feature, in the views where it is read."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from uncus.draw.annotation import Annotation
from uncus.draw.seen import Seen

LEAST = 0.8  # mm: half a sixteenth, less cannot be printed
TOUCHING = 0.2  # mm within which a part ends at a surface


class Rule(msgspec.Struct, frozen=True):
    """`make` gives what a view says of its kind of feature; a preset can leave the rule off by its name."""

    name: str
    words: str
    make: Callable[[Seen], Iterable[Annotation]]
    help: str
    views: tuple[str, ...] = ("front", "top", "bottom")
