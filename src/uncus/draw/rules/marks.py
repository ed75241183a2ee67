"""Marks of the parts that are fixed on, where each is seen best."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Note
from uncus.draw.projection import axes_of
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import Fixed
from uncus.units import sixteenths

FACE_ON = {"front": "y", "top": "z", "bottom": "z"}


def make(seen: Seen) -> Iterator[Annotation]:
    axes = axes_of(seen.name)
    for f in seen.subject.fixed:
        if not at_best(f, seen.name) or not seen.first("label", f.id):
            continue
        u, v, _ = (axes @ f.centre).tolist()
        yield Note(f"{seen.name}|mark {f.id}", (u, v), f.mark + _side(f, seen), v >= 0)


def at_best(f: Fixed, name: str) -> bool:
    """Whether a view is the one in which a part is read: face on, or standing across the front."""
    return f.normal == FACE_ON[name] or (name == "front" and f.normal in ("x", ""))


def _side(f: Fixed, seen: Seen) -> str:
    """Near or far side, and how far a plate's nearer face lies off the centre line."""
    low, high = f.box()
    axis = {"front": 1, "top": 2, "bottom": 2}[seen.name]
    middle = float(f.centre[axis])
    section = seen.main.section
    if f.normal == "x" and seen.name == "front" and section is not None and abs(middle) > section.tw:
        return " NS" if middle < 0 else " FS"
    if f.normal in ("y", "z"):
        near = float(min(abs(low[axis]), abs(high[axis]))) if low[axis] * high[axis] > 0 else 0.0
        if sixteenths(near):
            side = ("NS of" if middle < 0 else "FS of") if axis == 1 else ("above" if middle > 0 else "below")
            return f" {seen.said(near)} {side} CL"
    return ""


RULE = Rule("marks", "Marks of parts", make, "The mark of each part that is fixed on, with its side.")
