"""Makes the made-up architect's model that ships with the sample job: slab, walls, doors and windows of the boat hall.

PYTHONPATH=src:. python tools/architect_model.py
"""

import re
import uuid
from pathlib import Path

import ifcopenshell.guid
from tests.reference.made_up import Written, moved, turned

from uncus.units import FOOT, INCH

OUT = Path(__file__).parent.parent / "src" / "uncus" / "sample" / "data" / "tern-point-hall.ifc"
LONG, DEEP = 64 * FOOT, 40 * FOOT  # of the grid
FREE, THICK = 20 * INCH, 8 * INCH  # from the grid to a wall's inner face; a wall
HIGH, FOOT_OF = 9 * FOOT, -2 * INCH  # of walls
_NAMES = uuid.UUID("5d0e2c2e-6a43-4ab9-9d5c-7c1d3f0a9b11")


def guid(name: str) -> str:
    return ifcopenshell.guid.compress(uuid.uuid5(_NAMES, name).hex)


class Hall(Written):
    def wall(self, name, long, matrix, doors=()):
        """A wall along x of a placement, its inner face at y = 0, with openings (at, wide, high, sill) and what fills
        them."""
        made = self.product("IfcWall", self.shape(self.box(long, THICK, HIGH - FOOT_OF)), matrix, name=name,
            guid=guid(name), material="Larch boarding on studs", layer="A-WALL")  # fmt: skip
        for n, (at, wide, high, sill) in enumerate(doors):
            there = self.placement(made.ObjectPlacement, moved(at, 0, sill))
            hole = self.shape(self.box(wide, THICK * 2, high, (0, -THICK / 2, 0)))
            opening = self.root("IfcOpeningElement", guid(f"{name} opening {n}"), ObjectPlacement=there,
                Name="Opening", Representation=hole)  # fmt: skip
            self.root("IfcRelVoidsElement", guid(f"{name} voids {n}"), RelatingBuildingElement=made,
                RelatedOpeningElement=opening)  # fmt: skip
            kind = "IfcWindow" if sill else "IfcDoor"
            words = f"{name}, {'window' if sill else 'boat doors' if wide > 3000 else 'door'} {n + 1}"
            leaf = self.shape(self.box(wide, 2 * INCH, high, (0, 3 * INCH, 0)))
            layer = "A-GLAZ" if sill else "A-DOOR"
            self.product(kind, leaf, matrix @ moved(at, 0, sill), name=words, guid=guid(words), layer=layer,
                OverallHeight=high * self.k, OverallWidth=wide * self.k)  # fmt: skip


def main() -> None:
    w = Hall("IFC4", "m")
    slab = w.box(LONG + 2 * (FREE + THICK), DEEP + 2 * (FREE + THICK), 10 * INCH, (-FREE - THICK, -FREE - THICK,
        FOOT_OF - 10 * INCH))  # fmt: skip
    w.product("IfcSlab", w.shape(slab), name="Hall slab", guid=guid("slab"), material="Concrete", layer="A-FLOR")
    door, high = 13 * FOOT, 8 * FOOT
    side = DEEP + 2 * (FREE + THICK)
    west = moved(-FREE, -FREE - THICK, FOOT_OF) @ turned(90)
    short = 32 * FOOT  # where the outside stair begins
    east = moved(LONG + FREE, short, FOOT_OF) @ turned(-90)
    w.wall("West wall", side, west, ((4 * FOOT, door, high, 0.0), (26 * FOOT, door, high, 0.0)))
    w.wall("East wall", short + FREE + THICK, east, ((6 * FOOT, 3 * FOOT, 7 * FOOT, 0.0),))
    north = moved(LONG + FREE, DEEP + FREE, FOOT_OF) @ turned(180) @ moved(0, -THICK, 0)
    w.wall("North wall", LONG + 2 * FREE, north, tuple((n * 11 * FOOT + 3 * FOOT, 5 * FOOT, 3 * FOOT, 4 * FOOT) for n in
        range(6)))  # fmt: skip
    for name, one in (("projects", w.file.by_type("IfcProject")), ("storeys", w.file.by_type("IfcBuildingStorey"))):
        one[0].GlobalId = guid(name)
    for n, rel in enumerate(w.file.by_type("IfcRoot")):
        if rel.is_a("IfcRelationship") or rel.is_a("IfcSpatialElement"):
            rel.GlobalId = guid(f"{rel.is_a()} {n}")
    OUT.parent.mkdir(exist_ok=True)
    w.save(OUT)
    stamped = re.sub(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d", "2026-11-29T00:00:00", OUT.read_text(), count=1)
    OUT.write_text(stamped)
    print(f"{OUT.name}: {OUT.stat().st_size:,} bytes")


if __name__ == "__main__":
    main()
