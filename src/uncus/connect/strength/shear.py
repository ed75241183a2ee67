"""Strength of shear joints: tabs, double angles, end plates, seats, through plates and end tees."""

from __future__ import annotations

import math

import numpy as np

from uncus.connect.strength.aisc import plastic_modulus
from uncus.connect.strength.case import Case, Grid, plate_grid, resultant
from uncus.connect.strength.code import Bolting
from uncus.connect.strength.limit import worked
from uncus.steel.features import EndCut, Hole
from uncus.steel.joint import Fasteners, NewPart
from uncus.units import INCH


def shear_tab(case: Case) -> None:
    """A single plate (AISC Manual part 10): conventional where it keeps within its limits, else extended."""
    _single_plate(case, "tab", "bolts", "weld")


def through_plate(case: Case) -> None:
    """The plate for one beam; both walls of the tube share its welds."""
    _single_plate(case, "plate", "bolts", "near wall near", out=True)


def end_tee(case: Case) -> None:
    """The plate on the support, the stem, and the stem's welds to its cap."""
    _single_plate(case, "tab", "bolts", "tab", web=False)
    stem = case.part("stem")
    group = case.group("bolts")
    flipped = [Hole(h.face, stem.length - h.x, h.w, h.d) for h in stem.holes]
    grid = plate_grid(stem, flipped)
    demand = resultant(case.shear, case.axial)
    case.sheared("tee stem", demand, stem.thickness, case.steel(stem), grid, case.bolting(group, 1), stem.width)
    weld = case.weld("stem")
    case.add(case.code.fillet("stem to cap", demand, weld.size, weld.length, case.steel(stem)))


def _single_plate(case: Case, key: str, bolts: str, weld: str, out: bool = False, web: bool = True) -> None:
    joint, code = case.joint, case.code
    part, group = case.part(key), case.group(bolts)
    holes = list(part.holes)
    if out:  # of a through plate, the holes at this beam's side
        holes = holes[-len(group.points) :] if len(holes) > len(group.points) else holes
    grid = plate_grid(part, sorted(holes, key=lambda h: h.x))
    t, steel, size = part.thickness, case.steel(part), case.bolting(group, 1).size
    long = part.width
    reach = grid.first if not out else max(grid.side, joint.rules.edge)
    made = max(h.d for h in holes)
    oversize = made > size.hole + 0.3
    conventional = not oversize and grid.lines == 1 and 2 <= grid.rows <= 12 and reach <= 3.5 * INCH + 0.1 and t <= size.d / 2 + INCH / 16 + 0.1  # fmt: skip
    if conventional:
        off = reach / 2 if grid.rows <= 5 else reach  # AISC Manual table 10-9
    else:
        off = reach + (grid.lines - 1) * grid.apart / 2
    demand = resultant(case.shear, case.axial)
    bolting = case.bolting(group, 1, off, grid.points)
    case.add(code.bolt_shear("bolts", demand, bolting))
    plated = bolting._replace(hole=max(made, size.hole))  # what is bored counts, not what is usual
    case.sheared(key, case.shear, t, steel, grid, plated, long)
    if not conventional:
        case.add(code.bending(key, worked("M_d", "V * e", V=case.shear, e=reach), long, t, steel))
    if case.axial:
        net = worked("A_n", "(h - n * d_n) * t", h=long, n=grid.rows, d_n=code.net_hole(plated.hole), t=t)
        case.add(code.tension_yielding(key, abs(case.axial), worked("A_g", "h * t", h=long, t=t), steel))
        case.add(code.tension_rupture(key, abs(case.axial), net, 1.0, steel))
    line = case.weld(weld)
    length = line.length if line.sides == 2 else 2 * line.length
    if line.form == "fillet":
        case.add(code.fillet("weld to the support", demand, line.size, length, steel))
    support, wall = joint.support, case.held_by()
    if support is not None and wall is not None:
        case.add(
            code.shear_rupture(
                "support beside the weld",
                demand,
                worked("A_gv", "2 * t * L", "both sides of the plate", t=wall, L=long),
                case.body_steel(support),
            )
        )
    if web and joint.member.section.flanged:
        beam_web(case, bolting, grid)


def beam_web(case: Case, bolting: Bolting, plate: Grid) -> None:
    """The beam's web at bolts through it: bearing, and where it is coped shear, block shear and flexure."""
    joint, code, beam = case.joint, case.code, case.joint.member
    s, steel = beam.section, case.body_steel(beam)
    top = next((c for c in case.copes() if not c.bottom), None)
    low = next((c for c in case.copes() if c.bottom), None)
    holes = [f for owner, f in case.made.features if owner == beam.id and isinstance(f, Hole)]
    if not holes:
        return
    upper = max(h.w for h in holes)
    edge = s.d / 2 - (top.depth if top else 0.0) - upper
    cut = next((c for owner, _, c in case.made.cuts if owner == beam.id), EndCut(0.0))
    side = min(abs(h.x - cut.x(0.0, h.w)) for h in holes) - code.underrun
    grid = plate._replace(end=max(edge, bolting.size.edge), side=side)
    if not top and not low:
        case.add(code.bearing("beam web", case.shear, bolting, s.tw, steel, grid.end, grid.pitch, 10 * s.tw, grid.rows))
        case.add(code.shear_yielding("beam web", case.shear, worked("A_gv", "d * t_w", d=s.d, t_w=s.tw), steel))
        return
    depth = s.d - (top.depth if top else 0.0) - (low.depth if low else 0.0)
    case.sheared("coped beam web", case.shear, s.tw, steel, grid, bolting, depth)
    long = max(c.length for c in case.copes()) + joint.rules.gap
    modulus, plastic = _tee(s.d - (top or low).depth, s.b, s.tw, s.tf) if not (top and low) else _flat(depth, s.tw)  # type: ignore[union-attr]
    case.add(
        code.coped_bending(
            "coped beam", worked("M_d", "V * e", V=case.shear, e=long), depth, s.tw, long, s.d, steel, modulus, plastic
        )
    )


def _flat(h: float, t: float) -> tuple[float, float]:
    return t * h * h / 6, t * h * h / 4


def _tee(h: float, b: float, tw: float, tf: float) -> tuple[float, float]:
    """Elastic (at the free edge) and plastic modulus of what a cope at one flange leaves, mm3."""
    stem = h - tf
    area = b * tf + stem * tw
    y = (b * tf * tf / 2 + stem * tw * (tf + stem / 2)) / area
    inertia = b * tf**3 / 12 + b * tf * (y - tf / 2) ** 2 + tw * stem**3 / 12 + stem * tw * (tf + stem / 2 - y) ** 2
    half = area / 2
    if b * tf >= half:
        axis = half / b
        plastic = b * axis**2 / 2 + b * (tf - axis) ** 2 / 2 + stem * tw * (tf + stem / 2 - axis)
    else:
        axis = tf + (half - b * tf) / tw
        plastic = b * tf * (axis - tf / 2) + tw * (axis - tf) ** 2 / 2 + tw * (h - axis) ** 2 / 2
    return inertia / (h - y), plastic


def double_angle(case: Case) -> None:
    """Two angles: bolts through the web in double shear, to the support in single shear, the angles in shear."""
    code = case.code
    near = next(p for p in case.made.parts if p.key == "near")
    angle = near.part
    assert angle.section is not None
    s, steel = angle.section, case.steel(angle)
    demand, half = resultant(case.shear, case.axial), case.shear / 2
    t = s.tw
    to_beam = next((g for g in case.made.fasteners if g.key == "to beam"), None)
    if to_beam is not None:
        two = case.bolting(to_beam, 2)
        case.add(code.bolt_shear("bolts in the beam", demand, two))
        grid = _leg_grid(case, angle.length, to_beam, near)
        case.sheared("each angle, leg on the beam", half, t, steel, grid, case.bolting(to_beam, 1), angle.length)
        beam_web(case, two, grid)
    else:
        line = case.weld("near to beam")
        case.add(code.fillet("welds to the beam", demand, line.size, 2 * line.length, steel))
        case.add(code.shear_yielding("each angle", half, angle.length * t, steel))
    out = next((g for g in case.made.fasteners if g.key == "near to support"), None)
    if out is not None:
        one = case.bolting(out, 1)
        case.add(code.bolt_shear("bolts in the support, each angle", demand / 2, one))
        grid = _leg_grid(case, angle.length, out, near)
        case.sheared("each angle, leg on the support", half, t, steel, grid, one, angle.length)
        _support(case, half, one, grid)
    else:
        line = case.weld("near to support")
        out_leg = max(s.d, s.b) if case.joint.record.params.get("leg", "short") == "short" else min(s.d, s.b)
        # the angles turn about their backs: each weld is loaded off its line, its returns not counted (AISC Manual part 10)
        worth = worked(
            "L_e", "L / sqrt(1 + 12.96 * e ** 2 / L ** 2)", "e: the leg that stands out", L=angle.length, e=out_leg
        )
        case.add(code.fillet("welds to the support, each angle", demand / 2, line.size, worth, steel))


def _leg_grid(case: Case, long: float, group: Fasteners, made: NewPart) -> Grid:
    """A leg with one line of bolts, loaded along it."""
    angle = made.part
    n = len(group.points)
    pitch = math.dist(group.points[0], group.points[-1]) / (n - 1) if n > 1 else 0.0
    end = (long - (n - 1) * pitch) / 2
    assert angle.section is not None
    upright = np.abs(
        made.placement.to_local(group.points[0]) - made.placement.to_local(np.add(group.points[0], group.axis))
    )
    s, spot = angle.section, made.placement.to_local(group.points[0])
    side = float(s.d / 2 - spot[2] if upright[1] > 0.5 else s.b / 2 - spot[1])
    return Grid(n, 1, pitch, 0.0, end, side, 0.0, tuple((0.0, i * pitch) for i in range(n)))


def _support(case: Case, demand: float, bolting: Bolting, grid: Grid) -> None:
    """Bearing on the wall of the support that the bolts go through, under both joints' shear where two share them."""
    support, t = case.joint.support, case.held_by()
    if support is None or t is None:
        return
    if case.beside and case.shear:
        demand *= 1 + case.beside / case.shear
    case.add(case.code.bearing("support", demand, bolting, t, case.body_steel(support), 10 * bolting.size.d, grid.pitch, 10 * bolting.size.d, grid.rows))  # fmt: skip


def end_plate(case: Case) -> None:
    """A plate on the web's end: bolts in single shear, the plate, the web beside its weld."""
    code, joint = case.code, case.joint
    part, group = case.part("plate"), case.group("bolts")
    steel, t = case.steel(part), part.thickness
    one = case.bolting(group, 1)
    demand = case.shear
    half = plate_grid(part, sorted(part.holes, key=lambda h: -h.x)[: len(part.holes) // 2])
    case.add(code.bolt_shear("bolts", demand, one))
    side = half._replace(points=half.points)
    halved = one._replace(worth=one.worth / 2, number=one.number // 2)
    case.sheared("end plate, each side", demand / 2, t, steel, side, halved, part.width)
    beam = joint.member
    web = case.body_steel(beam)
    line = case.weld("weld")
    case.add(code.fillet("weld to the web", demand, line.size, line.length - 4 * line.size, web))
    where, tw = "beam web beside the weld", beam.section.tw
    case.add(code.shear_yielding(where, demand, worked("A_gv", "h * t_w", h=part.width, t_w=tw), web))
    # a weld's ends count for nothing: each run is shorter by a leg at both (J4.2(b) on what it holds)
    held = worked("A_nv", "(h - 2 * w) * t_w", h=part.width, w=line.size, t_w=tw)
    case.add(code.shear_rupture(where, demand, held, web))
    _support(case, demand, one, half)
    if case.axial > 0:
        case.add(code.bolt_tension("bolts", case.axial, one))
        bend = case.axial / 2 * (spread_of(part) / 2 - beam.section.tw / 2)
        case.add(code.bending("end plate across", bend, t, part.width, steel))
    if case.copes():
        beam_web_coped(case)


def spread_of(part) -> float:  # type: ignore[no-untyped-def]
    xs = [h.x for h in part.holes]
    return float(max(xs) - min(xs))


def beam_web_coped(case: Case) -> None:
    """Shear and flexure of a web that is coped but not bolted."""
    code, beam = case.code, case.joint.member
    s, steel = beam.section, case.body_steel(beam)
    top = next((c for c in case.copes() if not c.bottom), None)
    low = next((c for c in case.copes() if c.bottom), None)
    depth = s.d - (top.depth if top else 0.0) - (low.depth if low else 0.0)
    long = max(c.length for c in case.copes()) + case.joint.rules.gap
    case.add(code.shear_yielding("coped beam web", case.shear, worked("A_gv", "h_0 * t_w", h_0=depth, t_w=s.tw), steel))
    modulus, plastic = _flat(depth, s.tw) if top and low else _tee(depth, s.b, s.tw, s.tf)
    case.add(
        code.coped_bending(
            "coped beam", worked("M_d", "V * e", V=case.shear, e=long), depth, s.tw, long, s.d, steel, modulus, plastic
        )
    )


def seat(case: Case) -> None:
    """An unstiffened seat: the beam's web over it, the outstanding leg in bending and shear, its welds or bolts."""
    code, beam = case.code, case.joint.member
    s, steel = beam.section, case.body_steel(beam)
    angle = case.part("seat")
    assert angle.section is not None
    a, own = angle.section, case.steel(angle)
    gap = case.joint.rules.gap
    bearing = max(a.b - gap, 25.0)
    case.add(code.web_yielding("beam web over the seat", case.shear, s.tw, s.tf + s.r, bearing, steel, near_end=True))
    case.add(code.web_crippling("beam web over the seat", case.shear, s.tw, s.tf, s.d, bearing, steel, near_end=True))
    # the reaction's place: as much bearing as the web needs, at least its fillet (AISC Manual part 10)
    needed = min(bearing, max(s.tf + s.r, case.shear / (steel.fy * s.tw) - 2.5 * (s.tf + s.r)))
    off = gap + needed / 2 - a.tf - 9.5
    if off > 0:
        case.add(code.bending("outstanding leg", case.shear * off, a.tf, angle.length, own))
    case.add(code.shear_yielding("outstanding leg", case.shear, angle.length * a.tf, own))
    welds = [w for w in case.made.welds if w.key in ("seat near", "seat far")]
    if welds:
        length, arm = a.d, gap + needed / 2
        line = case.shear / (2 * length) * math.hypot(1.0, 6 * arm / length)
        case.add(code.fillet("seat to the support, each mm", line, welds[0].size, 1.0, own))
    else:
        group = case.group("seat to support")
        case.add(code.bolt_shear("bolts in the support", case.shear, case.bolting(group, 1)))


def plastic_of(section) -> float:  # type: ignore[no-untyped-def]
    """Z of a beam, for loads by a share of its strength."""
    return plastic_modulus(section.d, section.b, section.tw, section.tf)
