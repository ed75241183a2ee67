"""A rail along a path: posts, a top rail, what is between, a toe board; round corners, up flights, along landings."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.rail_bays import ON_SITE, add_bays
from uncus.compose.rail_corners import add_corner, add_end, bend_of
from uncus.compose.rail_path import (
    BARS,
    CUT,
    MIDDLE,
    PANELS,
    PARTED,
    SIDE,
    SLOPING,
    Leg,
    Params,
    Top,
    height_of,
    legs_of,
    levels_of,
    opening,
    stations,
    tops,
)
from uncus.compose.rail_posts import add_posts
from uncus.compose.stair_rules import NAMES, RULES
from uncus.job.records import End, Role
from uncus.units import counted, format_length, length_in_words


def build(given: Given) -> dict[str, Piece]:
    parts = Parts(given)
    add_rail(parts, given.params, legs_of(given))
    return parts.made


def add_rail(parts: Parts, p: Params, legs: list[Leg]) -> None:
    """A rail's parts along the legs of a path."""
    top = section(p.top)
    high = height_of(p) - top.d / 2
    if p.between != MIDDLE and Form.TUBE in (section(p.posts).form, top.form):
        raise ValueError(f"{p.between} stand between square posts and rails; choose square tubes for both")
    levels, opened = levels_of(p, high), opening(p, legs)
    runs: dict[int, list[Top]] = {}
    for n, leg in enumerate(legs):
        own = {bay: how for (number, bay), how in opened.items() if number == leg.number}
        runs[leg.number] = _top(parts, leg, p, high, own, (legs[n - 1], legs[(n + 1) % len(legs)]))
        key = f"leg {leg.number + 1}"
        posts = add_posts(parts, leg, p, key, high, runs[leg.number])
        add_bays(parts, leg, p, key, levels, posts, high, own, runs[leg.number])
    for n, leg in enumerate(legs):
        here = runs[leg.number]
        if leg.after:
            other = legs[(n + 1) % len(legs)]
            add_corner(parts, leg, other, levels, high, p, (here[-1].key, runs[other.number][0].key))
        last, first = (p.last_end if leg is legs[-1] else CUT), (p.first_end if leg is legs[0] else CUT)
        if not leg.after:
            add_end(parts, leg, p, levels, high, End.RIGHT, last, here[-1].key)
        if not leg.before:
            add_end(parts, leg, p, levels, high, End.LEFT, first, here[0].key)


def _top(parts: Parts, leg: Leg, p: Params, high: float, opened: dict[int, str], beside: tuple[Leg, Leg]) -> list[Top]:
    """A leg's top rail, left open where bays open and as far from its corners as these are bent."""
    runs = tops(leg, p, opened)
    before = bend_of(beside[0], leg, p) if leg.before else None
    after = bend_of(leg, beside[1], p) if leg.after else None
    for n, run in enumerate(runs):
        a = before.after if before and n == 0 else run.a
        b = leg.long - after.before if after and n == len(runs) - 1 else run.b
        parts.member(run.key, Role.RAIL, p.top, leg.at(a, high), leg.at(b, high))
    for run, other in pairwise(runs):
        if run.on:
            parts.join(f"{run.key} on", "mitred ends", run.key, End.RIGHT, other.key, where=ON_SITE)
    return runs


def told(given: Given) -> Iterator[Said]:
    """What of it breaks the rule chosen, and what cannot be made as it is asked for."""
    p: Params = given.params
    rule, units, legs = RULES[p.rule], given.units, legs_of(given)

    def said(what: str, value: float, limit: float, way: str) -> Said:
        return Said(f"{what} is {length_in_words(value, units)}; {rule.name} asks for {way} "
            f"{length_in_words(limit, units)}.")  # fmt: skip

    height = height_of(p)
    if height < rule.guard - 0.5:
        yield said("The rail's height", height, rule.guard, "at least")
    if rule.middle_gap is not None:
        gap = _widest_gap(p, height)
        if gap > rule.middle_gap + 0.5:
            yield said("The widest opening", gap, rule.middle_gap, "at most")
    level = any(abs(leg.slope) <= SLOPING for leg in legs)  # the edge of a floor, not of a flight
    if level and rule.toe_board is not None and p.toe < rule.toe_board - 0.5:
        yield said("The toe board", p.toe, rule.toe_board, "at least")
    if rule.post_spacing is not None and p.spacing > rule.post_spacing + 0.5:
        yield said("The posts' spacing", p.spacing, rule.post_spacing, "at most")
    parted = sum(1 for leg in legs[:-1] if not leg.after)
    if parted and p.corners != PARTED:
        yield Said(f"{counted(parted, 'corner')} of the rail is parted: too sharp to go round, or turning and "
            "climbing at once, which only a round rail does.", False)  # fmt: skip
    if p.toe and (p.gates or p.removable):
        yield Said("What opens of it has no toe board; the floor's edge is open there.", False)
    if any(abs(leg.slope) > SLOPING and not all(id for _, id in leg.on_) and p.foot != SIDE for leg in legs):
        yield Said("Its posts on a slope stand on nothing: pick the path on the stringer they are to stand on.")


def _widest_gap(p: Params, height: float) -> float:
    """The largest opening between its rails, or its bars."""
    if p.between == BARS:
        return max(p.gap, p.low)
    if p.between == PANELS:
        return max(p.low, 25.0)
    rail = section(p.middle).d
    return (height - rail * (p.rails + 1)) / (p.rails + 1)


def reading(given: Given) -> str:
    p: Params = given.params
    legs = legs_of(given)
    posts = sum(len(stations(leg, p)) for leg in legs)
    each = (stations(leg, p) for leg in legs)
    apart = max((b - a for at in each for a, b in zip(at, at[1:], strict=False)), default=0.0)
    total = format_length(sum(leg.long for leg in legs), given.units)
    spaced = f", at most {format_length(apart, given.units)} apart" if apart else ""
    return f"{total} of rail, {format_length(height_of(p), given.units)} high, {counted(posts, 'post')}{spaced}"


KIND = Compound(
    "rail",
    "Rail",
    Params,
    ("pick where the rail begins", "pick its next point, or Enter to make it"),
    build,
    "Posts and rails along a path over beams and corners, up flights and along landings.",
    open=True,
    told=told,
    reading=reading,
    metric={"rule": NAMES[2], "top": "CFCHS48.3X4", "posts": "CFCHS48.3X4", "middle": "CFCHS48.3X4", "spacing": 1500.0,
        "from_end": 150.0, "bar": "FL25X6", "gap": 100.0, "low": 75.0, "panel": 3.0, "toe": 100.0, "toe_thickness": 6.0,
        "plate": 10.0, "hole": 14.0},
)  # fmt: skip
