"""Gussets: a plate in a brace's plane, standing on one or two faces, and the brace's end on it or slotted over it.

All of it is worked out in the plate's own plane (x, z): faces are lines with a normal into the plate; an arm is a
brace's end, its strip of the plane running out along the brace.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, NamedTuple

import msgspec
import numpy as np
import shapely
from shapely.geometry import LineString, MultiPoint, Polygon

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.claws import GAP, Claws, claws_for, hold, over_gusset
from uncus.connect.clevis import Clevis, clevis_for, edge_past, pin_up
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body, up_to
from uncus.connect.lapping import Lap, bolt_lap, lap_of
from uncus.frame.placement import Placement, Vec, unit
from uncus.job.forms import About
from uncus.job.records import End
from uncus.steel.features import EndCut, Face, Notch

Flat = np.ndarray  # a point or direction of the plate's plane, (2,)
CORNER = 19.05  # mm cut off where two faces meet, for welds and fillets
FAR = 1e4
_MEETS, _TRIES = 0.5, 20
Ring = list[tuple[float, float]]
TUBES = (Form.BOX, Form.TUBE)


EDGES = About(
    "Free edges",
    unit="choice",
    choices=("square to the steel", "spread by 30°"),
    help="From the outer corners square to what it stands on, or spreading along the brace, which is smaller.",
)


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: p_.Thickness = None
    rows: Annotated[int, About("Bolts along the brace", unit="count", low=1, high=20, help="In each line.")] = 3
    bolt: p_.Bolt = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    clear: Annotated[
        float | None,
        About("Brace clear of steel", low=5, high=500, help="From the brace's corners to what the gusset stands on."),
    ] = None
    lap: Annotated[
        float | None,
        About(
            "Lap of a tube or weld", low=40, high=2000, help="How far a slotted tube, or a welded leg, laps the gusset."
        ),
    ] = None
    to_brace: Annotated[
        str, About("To the brace", unit="choice", choices=("bolted", "welded"), help="Tubes are always welded.")
    ] = "bolted"
    edges: Annotated[str, EDGES] = "square to the steel"
    margin: Annotated[
        float | None, About("Gusset past the brace", low=0, high=200, help="At either side of the brace at its end.")
    ] = None
    weld: p_.Weld = None
    claw: Annotated[
        str | None,
        About("Claw angles", unit="section", help="Of an I brace: four hold its flanges. By rule where empty."),
    ] = None


class Side(NamedTuple):
    """A face that the gusset stands on: a point of it and its normal in the plate's plane, `gap` off it; whose it
    is; how far from it a brace stays `clear` of what holds the gusset there, besides what it stays clear of any
    steel; the flat `room` on it at either side of the plate's middle; how far from `at` it has steel, its `reach`."""

    at: Flat
    normal: Flat
    body: Body
    piece: str
    gap: float = 0.0
    clear: float = 0.0
    room: float = math.inf
    reach: float = math.inf

    @property
    def edge(self) -> Flat:
        """A point of the plate's own edge."""
        return self.at + self.gap * self.normal

    def off(self, p: Flat) -> float:
        return float((p - self.edge) @ self.normal)

    def foot(self, p: Flat) -> Flat:
        return self.held(p - self.off(p) * self.normal)

    def held(self, p: Flat) -> Flat:
        """A point of the face, not beyond its end."""
        along = np.array([-self.normal[1], self.normal[0]])
        past = float((p - self.edge) @ along)
        return p - (past - min(max(past, -self.reach), self.reach)) * along if abs(past) > self.reach else p


class Plane(NamedTuple):
    """The plate's frame: x and z in it, y its normal, origin at the brace's work point on its middle."""

    frame: Placement
    thickness: float

    def flat(self, p: Vec) -> Flat:
        return self.frame.to_local(p)[[0, 2]]

    def run(self, v: Vec) -> Flat:
        return (self.frame.axes.T @ v)[[0, 2]]

    def model(self, p: Flat, y: float = 0.0) -> Vec:
        return self.frame.to_model((p[0], y, p[1]))


def thickness_for(fit: Fitup, brace: Body, p: Params) -> float:
    """The gusset's thickness: the gap of a pair, what was asked, or the shop's."""
    if brace.record.double is not None:
        return brace.record.double.gap
    return p.thickness or fit.rules.gusset_thickness


def plane_of(brace: Body, end: End, normal: Vec, t: float) -> Plane | str:
    """The plane of a gusset that stands on a face with a normal and holds a brace's end; or why it cannot.

    Legs, webs and stems lie flat on it; a square tube is slotted over it along two of its sides.
    """
    away, s = brace.away(end), brace.section
    across = np.cross(away, normal)
    if float(np.linalg.norm(across)) < 0.05:
        return f"The {brace.words} stands square on what holds it; a gusset has no plane there."
    n = unit(across)
    frame = brace.frame
    if s.form is Form.I and abs(float(n @ frame.y)) < 1 - 1e-5:
        return (
            f"The web of the {brace.words} does not lie in its gusset's plane; roll it so that claw angles can hold "
            f"its flanges."
        )
    if s.form is Form.ROUND:
        middle = brace.end(end)
    elif s.form in TUBES:
        square = s.form is Form.TUBE or max(abs(float(n @ frame.y)), abs(float(n @ frame.z))) > 1 - 1e-5
        if not square:
            return f"The {brace.words} is rolled so that no two of its sides lie along the gusset; turn it."
        middle = brace.end(end)
    else:
        if abs(float(n @ frame.y)) < 1 - 1e-5:
            return f"The {brace.words} does not lie flat along the gusset's plane; roll it so that its leg does."
        n = frame.y if float(n @ frame.y) > 0 else -frame.y
        middle = brace.end(end) + (0.0 if s.form is Form.I else lap_of(brace).middle(t)) * frame.y
    z = normal - float(normal @ n) * n
    z = unit(z)
    return Plane(Placement(middle, np.column_stack([np.cross(n, z), n, z])), t)


class Arm(NamedTuple):
    """A brace's end on a gusset: work point, direction out, `w` square to it; the steel's reach across (`low` to
    `high` along w), the gusset's there (`under` to `over`), and where along it the brace, or what holds it, begins
    (`start`) and the gusset ends (`stop`). `shut`: a flange of the brace shuts the high side; `claws` hold an I
    brace past its gusset, a `clevis` a tie rod."""

    body: Body
    end: End
    at: Flat
    out: Flat
    w: Flat
    low: float
    high: float
    start: float
    stop: float
    under: float
    over: float
    bolts: tuple[float, ...]
    shut: bool = False
    claws: Claws | None = None
    clevis: Clevis | None = None

    def moved(self, by: float) -> Arm:
        """The same farther out."""
        return self._replace(start=self.start + by, stop=self.stop + by, bolts=tuple(b + by for b in self.bolts))

    def point(self, s: float, h: float) -> Flat:
        return self.at + s * self.out + h * self.w

    @property
    def corners(self) -> tuple[Flat, Flat]:
        """The gusset's outer corners: at the low side and at the high side."""
        return self.point(self.stop, self.under), self.point(self.stop, self.over)


def arm(fit: Fitup, plane: Plane, brace: Body, end: End, sides: list[Side], p: Params) -> Arm | str:
    """A brace's end set out clear of the faces; or why it cannot be."""
    s, frame = brace.section, brace.frame
    out = plane.run(brace.away(end))
    at = plane.flat(brace.end(end))
    tube = s.form in TUBES
    flat_z = not tube or s.form is Form.TUBE or abs(float(plane.frame.y @ frame.y)) > 0.5
    half = (s.d if flat_z else s.b) / 2
    w = plane.run(frame.z if flat_z else frame.y)
    if s.form is Form.TUBE:
        w = np.array([-out[1], out[0]])
    low, high = -half, half
    if brace.record.double is not None:
        lap = lap_of(brace)
        low, high = lap.low, lap.high
    claws: Claws | None = None
    if s.form is Form.I:
        if p.to_brace == "welded":
            return f"The {brace.words} is held by claw angles, which are bolted; choose bolts."
        found = claws_for(fit, brace, plane.thickness, p.bolt, p.claw)
        if isinstance(found, str):
            return found
        claws = found
        low, high = -half - claws.reach, half + claws.reach
    clevis: Clevis | None = None
    if s.form is Form.ROUND:
        if p.to_brace == "welded":
            return f"The {brace.words} is pinned in its clevis; choose bolts."
        forked = clevis_for(fit, brace, plane.thickness)
        if isinstance(forked, str):
            return forked
        clevis = forked
        low, high = -clevis.half, clevis.half
        w = np.array([-out[1], out[0]])
    clear = (25.4 if fit.inch else 25.0) if p.clear is None else p.clear
    starts = []
    for side in sides:
        lean = float(side.normal @ out)
        if lean < 0.02:
            return f"The {brace.words} does not run away from the {side.body.words}; a gusset cannot stand there."
        starts += [(max(clear, side.clear) - float((at + h * w - side.at) @ side.normal)) / lean for h in (low, high)]
    start = up_to(max(starts), fit.inch, 1 / 16, 1)
    if clevis is not None:
        return _pinned(brace, end, at, out, w, start, clevis, p)
    edge, pitch = p.edge or fit.rules.edge, p.pitch or fit.rules.pitch
    if tube or p.to_brace == "welded":
        lap_length = p.lap or up_to(1.3 * max(s.d, s.b) if tube else 1.5 * half * 2, fit.inch, 0.5, 10)
        margin = (25.4 if fit.inch else 25.0) if p.margin is None else p.margin
        return Arm(
            brace,
            end,
            at,
            out,
            w,
            low,
            high,
            start,
            start + lap_length,
            *_strip(brace, low, high, margin),
            (),
            s.form is Form.TEE,
        )
    bolts = tuple(start + edge + i * pitch for i in range(p.rows))
    margin = (12.7 if fit.inch else 12.0) if p.margin is None else p.margin
    if claws is not None:
        over = over_gusset(fit, claws, s) + (p.margin or 0.0)
        return Arm(brace, end, at, out, w, low, high, start, bolts[-1] + edge, -over, over, bolts, claws=claws)
    return Arm(
        brace,
        end,
        at,
        out,
        w,
        low,
        high,
        start,
        bolts[-1] + edge,
        *_strip(brace, low, high, margin),
        bolts,
        s.form is Form.TEE,
    )


def _pinned(brace: Body, end: End, at: Flat, out: Flat, w: Flat, start: float, clevis: Clevis, p: Params) -> Arm | str:
    """A tie rod's end, whose clevis begins at `start`."""
    edge = edge_past(clevis, p.edge)
    if isinstance(edge, str):
        return edge
    pin, half = start + clevis.set.tip, clevis.half
    over = max(half, edge, 1.25 * clevis.pin.edge) + (p.margin or 0.0)
    return Arm(brace, end, at, out, w, -half, half, start, pin + edge, -over, over, (pin,), clevis=clevis)


def _strip(brace: Body, low: float, high: float, margin: float) -> tuple[float, float]:
    """The gusset's reach across the brace at its end: past both edges, but only up to the flange of a tee."""
    if brace.section.form is Form.TEE:
        return low - margin, lap_of(brace).high
    return low - margin, high + margin


def outline(
    sides: list[Side], arms: list[Arm], edges: str, back: float = CORNER, least: float = 0.0
) -> list[tuple[float, float]]:
    """The gusset's outline: feet from the arms' corners to the faces, the corner between two faces cut off so far
    `back` along both, and from there on at least so long on each."""
    points: list[Flat] = []
    for a in arms:
        points += [*a.corners, a.point(a.start, a.under), a.point(a.start, a.over)]
    if len(sides) == 1:
        only = sides[0]
        along = np.array([-only.normal[1], only.normal[0]])
        middle = sum(float(p @ along) for a in arms for p in a.corners) / (2 * len(arms))
        for a in arms:  # of two arms the inner corners have no edge of their own
            outer = sorted(a.corners, key=lambda p: -abs(float(p @ along) - middle))
            points += [_foot(only, a, p, edges) for p in (outer if len(arms) == 1 else outer[:1])]
    else:
        first, second = sides
        for a in arms:
            low, high = a.corners
            near = (low, high) if first.off(low) < first.off(high) else (high, low)
            points += [_foot(first, a, near[0], edges), _foot(second, a, near[1], edges)]
        points += [*corner_cut(first, second, back), *corner_cut(first, second, back + least)]
    inside = [p for p in points if all(s.off(p) > -1e-6 for s in sides)]
    hull = MultiPoint([tuple(p) for p in inside]).convex_hull
    if back > CORNER:
        one, two = corner_cut(sides[0], sides[1], back)
        out = _meet(sides[0], sides[1]) - (one + two) / 2
        hull = hull.difference(
            Polygon([tuple(q) for q in (one, two, 2 * two - one + 9 * out, 2 * one - two + 9 * out)])
        )
    for a in arms:
        if a.shut:
            hull = hull.difference(Polygon([tuple(a.point(s, h)) for s, h
                in ((a.start - 12.0, a.over), (a.stop + 900, a.over), (a.stop + 900, a.over + 900),
                (a.start - 12.0, a.over + 900))]))  # fmt: skip
    if isinstance(hull, shapely.MultiPolygon):  # a wide margin beside a tee's flange: what is cut loose is left out
        hull = max(hull.geoms, key=lambda one: one.area)
    ring = [(float(x), float(z)) for x, z in hull.simplify(0.01).exterior.coords[:-1]]
    return ring


def set_out(arms: list[Arm], shape_of: Callable[[list[Arm]], Ring]) -> tuple[Ring, list[Arm]]:
    """A gusset's outline and its arms, of which tie rods are moved out until the plate ends in their clevises' jaws."""
    shape = shape_of(arms)
    for _ in range(_TRIES):
        over = [_past(shape, a) for a in arms]
        if max(over) < _MEETS:
            break
        arms = [a.moved(by) if by >= _MEETS else a for a, by in zip(arms, over, strict=True)]
        shape = shape_of(arms)
    return shape, arms


def _past(shape: Ring, a: Arm) -> float:
    """How far a plate reaches past where it is to end in a clevis."""
    if a.clevis is None:
        return 0.0
    strip = [a.point(s, h) for s, h in ((a.stop, a.low), (a.stop + FAR, a.low), (a.stop + FAR, a.high),
        (a.stop, a.high))]  # fmt: skip
    over = Polygon(shape).intersection(Polygon([tuple(p) for p in strip]))
    far = shapely.get_coordinates(over)
    return float(((far - a.at) @ a.out).max()) - a.stop if len(far) else 0.0


def _foot(side: Side, a: Arm, corner: Flat, edges: str) -> Flat:
    """Where a free edge from an arm's outer corner comes down on a face."""
    square = side.foot(corner)
    if edges == "square to the steel":
        return square
    turn = math.radians(30.0) * (1.0 if float((corner - a.at) @ a.w) > 0 else -1.0)
    away = -math.cos(turn) * a.out + math.sin(turn) * a.w
    sinks = -float(away @ side.normal)
    if sinks < 0.05:
        return square
    spread = corner + side.off(corner) / sinks * away
    near = float((spread - square) @ a.out)
    return side.held(spread) if near < 0 else square


def corner_cut(first: Side, second: Side, back: float) -> tuple[Flat, Flat]:
    """Where the corner between two faces is cut off: a point on each."""
    corner = _meet(first, second)
    found = []
    for one, other in ((first, second), (second, first)):
        along = np.array([-one.normal[1], one.normal[0]])
        along = along if float(along @ other.normal) > 0 else -along
        found.append(corner + back / max(0.3, float(along @ other.normal)) * along)
    return found[0], found[1]


def _meet(a: Side, b: Side) -> Flat:
    """Where two faces' lines cross."""
    matrix = np.array([a.normal, b.normal])
    return np.linalg.solve(matrix, np.array([a.normal @ a.edge, b.normal @ b.edge]))


def on_side(shape: list[tuple[float, float]], side: Side) -> tuple[Flat, Flat] | None:
    """The stretch of an outline that lies on a face."""
    on = [np.array(p) for p in shape if abs(side.off(np.array(p))) < 0.02]
    if len(on) < 2:
        return None
    along = np.array([-side.normal[1], side.normal[0]])
    on.sort(key=lambda p: float(p @ along))
    return on[0], on[-1]


def weld_side(fit: Fitup, plane: Plane, key: str, id: str, shape: list[tuple[float, float]], side: Side, leg: float,
    field: bool) -> None:  # fmt: skip
    """Fillets on both sides along a face."""
    stretch = on_side(shape, side)
    if stretch is None:
        fit.find(
            f"The gusset does not reach the {side.body.words}; give the brace more clearance or other work points."
        )
        return
    path = [plane.model(p) for p in stretch]
    fit.weld(key, leg, path, (side.piece, id), 2, field)


def fasten(fit: Fitup, plane: Plane, a: Arm, id: str, p: Params, mark: str = "") -> None:
    """The brace's end cut, and its bolts or welds to the gusset."""
    body, s = a.body, a.body.section
    sign = -1.0 if a.end is End.RIGHT else 1.0
    x0 = body.length if a.end is End.RIGHT else 0.0
    if a.claws is not None:
        begins = a.stop + GAP
        fit.cut(body.id, a.end, EndCut(x0 + sign * begins))
        edge = a.bolts[0] - a.start
        on_brace = [x0 + sign * (begins + edge + b - a.bolts[0]) for b in a.bolts]
        runs = [x0 + sign * b for b in a.bolts], on_brace
        hold(fit, plane.frame.y, a.claws, body, id, plane.thickness, runs, edge, mark)
        return
    if a.clevis is not None:
        pin_up(fit, plane.frame.y, a.clevis, body, a.end, id, a.bolts[0], mark)
        return
    fit.cut(body.id, a.end, EndCut(x0 + sign * a.start))
    if s.form in TUBES:
        _slotted(fit, plane, a, id, p, x0, sign, mark)
        return
    lap: Lap = lap_of(body)
    if a.bolts:
        bolt = fit.size(p.bolt)
        bolt_lap(fit, f"bolts{mark}", bolt, body, lap, id, [x0 + sign * b for b in a.bolts], field=True)
        return
    leg = p.weld or min(fit.leg(s.tw), max(3.0, s.tw - 1.6))
    xs = (x0 + sign * a.start, x0 + sign * a.stop)
    for n, (piece, y, *edges) in enumerate(lap.legs):
        for z, words in zip(edges, ("low edge", "high edge"), strict=True):
            path = _on_plate(fit, plane, id, [body.frame.to_model((x, y, z)) for x in xs])
            fit.weld(f"{words}{n or ''}{mark}", leg, path, (body.stock[piece].id, id), 1, field=True)


def _on_plate(fit: Fitup, plane: Plane, id: str, path: list[Vec]) -> list[Vec]:
    """A straight weld along a brace, as far as the gusset lies under it; all of it where the gusset does not at all."""
    a, b = (plane.flat(q) for q in path)
    under = LineString([tuple(a), tuple(b)]).intersection(Polygon(fit.outline(id)).buffer(0.1))
    shares = [float((np.array(q) - a) @ (b - a) / ((b - a) @ (b - a))) for q in shapely.get_coordinates(under)]
    ends = (min(shares), max(shares)) if shares else (0.0, 1.0)
    return [path[0] + share * (path[1] - path[0]) for share in ends]


def _slotted(fit: Fitup, plane: Plane, a: Arm, id: str, p: Params, x0: float, sign: float, mark: str) -> None:
    """A tube slotted over the gusset, welded along both slots."""
    body, s, t = a.body, a.body.section, plane.thickness
    wide = t / 2 + (0.8 if fit.inch else 1.0)
    upright = s.form is Form.TUBE or abs(float(plane.frame.y @ body.frame.y)) > 0.5
    if s.form is Form.TUBE and abs(float(plane.frame.y @ body.frame.y)) < 1 - 1e-5:
        upright = False
    faces = (Face.TOP, Face.BOTTOM) if upright else (Face.WEB, Face.BACK)
    strip = Polygon([tuple(a.point(at, h)) for at, h in ((a.start, a.low), (a.stop + FAR, a.low),
        (a.stop + FAR, a.high), (a.start, a.high))])  # fmt: skip
    over = shapely.get_coordinates(Polygon(fit.outline(id)).intersection(strip))
    stop = max([a.stop, *((over - a.at) @ a.out).tolist()])
    xs = sorted((x0 + sign * (a.start - 20.0), x0 + sign * (stop + 12.0)))
    shape = ((xs[0], -wide), (xs[1], -wide), (xs[1], wide), (xs[0], wide))
    for face in faces:
        fit.feature(body.id, Notch(face, shape))
    leg = p.weld or max(fit.rules.tab_weld, s.tw)
    half = (s.d if upright else s.b) / 2
    flat = math.sqrt(max(0.0, half**2 - wide**2)) if s.form is Form.TUBE else half
    for h, words in ((-flat, "low"), (flat, "high")):
        for y, side in ((-(t / 2 + wide) / 2, "near"), ((t / 2 + wide) / 2, "far")):
            path = _on_plate(fit, plane, id, [plane.model(a.point(at, h), y) for at in (a.start, a.stop)])
            fit.weld(f"{words} {side}{mark}", leg, path, (body.id, id), 1, field=True)
