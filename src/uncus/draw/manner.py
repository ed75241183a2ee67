"""How a piece is dimensioned, as a preset asks: what the rules say, in the office's manner."""

from __future__ import annotations

from msgspec.structs import replace

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.job.drawings import SheetPreset


def in_manner(found: list[Annotation], preset: SheetPreset, length: float) -> list[Annotation]:
    """The chains along a piece of this length from the end, and in the manner, that the preset asks for."""
    if preset.start == "left end" and preset.along == "running":
        return found
    return [_along(one, preset, length) if isinstance(one, Chain) and _runs(one) else one for one in found]


def _runs(one: Chain) -> bool:
    return one.how == "running" and one.along_u


def _along(one: Chain, preset: SheetPreset, length: float) -> Chain:
    first, rest = one.stops[0], one.stops[1:]
    from_right = preset.start == "right end" and abs(first.at) < 0.05
    end = Stop("right end", length, first.foot) if from_right else first
    rest = tuple(s for s in rest if abs(s.at - end.at) > 0.05)
    if not rest:
        return one
    if preset.along == "running":
        return replace(one, stops=(end, *rest), datum=end.at if from_right else one.datum)
    return replace(one, how="steps", stops=tuple(sorted((end, *rest), key=lambda s: s.at)))
