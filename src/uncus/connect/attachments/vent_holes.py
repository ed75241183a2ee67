"""Vent and drain holes: at both ends of closed hollow work, so that zinc runs in and out and air and pickle with it."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.catalog.sections import Form, Section
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.fitup import Fitup
from uncus.connect.kind import up_to
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel import profile
from uncus.steel.features import Face, Hole
from uncus.steel.joint import Contribution
from uncus.units import format_length

# greatest side or diameter, mm: the least hole at each end where there is one, where there are two (ISO 14713-2, annex
# A)
_LEAST = (
    (20.0, 10.0, 10.0), (30.0, 12.0, 10.0), (40.0, 14.0, 12.0), (50.0, 16.0, 12.0), (60.0, 20.0, 12.0),
        (80.0, 20.0, 16.0),
    (100.0, 25.0, 20.0), (120.0, 30.0, 25.0), (160.0, 40.0, 25.0), (200.0, 50.0, 30.0),
)  # fmt: skip
_FACES = {"near and far": (Face.WEB, Face.BACK), "top and bottom": (Face.TOP, Face.BOTTOM)}


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    ends: Annotated[str, About("Ends", unit="choice", choices=("both", "left", "right"))] = "both"
    diameter: Annotated[
        float | None, About("Hole", low=8, high=150, help="Left open: by the section's size, as the zinc wants it.")
    ] = None
    off: Annotated[float | None, About("From the end", low=8, high=500, help="To the hole's middle.")] = None
    sides: Annotated[str, About("Through the sides", unit="choice", choices=tuple(_FACES),
        help="Of a box; a round tube has them near.")] = "near and far"  # fmt: skip
    across: Annotated[
        str, About("Across the side", unit="choice", choices=("diagonally", "in the middle"),
            help="Diagonally drains a piece however it hangs.")
    ] = "diagonally"  # fmt: skip


def least(s: Section, holes: int, inch: bool) -> float:
    """The least diameter of so many holes at each end of a hollow section, to the eighth of an inch or the mm;
    beyond the table in proportion to its last line."""
    size = max(s.d, s.b)
    one, two = next(((a, b) for side, a, b in _LEAST if size <= side + 0.5), (size / 4, 0.15 * size))
    return up_to(one if holes == 1 else two, inch, 1 / 8, 1)


def build(fitting: Fitting) -> Contribution:
    """The holes at each end asked for; findings where they do not fit the flat of a side or the length."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    faces = (Face.WEB,) if s.form is Form.TUBE else _FACES[p.sides]
    d = p.diameter or least(s, len(faces), fit.inch)
    off = p.off or up_to(d / 2 + 12.0, fit.inch, 1 / 8, 1)
    if fitting.length < 2 * off + d:
        fit.find(
            f"The {body.words} is too short for vent holes of {format_length(d, fitting.units)} at both ends; give "
            f"smaller ones.")  # fmt: skip
        return fit.done()
    reach = _reach(s, faces[0], d)
    if reach < 0:
        fit.find(
            f"Vent holes of {format_length(d, fitting.units)} do not fit the flat of the {body.words}; give smaller "
            f"ones, or the other sides.")  # fmt: skip
        return fit.done()
    if p.across == "in the middle" or s.form is Form.TUBE:
        reach = 0.0
    for end, x, way in ((End.LEFT, fitting.left + off, 1.0), (End.RIGHT, fitting.right - off, -1.0)):
        if p.ends in ("both", end):
            for face, side in zip(faces, (way, -way), strict=False):
                fit.feature(body.id, Hole(face, x, side * reach, d))
    return fit.done()


def _reach(s: Section, face: Face, d: float) -> float:
    """How far off a side's middle a hole may stand within its flat; less than nothing where it does not fit at all."""
    if s.form is Form.TUBE:
        return s.d / 4 - d / 2
    wall = next(w for w in profile.walls(s) if w.face is face)
    return (wall.hi - wall.lo - d) / 2


KIND = AttachmentKind(
    "vent holes",
    "Vent and drain holes",
    Params,
    build,
    lambda body: body.section.form in (Form.BOX, Form.TUBE),
    "Holes at the ends of closed tubes for hot-dip galvanising, sized by the section, diagonally opposite.",
    places=False,
)
