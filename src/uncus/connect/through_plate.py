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
from uncus.connect.strength import missing, shear
from uncus.frame.placement import Vec
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
    depth = tube.section.d if abs(float(m.surface.normal @ tube.frame.z)) > 0.5 else tube.section.b
    faces = (first.y - first.thickness / 2, first.y + first.thickness / 2)
    out, far = max(m.trace(y) for y in faces), min(m.trace(y, -depth) for y in faces)
    if _past_corner(m, tube, first.y, depth):
        return fit.refused(
            f"The plate of the {beam.words} would leave the {tube.words} by its corner or its side; choose a shear "
            f"tab.")  # fmt: skip
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
    shape = [
        (back[0], back[1]),
        (far, back[1]),
        (far, low),
        (out, low),
        (out, near[1]),
        (near[0], near[1]),
        (near[0], near[2]),
        (out, near[2]),
        (out, high),
        (far, high),
        (far, back[2]),
        (back[0], back[2]),
    ]
    shape = [p for n, p in enumerate(shape) if p != shape[n - 1]]
    t = first.thickness
    id = fit.plate("plate", m.frame(0.0, 0.0, first.y), shape, t, tube.id, "through plate")
    for meet, s, mark in groups:
        points = [meet.model(e, q, s.y - s.side * t / 2) for e, q in s.bolts]
        holes = {id: p_.HoleKind(p.hole or fit.rules.tab_hole)}
        fit.bolts(f"bolts{mark}", fit.size(p.bolt), points, -s.side * meet.body.frame.y, (id, meet.body.id), True,
            holes, meet.away)  # fmt: skip
    _slots(fit, m, tube, first.y, t, (low, high), (out, far), id, p.weld or first.weld)
    return fit.done()


def _end(fit: Fitup, joint: Joint, m: Meeting, p: Params, side: str | None) -> shear_tab.Setting | str:
    """One beam's end prepared, and where its bolts stand."""
    if not m.body.section.flanged:
        return f"A through plate bolts to a web with flanges, and the {m.body.words} has none."
    cleared = clearing(fit, m, fit.rules.gap if p.gap is None else p.gap)
    if isinstance(cleared, str):
        return cleared
    asked = shear_tab.Params(rows=p.rows, bolt=p.bolt, thickness=p.thickness, side=side, down=p.down, pitch=p.pitch,
        edge=p.edge)  # fmt: skip
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


_PLAY = 0.8  # mm at either side of a plate in its slot
_OPEN = 0.8  # mm more than a slot's own play that a fillet still bridges (AWS D1.1 5.21.1: a sixteenth in all)
_GROWN = 4.8  # mm of gap up to which a fillet may be grown by it (AWS D1.1 5.21.1: three sixteenths)


def _past_corner(m: Meeting, tube: Body, y: float, depth: float) -> bool:
    """Whether a plate that passes through a square tube aslant misses the flat of its far wall."""
    if tube.section.form is not Form.BOX:
        return False
    aside = [float((m.model(m.trace(y, off), 0.0, y) - m.surface.at) @ m.surface.across) for off in (0.0, -depth)]
    return max(aside) > m.surface.high - 2 * _GROWN or min(aside) < m.surface.low + 2 * _GROWN


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
    depth = tube.section.d if abs(float(m.surface.normal @ tube.frame.z)) > 0.5 else tube.section.b
    for e, words, turn, off in ((walls[0], "near", 1.0, 0.0), (walls[1], "far", -1.0, -depth)):
        face = _wall(tube, turn * m.surface.normal)
        if tube.section.form is Form.BOX:
            outer = [(m.trace(at, off), at) for at in (y - t / 2, y + t / 2)]
            inner = [(m.trace(at, off - turn * tube.section.tw), at) for at in (y - t / 2, y + t / 2)]
            gaps = _box_slot(fit, m, tube, face, (outer, inner), span)
        else:
            outer = [(e - turn * _sag(m, tube, e, at), at) for at in (y - t / 2, y + t / 2)]
            gaps = (_round_slot(fit, m, tube, face, e, y, t, span),) * 2
        if max(gaps) - _PLAY > (_GROWN if tube.section.form is Form.BOX else _OPEN):
            fit.find(
                f"The plate goes through the {tube.words} aslant of its slots, which leaves too wide a gap at its "
                f"welds; roll "
                "the tube so that a side of it looks along the beam, or choose a shear tab."
            )
        for (at_e, at), gap, side in zip(outer, gaps, ("near", "far"), strict=True):
            beside = at + math.copysign(gap / 2, at - y)
            path = [m.model(at_e + m.trace(beside) - m.trace(at), q, beside) for q in span]
            root = gap if gap > 2 * _PLAY else 0.0
            fit.weld(f"{words} wall {side}", leg, path, (tube.id, id), 1, root=root)


def _wall(tube: Body, outward: Vec) -> Face:
    normal = tube.frame.axes.T @ outward
    if abs(normal[1]) > 0.5:
        return Face.BACK if normal[1] > 0 else Face.WEB
    return Face.TOP if normal[2] > 0 else Face.BOTTOM


def _box_slot(fit: Fitup, m: Meeting, tube: Body, face: Face, sides: tuple[list[tuple[float, float]], ...],
    span: tuple[float, float]) -> tuple[float, float]:  # fmt: skip
    """The slot in a flat wall that a plate's faces, each (e, y) on the wall's outer side and on its inner one, pass
    through; how far its edges stand off them outside. It is cut square to the wall: a plate aslant needs it wider by
    what the wall's thickness takes."""
    w = 2 if face.upright else 1
    outer, inner = ([tube.frame.to_local(m.model(e, 0.0, y)) for e, y in side] for side in sides)
    at = sorted(float(spot[w]) for spot in (*outer, *inner))
    low, high = at[0] - _PLAY, at[-1] + _PLAY
    along = [float(tube.frame.to_local(m.model(sides[0][0][0], q, sides[0][0][1]))[0]) for q
        in (span[0] - 2 * _PLAY, span[1] + 2 * _PLAY)]  # fmt: skip
    x0, x1 = sorted(along)
    fit.feature(tube.id, Notch(face, ((x0, low), (x1, low), (x1, high), (x0, high))))
    ways = [float(spot[w]) for spot in outer]
    gaps = (ways[0] - low, high - ways[1]) if ways[0] < ways[1] else (high - ways[0], ways[1] - low)
    return gaps


def _round_slot(fit: Fitup, m: Meeting, tube: Body, face: Face, e: float, y: float, t: float,
    span: tuple[float, float]) -> float:  # fmt: skip
    """The slot in a round wall, cut square to its side of the tube; the gap beside the plate."""
    normal = tube.frame.axes.T @ m.surface.normal
    square = abs(float(normal[1 if face.upright else 2]))
    depth = tube.section.tw + max(_sag(m, tube, e, y - t / 2), _sag(m, tube, e, y + t / 2))
    aslant = depth * math.sqrt(max(0.0, 1 - square**2)) / max(square, 0.1)
    wide, spare = t / 2 + _PLAY + aslant, 2 * _PLAY
    corners = []
    for q, across in ((span[0] - spare, -wide), (span[1] + spare, -wide), (span[1] + spare, wide),
        (span[0] - spare, wide)):  # fmt: skip
        local = tube.frame.to_local(m.model(e, q, y + across))
        corners.append((float(local[0]), float(local[2 if face.upright else 1])))
    fit.feature(tube.id, Notch(face, tuple(corners)))
    return _PLAY + aslant


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
    asks=0,
    serves="others",
    checks=shear.through_plate,
    missing=(
        missing.NOTCH,
        missing.OTHER_BEAM,
    ),
)
