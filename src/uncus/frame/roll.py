"""Roll worked out from what a member rests on: square to a flange, bisecting a hip or valley, toes in, leg down.

A roll is worked out when it is asked for and kept in the record as degrees, with what it came from (`roll_by`), so
that it is worked out again when its supports move (`frame.rerolling`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import StrEnum

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.frame.axes import UP, is_vertical, member_frame, work_axes
from uncus.frame.neighbours import Segments
from uncus.frame.placement import Vec, unit
from uncus.job.errors import JobError
from uncus.job.records import Member
from uncus.units import format_angle


class RollBy(StrEnum):
    PLUMB = "web vertical"
    FLANGE = "square to the supporting flange"
    BISECT = "bisecting hip or valley"


class Rolled(msgspec.Struct, frozen=True):
    """A member as it was turned, and what was used."""

    member: Member
    words: str


def towards(member: Member, z: Vec) -> float:
    """The roll in degrees (-180 to 180) that turns a member's z as near to a direction as its axis allows.

    Of z the part square to the axis counts. With y0, z0 the axes at roll 0, z turns to z0 cos(r) - y0 sin(r) (see
    `work_axes`), so r = atan2(-z.y0, z.z0). Raises JobError where z runs along the member.
    """
    plain = work_axes(np.asarray(member.start), np.asarray(member.end))
    across, up = -float(z @ plain.y), float(z @ plain.z)
    if math.hypot(across, up) < 1e-6:
        raise JobError(f"The {_words(member)} runs along that direction, so it gives no roll.")
    return _tidy(math.degrees(math.atan2(across, up)))


def _tidy(degrees: float) -> float:
    turned = (degrees + 180.0) % 360.0 - 180.0
    near = round(turned)
    return float(near) if abs(turned - near) < 1e-7 else turned


def _words(member: Member) -> str:
    return f"{member.role} {member.section}"


def square_to_flange(member: Member, supports: Sequence[Member]) -> Rolled:
    """The web square to the flange of what supports it: z along the flange's normal, up where it can be.

    With two supports that differ, halfway between them. Raises JobError where there is none with a flange.
    """
    normals: list[Vec] = []
    used: list[Member] = []
    x = unit(np.subtract(member.end, member.start))
    for support in supports:
        found = section(support.section)
        if found.form in (Form.TUBE, Form.ROUND):
            continue
        frame = member_frame(support, found)
        # the flange it lies on is the face that looks away from the support towards the member, most square to it
        choices = [frame.z] if found.flanged or found.form is Form.TEE else [frame.z, frame.y]
        n = min(choices, key=lambda c: abs(float(c @ x)))
        if abs(float(n @ x)) > math.sin(math.radians(80)):
            continue
        normals.append(n if (n @ _up(member)) >= 0 else -n)
        used.append(support)
    if not normals:
        raise JobError(f"The {_words(member)} rests on no flange that gives it a roll; type the angle instead.")
    roll = towards(member, sum((n - (n @ x) * x for n in normals), np.zeros(3)))
    names = " and ".join(sorted({_words(s) for s in used}))
    words = f"roll {format_angle(roll)}, square to the flange of {names}"
    if len(normals) == 2 and abs(towards(member, normals[0]) - towards(member, normals[1])) > 0.05:
        words = f"roll {format_angle(roll)}, halfway between the flanges of {names}"
    return Rolled(msgspec.structs.replace(member, roll=roll % 360.0), words)


def _up(member: Member) -> Vec:
    """What up means for a member's z at roll 0."""
    return work_axes(np.asarray(member.start), np.asarray(member.end)).z


def bisecting(member: Member, neighbours: Sequence[Member]) -> Rolled:
    """The web halfway between two roof planes that meet at this hip or valley.

    Each side's plane is spanned by the hip and a rafter, purlin or jack on that side; z is the sum of their upward unit
    normals. Raises JobError where the neighbours are not on both sides or give no plane.
    """
    x = unit(np.subtract(member.end, member.start))
    level = np.cross(UP, x)
    sides: dict[bool, list[Vec]] = {True: [], False: []}
    for other in neighbours:
        d = np.subtract(other.end, other.start).astype(np.float64)
        n = np.cross(x, d)
        if np.linalg.norm(n) < 1e-3 * np.linalg.norm(d):
            continue
        n = unit(n if n[2] >= 0 else -n)
        middle = (np.asarray(other.start) + np.asarray(other.end)) / 2 - np.asarray(member.start)
        sides[bool(middle @ level > 0)].append(n)
    if not sides[True] or not sides[False]:
        raise JobError(
            f"The {_words(member)} bisects nothing: pick it with a rafter, purlin or jack on each side of it."
        )
    normals = [unit(sum(found, np.zeros(3))) for found in sides.values()]
    roll = towards(member, normals[0] + normals[1])
    slopes = sorted(math.degrees(math.acos(min(1.0, float(n[2])))) for n in normals)
    words = (
        f"roll {format_angle(roll)}, halfway between roof planes at {format_angle(slopes[0])} and "
        f"{format_angle(slopes[1])}"
    )
    return Rolled(msgspec.structs.replace(member, roll=roll % 360.0), words)


def by_supports(member: Member, among: Segments, by: RollBy) -> Rolled:
    """A member's roll from what the job has at and along it. Raises JobError with what is missing."""
    if by is RollBy.PLUMB:
        return Rolled(msgspec.structs.replace(member, roll=0.0, roll_by=""), "roll 0°, web vertical")
    if is_vertical(unit(np.subtract(member.end, member.start))):
        raise JobError(f"The {_words(member)} is plumb; its roll is an angle in plan, so type it.")
    if by is RollBy.FLANGE:
        ends = [among.under(member, np.asarray(p)) for p in (member.start, member.end)]
        supports = [m for m in ends if m is not None]
        if not supports:
            raise JobError(f"Nothing stands under the ends of the {_words(member)}; type the angle instead.")
        return _kept(square_to_flange(member, supports), by)
    return _kept(bisecting(member, among.landing_on(member)), by)


def _kept(rolled: Rolled, by: RollBy) -> Rolled:
    return Rolled(msgspec.structs.replace(rolled.member, roll_by=str(by)), rolled.words)


# -- which way toes and legs point ----------------------------------------------------------------------


class Toes(StrEnum):
    IN = "in"
    OUT = "out"
    UP = "up"
    DOWN = "down"


def toes_of(member: Member) -> Vec:
    """The way a channel's or angle's toes point: +y of its section (its web or upright leg is at -y)."""
    return member_frame(member, section(member.section)).y


def toes_now(member: Member, middle: Vec) -> Toes:
    """Which way a member's toes point, nearest of in, out, up and down."""
    y = toes_of(member)
    if abs(float(y[2])) > 0.7:
        return Toes.UP if y[2] > 0 else Toes.DOWN
    inward = np.asarray(middle) - (np.asarray(member.start) + np.asarray(member.end)) / 2
    return Toes.IN if float(y[:2] @ inward[:2]) >= 0 else Toes.OUT


def turned_toes(member: Member, toes: Toes, middle: Vec, leg_up: bool | None = None) -> Rolled:
    """A channel or angle rolled by quarter or half turns so that its toes point in (to `middle`), out, up or down.

    An angle's other leg (at the bottom of the section at roll 0, turned upward with `leg_up`) stays level where the
    toes point in or out. An angle may have to be turned end for end too: then the words say so.
    Raises JobError for other sections.
    """
    found = section(member.section)
    if found.form not in (Form.CHANNEL, Form.ANGLE):
        raise JobError(f"The {_words(member)} has no toes; only channels and angles do.")
    a, b = np.asarray(member.start), np.asarray(member.end)
    plain = work_axes(a, b)
    inward = np.asarray(middle) - (a + b) / 2
    if toes in (Toes.UP, Toes.DOWN):
        way = plain.z if toes is Toes.UP else -plain.z
    else:
        way = inward - (inward @ plain.x) * plain.x - (0.0 if is_vertical(plain.x) else inward @ plain.z) * plain.z
        if np.linalg.norm(way) < 1.0:
            raise JobError(f"The {_words(member)} stands in the middle, so in and out mean nothing for it.")
        way = unit(way) if toes is Toes.IN else -unit(way)
    base = _tidy(member.roll - 90.0 * round(member.roll / 90.0))
    choices = []
    for flip in (False, True) if found.form is Form.ANGLE else (False,):
        m = msgspec.structs.replace(member, start=member.end, end=member.start) if flip else member
        for quarter in range(4):
            roll = (quarter * 90.0 + (-base if flip else base)) % 360.0
            frame = work_axes(np.asarray(m.start), np.asarray(m.end), roll)
            score = float(frame.y @ way)
            if leg_up is not None and found.form is Form.ANGLE:
                # the flat leg lies at -z of the section: up means that -z points up
                score += 0.5 * float(-frame.z @ plain.z) * (1 if leg_up else -1)
            choices.append((round(score, 6), not flip, -quarter, flip, roll))
    _, _, _, flip, roll = max(choices)
    turned = msgspec.structs.replace(member.end_for_end() if flip else member, roll=roll)
    words = f"roll {format_angle(roll)}, toes {toes}"
    if flip:
        words += "; turned end for end, so its left end changed"
    if leg_up is not None and found.form is Form.ANGLE:
        words += f", leg {'up' if leg_up else 'down'}"
    return Rolled(turned, words)
