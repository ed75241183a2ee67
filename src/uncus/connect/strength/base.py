"""Strength of column bases and caps: pressure on concrete, the plate's cantilevers, anchor rods pulled and sheared."""

from __future__ import annotations

import math
from typing import NamedTuple

import shapely

from uncus.catalog.bolts import rod_sizes
from uncus.catalog.grades import ROD_GRADES
from uncus.catalog.sections import Form, Section
from uncus.connect.strength.case import Case
from uncus.connect.strength.limit import Limit, Worked, Working, worked
from uncus.steel import profile
from uncus.steel.part import Part
from uncus.units import Units


def base_plate(case: Case) -> None:
    """Compression is a negative axial force. A moment is carried by the concrete at one side and, where the compression
    does not keep the plate down, by the rods at the other (AISC Design Guide 1, 3.3 and 3.4; EN 1993-1-8 6.2.8)."""
    code, column = case.code, case.joint.member
    plate = case.part("plate")
    n, b = plate.length, plate.width
    fc = case.joint.rules.concrete
    spots = [h.x - n / 2 for h in plate.holes]
    found = pressed(-case.axial, case.moment, n, b, max((abs(x) for x in spots), default=0.0), code.concrete_stress(fc))
    stiff = code.stiff_reach(plate.thickness, case.steel(plate), fc)
    if stiff is not None and found.force and not case.moment:
        area = worked("A_eff", "A_c", "the column's outline and c about it, within the plate",
            A_c=effective(column.section, stiff, n, b))  # fmt: skip
        area.steps = (*stiff.steps, *area.steps)
        case.add(code.concrete_bearing("concrete under the effective area", found.force, area, fc))
    else:
        case.add(code.concrete_bearing("concrete under the plate", found.force, b * found.length, fc))
    if found.force and (stiff is None or case.moment):
        reach = cantilever(column.section, n, b, found.length)
        words = "plate past the column, a strip of unit width"
        pressure = worked(
            "f_m", "N / (Y * b)", "Y: how far the concrete is pressed", N=found.force, Y=found.length, b=b
        )
        case.add(code.plate_bending(words, pressure, reach, plate.thickness, case.steel(plate)))
    rods = case.group("rods")
    size = rod_sizes()[rods.size]
    pulled = sum(1 for x in spots if x >= max(spots) - 1.0) if case.moment else len(rods.points)
    pull = found.pull
    if pull:
        case.add(_rods(case, "Tension", pull, size.d, pulled, ROD_GRADES[rods.grade]))
        arm = max(max(map(abs, spots), default=0.0) - column.section.d / 2, 10.0)
        wide = min(b, pulled * 2 * arm)  # the pull spreads by 45 degrees from each rod to the column's face
        case.add(code.bending("plate at the rods pulled", pull * arm, plate.thickness, wide, case.steel(plate)))
    if case.shear:
        case.add(_rods(case, "Shear", case.shear, size.d, len(rods.points), ROD_GRADES[rods.grade]))
    if case.has("lug"):
        lug = case.part("lug")
        moment = worked(
            "M_d", "V * (h + g) / 2", "the concrete holds it below the grout", V=case.shear, h=lug.width, g=_grout(case)
        )
        case.add(code.bending("shear lug", moment, lug.thickness, lug.length, case.steel(lug)))
        case.add(_lug_weld(case, lug, moment))
    line = case.weld("weld")
    case.add(
        code.fillet("weld of the column", math.hypot(pull, case.shear), line.size, line.length, case.body_steel(column))
    )


def _grout(case: Case) -> float:
    """mm between the concrete and the base plate."""
    plate = next(p for p in case.made.parts if p.key == "plate")
    here, column = case.joint.member.end(case.joint.record.end), case.joint.member
    return max(0.0, abs(float((plate.placement.origin - here) @ column.frame.x)) - plate.part.thickness / 2)


def _lug_weld(case: Case, lug: Part, moment: float) -> Limit:
    """Both its lines share the shear, and the lug's moment by their distance (AISC Design Guide 1, 3.5.2)."""
    line = case.weld("lug")
    apart = worked("s", "t + 2 / 3 * w", "between the middles of both welds", t=lug.thickness, w=line.size)
    pull = worked("N_e", "2 * M / s", "the moment as force across both", M=moment, s=apart)
    both = worked("V_e", "sqrt(V ** 2 + N_e ** 2)", V=case.shear, N_e=pull)
    return case.code.fillet("weld of the shear lug", both, line.size, 2 * lug.length, case.steel(lug))


def effective(s: Section, c: float, n: float, b: float) -> float:
    """The column's outline with `c` about it, inside and out, as far as the plate (n along its depth, b across) lies
    there."""
    spread = profile.outline(s).buffer(c, join_style="mitre")
    return float(spread.intersection(shapely.box(-b / 2, -n / 2, b / 2, n / 2)).area)


class Pressed(NamedTuple):
    """What a base does under compression and moment: the concrete's force on a length of plate, and the rods' pull,
    N."""

    force: float
    length: float
    pull: float


def pressed(press: float, moment: float, n: float, b: float, f: float, stress: Worked) -> Pressed:
    """A plate n long and b wide under compression (less than nothing: uplift) and moment, its pulled rods f off its
    middle, the concrete pressed evenly on part of it (AISC Design Guide 1, 3.3.2 and 3.4.2)."""
    most = stress * b  # per mm of length
    if press > 0:
        off = moment / press
        if off <= n / 2 - press / (2 * most):
            return Pressed(press, n - 2 * off, 0.0)
    elif not moment:
        return Pressed(0.0, n, -press)
    root = (f + n / 2) ** 2 - 2 * (moment + press * f) / most
    if moment + press * f <= 0:  # lifted clear: all of it by the rods, unevenly
        return Pressed(0.0, n, -press / 2 + moment / max(2 * f, 1.0))
    length = f + n / 2 - math.sqrt(root) if root > 0 else f + n / 2
    force = most * length if root > 0 else 2 * (moment + press * f) / length  # more than the concrete carries
    return Pressed(force, length, max(0.0, force - press))


def cantilever(s: Section, n: float, b: float, covered: float) -> float:
    """The strip of plate past the column's bearing outline that bends most, as the length of one pressed all over
    (AISC Manual part 14; Design Guide 1, 3.1.2 and 3.1.3: 0.95 of a box and 0.80 of a round tube both ways); along
    the plate only `covered` of it, from its edge, is pressed."""
    round_, box = s.form is Form.TUBE, s.form is Form.BOX
    along = (n - (0.8 if round_ else 0.95) * s.d) / 2
    beside = (b - (0.95 if box else 0.8) * s.b) / 2
    inner = math.sqrt(s.d * s.b) / 4 if s.form is Form.I else 0.0
    tip = min(covered, along)
    return max(math.sqrt(max(0.0, 2 * tip * (along - tip / 2))), beside, inner)


def _rods(case: Case, how: str, demand: float, d: float, count: int, fu: float) -> Limit:
    """All rods pulled or sheared: AISC 360 table J3.2, or EN 1993-1-8 table 3.4 and 6.2.2(7) with f_yb taken as 0.8
    f_ub and a stress area of 0.78 of the rod's."""
    w, words = Working(), f"{how} of the anchor rods"
    gross = w.step("A_b", "pi / 4 * d ** 2", d=d)
    if case.code.units is Units.IMPERIAL:
        w.step("R_n", f"{'0.75' if how == 'Tension' else '0.45'} * F_u * A_b * n", F_u=fu, A_b=gross, n=count)
        factor = ("phi", 0.75) if case.code.name.endswith("LRFD") else ("Omega", 2.0)
        return w.limit(words, "rods", "J3.7", demand, factor)
    share = "0.9" if how == "Tension" else "(0.44 - 0.0003 * 0.8 * k_fub)"
    w.step("N_Rd", f"{share} * f_ub * 0.78 * A_b * n / gamma_M2", k_fub=fu, f_ub=fu, A_b=gross, n=count, gamma_M2=1.25)
    return w.limit(words, "rods", "Table 3.4" if how == "Tension" else "6.2.2(7)", demand)


def cap_plate(case: Case) -> None:
    """The beam's web over the column, and the weld for what does not bear."""
    code, joint = case.code, case.joint
    beam, column = joint.support, joint.member
    press = max(0.0, -case.axial, case.shear)
    if beam is not None:
        s, steel = beam.section, case.body_steel(beam)
        bearing = column.section.d
        case.add(code.web_yielding("beam web over the column", press, s.tw, s.tf + s.r, bearing, steel))
        if not any(p.key.startswith("stiffener") for p in case.made.parts):
            case.add(code.web_crippling("beam web over the column", press, s.tw, s.tf, s.d, bearing, steel))
    line = case.weld("weld")
    case.add(code.fillet("weld of the cap", max(0.0, case.axial), line.size, line.length, case.body_steel(column)))
    groups = [g for g in case.made.fasteners if g.key == "bolts"]
    if groups and case.axial > 0:
        case.add(code.bolt_tension("bolts", case.axial, case.bolting(groups[0], 1)))


def wall_bearing(case: Case) -> None:
    """A beam's reaction on a wall: the concrete or masonry under the plate, the plate as a cantilever from the
    fillet (AISC Manual part 14), the beam's web over it."""
    code, beam = case.code, case.joint.member
    s, steel, plate = beam.section, case.body_steel(beam), case.part("plate")
    on = case.weld("near").length  # what of the plate the beam lies on
    area = worked("A_1", "N * B", "what lies under the beam", N=on, B=plate.width)
    fc, press = case.joint.rules.concrete, case.shear
    case.add(code.concrete_bearing("wall under the plate", press, area, fc))
    k = s.tf + s.r
    reach = max(0.0, plate.width / 2 - k) if s.form is Form.I else max(0.0, plate.width / 2 + s.b / 2 - k)
    stress = worked("f_m", "V / (N * B)", V=press, N=on, B=plate.width)
    case.add(code.plate_bending("plate past the beam's fillet, a strip of unit width", stress, reach, plate.thickness,
        case.steel(plate)))  # fmt: skip
    case.add(code.web_yielding("beam web over the plate", press, s.tw, k, on, steel, near_end=True))
    case.add(code.web_crippling("beam web over the plate", press, s.tw, s.tf, s.d, on, steel, near_end=True))
