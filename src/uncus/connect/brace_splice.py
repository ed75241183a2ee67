"""Brace splice: tubes by end plates bolted face to face, angles by a plate on (or between) their upright legs."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.buildable.plies import DRAWN_UP
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.lapping import bolt_lap, lap_of
from uncus.connect.splicing import Line, Plating, cut_back, in_line, plate_up
from uncus.connect.strength import axial, missing
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution
from uncus.steel.profile import outline


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: p_.Thickness = None
    rows: Annotated[int, About("Bolts along an angle", unit="count", low=1, high=12, help="At each side.")] = 3
    corners: Annotated[
        int, About("Bolts round a tube", unit="count", low=4, high=8, help="Four at the corners, eight with the sides.")
    ] = 4
    bolt: p_.Bolt = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    gap: p_.Gap = None
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """Plates and bolts by the form of the brace; a finding alone where its two lengths are not in one line."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    line = in_line(joint)
    if isinstance(line, str):
        return fit.refused(line)
    if line.member.section.name != line.support.section.name:
        return fit.refused(
            f"The {line.member.words} and the {line.support.words} differ; a brace splice joins like ones."
        )
    form = line.member.section.form
    if form in (Form.BOX, Form.TUBE):
        _end_plates(fit, line, p)
    elif form in (Form.ANGLE, Form.CHANNEL, Form.TEE):
        _lapped(fit, line, p)
    else:
        plate_up(fit, line, Plating(p.thickness, p.rows, bolt=p.bolt, pitch=p.pitch, edge=p.edge, gap=p.gap))
    return fit.done()


def _end_plates(fit: Fitup, line: Line, p: Params) -> None:
    s, bolt = line.member.section, fit.size(p.bolt)
    t = p.thickness or fit.stocked(bolt.d)
    weld = p.weld or max(fit.rules.tab_weld, s.tw)
    out = up_to(weld + bolt.head_flats * 0.6 + bolt.washer_od * 0.2, fit.inch)
    edge = p.edge or fit.rules.edge
    hd, hb = s.d / 2 + out, s.b / 2 + out
    spots = [(y, z) for y in (-hb, hb) for z in (-hd, hd)]
    if p.corners > 4:
        spots += [(0.0, -hd), (0.0, hd), (-hb, 0.0), (hb, 0.0)]
    cut_back(fit, line, 2 * t)
    ids = []
    for body, toward, words in ((line.member, 1.0, "member"), (line.support, -1.0, "support")):
        place = Placement(line.frame.to_model((toward * t / 2, 0.0, 0.0)), axes_of(line.frame.y, line.frame.z))
        id = fit.plate(f"plate of {words}", place, rectangle(-hb - edge, hb + edge, -hd - edge, hd + edge), t, body.id,
            "end plate")  # fmt: skip
        ring = np.array(outline(s).exterior.coords)
        path = [line.frame.to_model((toward * t, y, z)) for y, z in ring]
        fit.weld(f"weld of {words}", weld, path, (body.id, id), 1, around=True)
        ids.append(id)
    points = [line.frame.to_model((0.0, y, z)) for y, z in spots]
    fit.bolts("bolts", bolt, points, line.frame.x, ids[::-1], field=True)


def _lapped(fit: Fitup, line: Line, p: Params) -> None:
    bolt, rules = fit.size(p.bolt), fit.rules
    gap = rules.gap if p.gap is None else p.gap
    edge, pitch = p.edge or rules.edge, p.pitch or rules.pitch
    lap = lap_of(line.member)
    t = lap.gap or p.thickness or fit.stocked(line.member.section.tw)
    if lap.gap and p.thickness and abs(p.thickness - lap.gap) > 0.5:
        fit.look(f"The splice plate fills the gap of the {line.member.words}, whatever thickness is given.")
    cut_back(fit, line, gap)
    half = gap / 2 + 2 * edge + (p.rows - 1) * pitch
    body = line.member
    other = line.support.frame.to_model((0.0, lap_of(line.support).middle(t), 0.0))
    apart = abs(float((other - body.frame.to_model((0.0, lap.middle(t), 0.0))) @ body.frame.y))
    if apart > DRAWN_UP:
        fit.find(
            f"The two lengths of {body.words} lie on opposite sides of their splice plate; turn one end for end, or "
            f"roll it."
        )
    # in the member's own frame: the plate lies on the back of the leg, or in the gap of a pair
    x0 = float(body.frame.to_local(line.frame.origin)[0])
    place = Placement(body.frame.to_model((x0, lap.middle(t), 0.0)), body.frame.axes)
    id = fit.plate("plate", place, rectangle(-half, half, lap.low, lap.high), t, line.support.id, "splice plate")
    for owner, toward, field in ((line.member, 1.0, True), (line.support, -1.0, False)):
        shift = toward * float(owner.frame.x @ line.frame.x)
        at = float(owner.frame.to_local(line.frame.origin)[0])
        xs = [at + shift * (gap / 2 + edge + i * pitch) for i in range(p.rows)]
        bolt_lap(fit, "member" if owner is line.member else "support", bolt, owner, lap_of(owner), id, xs, field)


KIND = Kind(
    "brace splice",
    "Brace splice",
    Params,
    build,
    "Two lengths of a brace end to end: tubes by bolted end plates, angles by a plate on their legs.",
    serves="support",
    checks=axial.brace_splice,
    missing=(
        missing.BETWEEN_LENGTHS,
        missing.PRYING,
    ),
)
