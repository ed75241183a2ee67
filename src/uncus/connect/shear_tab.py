"""Shear tab: a plate welded to the support in the shop and bolted to the beam's web on site, or the other way about.

To a column's flange or web or a beam's web, square to it in plan; the beam may slope. All of the joint lies in the
plane of the beam's web, so it is worked out there in two dimensions: n away from the support, v up along its face.
"""

import math
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bolts import BoltSize, HoleKind, bolt_length, bolt_size, bolt_sizes
from uncus.catalog.sections import Form
from uncus.connect.kind import Body, Joint, Kind, imperial, up_to
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Placement, Vec
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import Cope, EndCut, Face, Feature, Hole
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, Finding, NewPart, Severity, Weld, point
from uncus.steel.part import plate

_SQUARE = math.sin(math.radians(0.5))


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    rows: Annotated[
        int | None, About("Bolt rows", unit="count", low=2, high=20, help="As many as the web takes where left empty.")
    ] = None
    bolt: Annotated[str | None, About("Bolt", unit="choice", choices=tuple(bolt_sizes()))] = None
    thickness: Annotated[float | None, About("Tab thickness", low=4, high=60)] = None
    on: Annotated[
        str,
        About(
            "Tab goes to the site on",
            unit="choice",
            choices=("support", "beam"),
            help="On the support: welded in the shop, bolted on site. On the beam: bolted in the shop, welded on site.",
        ),
    ] = "support"
    side: Annotated[str, About("Side of the web", unit="choice", choices=("near", "far"))] = "near"
    down: Annotated[
        float | None, About("Top of steel to first bolt", low=20, high=2000, help="Measured along the support's face.")
    ] = None
    pitch: Annotated[float | None, About("Pitch", low=30, high=300)] = None
    gap: Annotated[
        float | None, About("Gap at the beam's end", low=0, high=100, help="From what the beam must clear to its end.")
    ] = None
    edge: Annotated[
        float | None, About("Edge distance", low=15, high=150, help="Bolt to the tab's edges and to the beam's end.")
    ] = None
    hole: Annotated[str, About("Holes in the tab", unit="choice", choices=tuple(HoleKind))] = HoleKind.STANDARD
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


class Face3(NamedTuple):
    """The face of the support the tab stands on: a point, its normal towards the beam, and which face it is."""

    at: Vec
    normal: Vec
    flange: bool


def _support_face(beam: Body, support: Body, right: bool) -> Face3 | str:
    """The face of the support that looks at the beam, or why there is none."""
    if support.section.form not in (Form.I, Form.CHANNEL):
        return f"The {support.words} has no flange or web a shear tab goes to; choose another kind."
    towards = -beam.frame.x if right else beam.frame.x
    end = beam.frame.to_model((beam.record.work_length if right else 0.0, 0, 0))
    local_end = support.frame.to_local(end)
    across = support.frame.axes.T @ towards
    level = math.hypot(across[1], across[2])
    if level < math.sin(math.radians(30)):
        return f"The {beam.words} runs along the {support.words}; nothing stands across to join it to."
    flange = abs(across[2]) > abs(across[1])
    if flange and not is_vertical(support.frame.x):
        return (
            f"The {beam.words} meets the flange of the {support.words} from above or below; a shear tab needs its web."
        )
    if flange and support.section.form is Form.CHANNEL:
        return f"The {beam.words} meets the flange of the channel {support.words}; a shear tab needs its web."
    if flange:
        sign = math.copysign(1.0, across[2])
        local, normal = (local_end[0], 0.0, sign * support.section.d / 2), sign * support.frame.z
    else:
        sign = math.copysign(1.0, across[1])
        web = _web_face(support, sign)
        local, normal = (local_end[0], web, 0.0), sign * support.frame.y
    if abs(float(normal @ beam.frame.y)) > _SQUARE:
        angle = math.degrees(math.asin(min(1.0, abs(float(normal @ beam.frame.y)))))
        return (
            f"The {beam.words} meets the {support.words} skewed by {angle:.1f}°; this shear tab is for square joints."
        )
    reach = max(support.section.d, support.section.b) + beam.section.d
    off = math.hypot(local_end[1], local_end[2])
    if off > reach or not -reach <= local_end[0] <= support.record.work_length + reach:
        return f"The {beam.words} does not reach the {support.words}; extend it or choose another support."
    return Face3(support.frame.to_model(local), normal, flange)


def _web_face(support: Body, sign: float) -> float:
    s = support.section
    middle = -s.b / 2 + s.tw / 2 if s.form is Form.CHANNEL else 0.0
    return middle + sign * s.tw / 2


class Setting(NamedTuple):
    """The joint worked out in the beam's web plane; lengths mm. `stand_off` is from the face to the beam's end."""

    stand_off: float
    first: float
    down: float
    rows: int
    pitch: float
    edge: float
    copes: tuple[Cope, ...]


def _obstructions(
    beam: Body, support: Body, face: Face3, gap: float, inch: bool
) -> tuple[float, tuple[Cope, ...], str | None]:
    """How far from the face the beam must end, the copes it needs, and what cannot be done."""
    s, b = support.section, beam.section
    if face.flange:
        return gap, (), None
    tips = s.b / 2 - s.tw / 2 if s.form is Form.I else max(0.0, float(face.normal @ support.frame.y) * s.b - s.tw)
    if is_vertical(support.frame.x):
        clear = s.d - 2 * max(s.k, s.tf)
        return (gap, (), None) if b.b <= clear else (tips + gap, (), None)
    if abs(float(beam.frame.x @ support.frame.z)) > math.sin(math.radians(2)):
        return (
            gap,
            (),
            f"The {beam.words} slopes onto the web of the {support.words}; this shear tab needs them level there.",
        )
    top, bottom = _heights(beam, support, face)
    s_top, s_bottom = s.d / 2, -s.d / 2
    copes, length = [], up_to(tips - gap + (12.7 if inch else 12.0), inch)
    if bottom >= s_top or top <= s_bottom:
        return gap, (), f"The {beam.words} passes over or under the {support.words}; a shear tab needs them to meet."
    radius = 12.7 if inch else 12.0
    if top > s_top - s.k and tips > gap:
        depth = up_to(top - (s_top - max(s.k, s.tf + 6)), inch)
        copes.append((False, depth))
    if bottom < s_bottom + s.k and tips > gap:
        copes.append((True, up_to(s_bottom + max(s.k, s.tf + 6) - bottom, inch)))
    if sum(depth for _, depth in copes) > b.d * 0.7:
        return gap, (), f"Copes would take most of the {beam.words}; the {support.words} is too shallow for it."
    return gap, tuple(Cope(False, low, length, depth, radius) for low, depth in copes), None


def _heights(beam: Body, support: Body, face: Face3) -> tuple[float, float]:
    """Top and bottom of the beam's end in the support's own z, its corners reckoned in."""
    x = float(beam.frame.to_local(face.at)[0])
    b = beam.section
    corners = [(x, y, z) for y in (-b.b / 2, b.b / 2) for z in (-b.d / 2, b.d / 2)]
    z = support.frame.to_local(beam.frame.to_model(corners))[:, 2]
    return float(z.max()), float(z.min())


def _set_out(joint: Joint, p: Params, face: Face3, bolt: BoltSize) -> Setting | str:
    assert joint.support is not None
    beam, rules, inch = joint.member, joint.rules, imperial(joint.rules)
    b = beam.section
    gap = rules.gap if p.gap is None else p.gap
    edge, pitch = p.edge or rules.edge, p.pitch or rules.pitch
    stand_off, copes, trouble = _obstructions(beam, joint.support, face, gap, inch)
    if trouble:
        return trouble
    copes = tuple(msgspec.structs.replace(c, radius=rules.cope_radius) for c in copes)
    top = max([b.k, *(c.depth for c in copes if not c.bottom)])
    bottom = max([b.k, *(c.depth for c in copes if c.bottom)])
    s = joint.support.section
    if not face.flange and not is_vertical(joint.support.frame.x):  # the tab also stands between the support's fillets
        over = _heights(beam, joint.support, face)[0] - s.d / 2
        top = max(top, over + s.k)
        bottom = max(bottom, b.d - over - s.d + s.k)
    room = b.d - top - bottom - 2 * edge
    most = math.floor(max(-1.0, room + 1e-6) / pitch) + 1 if room >= 0 else 0
    rows = p.rows or min(most, 12)
    if rows < 2 or (p.rows and p.rows > most):
        asked = f"{p.rows} rows of bolts do" if p.rows else "Two rows of bolts do"
        return f"{asked} not fit the web of the {beam.words}, which takes {max(most, 0)} at this pitch and edge; choose a deeper beam or fewer rows."
    usual = up_to(pitch, inch)
    down = p.down
    if down is None:
        fits = usual - edge >= top - 1e-6 and usual + (rows - 1) * pitch + edge <= b.d - bottom + 1e-6
        step = 1.5875 if inch else 1.0
        down = (
            usual
            if fits
            else max(
                up_to(top + edge, inch, 1 / 16, 1), round((top + b.d - bottom - (rows - 1) * pitch) / 2 / step) * step
            )
        )
    return Setting(stand_off, stand_off + edge, down, rows, pitch, edge, copes)


def build(joint: Joint) -> Contribution:
    """Tab, holes, copes, end cut, bolts and weld; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    beam, support, about = joint.member, joint.support, joint.record.id
    if support is None:
        return Contribution(
            findings=(Finding(about, f"The {beam.words} has lost what held it; connect this end again."),)
        )
    right = joint.record.end is End.RIGHT
    if beam.section.form not in (Form.I, Form.CHANNEL):
        return Contribution(
            findings=(Finding(about, f"A shear tab bolts to a web with flanges, and the {beam.words} has none."),)
        )
    face = _support_face(beam, support, right)
    if isinstance(face, str):
        return Contribution(findings=(Finding(about, face),))
    bolt = bolt_size(p.bolt or joint.rules.bolt)
    setting = _set_out(joint, p, face, bolt)
    if isinstance(setting, str):
        return Contribution(findings=(Finding(about, setting),))
    return _made(joint, p, face, bolt, setting, right)


def _made(joint: Joint, p: Params, face: Face3, bolt: BoltSize, s: Setting, right: bool) -> Contribution:
    beam, support, rules, about = joint.member, joint.support, joint.rules, joint.record.id
    assert support is not None
    frame, section = beam.frame, beam.section
    # the face in the beam's own x and z
    at = frame.to_local(face.at)
    n = frame.axes.T @ face.normal
    n = np.array([n[0], n[2]]) / math.hypot(n[0], n[2])
    v = np.array([-n[1], n[0]]) if n[0] > 0 else np.array([n[1], -n[0]])
    origin = np.array([at[0], at[2]])
    end = origin + s.stand_off * n
    cut = EndCut(float(end[0] + n[1] / n[0] * end[1]), 0.0, float(-n[1] / n[0]))
    if cut.square:  # the saw works in sixteenths: the gap takes up the rest
        work = beam.record.work_length
        back = up_to(work - cut.at if right else cut.at, imperial(rules), 1 / 16, 1)
        cut = EndCut(work - back if right else back)
    line = origin + s.first * n
    top = (section.d / 2 - line[1]) / v[1]
    rows = [line + v * (top - s.down - i * s.pitch) for i in range(s.rows)]
    # beam: cut, copes, holes
    diameter, _ = bolt.hole_size(HoleKind.STANDARD)
    copes = [msgspec.structs.replace(c, right=right) for c in s.copes]
    worked: list[Feature] = [*copes]
    worked += [Hole(Face.WEB, float(x), float(z), diameter) for x, z in rows]
    features = [(beam.id, feature) for feature in worked]
    # tab: x along n, z along v
    t = p.thickness or rules.tab_thickness
    side = -1.0 if p.side == "near" else 1.0
    web = -section.b / 2 + section.tw / 2 if section.form is Form.CHANNEL else 0.0
    y_tab = web + side * (section.tw + t) / 2
    x_axis = frame.axes @ np.array([n[0], 0.0, n[1]])
    z_axis = frame.axes @ np.array([v[0], 0.0, v[1]])
    axes = np.column_stack([x_axis, np.cross(z_axis, x_axis), z_axis])
    middle = (rows[0] + rows[-1]) / 2 - s.first * n
    place = Placement(frame.to_model((middle[0], y_tab, middle[1])), axes)
    half, width = (s.rows - 1) * s.pitch / 2 + s.edge, s.first + s.edge
    tab_d, slot = bolt.hole_size(HoleKind(p.hole))
    holes = [Hole(Face.WEB, s.first, half - s.edge - i * s.pitch, tab_d, slot) for i in range(s.rows)]
    tab = plate(
        [(0, -half), (width, -half), (width, half), (0, half)], t, rules.plate_grade, support.record.finish, holes
    )
    tab_id = f"{about}/tab"
    on_beam = p.on == "beam"
    heads = tuple(point(frame.to_model((x, y_tab + side * t / 2, z))) for x, z in rows)
    grip = t + section.tw
    bolts = Fasteners(
        "bolts",
        FastenerKind.BOLT,
        bolt.name,
        rules.bolt_grade,
        bolt_length(bolt, grip),
        grip,
        heads,
        point(-side * frame.y),
        (tab_id, beam.id),
        field=not on_beam,
    )
    size = p.weld or max(rules.tab_weld, up_to(t * 5 / 8, imperial(rules), 1 / 16, 1))
    path = tuple(point(place.to_model((0, 0, z))) for z in (-half, half))
    weld = Weld("weld", size, path, (support.id, tab_id), 2, field=on_beam)
    return Contribution(
        tuple(features),
        ((beam.id, joint.record.end, cut),),
        (NewPart("tab", tab, place, beam.id if on_beam else support.id, "shear tab"),),
        (bolts,),
        (weld,),
        _findings(joint, s, bolt, face, place, rows),
    )


def _findings(
    joint: Joint, s: Setting, bolt: BoltSize, face: Face3, place: Placement, rows: list[Vec]
) -> tuple[Finding, ...]:
    """What does not fit, though the joint can be drawn."""
    beam, support, about = joint.member, joint.support, joint.record.id
    assert support is not None
    found = []
    if s.edge < bolt.edge - 0.01:
        found.append(
            f"Edge distance at the {beam.words} is under the least for {bolt.name} bolts ({bolt.edge / 25.4:.3g} in); enlarge it."
        )
    if s.pitch < 8 / 3 * bolt.d - 0.01:
        found.append(f"Bolts at the {beam.words} stand closer than 2 2/3 diameters; enlarge the pitch.")
    sec = beam.section
    lowest, highest = min(r[1] for r in rows), max(r[1] for r in rows)
    if highest > sec.d / 2 - sec.k - bolt.d / 2 or lowest < -sec.d / 2 + sec.k + bolt.d / 2:
        found.append(f"A bolt meets the fillet of the {beam.words}; change the first bolt's distance or the rows.")
    if face.flange:
        off = float(support.frame.to_local(place.origin)[1])
        if abs(off) > support.section.b / 2 - 5:
            found.append(f"The tab stands off the flange of the {support.words}; move the beam or the tab's side.")
    notes = [Finding(about, text) for text in found]
    gap = joint.rules.gap
    if not face.flange and s.stand_off > gap + 1 and is_vertical(support.frame.x):
        notes.append(
            Finding(
                about,
                f"The {beam.words} is too wide to enter the {support.words}: its tab is extended past the flanges.",
                Severity.LOOK,
            )
        )
    return tuple(notes)


KIND = Kind(
    "shear tab",
    "Shear tab",
    Params,
    True,
    build,
    "A plate shop-welded to a column's flange or web, or a beam's web; field-bolted to the web of the beam.",
)
