"""The list of kinds: a new kind is one file and one name here."""

from uncus.connect import (
    apex,
    base_plate,
    beam_splice,
    brace_splice,
    cap_plate,
    column_splice,
    double_angle,
    end_plate,
    end_tee,
    flange_plates,
    gusset_base,
    gusset_beam,
    gusset_chevron,
    gusset_corner,
    gusset_crossing,
    gusset_plan,
    gusset_tab,
    knee,
    moment_end_plate,
    seat,
    setback,
    shear_tab,
    through_plate,
    wall_bearing,
    welded_end,
    welded_moment,
)
from uncus.connect.kind import Kind

_MODULES = (
    shear_tab, double_angle, end_plate, seat, moment_end_plate, flange_plates, welded_moment, column_splice, beam_splice,
    brace_splice, knee, apex, base_plate, cap_plate, gusset_corner, gusset_tab, gusset_beam, gusset_chevron, gusset_base, gusset_crossing, gusset_plan, through_plate, end_tee, welded_end, wall_bearing, setback,
)  # fmt: skip
KINDS: dict[str, Kind] = {module.KIND.name: module.KIND for module in _MODULES}
