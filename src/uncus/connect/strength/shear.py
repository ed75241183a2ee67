"""Strength of shear joints: tabs, double angles, end plates, seats, through plates and end tees."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from uncus.catalog.sections import Form, Section
from uncus.connect.kind import Body
from uncus.connect.strength.aisc import nominal, plastic_modulus
from uncus.connect.strength.bolt_group import turning
from uncus.connect.strength.case import Case, Grid, legs_of, plate_grid, resultant
from uncus.connect.strength.code import Bolting, Made, Steel
from uncus.connect.strength.limit import Limit, Working, worked
from uncus.connect.strength.weld_group import worth as weld_worth
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.joint import Fasteners, NewPart, Weld
from uncus.steel.part import Part
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
    lid = case.weld("cap")
    case.add(case.code.fillet("cap to the tube", demand, lid.size, lid.length, case.body_steel(case.joint.member)))


# how far from its weld a plate's bolts may be before more than yielding is to be looked at, and what (Manual part 10)
_LONG_PLATE = (3.5 * INCH, "buckling of the extended plate, and its shear and bending together")


class Plate(NamedTuple):
    """A single plate as strength sees it: its bolts as a grid, its middle `reach` from the support to the first
    line, how its holes are made, and what is told apart by that."""

    part: Part
    grid: Grid
    group: Fasteners
    reach: float
    made: Made
    bored: float
    slot: float


def _plate(case: Case, key: str, bolts: str, out: bool) -> Plate:
    part, group = case.part(key), case.group(bolts)
    holes = list(part.holes)
    if out:  # of a through plate, the holes at this beam's side
        holes = holes[-len(group.points) :] if len(holes) > len(group.points) else holes
    grid = plate_grid(part, sorted(holes, key=lambda h: h.x))
    size = case.bolting(group, 1).size
    bored, slot = max(h.d for h in holes), max(h.slot for h in holes)
    if slot:
        made = Made.LONG_ACROSS if slot > size.short_slot + 0.3 else Made.SHORT_ACROSS
    else:
        made = Made.OVERSIZE if bored > size.hole + 0.3 else Made.STANDARD
    reach = grid.first if not out else max(grid.side, case.joint.rules.edge)
    return Plate(part, grid, group, reach, made, bored, slot)


def _is_conventional(case: Case, plate: Plate, weld: Weld) -> bool:
    """Whether a plate keeps to the list under which its bending need not be looked at (AISC Manual part 10): one
    line of two to twelve, holes standard or short slotted, the plate or the web no thicker than half the bolt (and a
    sixteenth up to five rows), two diameters to both vertical edges, 3 1/2 in. at most to the weld, which is five
    eighths of the plate."""
    if not case.code.conventional or plate.made not in (Made.STANDARD, Made.SHORT_ACROSS):
        return False
    grid, t, d = plate.grid, plate.part.thickness, case.bolting(plate.group, 1).size.d
    thin = d / 2 + (INCH / 16 if grid.rows <= 5 else 0.0) + 0.1
    other, end = _on_it(case)
    return (
        grid.lines == 1
        and 2 <= grid.rows <= 12
        and min(t, other) <= thin
        and min(grid.side, end) >= 2 * d - 0.1
        and plate.reach <= 3.5 * INCH + 0.1
        and weld.size >= 5 / 8 * t - 0.1
    )


def _on_it(case: Case) -> tuple[float, float]:
    """What is bolted to a single plate, the member's web or the stem of an end tee: its thickness, and from its
    nearest hole to its end."""
    if case.has("stem"):
        stem = case.part("stem")
        return stem.thickness, min(h.x for h in stem.holes)
    return case.joint.member.section.tw, _to_web_end(case)


def _to_web_end(case: Case) -> float:
    """From the nearest hole in the member's web to its end, as drawn; far where it has none."""
    beam = case.joint.member
    holes = _web_holes(case)
    cut = next((c for owner, _, c in case.made.cuts if owner == beam.id), EndCut(0.0))
    return min((abs(h.x - cut.x(0.0, h.w)) for h in holes), default=math.inf)


def _web_holes(case: Case) -> list[Hole]:
    beam = case.joint.member.id
    return [f for owner, f in case.made.features if owner == beam and isinstance(f, Hole) and f.face is Face.WEB]


def _single_plate(case: Case, key: str, bolts: str, weld: str, out: bool = False, web: bool = True) -> None:
    joint, code = case.joint, case.code
    plate, line = _plate(case, key, bolts, out), case.weld(weld)
    part, grid, group, reach = plate.part, plate.grid, plate.group, plate.reach
    t, steel, long = part.thickness, case.steel(part), part.width
    conventional = _is_conventional(case, plate, line)
    if conventional:
        off = reach / 2 if grid.rows <= 5 else reach  # AISC Manual table 10-9
    else:
        off = reach + (grid.lines - 1) * grid.apart / 2
    demand = resultant(case.shear, case.axial)
    bolting = case.bolting(group, 1, off, grid.points)
    case.add(code.bolt_shear("bolts", demand, bolting))
    # what is bored counts, not what is usual
    plated = bolting._replace(hole=max(plate.bored, bolting.size.hole), made=plate.made, slot=plate.slot)
    if plated.slips or (plate.slot and case.axial):
        along = {Made.SHORT_ACROSS: Made.SHORT_ALONG, Made.LONG_ACROSS: Made.LONG_ALONG}
        held = plated._replace(made=along.get(plate.made, plate.made)) if case.axial else plated
        case.add(code.slip("bolts", demand, held, joint.rules.faying))
    case.sheared(key, case.shear, t, steel, grid, plated, long)
    if not conventional:
        _extended(case, plate, key, steel)
    if case.axial:
        _pulled_plate(case, plate, plated, key, steel)
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
        if case.axial:
            _pulled_wall(case, support, t, long)
    if web and joint.member.section.flanged:
        beam_web(case, bolting, grid)


def _extended(case: Case, plate: Plate, key: str, steel: Steel) -> None:
    """A plate that is no conventional one: its bending, and the thickness that lets it yield before its bolts break."""
    code, part, grid, reach = case.code, plate.part, plate.grid, plate.reach
    t, long = part.thickness, part.width
    moment = worked("M_d", "V * e", V=case.shear, e=reach)
    if code.conventional or long < 2.73 * reach:  # deeper fin plates never bend (ECCS 126, 5)
        case.add(code.bending(key, moment, long, t, steel))
    size = case.bolting(plate.group, 1).size
    thin = size.d / 2 + INCH / 16 + 0.1
    ductile = grid.lines == 1 and min(t, _on_it(case)[0]) <= thin and grid.side >= 2 * size.d - 0.1
    if code.conventional and not ductile and case.shear:
        case.add(greatest_thickness(case, plate, key, steel))
    far, words = _LONG_PLATE if code.conventional else (t / 0.15, "lateral torsional buckling of a long fin plate")
    if case.shear and reach > far:
        case.leave(words)


def greatest_thickness(case: Case, plate: Plate, key: str, steel: Steel) -> Limit:
    """t_max = 6 M_max / (F_y d^2), M_max = F_nv / 0.90 A_b C' (AISC Manual part 10): thicker, bolts break before it
    yields."""
    b = case.bolting(plate.group, 1)
    w = Working()
    area = w.step("A_b", "pi / 4 * d ** 2", d=b.size.d)
    arms = turning(tuple(plate.grid.points))
    most = w.step("M_max", "F_nv / 0.90 * A_b * C_m", "C': the group turned about its middle",
        F_nv=nominal(b.grade)[1 if b.threads else 2], A_b=area, C_m=arms)  # fmt: skip
    w.step("t_max", "6 * M_max / (F_y * h ** 2)", M_max=most, F_y=steel.fy, h=plate.part.width)
    return w.limit("Greatest thickness of an extended plate", key, "Manual part 10", plate.part.thickness)


def _pulled_plate(case: Case, plate: Plate, plated: Bolting, key: str, steel: Steel) -> None:
    """A plate pulled or pushed along the member: its sections, and bearing and tear-out towards its edge."""
    code, grid, part = case.code, plate.grid, plate.part
    pull, t, long = abs(case.axial), part.thickness, part.width
    net = worked("A_n", "(h - n * d_n) * t", h=long, n=grid.rows, d_n=code.net_hole(plated.hole), t=t)
    case.add(code.tension_yielding(key, pull, worked("A_g", "h * t", h=long, t=t), steel))
    case.add(code.tension_rupture(key, pull, net, 1.0, steel))
    _torn_out(case, key, pull, plated, t, steel, grid)
    if case.joint.member.section.flanged:
        beam = case.joint.member
        web = grid._replace(side=_to_web_end(case) - code.underrun)
        _torn_out(case, "beam web", pull, plated._replace(hole=plated.size.hole, slot=0.0, made=Made.STANDARD),
            beam.section.tw, case.body_steel(beam), web)  # fmt: skip


def _torn_out(case: Case, where: str, pull: float, b: Bolting, t: float, steel: Steel, grid: Grid) -> None:
    """Bearing and tear-out along the member: rows and lines change places, and of a slot its length counts. All
    bolts share it alike."""
    alike = b._replace(worth=float(b.number), share=(0.0, 0.0), hole=max(b.hole, b.slot), made=Made.STANDARD if b.slot
        else b.made)  # fmt: skip
    case.add(case.code.bearing(f"{where}, along the member", pull, alike, t, steel, grid.side, grid.apart, grid.end,
        grid.lines, grid.pitch))  # fmt: skip


def _pulled_wall(case: Case, support: Body, t: float, long: float) -> None:
    """A tube's wall bent by a plate on it that is pulled or pushed; other walls and webs are named as not checked."""
    code, s, wall, steel = case.code, support.section, case.wall(support), case.body_steel(support)
    if s.form is Form.BOX:
        wide = s.b if abs(float(support.frame.z @ case.joint.member.frame.x)) > 0.7 else s.d
        case.add(code.wall_bending("wall of the support", abs(case.axial), wall, t / wide, long / wide, steel))
    elif s.form is Form.TUBE:
        case.add(code.ring_bending("wall of the support", abs(case.axial), wall, s.d, long, steel))
    if s.form in (Form.BOX, Form.TUBE):
        case.leave("stress of the tube that holds it (Q_f)")
    else:
        case.leave("bending of the support's web or flange under the axial load")


def beam_web(case: Case, bolting: Bolting, plate: Grid) -> None:
    """The beam's web at bolts through it: bearing, and where it is coped shear, block shear and flexure."""
    joint, code, beam = case.joint, case.code, case.joint.member
    s, steel = beam.section, case.body_steel(beam)
    top = next((c for c in case.copes() if not c.bottom), None)
    low = next((c for c in case.copes() if c.bottom), None)
    holes = _web_holes(case)
    if not holes:
        return
    upper = max(h.w for h in holes)
    edge = s.d / 2 - (top.depth if top else 0.0) - upper
    cut = next((c for owner, _, c in case.made.cuts if owner == beam.id), EndCut(0.0))
    side = min(abs(h.x - cut.x(0.0, h.w)) for h in holes) - code.underrun
    grid = plate._replace(end=max(edge, bolting.size.edge), side=side)
    if not top and not low:
        case.add(code.bearing("beam web", case.shear, bolting, s.tw, steel, 10 * bolting.size.d, grid.pitch,
            side + code.underrun, grid.rows, grid.apart))  # fmt: skip
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
    """Two angles: bolts through the web in double shear, to the support in single shear, the angles in shear. Bent
    plates have legs of their own at either side, and each is looked at."""
    code = case.code
    near = next(p for p in case.made.parts if p.key == "near")
    to_beam = next((g for g in case.made.fasteners if g.key == "to beam"), None)
    if to_beam is not None:
        two = case.bolting(to_beam, 2)
        case.add(code.bolt_shear("bolts in the beam", resultant(case.shear, case.axial), two))
        beam_web(case, two, _leg_grid(near, to_beam))
    else:
        _welded_to_web(case, near, resultant(case.shear, case.axial))
    _one_angle(case, near, "each angle" if near.part.section else "near bent plate", to_beam)
    if near.part.section is None:
        far = next(p for p in case.made.parts if p.key == "far")
        _one_angle(case, far, "far bent plate", to_beam)


def _one_angle(case: Case, made: NewPart, words: str, to_beam: Fasteners | None) -> None:
    """Half the shear in one angle, and in its bolts or weld to the support."""
    code, angle, t = case.code, made.part, legs_of(made.part).t
    steel, half, demand = case.steel(angle), case.shear / 2, resultant(case.shear, case.axial) / 2
    if to_beam is not None:
        grid = _leg_grid(made, to_beam)
        case.sheared(f"{words}, leg on the beam", half, t, steel, grid, case.bolting(to_beam, 1), angle.length)
    else:
        case.add(code.shear_yielding(words, half, angle.length * t, steel))
    out = next((g for g in case.made.fasteners if g.key == f"{made.key} to support"), None)
    if out is not None:
        one = case.bolting(out, 1)
        case.add(code.bolt_shear(f"bolts in the support, {words}", demand, one))
        grid = _leg_grid(made, out)
        case.sheared(f"{words}, leg on the support", half, t, steel, grid, one, angle.length)
        if made.key == "near":
            _support(case, half, one, grid)
    else:
        line = case.weld(f"{made.key} to support")
        # the angles turn about their backs: each weld is loaded off its line, its returns not counted (AISC Manual part
        # 10)
        worth = worked("L_e", "L / sqrt(1 + 12.96 * e ** 2 / L ** 2)", "e: the leg that stands out", L=angle.length,
            e=_on_support(made, line))  # fmt: skip
        case.add(code.fillet(f"welds to the support, {words}", demand, line.size, worth, steel))


def _welded_to_web(case: Case, near: NewPart, demand: float) -> None:
    """The C of weld round each angle's leg on the beam, loaded at the angle's back; and the web between the two."""
    code, beam, line = case.code, case.joint.member, case.weld("near to beam")
    local = near.placement.to_local(np.array(line.path))
    s = near.part.section
    if s is None:  # the toe of a bent plate is where its flat begins
        back = -(_leg_in(near, near.part.depth_range[0]))
        flat = np.column_stack([-local[:, 2], local[:, 0]])
    else:
        flat = local[:, [2, 0]] if np.ptp(local[:, 2]) > np.ptp(local[:, 1]) else local[:, [1, 0]]
        back = -(s.d if np.ptp(local[:, 2]) > np.ptp(local[:, 1]) else s.b) / 2
    short = code.underrun  # the member's end as much nearer: the runs along the member so much shorter
    start = float(flat[:, 0].min()) + short
    spots = [(round(max(float(x), start), 3), round(float(z), 3)) for x, z in flat]
    towards = [(-x, z) for x, z in spots]  # the load is at the back
    lines = tuple((a, b) for a, b in pairwise(towards) if math.dist(a, b) > 1)
    total = sum(math.dist(a, b) for a, b in lines)
    middle = -sum(math.dist(a, b) * (a[0] + b[0]) / 2 for a, b in lines) / total
    each = weld_worth(lines, middle - back)
    length = worked("L_e", "2 * L_c", "each C by the instantaneous centre of rotation (Manual part 8)", L_c=each)
    case.add(code.fillet("welds to the beam", demand, line.size, length, case.steel(near.part)))
    where = "beam web at the welds"
    case.add(code.shear_rupture(where, demand, worked("A_nv", "L_c * t_w", "what both welds hold", L_c=each,
        t_w=beam.section.tw), case.body_steel(beam)))  # fmt: skip


def _leg_grid(made: NewPart, group: Fasteners) -> Grid:
    """A leg with one line of bolts, loaded along it."""
    angle, long = made.part, made.part.length
    n = len(group.points)
    pitch = math.dist(group.points[0], group.points[-1]) / (n - 1) if n > 1 else 0.0
    end = (long - (n - 1) * pitch) / 2
    if angle.section is None:
        low, high = angle.depth_range
        line = float(angle.bends[0].z1)
        turned = abs(float(made.placement.y @ np.asarray(group.axis))) < 0.999
        side = min(high - h.w if turned else h.w - low for h in angle.holes if (h.w > line) == turned)
        return Grid(n, 1, pitch, 0.0, end, side, 0.0, tuple((0.0, i * pitch) for i in range(n)))
    upright = np.abs(
        made.placement.to_local(group.points[0]) - made.placement.to_local(np.add(group.points[0], group.axis))
    )
    s, spot = angle.section, made.placement.to_local(group.points[0])
    side = float(s.d / 2 - spot[2] if upright[1] > 0.5 else s.b / 2 - spot[1])
    return Grid(n, 1, pitch, 0.0, end, side, 0.0, tuple((0.0, i * pitch) for i in range(n)))


def _leg_in(made: NewPart, toe: float) -> float:
    """How long over its outer face the leg of a bent plate is that ends at a toe (z of its flat)."""
    legs, (low, high) = legs_of(made.part), made.part.depth_range
    bend = made.part.bends[0].z1
    first_is_long = bend - low > high - bend
    return legs.long if (toe == low) == first_is_long else legs.short


def _on_support(near: NewPart, line: Weld) -> float:
    """The leg that is welded to the support: how far its weld's line stands from the heel."""
    s = near.part.section
    if s is None:
        return _leg_in(near, near.part.depth_range[1])
    local = near.placement.to_local(np.array(line.path))
    return s.d if np.ptp(local[:, 2]) > np.ptp(local[:, 1]) else s.b


def _support(case: Case, demand: float, bolting: Bolting, grid: Grid) -> None:
    """Bearing on the wall of the support that the bolts go through, under both joints' shear where two share them."""
    support, t = case.joint.support, case.held_by()
    if support is None or t is None:
        return
    if case.beside and case.shear:
        demand *= 1 + case.beside / case.shear
    case.add(case.code.bearing("support", demand, bolting, t, case.body_steel(support), 10 * bolting.size.d,
        grid.pitch, 10 * bolting.size.d, grid.rows))  # fmt: skip


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
    made = next(p for p in case.made.parts if p.key == "seat")
    angle, own = made.part, case.steel(made.part)
    a = legs_of(angle)
    out, up = (_leg_in(made, toe) for toe in angle.depth_range) if angle.section is None else (a.short, a.long)
    back = case.joint.rules.gap + code.underrun  # the end as it may come
    bearing = max(out - back, 25.0)
    k = s.tf + s.r
    case.add(code.web_yielding("beam web over the seat", case.shear, s.tw, k, bearing, steel, near_end=True))
    case.add(code.web_crippling("beam web over the seat", case.shear, s.tw, s.tf, s.d, bearing, steel, near_end=True))
    # the leg bends by what bearing the web needs, for yielding and for crippling, at least its fillet (Manual part 10)
    needed = min(bearing, max(k, case.shear / (steel.fy * s.tw) - 2.5 * k, _crippled(case, s, steel, bearing)))
    off = back + needed / 2 - a.t - 9.5
    if off > 0:
        case.add(code.bending("outstanding leg", case.shear * off, a.t, angle.length, own))
    case.add(code.shear_yielding("outstanding leg", case.shear, angle.length * a.t, own))
    welds = [w for w in case.made.welds if w.key in ("seat near", "seat far")]
    if welds:
        arm = worked("e", "g + N / 2", "bearing all along the leg", g=back, N=bearing)
        length = worked(
            "L_e", "2 * L / sqrt(1 + 20.25 * e ** 2 / L ** 2)", "Manual part 10", L=_upright(welds[0], up), e=arm
        )
        case.add(code.fillet("seat to the support", case.shear, welds[0].size, length, own))
    else:
        _bolted_seat(case, case.group("seat to support"))


def _bolted_seat(case: Case, group: Fasteners) -> None:
    """A seat's bolts to the support, and both legs they bear on; the seat's is torn towards its heel."""
    made = next(p for p in case.made.parts if p.key == "seat")
    part, bolts = made.part, case.bolting(group, 1)
    if part.section is None:  # in its flat the leg on the support runs from the bend to the far edge
        bend = part.bends[0].z1
        heights = sorted({round(h.w, 1) for h in part.holes if h.w > bend})
        first = _leg_in(made, part.depth_range[1]) - (part.depth_range[1] - heights[0])
    else:
        heights = sorted({round(float(z), 1) for z in made.placement.to_local(np.array(group.points))[:, 2]})
        first = part.section.d / 2 + heights[0]
    rows, far = len(heights), 10 * bolts.size.d
    grid = Grid(rows, 2, heights[-1] - heights[0], 0.0, first, far, 0.0, ())
    case.add(case.code.bolt_shear("bolts in the support", case.shear, bolts))
    case.add(case.code.bearing("leg of the seat on the support", case.shear, bolts, legs_of(part).t,
        case.steel(made.part), grid.end, grid.pitch, far, rows))  # fmt: skip
    _support(case, case.shear, bolts, grid)


def _upright(weld: Weld, leg: float) -> float:
    """The length of a seat's weld that counts: all of an angle's leg, of a bent one what is laid on its flat."""
    return min(leg, weld.length)


def _crippled(case: Case, s: Section, steel: Steel, most: float) -> float:
    """The bearing at which the web over a seat just does not cripple, mm."""
    lengths = np.linspace(0.0, most, 40)
    strong = [
        case.code.web_crippling("", 0.0, s.tw, s.tf, s.d, float(x), steel, near_end=True).capacity for x in lengths
    ]
    return float(np.interp(case.shear, strong, lengths))


def plastic_of(section) -> float:  # type: ignore[no-untyped-def]
    """Z of a beam, for loads by a share of its strength."""
    return plastic_modulus(section.d, section.b, section.tw, section.tf)
