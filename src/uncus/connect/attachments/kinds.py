"""The list of kinds of attachment: a new kind is one file and one name here."""

from uncus.connect.attachments.kind import AttachmentKind
from uncus.connect.listed import Listed

_FILES = [
    "stiffeners",
    "end_plates",
    "nailer_holes",
    "shelf_plates",
    "bearing_plates",
    "joist_seats",
    "outriggers",
    "lifting_lugs",
    "studs",
    "safety_holes",
    "edge_plates",
    "bought_items",
    "vent_holes",
    "crossing_bolts",
    "welded_on",
    "bolted_on",
    "pinned_in",
    "anchored",
    "concrete_anchors",
]  # in the order in which they are offered
ATTACHMENTS: Listed[AttachmentKind] = Listed("uncus.connect.attachments", _FILES)
