"""AISC 360-22, by LRFD or ASD. Clauses are the Specification's; "Manual" is the AISC Manual."""

from __future__ import annotations

import math

from uncus.catalog.bolts import BoltSize
from uncus.catalog.grades import BOLT_GRADES, ELECTRODES, KSI
from uncus.connect.strength.bolt_group import worth
from uncus.connect.strength.code import Bolting, Made, Steel
from uncus.connect.strength.limit import KIP, Limit, Worked, Working, worked
from uncus.units import INCH, Units

E = 199_948.0  # MPa: 29,000 ksi


# Nominal stresses of bolts, MPa: tension, shear with threads in the plane, and out of it (table J3.2)
_TABLED = {
    "A325": (90 * KSI, 54 * KSI, 68 * KSI),
    "A490": (113 * KSI, 68 * KSI, 84 * KSI),
    "A307": (45 * KSI, 27 * KSI, 27 * KSI),
}


# least pretensions of bolts, kips (table J3.1)
_PRETENSION = {
    ("A325", "5/8"): 19.0, ("A325", "3/4"): 28.0, ("A325", "7/8"): 39.0, ("A325", "1"): 51.0, ("A325", "1-1/8"): 64.0,
        ("A325", "1-1/4"): 81.0,
    ("A490", "5/8"): 24.0, ("A490", "3/4"): 35.0, ("A490", "7/8"): 49.0, ("A490", "1"): 64.0, ("A490", "1-1/8"): 80.0,
        ("A490", "1-1/4"): 102.0,
}  # fmt: skip


def nominal(grade: str) -> tuple[float, float, float]:
    """A bolt grade's nominal stresses; those that the table has not by its own shares of the ultimate strength
    (commentary to J3.7: 0.75 in tension, 0.45 and 0.563 in shear)."""
    fu = BOLT_GRADES[grade]
    return _TABLED.get(grade, (0.75 * fu, 0.45 * fu, 0.563 * fu))


class Aisc:
    """The standard's limit states for joints."""

    units = Units.IMPERIAL
    conventional = True
    underrun = INCH / 4  # AISC Manual part 10

    def __init__(self, method: str = "LRFD", electrode: str = "E70") -> None:
        self.method = method
        self.electrode = ELECTRODES[electrode]
        self.name = f"AISC 360-22, {method}"

    def _factor(self, phi: float, omega: float) -> tuple[str, float]:
        return ("phi", phi) if self.method == "LRFD" else ("Omega", omega)

    def net_hole(self, hole: float) -> float:
        """A hole as it counts in net areas: 1/16 in. larger (B4.3b)."""
        return hole + INCH / 16

    def tube_wall(self, nominal: float, grade: str) -> float:
        """The wall of a tube as it counts: 0.93 of the nominal, which A1085 alone keeps to (B4.2)."""
        return nominal if grade.startswith("A1085") else 0.93 * nominal

    def beam_moment(self, steel: Steel, plastic: float) -> float:
        """Design or allowable plastic moment of a beam (F2.1)."""
        return 0.9 * steel.fy * plastic if self.method == "LRFD" else steel.fy * plastic / 1.67

    # -- bolts ------------------------------------------------------------------------------------
    def bolt_shear(self, where: str, demand: float, b: Bolting) -> Limit:
        w = Working()
        area = w.step("A_b", "pi / 4 * d ** 2", d=b.size.d)
        fnv = nominal(b.grade)[1 if b.threads else 2]
        note = "" if b.worth > b.number - 0.01 else "C by the instantaneous centre of rotation (Manual part 7)"
        w.step("R_n", "C * n_s * F_nv * A_b", note, C=b.worth, n_s=b.planes, F_nv=fnv, A_b=area)
        return w.limit("Shear of the bolts", where, "J3.7", demand, self._factor(0.75, 2.0))

    def bearing(
        self,
        where: str,
        demand: float,
        b: Bolting,
        t: float,
        steel: Steel,
        end: float,
        pitch: float,
        side: float,
        rows: int,
        apart: float = 0.0,
    ) -> Limit:
        """Bearing and tearout, deformation at service load a consideration; in long slots across the force five
        sixths of it. `end` and `pitch` along the load."""
        w = Working()
        fu, d, hole = steel.fu, b.size.d, b.hole
        tear, bear = (1.0, 2.0) if b.made is Made.LONG_ACROSS else (1.2, 2.4)
        l_e = w.step("l_ce", "L_e - d_h / 2", L_e=end, d_h=hole)
        each = f"min({tear} * l_ce * t * F_u, {bear} * d * t * F_u)"
        at_end = w.step("r_e", each, "each bolt at the end", l_ce=max(0.0, l_e), t=t, F_u=fu, d=d)
        lines = max(1, round(b.number / rows))
        if rows == 1:
            w.step("R_n", "C * r_e", C=b.worth, r_e=at_end)
        else:
            l_i = w.step("l_ci", "s - d_h", s=pitch, d_h=hole)
            inside = w.step("r_i", each.replace("l_ce", "l_ci"), "each other bolt", l_ci=l_i, t=t, F_u=fu, d=d)
            w.step("R_n", "(C / n) * (n_e * r_e + (n - n_e) * r_i)", C=b.worth, n=b.number, n_e=lines, r_e=at_end,
                r_i=inside)  # fmt: skip
        return w.limit("Bearing and tearout at the bolts", where, "J3.11", demand, self._factor(0.75, 2.0))

    def eccentric(self, points: tuple[tuple[float, float], ...], off: float) -> tuple[float, tuple[float, float]]:
        """How many bolts a group loaded off its middle is worth: by the instantaneous centre."""
        return worth(points, off), (0.0, 0.0)

    def slip(self, where: str, demand: float, b: Bolting, faying: str) -> Limit:
        """Slip-critical, as oversize holes and slots along the force want; `faying` surfaces of class A or B."""
        w = Working()
        long = b.made in (Made.LONG_ACROSS, Made.LONG_ALONG)
        phi = 0.70 if long else 1.0 if b.made in (Made.STANDARD, Made.SHORT_ACROSS) else 0.85
        tension = 0.70 * 0.75 * BOLT_GRADES[b.grade] * math.pi / 4 * b.size.d**2
        tension = _PRETENSION.get((b.grade, b.size.name), tension / KIP) * KIP
        w.step("R_n", "C * mu * D_u * h_f * T_b * n_s", f"surfaces of class {faying}", C=b.worth, mu=0.30
            if faying == "A" else 0.50, D_u=1.13, h_f=1.0, T_b=tension, n_s=b.planes)  # fmt: skip
        return w.limit(
            "Slip of the bolts", where, "J3.9", demand, self._factor(phi, {1.0: 1.5, 0.85: 1.76, 0.70: 2.14}[phi])
        )

    def bolt_tension(self, where: str, demand: float, b: Bolting) -> Limit:
        w = Working()
        area = w.step("A_b", "pi / 4 * d ** 2", d=b.size.d)
        w.step("R_n", "n * F_nt * A_b", n=b.number, F_nt=nominal(b.grade)[0], A_b=area)
        return w.limit("Tension of the bolts", where, "J3.7", demand, self._factor(0.75, 2.0))

    def threaded_rod(self, where: str, demand: float, thread: BoltSize, steel: Steel) -> Limit:
        w = Working()
        area = w.step("A_b", "pi / 4 * d ** 2", d=thread.d)
        w.step("R_n", "0.75 * F_u * A_b", F_u=steel.fu, A_b=area)
        return w.limit("Tension of the thread", where, "J3.7; table J3.2", demand, self._factor(0.75, 2.0))

    # -- plates and webs --------------------------------------------------------------------------
    def shear_yielding(self, where: str, demand: float, gross: float, steel: Steel) -> Limit:
        w = Working()
        w.step("R_n", "0.60 * F_y * A_gv", F_y=steel.fy, A_gv=gross)
        return w.limit("Shear yielding", where, "J4.2(a)", demand, self._factor(1.0, 1.5))

    def shear_rupture(self, where: str, demand: float, net: float, steel: Steel) -> Limit:
        w = Working()
        w.step("R_n", "0.60 * F_u * A_nv", F_u=steel.fu, A_nv=net)
        return w.limit("Shear rupture", where, "J4.2(b)", demand, self._factor(0.75, 2.0))

    def block_shear(
        self,
        where: str,
        demand: float,
        gross_shear: float,
        net_shear: float,
        net_tension: float,
        steel: Steel,
        even: bool = True,
        concentric: bool = False,
    ) -> Limit:
        w = Working()
        w.step(
            "R_n",
            "min(0.60 * F_u * A_nv, 0.60 * F_y * A_gv) + U_bs * F_u * A_nt",
            F_u=steel.fu,
            F_y=steel.fy,
            A_nv=net_shear,
            A_gv=gross_shear,
            A_nt=net_tension,
            U_bs=1.0 if even else 0.5,
        )
        return w.limit("Block shear", where, "J4.3", demand, self._factor(0.75, 2.0))

    def tension_yielding(self, where: str, demand: float, gross: float, steel: Steel) -> Limit:
        w = Working()
        w.step("R_n", "F_y * A_g", F_y=steel.fy, A_g=gross)
        return w.limit("Tension yielding", where, "J4.1(a)", demand, self._factor(0.9, 1.67))

    def tension_rupture(self, where: str, demand: float, net: float, lag: float, steel: Steel) -> Limit:
        w = Working()
        w.step("R_n", "F_u * U_lag * A_n", "U by D3.1", F_u=steel.fu, U_lag=lag, A_n=net)
        return w.limit("Tension rupture", where, "J4.1(b), D3", demand, self._factor(0.75, 2.0))

    def compression(self, where: str, demand: float, area: float, steel: Steel, length: float, radius: float) -> Limit:
        """A short strut of plate: J4.4, and E3 beyond a slenderness of 25. `length` is the effective one."""
        w = Working()
        slender = w.step("K", "l_c / i", l_c=length, i=radius)
        stress = steel.fy
        if slender > 25:
            fe = w.step("F_e", "pi ** 2 * E / K ** 2", E=E, K=slender)
            if steel.fy / fe <= 2.25:
                stress = w.step("F_cr", "0.658 ** (F_y / F_e) * F_y", F_y=steel.fy, F_e=fe)
            else:
                stress = w.step("F_cr", "0.877 * F_e", F_e=fe)
        w.step("P_n", "F_cr * A_g", F_cr=stress, A_g=area)
        return w.limit("Compression", where, "J4.4", demand, self._factor(0.9, 1.67))

    def bending(self, where: str, demand: float, depth: float, t: float, steel: Steel) -> Limit:
        """Flexural yielding of a plate on edge."""
        w = Working()
        z = w.step("Z_x", "t * h ** 2 / 4", t=t, h=depth)
        w.step("M_n", "F_y * Z_x", F_y=steel.fy, Z_x=z)
        return w.limit("Flexural yielding", where, "J4.5, F11.1", demand, self._factor(0.9, 1.67))

    def fillet(self, where: str, demand: float, leg: float, length: float, steel: Steel, across: bool = False) -> Limit:
        """Fillet welds of a total length, loaded along (or across) their line."""
        w = Working()
        factor = 1.5 if across else 1.0
        w.step("R_n", "0.60 * F_EXX * sqrt(2) / 2 * w * L * k_ds", F_EXX=self.electrode, w=leg, L=length, k_ds=factor)
        return w.limit("Fillet weld", where, "J2.4", demand, self._factor(0.75, 2.0))

    # -- flanges and webs under concentrated forces -----------------------------------------------
    def flange_bending(self, where: str, demand: float, tf: float, steel: Steel) -> Limit:
        w = Working()
        w.step("R_n", "6.25 * F_yf * t_f ** 2", F_yf=steel.fy, t_f=tf)
        return w.limit("Flange local bending", where, "J10.1", demand, self._factor(0.9, 1.67))

    def wall_bending(self, where: str, demand: float, t: float, beta: float, eta: float, steel: Steel) -> Limit:
        """A tube's wall under the end of a branch: its width is `beta` of the tube's, its length along the tube
        `eta`; the demand is square to the wall."""
        w = Working()
        w.step(
            "R_n",
            "F_y * t ** 2 * (2 * eta / (1 - beta) + 4 / sqrt(1 - beta))",
            "Q_f taken as 1: no stress of the chord's own",
            F_y=steel.fy,
            t=t,
            eta=eta,
            beta=min(beta, 0.85),
        )
        return w.limit("Chord wall plastification", where, "Table K3.2", demand, self._factor(1.0, 1.5))

    def ring_bending(self, where: str, demand: float, t: float, d: float, long: float, steel: Steel) -> Limit:
        """A round tube's wall under a plate along it, pulled or pushed square to it (AISC 360-16 table K2.1, to
        whose yield lines 360-22 K2.3 and the Manual point)."""
        w = Working()
        w.step("R_n", "5.5 * F_y * t ** 2 * (1 + 0.25 * l_b / D)", "Q_f taken as 1: no stress of the chord's own",
            F_y=steel.fy, t=t, l_b=long, D=d)  # fmt: skip
        return w.limit("Chord wall plastification", where, "K2.3; J10.10", demand, self._factor(0.9, 1.67))

    def branch_bending(self, where: str, demand: float, t: float, d: float, branch: float, steel: Steel) -> Limit:
        """A round tube's wall under the end of a round branch; the demand is square to the tube."""
        w = Working()
        gamma, beta = worked("gamma", "D / (2 * t)", D=d, t=t), worked("beta", "D_b / D", D_b=branch, D=d)
        w.step("R_n", "F_y * t ** 2 * (3.1 + 15.6 * beta ** 2) * gamma ** 0.2",
            "Q_f taken as 1: no stress of the chord's own", F_y=steel.fy, t=t, beta=beta, gamma=gamma)  # fmt: skip
        return w.limit("Chord wall plastification", where, "Table K3.1", demand, self._factor(0.9, 1.67))

    def branch_punching(self, where: str, demand: float, t: float, branch: float, lean: float, steel: Steel) -> Limit:
        """Shear through a round tube's wall round the end of a branch that leans at the sine `lean`; demand as
        above."""
        w = Working()
        w.step("R_n", "0.6 * F_y * t * pi * D_b * (1 + s) / (2 * s)", "s the sine of the angle between both",
            F_y=steel.fy, t=t, D_b=branch, s=lean)  # fmt: skip
        return w.limit("Chord wall shear yielding", where, "Table K3.1", demand, self._factor(0.95, 1.58))

    def web_yielding(
        self, where: str, demand: float, tw: float, k: float, bearing: float, steel: Steel, near_end: bool = False
    ) -> Limit:
        w = Working()
        formula = "F_yw * t_w * (2.5 * k + l_b)" if near_end else "F_yw * t_w * (5 * k + l_b)"
        w.step("R_n", formula, F_yw=steel.fy, t_w=tw, k=k, l_b=bearing)
        return w.limit("Web local yielding", where, "J10.2", demand, self._factor(1.0, 1.5))

    def web_crippling(
        self,
        where: str,
        demand: float,
        tw: float,
        tf: float,
        d: float,
        bearing: float,
        steel: Steel,
        near_end: bool = False,
    ) -> Limit:
        w = Working()
        lead = "0.40" if near_end else "0.80"
        spread = "(4 * l_b / d - 0.2)" if near_end and bearing / d > 0.2 else "3 * (l_b / d)"
        w.step(
            "R_n",
            f"{lead} * t_w ** 2 * (1 + {spread} * (t_w / t_f) ** 1.5) * sqrt(E * F_yw * t_f / t_w)",
            t_w=tw,
            t_f=tf,
            d=d,
            l_b=bearing,
            E=E,
            F_yw=steel.fy,
        )
        return w.limit("Web local crippling", where, "J10.3", demand, self._factor(0.75, 2.0))

    def panel_shear(self, where: str, demand: float, d: float, tw: float, steel: Steel) -> Limit:
        w = Working()
        w.step("R_n", "0.60 * F_y * d_c * t_w", F_y=steel.fy, d_c=d, t_w=tw)
        return w.limit("Panel zone shear", where, "J10.6", demand, self._factor(0.9, 1.67))

    def coped_bending(
        self,
        where: str,
        demand: float,
        h: float,
        tw: float,
        cope: float,
        d: float,
        steel: Steel,
        modulus: float,
        plastic: float,
    ) -> Limit:
        """Flexure of a beam coped at its top flange, local buckling of the web reckoned in (Manual part 9)."""
        w = Working()
        ratio = cope / h
        k = 2.2 * (h / cope) ** (1.65 if ratio <= 1 else 1.0)
        f = 2 * cope / d if cope / d <= 1 else 1 + cope / d
        k1 = max(1.61, f * k)
        slender = w.step("K", "h_0 / t_w", "the remaining web's slenderness", h_0=h, t_w=tw)
        limit = w.step("lambda_p", "0.475 * sqrt(k_1 * E / F_y)", k_1=k1, E=E, F_y=steel.fy)
        full, first = steel.fy * plastic, steel.fy * modulus
        if slender <= limit:
            w.step("M_n", "F_y * Z_net", F_y=steel.fy, Z_net=plastic)
        elif slender <= 2 * limit:
            w.step("M_n", "M_p - (M_p - M_y) * (K / lambda_p - 1)", M_p=full, M_y=first, K=slender, lambda_p=limit)
        else:
            w.step("M_n", "0.903 * E * k_1 / K ** 2 * S_net", E=E, k_1=k1, K=slender, S_net=modulus)
        return w.limit("Flexure and buckling at the cope", where, "F; Manual part 9", demand, self._factor(0.9, 1.67))

    # -- bases ------------------------------------------------------------------------------------
    def concrete_bearing(self, where: str, demand: float, area: float, fc: float) -> Limit:
        w = Working()
        w.step("P_p", "0.85 * f_c * A_1", "the concrete reckoned no wider than the plate", f_c=fc, A_1=area)
        return w.limit("Bearing on concrete", where, "J8", demand, self._factor(0.65, 2.31))

    def concrete_stress(self, fc: float) -> Worked:
        """What concrete may be pressed with."""
        if self.method == "LRFD":
            return worked("f_p", "0.65 * 0.85 * f_c", "J8, the concrete no wider than the plate", f_c=fc)
        return worked("f_p", "0.85 * f_c / 2.31", "J8, the concrete no wider than the plate", f_c=fc)

    def stiff_reach(self, t: float, steel: Steel, fc: float) -> Worked | None:
        """None: the whole plate bears, and bends (Manual part 14)."""
        return None

    def plate_bending(self, where: str, pressure: float, reach: float, t: float, steel: Steel) -> Limit:
        """A strip of a base plate past the column's bearing outline, as a cantilever; per mm of width."""
        w = Working()
        w.step("M_n", "F_y * t ** 2 / 4 * b_1", "a strip of unit width", F_y=steel.fy, t=t, b_1=1.0)
        return w.limit("Bending of the base plate", where, "F11; Manual part 14", pressure * reach**2 / 2,
            self._factor(0.9, 1.67))  # fmt: skip


def plastic_modulus(d: float, b: float, tw: float, tf: float) -> float:
    """Z of an I section without its fillets, mm3."""
    return b * tf * (d - tf) + tw * (d / 2 - tf) ** 2
