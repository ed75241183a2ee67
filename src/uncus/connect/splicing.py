"""Splices of two I sections in one line: plates over their flanges and at both sides of their webs, with fills."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, Section
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Body, Joint, angle_between, down_to
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import EndCut
from uncus.steel.joint import Contribution

_FLUSH = 1.6  # mm that bolts draw together without a fill


class Line(NamedTuple):
    """Two members end to end: a frame at the splice with x into the member, z up its section; the support's end."""

    frame: Placement
    member: Body
    support: Body
    end: End
    other: End

    def middle(self, body: Body) -> tuple[float, float]:
        """(y, z) of a body's axis in the splice's frame."""
        y, z = self.frame.to_local(body.end(self.end if body is self.member else self.other))[1:].tolist()
        return y, z


def flat_from(s: Section) -> float:
    """How far in from a flange's face a web is flat."""
    return max(s.k, s.tf + s.r * 1.05)


def in_line(joint: Joint, reach: float = 150.0) -> Line | str:
    """The two members of a splice; or why they are not in one line."""
    body, support = joint.member, joint.support
    if support is None:
        return f"The {body.words} has lost what it was spliced to; connect this end again."
    here, away = body.end(joint.record.end), body.away(joint.record.end)
    other = min(End, key=lambda e: float(np.linalg.norm(support.end(e) - here)))
    if angle_between(-away, support.away(other)) > 0.5:
        return f"The {body.words} and the {support.words} do not lie in one line; a splice needs them to."
    gone = support.end(other) - here
    if abs(float(gone @ away)) > 25.0 or float(np.linalg.norm(gone)) > reach:
        return f"The {body.words} and the {support.words} do not meet end to end; move one up to the other."
    frame = Placement(here, np.column_stack([away, np.cross(body.frame.z, away), body.frame.z]))
    return Line(frame, body, support, joint.record.end, other)


def cut_back(fit: Fitup, line: Line, gap: float) -> None:
    """Both ends cut square, half a gap from the splice."""
    for body, end in ((line.member, line.end), (line.support, line.other)):
        x = float(body.frame.to_local(line.frame.origin)[0])
        fit.cut(body.id, end, EndCut(x - gap / 2 if end is End.RIGHT else x + gap / 2))


class Plating(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What any splice by plates is made with."""

    flange: Annotated[float | None, About("Flange plates' thickness", low=5, high=100)] = None
    flange_rows: Annotated[
        int, About("Bolt rows in a flange", unit="count", low=1, high=20, help="At each side of the splice.")
    ] = 3
    web: Annotated[float | None, About("Web plates' thickness", low=5, high=60)] = None
    web_rows: Annotated[int | None, About("Bolt rows in the web", unit="count", low=2, high=30)] = None
    web_lines: Annotated[
        int,
        About("Bolt lines in the web", unit="count", low=0, high=4, help="At each side; none leaves the web plain."),
    ] = 1
    bolt: p_.Bolt = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    gap: p_.Gap = None


class Spacing(NamedTuple):
    """Distances settled by the shop's rules where the kind's values leave them."""

    pitch: float
    edge: float
    gap: float


def spliced(params: type[Plating], joint: Joint) -> Contribution:
    """Plates, fills and bolts; a finding alone where the two are not in one line."""
    p: Plating = checked(params, joint.record.params)
    fit = Fitup(joint)
    line = in_line(joint)
    if isinstance(line, str):
        return fit.refused(line)
    plate_up(fit, line, p)
    return fit.done()


def plate_up(fit: Fitup, line: Line, p: Plating) -> None:
    """Flange plates, web plates and fills over a splice of two I sections turned alike."""
    a, b = line.member, line.support
    if Form.I not in (a.section.form, b.section.form) or a.section.form is not b.section.form:
        raise ValueError("it joins I sections only")
    if abs(abs(float(a.frame.z @ b.frame.z)) - 1) > 1e-4:
        raise ValueError("the two are not turned alike about their line")
    if abs(line.middle(b)[0]) > 1.0:
        raise ValueError("their webs are not in one plane")
    rules = fit.rules
    at = Spacing(p.pitch or rules.pitch, p.edge or rules.edge, rules.gap if p.gap is None else p.gap)
    cut_back(fit, line, at.gap)
    for sign, words in ((1.0, "top"), (-1.0, "bottom")):
        _flange(fit, line, p, at, sign, words)
    if p.web_lines:
        _webs(fit, line, p, at)


def _spots(at: Spacing, count: int, toward: float) -> list[float]:
    """x of bolts at one side of the splice."""
    return [toward * (at.gap / 2 + at.edge + i * at.pitch) for i in range(count)]


def _flange(fit: Fitup, line: Line, p: Plating, at: Spacing, sign: float, words: str) -> None:
    a, b = line.member, line.support
    bolt = fit.size(p.bolt)
    faces = {body.id: line.middle(body)[1] + sign * body.section.d / 2 for body in (a, b)}
    out = max(faces.values(), key=lambda z: sign * z)
    t = p.flange or fit.stocked(max(a.section.tf, b.section.tf))
    wide = down_to(min(a.section.b, b.section.b), fit.inch, 0.5, 10)
    gage = min(s.gage or s.b / 2 for s in (a.section, b.section))
    half = at.gap / 2 + 2 * at.edge + (p.flange_rows - 1) * at.pitch
    frame = line.frame.moved((0.0, 0.0, out + sign * t / 2))
    flat = Placement(frame.origin, axes_of(frame.x, -frame.y))
    id = fit.plate(f"{words} plate", flat, rectangle(-half, half, -wide / 2, wide / 2), t, b.id, "splice plate")
    for body, toward, field in ((a, 1.0, True), (b, -1.0, False)):
        plies = [id]
        fill = sign * (out - faces[body.id])
        if fill > _FLUSH / 2:
            key = f"{words} fill {'of member' if body is a else 'of support'}"
            x0, x1 = sorted((toward * at.gap / 2, toward * half))
            place = flat.moved((0.0, -float(flat.y @ frame.z) * sign * (t + fill) / 2, 0.0))
            plies.append(fit.plate(key, place, rectangle(x0, x1, -wide / 2, wide / 2), fill, b.id, "fill plate"))
        face = faces[body.id]
        points = [line.frame.to_model((x, y, face)) for x in _spots(at, p.flange_rows, toward) for y
            in (-gage / 2, gage / 2)]  # fmt: skip
        fit.bolts(f"{words} {'member' if body is a else 'support'}", bolt, points, -sign * frame.z, (*plies, body.id),
            field)  # fmt: skip


def _webs(fit: Fitup, line: Line, p: Plating, at: Spacing) -> None:
    a, b = line.member, line.support
    bolt = fit.size(p.bolt)
    za, zb = line.middle(a)[1], line.middle(b)[1]
    high = min(z + s.d / 2 - flat_from(s) for z, s in ((za, a.section), (zb, b.section))) - 3.0
    low = max(z - s.d / 2 + flat_from(s) for z, s in ((za, a.section), (zb, b.section))) + 3.0
    most = int((high - low - 2 * at.edge) // at.pitch) + 1
    rows = p.web_rows or most
    if rows < 1 or rows > most:
        fit.find(f"The webs at the splice of the {a.words} take {max(most, 0)} rows of bolts, not {rows}.")
        return
    middle = (high + low) / 2
    top = middle + (rows - 1) * at.pitch / 2
    zs = [top - i * at.pitch for i in range(rows)]
    half = at.gap / 2 + 2 * at.edge + (p.web_lines - 1) * at.pitch
    web = max(a.section.tw, b.section.tw)
    t = p.web or fit.stocked(max(6.0, 0.6 * web))
    ids = []
    for side, words in ((-1.0, "near"), (1.0, "far")):
        place = line.frame.moved((0.0, side * (web + t) / 2, 0.0))
        shape = rectangle(-half, half, zs[-1] - at.edge, zs[0] + at.edge)
        ids.append(fit.plate(f"web {words}", place, shape, t, b.id, "web splice plate"))
    for body, toward, field in ((a, 1.0, True), (b, -1.0, False)):
        plies = [ids[0]]
        fill = (web - body.section.tw) / 2
        if fill > _FLUSH:
            for side, words in ((-1.0, "near"), (1.0, "far")):
                x0, x1 = sorted((toward * at.gap / 2, toward * half))
                place = line.frame.moved((0.0, side * (body.section.tw + fill) / 2, 0.0))
                key = f"web fill {words} {'of member' if body is a else 'of support'}"
                shape = rectangle(x0, x1, zs[-1] - at.edge, zs[0] + at.edge)
                plies.append(fit.plate(key, place, shape, fill, b.id, "fill plate"))
        points = [line.frame.to_model((x, 0.0, z)) for x in _spots(at, p.web_lines, toward) for z in zs]
        plies = [ids[0], *plies[1:2], body.id, *plies[2:], ids[1]]
        fit.bolts(f"web {'member' if body is a else 'support'}", bolt, points, line.frame.y, plies, field)
