"""The list of kinds: a new kind is one file and one name here."""

from importlib import import_module

from uncus.connect.kind import Kind
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
_ALL: list[Kind] = [import_module(f"uncus.connect.{file}").KIND for file in _FILES]
KINDS: dict[str, Kind] = {kind.name: kind for kind in _ALL}


def also_served(record: Connection) -> tuple[str, ...]:
    """The other members whose ends the same joint serves, such as the other side of a splice."""
    kind = KINDS.get(record.kind)
    found = {"support": (record.support,), "others": record.others}.get(kind.serves if kind else "", ())
    return tuple(id for id in found if id)
