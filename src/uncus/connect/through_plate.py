"""Through plate: one plate that passes through a tube and carries a beam at either side of it."""

import math

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect import shear_tab
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body, Joint, Kind
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.strength import shear
from uncus.job.forms import checked
from uncus.job.records import End
from uncus.steel.features import Face, Notch
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    rows: p_.Rows = None
    bolt: p_.Bolt = None
    thickness: p_.Thickness = None
    side: shear_tab.SIDE = None
    down: p_.Down = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    gap: p_.Gap = None
    hole: p_.Hole = None
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """The plate, slots in both walls, and each beam's end and bolts; a finding alone where it cannot pass."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam, tube = joint.member, joint.support
    if tube is None or tube.section.form not in (Form.BOX, Form.TUBE):
        return fit.refused(f"A through plate passes through a tube, which nothing at the {beam.words} is.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    first = _end(fit, joint, m, p, p.side)
    if isinstance(first, str):
        return fit.refused(first)
    web = max([beam.section.tw, *(o.section.tw for o in joint.others)])
    first = first._replace(y=first.y + first.side * (web - beam.section.tw) / 2)
    out = m.nearest(0.0, 0.0)
    depth = tube.section.d if abs(float(m.surface.normal @ tube.frame.z)) > 0.5 else tube.section.b
    far = out - depth
    qs = [q for _, q in first.bolts]
    near = (max(e for e, _ in first.bolts) + first.edge, min(qs) - first.over, max(qs) + first.over)
    back = (far - 12.7, near[1], near[2])
    groups = [(m, first, "")]
    if joint.others:
        found = _opposite(fit, joint, joint.others[0], p, m, first)
        if isinstance(found, str):
            return fit.refused(found)
        other, second = found
        spots = [m.flat(*beam.frame.to_local(other.model(e, q, second.y))[[0, 2]]) for e, q in second.bolts]
        qs = [q for _, q in spots]
        back = (min(e for e, _ in spots) - second.edge, min(qs) - second.over, max(qs) + second.over)
        groups.append((other, second, " of mate"))
    low, high = min(near[1], back[1]), max(near[2], back[2])
    shape = [(back[0], back[1]), (far, back[1]), (far, low), (out, low), (out, near[1]), (near[0], near[1]),
             (near[0], near[2]), (out, near[2]), (out, high), (far, high), (far, back[2]), (back[0], back[2])]  # fmt: skip
    shape = [p for n, p in enumerate(shape) if p != shape[n - 1]]
    t = first.thickness
    id = fit.plate("plate", m.frame(0.0, 0.0, first.y), shape, t, tube.id, "through plate")
    for meet, s, mark in groups:
        points = [meet.model(e, q, s.y - s.side * t / 2) for e, q in s.bolts]
        holes = {id: p_.HoleKind(p.hole or fit.rules.tab_hole)}
        fit.bolts(f"bolts{mark}", fit.size(p.bolt), points, -s.side * meet.body.frame.y, (id, meet.body.id), True, holes, meet.away)  # fmt: skip
    _slots(fit, m, tube, first.y, t, (low, high), (out, far), id, p.weld or first.weld)
    return fit.done()


def _end(fit: Fitup, joint: Joint, m: Meeting, p: Params, side: str | None) -> shear_tab.Setting | str:
    """One beam's end prepared, and where its bolts stand."""
    if not m.body.section.flanged:
        return f"A through plate bolts to a web with flanges, and the {m.body.words} has none."
    cleared = clearing(fit, m, fit.rules.gap if p.gap is None else p.gap)
    if isinstance(cleared, str):
        return cleared
    asked = shear_tab.Params(rows=p.rows, bolt=p.bolt, thickness=p.thickness, side=side, down=p.down, pitch=p.pitch, edge=p.edge)  # fmt: skip
    s = shear_tab.set_out(fit, m, cleared, asked)
    if not isinstance(s, str):
        cleared.apply(fit, m)
    return s


def _opposite(
    fit: Fitup, joint: Joint, other: Body, p: Params, m: Meeting, first: shear_tab.Setting
) -> tuple[Meeting, shear_tab.Setting] | str:
    """The beam at the other side of the tube, its bolts on the same plate."""
    assert joint.support is not None
    end = min(End, key=lambda e: float(np.linalg.norm(other.end(e) - m.surface.at)))
    record = msgspec.structs.replace(joint.record, member=other.id, end=end)
    mate = meeting(msgspec.structs.replace(joint, record=record, member=other))
    if isinstance(mate, str):
        return mate
    if float(mate.surface.normal @ m.surface.normal) > -0.999 or abs(float(other.frame.y @ m.body.frame.y)) < 0.9999:
        return f"The {other.words} is not straight opposite the {m.body.words}; a through plate carries opposite beams."
    y = float(other.frame.to_local(m.model(first.e0, 0.0, first.y))[1])
    off = abs(y) - (other.section.tw + first.thickness) / 2
    if not -0.01 < off < 1.6:
        return f"The webs of the {m.body.words} and the {other.words} are not in one plane for a plate beside both."
    s = _end(fit, joint, mate, p, "far" if y > 0 else "near")
    return s if isinstance(s, str) else (mate, s._replace(y=y))


_OPEN = 0.8  # mm more than a slot's own play that a fillet still bridges (AWS D1.1 5.21.1: a sixteenth in all)


def _slots(
    fit: Fitup,
    m: Meeting,
    tube: Body,
    y: float,
    t: float,
    span: tuple[float, float],
    walls: tuple[float, float],
    id: str,
    leg: float,
) -> None:
    """A slot in each wall, and the plate welded to the tube along both sides of it."""
    spare = 1.6
    for e, words, turn in ((walls[0], "near", 1.0), (walls[1], "far", -1.0)):
        normal = tube.frame.axes.T @ (turn * m.surface.normal)
        upright = abs(normal[1]) > 0.5
        face = (Face.BACK if normal[1] > 0 else Face.WEB) if upright else (Face.TOP if normal[2] > 0 else Face.BOTTOM)
        if tube.section.form is Form.BOX and upright and normal[1] < 0:
            face = Face.WEB
        # a slot is cut square to its face: where the plate goes through aslant, it is wider by what the wall's depth takes
        square = abs(float(normal[1 if upright else 2]))
        depth = tube.section.tw + max(_sag(m, tube, e, y - t / 2), _sag(m, tube, e, y + t / 2))
        aslant = depth * math.sqrt(max(0.0, 1 - square**2)) / max(square, 0.1)
        wide = t / 2 + 0.8 + aslant
        if aslant > _OPEN:
            fit.find(
                f"The plate goes through the {tube.words} aslant of its slots, which leaves too wide a gap at its welds; roll "
                "the tube so that a side of it looks along the beam."
            )
        corners = []
        for q, across in ((span[0] - spare, -wide), (span[1] + spare, -wide), (span[1] + spare, wide), (span[0] - spare, wide)):  # fmt: skip
            local = tube.frame.to_local(m.model(e, q, y + across))
            corners.append((float(local[0]), float(local[2] if upright else local[1])))
        fit.feature(tube.id, Notch(face, tuple(corners)))
        for side in (-1.0, 1.0):
            at = y + side * (t / 2 + 0.4)
            path = [m.model(e - turn * _sag(m, tube, e, at), q, at) for q in span]
            fit.weld(f"{words} wall {'near' if side < 0 else 'far'}", leg, path, (tube.id, id), 1)


def _sag(m: Meeting, tube: Body, e: float, y: float) -> float:
    """How far a round tube's wall lies behind its tangent plane beside the middle, along e; nothing of a square one."""
    if tube.section.form is not Form.TUBE:
        return 0.0
    radius = tube.section.d / 2
    aside = float((m.model(e, 0.0, y) - tube.frame.origin) @ np.cross(tube.frame.x, m.surface.normal))
    return (radius - math.sqrt(max(0.0, radius**2 - aside**2))) * m.slant


KIND = Kind(
    "through plate",
    "Through plate",
    Params,
    build,
    "A plate through a tube, shared by the beams at both sides of it or for one beam alone.",
    others=1,
    serves="others",
    checks=shear.through_plate,
)
