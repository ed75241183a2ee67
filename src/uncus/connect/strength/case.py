"""One joint under its loads: what was made, as strength sees it, and the limits gathered."""

from __future__ import annotations

import math
from typing import NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bolts import bolt_size
from uncus.catalog.grades import GRADES
from uncus.catalog.sections import Form
from uncus.connect.kind import Body, Joint
from uncus.connect.strength.code import Bolting, Code, Steel
from uncus.connect.strength.limit import Limit, worked
from uncus.job.errors import JobError
from uncus.job.records import Loads
from uncus.steel.features import Cope, Hole
from uncus.steel.forming import zone
from uncus.steel.joint import Contribution, Fasteners, Weld
from uncus.steel.part import Part
from uncus.words import quoted


class Grid(NamedTuple):
    """Bolts of a plate as rows and lines: `end` from the plate's edge to the first row along the load, `side` across
    it."""

    rows: int
    lines: int
    pitch: float
    apart: float
    end: float
    side: float
    first: float
    points: tuple[tuple[float, float], ...]


class Legs(NamedTuple):
    """An angle or a plate bent once, as strength sees it: its legs over their outer faces, longer first, and their
    thickness."""

    long: float
    short: float
    t: float


def legs_of(part: Part) -> Legs:
    s = part.section
    if s is not None:
        return Legs(max(s.d, s.b), min(s.d, s.b), s.tw)
    (bend,) = part.bends
    low, high = part.depth_range
    half = zone(bend, part.thickness) / 2
    set_back = (bend.radius + part.thickness) * math.tan(math.radians(abs(bend.angle)) / 2)
    one, other = bend.z1 - half - low + set_back, high - bend.z1 - half + set_back
    return Legs(max(one, other), min(one, other), part.thickness)


class Case:
    """`shear`, `axial` and `moment` are design values in N and N mm; limits are added as they are worked out.
    `beside` is the shear of the joint that shares this one's bolts through the support, from the other side of it."""

    def __init__(self, joint: Joint, made: Contribution, loads: Loads, code: Code) -> None:
        self.beside = 0.0
        self.joint, self.made, self.code = joint, made, code
        self.shear, self.axial, self.moment = abs(loads.shear or 0.0), loads.axial or 0.0, abs(loads.moment or 0.0)
        self.limits: list[Limit] = []
        self.unchecked: list[str] = []

    # -- what was made ------------------------------------------------------------------------------
    def part(self, key: str) -> Part:
        return next(p.part for p in self.made.parts if p.key == key)

    def has(self, key: str) -> bool:
        return any(p.key == key for p in self.made.parts)

    def group(self, key: str) -> Fasteners:
        return next(g for g in self.made.fasteners if g.key == key)

    def weld(self, key: str) -> Weld:
        """The weld of a key; of one grown by a gap at its root only the leg that is more than the gap."""
        found = next(w for w in self.made.welds if w.key == key)
        return msgspec.structs.replace(found, size=found.size - found.root, root=0.0) if found.root else found

    def steel(self, part: Part) -> Steel:
        return steel_of(part.grade)

    def body_steel(self, body: Body) -> Steel:
        return steel_of(body.grade)

    def wall(self, body: Body) -> float:
        """The wall of a section as strength counts it: a web, or a tube's."""
        s = body.section
        return self.code.tube_wall(s.tw, body.grade) if s.form in (Form.BOX, Form.TUBE) else s.tw

    def held_by(self) -> float | None:
        """The thickness of the support where the joint is: a tube's wall, a flange or a web; None on the ground."""
        support = self.joint.support
        if support is None:
            return None
        s = support.section
        at_flange = abs(float(support.frame.z @ self.joint.member.frame.x)) > 0.5
        return s.tf if s.form in (Form.I, Form.CHANNEL) and at_flange else self.wall(support)

    def copes(self) -> list[Cope]:
        return [f for owner, f in self.made.features if owner == self.joint.member.id and isinstance(f, Cope)]

    # -- bolts --------------------------------------------------------------------------------------
    def bolting(self, group: Fasteners, planes: int, off: float = 0.0,
        points: tuple[tuple[float, float], ...] | None = None) -> Bolting:  # fmt: skip
        """A group as the standard sees it; loaded `off` from its middle it is worth fewer bolts. `points` in the plane
        of the load."""
        size = bolt_size(group.size)
        spots = points or self._flat(group)
        number = len(group.points)
        value, share = float(number), (0.0, 0.0)
        if off:
            value, share = self.code.eccentric(tuple((round(x, 3), round(z, 3)) for x, z in spots), off)
        threads = self.joint.rules.threads == "included"
        return Bolting(size, group.grade, threads, planes, size.hole, value, number, share=share)

    def _flat(self, group: Fasteners) -> tuple[tuple[float, float], ...]:
        """Points of a group along the member and up it."""
        local = self.joint.member.frame.to_local(np.array(group.points))
        return tuple((float(x), float(z)) for x, _, z in local)

    def add(self, *limits: Limit) -> None:
        self.limits += limits

    def leave(self, *states: str) -> None:
        """Name limit states that these loads call for and that are not checked."""
        self.unchecked += [state for state in states if state not in self.unchecked]

    # -- what plates and webs under shear have in common --------------------------------------------
    def sheared(
        self, where: str, demand: float, t: float, steel: Steel, grid: Grid, bolting: Bolting, depth: float | None
    ) -> None:
        """A plate or web loaded along its rows: bearing, block shear, and through its whole depth yielding and
        rupture."""
        code, net = self.code, self.code.net_hole(bolting.hole)
        if depth is not None:
            self.add(code.shear_yielding(where, demand, worked("A_gv", "h * t", h=depth, t=t), steel))
            through = worked(
                "A_nv", "(h - n * d_n) * t", "d_n: a hole as it counts", h=depth, n=grid.rows, d_n=net, t=t
            )
            self.add(code.shear_rupture(where, demand, through, steel))
        self.add(code.bearing(where, demand, bolting, t, steel, grid.end, grid.pitch, grid.side, grid.rows, grid.apart))
        long = grid.end + (grid.rows - 1) * grid.pitch
        wide = grid.side + (grid.lines - 1) * grid.apart
        self.add(
            code.block_shear(
                where,
                demand,
                worked("A_gv", "l_v * t", l_v=long, t=t),
                worked("A_nv", "(l_v - (n - 0.5) * d_n) * t", l_v=long, n=grid.rows, d_n=net, t=t),
                worked(
                    "A_nt",
                    "max(0, l_h - (n_l - 0.5) * d_n) * t",
                    l_h=wide,
                    n_l=grid.lines,
                    d_n=code.net_hole(bolting.wide),
                    t=t,
                ),
                steel,
                grid.lines == 1,
            )
        )


def steel_of(grade: str) -> Steel:
    found = GRADES.get(grade)
    if found is None:
        raise JobError(f"the strength of {quoted(grade)} is not known")
    return Steel(found.fy, found.fu)


def plate_grid(part: Part, holes: list[Hole] | None = None) -> Grid:
    """Rows (along z) and lines (along x) of the holes of a plate that is loaded along z, its free edge at the far x."""
    spots = [(h.x, h.w) for h in (part.holes if holes is None else holes)]
    xs, zs = (sorted({round(v, 1) for v in axis}) for axis in zip(*spots, strict=True))
    low, _ = part.depth_range
    right = max(x for x, _ in part.outline)
    return Grid(
        len(zs),
        len(xs),
        (zs[-1] - zs[0]) / (len(zs) - 1) if len(zs) > 1 else 0.0,
        (xs[-1] - xs[0]) / (len(xs) - 1) if len(xs) > 1 else 0.0,
        zs[0] - low,
        right - xs[-1],
        xs[0],
        tuple(spots),
    )


def spread(points: list[tuple[float, float]]) -> tuple[float, float]:
    """Reach of points along both axes."""
    xs, zs = zip(*points, strict=True)
    return max(xs) - min(xs), max(zs) - min(zs)


def resultant(*forces: float) -> float:
    return math.hypot(*forces)
