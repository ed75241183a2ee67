"""Which section of the catalogue a profile of others is: by its parameters, by its name, or by its outline, and how it
lies in its plane."""

from __future__ import annotations

import math
import re
from functools import cache, lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Form, Section, UnknownSection, plate_section, section, sections
from uncus.reference.model import Profile
from uncus.steel import profile as own

Array = NDArray[np.float64]
_SIZE = 0.6, 0.004  # mm, and share, that a depth or width may be out
_WALL = 0.4, 0.085  # of a thickness: the wall of a tube is told by name or as it is designed with
_AREA = 0.045  # share that the area of a drawn outline may be out: arcs come as few pieces or are left out
_LIKENESS = 0.06  # share of the area in which an outline may differ from the section's
_SWAP = np.array([[0.0, 1.0], [1.0, 0.0]])
_QUARTER = np.array([[0.0, -1.0], [1.0, 0.0]])
EVEN_IN_Y = (Form.I, Form.TEE, Form.BOX, Form.FLAT, Form.TUBE, Form.ROUND)


class Lies(NamedTuple):
    """A section and how it lies in a profile's plane: `turn` (2 x 2) takes its (y, z) there, `at` is its middle. With a
    `turn` that mirrors, it is the section of the bar seen from its other end."""

    section: Section
    turn: Array
    at: Array
    by: str


class Names(msgspec.Struct, frozen=True):
    """What others' names mean to us."""

    sections: dict[str, str] = {}
    grades: dict[str, str] = {}
    imperial: bool = True

    @staticmethod
    def plain(name: str) -> str:
        """A name as it is looked up: without what people write one way today and another tomorrow."""
        return re.sub(r"[\s_·]+", "", name).upper().replace("×", "X").replace("*", "X")


def lies(profile: Profile, called: str, names: Names) -> Lies | str:
    """The section that a profile is; otherwise why there is none. `called` is what its material calls it."""
    return _lies(profile.key, called, msgspec.json.encode(names))


@lru_cache(maxsize=4096)
def _lies(key: bytes, called: str, given: bytes) -> Lies | str:
    profile, names = msgspec.json.decode(key, type=Profile), msgspec.json.decode(given, type=Names)
    said = [name for name in (profile.name, called) if name.strip()]
    learnt = next((names.sections[Names.plain(n)] for n in said if Names.plain(n) in names.sections), "")
    shape = _of_sizes(profile)
    if isinstance(shape, str):
        return shape
    if shape is not None:
        return _by_sizes(profile, shape, learnt, said, names)
    outline = drawn(profile)
    if outline is None:
        return f"its profile ({profile.kind.removeprefix('Ifc').removesuffix('ProfileDef')}) is none that steel has"
    return by_outline(outline, said, names)


# -- by parameters ------------------------------------------------------------------------------------------------
class _Sizes(NamedTuple):
    form: Form
    d: float
    b: float
    tw: float
    tf: float
    r: float
    turn: Array  # of the section as it is tabulated to the profile's own axes


def _of_sizes(p: Profile) -> _Sizes | str | None:
    """What a profile's parameters say; a reason where no such section is rolled; None where it is drawn."""
    g, one = p.sizes.get, np.eye(2)
    match p.kind:
        case "IfcIShapeProfileDef":
            return _Sizes(Form.I, g("OverallDepth", 0.0), g("OverallWidth", 0.0), g("WebThickness", 0.0),
                g("FlangeThickness", 0.0), g("FilletRadius", 0.0), one)  # fmt: skip
        case "IfcAsymmetricIShapeProfileDef":
            bottom = g("BottomFlangeWidth", g("OverallWidth", 0.0))
            top = g("TopFlangeWidth", bottom)
            thick = g("BottomFlangeThickness", g("FlangeThickness", 0.0)), g("TopFlangeThickness", 0.0)
            if abs(bottom - top) > _SIZE[0] or (thick[1] and abs(thick[0] - thick[1]) > _WALL[0]):
                return "its flanges differ, and no such section is in the catalogue"
            return _Sizes(Form.I, g("OverallDepth", 0.0), top, g("WebThickness", 0.0), thick[0],
                g("BottomFlangeFilletRadius", g("FilletRadius", 0.0)), one)  # fmt: skip
        case "IfcUShapeProfileDef":
            return _Sizes(Form.CHANNEL, g("Depth", 0.0), g("FlangeWidth", 0.0), g("WebThickness", 0.0),
                g("FlangeThickness", 0.0), g("FilletRadius", 0.0), one)  # fmt: skip
        case "IfcTShapeProfileDef":
            return _Sizes(Form.TEE, g("Depth", 0.0), g("FlangeWidth", 0.0), g("WebThickness", 0.0),
                g("FlangeThickness", 0.0), g("FilletRadius", 0.0), one)  # fmt: skip
        case "IfcLShapeProfileDef":
            d, b = g("Depth", 0.0), g("Width", g("Depth", 0.0))
            t, r = g("Thickness", 0.0), g("FilletRadius", 0.0)
            return _Sizes(Form.ANGLE, max(d, b), min(d, b), t, t, r, one if d >= b else _SWAP)
        case "IfcRectangleHollowProfileDef":
            b, d, t = g("XDim", 0.0), g("YDim", 0.0), g("WallThickness", 0.0)
            return _Sizes(Form.BOX, max(d, b), min(d, b), t, t, g("OuterFilletRadius", 0.0),
                one if d >= b else _QUARTER)  # fmt: skip
        case "IfcRectangleProfileDef":
            b, d = g("XDim", 0.0), g("YDim", 0.0)
            return _Sizes(Form.FLAT, max(d, b), min(d, b), min(d, b), 0.0, 0.0, one if d >= b else _QUARTER)
        case "IfcCircleHollowProfileDef":
            d, t = 2 * g("Radius", 0.0), g("WallThickness", 0.0)
            return _Sizes(Form.TUBE, d, d, t, t, 0.0, one)
        case "IfcCircleProfileDef":
            d = 2 * g("Radius", 0.0)
            return _Sizes(Form.ROUND, d, d, d / 2, d / 2, 0.0, one)
    return None


def _by_sizes(profile: Profile, s: _Sizes, learnt: str, said: list[str], names: Names) -> Lies | str:
    if not all(math.isfinite(v) and v >= 0 for v in (s.d, s.b, s.tw, s.tf, s.r)) or min(s.d, s.b, s.tw) <= 0:
        return "its profile has sizes that are none"
    turn = np.array(profile.turn).reshape(2, 2) @ s.turn
    at = np.array(profile.at)
    if learnt:
        return Lies(section(learnt), turn, at, "learnt")
    if s.form in (Form.FLAT, Form.ROUND):
        return _solid_bar(s, turn, at, said, names)
    near = candidates(s.form, s.d, s.b, s.tw, s.tf)
    if not near:
        return f"no section of the catalogue measures {s.d:.1f} x {s.b:.1f} x {s.tw:.1f} mm"
    called = [found for name in said if (found := named(name)) is not None]
    chosen = next((c for c in called if c in near), None)
    if chosen is not None:
        return Lies(chosen, turn, at, "name and sizes")
    return Lies(min(near, key=lambda c: _off(c, s)), turn, at, "sizes")


def _solid_bar(s: _Sizes, turn: Array, at: Array, said: list[str], names: Names) -> Lies | str:
    try:
        if s.form is Form.FLAT:
            return Lies(plate_section(s.b, s.d, names.imperial), turn, at, "sizes")
        inches = s.d / 25.4 * 16
        imperial = abs(inches - round(inches)) < 0.02
        return Lies(section(f"ROD{s.d / 25.4:.4f}" if imperial else f"RD{s.d:.3f}"), turn, at, "sizes")
    except UnknownSection as error:
        return str(error)[0].lower() + str(error)[1:].rstrip(".")


def _off(c: Section, s: _Sizes) -> float:
    """How far a section is from some sizes, thickness counting most."""
    radius = abs(c.r - s.r) * 0.05 if s.r else 0.0
    return abs(c.d - s.d) + abs(c.b - s.b) + 4 * abs(c.tw - s.tw) + 4 * abs(c.tf - s.tf) + radius


@cache
def _table(form: Form) -> tuple[tuple[Section, ...], Array]:
    found = tuple(s for s in sections().values() if s.form is form)
    return found, np.array([(s.d, s.b, s.tw, s.tf, own.area(s)) for s in found]).reshape(-1, 5)


def candidates(form: Form, d: float, b: float, tw: float, tf: float) -> list[Section]:
    """Sections of a form that measure so, within what makers and models differ by."""
    found, sizes = _table(form)
    limit = np.array([max(_SIZE[0], _SIZE[1] * d), max(_SIZE[0], _SIZE[1] * b), max(_WALL[0], _WALL[1] * tw),
        max(_WALL[0], _WALL[1] * tf)])  # fmt: skip
    ok = (np.abs(sizes[:, :4] - (d, b, tw, tf)) <= limit).all(axis=1)
    return [found[n] for n in np.flatnonzero(ok)]


@cache
def twins(one: Section) -> tuple[str, ...]:
    """Other sections that measure the same to a hundredth of a millimetre: only a name tells them apart."""
    found, sizes = _table(one.form)
    ok = (np.abs(sizes[:, :4] - (one.d, one.b, one.tw, one.tf)) < 0.01).all(axis=1)
    return tuple(found[n].name for n in np.flatnonzero(ok) if found[n].name != one.name)


def named(name: str) -> Section | None:
    """The section of a name, or of a part of one such as `Beam W12X26 : 4`."""
    words = [name, *re.split(r"[:;,/|()]", name), *name.split()]
    for word in dict.fromkeys(w.strip() for w in words):
        if not 2 <= len(word) <= 40 or not any(c.isdigit() for c in word):
            continue
        try:
            return section(word)
        except UnknownSection:
            continue
    return None


def shape_of(profile: Profile) -> BaseGeometry | None:
    """A profile's outline in its plane, whether it is drawn or told by sizes."""
    if profile.outer:
        return drawn(profile)
    s = _of_sizes(profile)
    if not isinstance(s, _Sizes) or min(s.d, s.b, s.tw) <= 0:
        return None
    zero = 0.0
    like = Section("", "", s.form, zero, zero, s.d, s.b, s.tw, s.tf, s.r, zero, zero, zero, zero, zero)
    turn = np.array(profile.turn).reshape(2, 2) @ s.turn
    return shapely.affinity.affine_transform(own.outline(like), [*turn.reshape(-1).tolist(), *profile.at])


# -- by outline ---------------------------------------------------------------------------------------------------
def drawn(profile: Profile) -> BaseGeometry | None:
    """The outline of a profile that is drawn."""
    if len(profile.outer) < 3:
        return None
    made = shapely.Polygon(profile.outer, [ring for ring in profile.inner if len(ring) >= 3])
    if not made.is_valid:
        made = shapely.make_valid(made)
    if made.area <= 0:
        return None
    turn, at = np.array(profile.turn).reshape(2, 2), profile.at
    return shapely.affinity.affine_transform(made, [*turn.reshape(-1).tolist(), *at])


def by_outline(outline: BaseGeometry, said: list[str], names: Names) -> Lies | str:
    """The section whose outline this is, in whatever way it lies."""
    learnt = [section(names.sections[Names.plain(n)]) for n in said if Names.plain(n) in names.sections]
    called = learnt or [found for name in said if (found := named(name)) is not None]
    best: tuple[float, Lies] | None = None
    for angle in _directions(outline):
        for turn in _turns(angle):
            local = shapely.affinity.affine_transform(outline, [*turn.T.reshape(-1).tolist(), 0.0, 0.0])
            y0, z0, y1, z1 = local.bounds
            b, d, middle = y1 - y0, z1 - z0, np.array([(y0 + y1) / 2, (z0 + z1) / 2])
            local = shapely.affinity.translate(local, -middle[0], -middle[1])
            for one in _alike(local, d, b, called, bool(learnt)):
                off = own.outline(one).symmetric_difference(local).area / local.area
                off += 1e-7 * (np.linalg.det(turn) < 0) + (0.0 if one in called else 1e-6)
                if best is None or off < best[0] - 1e-9:
                    best = off, Lies(one, turn, turn @ middle, "name and outline" if one in called else "outline")
    if best is None or (best[0] > _LIKENESS and not learnt):
        flat = _as_flat(outline, names)
        return flat if flat is not None else "no section of the catalogue has such an outline"
    return best[1]


def _alike(local: BaseGeometry, d: float, b: float, called: list[Section], learnt: bool) -> list[Section]:
    """Sections that could have an outline, by its size and area."""
    if learnt:
        return called
    found: list[Section] = []
    for form in Form:
        some, sizes = _table(form)
        if not len(some):
            continue
        ok = np.abs(sizes[:, 0] - d) <= max(1.0, 2 * _SIZE[1] * d)
        ok &= np.abs(sizes[:, 1] - b) <= max(1.0, 2 * _SIZE[1] * b)
        ok &= np.abs(sizes[:, 4] - local.area) <= _AREA * local.area
        found += [some[n] for n in np.flatnonzero(ok)]
    return found


def _directions(outline: BaseGeometry) -> list[float]:
    """Angles (0 to 90 degrees, in radians) that most of an outline's edges lie at."""
    ring = np.asarray(shapely.get_parts(outline)[0].exterior.coords) if outline.geom_type == "MultiPolygon" else \
        np.asarray(outline.exterior.coords)  # fmt: skip
    edges = np.diff(ring, axis=0)
    sizes = np.hypot(*edges.T)
    angles = np.arctan2(edges[:, 1], edges[:, 0]) % (math.pi / 2)
    found: list[float] = []
    for n in np.argsort(-sizes):
        angle = float(angles[n])
        if all(min(abs(angle - a), math.pi / 2 - abs(angle - a)) > 1e-3 for a in found):
            found.append(angle)
        if len(found) == 2:
            break
    return found


def _turns(angle: float) -> list[Array]:
    """Every way that a section may lie with its sides at an angle: turned by quarters, and mirrored."""
    c, s = math.cos(angle), math.sin(angle)
    turn = np.array([[c, -s], [s, c]])
    quarters = [turn, turn @ _QUARTER, turn @ _QUARTER @ _QUARTER, turn @ _QUARTER.T]
    return quarters + [q @ np.diag([-1.0, 1.0]) for q in quarters]


def _as_flat(outline: BaseGeometry, names: Names) -> Lies | None:
    """A plain rectangle."""
    box = shapely.minimum_rotated_rectangle(outline)
    if box.geom_type != "Polygon" or box.area <= 0 or outline.area < 0.998 * box.area:
        return None
    ring = np.asarray(box.exterior.coords)
    sides = ring[1] - ring[0], ring[2] - ring[1]
    long = max(sides, key=lambda v: float(np.hypot(*v)))
    short = min(sides, key=lambda v: float(np.hypot(*v)))
    z = long / np.hypot(*long)
    try:
        one = plate_section(float(np.hypot(*short)), float(np.hypot(*long)), names.imperial)
    except UnknownSection:
        return None
    centre = np.array([outline.centroid.x, outline.centroid.y])
    return Lies(one, np.column_stack([[z[1], -z[0]], z]), centre, "outline")


def upright_hand(found: Lies) -> tuple[Array, bool]:
    """The directions of a section's y and z in the profile's plane so that they are right-handed about the way it is
    swept, and whether the bar must be taken from its other end for that."""
    turn = found.turn
    if np.linalg.det(turn) > 0:
        return turn, False
    form = found.section.form
    if form in EVEN_IN_Y:
        return turn @ np.diag([-1.0, 1.0]), False
    if form is Form.CHANNEL:
        return turn @ np.diag([1.0, -1.0]), False
    if form is Form.ANGLE and abs(found.section.d - found.section.b) < 1e-6:
        return turn @ _SWAP, False
    return turn, True
