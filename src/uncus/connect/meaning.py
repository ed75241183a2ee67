"""What a length of a joint or attachment measures: found from the steel itself, by making it once with a little more.

Two places belong to a value where the distance between them, along the way that one moves from the other, is the value
and grows as the value does. Nothing is kept by hand, so it is true of every kind and of every new one.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any, NamedTuple, TypeVar

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.connect.kind import Body
from uncus.frame.placement import Vec
from uncus.job.forms import About
from uncus.steel.features import Cope, Hole, Notch
from uncus.steel.forming import formed
from uncus.steel.joint import Contribution, Weld
from uncus.steel.profile import faces

_MORE = {True: (1.5875, 6.35, 12.7), False: (1.0, 5.0, 10.0)}  # mm that a value is grown by: steps that shops like
_NEAR = 0.06  # mm within which a distance is the value, or its growth the growth
_TRIED = (12.7, 38.1, 76.2, 152.4, 304.8, 600.0)  # values that one by rule may be given
_MOST = 700  # places that are looked at

Places = dict[tuple[object, ...], Vec]
Make = Callable[[Any], Contribution]
T = TypeVar("T")


class Measure(NamedTuple):
    """Between two places of the model; or, for the size of a thing, along it; or, where no two places are so far apart,
    what moves as the value grows."""

    a: Vec
    b: Vec
    value: float
    path: tuple[Vec, ...] = ()
    moved: tuple[Vec, ...] = ()


class Bed(NamedTuple):
    """What a joint or attachment is made on: its members, where the steel of the first begins and ends along it where
    that is known, and whether it is in inches."""

    bodies: tuple[Body, ...]
    inch: bool
    ends: tuple[float, ...] = ()


def measured(params: Any, name: str, about: About, make: Make, bed: Bed) -> Measure | None:
    """What a field of `params` measures, in the steel that `make` makes of them; None where nothing goes by it."""

    def weld(base: Contribution, one: Contribution, more: Contribution, by: float) -> Measure | None:
        grown = _grown(base, one, more, by)
        if grown is None:
            return None
        path = tuple(np.asarray(p) for p in grown.path)
        return Measure(path[0], path[-1], grown.size, path)

    return by_growing(params, name, about, make, lambda made: _places(made, bed), weld, _MORE[bed.inch])


def by_growing(
    params: Any, name: str, about: About, make: Callable[[Any], T], places: Callable[[T], Places],
    sized: Callable[[T, T, T, float], Measure | None], steps: Sequence[float],
) -> Measure | None:  # fmt: skip
    """What a field measures in what `make` makes of values: `places` gives what can be measured from, `sized` what has
    the value for a size, of the thing as it is, with the value and with a step more."""
    if about.unit != "length":
        return None
    value, base = getattr(params, name), make(params)
    before, moved = places(base), None
    for by in steps:
        for tried in (value,) if value is not None else (t for t in _TRIED if about.low <= t <= about.high - by):
            one, more = (make(msgspec.structs.replace(params, **{name: tried + step})) for step in (0.0, by))
            if size := sized(base, one, more, by):
                return size
            here, there = places(one), places(more)
            found = _pair(here, there, tried, by, before)
            if found is not None:
                return found
            moved = moved or _moved(here, there, before, tried)
        if moved is None:  # nothing went by it whatever it was
            return None
    return moved


def _moved(one: Places, more: Places, base: Places, value: float) -> Measure | None:
    """What moves, or comes and goes, as the value grows."""
    spots = [base[k] for k in one if k in more and k in base and float(np.abs(more[k] - one[k]).max()) > _NEAR]
    spots += [spot for k, spot in base.items() if (k in one) != (k in more)]
    return Measure(spots[0], spots[0], value, moved=tuple(spots)) if spots else None


def _grown(base: Contribution, one: Contribution, more: Contribution, by: float) -> Weld | None:
    """A weld whose size alone is what the value says."""
    here, there = ({w.key: w for w in made.welds} for made in (one, more))
    if _shape(one) != _shape(more):
        return None
    grown = [k for k in here.keys() & there.keys() if abs(there[k].size - here[k].size - by) < _NEAR]
    return next((w for w in base.welds if w.key in grown), None)


def _shape(made: Contribution) -> tuple[object, ...]:
    return tuple((p.key, p.part.outline, p.part.length, p.part.thickness) for p in made.parts), made.cuts, made.features


def _pair(one: Places, more: Places, value: float, by: float, base: Places) -> Measure | None:
    """The two places, as they are in the steel that is there now."""
    keys = [k for k in one if k in more and k in base][:_MOST]
    if not keys:
        return None
    here, moved = np.array([one[k] for k in keys]), np.array([more[k] - one[k] for k in keys])
    if float(np.abs(moved).max(initial=0.0)) < _NEAR:
        return None
    active = np.flatnonzero(np.linalg.norm(moved, axis=1) > 0.3 * by)
    apart = here[active, None] - here[None]
    grown = moved[active, None] - moved[None]
    size = np.linalg.norm(grown, axis=2)
    way = grown / np.where(size > 1e-9, size, 1.0)[..., None]
    along = np.einsum("ijk,ijk->ij", apart, way)
    fits = (np.abs(size - by) < _NEAR) & (np.abs(along - value) < _NEAR)
    if not fits.any():
        return None
    aside = np.linalg.norm(apart - along[..., None] * way, axis=2)
    i, j = np.unravel_index(int(np.where(fits, aside, np.inf).argmin()), fits.shape)
    b, a = base[keys[int(active[i])]], base[keys[int(j)]]
    n: NDArray[np.float64] = way[i, j]
    long = float((b - a) @ n)
    return Measure(b - long * n, b, long)


def _places(made: Contribution, bed: Bed) -> Places:
    return dict(_each(made, bed))


def _each(made: Contribution, bed: Bed) -> Iterator[tuple[tuple[object, ...], Vec]]:
    """Places that a person would measure from: corners, middles and holes of plates, bolts, ends, copes and holes of
    members, and the edges of their sections near the joint."""
    for p in made.parts:
        part, place = p.part, p.placement
        if part.is_plate:
            half = part.thickness / 2
            flat = [(x, y, z) for y in (-half, half) for x, z in part.outline]
            flat += [(h.x + dx, y, h.w + dz) for y in (-half, half) for h in part.holes for dx, dz in _rim(h)]
            flat.append(part.centre)
            spots = place.to_model(formed(part, flat))
        else:
            (y0, y1), (z0, z1) = part.y_range, part.depth_range
            spots = place.to_model(
                [(x, y, z) for x in (0.0, part.length) for y in (y0, 0.0, y1) for z in (z0, 0.0, z1)]
            )
        yield from (((p.key, n), spot) for n, spot in enumerate(spots))
    near = []
    for group in made.fasteners:
        for n, at in enumerate(group.points):
            near.append(np.asarray(at))
            yield ("bolt", group.key, n), np.asarray(at)
    for weld in made.welds:
        for n, at in enumerate(weld.path):
            near.append(np.asarray(at))
            yield ("weld", weld.key, n), np.asarray(at)
    yield from places_on_members(made, bed, near)


def _rim(hole: Hole) -> tuple[tuple[float, float], ...]:
    """A hole's middle and two places on its rim, one across from the other."""
    r = hole.d / 2
    return (0.0, 0.0), (r, 0.0), (-r, 0.0)


def ring(body: Body, x: float) -> NDArray[np.float64]:
    """(15, 3) edges, web and middle of a member's section at a place along it."""
    half_d, half_b, web = body.section.d / 2, body.section.b / 2, body.section.tw / 2
    return body.frame.to_model([(x, y, z) for y in (-half_b, -web, 0.0, web, half_b) for z in (-half_d, 0.0, half_d)])


def places_on_members(made: Contribution, bed: Bed, near: list[Vec]) -> Iterator[tuple[tuple[object, ...], Vec]]:
    """What a joint does to its members: holes, notches and copes, and their sections' rings `near` it."""
    bodies = bed.bodies
    stock = {s.id: s for b in bodies for s in b.stock}
    owners = {b.id: b for b in bodies}
    for n, (owner, f) in enumerate(made.features):
        if owner not in stock:
            continue
        s = stock[owner]
        if isinstance(f, Hole):
            wall = faces(s.section).get(f.face)
            mid = wall.mid if wall else 0.0
            for k, (dx, dw) in enumerate(_rim(f)):
                at = (f.x + dx, mid, f.w + dw) if f.face.upright else (f.x + dx, f.w + dw, mid)
                yield ("hole", owner, n, k), s.frame.to_model(at)
        elif isinstance(f, Notch):
            for k, (x, w) in enumerate(f.outline):
                yield ("notch", owner, n, k), s.frame.to_model((x, 0.0, w) if f.face.upright else (x, w, 0.0))
        elif isinstance(f, Cope) and owner in owners:
            end = next((c.at for o, e, c in made.cuts if o == owner and (e == "right") == f.right), 0.0)
            x = end - f.length if f.right else end + f.length
            z = -s.section.d / 2 + f.depth if f.bottom else s.section.d / 2 - f.depth
            for k, spot in enumerate(((x, 0.0, z), (end, 0.0, z), (x, 0.0, s.section.d / 2))):
                yield ("cope", owner, n, k), s.frame.to_model(spot)
    middle = np.mean(near, axis=0) if near else None
    for body in bodies:
        xs = {f"cut {end}": cut.at for owner, end, cut in made.cuts if owner == body.id}
        if middle is not None:
            xs["near"] = float(np.clip(body.frame.to_local(middle)[0], 0.0, body.length))
        xs |= {"left": 0.0, "right": body.length}
        if body is bodies[0]:
            xs |= {f"steel {n}": x for n, x in enumerate(bed.ends)}
        for name, x in xs.items():
            yield from ((("member", body.id, name, n), spot) for n, spot in enumerate(ring(body, x)))
