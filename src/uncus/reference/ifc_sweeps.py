"""What of an IFC product is swept straight: its profile, axes and depth in millimetres, read off its representation.

Only in a reading process: it asks ifcopenshell (ISO 16739-1; 2x3, 4 and 4.3 alike)."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uncus.job.record import Point
from uncus.reference.model import Profile, Swept

Array = NDArray[np.float64]
_DEEP = 40  # maps, booleans and placements within one another
_SIZES = {
    "IfcIShapeProfileDef": ("OverallWidth", "OverallDepth", "WebThickness", "FlangeThickness", "FilletRadius"),
    "IfcAsymmetricIShapeProfileDef": (
        "OverallWidth", "BottomFlangeWidth", "OverallDepth", "WebThickness", "FlangeThickness",
        "BottomFlangeThickness", "FilletRadius", "BottomFlangeFilletRadius", "TopFlangeWidth", "TopFlangeThickness"),
    "IfcUShapeProfileDef": ("Depth", "FlangeWidth", "WebThickness", "FlangeThickness", "FilletRadius", "FlangeSlope"),
    "IfcLShapeProfileDef": ("Depth", "Width", "Thickness", "FilletRadius"),
    "IfcTShapeProfileDef": ("Depth", "FlangeWidth", "WebThickness", "FlangeThickness", "FilletRadius"),
    "IfcRectangleHollowProfileDef": ("XDim", "YDim", "WallThickness", "InnerFilletRadius", "OuterFilletRadius"),
    "IfcRectangleProfileDef": ("XDim", "YDim"),
    "IfcRoundedRectangleProfileDef": ("XDim", "YDim", "RoundingRadius"),
    "IfcCircleHollowProfileDef": ("Radius", "WallThickness"),
    "IfcCircleProfileDef": ("Radius",),
}  # fmt: skip
_ANGLES = ("FlangeSlope",)


class Frame:
    """A placement whose axes may be scaled or mirrored: (3, 4)."""

    def __init__(self, matrix: Array) -> None:
        self.matrix = matrix

    @classmethod
    def identity(cls) -> Frame:
        return cls(np.eye(3, 4))

    def __matmul__(self, inner: Frame) -> Frame:
        a, b = self.matrix, inner.matrix
        return Frame(np.column_stack([a[:, :3] @ b[:, :3], a[:, :3] @ b[:, 3] + a[:, 3]]))

    def point(self, p: Array) -> Point:
        x, y, z = (self.matrix[:, :3] @ p + self.matrix[:, 3]).tolist()
        return x, y, z


def _unit(values: Any, usual: tuple[float, ...]) -> Array:
    v = np.array(values.DirectionRatios if values is not None else usual, dtype=np.float64)
    size = float(np.linalg.norm(v))
    return v / size if math.isfinite(size) and size > 1e-12 else np.array(usual)


def axes3(z: Array, x: Array) -> Array:
    """Axes of a right-handed frame from its z and about its x, as the schema's IfcBuildAxes does."""
    x = x - (x @ z) * z
    size = float(np.linalg.norm(x))
    if size < 1e-9:
        side = np.array([1.0, 0, 0]) if abs(z[0]) < 0.9 else np.array([0, 1.0, 0])
        x = side - (side @ z) * z
        size = float(np.linalg.norm(x))
    x = x / size
    return np.column_stack([x, np.cross(z, x), z])


class Sweeps:
    """Reads one file's representations; `unit` is mm to its unit of length, `angle` radians to that of plane angles."""

    def __init__(self, unit: float, angle: float = 1.0) -> None:
        self.unit, self.angle = unit, angle
        self._placed: dict[int, Frame] = {}
        self._profiles: dict[int, Profile | None] = {}

    # -- placements ----------------------------------------------------------------------------------------------
    def placement(self, of: Any) -> Frame:
        """Where an IfcLocalPlacement stands in the model."""
        chain = []
        found = Frame.identity()
        while of is not None:
            known = self._placed.get(of.id())
            if known is not None:
                found = known
                break
            chain.append(of)
            if len(chain) > 500:
                raise ValueError("its placement goes round in a circle")
            of = getattr(of, "PlacementRelTo", None)
        for one in reversed(chain):
            if one.is_a("IfcLocalPlacement"):
                found = found @ self.axis2(one.RelativePlacement)
            self._placed[one.id()] = found
        return found

    def axis2(self, of: Any) -> Frame:
        """An IfcAxis2Placement3D (or 2D)."""
        if of is None:
            return Frame.identity()
        at = np.zeros(3)
        own = np.array(of.Location.Coordinates, dtype=np.float64) * self.unit
        at[: len(own)] = own
        if of.is_a("IfcAxis2Placement2D"):
            x = _unit(of.RefDirection, (1.0, 0.0))
            return Frame(np.column_stack([[x[0], x[1], 0], [-x[1], x[0], 0], [0, 0, 1], at]))
        z = _unit(of.Axis, (0.0, 0.0, 1.0))
        return Frame(np.column_stack([axes3(z, _unit(of.RefDirection, (1.0, 0.0, 0.0))), at]))

    def operator(self, of: Any) -> Frame:
        """An IfcCartesianTransformationOperator3D: IfcBaseAxis, its scales times them."""
        at = np.array(of.LocalOrigin.Coordinates, dtype=np.float64) * self.unit
        z: Array | None = _unit(of.Axis3, (0.0, 0.0, 1.0)) if of.Axis3 is not None else None
        x = _unit(of.Axis1, (1.0, 0.0, 0.0))
        if z is None:
            y = _unit(of.Axis2, (0.0, 1.0, 0.0))
            z = np.cross(x, y) if np.linalg.norm(np.cross(x, y)) > 1e-9 else np.array([0.0, 0, 1])
            z = z / np.linalg.norm(z)
        axes = axes3(z, x)
        if of.Axis2 is not None and float(axes[:, 1] @ _unit(of.Axis2, (0.0, 1.0, 0.0))) < 0:
            axes[:, 1] *= -1
        scale = of.Scale if of.Scale is not None else 1.0
        scales = [scale, getattr(of, "Scale2", None) or scale, getattr(of, "Scale3", None) or scale]
        return Frame(np.column_stack([axes * np.array(scales), at]))

    # -- bodies --------------------------------------------------------------------------------------------------
    def swept(self, product: Any) -> Swept | None:
        """What of a product is swept, where that is one body and nothing else; None otherwise."""
        bodies = [r for r in _representations(product) if r.RepresentationIdentifier in ("Body", "Facetation", None)]
        if len(bodies) != 1:
            return None
        items = list(self._items(bodies[0], Frame.identity(), 0))
        if len(items) != 1:
            return None
        item, frame, cut = items[0]
        if not item.is_a("IfcExtrudedAreaSolid"):
            return None
        return self._extruded(item, self.placement(product.ObjectPlacement) @ frame, cut)

    def _items(self, of: Any, frame: Frame, deep: int) -> Iterator[tuple[Any, Frame, bool]]:
        if deep > _DEEP:
            raise ValueError("its shape is made of itself")
        for item in of.Items:
            if item.is_a("IfcMappedItem"):
                source = item.MappingSource
                here = frame @ self.operator(item.MappingTarget) @ self.axis2(source.MappingOrigin)
                yield from self._items(source.MappedRepresentation, here, deep + 1)
            else:
                cut, steps = False, 0
                while item.is_a("IfcBooleanResult") and steps < _DEEP:
                    item, cut, steps = item.FirstOperand, True, steps + 1
                yield item, frame, cut

    def _extruded(self, item: Any, frame: Frame, cut: bool) -> Swept | None:
        profile = self.profile(item.SweptArea)
        if profile is None:
            return None
        place = (frame @ self.axis2(item.Position)).matrix
        along = _unit(item.ExtrudedDirection, (0.0, 0.0, 1.0))
        depth = float(item.Depth) * self.unit
        if abs(float(along[2])) < 1 - 1e-9:
            return None  # swept aslant: no bar is cut so
        axes = place[:, :3]
        sizes = np.linalg.norm(axes, axis=0)
        if not np.allclose(sizes, 1.0, atol=1e-6):
            return None  # scaled: its profile's sizes are not the steel's
        origin = place[:, 3]
        if along[2] < 0:  # the same bar from its other end
            origin = origin - depth * axes[:, 2]
        if not (np.isfinite(place).all() and 0 < depth < 1e9):
            return None
        x, y, z = origin.tolist()
        return Swept(profile, (x, y, z), tuple(axes.reshape(-1).tolist()), depth, cut)  # type: ignore[arg-type]

    def axis(self, product: Any) -> tuple[Point, Point] | None:
        """The ends of a product's reference line, where that is straight."""
        for one in _representations(product):
            if one.RepresentationIdentifier != "Axis" or len(one.Items) != 1:
                continue
            points = self._line(one.Items[0])
            if points is not None and len(points) == 2:
                frame = self.placement(product.ObjectPlacement)
                return frame.point(points[0]), frame.point(points[1])
        return None

    def _line(self, curve: Any) -> Array | None:
        if curve.is_a("IfcPolyline"):
            return self._three([p.Coordinates for p in curve.Points])
        if curve.is_a("IfcIndexedPolyCurve"):
            if curve.Segments and any(not s.is_a("IfcLineIndex") for s in curve.Segments):
                return None
            return self._three(curve.Points.CoordList)
        if curve.is_a("IfcTrimmedCurve") and curve.BasisCurve.is_a("IfcLine"):
            ends = []
            base = curve.BasisCurve
            start = self._three([base.Pnt.Coordinates])[0]
            way = self._three([_unit(base.Dir.Orientation, (1.0, 0.0, 0.0))])[0] * base.Dir.Magnitude
            for trim in (curve.Trim1, curve.Trim2):
                point = next((t for t in trim if not isinstance(t, float) and t.is_a("IfcCartesianPoint")), None)
                value = next((t for t in trim if point is None and t.is_a("IfcParameterValue")), None)
                if point is not None:
                    ends.append(self._three([point.Coordinates])[0])
                elif value is not None:
                    ends.append(start + way * value[0])
                else:
                    return None
            return np.array(ends)
        return None

    def _three(self, points: Any) -> Array:
        made = np.array(points, dtype=np.float64).reshape(len(points), -1) * self.unit
        return np.pad(made, ((0, 0), (0, 3 - made.shape[1])))

    # -- profiles ------------------------------------------------------------------------------------------------
    def profile(self, of: Any, deep: int = 0) -> Profile | None:
        """A profile; None for one that is of several, or drawn by curves of higher order."""
        if of.id() not in self._profiles:
            self._profiles[of.id()] = self._profile(of, deep)
        return self._profiles[of.id()]

    def _profile(self, of: Any, deep: int) -> Profile | None:
        name = of.ProfileName or ""
        kind = of.is_a()
        if deep > _DEEP:
            return None
        if kind in ("IfcDerivedProfileDef", "IfcMirroredProfileDef"):
            parent = self.profile(of.ParentProfile, deep + 1)
            operator = getattr(of, "Operator", None)
            turn, at = self._operator2(operator) if operator is not None and kind == "IfcDerivedProfileDef" else (
                np.diag([-1.0, 1.0]), np.zeros(2))  # fmt: skip
            if parent is None or not np.allclose(turn @ turn.T, np.eye(2), atol=1e-6):
                return None
            own, moved = turn @ np.array(parent.turn).reshape(2, 2), turn @ np.array(parent.at) + at
            return Profile(parent.kind, name or parent.name, parent.sizes, parent.outer, parent.inner,
                tuple(own.reshape(-1).tolist()), tuple(moved.tolist()))  # fmt: skip
        if kind in _SIZES:
            place = self.axis2(getattr(of, "Position", None)).matrix
            sizes = {}
            for size in _SIZES[kind]:
                value = getattr(of, size, None)
                if value is not None:
                    sizes[size] = float(value) * (1.0 if size in _ANGLES else self.unit)
            a, b, c, d = place[:2, :2].reshape(-1).tolist()
            return Profile(kind, name, sizes, turn=(a, b, c, d), at=(float(place[0, 3]), float(place[1, 3])))
        if kind in ("IfcArbitraryClosedProfileDef", "IfcArbitraryProfileDefWithVoids"):
            outer = self._ring(of.OuterCurve)
            inner = [self._ring(c) for c in getattr(of, "InnerCurves", None) or ()]
            if outer is None or any(ring is None for ring in inner):
                return None
            return Profile(kind, name, {}, outer, tuple(ring for ring in inner if ring is not None))
        return None

    def _operator2(self, of: Any) -> tuple[Array, Array]:
        at = np.array(of.LocalOrigin.Coordinates, dtype=np.float64)[:2] * self.unit
        x = _unit(of.Axis1, (1.0, 0.0))[:2]
        y = np.array([-x[1], x[0]])
        if of.Axis2 is not None and float(y @ _unit(of.Axis2, (0.0, 1.0))[:2]) < 0:
            y = -y
        return np.column_stack([x, y]) * float(of.Scale or 1.0), at

    def _ring(self, curve: Any, deep: int = 0) -> tuple[tuple[float, float], ...] | None:
        """A closed curve of lines, arcs and circles as points, an arc in pieces of at most 7.5 degrees."""
        points = self._curve(curve, deep)
        if points is None or len(points) < 3:
            return None
        if math.dist(points[0], points[-1]) < 1e-6 * max(1.0, float(np.abs(points).max())):
            points = points[:-1]
        return tuple((float(x), float(y)) for x, y in points) if len(points) >= 3 else None

    def _curve(self, curve: Any, deep: int) -> Array | None:
        if deep > _DEEP:
            return None
        if curve.is_a("IfcPolyline"):
            return self._three([p.Coordinates for p in curve.Points])[:, :2]
        if curve.is_a("IfcIndexedPolyCurve"):
            return self._indexed(curve)
        if curve.is_a("IfcCircle"):
            frame = self.axis2(curve.Position).matrix
            angles = np.linspace(0.0, 2 * math.pi, 49)[:-1]
            return _circle(frame, float(curve.Radius) * self.unit, angles)
        if curve.is_a("IfcTrimmedCurve") and curve.BasisCurve.is_a("IfcCircle"):
            return self._arc(curve)
        if curve.is_a("IfcTrimmedCurve"):
            line = self._line(curve)
            return None if line is None else line[:, :2]
        if curve.is_a("IfcCompositeCurve"):
            whole: list[Array] = []
            for segment in curve.Segments:
                own = self._curve(segment.ParentCurve, deep + 1)
                if own is None:
                    return None
                own = own if segment.SameSense else own[::-1]
                whole.append(own if not whole else own[1:])
            return np.concatenate(whole) if whole else None
        return None

    def _indexed(self, curve: Any) -> Array | None:
        points = self._three(curve.Points.CoordList)[:, :2]
        if not curve.Segments:
            return points
        made: list[Array] = []
        for segment in curve.Segments:
            numbers = np.array(segment[0]) - 1
            if numbers.min() < 0 or numbers.max() >= len(points):
                return None
            own = points[numbers]
            if segment.is_a("IfcArcIndex"):
                own = arc_through(*own)
            made.append(own if not made else own[1:])
        return np.concatenate(made)

    def _arc(self, curve: Any) -> Array | None:
        frame = self.axis2(curve.BasisCurve.Position).matrix
        centre, turn = frame[:2, 3], frame[:2, :2]
        angles = []
        for trim in (curve.Trim1, curve.Trim2):
            point = next((t for t in trim if t.is_a("IfcCartesianPoint")), None)
            value = next((t for t in trim if t.is_a("IfcParameterValue")), None)
            if point is not None:
                x, y = turn.T @ (np.array(point.Coordinates, dtype=np.float64)[:2] * self.unit - centre)
                angles.append(math.atan2(y, x))
            elif value is not None:
                angles.append(float(value[0]) * self.angle)
            else:
                return None
        first, last = angles
        if curve.SenseAgreement:
            last = first + (last - first) % (2 * math.pi)
        else:
            last = first - (first - last) % (2 * math.pi)
        steps = max(2, math.ceil(abs(last - first) / math.radians(7.5)) + 1)
        return _circle(frame, float(curve.BasisCurve.Radius) * self.unit, np.linspace(first, last, steps))


def _circle(frame: Array, radius: float, angles: Array) -> Array:
    ring = radius * np.column_stack([np.cos(angles), np.sin(angles)])
    return np.asarray(ring @ frame[:2, :2].T + frame[:2, 3])


def arc_through(a: Array, b: Array, c: Array) -> Array:
    """Points of the arc from a through b to c."""
    (ax, ay), (bx, by), (cx, cy) = a.tolist(), b.tolist(), c.tolist()
    d = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    if abs(d) < 1e-9:
        return np.array([a, b, c])
    ux = ((ax**2 + ay**2) * (by - cy) + (bx**2 + by**2) * (cy - ay) + (cx**2 + cy**2) * (ay - by)) / d
    uy = ((ax**2 + ay**2) * (cx - bx) + (bx**2 + by**2) * (ax - cx) + (cx**2 + cy**2) * (bx - ax)) / d
    first, last = math.atan2(ay - uy, ax - ux), math.atan2(cy - uy, cx - ux)
    middle = math.atan2(by - uy, bx - ux)
    turn = (last - first) % (2 * math.pi)
    if (middle - first) % (2 * math.pi) > turn:
        turn -= 2 * math.pi
    angles = np.linspace(first, first + turn, max(3, math.ceil(abs(turn) / math.radians(7.5)) + 1))
    radius = math.hypot(ax - ux, ay - uy)
    return np.column_stack([ux + radius * np.cos(angles), uy + radius * np.sin(angles)])


def _representations(product: Any) -> list[Any]:
    shape = getattr(product, "Representation", None)
    return list(shape.Representations) if shape is not None else []
