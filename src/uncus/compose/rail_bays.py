"""What is between the posts of a rail: rails, bars, panels, toe boards, and what opens or is taken out."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Parts
from uncus.compose.rail_path import BARS, GATE, MIDDLE, PANELS, SLOPING, Leg, Params, Top, over_at
from uncus.frame.outlines import rectangle, straight
from uncus.frame.placement import Placement
from uncus.job.blanks import Blank, Corner, HoleRow, Ring
from uncus.job.records import End, Role

ON_SITE = "on site"
_AT_HINGE = 150.0  # mm from the rails of a leaf to its hinges
_NARROW = 200.0  # mm between the stiles of a leaf at least


def add_bays(
    parts: Parts,
    leg: Leg,
    p: Params,
    key: str,
    levels: list[float],
    posts: list[tuple[float, str]],
    high: float,
    opened: Mapping[int, str],
    tops: list[Top],
) -> None:
    """What is between each two posts of a leg, and how the bays that open do."""
    rail = p.middle if p.between == MIDDLE else p.top
    for n, ((x0, one), (x1, other)) in enumerate(zip(posts, posts[1:], strict=False), 1):
        if n in opened:
            _leaf(parts, leg, p, f"{key} bay {n}", ((x0, one), (x1, other)), (levels, high), opened[n])
            continue
        parted = any(top.on and x0 < top.b < x1 for top in tops)  # two lengths, put together on site
        site = {"where": ON_SITE} if parted else {}
        for k, level in enumerate(levels, 1):
            name = f"{key} bay {n} rail {k}"
            parts.member(name, Role.RAIL, rail, leg.at(x0, level), leg.at(x1, level))
            parts.join(f"{name} left", "welded end", name, End.LEFT, one)
            parts.join(f"{name} right", "welded end", name, End.RIGHT, other, **site)
        if p.between == BARS:
            _bars(parts, leg, p, f"{key} bay {n}", (x0, x1), (levels[0], high), (f"{key} bay {n} rail 1", tops))
        elif p.between == PANELS:
            _panel(parts, leg, p, f"{key} bay {n}", (x0, x1), high, (one, other), parted)
        if p.toe:
            _toe(parts, leg, p, f"{key} bay {n}", (x0, x1), (one, other), parted)


def _bars(
    parts: Parts,
    leg: Leg,
    p: Params,
    key: str,
    span: tuple[float, float],
    ends: tuple[float, float],
    to: tuple[str, list[Top]],
) -> None:
    """Upright bars between two rails, alike and no farther apart than is asked."""
    s, post, rail = section(p.bar), section(p.posts), section(p.top)
    if s.form is not Form.FLAT:
        raise ValueError(f"its bars are flats, such as PL1/4X1, which {p.bar} is not")
    clear = span[1] - span[0] - post.d
    n = max(0, math.ceil((clear - p.gap) / (p.gap + s.d)))
    half = rail.d / 2 / math.cos(leg.slope)
    for k in range(n):
        x = span[0] + post.d / 2 + (clear - n * s.d) / (n + 1) * (k + 1) + s.d * (k + 0.5)
        name, over = f"{key} bar {k + 1}", over_at(to[1], x)
        site = {"where": ON_SITE} if any(top.on and span[0] < top.b < x for top in to[1]) else {}
        if abs(leg.slope) > SLOPING:  # cut to the rails' slope
            parts.member(name, Role.RAIL, p.bar, leg.at(x, ends[0]), leg.at(x, ends[1]), leg.on)
            parts.join(f"{name} foot", "welded end", name, End.LEFT, to[0])
            parts.join(f"{name} head", "welded end", name, End.RIGHT, over, **site)
            continue
        parts.member(name, Role.RAIL, p.bar, leg.at(x, ends[0] + half), leg.at(x, ends[1] - half), leg.on)
        parts.attach(f"{name} foot", "welded on", name, to[0])
        parts.attach(f"{name} head", "welded on", name, over, **site)


def _panel(
    parts: Parts,
    leg: Leg,
    p: Params,
    key: str,
    span: tuple[float, float],
    high: float,
    posts: tuple[str, str],
    parted: bool = False,
) -> None:
    """A plate between two posts, under the top rail."""
    post, rail = section(p.posts), section(p.top)
    x0, x1 = span[0] + post.d / 2, span[1] - post.d / 2
    rise = math.tan(leg.slope) * (x1 - x0)
    top = high - rail.d / 2 / math.cos(leg.slope) - 25.0
    axes = np.column_stack([leg.on, np.cross([0.0, 0.0, 1.0], leg.on), [0.0, 0.0, 1.0]])
    ring = straight([(0.0, p.low), (x1 - x0, p.low + rise), (x1 - x0, top + rise), (0.0, top)])
    parts.plate(f"{key} panel", Role.PANEL, Placement(leg.at(x0), axes), Blank(ring), p.panel)
    for end, post_key in zip(("left", "right"), posts, strict=True):
        site = {"where": ON_SITE} if parted and end == "right" else {}
        parts.attach(f"{key} panel {end}", "welded on", f"{key} panel", post_key, **site)


def _toe(
    parts: Parts, leg: Leg, p: Params, key: str, span: tuple[float, float], posts: tuple[str, str], parted: bool = False
) -> None:
    """A board along the foot of a bay, from post to post."""
    post = section(p.posts)
    x0, x1 = span[0] + post.d / 2, span[1] - post.d / 2
    rise = math.tan(leg.slope) * (x1 - x0)
    axes = np.column_stack([leg.on, np.cross([0.0, 0.0, 1.0], leg.on), [0.0, 0.0, 1.0]])
    low = 6.0
    ring = straight([(0.0, low), (x1 - x0, low + rise), (x1 - x0, low + p.toe + rise), (0.0, low + p.toe)])
    parts.plate(f"{key} toe board", Role.PLATE, Placement(leg.at(x0), axes), Blank(ring), p.toe_thickness)
    for end, post_key in zip(("left", "right"), posts, strict=True):
        site = {"where": ON_SITE} if parted and end == "right" else {}
        parts.attach(f"{key} toe board {end}", "welded on", f"{key} toe board", post_key, **site)


def _leaf(
    parts: Parts,
    leg: Leg,
    p: Params,
    key: str,
    posts: tuple[tuple[float, str], tuple[float, str]],
    heights: tuple[list[float], float],
    how: str,
) -> None:
    """A frame between two posts, on hinges and against a stop, or bolted to both."""
    (levels, high), half, r, gap = heights, section(p.posts).d / 2, section(p.top).d / 2, 3 * p.hole
    a, b = posts[0][0] + half + gap + r, posts[1][0] - half - gap - r
    if b - a < _NARROW:
        raise ValueError("a bay of it is too narrow to open; set its posts farther apart")
    low = levels[-1] if levels else p.low + r
    sides = {}
    for side, x in (("left", a), ("right", b)):
        sides[side] = parts.member(f"{key} {side} stile", Role.RAIL, p.top, leg.at(x, low), leg.at(x, high), leg.on)
    rails = {}
    for name, level in (("top", high), ("low", low)):
        rails[name] = parts.member(f"{key} leaf {name}", Role.RAIL, p.top, leg.at(a, level), leg.at(b, level))
        for end, side in ((End.LEFT, "left"), (End.RIGHT, "right")):
            parts.join(f"{key} leaf {name} {side}", "mitred ends", rails[name], end, sides[side])
    span = (sides["left"], sides["right"])
    for k, level in enumerate(levels[:-1] if p.between == MIDDLE else (), 1):
        rail = parts.member(f"{key} leaf rail {k}", Role.RAIL, p.middle, leg.at(a, level), leg.at(b, level))
        for end, side in ((End.LEFT, span[0]), (End.RIGHT, span[1])):
            parts.join(f"{rail} {end}", "welded end", rail, end, side)
    if p.between == BARS:
        _bars(parts, leg, p, f"{key} leaf", (a, b), (low, high), (rails["low"], [Top(a, b, rails["top"])]))
    elif p.between == PANELS:
        _panel(parts, leg, p, f"{key} leaf", (a, b), high, span)
    hinge = min(_AT_HINGE, (high - low) / 4)
    for n, z in enumerate((low + hinge, high - hinge), 1):
        _lugs(parts, leg, p, f"{key} left {n}", (posts[0][0], 1.0, z), (posts[0][1], sides["left"]))
        if how != GATE:
            _lugs(parts, leg, p, f"{key} right {n}", (posts[1][0], -1.0, z), (posts[1][1], sides["right"]))
    if how == GATE:
        _stop(parts, leg, p, f"{key} stop", (posts[1][0], (low + high) / 2), posts[1][1])


def _lugs(parts: Parts, leg: Leg, p: Params, key: str, at: tuple[float, float, float], on: tuple[str, str]) -> None:
    """A lug on a post and one over it on the leaf, with the bolt that it turns about or is held by; `at` the middle of
    the post, the way to the leaf, and how high."""
    x, way, z = at
    edge, half, r = 1.5 * p.hole, section(p.posts).d / 2, section(p.top).d / 2
    apart = half + 3 * p.hole + r
    for name, owner, start, to, up in (
        ("lug", on[0], x, half, 0.0),
        ("leaf lug", on[1], x + way * apart, r, p.plate),
    ):
        shape = section(p.posts if name == "lug" else p.top).form
        hole = HoleRow(to + edge, 0.0, p.hole)
        blank = Blank(_lug(to, edge, shape is Form.TUBE), (), (hole,))
        frame = _flat(leg, start, z + up, way if name == "lug" else -way)
        parts.plate(f"{key} {name}", Role.PLATE, frame, blank, p.plate)
        parts.attach(f"{key} {name} weld", "welded on", f"{key} {name}", owner)
    parts.attach(f"{key} pin", "bolted on", f"{key} lug", f"{key} leaf lug")


def _lug(to: float, edge: float, round_: bool) -> Ring:
    """A plate from the side of a post, or a stile, whose middle is at 0: coped to it where that is round."""
    wide, long = min(edge, 0.8 * to), to + 2 * edge - 2.0
    if not round_:
        return rectangle((to, -wide), (long, wide))
    x, turn = math.sqrt(to * to - wide * wide), 2 * math.asin(wide / to)
    return (Corner(x, -wide), Corner(long, -wide), Corner(long, wide), Corner(x, wide, -math.tan(turn / 4)))


def _flat(leg: Leg, x: float, z: float, way: float = 1.0) -> Placement:
    """A level frame at a place along a leg: x on, or back where `way` is -1, z to the left of that."""
    down, on = np.array([0.0, 0.0, -1.0]), leg.on * way
    return Placement(leg.at(x, z), np.column_stack([on, down, np.cross(on, down)]))


def _stop(parts: Parts, leg: Leg, p: Params, key: str, at: tuple[float, float], post: str) -> None:
    """A hooked plate on the post that a gate comes to rest against, on the left of the path."""
    (x, z), edge, s = at, 1.5 * p.hole, section(p.posts)
    half, r = s.d / 2, section(p.top).d / 2
    wide = min(edge, 0.8 * half)
    near, far, reach = r + 2.0, r + 2.0 + edge, half + 2 * edge + 1.5 * r
    start = math.sqrt(half * half - wide * wide) if s.form is Form.TUBE else half
    bulge = -math.tan(math.asin(wide / half) / 2) if s.form is Form.TUBE else 0.0
    link = start + 2 * edge  # short of the leaf
    outline = (Corner(start, -far), Corner(reach, -far), Corner(reach, -near), Corner(link, -near), Corner(link, wide),
        Corner(start, wide, bulge), Corner(start, -wide))  # fmt: skip
    parts.plate(key, Role.PLATE, _flat(leg, x, z, -1.0), Blank(outline), p.plate)
    parts.attach(f"{key} weld", "welded on", key, post)
