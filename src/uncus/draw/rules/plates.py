"""Plates that lie flat to the view and whose own holes do not show where they are, lengths of section, plates on the
skew: where they begin, along and across."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.projection import axes_of
from uncus.draw.rules.marks import FACE_ON
from uncus.draw.rules.rule import LEAST, TOUCHING, Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import Fixed

_TOGETHER = 3000.0  # mm along the piece within which one figure is found for all


def make(seen: Seen) -> Iterator[Annotation]:
    starts: dict[int, Stop] = {}
    shown = {hole.column.partition("|")[0] for hole in seen.holes}  # by whose own holes they are set out
    for f in seen.subject.fixed:
        if f.is_member or (seen.subject.is_tie and f.part.item is not None):
            continue  # set out by its work points, or screwed on until the pins are as far apart as said
        u0, u1, v0, v1 = _extent(f, seen)
        if u0 < -LEAST and u1 > LEAST and not f.on_cut(seen.main) and seen.first("past", round(u0)):
            ends = Stop(f"{f.id}|edge", u0, seen.high), Stop("left end", 0.0, seen.high)
            yield Chain(f"{seen.name}|past {f.id}", "above", ends, rank=1)
        if f.normal != FACE_ON[seen.name] or not seen.first("plate", f.id) or seen.subject.is_bolted(f):
            continue
        if LEAST < u0 < seen.length - LEAST and f.id not in shown:
            foot = foot_of(f, seen)
            starts.setdefault(round(foot), Stop(f"{f.id}|{'edge' if foot == u0 else 'x foot'}", foot))
        if not f.id.endswith("/mate") and not _stands(v0, v1, seen):
            yield from _across(f, seen, v0, v1)
    if seen.name == "front" and seen.main.section is not None:
        yield from _skewed(seen)
    if starts:
        stops = tuple(starts[u] for u in sorted(starts))
        yield Chain(f"{seen.name}|plates", "above", (Stop("left end", 0.0), *stops), "running")


def _extent(f: Fixed, seen: Seen) -> tuple[float, float, float, float]:
    corners = [axes_of(seen.name) @ p for p in f.box()]
    us, vs = sorted(float(c[0]) for c in corners), sorted(float(c[1]) for c in corners)
    return us[0], us[1], vs[0], vs[1]


def _stands(v0: float, v1: float, seen: Seen) -> bool:
    """Whether a part ends at a surface of the main one, or lies about its middle: then nobody asks where it is."""
    middle = seen.datum[0] == "middle" and abs(v0 + v1) / 2 < LEAST
    return seen.main.section is None or middle or any(_on_wall(v, seen) for v in (v0, v1))


def _on_wall(v: float, seen: Seen) -> bool:
    s = seen.main.section
    assert s is not None
    walls = (s.d / 2, s.d / 2 - s.tf) if seen.name == "front" else (s.b / 2, s.tw / 2, s.b / 2 - s.tw)
    return any(abs(abs(v) - wall) < TOUCHING for wall in walls)


def foot_of(f: Fixed, seen: Seen) -> float:
    """Where along the piece a plate begins: at the edge that stands on it, or else at its nearest corner."""
    u0, _, v0, v1 = _extent(f, seen)
    on = [v for v in (v0, v1) if seen.main.section is not None and _on_wall(v, seen)]
    if not on or not f.part.outline:
        return u0
    corners = f.place.to_model([(x, 0.0, z) for x, z in f.part.outline]) @ axes_of(seen.name).T
    return float(min((c[0] for c in corners if abs(c[1] - on[0]) < 0.5), default=u0))


def _across(f: Fixed, seen: Seen, v0: float, v1: float) -> Iterator[Annotation]:
    """How far a part that lies flat reaches from the middle, or the heel; once for all that reach as far."""
    datum, at = seen.datum
    middle = (v0 + v1) / 2 - at
    outer = v1 if middle > 0 else v0
    if not seen.first("plate across", seen.name, round(outer)):
        return
    ends = sorted((Stop(datum, at), Stop(f"{f.id}|outer", outer)), key=lambda s: -s.at)
    if abs(outer - at) > LEAST:
        yield Chain(f"{seen.name}|across {f.mark} {round(outer)}", "left", tuple(ends), rank=2)


def _skewed(seen: Seen) -> Iterator[Annotation]:
    """How far down plates on the skew begin, which no view shows face on, and level ones across the middle but not
    about it; of those at one place that begin alike one."""
    _, high = seen.main.depth_range
    said: list[tuple[int, float]] = []
    for f in seen.subject.fixed:
        near, far = f.box()
        top, at = float(far[2]), float(near[0] + far[0]) / 2
        right = at > seen.length / 2
        stands = any(_on_wall(float(z), seen) for z in (near[2], far[2]))  # on a flange: nobody asks how far down
        middle = (float(near[2]) + top) / 2
        beside = f.normal == "z" and f.part.is_plate and near[2] < -LEAST < LEAST < top and abs(middle) > LEAST
        if (f.normal and not beside) or f.is_member or stands or abs(high - top) < LEAST or seen.subject.is_bolted(f):
            continue
        if any(round(top) == level and abs(at - x) < _TOGETHER for level, x in said):
            continue
        said.append((round(top), at))
        stops = sorted((Stop("top", high), Stop(f"{f.id}|edge", top)), key=lambda s: -s.at)
        yield Chain(f"{seen.name}|down {f.id}", "right" if right else "left", tuple(stops), rank=2)


RULE = Rule(
    "plates", "Plates lying flat", make, "Where plates without holes begin, and how far they stand from the middle."
)
