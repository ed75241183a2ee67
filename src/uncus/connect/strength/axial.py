"""Strength of joints that pull and push along a brace: gussets, their welds and angles, and splices of braces."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import shapely

from uncus.catalog.fittings import thread_of
from uncus.catalog.sections import Form, Section, usual_gage
from uncus.connect.claws import GAP
from uncus.connect.kind import Body
from uncus.connect.lapping import lap_of
from uncus.connect.meeting import meeting
from uncus.connect.strength.case import Case, plate_grid, resultant
from uncus.connect.strength.code import Bolting
from uncus.connect.strength.limit import worked
from uncus.frame.placement import Vec, unit
from uncus.job.errors import JobError
from uncus.steel.features import Face
from uncus.steel.joint import Fasteners, Weld, WeldForm
from uncus.steel.part import Part


def gusset(case: Case, pair: bool = False) -> None:
    """A force spreads by 30° in the plate (Whitmore 1952; AISC Manual part 9). The brace on its gusset,
    the gusset's own section and its edges."""
    force = abs(case.axial)
    plate = case.part("gusset")
    _held(case, plate, force)
    _edges(case, force, pair)


def _held(case: Case, plate: Part, force: float) -> None:
    """The brace's end on its plate, and the plate as the force spreads in it."""
    groups = [g for g in case.made.fasteners if g.key in ("bolts", "bolts 2")]
    if case.has("clevis"):
        _pinned(case, plate, force)
        return
    if case.has("claw top near"):
        width, run = _clawed(case, groups, force)
    elif groups:
        width, run = _bolted(case, groups, force)
    else:
        width, run = _welded(case, force)
    _spread(case, plate, width, run)


def _pinned(case: Case, plate: Part, force: float) -> None:
    """A tie rod: its thread, its pin in double shear, and the plate round the pin (AISC 360-22 D5). The clevis and the
    turnbuckle are as strong as their maker says, which is not looked at. A rod that is pushed is a strut as long as
    itself."""
    code, brace, steel = case.code, case.joint.member, case.steel(plate)
    thread, hole = thread_of(brace.section), plate.holes[0]
    assert thread is not None
    pin = case.bolting(case.group("pin"), 2)
    edge = shapely.LinearRing(plate.outline).distance(shapely.Point(hole.x, hole.w))
    wide = min(2 * plate.thickness + 16.0, edge - hole.d / 2)
    past = 2 * plate.thickness * (edge - hole.d / 2 + thread.d / 2)
    if case.axial < 0:
        section = brace.section
        case.add(code.compression("rod", force, section.area, case.body_steel(brace), brace.length, section.d / 4))
    case.add(code.threaded_rod("rod", force, thread, case.body_steel(brace)))
    case.add(code.bolt_shear("pin of the clevis", force, pin))
    case.add(code.bearing("gusset", force, pin, plate.thickness, steel, edge, 0.0, edge, 1))
    case.add(code.tension_rupture("gusset beside the pin", force, 2 * plate.thickness * wide, 1.0, steel))
    case.add(code.shear_rupture("gusset past the pin", force, past, steel))
    case.leave("the clevis and the turnbuckle, which are as strong as their maker says")


def _spread(case: Case, plate: Part, width: float, run: float) -> None:
    """A plate under a force that spreads by 30 degrees over the run of its joint."""
    code, force, t, steel = case.code, abs(case.axial), plate.thickness, case.steel(plate)
    area = worked("A_g", "(b + 2 * l / sqrt(3)) * t", "spread by 30° over the run of the joint", b=width, l=run, t=t)
    if case.axial >= 0:
        case.add(code.tension_yielding("gusset, spread by 30°", force, area, steel))
    else:
        free, radius = worked("l_c", "0.65 * l_b", l_b=_free(case)), worked("i", "t / sqrt(12)", t=t)
        case.add(code.compression("gusset, spread by 30°", force, area, steel, free, radius))


def chevron(case: Case) -> None:
    """A gusset that holds two braces, of which one pushes as much as the other pulls."""
    gusset(case, pair=True)


def crossing(case: Case) -> None:
    """One length of a brace on the plate that carries it over another: its end, and the plate as the force spreads
    in it."""
    _held(case, case.part("gusset"), abs(case.axial))


def plan_gusset(case: Case) -> None:
    """A gusset between two webs that meet at any angle: each edge takes the force's share along it, and the second
    what its line of action passes their meeting by (the parallel force method of AISC Manual part 13)."""
    force = abs(case.axial)
    _held(case, case.part("gusset"), force)
    found = _found_edges(case)
    if len(found) != 2:
        raise JobError("the gusset is not held at both its edges")
    first, second = found
    here, out = case.joint.member.end(case.joint.record.end), case.joint.member.away(case.joint.record.end)
    ways = [unit(e.ends[1] - e.ends[0]) for e in (first, second)]
    across = np.cross(ways[0], ways[1])
    if float(np.linalg.norm(across)) < _ONE_WAY:
        raise JobError("its two edges run one way, and what each takes of the force cannot be told")
    normal = unit(across)
    shares = np.linalg.lstsq(np.column_stack(ways), out, rcond=None)[0] * force
    meet = first.ends[0] + float(np.linalg.lstsq(np.column_stack([ways[0], -ways[1]]), second.ends[0] - first.ends[0],
        rcond=None)[0][0]) * ways[0]  # fmt: skip
    past = abs(float((meet - here) @ np.cross(out, normal)))
    _edge(case, first, abs(float(shares[0])), 0.0, 0.0)
    _edge(case, second, abs(float(shares[1])), 0.0, force * past)


def gusset_and_tab(case: Case) -> None:
    """The brace on the plate, the beam's web bolted to it, and the one weld of both to the column."""
    gusset(case)
    if case.shear:
        bolts, plate = case.bolting(case.group("beam bolts"), 1), case.part("gusset")
        case.add(case.code.bolt_shear("bolts in the beam", case.shear, bolts))
        case.add(
            case.code.shear_yielding(
                "plate at the column", case.shear, plate.width * plate.thickness, case.steel(plate)
            )
        )
        beam = case.joint.others[0]
        case.add(case.code.bearing("beam web", case.shear, bolts, beam.section.tw, case.body_steel(beam),
            10 * bolts.size.d, case.joint.rules.pitch, 10 * bolts.size.d, bolts.number))  # fmt: skip


def _bolted(case: Case, groups: list[Fasteners], force: float) -> tuple[float, float]:
    """Bolts, gusset and legs along the brace; the width and run of the group."""
    code, brace = case.code, case.joint.member
    plate = case.part("gusset")
    steel, own = case.steel(plate), case.body_steel(brace)
    lap = lap_of(brace)
    pair = len(groups[0].joins) == 3
    first = groups[0]
    n = len(first.points)
    rows = Bolting(*case.bolting(first, 2 if pair else 1))
    count = n * len(groups)
    rows = rows._replace(worth=float(count), number=count)
    pitch = math.dist(first.points[0], first.points[1]) if n > 1 else 0.0
    edge = case.joint.record.params.get("edge") or case.joint.rules.edge
    net = code.net_hole(rows.hole)
    lines = len(groups)
    apart = abs(lap.lines[0][0] - lap.lines[-1][0])
    case.add(code.bolt_shear("bolts in the brace", force, rows))
    case.add(code.bearing("gusset", force, rows, plate.thickness, steel, edge, pitch, edge, n))
    case.add(code.bearing("brace", force, rows, lap.thickness * (2 if pair else 1), own, edge, pitch, edge, n))
    if case.axial > 0:
        _pulled_brace(case, n, pitch, edge, net)
        if lines > 1:
            long = edge + (n - 1) * pitch
            case.add(code.block_shear("gusset", force, 2 * long * plate.thickness,
                2 * (long - (n - 0.5) * net) * plate.thickness, max(0.0, apart - net) * plate.thickness, steel,
                concentric=True))  # fmt: skip
    return (apart if lines > 1 else 0.0), (n - 1) * pitch


def _clawed(case: Case, groups: list[Fasteners], force: float) -> tuple[float, float]:
    """Four angles between an I's flanges and its gusset: their bolts at both ends, themselves, and the brace's net
    section; the width and run of the group."""
    code, brace, plate = case.code, case.joint.member, case.part("gusset")
    s, own, steel, angle = brace.section, case.body_steel(brace), case.steel(plate), case.part("claw top near")
    assert angle.section is not None
    legs, held, n = angle.section, case.steel(angle), len(groups[0].points)
    in_plate = case.bolting(groups[0], 2)._replace(worth=2.0 * n, number=2 * n)
    flange = case.group("claw top near bolts")
    in_brace = case.bolting(flange, 1)._replace(worth=4.0 * n, number=4 * n)
    pitch = math.dist(groups[0].points[0], groups[0].points[1]) if n > 1 else 0.0
    edge, net = min(h.x for h in angle.holes), code.net_hole(in_plate.hole)
    spread = _apart(groups)
    side = min(abs(h.w - limit) for h in plate.holes for limit in plate.depth_range)
    case.add(code.bolt_shear("bolts in the gusset", force, in_plate))
    case.add(code.bearing("gusset", force, in_plate, plate.thickness, steel, edge, pitch, side, n))
    case.add(code.bearing("claw angles at the gusset", force, in_plate, 2 * legs.tw, held, edge, pitch, edge, n))
    case.add(code.bolt_shear("bolts in the brace", force, in_brace))
    case.add(code.bearing("claw angles at the brace", force, in_brace, legs.tw, held, edge, pitch, edge, n))
    case.add(code.bearing("flange of the brace", force, in_brace, s.tf, own, edge, pitch, edge, n))
    if case.axial > 0:
        long, run = edge + (n - 1) * pitch, max((n - 1) * pitch, 1.0)
        case.add(code.block_shear("gusset", force, 2 * long * plate.thickness,
            2 * (long - (n - 0.5) * net) * plate.thickness, max(0.0, spread - net) * plate.thickness, steel,
            concentric=True))  # fmt: skip
        case.add(code.tension_yielding("claw angles", force, 4 * legs.area, held))
        lag = min(1.0, max(0.6, 1 - (legs.b / 2 + legs.centroid[0]) / run))
        case.add(code.tension_rupture("claw angles", force, 4 * (legs.area - net * legs.tw), lag, held))
        case.add(code.tension_yielding("brace", force, s.area, own))
        stem = s.d / 2 - s.tf
        tee = (s.b * s.tf * s.tf / 2 + stem * s.tw * (s.tf + stem / 2)) / (s.b * s.tf + stem * s.tw)
        lag = min(0.9, max(0.6, 1 - tee / run))  # each half of the I as a tee (AISC 360-22 table D3.1, cases 2 and 7)
        case.add(code.tension_rupture("brace", force, s.area - 4 * net * s.tf, lag, own))
    else:
        free = GAP + 2 * edge  # between the last bolts of both ends
        radius = math.sqrt(legs.tw**2 / 12)  # the leg that lies on the gusset bends about itself
        case.add(code.compression("claw angles across their gap", force, 4 * legs.area, held, free, radius))
    return spread, (n - 1) * pitch


def _apart(groups: list[Fasteners]) -> float:
    """How far two lines of bolts are from each other, across their run."""
    one, other = np.array(groups[0].points), np.array(groups[1].points)
    off = other[0] - one[0]
    if len(one) > 1:
        along = unit(one[-1] - one[0])
        off = off - (off @ along) * along
    return float(np.linalg.norm(off))


def _pulled_brace(case: Case, n: int, pitch: float, edge: float, net: float) -> None:
    """A brace pulled by n bolts in each of its lines: block shear of its legs, its gross and its net section."""
    code, brace, lap = case.code, case.joint.member, lap_of(case.joint.member)
    s, own, pull = brace.section, case.body_steel(brace), abs(case.axial)
    legs = 2 if brace.record.double is not None else 1
    heel = lap.lines[0][0] - lap.low
    toe = min(lap.high - lap.lines[0][0], heel) if s.form is Form.ANGLE else edge
    t, long = lap.thickness * legs, edge + (n - 1) * pitch
    case.add(code.block_shear("brace", pull, long * t, (long - (n - 0.5) * net) * t, max(0.0, toe - net / 2) * t, own))
    case.add(code.tension_yielding("brace", pull, s.area * legs, own))
    lag = min(1.0, max(0.6, 1 - _out_of_line(case) / max(pitch * (n - 1), 1.0)))
    case.add(code.tension_rupture("brace", pull, s.area * legs - net * t, lag, own))


def _out_of_line(case: Case) -> float:
    """How far the brace's middle is from the gusset's face: what shear lag is reckoned by (AISC 360 table D3.1)."""
    brace = case.joint.member
    s = brace.section
    if s.form in (Form.ANGLE, Form.CHANNEL):
        return s.b / 2 + s.centroid[0]
    if s.form is Form.TEE:
        return abs(s.centroid[1] - (lap_of(brace).high + s.d / 2) / 2 + s.d / 2) / 2
    return 0.0


def slotted_off(s: Section) -> float:
    """How far the middle of half a tube is from the plate it is slotted over (AISC 360 table D3.1, cases 5 and 6)."""
    return s.d / math.pi if s.form is Form.TUBE else (s.b**2 + 2 * s.b * s.d) / (4 * (s.b + s.d))


def _welded(case: Case, force: float) -> tuple[float, float]:
    """Welds of a slotted tube or of legs; the width between them and their run."""
    code, brace = case.code, case.joint.member
    s, own = brace.section, case.body_steel(brace)
    edges = ("low", "high")
    welds = [w for w in case.made.welds if w.key.startswith(edges) and "mate" not in w.key]
    length = sum(w.length for w in welds)
    leg = welds[0].size
    case.add(code.fillet("welds of the brace", force, leg, length, own))
    run = welds[0].length / welds[0].sides
    tube = s.form in (Form.BOX, Form.TUBE)
    t = case.wall(brace)
    case.add(code.shear_rupture("brace beside the welds", force, length * t, own))
    plate = case.part("gusset")
    case.add(code.shear_rupture("gusset beside the welds", force, 2 * run * plate.thickness * 1.0, case.steel(plate)))
    legs = 2 if brace.record.double is not None else 1
    if case.axial > 0:
        case.add(code.tension_yielding("brace", force, s.area * legs, own))
        if tube:
            net = s.area - 2 * (plate.thickness + 1.6) * t
            lag = max(0.0, min(1.0, 1 - slotted_off(s) / run))
            case.add(code.tension_rupture("brace at its slots", force, net, lag, own))
        else:
            lag = max(0.0, min(1.0, 1 - _out_of_line(case) / run))
            case.add(code.tension_rupture("brace", force, s.area * legs, lag, own))
    upright = s.d if not tube else max(s.d, s.b)
    return upright, run


def _free(case: Case) -> float:
    """The length of gusset between the brace's end and the nearest edge that is held, along the brace."""
    joint = case.joint
    brace, record = joint.member, joint.record
    cut = next(c for owner, _, c in case.made.cuts if owner == brace.id)
    start = cut.at if record.end == "left" else brace.length - cut.at
    support = joint.support
    held = 0.0
    if support is not None:
        depth = max(support.section.d, support.section.b) / 2
        lean = max(abs(float(brace.frame.x @ support.frame.z)), abs(float(brace.frame.x @ support.frame.y)), 0.2)
        held = depth / lean
    return max(20.0, start - held)


class EdgeForces(NamedTuple):
    """What the edges of a gusset at a column and a beam carry, along and across each; the moment is on the beam's
    edge."""

    column_along: float
    column_across: float
    beam_along: float
    beam_across: float
    moment: float


def edge_forces(force: float, rise: float, column: float, beam: float, up: float, over: float) -> EdgeForces:
    """A brace's force, `rise` degrees off the beam's line, at the edges of its gusset: by the uniform force method
    (AISC Manual part 13). The edge on the column stands `column` off the work point, its middle `up` above the
    beam's edge; that on the beam `beam` off it, its middle `over` from the column's. Where the gusset has not the
    shape for it, the beam's edge takes the moment."""
    ideal = (beam + up) / math.tan(math.radians(rise)) - column
    r = math.hypot(ideal + column, up + beam)
    across = force * beam / r
    return EdgeForces(force * up / r, force * column / r, force * ideal / r, across, across * (over - ideal))


class _Edge(NamedTuple):
    """An edge in the model: its ends, the weld on it or the bolts of its clip angles, what it stands on in words."""

    ends: Vec
    made: Weld | Fasteners
    words: str

    @property
    def long(self) -> float:
        return float(np.linalg.norm(self.ends[1] - self.ends[0]))

    @property
    def middle(self) -> Vec:
        return np.asarray(self.ends.mean(axis=0))


_ONE_WAY = 1e-3  # sine of the angle between two edges that are one line
_STANDS = {"to beam": "gusset at the beam", "to column": "gusset at the column", "to base": "gusset at the base plate"}


def _found_edges(case: Case) -> list[_Edge]:
    """The welded or clipped edges of a gusset, that at the column (or the first beam) first."""
    found = [_Edge(np.array([w.path[0], w.path[-1]]), w, _STANDS.get(w.key, "gusset at the support")) for w
        in case.made.welds if w.key in (*_STANDS, "to support")]  # fmt: skip
    found += [_Edge(np.array([g.points[0], g.points[-1]]), g, "gusset at the column") for g in case.made.fasteners
        if g.key == "column bolts"]  # fmt: skip
    return sorted(found, key=lambda edge: edge.words != "gusset at the column")


def _edges(case: Case, force: float, pair: bool) -> None:
    """Each welded or clipped edge under what it carries of the brace's force."""
    found = _found_edges(case)
    here = case.joint.member.end(case.joint.record.end)
    out = case.joint.member.away(case.joint.record.end)
    first = next((e for e in found if e.words == "gusset at the column"), None)
    second = next((e for e in found if e is not first), None)
    if first is not None and second is not None and case.joint.support is not None:
        up = case.joint.support.frame.x
        up = up if float(out @ up) > 0 else -up
        side = unit(out - (out @ up) * up)
        rise = math.degrees(math.atan2(float(out @ up), float(out @ side)))
        beam, column = float((second.middle - here) @ up), float((first.middle - here) @ side)
        above, over = float((first.middle - here) @ up) - beam, float((second.middle - here) @ side) - column
        f = edge_forces(force, rise, column, beam, above, over)
        _edge(case, first, abs(f.column_along), abs(f.column_across), 0.0)
        _edge(case, second, abs(f.beam_along), abs(f.beam_across), abs(f.moment))
        return
    for edge in found:  # one edge carries it all; its line of action crosses the edge beside its middle
        line = (edge.ends[1] - edge.ends[0]) / edge.long
        along = float(out @ line)
        across = math.sqrt(max(0.0, 1 - along * along))
        normal = unit(out - along * line)
        reach = float((edge.middle - here) @ normal) / max(across, 0.05)
        beside = float((edge.middle - here) @ line) - reach * along
        if pair:
            # the other brace of the pair pushes as much as this one pulls: along the edge both, across it a couple
            _edge(case, edge, 2 * force * abs(along), 0.0, 2 * force * across * abs(reach * along))
        else:
            _edge(case, edge, force * abs(along), force * across, force * across * abs(beside))


def _edge(case: Case, edge: _Edge, along: float, across: float, moment: float) -> None:
    """One edge: its weld by the greatest of its line, its plate; or its clip angles' bolts."""
    code, plate = case.code, case.part("gusset")
    steel, t, words = case.steel(plate), plate.thickness, edge.words
    if isinstance(edge.made, Fasteners):
        _clips(case, edge.made, along, across)
        return
    normal = worked("N_e", "N + 4 * M / L", "the moment as more force across", N=across, M=moment, L=edge.long)
    average = math.hypot(along, across)
    peak = max(
        math.hypot(along, normal), 1.25 * average
    )  # Manual part 13: welds of gussets for 1.25 of the mean at least
    case.add(code.fillet(f"weld, {words}", peak, edge.made.size, 2 * edge.long, steel))
    case.add(code.shear_yielding(words, along, edge.long * t, steel))
    case.add(code.tension_yielding(f"{words}, across", normal, edge.long * t, steel))


def _clips(case: Case, group: Fasteners, along: float, across: float) -> None:
    """Two clip angles, or the one that a gusset off the column's middle has, which is pulled beside itself."""
    code = case.code
    angles = [p.key for p in case.made.parts if p.key in ("column near", "column far")]
    n = len(angles)
    each, one = case.group(f"{angles[0]} bolts"), case.part(angles[0])
    bolts, legs = case.bolting(each, 1), one.section
    assert legs is not None
    case.add(
        code.bolt_shear("bolts of the clip angles in the gusset", math.hypot(along, across), case.bolting(group, n))
    )
    case.add(code.bolt_shear("bolts of the clip angles in the column, each", along / n, bolts))
    case.add(code.bolt_tension("bolts of the clip angles in the column, each", across / n, bolts))
    case.add(code.shear_yielding("each clip angle", along / n, one.length * legs.tw, case.steel(one)))
    net = (one.length - len(each.points) * code.net_hole(bolts.hole)) * legs.tw
    case.add(code.shear_rupture("each clip angle", along / n, net, case.steel(one)))
    arm = usual_gage(max(legs.b, legs.d)) - legs.tw
    case.add(code.bending("each clip angle, pulled off the column", across / n / 2 * arm, legs.tw, one.length,
        case.steel(one)))  # fmt: skip
    if n == 1:
        case.leave("turning of the gusset about its one clip angle, and prying of that one's bolts")


def brace_splice(case: Case) -> None:
    """A brace's two lengths: end plates with bolts in tension, or a lapped plate with bolts in shear."""
    code, brace = case.code, case.joint.member
    force = abs(case.axial)
    own = case.body_steel(brace)
    if case.has("plate of member"):
        group, plate = case.group("bolts"), case.part("plate of member")
        one = case.bolting(group, 1)
        case.add(code.bolt_tension("bolts", force, one))
        line = case.weld("weld of member")
        # the ends of boxes are let no more than along the line (AISC 360-22 J2.4(b)(2))
        round_ = brace.section.form is Form.TUBE
        case.add(code.fillet("weld of the tube", force, line.size, line.length, own, across=round_))
        case.add(code.tension_yielding("brace", force, brace.section.area, own))
        arm = (max(h.w for h in plate.holes) - brace.section.d / 2) if brace.section.d else 0.0
        share = force / len(group.points) * 2
        case.add(code.bending("end plate, a strip at two bolts", share * max(arm, 10.0), plate.thickness,
            plate.length / 2, case.steel(plate)))  # fmt: skip
        return
    group, plate = case.group("member"), case.part("plate")
    extra = [g for g in case.made.fasteners if g.key == "member 2"]
    count = len(group.points) * (1 + len(extra))
    pair = len(group.joins) == 3
    one = case.bolting(group, 2 if pair else 1)._replace(worth=float(count), number=count)
    grid = plate_grid(plate)
    rows, pitch = len(group.points), math.dist(group.points[0], group.points[1]) if len(group.points) > 1 else 0.0
    edge = case.joint.rules.edge
    steel, net = case.steel(plate), code.net_hole(one.hole)
    case.add(code.bolt_shear("bolts", force, one))
    case.add(code.bearing("splice plate", force, one, plate.thickness, steel, edge, pitch, edge, rows))
    legs = lap_of(brace).thickness * (2 if pair else 1)
    case.add(code.bearing("brace", force, one, legs, own, edge, pitch, edge, rows))
    case.add(code.tension_yielding("splice plate", force, plate.width * plate.thickness, steel))
    case.add(code.tension_rupture("splice plate", force, (plate.width - grid.rows * net) * plate.thickness, 1.0, steel))
    if case.axial > 0:
        _pulled_brace(case, rows, pitch, edge, net)


def welded_end(case: Case) -> None:
    """An end welded all round to the side of what holds it: its weld, itself, and that side's wall."""
    code, joint = case.code, case.joint
    m, weld = meeting(joint), case.weld("round")
    assert not isinstance(m, str)
    own, support = case.body_steel(joint.member), m.surface.body
    steel, side = case.body_steel(support), m.surface
    force, demand = abs(case.axial), resultant(case.axial, case.shear)
    lean = min(1.0, abs(float(joint.member.frame.x @ side.normal)))
    across = worked("N_t", "N * s + V * sqrt(1 - s ** 2)", "square to the side", N=force, s=lean, V=case.shear)
    lines = [case.weld(w.key) for w in case.made.welds]  # of an end that overlaps a web also those to it
    case.add(code.fillet("weld all round", demand, min(w.size for w in lines), sum(w.length for w in lines), own))
    if len(lines) > 1:
        case.leave("the web that is overlapped, under this one's force (K3.2)")
    case.add(code.tension_yielding("the member", force, joint.member.section.area, own))
    spots = np.array(weld.path)
    long, wide = (float(np.ptp(spots @ way)) for way in (side.along, side.across))
    if support.section.form is Form.TUBE:
        _branch(case, support, across, lean)
        return
    tube = support.section.form is Form.BOX
    t, whole = case.wall(support) if tube else side.thickness, side.high - side.low
    if support.section.form is Form.BOX:
        whole += 2 * support.section.r
        case.add(code.wall_bending("wall of what holds it", across, t, wide / whole, long / whole, steel))
    elif side.face in (Face.TOP, Face.BOTTOM):
        s = support.section
        case.add(code.flange_bending("flange of what holds it", across, s.tf, steel))
        k = s.tf + s.r  # as designed, not as detailed
        case.add(code.web_yielding("web of what holds it", across, s.tw, k, long, steel))
    case.add(code.shear_yielding("wall round the end", across, weld.length * t, steel))


def mitred_ends(case: Case) -> None:
    """Two ends welded face to face all round: the weld as its length, and the section of the member itself."""
    code, joint, weld = case.code, case.joint, case.weld("round")
    own, force = case.body_steel(joint.member), abs(case.axial)
    if weld.form is WeldForm.FILLET:
        case.add(code.fillet("weld all round", resultant(case.axial, case.shear), weld.size, weld.length, own))
    case.add(code.tension_yielding("the member", force, joint.member.section.area, own))
    web = joint.member.section.d * joint.member.section.tw
    case.add(code.shear_yielding("the member's web", case.shear, web, own))
    case.leave("bending at the mitre, and its walls' own where the angle is sharp")


def _branch(case: Case, chord: Body, across: float, lean: float) -> None:
    """The wall of a round tube under the end of another that leans at the sine `lean` to it."""
    code, t, steel = case.code, case.wall(chord), case.body_steel(chord)
    d, branch = chord.section.d, case.joint.member.section.d
    words = "wall of what holds it"
    case.add(code.branch_bending(words, across, t, d, branch, steel))
    if branch < d - 2 * t:
        case.add(code.branch_punching(words, across, t, branch, lean, steel))
    if branch < 0.2 * d or d > 50 * t or lean < 0.5:
        case.leave(
            f"the {chord.words} outside the shapes that the formulas hold for (width from 0.2 of it, D/t to 50, angles "
            f"from 30°)"
        )
