"""Posts of a rail and what they stand on."""

from __future__ import annotations

import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Parts
from uncus.compose.rail_path import FOUR, SIDE, SLOPING, SOCKET, TWO, WELDED, Leg, Params, Top, over_at, stations
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank, HoleRow
from uncus.job.records import End, Role


def add_posts(parts: Parts, leg: Leg, p: Params, key: str, high: float, tops: list[Top]) -> list[tuple[float, str]]:
    """Posts under the stretches of a leg's top rail; where along it they are, and their keys."""
    found = []
    sloping = abs(leg.slope) > SLOPING
    square = section(p.posts).form is not Form.TUBE
    for n, x in enumerate(stations(leg, p), 1):
        name, host = f"{key} post {n}", leg.host(x)
        foot = leg.at(x)
        up = leg.on if square else None
        start = foot + (0.0, 0.0, p.plate if p.foot in (FOUR, TWO) and not sloping else 0.0)
        if p.foot == SIDE:
            start = foot - (0.0, 0.0, 8 * p.hole)
        if p.foot == SOCKET:
            start = foot + (0.0, 0.0, p.plate + 2.0 if host is not None else 2.0 - p.socket_deep)
        parts.member(name, Role.POST, p.posts, start, leg.at(x, high), up)
        parts.join(f"{name} head", "welded end", name, End.RIGHT, over_at(tops, x))
        if p.foot == SOCKET:
            _socket(parts, leg, p, name, foot, host)
        elif p.foot == SIDE:
            _side_plate(parts, leg, p, name, foot, host)
        elif p.foot == WELDED or sloping:
            if host is not None:
                parts.join(f"{name} foot", "welded end", name, End.LEFT, host, where="on site")
        else:
            _foot_plate(parts, leg, p, name, foot, host)
        found.append((x, name))
    return found


def _foot_plate(parts: Parts, leg: Leg, p: Params, key: str, foot: Vec, host: str | None) -> None:
    s = section(p.socket if p.foot == SOCKET else p.posts)
    half = max(s.d, s.b) / 2 + 2.6 * p.hole
    long, wide = (half, half) if p.foot != TWO else (half, max(s.b / 2 + p.plate, 1.6 * p.hole))
    at = half - 1.3 * p.hole
    rows = 1 if p.foot == TWO else 2
    holes = HoleRow(-at, -at if rows == 2 else 0.0, p.hole, columns=2, rows=rows, dx=2 * at, dz=2 * at)
    axes = np.column_stack([leg.on, [0.0, 0.0, -1.0], np.cross(leg.on, [0.0, 0.0, -1.0])])
    place = Placement(foot + (0.0, 0.0, p.plate / 2), axes)
    parts.plate(
        f"{key} plate", Role.PLATE, place, Blank(rectangle((-long, -wide), (long, wide)), (), (holes,)), p.plate
    )
    parts.attach(f"{key} plate weld", "welded on", f"{key} plate", key)
    if host is not None:
        parts.attach(f"{key} plate bolts", "bolted on", f"{key} plate", host)
    else:
        parts.attach(f"{key} plate anchors", "anchored", f"{key} plate", deep=101.6)


def _side_plate(parts: Parts, leg: Leg, p: Params, key: str, foot: Vec, host: str | None) -> None:
    """A plate between the post and the side of what it stands beside, to the right of the path."""
    s = section(p.posts)
    right = np.array([leg.on[1], -leg.on[0], 0.0])
    axes = np.column_stack([leg.on, -right, [0.0, 0.0, 1.0]])
    place = Placement(foot + right * (s.b / 2 + p.plate / 2), axes)
    wide, at = s.d / 2 + 2.6 * p.hole, s.d / 2 + 1.3 * p.hole
    low = -8 * p.hole
    holes = HoleRow(-at, low + 1.6 * p.hole, p.hole, columns=2, rows=2, dx=2 * at, dz=4.8 * p.hole)
    blank = Blank(rectangle((-wide, low), (wide, 0.0)), (), (holes,))
    parts.plate(f"{key} plate", Role.PLATE, place, blank, p.plate)
    parts.attach(f"{key} plate weld", "welded on", key, f"{key} plate")
    if host is not None:
        parts.attach(f"{key} plate bolts", "bolted on", f"{key} plate", host)


_MOUTH = 60.0  # mm that a socket's mouth stands over a floor


def _socket(parts: Parts, leg: Leg, p: Params, key: str, foot: Vec, host: str | None) -> None:
    """The tube that a post goes into: cast into the floor, or on a plate on steel. A bolt holds a square post, grout a
    round one."""
    inner, outer = section(p.posts), section(p.socket)
    if inner.form is not outer.form or outer.b - 2 * outer.tw < inner.b + 1.0:
        raise ValueError(f"its posts of {p.posts} do not go into sockets of {p.socket}; both are square tubes or both "
            "round ones, the one with room for the other")  # fmt: skip
    if abs(leg.slope) > SLOPING:
        raise ValueError("sockets stand on the level; choose another foot for its posts on a slope")
    name = f"{key} socket"
    low, high = (p.plate, p.plate + p.socket_deep) if host is not None else (-p.socket_deep, _MOUTH)
    parts.member(name, Role.POST, p.socket, foot + (0.0, 0.0, low), foot + (0.0, 0.0, high), leg.on)
    if host is not None:
        _foot_plate(parts, leg, p, name, foot, host)
    if inner.form is Form.BOX:
        parts.attach(f"{key} bolt", "pinned in", key, name, down=_MOUTH / 2)
