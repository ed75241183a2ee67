"""Ends that are saddles to round tubes: to which, how it runs, and the length between them on the axis."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import LEAST, Rule
from uncus.draw.seen import Seen
from uncus.steel.features import Saddle


def make(seen: Seen) -> Iterator[Annotation]:
    main = seen.main
    ends = ("left", main.left), ("right", main.right)
    saddled = [(end, cut, cut.saddle) for end, cut in ends if isinstance(cut.saddle, Saddle)]
    for end, cut, saddle in saddled:
        at = (cut.x(main.y_range[0], 0.0), 0.0)  # on the edge that is seen
        words = f"SADDLE TO {seen.said(2 * saddle.radius)} O.D. TUBE, {_runs(saddle.turn)}"
        yield Note(f"{seen.name}|saddle {end}", at, words)
    if saddled:
        left, right = (Stop(f"{end} end on axis", cut.at) for end, cut in ends)
        if right.at - left.at > LEAST:
            yield Chain(f"{seen.name}|saddles apart", "below", (left, right), rank=1, words="ON AXIS ")


def _runs(turn: float) -> str:
    """How a tube runs across the end, in the words of the sheet: z is up, y the far side."""
    if min(turn, 180.0 - turn) < 0.05:
        return "UP AND DOWN"
    if abs(turn - 90.0) < 0.05:
        return "NEAR TO FAR"
    return f"{turn:.1f} DEG FROM UP TOWARDS FAR SIDE"


RULE = Rule("saddles", "Saddles", make, "Ends cut to a round tube: its diameter, how it runs, the length on the axis.",
    ("front",))  # fmt: skip
