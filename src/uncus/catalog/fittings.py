"""Fittings of tie rods by the rod's thread: a clevis for each end and a turnbuckle between two lengths, as one maker
makes them. The maker is made up; an office puts its own maker's sizes in `data/rod_fittings.csv`."""

from __future__ import annotations

from functools import cache

import msgspec

from uncus.catalog.bolts import BoltSize, bolt_sizes, table
from uncus.catalog.sections import Form, Section

MAKER = "Northmoor Rigging"
_SAME = 0.05  # mm between a rod and the thread that is cut on it


class RodFitting(msgspec.Struct, frozen=True):
    """mm and kg. A clevis: `jaw` the room between its cheeks, `over` both of them, `high` along them square to the
    rod; from its pin `tip` to the cheeks' free end, `throat` to the bottom of the jaw, `long` to its back; `engage`
    the thread in it. A turnbuckle: `body` across, `sleeve` long, `apart` the rods' ends in it as drawn."""

    name: str
    system: str
    jaw: float
    over: float
    high: float
    tip: float
    throat: float
    long: float
    engage: float
    kg: float
    body: float
    sleeve: float
    apart: float
    sleeve_kg: float

    @property
    def clevis(self) -> str:
        return f"CLEVIS {self.name}"

    @property
    def turnbuckle(self) -> str:
        return f"TURNBUCKLE {self.name}"


@cache
def rod_fittings() -> dict[str, RodFitting]:
    """Every set by its thread, smallest first within each system."""
    return table("rod_fittings.csv", RodFitting, plain=("kg", "sleeve_kg"))


def thread_of(section: Section) -> BoltSize | None:
    """The thread that is cut on a round bar's ends; None where no fitting is made for it."""
    if section.form is not Form.ROUND:
        return None
    return next((bolt_sizes()[n] for n in rod_fittings() if abs(bolt_sizes()[n].d - section.d) < _SAME), None)
