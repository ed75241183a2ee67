"""Preparing a member's end to stand before a side of its support: where it is cut, coped and clipped to clear it."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from shapely.geometry import Polygon, box

from uncus.catalog.sections import Form, Section
from uncus.connect.fitup import Fitup
from uncus.connect.kind import up_to
from uncus.connect.meeting import Meeting
from uncus.frame.placement import Vec
from uncus.steel.features import Cope, EndCut, Face, Notch

_MOST = 0.75  # share of a member's depth that copes may take
_FAR = 1e5


class Clearing(NamedTuple):
    """A member's end made to clear its support: the cut and `end`, its e at the web; `top` and `bottom`, depths that
    copes take; `stands_off` where it must end before the support's flanges."""

    end: float
    cut: EndCut
    copes: tuple[Cope, ...] = ()
    notches: tuple[Notch, ...] = ()
    top: float = 0.0
    bottom: float = 0.0
    stands_off: bool = False

    def apply(self, fit: Fitup, meeting: Meeting) -> None:
        fit.cut(meeting.body.id, meeting.end, self.cut)
        for cope in self.copes:
            fit.feature(meeting.body.id, cope)
        for notch in self.notches:
            fit.feature(meeting.body.id, notch)


def clearing(
    fit: Fitup, meeting: Meeting, gap: float, bevel: bool = False, flush: bool = False, past: bool = False
) -> Clearing | str:
    """How the end is made to stand `gap` off the side, or in a sentence why it cannot.

    Skewed, the web is cut square and the corners of the flanges are clipped from where their fillets end; with
    `bevel` the whole end is cut parallel to the side instead. `flush` keeps the cut exactly at the gap; else a
    square cut goes to the next sixteenth (or mm) from the work point. `past` ends it before the flanges of a support
    it meets the web of.
    """
    section = meeting.body.section
    near, far = core(section)
    obstacle = obstacle_of(meeting)
    end = meeting.trace(0.0) + gap if bevel else meeting.nearest(near, far) + gap
    stands_off = False
    copes: list[tuple[bool, float, float]] = []
    if obstacle is not None and obstacle.out > gap:
        if past or obstacle.beside:
            if past or not obstacle.lets_in(meeting, end):
                stands_off, end = True, meeting.nearest(near, far, obstacle.out) + gap
        else:
            found = _copes(fit, meeting, obstacle, end)
            if isinstance(found, str):
                return found
            copes = found
    cut = meeting.bevel_cut(end) if bevel else meeting.square_cut(end)
    if cut.square and not flush:
        work = meeting.body.length
        back = up_to(work - cut.at if meeting.right else cut.at, fit.inch, 1 / 16, 1)
        cut = EndCut(work - back if meeting.right else back)
    notches = () if bevel else _clips(meeting, cut, {low for low, _, _ in copes})
    tip = _tip(meeting, cut)
    made = []
    for low, inner, depth in copes:
        length = up_to(abs(inner - tip), fit.inch)
        made.append(Cope(meeting.right, low, length, depth, fit.rules.cope_radius))
        notches += _clip(meeting, Face.BOTTOM if low else Face.TOP, tip + meeting.sign * length)
    if sum(c.depth for c in made) > section.d * _MOST:
        support = meeting.surface.body.words
        return f"Copes would take most of the {meeting.body.words}; the {support} is too shallow for it."
    top = max((c.depth for c in made if not c.bottom), default=0.0)
    bottom = max((c.depth for c in made if c.bottom), default=0.0)
    return Clearing(end, cut, tuple(made), notches, top, bottom, stands_off)


def _tip(meeting: Meeting, cut: EndCut) -> float:
    """x of the outermost corner of the cut end, from which copes are measured."""
    s = meeting.body.section
    corners = [cut.x(y, z) for y in (-s.b / 2, s.b / 2) for z in (-s.d / 2, s.d / 2)]
    return max(corners) if meeting.right else min(corners)


# -- what stands in the way -------------------------------------------------------------------------------


class Obstacle(NamedTuple):
    """The flanges beside a web that a member goes to: how far `out` from the web their tips are; `beside` where they
    stand at the member's sides (a column's), not above and below it. `at` is the support's middle and `rise` its
    depth's direction, in the member's frame; between the fillets it is `inner` half deep, over all `outer`."""

    out: float
    beside: bool
    at: Vec
    rise: Vec
    inner: float
    outer: float

    def height(self, x: float, y: float, z: float) -> float:
        """How far above the support's middle a point of the member's frame is."""
        return float((np.array([x, y, z]) - self.at) @ self.rise)

    def lets_in(self, meeting: Meeting, end: float) -> bool:
        """Whether the whole section fits between the flanges, from its end out to their tips."""
        s = meeting.body.section
        out = max(end, meeting.nearest(-s.b / 2, s.b / 2, self.out))
        spots = [meeting.local(e, q) for e in (end, out) for q in (meeting.bottom(end), meeting.top(end))]
        heights = [self.height(x, y, z) for x, z in spots for y in (-s.b / 2, s.b / 2)]
        return max(map(abs, heights)) <= self.inner + 0.01


def caught(meeting: Meeting, gap: float) -> bool:
    """Whether an end stands between the flanges of an upright section, whose web it goes to."""
    between = obstacle_of(meeting)
    if between is None or not between.beside or between.out <= gap:
        return False
    return between.lets_in(meeting, meeting.nearest(*core(meeting.body.section)) + gap)


def obstacle_of(meeting: Meeting) -> Obstacle | None:
    support = meeting.surface.body
    s = support.section
    if meeting.surface.face is not Face.WEB or not s.flanged:
        return None
    at = meeting.body.frame.to_local(support.frame.origin)
    rise = meeting.body.frame.axes.T @ support.frame.z
    tips = s.b / 2 if float(meeting.surface.normal @ support.frame.y) > 0 else -s.b / 2
    out = abs(float((support.frame.to_model((0, tips, 0)) - meeting.surface.at) @ meeting.surface.normal))
    if float((support.frame.to_model((0, tips, 0)) - meeting.surface.at) @ meeting.surface.normal) < 0.1:
        return None  # the back of a channel
    return Obstacle(out, abs(rise[1]) > abs(rise[2]), at, rise, s.d / 2 - max(s.k, s.tf), s.d / 2)


def _copes(fit: Fitup, meeting: Meeting, obstacle: Obstacle, end: float) -> list[tuple[bool, float, float]] | str:
    """(at the bottom, x of the inner end, depth) of each cope that clears the flanges above and below."""
    body, support = meeting.body, meeting.surface.body
    d = body.section.d
    near, far = core(body.section)
    tip = meeting.nearest(near, far, obstacle.out) + fit.rules.cope_clear
    ends = [meeting.local(e, q) for e in (end, tip) for q in (meeting.bottom(e), meeting.top(e))]
    heights = [obstacle.height(x, y, z) for x, z in ends for y in (near, far)]
    if min(heights) >= obstacle.outer or max(heights) <= -obstacle.outer:
        return f"The {body.words} passes over or under the {support.words}; the two do not meet."
    web = box(min(x for x, _ in ends), -d / 2, max(x for x, _ in ends), d / 2)
    before = Polygon([meeting.local(e, q) for e, q in ((-_FAR, -_FAR), (tip, -_FAR), (tip, _FAR), (-_FAR, _FAR))])
    clear = obstacle.outer - max(support.section.k, support.section.tf + 6)
    sway = abs(float(obstacle.rise[1])) * max(abs(near), abs(far))
    found = []
    for low in (False, True):
        sign = -1.0 if low else 1.0
        band = _band(obstacle, sign, clear - sway)
        taken = web.intersection(before).intersection(band)
        if taken.is_empty or taken.area < 1.0:
            continue
        x0, z0, x1, z1 = taken.bounds
        least = body.section.tf + body.section.r  # a cut does not run along the inside of a flange or its fillet
        depth = up_to(max((z1 + d / 2) if low else (d / 2 - z0), least), fit.inch)
        found.append((low, x0 if meeting.right else x1, depth))
    return found


def _band(obstacle: Obstacle, sign: float, least: float) -> Polygon:
    """The half of the web's plane, in (x, z), that lies beyond a height of the support's."""
    n = np.array([obstacle.rise[0], obstacle.rise[2]]) * sign
    base = obstacle.height(0.0, 0.0, 0.0) * sign
    size = math.hypot(*n)
    foot = n * (least - base) / size**2
    along, out = np.array([-n[1], n[0]]) / size, n / size
    corners = [foot - _FAR * along, foot + _FAR * along, foot + _FAR * (along + out), foot + _FAR * (out - along)]
    return Polygon([tuple(p) for p in corners])


# -- flange corners ---------------------------------------------------------------------------------------


def core(section: Section) -> tuple[float, float]:
    """The range of y that a square cut keeps whole: the web and its fillets; all of a section without flanges."""
    if section.form is Form.CHANNEL:
        return -section.b / 2, min(section.b / 2, -section.b / 2 + section.tw + section.r)
    if section.form in (Form.I, Form.TEE):
        half = min(section.b / 2, section.clear)
        return -half, half
    return -section.b / 2, section.b / 2


def _clip(meeting: Meeting, face: Face, start: float) -> tuple[Notch, ...]:
    """A flange's corner taken off where the support is nearer, parallel to it, from x `start` where the fillet ends."""
    section = meeting.body.section
    lean = meeting.sign * meeting.ky
    side = math.copysign(1.0, lean)
    edge = side * section.b / 2
    at = core(section)[1 if side > 0 else 0]
    if not meeting.skewed or abs(edge - at) < 0.5:
        return ()
    past = edge + side * 5.0
    outwards = start - meeting.sign * 4 * (section.b + section.d)
    outline = ((start, at), (start + meeting.ky * (past - at), past), (outwards, past), (outwards, at))
    return (Notch(face, outline),)


def _clips(meeting: Meeting, cut: EndCut, coped: set[bool]) -> tuple[Notch, ...]:
    section = meeting.body.section
    if section.form not in (Form.I, Form.CHANNEL, Form.TEE):
        return ()
    found: tuple[Notch, ...] = ()
    tf, d = section.tf, section.d / 2
    for face, zs in ((Face.TOP, (d - tf, d)), (Face.BOTTOM, (-d, -d + tf))):
        if (face is Face.BOTTOM) in coped or (face is Face.BOTTOM and section.form is Form.TEE):
            continue
        xs = [cut.x(0.0, z) for z in zs]
        found += _clip(meeting, face, min(xs) if meeting.right else max(xs))
    return found
