"""The list of kinds of attachment: a new kind is one file and one name here."""

from importlib import import_module

from uncus.connect.attachments.kind import AttachmentKind

_FILES = [
    "stiffeners",
    "end_plates",
    "nailer_holes",
    "shelf_plates",
    "bearing_plates",
    "outriggers",
    "lifting_lugs",
    "studs",
    "safety_holes",
    "edge_plates",
    "bought_items",
    "vent_holes",
    "crossing_bolts",
    "concrete_anchors",
]  # in the order in which they are offered
_ALL: list[AttachmentKind] = [import_module(f"uncus.connect.attachments.{file}").KIND for file in _FILES]
ATTACHMENTS: dict[str, AttachmentKind] = {kind.name: kind for kind in _ALL}
