"""What a design standard can say of a joint: one method a limit state, the same for every standard."""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple, Protocol

from uncus.catalog.bolts import BoltSize
from uncus.connect.strength.limit import Limit, Worked
from uncus.units import Units


class Steel(NamedTuple):
    """A steel's yield and ultimate strength, MPa."""

    fy: float
    fu: float


class Made(StrEnum):
    """How the loosest holes of a ply are made, slots as they lie to the force."""

    STANDARD = "standard"
    OVERSIZE = "oversize"
    SHORT_ACROSS = "short slots across the force"
    SHORT_ALONG = "short slots along the force"
    LONG_ACROSS = "long slots across the force"
    LONG_ALONG = "long slots along the force"


class Bolting(NamedTuple):
    """Bolts of a group: their size and grade, whether threads lie in the shear plane, planes of shear, hole
    diameter, how many bolts the group is worth (`worth`) of how many there are; how its loosest holes are `made` and
    how long their slots are; the share of the force that the most loaded bolt has along it and across it, where that
    is reckoned elastically."""

    size: BoltSize
    grade: str
    threads: bool
    planes: int
    hole: float
    worth: float
    number: int
    made: Made = Made.STANDARD
    slot: float = 0.0
    share: tuple[float, float] = (0.0, 0.0)

    @property
    def wide(self) -> float:
        """The hole's size across the force."""
        return self.slot if self.made in (Made.SHORT_ACROSS, Made.LONG_ACROSS) else self.hole

    @property
    def slips(self) -> bool:
        """Whether its holes hold the force by friction alone."""
        return self.made in (Made.OVERSIZE, Made.SHORT_ALONG, Made.LONG_ALONG)


class Code(Protocol):
    """A standard and its method. Demands in N and N mm, lengths in mm."""

    name: str
    units: Units
    conventional: bool  # whether single plates that keep to a list of limits are let off the bending of their bolts
    underrun: float  # how much shorter a beam may come from the mill or saw than drawn, at each end, mm

    def bolt_shear(self, where: str, demand: float, b: Bolting) -> Limit: ...

    def bearing(self, where: str, demand: float, b: Bolting, t: float, steel: Steel, end: float, pitch: float,
        side: float, rows: int, apart: float = 0.0) -> Limit: ...  # fmt: skip

    def eccentric(self, points: tuple[tuple[float, float], ...], off: float) -> tuple[float, tuple[float, float]]: ...

    def slip(self, where: str, demand: float, b: Bolting, faying: str) -> Limit: ...

    def bolt_tension(self, where: str, demand: float, b: Bolting) -> Limit: ...

    def threaded_rod(self, where: str, demand: float, thread: BoltSize, steel: Steel) -> Limit: ...

    def shear_yielding(self, where: str, demand: float, gross: float, steel: Steel) -> Limit: ...

    def shear_rupture(self, where: str, demand: float, net: float, steel: Steel) -> Limit: ...

    def block_shear(self, where: str, demand: float, gross_shear: float, net_shear: float, net_tension: float,
        steel: Steel, even: bool = True, concentric: bool = False) -> Limit: ...  # fmt: skip

    def tension_yielding(self, where: str, demand: float, gross: float, steel: Steel) -> Limit: ...

    def tension_rupture(self, where: str, demand: float, net: float, lag: float, steel: Steel) -> Limit: ...

    def compression(self, where: str, demand: float, area: float, steel: Steel, length: float,
        radius: float) -> Limit: ...  # fmt: skip

    def bending(self, where: str, demand: float, depth: float, t: float, steel: Steel) -> Limit: ...

    def fillet(self, where: str, demand: float, leg: float, length: float, steel: Steel,
        across: bool = False) -> Limit: ...  # fmt: skip

    def flange_bending(self, where: str, demand: float, tf: float, steel: Steel) -> Limit: ...

    def wall_bending(self, where: str, demand: float, t: float, beta: float, eta: float, steel: Steel) -> Limit: ...

    def ring_bending(self, where: str, demand: float, t: float, d: float, long: float, steel: Steel) -> Limit: ...

    def branch_bending(self, where: str, demand: float, t: float, d: float, branch: float, steel: Steel) -> Limit: ...

    def branch_punching(self, where: str, demand: float, t: float, branch: float, lean: float,
        steel: Steel) -> Limit: ...  # fmt: skip

    def web_yielding(self, where: str, demand: float, tw: float, k: float, bearing: float, steel: Steel,
        near_end: bool = False) -> Limit: ...  # fmt: skip

    def web_crippling(self, where: str, demand: float, tw: float, tf: float, d: float, bearing: float, steel: Steel,
        near_end: bool = False) -> Limit: ...  # fmt: skip

    def panel_shear(self, where: str, demand: float, d: float, tw: float, steel: Steel) -> Limit: ...

    def coped_bending(self, where: str, demand: float, h: float, tw: float, cope: float, d: float, steel: Steel,
        modulus: float, plastic: float) -> Limit: ...  # fmt: skip

    def concrete_bearing(self, where: str, demand: float, area: float, fc: float) -> Limit: ...

    def concrete_stress(self, fc: float) -> Worked: ...

    def stiff_reach(self, t: float, steel: Steel, fc: float) -> Worked | None: ...

    def plate_bending(self, where: str, pressure: float, reach: float, t: float, steel: Steel) -> Limit: ...

    def net_hole(self, hole: float) -> float: ...

    def tube_wall(self, nominal: float, grade: str) -> float: ...

    def beam_moment(self, steel: Steel, plastic: float) -> float: ...
