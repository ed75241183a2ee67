"""Trusses and frames: members welded to the main one are set out by their work points, along each chord and between
chords."""

from collections import defaultdict
from collections.abc import Iterator

from uncus.draw.annotation import Aligned, Annotation, Bevel, Chain, Stop
from uncus.draw.projection import axes_of
from uncus.draw.rules.rule import LEAST, Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import Fixed

_UPRIGHT = 0.5  # mm that an upright's work points may lie apart


def make(seen: Seen) -> Iterator[Annotation]:
    members = [f for f in seen.subject.fixed if f.has_axis]
    if not members:
        return
    lines = axis_lines(seen, members)
    chords = {key: v for key, v in lines.items() if v is not None}
    if len(chords) > 1:
        stops = tuple(Stop(f"{key}|axis", v) for key, v in sorted(chords.items(), key=lambda c: -c[1]))
        yield Chain(f"{seen.name}|chords", "right", stops, rank=2)
    yield from _panels(seen, members, chords)
    yield from _lengths(seen, members, chords)


def axis_lines(seen: Seen, members: list[Fixed]) -> dict[str, float | None]:
    """Heights of the axes along the piece: the main part's, and those of chords beside it; None for other members."""
    found: dict[str, float | None] = {"main": 0.0}
    for f in members:
        (u0, v0), (u1, v1) = axis(f, seen)
        found[f.id] = v0 if abs(v1 - v0) < LEAST < abs(u1 - u0) else None
    return found


def axis(f: Fixed, seen: Seen) -> tuple[tuple[float, float], tuple[float, float]]:
    """Both ends of a member's axis in the view."""
    axes = axes_of(seen.name)
    ends = (axes @ f.place.to_model((x, 0.0, 0.0)) for x in (0.0, f.part.length))
    (u0, v0, _), (u1, v1, _) = ends
    return (float(u0), float(v0)), (float(u1), float(v1))


def work_points(f: Fixed, seen: Seen, chords: dict[str, float]) -> list[tuple[str, float, float]]:
    """Where a web's axis meets the chords that its ends come nearest to: the chord's key, and the place."""
    (u0, v0), (u1, v1) = axis(f, seen)
    if f.id in chords or abs(v1 - v0) < LEAST:
        return []
    found = []
    for end in (v0, v1):
        key = min(chords, key=lambda k: abs(chords[k] - end))
        at = (chords[key] - v0) / (v1 - v0)
        found.append((key, u0 + at * (u1 - u0), chords[key]))
    return found if found[0][0] != found[1][0] else []


def _panels(seen: Seen, members: list[Fixed], chords: dict[str, float]) -> Iterator[Annotation]:
    """Panel points along each chord, with its own ends, all from the main part's left end; chords in one line are one
    chord, and what is straight over the main chord's points or ends is not said again."""
    said = {0, round(seen.length)}
    lines: dict[int, list[str]] = defaultdict(list)
    for key, v in sorted(chords.items(), key=lambda item: item[0] != "main"):
        lines[round(v)].append(key)
    for v, keys in lines.items():
        stops: dict[int, Stop] = {}
        for f in members:
            for chord, u, _ in work_points(f, seen, chords):
                if chord in keys and round(u) not in said:
                    stops.setdefault(round(u), Stop(f"{f.id}|work point", u))
            if f.id in keys:
                (u0, _), (u1, _) = axis(f, seen)
                for name, u in (("start", min(u0, u1)), ("end", max(u0, u1))):
                    if round(u) not in said:
                        stops.setdefault(round(u), Stop(f"{f.id}|{name}", u))
        said |= set(stops) if "main" in keys else set()
        if stops:
            side = "above" if v > LEAST else "below"
            ordered = tuple(stops[n] for n in sorted(stops))
            yield Chain(f"{seen.name}|panel points {keys[0]}", side, (Stop("left end", 0.0), *ordered), "running")


def _lengths(seen: Seen, members: list[Fixed], chords: dict[str, float]) -> Iterator[Annotation]:
    """Of each mark of webs one: from work point to work point, and its bevel."""
    for f in members:
        found = work_points(f, seen, chords)
        if len(found) < 2:
            continue
        (_, u0, v0), (_, u1, v1) = sorted(found, key=lambda p: p[2])
        if abs(u1 - u0) < _UPRIGHT or not seen.first("web", f.mark, round(abs(u1 - u0))):
            continue
        yield Aligned(f"{seen.name}|web {f.mark}", (u0, v0), (u1, v1), 4.0, "WP-WP ")
        slope = (u1 - u0) / (v1 - v0)
        yield Bevel(f"{seen.name}|bevel of {f.mark}", (u0, seen.high), slope, slope > 0)


RULE = Rule("webs", "Webs and chords", make,
    "Work points of welded members along and between chords, and their bevels.", ("front",))  # fmt: skip
