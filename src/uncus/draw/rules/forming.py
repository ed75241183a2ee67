"""How a piece is bent along its lines, or rolled to an arc."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen
from uncus.steel.describe import developed_words
from uncus.steel.forming import Bend, is_developed

_LEAST = 0.5  # mm


def make(seen: Seen) -> Iterator[Annotation]:
    part = seen.subject.rolled_as
    if part is None:
        return
    low, high = seen.main.depth_range
    if is_developed(part):
        at = part.bends[len(part.bends) // 2]
        tip = (at.x1 + at.x2) / 2, (at.z1 + at.z2) / 2
        yield Note(f"{seen.name}|folds", tip, f"{developed_words(part)}; LINES AND EDGES AS IN THE PLATE'S FLAT FILE")
        return
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
        else:
            yield from _slanting(seen, n, bend)
    if part.coil is not None:
        yield Note(f"{seen.name}|climb", (seen.length * 0.5, high), "DIMENSIONS ALONG THE AXIS, BEFORE ROLLING")
    if part.curve is not None:
        curve = part.curve
        words = (
            f"ROLL TO R {seen.said(curve.radius)} ON THE AXIS, CROWN {_crown(curve.turn)}, CHORD "
            f"{seen.said(curve.chord(part.length))}, RISE {seen.said(curve.rise(part.length))}; "
            "DIMENSIONS ALONG THE AXIS BEFORE ROLLING"
        )
        yield Note(f"{seen.name}|arc", (seen.length * 0.5, high), words)


def _slanting(seen: Seen, n: int, bend: Bend) -> Iterator[Annotation]:
    """Both ends of a bend line that runs on the skew, from the left end and from the top."""
    low, high = seen.main.depth_range
    ends = sorted([(bend.x1, bend.z1), (bend.x2, bend.z2)])
    key = f"{seen.name}|bend {n}"
    along = (Stop(f"bend {n} end {i}", x, z) for i, (x, z) in enumerate(ends) if x > _LEAST)
    yield Chain(f"{key} along", "above", (Stop("left end", 0.0, high), *along), "running", rank=1 + n)
    falling = sorted(enumerate(ends), key=lambda e: -e[1][1])
    inner = tuple(Stop(f"bend {n} end {i}", z) for i, (_, z) in falling if low + _LEAST < z < high - _LEAST)
    if inner:
        yield Chain(
            f"{key} across", "right", (Stop("top", high), *inner, Stop("bottom", low)), rank=1 + n, to_edge=True
        )


def _crown(turn: float) -> str:
    """Where the middle of an arc stands out, in the words of the sheet: z is up, y the far side."""
    sides = {0: "UP", 90: "TO FAR SIDE", 180: "DOWN", 270: "TO NEAR SIDE"}
    quarter = round(turn / 90) * 90
    if abs(turn - quarter) < 0.05:
        return sides[quarter % 360]
    return f"{turn % 360:.1f} DEG FROM UP TOWARDS FAR SIDE"


RULE = Rule(
    "forming", "Bends and arcs", make, "Bend lines with their angles, and the arc a piece is rolled to.", ("front",)
)
