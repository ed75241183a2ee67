"""The list of kinds: a new kind is one file and one name here."""

from uncus.connect import base_plate, shear_tab
from uncus.connect.kind import Kind

KINDS: dict[str, Kind] = {kind.name: kind for kind in (base_plate.KIND, shear_tab.KIND)}
