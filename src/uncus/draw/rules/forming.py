"""How a piece is bent along its lines, or rolled to an arc."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    part = seen.subject.rolled_as
    if part is None:
        return
    low, high = seen.main.depth_range
    for n, bend in enumerate(part.bends):
        way = "UP" if bend.angle > 0 else "DOWN"
        words = f"BEND {way} {abs(bend.angle):g} DEG, R {seen.said(bend.radius)} INSIDE"
        yield Note(
            f"{seen.name}|bend {n}", (bend.x1 + (bend.x2 - bend.x1) * 0.35, bend.z1 + (bend.z2 - bend.z1) * 0.35), words
        )
        if abs(bend.z2 - bend.z1) < 0.5:
            stops = Stop("top", high), Stop(f"bend {n}", bend.z1), Stop("bottom", low)
            yield Chain(f"{seen.name}|bend {n} across", "right", stops, rank=1 + n, to_edge=True)
        elif abs(bend.x2 - bend.x1) < 0.5:
            yield Chain(
                f"{seen.name}|bend {n} along",
                "above",
                (Stop("left end", 0.0, high), Stop(f"bend {n}", bend.x1, high)),
                rank=1 + n,
            )
    if part.curve is not None:
        curve = part.curve
        words = (
            f"ROLL TO R {seen.said(curve.radius)} ON THE AXIS, CHORD {seen.said(curve.chord(part.length))}, "
            f"RISE {seen.said(curve.rise(part.length))}; DIMENSIONS ALONG THE AXIS BEFORE ROLLING"
        )
        yield Note(f"{seen.name}|arc", (seen.length * 0.5, high), words)


RULE = Rule(
    "forming", "Bends and arcs", make, "Bend lines with their angles, and the arc a piece is rolled to.", ("front",)
)
