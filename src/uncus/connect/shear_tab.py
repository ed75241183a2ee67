"""Shear tab: a plate welded to the support in the shop and bolted to the beam's web on site, or the other way about.

To a flange, a web or a tube's wall; square, skewed, sloping or both. All of it lies along the beam's web and is worked
out there (see `meeting`). The distance from the tab's welded edge, or from the toe of its weld, to the first line of
bolts is held exactly where it is given.
"""

import math
from typing import Annotated, NamedTuple

import msgspec

from uncus.catalog.bolts import HoleKind, bolt_sizes
from uncus.catalog.sections import Form
from uncus.connect.coping import Clearing, caught, clearing
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.kind import Joint, Kind, down_to, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.rows import Asked, level_web, rows_in_web, web_middle
from uncus.connect.stiffening import clip, cross_plate, full
from uncus.connect.strength import missing, shear
from uncus.frame.axes import is_vertical
from uncus.job.forms import About, checked
from uncus.steel.features import Face, Notch
from uncus.steel.joint import Contribution, WeldForm

_STEEP = (
    45.0  # degrees of skew beyond which a fillet cannot be laid in the acute corner (AWS D1.1 figure 9.4: 60 to 135)
)


SIDE = Annotated[
    str | None,
    About("Side of the web", unit="choice", choices=("near", "far"), help="By the shop's usual side where empty."),
]


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    rows: Annotated[
        int | None, About("Bolt rows", unit="count", low=2, high=20, help="As many as the web takes where left empty.")
    ] = None
    columns: Annotated[int, About("Bolt lines", unit="count", low=1, high=3, help="Lines of bolts side by side.")] = 1
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
    side: SIDE = None
    first: Annotated[
        float | None,
        About(
            "Weld to first bolt line",
            low=20,
            high=1500,
            help="Along the tab to its first line of bolts, held exactly at any skew and slope.",
        ),
    ] = None
    measured: Annotated[
        str,
        About("That is measured from", unit="choice", choices=("welded edge", "toe of weld")),
    ] = "welded edge"
    down: Annotated[
        float | None, About("Top of steel to first bolt", low=20, high=2000, help="Measured along the support's face.")
    ] = None
    pitch: Annotated[float | None, About("Pitch", low=30, high=300)] = None
    apart: Annotated[float | None, About("Between bolt lines", low=30, high=300)] = None
    gap: Annotated[
        float | None, About("Gap at the beam's end", low=0, high=150, help="From what the beam must clear to its end.")
    ] = None
    edge: Annotated[
        float | None, About("Tab edge distance", low=15, high=150, help="Bolts to the tab's free edges.")
    ] = None
    over: Annotated[
        float | None, About("Bolts to top and bottom", low=15, high=150, help="As the edge distance where left empty.")
    ] = None
    end_edge: Annotated[
        float | None,
        About(
            "Beam end distance",
            low=15,
            high=200,
            help="First bolt line to the beam's end, by which the line is placed unless its distance is given.",
        ),
    ] = None
    hole: Annotated[str | None, About("Holes in the tab", unit="choice", choices=tuple(HoleKind))] = None
    along: Annotated[
        str,
        About(
            "Rows lie square to the",
            unit="choice",
            choices=("tab", "beam"),
            help="On a sloping beam: holes square in the tab and skewed in the beam, or the other way about.",
        ),
    ] = "tab"
    ends: Annotated[
        str,
        About(
            "Beam at a web",
            unit="choice",
            choices=("coped", "past the flanges"),
            help="Coped to reach the web, or ended before the flanges with the tab extended to it.",
        ),
    ] = "coped"
    reach: Annotated[
        str,
        About(
            "Tab is welded to",
            unit="choice",
            choices=("the face", "top flange too", "both flanges too"),
            help="At a girder's web the tab can stand between its flanges as a stiffener.",
        ),
    ] = "the face"
    opposite: Annotated[
        str, About("Opposite side", unit="choice", choices=("nothing", "stiffener"), help="A plate behind the web.")
    ] = "nothing"
    cut: Annotated[
        str, About("Skewed end of the beam", unit="choice", choices=("square, corners clipped", "bevelled"))
    ] = "square, corners clipped"
    lowered: Annotated[
        str,
        About(
            "Lowered between flanges",
            unit="choice",
            choices=("where it must be", "as it is", "bottom flange coped", "top flange coped"),
            help="Takes one flange off on the tab's side, so that the beam passes it on its way down or up; it must be "
            "where "
            "columns' flanges catch the beam at both ends.",
        ),
    ] = "where it must be"
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


class Setting(NamedTuple):
    """The tab in the plane of the beam's web, mm: its middle at `y`, welded edge at `e0`, bolts at (e, q)."""

    y: float
    thickness: float
    e0: float
    first: float
    bolts: tuple[tuple[float, float], ...]
    rows: int
    pitch: float
    edge: float
    over: float
    weld: float
    side: float


def set_out(fit: Fitup, m: Meeting, cleared: Clearing, p: Params) -> Setting | str:
    """Where the tab and its bolts stand, or why they do not fit."""
    rules, b = fit.rules, m.body.section
    edge, pitch = p.edge or rules.edge, p.pitch or rules.pitch
    over = p.over or p.edge or rules.edge
    t = p.thickness or rules.tab_thickness
    weld = p.weld or fit.leg(t)
    side = -1.0 if (p.side or rules.side) == "near" else 1.0
    y = web_middle(b) + side * (b.tw + t) / 2
    e0 = m.nearest(y - t / 2, y + t / 2)
    line = cleared.end + (p.end_edge or max(rules.edge, edge))
    if p.first is not None:
        line = e0 + p.first + (weld if p.measured == "toe of weld" else 0.0)
    apart = p.apart or pitch
    end = line + (p.columns - 1) * apart + edge
    web = rows_in_web(fit, m, cleared, Asked(p.rows, pitch, over, p.down), line, end)
    if isinstance(web, str):
        return web
    rows, q0 = web
    spots = []
    for column in range(p.columns):
        for row in range(rows):
            e, q = line + column * apart, q0 - row * pitch
            if p.along == "beam":
                x0, z0 = m.local(line, q0)
                e, q = m.flat(x0 + m.sign * column * apart, z0 - row * pitch)
            spots.append((e, q))
    # rows square to a sloping beam step towards the support: what is held is held at the hole that comes nearest
    short = line - min(e for e, _ in spots)
    spots = [(e + short, q) for e, q in spots]
    return Setting(y, t, e0, line - e0, tuple(spots), rows, pitch, edge, over, weld, side)


def outline(m: Meeting, s: Setting, p: Params) -> list[tuple[float, float]]:
    """The tab's outline in (e, q)."""
    es, qs = [e for e, _ in s.bolts], [q for _, q in s.bolts]
    e1, q0, q1 = max(es) + s.edge, min(qs) - s.over, max(qs) + s.over
    if p.reach == "the face" or not level_web(m):
        return [(s.e0, q0), (e1, q0), (e1, q1), (s.e0, q1)]
    support = m.surface.body.section
    inside = support.d / 2 - support.tf
    middle = m.flat(*m.body.frame.to_local(m.surface.body.frame.origin)[[0, 2]])[1]
    tips = min(s.e0 + (support.b - support.tw) / 2 * m.slant, e1)
    corner = clip(support)
    points = [
        (s.e0, middle + inside - corner),
        (s.e0 + corner, middle + inside),
        (tips, middle + inside),
        (tips, q1),
        (e1, q1),
    ]
    low = [(e1, q0), (s.e0, q0)]
    if p.reach == "both flanges too":
        low = [
            (e1, q0),
            (tips, q0),
            (tips, middle - inside),
            (s.e0 + corner, middle - inside),
            (s.e0, middle - inside + corner),
        ]
    return [*points, *low]


def tab(fit: Fitup, m: Meeting, s: Setting, p: Params) -> str:
    """The plate, its bolts and its weld; the plate's id."""
    on_beam = p.on == "beam"
    support = m.surface.body
    frame = m.frame(0.0, 0.0, s.y)
    shape = outline(m, s, p)
    id = fit.plate("tab", frame, shape, s.thickness, m.body.id if on_beam else support.id, "shear tab")
    points = [m.model(e, q, s.y - s.side * s.thickness / 2) for e, q in s.bolts]
    kind = HoleKind(p.hole or fit.rules.tab_hole)
    fit.bolts(
        "bolts", fit.size(p.bolt), points, -s.side * m.body.frame.y, (id, m.body.id), not on_beam, {id: kind}, m.away
    )
    edge = sorted(q for e, q in shape if abs(e - s.e0) < 1e-6)
    touching = s.y + (s.thickness / 2 if m.trace(s.y + 1) > m.trace(s.y - 1) else -s.thickness / 2)
    steep = abs(m.skew) > _STEEP
    path = [m.model(s.e0, q, touching if m.skewed else s.y) for q in (edge[0], edge[-1])]
    form = WeldForm.GROOVE if steep else WeldForm.FILLET
    fit.weld("weld", s.thickness if steep else s.weld, path, (support.id, id), 1 if steep else 2, on_beam, form=form)
    if steep:
        _backing(fit, m, s, (edge[0], edge[-1]), touching, on_beam)
    if shape[1][1] != shape[0][1] or len(shape) > 4:
        tops = [q for _, q in shape]
        spots = {"top": max(tops), "bottom": min(tops)} if p.reach == "both flanges too" else {"top": max(tops)}
        for name, q in spots.items():
            es = [e for e, at in shape if abs(at - q) < 1e-6]
            fit.weld(name, s.weld, [m.model(e, q, s.y) for e in (min(es), max(es))], (support.id, id), 2, on_beam)
    return id


def _backing(fit: Fitup, m: Meeting, s: Setting, qs: tuple[float, float], touching: float, on_beam: bool) -> None:
    """A bar in the acute corner that the groove weld is laid against."""
    bar, wide = (6.35, 25.4) if fit.inch else (6.0, 25.0)
    out = math.copysign(1.0, touching - s.y)
    y = touching + out * bar / 2
    e0 = m.nearest(y - bar / 2, y + bar / 2)
    owner = m.body.id if on_beam else m.surface.body.id
    id = fit.plate(
        "backing",
        m.frame(0.0, 0.0, y),
        [(e0, qs[0]), (e0 + wide, qs[0]), (e0 + wide, qs[1]), (e0, qs[1])],
        bar,
        owner,
        "backing bar",
    )
    path = [m.model(e0 + wide, q, touching) for q in qs]
    fit.weld("backing", s.weld, path, (f"{fit.about}/tab", id), 1, on_beam)


def build(joint: Joint) -> Contribution:
    """Tab, holes, copes, end cut, bolts and weld; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam = joint.member
    if joint.support is None:
        return fit.refused(f"The {beam.words} has lost what held it; connect this end again.")
    if not beam.section.flanged:
        return fit.refused(f"A shear tab bolts to a web with flanges, and the {beam.words} has none.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    gap = joint.rules.gap if p.gap is None else p.gap
    cleared = clearing(fit, m, gap, p.cut == "bevelled", past=p.ends == "past the flanges" and not m.surface.flange)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    s = set_out(fit, m, cleared, p)
    if isinstance(s, str):
        return fit.refused(s)
    cleared.apply(fit, m)
    tab(fit, m, s, p)
    if p.opposite == "stiffener":
        _opposite(fit, m, s)
    if p.lowered.endswith("coped") or (p.lowered == "where it must be" and _must_be_lowered(joint, m, gap, p)):
        flange_off(fit, m, s, cleared, p.lowered.startswith("top"))
    _findings(fit, m, s, cleared, p)
    return fit.done()


def _opposite(fit: Fitup, m: Meeting, s: Setting) -> None:
    """A plate behind the support's web, in line with the tab, between the fillets or the flanges."""
    support = m.surface.body
    section = support.section
    if m.surface.face is not Face.WEB or section.form is not Form.I:
        fit.find(
            f"There is no room for a stiffener behind the face of the {support.words} the tab stands on; leave it out."
        )
        return
    if m.skewed or m.sloping:
        fit.find("A stiffener opposite is made for square joints only; leave it out.")
        return
    if not is_vertical(support.frame.x):
        x = float(support.frame.to_local(m.model(s.e0, 0.0, s.y))[0])
        behind = -math.copysign(1.0, float(m.surface.normal @ support.frame.y))
        cross_plate(fit, support, "opposite", x, s.thickness, behind, "stiffener", full(fit, section), s.weld)
        return
    back, wide = s.e0 - section.tw, down_to((section.b - section.tw) / 2, fit.inch)
    qs = sorted(q for _, q in s.bolts)
    low, high = qs[0] - s.over, qs[-1] + s.over
    id = fit.plate(
        "opposite",
        m.frame(0.0, 0.0, s.y),
        rectangle(back - wide, back, low, high),
        s.thickness,
        support.id,
        "stiffener",
        shared=True,
    )
    fit.weld("opposite", s.weld, [m.model(back, q, s.y) for q in (low, high)], (support.id, id))


def _must_be_lowered(joint: Joint, m: Meeting, gap: float, p: Params) -> bool:
    """Whether the beam stands between columns' flanges at both ends, this tab waiting for it at one."""
    if p.on == "beam" or joint.mate is None or not caught(m, gap):
        return False
    far = meeting(joint.mate)
    return not isinstance(far, str) and caught(far, gap)


def flange_off(fit: Fitup, m: Meeting, s: Setting, cleared: Clearing, top: bool) -> None:
    """One flange taken off beside the web on the tab's side, past the tab, flush with the web."""
    section = m.body.section
    if cleared.top if top else cleared.bottom:
        return  # coped away already
    face = Face.TOP if top else Face.BOTTOM
    tip, past = cleared.cut.at, m.local(max(e for e, _ in s.bolts) + s.edge + 6.0, 0.0)[0]
    reach = tip + m.sign * up_to(abs(past - tip), fit.inch)
    wide = s.side * (section.b / 2 + 5.0)
    inner = web_middle(section) + s.side * section.tw / 2  # flush with the web the tab passes
    if s.side * (wide - inner) < 6.0:
        return  # the back of a channel
    out = m.local(s.e0, 0.0)[0] - m.sign * section.d
    fit.feature(m.body.id, Notch(face, ((reach, inner), (reach, wide), (out, wide), (out, inner))))


def _findings(fit: Fitup, m: Meeting, s: Setting, cleared: Clearing, p: Params) -> None:
    """What does not fit, though the joint can be drawn."""
    beam, support = m.body, m.surface.body
    if m.surface.flange:
        off = float((m.model(s.e0, 0.0, s.y) - m.surface.at) @ m.surface.across)
        if not m.surface.low + 5 <= off <= m.surface.high - 5 and support.section.form is not Form.TUBE:
            fit.find(f"The tab stands off the flange of the {support.words}; move the beam or the tab's side.")
    elif cleared.stands_off and p.ends == "coped":
        fit.look(f"The {beam.words} is too wide to enter the {support.words}: its tab is extended past the flanges.")
    if s.rows > 12:
        fit.look(f"More than twelve rows at the {beam.words}; the conventional procedure ends at twelve.")


KIND = Kind(
    "shear tab",
    "Shear tab",
    Params,
    build,
    "A plate shop-welded to a flange, a web or a tube, field-bolted to the web of the beam; square, skewed or sloping.",
    checks=shear.shear_tab,
    missing=(missing.NOTCH,),
)
