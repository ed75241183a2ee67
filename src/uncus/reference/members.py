"""Beams, columns, braces and plates of a reference as members of ours, or why they are not.

A product that was written from a member of ours gives that member back, where its body still stands where that has it.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
import shapely.affinity
from shapely.geometry.base import BaseGeometry

from uncus.catalog.grades import GRADES, plate_grades
from uncus.catalog.sections import Form, Section, UnknownSection, plate_section, section
from uncus.frame.axes import is_vertical, member_frame, work_axes
from uncus.frame.outlines import OutlineError, circle, polygon, with_arcs
from uncus.frame.placement import Placement, tidied
from uncus.frame.plates import plate_in
from uncus.job.blanks import Blank, Corner, HoleRow, Ring
from uncus.job.errors import JobError
from uncus.job.records import Line, Member, Role, plain
from uncus.job.references import Reference
from uncus.reference.bodies import Bar, bar_of, plate_of
from uncus.reference.model import Array, Model, Product, Profile, SecondOf, Swept
from uncus.reference.placing import frame_of, placed
from uncus.reference.profiles import Lies, Names, by_outline, drawn, lies, twins, upright_hand
from uncus.units import Units

STEEL = ("IfcBeam", "IfcBeamStandardCase", "IfcColumn", "IfcColumnStandardCase", "IfcMember", "IfcMemberStandardCase",
    "IfcPlate", "IfcPlateStandardCase")  # fmt: skip
_OF_CLASS = {"IfcBeam": Role.BEAM, "IfcColumn": Role.COLUMN, "IfcMember": Role.BRACE, "IfcPlate": Role.PLATE}
_OF_KIND = {
    "BRACE": Role.BRACE,
    "PURLIN": Role.PURLIN,
    "POST": Role.POST,
    "STRUT": Role.STRUT,
    "RAFTER": Role.RAFTER,
    "STRINGER": Role.STRINGER,
    "STUD": Role.POST,
    "HANDRAIL": Role.RAIL,
    "CHORD": Role.BEAM,
    "COLLAR": Role.BEAM,
}
_OTHER = ("concrete", "timber", "wood", "glulam", "glass", "masonry", "brick", "aluminium", "aluminum", "gypsum")
_PARALLEL = math.cos(math.radians(0.02))
_ON = 0.05  # mm within which a line is on another, and a length a whole number of steps
_OURS = 0.1  # mm within which a product still stands where its record has it
_MIRROR = np.diag([-1.0, 1.0, 1.0])
_LARGEST_HOLE = 100.0  # mm up to which a circle in a plate is a hole


class Made(NamedTuple):
    """A product made into a member: what is to be said of it, and how its section was known."""

    product: Product
    member: Member
    by: str
    notes: tuple[str, ...] = ()


class Left(NamedTuple):
    """A product that stays a reference, and why."""

    product: Product
    why: str


class Settings(msgspec.Struct, frozen=True):
    """How products are made into members: the job's units, what names mean, and whether plates that are part of an
    assembly are made too (joints make those here)."""

    units: Units = Units.IMPERIAL
    names: Names = Names()
    fittings: bool = False


def is_steel(product: Product) -> bool:
    """Whether a product is of a class that members are made of."""
    return product.cls in STEEL


def made(model: Model, number: int, of: Reference, how: Settings) -> Made | Left:
    """The member that a product of a reference is. Raises nothing, whatever the product is."""
    product = model.products[number]
    try:
        return _made(model, number, product, of, how)
    except (JobError, OutlineError, UnknownSection, ValueError, ArithmeticError, shapely.GEOSException) as error:
        return Left(product, f"it cannot be made: {str(error)[:160].rstrip('.')}")


def _made(model: Model, number: int, product: Product, of: Reference, how: Settings) -> Made | Left:
    if not is_steel(product):
        return Left(product, "it is no beam, column, brace or plate")
    if product.why:
        return Left(product, product.why)
    material = product.material.casefold()
    if any(word in material for word in _OTHER):
        return Left(product, f"it is of {product.material}")
    if product.own:
        ours = _ours(model, number, product, of)
        if ours is not None:
            return ours
    elif product.owner in model.own_owners and not how.fittings:
        return Left(product, "it came with a joint where it was written")
    if product.cls.startswith("IfcPlate"):
        if product.owner and not how.fittings:
            return Left(product, "it is a plate of an assembly: joints make those here")
        return _plate(model, number, product, of, how)
    return _bar(model, number, product, of, how)


# -- what we wrote ------------------------------------------------------------------------------------------------
def _ours(model: Model, number: int, product: Product, of: Reference) -> Made | Left | None:
    """The member that a product was written from; None where it stands otherwise by now."""
    try:
        own = msgspec.json.decode(product.own, type=Member | SecondOf)
        if isinstance(own, SecondOf):
            return Left(product, "it is the second of a pair, which comes with the first")
        member, found = own, section(own.section)
    except (msgspec.MsgspecError, UnknownSection, RecursionError):
        return None
    if member.problem() is not None or abs(of.scale - 1.0) > 1e-9:
        return None
    instance = model.instance_of.get(number)
    if instance is None:
        return None
    member = msgspec.structs.replace(member, maker="")
    if product.swept is not None and member.blank is None and not member.is_rolled and member.climb is None:
        frame = member_frame(member, found)
        axis = np.array(product.swept.axes).reshape(3, 3)[:, 2]
        off = frame.to_local(np.array(product.swept.origin))[1:]
        astray = abs(float(axis @ frame.x)) < _PARALLEL or np.abs(off).max() > _OURS
        if (astray and member.double is None) or not _within(model, instance, member):
            return None
    elif not _within(model, instance, member):
        return None
    return Made(product, moved(member, frame_of(of)), "ours")


def _within(model: Model, instance: int, member: Member) -> bool:
    """Whether a body lies about a member's line: within its section of it, and between its ends or a little beyond."""
    points = model.points_of(instance)
    found = section(member.section)
    reach = 2.5 * max(found.d, found.b) + (member.double.gap if member.double else 0.0)
    reach += max(-member.left_back, -member.right_back, 0.0) + abs(member.rise) + abs(member.aside)
    a, b, bow = np.array(member.start), np.array(member.end), np.array(member.bow)
    if member.climb is not None:
        c = np.array([member.climb.x, member.climb.y])
        off = np.abs(np.linalg.norm(points[:, :2] - c, axis=1) - member.climb.radius(member.start))
        return bool(off.max() < reach + found.d)
    line = b - a
    t = np.clip((points - a) @ line / max(float(line @ line), 1e-9), 0.0, 1.0)
    off = points - a - t[:, None] * line - (4 * t * (1 - t))[:, None] * bow
    return bool(np.linalg.norm(off, axis=1).max() < reach + 0.1 * float(np.linalg.norm(bow)))


def moved(member: Member, frame: Placement) -> Member:
    """A member as it stands in a frame, its web where it was."""
    if np.array_equal(frame.axes, np.eye(3)) and not frame.origin.any():
        return member
    start, end = tidied(frame.to_model(member.start)), tidied(frame.to_model(member.end))
    old = work_axes(np.array(member.start), np.array(member.end), member.roll)
    z = frame.axes @ old.z
    climb = member.climb
    if climb is not None:
        axis = frame.to_model((climb.x, climb.y, 0.0))
        climb = msgspec.structs.replace(climb, x=float(axis[0]), y=float(axis[1]))
    turned = msgspec.structs.replace(member, start=start, end=end, bow=tidied(frame.axes @ np.array(member.bow)),
        climb=climb, roll_by="")  # fmt: skip
    return msgspec.structs.replace(turned, roll=roll_to(turned, z))


def roll_to(member: Member, z: Array) -> float:
    """The roll that turns a member's z to a direction square to it."""
    bare = work_axes(np.array(member.start), np.array(member.end))
    turn = math.degrees(math.atan2(-float(z @ bare.y), float(z @ bare.z)))
    near = round(turn)
    return float(near) + 0.0 if abs(turn - near) < 1e-5 else round(turn, 9)


# -- bars ---------------------------------------------------------------------------------------------------------
def _bar(model: Model, number: int, product: Product, of: Reference, how: Settings) -> Made | Left:
    instance = model.instance_of.get(number)
    swept = _scaled(product.swept, of.scale) if product.swept is not None else None
    notes: list[str] = []
    if swept is not None:
        axes, found = np.array(swept.axes).reshape(3, 3), lies(swept.profile, product.section, how.names)
        if isinstance(found, str):
            return Left(product, found)
        if np.linalg.det(axes) < 0:  # mapped as its mirror image
            axes, found = (
                axes @ _MIRROR,
                found._replace(turn=_MIRROR[:2, :2] @ found.turn, at=_MIRROR[:2, :2] @ found.at),
            )
        first, last = 0.0, swept.depth
        origin = np.array(swept.origin)
        if swept.cut and instance is not None:
            ends = _cut_ends(model, instance, of.scale, axes, origin, axes[:, :2] @ found.at)
            if ends is None:
                return Left(product, "its ends are cut so that it has no middle line")
            if ends[0] > first + _ON or ends[1] < last - _ON:
                notes.append("its ends are cut aslant: a joint or an end cut does that here")
            first, last = max(first, ends[0]), min(last, ends[1])
    else:
        if instance is None:
            return Left(product, "it has no shape")
        bar = _bar_of(model, instance, product, of.scale)
        if bar is None:
            return Left(product, "it is no straight bar of one section")
        found = by_outline(bar.outline, [n for n in (product.section, product.name) if n], how.names)
        if isinstance(found, str):
            return Left(product, found)
        axes, first, last, origin = bar.axes, bar.first, bar.last, np.zeros(3)
    return _placed_bar(product, of, how, found, Bar(axes, shapely.Point(), first, last), origin, notes)


def _placed_bar(
    product: Product, of: Reference, how: Settings, found: Lies, bar: Bar, origin: Array, notes: list[str]
) -> Made | Left:
    """A member of a section along a bar; its axis and offsets those of the product's own reference line, if any."""
    if bar.last - bar.first < 1.0:
        return Left(product, "nothing of it is left between its ends")
    hand, turned = upright_hand(found)
    frame = frame_of(of)
    line = origin + bar.axes[:, :2] @ found.at
    a, b = (placed_unit(of, line + bar.axes[:, 2] * at) for at in (bar.first, bar.last))
    z = frame.axes @ (bar.axes[:, :2] @ hand[:, 1])
    if turned:
        a, b = b, a
    role = _role(product, b - a)
    grade, said = _grade(product, found.section.form, how)
    notes += said
    if found.by in ("sizes", "outline") and (alike := twins(found.section)):
        notes.append(f"{' and '.join(alike[:3])} measure the same, and nothing says which it is")
    member = Member(role=role, section=found.section.name, start=tidied(a), end=tidied(b), line=Line.CENTRE,
        grade=grade)  # fmt: skip
    member = msgspec.structs.replace(member, roll=_least(roll_to(member, z), found.section))
    member = _on_axis(member, product, of) or member
    member = plain(member)
    if problem := member.problem():
        return Left(product, problem.rstrip(".")[0].lower() + problem.rstrip(".")[1:])
    return Made(product, member, found.by, tuple(notes))


def placed_unit(of: Reference, point: Array) -> Array:
    """A point that is already scaled in the job."""
    return placed(of, point / of.scale)


def _least(roll: float, of: Section) -> float:
    """The least roll that looks the same."""
    if of.form in (Form.TUBE, Form.ROUND):
        return 0.0
    step = 180.0 if of.form in (Form.I, Form.FLAT, Form.BOX) else 360.0
    if of.form is Form.BOX and abs(of.d - of.b) < 1e-6:
        step = 90.0
    least = (roll + step / 2) % step - step / 2
    return step / 2 if abs(least + step / 2) < 1e-7 else least + 0.0


def _scaled(swept: Swept, k: float) -> Swept:
    """A swept body of a file whose lengths are to be multiplied."""
    if k == 1.0:
        return swept
    p = swept.profile
    bigger = msgspec.structs.replace(p, sizes={n: v if n == "FlangeSlope" else v * k for n, v in p.sizes.items()},
        outer=tuple((x * k, y * k) for x, y in p.outer), at=(p.at[0] * k, p.at[1] * k),
        inner=tuple(tuple((x * k, y * k) for x, y in ring) for ring in p.inner))  # fmt: skip
    x, y, z = swept.origin
    return msgspec.structs.replace(swept, profile=bigger, origin=(x * k, y * k, z * k), depth=swept.depth * k)


def _points(model: Model, instance: int, scale: float) -> Array:
    return model.points_of(instance) * scale


def _bar_of(model: Model, instance: int, product: Product, scale: float) -> Bar | None:
    shape = model.shapes[int(model.shape[instance])]
    along = None
    if product.axis is not None:
        along = np.subtract(product.axis[1], product.axis[0])
        size = float(np.linalg.norm(along))
        along = along / size if size > 1.0 else None
    points = _points(model, instance, scale)
    bar = bar_of(points, shape.triangles, shape.lines, along) if along is not None else None
    return bar or bar_of(points, shape.triangles, shape.lines)


def _cut_ends(
    model: Model, instance: int, scale: float, axes: Array, origin: Array, middle: Array
) -> tuple[float, float] | None:
    """Where a body that is cut begins and ends on its middle line, from its origin."""
    shape = model.shapes[int(model.shape[instance])]
    points = _points(model, instance, scale) - origin
    bar = bar_of(points, shape.triangles, shape.lines, axes[:, 2])
    return None if bar is None else (bar.first, bar.last)


def _role(product: Product, way: Array) -> Role:
    base = product.cls.removesuffix("StandardCase")
    if product.kind in _OF_KIND:
        return _OF_KIND[product.kind]
    role = _OF_CLASS.get(base, Role.BEAM)
    if base == "IfcMember":
        size = float(np.linalg.norm(way))
        if is_vertical(way / size):
            return Role.POST
        return Role.BEAM if abs(float(way[2])) < 1e-3 * size else Role.BRACE
    return role


def _grade(product: Product, form: Form, how: Settings) -> tuple[str, list[str]]:
    """The grade that a material is, and what is to be said where it is none we know."""
    name = product.material
    if not name.strip():
        return "", []
    key = Names.plain(name)
    learnt = how.names.grades.get(key)
    if learnt in GRADES:
        return learnt, []
    fits = [g for g in GRADES if Names.plain(g) == key] or [
        g for g in GRADES if Names.plain(g).replace("-", "") in key.replace("-", "")]  # fmt: skip
    if fits:
        return max(fits, key=len), []
    return "", [f"its grade “{name}” is not known: it takes the usual one"]


def _on_axis(member: Member, product: Product, of: Reference) -> Member | None:
    """The member with its work line on its product's own axis, where that runs along it: offsets and pulled back ends
    tell how its steel lies to it."""
    if product.axis is None:
        return None
    ends = placed(of, np.array(product.axis))
    way, line = ends[1] - ends[0], np.subtract(member.end, member.start)
    size, long = float(np.linalg.norm(way)), float(np.linalg.norm(line))
    if size < 1.0 or abs(float(way @ line)) < _PARALLEL * size * long:
        return None
    if float(way @ line) < 0:
        ends = ends[::-1]
    unit = line / long
    frame = work_axes(np.array(member.start), np.array(member.end), member.roll)
    _, aside, rise = (-frame.to_local(ends[0])).tolist()
    left = float((np.array(member.start) - ends[0]) @ unit)
    right = float((ends[1] - np.array(member.end)) @ unit)
    found = section(member.section)
    values = {n: 0.0 if abs(v) < 1e-4 else round(v, 6) for n, v in
        (("aside", aside), ("rise", rise), ("left_back", left), ("right_back", right))}  # fmt: skip
    line_kind = Line.CENTRE
    for kind, half in ((Line.TOP, -found.d / 2), (Line.BOTTOM, found.d / 2)):
        if abs(values["rise"] - half) < _ON and abs(values["aside"]) < _ON:
            line_kind, values["rise"], values["aside"] = kind, 0.0, 0.0
    return msgspec.structs.replace(member, start=tidied(ends[0]), end=tidied(ends[1]), line=line_kind, **values)


# -- plates -------------------------------------------------------------------------------------------------------
def _plate(model: Model, number: int, product: Product, of: Reference, how: Settings) -> Made | Left:
    swept = _scaled(product.swept, of.scale) if product.swept is not None and not product.swept.cut else None
    instance = model.instance_of.get(number)
    outline: BaseGeometry | None = None
    origin, axes, first, last = np.zeros(3), np.eye(3), 0.0, 0.0
    if swept is not None:
        outline = _flat_outline(swept.profile)
        origin, axes, first, last = np.array(swept.origin), np.array(swept.axes).reshape(3, 3), 0.0, swept.depth
        if outline is not None and np.linalg.det(axes) < 0:
            axes, outline = axes @ _MIRROR, shapely.affinity.scale(outline, -1.0, 1.0, origin=(0.0, 0.0))
        if outline is not None and last > min(np.ptp(np.array(outline.bounds).reshape(2, 2), axis=0)):
            outline = None  # swept along its length, not through its thickness
    if outline is None and instance is not None:
        shape = model.shapes[int(model.shape[instance])]
        bigger = msgspec.structs.replace(shape, points=_points(model, instance, of.scale).astype(np.float32))
        middle = bigger.points.astype(np.float64).mean(axis=0)
        centred = msgspec.structs.replace(bigger, points=(_points(model, instance, of.scale) - middle))
        bar = plate_of(centred)
        if bar is not None:
            outline, origin, axes, first, last = bar.outline, middle, bar.axes, bar.first, bar.last
    if outline is None or outline.geom_type != "Polygon":
        return Left(product, "it is no flat plate")
    frame = frame_of(of)
    at = placed_unit(of, origin + axes[:, 2] * (first + last) / 2)
    own = frame.axes @ axes
    turn = _along_longest(outline)
    flat = shapely.affinity.affine_transform(outline, [*turn.T.reshape(-1).tolist(), 0.0, 0.0])
    x, z = (own[:, :2] @ turn).T
    place = Placement(at, np.column_stack([x, np.cross(z, x), z]))
    grade, said = _grade(product, Form.FLAT, how)
    if grade and grade not in plate_grades():
        grade, said = "", [f"its grade “{product.material}” is none that plates come in: it takes the usual one"]
    plate_section(last - first, 1000.0, how.units is Units.IMPERIAL)  # raises where no mill rolls it
    member = plate_in(place, _blank(flat), last - first, how.units)
    return Made(product, plain(msgspec.structs.replace(member, grade=grade)), "outline", tuple(said))


def _flat_outline(profile: Profile) -> BaseGeometry | None:
    """The outline of a plate's profile: drawn, a rectangle or a circle."""
    if profile.outer:
        return drawn(profile)
    turn, at = np.array(profile.turn).reshape(2, 2), np.array(profile.at)
    if profile.kind in ("IfcRectangleProfileDef", "IfcRoundedRectangleProfileDef"):
        b, d = profile.sizes.get("XDim", 0.0) / 2, profile.sizes.get("YDim", 0.0) / 2
        ring = np.array([(-b, -d), (b, -d), (b, d), (-b, d)])
    elif profile.kind == "IfcCircleProfileDef":
        angles = np.linspace(0, 2 * math.pi, 49)[:-1]
        ring = profile.sizes.get("Radius", 0.0) * np.column_stack([np.cos(angles), np.sin(angles)])
    else:
        return None
    made = shapely.Polygon(ring @ turn.T + at)
    return made if made.area > 0 else None


def _along_longest(outline: BaseGeometry) -> Array:
    """(2 x 2) that turns the longest edge of an outline to x."""
    ring = np.asarray(outline.exterior.coords)
    edges = np.diff(ring, axis=0)
    x, y = edges[int(np.hypot(*edges.T).argmax())]
    size = math.hypot(x, y)
    return np.array([[x, -y], [y, x]]) / size


def _blank(flat: BaseGeometry) -> Blank:
    """A plate's blank of an outline in x and z, its arcs made again and its round openings holes."""
    rings = [_ring(r) for r in flat.interiors]
    holes, openings = [], []
    for ring in rings:
        round_ = _as_circle(ring)
        if round_ is not None and 2 * round_[2] <= _LARGEST_HOLE:
            x, z, radius = (round(v, 4) for v in round_)
            holes.append(HoleRow(x, z, 2 * radius))
        elif round_ is not None:
            openings.append(circle(*round_))
        else:
            openings.append(ring)
    return Blank(_ring(flat.exterior), tuple(openings), tuple(holes))


def _ring(of: BaseGeometry) -> Ring:
    points = shapely.get_coordinates(shapely.geometry.polygon.orient(shapely.Polygon(of)).exterior)[:-1]
    return tuple(Corner(round(e.x, 6), round(e.z, 6), round(e.bulge, 9)) for e in with_arcs(points.tolist()))


def _as_circle(ring: Ring) -> tuple[float, float, float] | None:
    """(x, z, radius) of a ring that is one."""
    shape = polygon(ring)
    centre = np.array([shape.centroid.x, shape.centroid.y])
    away = np.hypot(*(np.array([(c.x, c.z) for c in ring]) - centre).T)
    if len(ring) < 2 or np.ptp(away) > 0.05 or away.mean() <= 0.5:
        return None
    round_ = all(abs(c.bulge) > 1e-3 for c in ring) or len(ring) >= 12
    return (float(centre[0]), float(centre[1]), float(away.mean())) if round_ else None
