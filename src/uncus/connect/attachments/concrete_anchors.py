"""Anchors in concrete: studs in rows, or straps, on the back of a plate that is set in a wall."""

from __future__ import annotations

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.catalog.bolts import stud_diameter
from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.attachments.studs import SIZES
from uncus.connect.fitup import Fitup, rectangle
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.forming import Bend, zone
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point

_STUDS, _STRAPS = ANCHORS = ("studs", "straps")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    anchors: Annotated[str, About("Anchors", unit="choice", choices=ANCHORS,
        help="Headed studs, or flat bars welded on edge to the back.")] = _STUDS  # fmt: skip
    side: Annotated[str, About("On its side", unit="choice", choices=("far", "near"),
        help="The far side of a plate drawn as one in a wall is in the concrete.")] = "far"  # fmt: skip
    rows: Annotated[int, About("Rows", unit="count", low=1, high=20, help="One above the other.")] = 2
    columns: Annotated[int, About("In a row", unit="count", low=1, high=20)] = 2
    pitch: Annotated[float | None, About("Between rows", low=30, high=2000,
        help="Left open: as far apart as the edges let.")] = None  # fmt: skip
    gage: Annotated[float | None, About("In the row apart", low=30, high=2000,
        help="Left open: as far apart as the edges let.")] = None  # fmt: skip
    edge: Annotated[float, About("To the plate's edges", low=10, high=1000, help="At least.")] = 50.8
    size: Annotated[str, About("Stud", unit="choice", choices=SIZES)] = "3/4"
    long: Annotated[float, About("Length", low=40, high=1500, help="Out from the plate, as made.")] = 152.4
    wide: Annotated[float, About("Strap's width", low=15, high=300)] = 38.1
    thickness: Annotated[float, About("Strap's thickness", low=3, high=40)] = 6.35
    hook: Annotated[float, About("Strap's hook", low=0, high=600,
        help="Turned up square at its end; nothing for a straight one.")] = 50.8  # fmt: skip
    weld: p_.Weld = None


def build(fitting: Fitting) -> Contribution:
    """The anchors in their grid; findings where they do not fit the plate or stand too close."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    s = fitting.member.section
    xs = _spread(fit, fitting, p.rows, p.pitch, p.edge, fitting.length, "rows", (fitting.left + fitting.right) / 2)
    zs = _spread(fit, fitting, p.columns, p.gage, p.edge, s.d, "anchors in a row", 0.0)
    if xs is None or zs is None:
        return fit.done()
    out = 1.0 if p.side == "far" else -1.0
    if p.anchors == _STUDS:
        _studs(fit, fitting, p, out, xs, zs)
    else:
        _straps(fit, fitting, p, out, xs, zs)
    return fit.done()


def _spread(
    fit: Fitup, fitting: Fitting, n: int, apart: float | None, edge: float, room: float, what: str, middle: float
) -> np.ndarray | None:
    """Places about a middle; None, told, where they do not keep the edge distance."""
    step = apart or ((room - 2 * edge) / (n - 1) if n > 1 else 0.0)
    if step * (n - 1) + 2 * edge > room + 0.5 or step < 0:
        fit.find(
            f"The {what} of the {fitting.member.words} do not keep the edge distance; give fewer, closer ones, or a "
            f"larger plate.")  # fmt: skip
        return None
    found: np.ndarray = middle + step * (np.arange(n) - (n - 1) / 2)
    return found


def _studs(fit: Fitup, fitting: Fitting, p: Params, out: float, xs: np.ndarray, zs: np.ndarray) -> None:
    body, t, d = fitting.member, fitting.member.section.tw, stud_diameter(p.size)
    least = min([*np.diff(xs).tolist(), *np.diff(zs).tolist()], default=4 * d)
    if least < 4 * d - 0.1:
        fit.look(f"Studs of {p.size} stand closer than four diameters on the {body.words} (ACI 318 17.9.2).")
    if t < d / 2 - 0.05:
        fit.look(
            f"The {body.words} is thinner than half a stud of {p.size} (ACI 318 17.1.3, AWS D1.1 7.2.7: a third at "
            f"least).")  # fmt: skip
    heads = tuple(point(body.frame.to_model((x, out * (t / 2 + p.long), z))) for x in xs for z in zs)
    fit.fasteners(Fasteners("studs", FastenerKind.STUD, p.size, "A108", p.long, p.long, heads,
        direction(-out * body.frame.y), (body.id,), field=False))  # fmt: skip


def _straps(fit: Fitup, fitting: Fitting, p: Params, out: float, xs: np.ndarray, zs: np.ndarray) -> None:
    """Flat bars that stand off the back, their width level, their ends turned up."""
    body, t, frame = fitting.member, fitting.member.section.tw, fitting.member.frame
    radius = usual_radius(fit.rules.plate_grade, p.thickness)
    straight = p.long - (radius + p.thickness if p.hook else 0.0)
    if straight < p.thickness or (p.hook and p.hook < radius + 2 * p.thickness):
        fit.find(f"The straps of the {body.words} are shorter than their bend; make them longer or thinner.")
        return
    turned = zone(Bend(0.0, 0.0, 0.0, 1.0, 90.0, radius), p.thickness)
    flat = straight + turned + p.hook - radius - p.thickness if p.hook else p.long
    half = p.wide / 2
    # x out of the plate, z level along it; what bends up turns towards -y, and so y is down
    axes = np.column_stack([out * frame.y, -frame.x, np.cross(out * frame.y, -frame.x)])
    for i, x in enumerate(xs):
        for j, z in enumerate(zs):
            place = Placement(frame.to_model((x, out * t / 2, z)), axes)
            bends = [Bend(straight + turned / 2, half, straight + turned / 2, -half, 90.0, radius)] if p.hook else []
            key = f"strap {i + 1} {j + 1}"
            id = fit.plate(key, place, rectangle(0.0, flat, -half, half), p.thickness, body.id, "strap anchor",
                bends=bends)  # fmt: skip
            ends = [place.to_model((0.0, 0.0, side * half)) for side in (-1, 1)]
            fit.weld(f"{key} weld", p.weld or fit.leg(p.thickness), ends, (body.id, id))


KIND = AttachmentKind(
    "concrete anchors",
    "Anchors in concrete",
    Params,
    build,
    lambda body: body.section.form is Form.FLAT and body.record.double is None,
    "Studs in rows or straps on the back of a plate that is set in a wall.",
)
