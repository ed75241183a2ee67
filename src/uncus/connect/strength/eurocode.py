"""EN 1993-1-8:2005 with EN 1993-1-1 and EN 1993-1-5, recommended partial factors."""

from __future__ import annotations

import math

import numpy as np

from uncus.catalog.bolts import BoltSize, stress_area
from uncus.catalog.grades import BOLT_GRADES
from uncus.connect.strength.code import Bolting, Made, Steel
from uncus.connect.strength.limit import Limit, Worked, Working, worked
from uncus.units import Units

E = 210_000.0
G0, G1, G2 = 1.0, 1.0, 1.25  # gamma_M0, M1, M2


class Eurocode:
    """The same limit states as the standard for metric jobs has them."""

    units = Units.METRIC
    conventional = False
    underrun = 0.0
    name = "EN 1993-1-8"

    def net_hole(self, hole: float) -> float:
        """A hole counts as it is (EN 1993-1-1, 6.2.2.2)."""
        return hole

    def tube_wall(self, nominal: float, grade: str) -> float:
        """The wall of a tube: the nominal one (EN 1993-1-1, 3.2.4; EN 10210-2 and 10219-2)."""
        return nominal

    def beam_moment(self, steel: Steel, plastic: float) -> float:
        """Plastic moment resistance of a beam (EN 1993-1-1, 6.2.5)."""
        return steel.fy * plastic / G0

    def bolt_shear(self, where: str, demand: float, b: Bolting) -> Limit:
        w = Working()
        low = b.grade in ("10.9", "A490")  # table 3.4; A490 is as 10.9 in strength and stretch
        factor = (0.5 if low else 0.6) if b.threads else 0.6
        area = stress_area(b.size) if b.threads else math.pi / 4 * b.size.d**2
        note = "" if b.worth > b.number - 0.01 else "n reduced for eccentricity"
        w.step("R_v", "alpha_v * f_ub * A_s / gamma_M2", alpha_v=factor, f_ub=BOLT_GRADES[b.grade], A_s=area,
            gamma_M2=G2)  # fmt: skip
        w.step("V_Rd", "n_b * n_s * R_v", note, n_b=b.worth, n_s=b.planes, R_v=w.steps[-1].result)
        return w.limit("Shear of the bolts", where, "Table 3.4", demand)

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
        """Table 3.4, its note 1 for loose holes. Of a group loaded off its middle the most loaded bolt decides, its
        force along and across each against its own strength; across, edges and pitches change places."""
        w = Working()
        fub = BOLT_GRADES[b.grade]
        lines = b.number > rows and apart > 0
        k1 = w.step("k_1", "min(2.8 * e_2 / d_0 - 1.7, 2.5)", e_2=side, d_0=b.hole)
        if lines:
            k1 = w.step("k_1", "min(k_e, 1.4 * p_2 / d_0 - 1.7)", "the lines between", k_e=k1, p_2=apart, d_0=b.hole)
        ab = w.step("alpha_b", "min(e_1 / (3 * d_0), f_ub / f_u, 1)", "the bolt at the end", e_1=end, d_0=b.hole,
            f_ub=fub, f_u=steel.fu)  # fmt: skip
        if rows > 1:
            ab = w.step("alpha_b", "min(alpha_e, p_1 / (3 * d_0) - 0.25)", "the bolts between", alpha_e=ab, p_1=pitch,
                d_0=b.hole)  # fmt: skip
        loose = {Made.OVERSIZE: 0.8, Made.SHORT_ACROSS: 0.6, Made.LONG_ACROSS: 0.6}.get(b.made, 1.0)
        formula = (
            "k_1 * alpha_b * f_u * d * t / gamma_M2"
            if loose == 1.0
            else f"{loose} * k_1 * alpha_b * f_u * d * t / gamma_M2"
        )
        one = w.step("R_b", formula, "" if loose == 1.0 else b.made, k_1=k1, alpha_b=ab, f_u=steel.fu, d=b.size.d, t=t,
            gamma_M2=G2)  # fmt: skip
        along, across = b.share
        if not across:
            w.step("V_Rd", "n_b * R_b", n_b=b.worth, R_b=one)
            return w.limit("Bearing at the bolts", where, "Table 3.4", demand)
        k2 = w.step("k_1h", "min(2.8 * e_1 / d_0 - 1.7, 2.5)", "across the load", e_1=end, d_0=b.hole)
        if rows > 1:
            k2 = w.step("k_1h", "min(k_e, 1.4 * p_1 / d_0 - 1.7)", k_e=k2, p_1=pitch, d_0=b.hole)
        a2 = w.step("alpha_bh", "min(e_2 / (3 * d_0), f_ub / f_u, 1)", e_2=side, d_0=b.hole, f_ub=fub, f_u=steel.fu)
        if lines:
            a2 = w.step("alpha_bh", "min(alpha_e, p_2 / (3 * d_0) - 0.25)", alpha_e=a2, p_2=apart, d_0=b.hole)
        two = w.step("R_bh", "k_1h * alpha_bh * f_u * d * t / gamma_M2", k_1h=k2, alpha_bh=a2, f_u=steel.fu,
            d=b.size.d, t=t, gamma_M2=G2)  # fmt: skip
        w.step("V_Rd", "1 / sqrt((s_v / R_b) ** 2 + (s_h / R_bh) ** 2)", "s: shares of the most loaded bolt",
            s_v=along, R_b=one, s_h=across, R_bh=two)  # fmt: skip
        return w.limit("Bearing at the bolts", where, "Table 3.4", demand)

    def eccentric(self, points: tuple[tuple[float, float], ...], off: float) -> tuple[float, tuple[float, float]]:
        """How many bolts a group loaded off its middle is worth, elastically, and the most loaded bolt's share of
        the force along and across it (3.12(2))."""
        spots = np.array(points) - np.mean(points, axis=0)
        polar = float((spots**2).sum())
        if polar < 1.0:
            return 0.0, (1.0, math.inf)
        along, across = 1 / len(spots) + off * np.abs(spots[:, 0]) / polar, off * np.abs(spots[:, 1]) / polar
        worst = int(np.argmax(np.hypot(along, across)))
        share = float(along[worst]), float(across[worst])
        return 1 / math.hypot(*share), share

    def slip(self, where: str, demand: float, b: Bolting, faying: str) -> Limit:
        """3.9.1 with the factors of table 3.6; surfaces of class B (A) or A (B) of table 3.7."""
        w = Working()
        ks = {Made.OVERSIZE: 0.85, Made.SHORT_ACROSS: 0.85, Made.LONG_ACROSS: 0.7, Made.SHORT_ALONG: 0.76,
            Made.LONG_ALONG: 0.63}.get(b.made, 1.0)  # fmt: skip
        force = w.step("P_p_C", "0.7 * f_ub * A_s", f_ub=BOLT_GRADES[b.grade], A_s=stress_area(b.size))
        w.step("N_s_Rd", "n_b * k_s * n * mu * P_p_C / gamma_M3", n_b=b.worth, k_s=ks, n=b.planes, mu=0.3
            if faying == "A" else 0.5, P_p_C=force, gamma_M3=1.25)  # fmt: skip
        return w.limit("Slip of the bolts", where, "3.9.1", demand)

    def bolt_tension(self, where: str, demand: float, b: Bolting) -> Limit:
        w = Working()
        w.step("N_t_Rd", "n * 0.9 * f_ub * A_s / gamma_M2", n=b.number, f_ub=BOLT_GRADES[b.grade],
            A_s=stress_area(b.size), gamma_M2=G2)  # fmt: skip
        return w.limit("Tension of the bolts", where, "Table 3.4", demand)

    def threaded_rod(self, where: str, demand: float, thread: BoltSize, steel: Steel) -> Limit:
        """A thread that is cut, not rolled: 0.85 of what a bolt's is worth (EN 1993-1-8, 3.6.1(3))."""
        w = Working()
        w.step("N_t_Rd", "0.85 * 0.9 * f_u * A_s / gamma_M2", f_u=steel.fu, A_s=stress_area(thread), gamma_M2=G2)
        return w.limit("Tension of the thread", where, "Table 3.4; 3.6.1(3)", demand)

    def shear_yielding(self, where: str, demand: float, gross: float, steel: Steel) -> Limit:
        w = Working()
        w.step("V_pl_Rd", "A_v * f_y / (sqrt(3) * gamma_M0)", A_v=gross, f_y=steel.fy, gamma_M0=G0)
        return w.limit("Shear of the gross section", where, "EN 1993-1-1, 6.2.6", demand)

    def shear_rupture(self, where: str, demand: float, net: float, steel: Steel) -> Limit:
        w = Working()
        w.step("V_net_Rd", "A_v_net * f_u / (sqrt(3) * gamma_M2)", A_v_net=net, f_u=steel.fu, gamma_M2=G2)
        return w.limit("Shear of the net section", where, "EN 1993-1-1, 6.2.6; 3.10", demand)

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
        """3.10.2(2) where the force goes through the middle of the group, (3) where it does not."""
        w = Working()
        w.step(
            "V_eff_Rd",
            "k_e * f_u * A_nt / gamma_M2 + f_y * A_nv / (sqrt(3) * gamma_M0)",
            k_e=1.0 if concentric else 0.5,
            f_u=steel.fu,
            f_y=steel.fy,
            A_nt=net_tension,
            A_nv=net_shear,
            gamma_M0=G0,
            gamma_M2=G2,
        )
        return w.limit("Block tearing", where, "3.10.2", demand)

    def tension_yielding(self, where: str, demand: float, gross: float, steel: Steel) -> Limit:
        w = Working()
        w.step("N_pl_Rd", "A * f_y / gamma_M0", A=gross, f_y=steel.fy, gamma_M0=G0)
        return w.limit("Tension of the gross section", where, "EN 1993-1-1, 6.2.3", demand)

    def tension_rupture(self, where: str, demand: float, net: float, lag: float, steel: Steel) -> Limit:
        w = Working()
        w.step("N_u_Rd", "0.9 * beta_l * A_net * f_u / gamma_M2", beta_l=lag, A_net=net, f_u=steel.fu, gamma_M2=G2)
        return w.limit("Tension of the net section", where, "EN 1993-1-1, 6.2.3; 3.10.3", demand)

    def compression(self, where: str, demand: float, area: float, steel: Steel, length: float, radius: float) -> Limit:
        w = Working()
        slender = w.step("lambda", "l_cr / (i * pi) * sqrt(f_y / E)", l_cr=length, i=radius, f_y=steel.fy, E=E)
        root = 0.5 * (1 + 0.49 * (slender - 0.2) + slender**2)
        chi = 1.0 if slender <= 0.2 else min(1.0, 1 / (root + math.sqrt(root**2 - slender**2)))
        w.step("N_b_Rd", "chi * A * f_y / gamma_M1", "curve c", chi=chi, A=area, f_y=steel.fy, gamma_M1=G1)
        return w.limit("Compression", where, "EN 1993-1-1, 6.3.1", demand)

    def bending(self, where: str, demand: float, depth: float, t: float, steel: Steel) -> Limit:
        w = Working()
        z = w.step("W_el", "t * h ** 2 / 6", t=t, h=depth)
        w.step("M_c_Rd", "W_el * f_y / gamma_M0", W_el=z, f_y=steel.fy, gamma_M0=G0)
        return w.limit("Bending", where, "EN 1993-1-1, 6.2.5", demand)

    def fillet(self, where: str, demand: float, leg: float, length: float, steel: Steel, across: bool = False) -> Limit:
        """By the simplified method; the throat is 0.7 of the leg. Across its line the directional method gives 1.22."""
        w = Working()
        beta = 0.8 if steel.fu < 400 else 0.85 if steel.fu < 480 else 0.9
        w.step(
            "V_w_Rd",
            "f_u / (sqrt(3) * beta_w * gamma_M2) * 0.7 * s * l * k_d",
            f_u=steel.fu,
            beta_w=beta,
            gamma_M2=G2,
            s=leg,
            l=length,
            k_d=1.2247449 if across else 1.0,
        )
        return w.limit("Fillet weld", where, "4.5.3", demand)

    def flange_bending(self, where: str, demand: float, tf: float, steel: Steel) -> Limit:
        """An unstiffened flange as plate yielding round a line load: the welded joint's effective width of 7 t_f."""
        w = Working()
        w.step("N_fc_Rd", "7 * t_f * t_fb * f_y / gamma_M0", t_f=tf, t_fb=tf, f_y=steel.fy, gamma_M0=G0)
        return w.limit("Flange in transverse bending", where, "6.2.6.4; 4.10", demand)

    def wall_bending(self, where: str, demand: float, t: float, beta: float, eta: float, steel: Steel) -> Limit:
        """A tube's face under the end of a brace: its width is `beta` of the tube's, its length along the tube
        `eta`; the demand is square to the face."""
        w = Working()
        w.step("N_i_Rd", "f_y * t ** 2 / (1 - beta) * (2 * eta + 4 * sqrt(1 - beta)) / gamma_M5",
            "k_n taken as 1: no stress of the chord's own", f_y=steel.fy, t=t, beta=min(beta, 0.85), eta=eta,
            gamma_M5=1.0)  # fmt: skip
        return w.limit("Chord face failure", where, "7.5.2, table 7.11", demand)

    def ring_bending(self, where: str, demand: float, t: float, d: float, long: float, steel: Steel) -> Limit:
        """A round tube's wall under a plate along it."""
        w = Working()
        w.step("N_Rd", "5 * f_y * t ** 2 * (1 + 0.25 * l_b / d) / gamma_M5",
            "k_p taken as 1: no stress of the chord's own", f_y=steel.fy, t=t, l_b=long, d=d, gamma_M5=1.0)  # fmt: skip
        return w.limit("Chord face failure", where, "7.4.2, table 7.3", demand)

    def branch_bending(self, where: str, demand: float, t: float, d: float, branch: float, steel: Steel) -> Limit:
        """A round tube's wall under the end of a round brace; the demand is square to the tube."""
        w = Working()
        gamma, beta = worked("gamma", "d_0 / (2 * t)", d_0=d, t=t), worked("beta", "d_1 / d_0", d_1=branch, d_0=d)
        w.step(
            "N_1_Rd",
            "gamma ** 0.2 * f_y * t ** 2 * (2.8 + 14.2 * beta ** 2) / gamma_M5",
            "k_p taken as 1: no stress of the chord's own",
            f_y=steel.fy,
            t=t,
            beta=beta,
            gamma=gamma,
            gamma_M5=1.0,
        )
        return w.limit("Chord face failure", where, "7.4.2, table 7.2", demand)

    def branch_punching(self, where: str, demand: float, t: float, branch: float, lean: float, steel: Steel) -> Limit:
        """Shear through a round tube's wall round the end of a brace that leans at the sine `lean`; demand as above."""
        w = Working()
        w.step("N_1_Rd", "f_y / sqrt(3) * t * pi * d_1 * (1 + s) / (2 * s) / gamma_M5",
            "s the sine of the angle between both", f_y=steel.fy, t=t, d_1=branch, s=lean, gamma_M5=1.0)  # fmt: skip
        return w.limit("Punching shear", where, "7.4.2, table 7.2", demand)

    def web_yielding(
        self, where: str, demand: float, tw: float, k: float, bearing: float, steel: Steel, near_end: bool = False
    ) -> Limit:
        w = Working()
        formula = "(2.5 * s_r + l_b) * t_wc * f_y / gamma_M0" if near_end else "(5 * s_r + l_b) * t_wc * f_y / gamma_M0"
        w.step("N_wc_Rd", formula, s_r=k, l_b=bearing, t_wc=tw, f_y=steel.fy, gamma_M0=G0)
        return w.limit("Web in transverse compression", where, "6.2.6.2", demand)

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
        spread = bearing + 10 * tf
        slender = w.step("lambda", "0.932 * sqrt(b_eff * d_wc * f_y / (E * t_wc ** 2))", b_eff=spread, d_wc=d - 4 * tf,
            f_y=steel.fy, E=E, t_wc=tw)  # fmt: skip
        rho = 1.0 if slender <= 0.72 else (slender - 0.2) / slender**2
        w.step("N_wc_Rd", "chi * b_eff * t_wc * f_y / gamma_M1", "χ: reduction for plate buckling", chi=rho,
            b_eff=spread, t_wc=tw, f_y=steel.fy, gamma_M1=G1)  # fmt: skip
        return w.limit("Web buckling", where, "6.2.6.2", demand)

    def panel_shear(self, where: str, demand: float, d: float, tw: float, steel: Steel) -> Limit:
        w = Working()
        w.step("V_wp_Rd", "0.9 * f_y * A_vc / (sqrt(3) * gamma_M0)", f_y=steel.fy, A_vc=d * tw, gamma_M0=G0)
        return w.limit("Web panel in shear", where, "6.2.6.1", demand)

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
        w = Working()
        w.step("M_c_Rd", "W_el * f_y / gamma_M0", W_el=modulus, f_y=steel.fy, gamma_M0=G0)
        return w.limit("Bending at the notch", where, "EN 1993-1-1, 6.2.5", demand)

    def concrete_bearing(self, where: str, demand: float, area: float, fc: float) -> Limit:
        w = Working()
        w.step("N_j_Rd", "0.6666667 * f_ck / 1.5 * A_c", "beta_j = 2/3", f_ck=fc, A_c=area)
        return w.limit("Bearing on concrete", where, "6.2.5", demand)

    def concrete_stress(self, fc: float) -> Worked:
        """What concrete may be pressed with, f_jd."""
        return worked("f_jd", "0.6666667 * f_ck / 1.5", "6.2.5(7), beta_j = 2/3", f_ck=fc)

    def stiff_reach(self, t: float, steel: Steel, fc: float) -> Worked | None:
        """How far beyond the column's outline a base plate bears as if it were rigid, c of 6.2.5(4)."""
        return worked("c", "t * sqrt(f_y / (3 * f_jd * gamma_M0))", "6.2.5(4)", t=t, f_y=steel.fy,
            f_jd=self.concrete_stress(fc), gamma_M0=G0)  # fmt: skip

    def plate_bending(self, where: str, pressure: float, reach: float, t: float, steel: Steel) -> Limit:
        w = Working()
        w.step(
            "M_c_Rd",
            "f_y * t ** 2 / 6 / gamma_M0 * b_1",
            "a strip of unit width",
            f_y=steel.fy,
            t=t,
            gamma_M0=G0,
            b_1=1.0,
        )
        return w.limit("Bending of the base plate", where, "6.2.5", pressure * reach**2 / 2)
