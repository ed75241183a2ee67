"""What a piece's sheet shows: its bodies in the main part's frame, the views it needs, and what is fixed to it."""

from __future__ import annotations

import msgspec
import numpy as np

from uncus.frame.placement import Placement
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
from uncus.steel.features import EndCut, Face
from uncus.steel.forming import laid_flat, unrolled
from uncus.steel.joint import Weld
from uncus.steel.part import Part, rolled


class Fixed(msgspec.Struct, frozen=True):
    """A part fixed to the main one: placed in its frame, with its mark and weld, and the axis its plane is square to."""

    part: Part
    place: Placement
    mark: str
    weld: Weld | None
    normal: str  # x, y, z or "" where it is skewed

    @property
    def centre(self) -> np.ndarray:
        low, high = self.part.depth_range
        return self.place.to_model((self.part.length / 2, 0.0, (low + high) / 2))

    def box(self) -> tuple[np.ndarray, np.ndarray]:
        """Least and greatest corner in the main part's frame."""
        low, high = self.part.depth_range
        y0, y1 = self.part.y_range
        corners = self.place.to_model([(x, y, z) for x in (0, self.part.length) for y in (y0, y1) for z in (low, high)])
        return corners.min(axis=0), corners.max(axis=0)


class Section(msgspec.Struct, frozen=True):
    """A section across the main part at `x`: what is fixed there, and how many places look like it."""

    x: float
    fixed: tuple[Fixed, ...]
    others: tuple[float, ...]
    at_end: bool


class Subject(msgspec.Struct, frozen=True):
    main: Part
    fixed: tuple[Fixed, ...] = ()

    @property
    def bodies(self) -> list[tuple[Part, Placement]]:
        return [(self.main, Placement.identity()), *((f.part, f.place) for f in self.fixed)]

    @property
    def views(self) -> list[str]:
        """Top and bottom only where they say something that the front does not."""
        names = ["front"]
        faces = {h.face for h in self.main.holes}
        if Face.TOP in faces or any(f.normal == "z" for f in self.fixed):
            names.insert(0, "top")
        if Face.BOTTOM in faces:
            names.append("bottom")
        return names

    @property
    def sections(self) -> list[Section]:
        """One section for each different set of plates that stand across the main part."""
        across = sorted((f for f in self.fixed if f.normal == "x"), key=lambda f: float(f.centre[0]))
        stations: list[list[Fixed]] = []
        for f in across:
            if stations and abs(stations[-1][0].centre[0] - f.centre[0]) < 60:
                stations[-1].append(f)
            else:
                stations.append([f])
        found: dict[tuple[object, ...], Section] = {}
        for station in stations:
            x = float(np.mean([f.centre[0] for f in station]))
            key = tuple(sorted((f.mark, *np.round(f.centre[1:], 0).tolist()) for f in station))
            known = found.get(key)
            if known:
                found[key] = msgspec.structs.replace(known, others=(*known.others, x))
            else:
                end = x < 30 or x > self.main.length - 30
                found[key] = Section(x, tuple(station), (), end)
        return list(found.values())

    def section_bodies(self, section: Section) -> list[tuple[Part, Placement]]:
        """A short stub of the main part with what is fixed at the section."""
        assert self.main.section is not None
        stub, _ = rolled(self.main.section, "", "", EndCut(0.0), EndCut(20.0))
        start = section.x - 10.0
        if section.at_end:  # the stub stands behind the plate, as the member does
            start = 0.0 if section.x < self.main.length / 2 else self.main.length - 20.0
        return [(stub, Placement((start, 0, 0), np.eye(3))), *((f.part, f.place) for f in section.fixed)]


def _normal(place: Placement) -> str:
    along = np.abs(place.y)
    return "xyz"[int(along.argmax())] if along.max() > 0.9998 else ""


def of_assembly(assembly: Assembly, marks: Marks) -> Subject:
    """The assembly's parts in its main part's frame; a main part that is rolled, and what is fixed to it, as it is before."""
    inverse = assembly.main.placement.inverse
    fixed = []
    for piece in assembly.pieces[1:]:
        weld = next((w for w in assembly.welds if piece.id in w.joins), None)
        place = unrolled(assembly.main.part, inverse @ piece.placement)
        fixed.append(Fixed(piece.part, place, marks.of_part(piece.id), weld, _normal(place)))
    fixed.sort(
        key=lambda f: (round(float(f.centre[0]), 1), round(float(f.centre[2]), 1), round(float(f.centre[1]), 1), f.mark)
    )
    return Subject(laid_flat(assembly.main.part), tuple(fixed))
