"""The list of kinds: a new kind is one file and one name here."""

from uncus.connect.kind import Kind
from uncus.connect.listed import Listed
from uncus.job.records import Connection

_FILES = [
    "shear_tab",
    "double_angle",
    "end_plate",
    "seat",
    "moment_end_plate",
    "flange_plates",
    "welded_moment",
    "column_splice",
    "beam_splice",
    "brace_splice",
    "knee",
    "apex",
    "base_plate",
    "cap_plate",
    "gusset_corner",
    "gusset_tab",
    "gusset_beam",
    "gusset_chevron",
    "gusset_base",
    "gusset_crossing",
    "gusset_plan",
    "through_plate",
    "end_tee",
    "welded_end",
    "mitred_ends",
    "wall_bearing",
    "setback",
]  # in the order in which they are offered
KINDS: Listed[Kind] = Listed("uncus.connect", _FILES)


def also_served(record: Connection) -> tuple[str, ...]:
    """The other members whose ends the same joint serves, such as the other side of a splice."""
    kind = KINDS.get(record.kind)
    found = {"support": (record.support,), "others": record.others}.get(kind.serves if kind else "", ())
    return tuple(id for id in found if id)
