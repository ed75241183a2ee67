"""The list of kinds: a new kind is one file and one name here."""

from uncus.connect import (
    base_plate,
    double_angle,
    end_plate,
    flange_plates,
    moment_end_plate,
    seat,
    shear_tab,
    welded_moment,
)
from uncus.connect.kind import Kind

_MODULES = (base_plate, shear_tab, double_angle, end_plate, seat, moment_end_plate, flange_plates, welded_moment)
KINDS: dict[str, Kind] = {module.KIND.name: module.KIND for module in _MODULES}
