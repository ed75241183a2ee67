"""Gages: rows of holes down from the top at either end, or across a flange about its middle."""

from collections.abc import Iterator

from uncus.catalog.sections import Form
from uncus.draw.annotation import Annotation, Chain, Stop
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen, SeenHole

_SAME = 0.05  # mm across within which holes are in one row; kept exact, since figures are rounded only in print


def make(seen: Seen) -> Iterator[Annotation]:
    if seen.name == "front":
        yield from _web(seen)
    elif seen.main.section is not None:
        yield from _flange(seen)


def rows(holes: list[SeenHole]) -> list[SeenHole]:
    """One hole of each row, from the top down."""
    out: list[SeenHole] = []
    for hole in sorted(holes, key=lambda h: -h.v):
        if not out or out[-1].v - hole.v > _SAME:
            out.append(hole)
    return out


def _web(seen: Seen) -> Iterator[Annotation]:
    low, high = seen.main.depth_range
    own = [h for h in seen.holes if h.own and low - 0.1 < h.v < high + 0.1]  # the other of a star is like this one
    for right in (False, True):
        near = [h for h in own if (h.u > seen.length / 2) == right]
        columns: dict[tuple[float, ...], list[SeenHole]] = {}
        for hole in near:
            column = rows([h for h in near if abs(h.u - hole.u) < 1.0])
            columns.setdefault(tuple(round(h.v, 2) for h in column), column)
        if columns and all(len(c) == 1 for c in columns):  # a slanting row: one chain down all of its holes
            both = rows([h for c in columns.values() for h in c])
            columns = {tuple(round(h.v, 2) for h in both): both}
        for values, column in sorted(columns.items(), reverse=True):
            if seen.main.is_plate and right and seen.said_before("gage", False, values):
                continue
            if not seen.first("gage", right, values):
                continue
            rows_of = [Stop(h.row, h.v) for h in column]
            heel = seen.main.form is Form.ANGLE  # legs are gaged from the heel, which lies at the bottom
            from_below = seen.preset.gages == "bottom" and not seen.main.is_plate
            stops = ([] if heel or from_below else [Stop("top", high)]) + rows_of
            if seen.main.is_plate or heel or from_below:
                stops.append(Stop("bottom", low))
            side = "right" if right else "left"
            key = f"{seen.name}|gage {side} {column[0].row} {len(column)}"
            yield Chain(key, side, tuple(stops), to_edge=seen.main.is_plate or heel or from_below)


def _flange(seen: Seen) -> Iterator[Annotation]:
    """Rows across a flange; a pair about the middle is said by its gage alone, any other from the middle, those of a
    channel or an angle from its heel."""
    own = [h for h in seen.holes if h.own]
    datum, heel = seen.datum
    for right in (False, True):
        near = rows([h for h in own if (h.u > seen.length / 2) == right])
        values = tuple(round(h.v, 1) for h in near)
        if (
            not near
            or seen.said_before("gage", seen.name, False, values)
            or not seen.first("gage", seen.name, right, values)
        ):
            continue
        stops = [Stop(h.row, h.v) for h in near]
        if datum == "heel":
            stops = sorted([*stops, Stop("heel", heel)], key=lambda s: -s.at)
        elif any(min(abs(h.v + o.v) for o in near) > 0.5 for h in near):  # not the same on both sides of the middle
            stops = sorted([*stops, Stop("middle", 0.0)], key=lambda s: -s.at)
        if len(stops) > 1:
            side = "right" if right else "left"
            yield Chain(f"{seen.name}|gage {side} {near[0].row}", side, tuple(stops))


RULE = Rule("gages", "Gages", make, "Rows of holes from the top at each end, and across flanges about the middle.")
