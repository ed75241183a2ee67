"""A winding stair: treads round a post, or between two stringers that climb about one axis."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.catalog.sections import Form, section
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.stair_rules import NAMES, RULES, StairRule
from uncus.compose.treads import CHECKERED
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank, Corner, Fold, HoleRow, Lugs
from uncus.job.forms import About
from uncus.job.records import Climb, Role
from uncus.steel.forming import neutral_radius
from uncus.units import INCH, format_length, length_in_words

POST, BETWEEN = ABOUT = ("round a post", "between two stringers")
LEFT, RIGHT = HANDS = ("to the left", "to the right")
FACE, HEAD_OPEN = HEADS = ("against a face, with an end plate", "left open")
FLAT_TREADS = (CHECKERED, "plate")
_AIR = 3.0  # mm
_FROM_NARROW = 12 * INCH  # where the going of a winder is measured


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    rule: Annotated[str, About("Held against", unit="choice", choices=NAMES)] = NAMES[0]
    about: Annotated[str, About("Treads stand", unit="choice", choices=ABOUT)] = POST
    hand: Annotated[str, About("Turns, going up", unit="choice", choices=HANDS)] = LEFT
    turn: Annotated[float, About("Turns by", unit="angle", low=20, high=1440,
        help="From the first riser to the last.")] = 300.0  # fmt: skip
    risers: Annotated[int | None, About("Risers", unit="count", low=2, high=120,
        help="Left open: as few as the rule lets.")] = None  # fmt: skip
    post: Annotated[str, About("Post", unit="section", only=("about", POST))] = "HSS6.625X0.280"
    post_over: Annotated[float, About("Post over the floor", low=0, high=3000, only=("about", POST),
        help="How far it runs on over the upper floor.")] = 1066.8  # fmt: skip
    inner: Annotated[float, About("Inner radius", low=100, high=50_000, only=("about", BETWEEN),
        help="To the inner stringer's side that the treads touch.")] = 609.6  # fmt: skip
    outer: Annotated[float, About("Outer radius", low=300, high=60_000,
        help="To the outer stringer's side that the treads touch, or their own ends.")] = 1066.8  # fmt: skip
    stringer: Annotated[str, About("Stringers", unit="section",
        help="A channel, a flat or a tube; the outer one of a stair round a post too.")] = "PL3/8X10"  # fmt: skip
    outer_stringer: Annotated[str, About("Outer stringer", unit="choice", choices=("yes", "no"),
        only=("about", POST))] = "yes"  # fmt: skip
    over: Annotated[float, About("Stringer over the nosings", low=-500, high=500)] = 25.4
    tread: Annotated[str, About("Treads", unit="choice", choices=FLAT_TREADS)] = CHECKERED
    thickness: Annotated[float, About("Tread's plate", low=3, high=60)] = 6.35
    lip: Annotated[float, About("Lip in front", low=0, high=200)] = 38.1
    nosing: Annotated[float, About("Nosing", low=0, high=100)] = 25.4
    head: Annotated[str, About("Stringers' heads", unit="choice", choices=HEADS,
        help="Against a face: pick the upper floor on what they are bolted to.")] = HEAD_OPEN  # fmt: skip
    plate: Annotated[float, About("Plates at the ends", low=4, high=60)] = 12.7
    anchor: Annotated[float, About("Holes for anchors", low=6, high=40)] = 20.6375


class Wound(NamedTuple):
    """A winding stair as it comes out: the axis at the lower floor, the angle of the first riser, the radians that a
    step turns by (to the left where positive)."""

    axis: Vec
    first: float
    step: float
    rise: float
    risers: int
    inner: float

    @property
    def hand(self) -> int:
        return 1 if self.step > 0 else -1

    def slope(self, radius: float) -> float:
        return math.atan2(self.rise, abs(self.step) * radius)

    def at(self, step: float, radius: float, z: float) -> Vec:
        """A point so many steps on from the first riser."""
        angle = self.first + step * self.step
        return self.axis + (radius * math.cos(angle), radius * math.sin(angle), z)


def laid_out(given: Given) -> Wound:
    """Where it is and how it steps. Raises ValueError where the points do not climb."""
    p: Params = given.params
    axis, foot, head = given.points[:3]
    climb = float(head[2] - axis[2])
    out = foot[:2] - axis[:2]
    if climb < 200.0:
        raise ValueError("its head is no higher than its foot; pick a point on the upper floor")
    if float(np.hypot(*out)) < 10.0:
        raise ValueError("its first riser stands on the axis; pick a point away from it")
    rule = RULES[p.rule]
    most = rule.winding_rise or rule.most_rise or 200.0
    n = p.risers or max(2, math.ceil(climb / most - 1e-6))
    inner = section(p.post).d / 2 if p.about == POST else p.inner
    if p.outer - inner < 200.0:
        raise ValueError("its treads are narrower than a foot needs; give it a larger outer radius")
    step = math.radians(p.turn) / (n - 1) * (1 if p.hand == LEFT else -1)
    return Wound(np.array([axis[0], axis[1], axis[2]]), math.atan2(out[1], out[0]), step, climb / n, n, inner)


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts, wound = Parts(given), laid_out(given)
    sides = []
    if p.about == POST:
        sides.append(_post(parts, wound, p))
    else:
        sides.append(_stringer(parts, wound, p, "inner", wound.inner, -1))
    if p.about == BETWEEN or p.outer_stringer == "yes":
        sides.append(_stringer(parts, wound, p, "outer", p.outer, 1))
    for n in range(1, wound.risers):
        key = f"tread {n}"
        _tread(parts, wound, p, key, n)
        for side in sides:
            parts.attach(f"{key} {side}", "welded on", key, side)
    return parts.made


def _post(parts: Parts, wound: Wound, p: Params) -> str:
    """The post on its base plate."""
    top = wound.axis + (0.0, 0.0, wound.risers * wound.rise + p.post_over)
    key = parts.member("post", Role.POST, p.post, wound.axis + (0.0, 0.0, p.plate), top)
    half = section(p.post).d / 2 + 3.5 * p.anchor
    at = half - 1.5 * p.anchor
    axes = np.column_stack([[1.0, 0, 0], [0.0, 0, -1], [0.0, 1, 0]])
    holes = HoleRow(-at, -at, p.anchor, columns=2, rows=2, dx=2 * at, dz=2 * at)
    frame = Placement(wound.axis + (0.0, 0.0, p.plate / 2), axes)
    parts.plate("base", Role.PLATE, frame, Blank(rectangle((-half, -half), (half, half)), (), (holes,)), p.plate)
    parts.attach("base weld", "welded on", "base", key)
    parts.attach("base anchors", "anchored", "base")
    return key


def _stringer(parts: Parts, wound: Wound, p: Params, key: str, face: float, way: int) -> str:
    """A stringer with the side that its treads touch at a radius; `way` 1 outside of them, -1 inside."""
    s = section(p.stringer)
    if s.form not in (Form.CHANNEL, Form.FLAT, Form.BOX):
        raise ValueError(f"stringers are channels, flats or tubes, which {p.stringer} is not")
    radius = face + way * s.b / 2
    if radius < 2 * s.b:
        raise ValueError("its inner stringer has no room to go round; give it a larger inner radius")
    slope = wound.slope(radius)
    drop = s.d / 2 / math.cos(slope) - p.over
    start = (p.plate - wound.rise + drop) / wound.rise
    end = wound.risers - 1 - (p.plate / (radius * abs(wound.step)) if p.head == FACE else 0.0)
    turn = math.degrees((end - start) * wound.step)
    a = wound.at(start, radius, wound.rise * (1 + start) - drop)
    rise = (end - start) * wound.rise
    inward = wound.hand  # the section's y, to the left, looks to the axis where it turns to the left
    toes_in = way < 0  # away from the treads
    roll = 0.0 if (inward > 0) == toes_in else 180.0
    climb = Climb(float(wound.axis[0]), float(wound.axis[1]), turn)
    name = f"{key} stringer"
    parts.climbing(name, Role.STRINGER, p.stringer, (float(a[0]), float(a[1]), float(a[2])), rise, climb, roll)
    parts.cut(name, "level", "plumb")
    _foot(parts, wound, p, name, start, radius, (s.d / 2 / math.sin(slope), s.b / 2))
    if p.head == FACE:
        _head(parts, wound, p, name, radius, (drop, s.d / 2 / math.cos(slope), s.b / 2))
    return name


def _head(parts: Parts, wound: Wound, p: Params, key: str, radius: float, size: tuple[float, float, float]) -> None:
    """The end plate of a stringer, whose far side stands on the line of the last riser."""
    drop, deep, half = size
    steps = wound.risers - 1
    angle = wound.first + steps * wound.step
    out = np.array([math.cos(angle), math.sin(angle), 0.0])
    on = wound.hand * np.array([-out[1], out[0], 0.0])
    middle = wound.risers * wound.rise - drop
    right = np.cross(on, [0.0, 0.0, 1.0])  # to the right of who climbs
    spot = wound.at(steps, radius, middle) - on * p.plate / 2
    wide, z, third = half + 2.75 * p.anchor, half + 1.4 * p.anchor, section(p.stringer).d / 3
    top = wound.risers * wound.rise - p.thickness - middle
    holes = HoleRow(-z, top - 2 * third, p.anchor, columns=2, rows=2, dx=2 * z, dz=third)
    blank = Blank(rectangle((-wide, -deep), (wide, deep)), (), (holes,))
    parts.plate(
        f"{key} head", Role.PLATE, Placement(spot, np.column_stack([right, on, [0.0, 0.0, 1.0]])), blank, p.plate
    )
    parts.attach(f"{key} head weld", "welded on", f"{key} head", key)
    host = parts.given.host(2)
    if host is not None:
        parts.attach(f"{key} head bolts", "bolted on", f"{key} head", host)


def _foot(
    parts: Parts, wound: Wound, p: Params, key: str, start: float, radius: float, size: tuple[float, float]
) -> None:
    """The plate that a stringer stands on, with its anchors."""
    spot = wound.at(start, radius, p.plate / 2)
    angle = wound.first + start * wound.step
    out = np.array([math.cos(angle), math.sin(angle), 0.0])
    on = wound.hand * np.array([-out[1], out[0], 0.0])
    axes = np.column_stack([on, [0.0, 0.0, -1.0], np.cross(on, [0.0, 0.0, -1.0])])
    sag = size[0] ** 2 / (2 * radius)  # how far the ends of the cut bow towards the axis
    long, wide = size[0] + 2.5 * p.anchor, size[1] + sag + 2.75 * p.anchor
    z = wide - 1.35 * p.anchor
    holes = HoleRow(-long * 0.6, -z, p.anchor, columns=2, rows=2, dx=1.2 * long, dz=2 * z)
    blank = Blank(rectangle((-long, -wide), (long, wide)), (), (holes,))
    parts.plate(f"{key} foot", Role.PLATE, Placement(spot, axes), blank, p.plate)
    parts.attach(f"{key} foot weld", "welded on", f"{key} foot", key)
    parts.attach(f"{key} foot anchors", "anchored", f"{key} foot")


def _tread(parts: Parts, wound: Wound, p: Params, key: str, n: int) -> None:
    """A sector from the inner radius to the outer, its front edge a nosing before its riser, its lip turned down."""
    t, hand = p.thickness, wound.hand
    angle = wound.first + (n - 1) * wound.step
    out = np.array([math.cos(angle), math.sin(angle), 0.0])
    on = hand * np.array([-out[1], out[0], 0.0])
    frame = Placement(
        wound.axis + (0.0, 0.0, n * wound.rise - t / 2), np.column_stack([hand * out, [0.0, 0, -1.0], on])
    )
    back = abs(wound.step) - _AIR / p.outer  # short of the next riser, which may be a face
    radius = usual_radius(parts.given.rules.plate_grade, t)
    set_back = radius + t if p.lip else 0.0
    front = -p.nosing + set_back
    r1, r2 = wound.inner, p.outer
    blank = Blank(_sector(r1, r2, front, back, hand), (), (), (), Lugs() if p.tread == CHECKERED else None)
    if p.lip:
        blank = _with_lip(blank, (r1, r2), front, p.lip - set_back, (t, radius), hand)
    parts.plate(key, Role.TREAD, frame, blank, t)


def _sector(r1: float, r2: float, front: float, back: float, hand: int) -> tuple[Corner, ...]:
    """Corners (x out of the axis, z on) of a tread, its front edge along z = `front`, its back edge radial."""

    def corner(radius: float, angle: float, to: float | None = None) -> Corner:
        bulge = 0.0 if to is None else math.tan((to - angle) / 4) * hand
        return Corner(hand * radius * math.cos(angle), radius * math.sin(angle), bulge)

    near, far = (math.asin(front / r) for r in (r1, r2))
    return corner(r1, near), corner(r2, far, back), corner(r2, back), corner(r1, back, near)


def _with_lip(
    blank: Blank, radii: tuple[float, float], front: float, lip: float, bent: tuple[float, float], hand: int
) -> Blank:
    """The tread's blank with its lip, still flat, before the front edge."""
    t, radius = bent
    if lip < t:
        raise ValueError("the lip of its treads is shorter than its bend; make it longer or the plate thinner")
    take = math.pi / 2 * neutral_radius(radius, t)
    x1, x2 = (hand * math.sqrt(r * r - front * front) for r in radii)
    low = front - take - lip
    inset = hand * 2.0  # free of what its ends stand against
    inner, outer, *rest = blank.outline
    ring = (msgspec.structs.replace(inner, bulge=0.0), Corner(x1 + inset, front), Corner(x1 + inset, low),
        Corner(x2 - inset, low), Corner(x2 - inset, front), outer, *rest)  # fmt: skip
    z = front - take / 2
    fold = Fold(max(x1, x2), z, min(x1, x2), z, -90.0, radius)
    return msgspec.structs.replace(blank, outline=ring, folds=(fold,))


def told(given: Given) -> Iterator[Said]:
    """What of it breaks the rule chosen."""
    p: Params = given.params
    rule, wound, units = RULES[p.rule], laid_out(given), given.units

    def said(what: str, value: float, limit: float, way: str) -> Said:
        return Said(f"{what} is {length_in_words(value, units)}; {rule.name} asks for {way} "
            f"{length_in_words(limit, units)}.")  # fmt: skip

    most = rule.winding_rise or rule.most_rise
    if most is not None and wound.rise > most + 0.05:
        yield said("The rise", wound.rise, most, "at most")
    least = rule.winding_going or rule.least_going
    going = going_at(wound)
    if least is not None and going < least - 0.05:
        yield said("The going, 12 in from the narrow side,", going, least, "at least")
    wide = rule.winding_width or rule.least_width
    if wide is not None and p.outer - wound.inner < wide - 0.05:
        yield said("The width", p.outer - wound.inner, wide, "at least")
    yield from _headroom(rule, wound, p, given)


def _headroom(rule: StairRule, wound: Wound, p: Params, given: Given) -> Iterator[Said]:
    """Room under the turn above, where it goes more than once round."""
    steps = math.floor(2 * math.pi / abs(wound.step) + 1e-9)
    if steps >= wound.risers - 1:
        return
    room = steps * wound.rise - max(p.thickness, p.lip)
    limit = rule.winding_headroom or rule.headroom
    if room < limit - 0.05:
        yield Said(f"Under the turn above there is {length_in_words(room, given.units)} of headroom; {rule.name} asks "
            f"for {length_in_words(limit, given.units)}.")  # fmt: skip


def going_at(wound: Wound) -> float:
    """The going where a winder's is measured, a foot from the narrow side."""
    return abs(wound.step) * (wound.inner + _FROM_NARROW)


def reading(given: Given) -> str:
    wound = laid_out(given)
    rise, going = (format_length(v, given.units) for v in (wound.rise, going_at(wound)))
    each = math.degrees(abs(wound.step))
    return (
        f"{wound.risers} risers of {rise}, each turning {each:.1f} degrees; going {going} a foot from the narrow side"
    )


KIND = Compound(
    "winding stair",
    "Winding stair",
    Params,
    ("pick the axis, on the lower floor", "pick a point towards the first riser", "pick a point on the upper floor"),
    build,
    "Treads round a post, or between two stringers that climb about an axis.",
    climbs=2,
    told=told,
    reading=reading,
    metric={"rule": NAMES[3], "post": "CFCHS168.3X8", "outer": 1100.0, "inner": 600.0, "stringer": "FL250X10",
        "thickness": 6.0, "lip": 40.0, "nosing": 25.0, "plate": 12.0, "anchor": 18.0, "post_over": 1100.0},
)  # fmt: skip
