"""Strength of column bases and caps: pressure on concrete, the plate's cantilevers, anchor rods pulled and sheared."""

from __future__ import annotations

import math

from uncus.catalog.bolts import rod_sizes
from uncus.catalog.grades import ROD_GRADES
from uncus.catalog.sections import Form
from uncus.connect.strength.case import Case
from uncus.connect.strength.limit import Limit, Working
from uncus.units import Units

CONCRETE = 27.6  # MPa: 4 ksi, where nothing is said


def base_plate(case: Case) -> None:
    """Compression is a negative axial force. A moment is carried by the rods at one side and the concrete at the other."""
    code, column = case.code, case.joint.member
    s = column.section
    plate = case.part("plate")
    n, b = plate.length, plate.width
    steel = case.steel(plate)
    press = max(0.0, -case.axial)
    area = n * b
    demand = press + (2 * case.moment / (0.8 * n) if case.moment else 0.0)
    case.add(code.concrete_bearing("concrete under the plate", demand, area, CONCRETE))
    # cantilevers m and n past the bearing outline of the column (AISC Manual part 14)
    tube = s.form in (Form.BOX, Form.TUBE)
    m = (n - 0.95 * s.d) / 2
    side = (b - (0.95 if tube else 0.8) * s.b) / 2
    inner = math.sqrt(s.d * s.b) / 4 if s.form is Form.I else 0.0
    reach = max(m, side, inner)
    case.add(code.plate_bending("plate past the column, a strip of unit width", demand / area, reach, plate.thickness, steel))  # fmt: skip
    rods = case.group("rods")
    size = rod_sizes()[rods.size]
    pull = max(0.0, case.axial)
    if case.moment:
        spots = [h.x for h in plate.holes]
        arm = (max(spots) - min(spots)) if len(spots) > 1 else n
        pull = max(pull, 2 * case.moment / max(arm, 1.0) - press)
    case.add(_rods(case, "Tension", pull, size.d, len(rods.points), ROD_GRADES[rods.grade]))
    if case.shear:
        case.add(_rods(case, "Shear", case.shear, size.d, len(rods.points), ROD_GRADES[rods.grade]))
    if case.has("lug"):
        lug = case.part("lug")
        case.add(code.bending("shear lug", case.shear * lug.width / 2, lug.thickness, lug.length, case.steel(lug)))
    line = case.weld("weld")
    case.add(
        code.fillet("weld of the column", math.hypot(pull, case.shear), line.size, line.length, case.body_steel(column))
    )


def _rods(case: Case, how: str, demand: float, d: float, count: int, fu: float) -> Limit:
    """All rods pulled or sheared: AISC 360 table J3.2, or EN 1993-1-8 table 3.4 and 6.2.2(7) with f_yb taken as 0.8 f_ub
    and a stress area of 0.78 of the rod's."""
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
