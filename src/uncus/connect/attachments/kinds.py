"""The list of kinds of attachment: a new kind is one file and one name here."""

from uncus.connect.attachments import (
    bearing_plates,
    bought_items,
    concrete_anchors,
    crossing_bolts,
    edge_plates,
    end_plates,
    lifting_lugs,
    nailer_holes,
    outriggers,
    safety_holes,
    shelf_plates,
    stiffeners,
    studs,
    vent_holes,
)
from uncus.connect.attachments.kind import AttachmentKind

_MODULES = (
    stiffeners,
    end_plates,
    nailer_holes,
    shelf_plates,
    bearing_plates,
    outriggers,
    lifting_lugs,
    studs,
    safety_holes,
    edge_plates,
    bought_items,
    vent_holes,
    crossing_bolts,
    concrete_anchors,
)
ATTACHMENTS: dict[str, AttachmentKind] = {module.KIND.name: module.KIND for module in _MODULES}
