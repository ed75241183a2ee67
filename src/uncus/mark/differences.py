"""Why two pieces are not the same: feature by feature in words, and both laid over each other for a picture."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Sequence
from typing import NamedTuple

import msgspec
import numpy as np

from uncus.mark.sameness import (
    DEGREES,
    MM,
    Alike,
    maps,
    near,
    near_cut,
    turned_coil,
    turned_curve,
    turned_cut,
    turned_feature,
    ways_onto,
)
from uncus.shop.pieces import Assembly
from uncus.steel.describe import describe
from uncus.steel.features import Cope, EndCut, Feature, Hole, Notch, Saddle, Thread
from uncus.steel.flat import face_outline, hole_outline, part_faces
from uncus.steel.part import Part
from uncus.units import Units, counted, format_length

_NEAR = 400.0  # mm within which a feature is one that moved, not another
Ring = tuple[tuple[float, float], ...]


class Laid(NamedTuple):
    """One face of both pieces in the first one's frame, (x, across): outlines and holes; what only one of them has
    is in `only_a` and `only_b`."""

    face: str
    a: tuple[Ring, ...]
    b: tuple[Ring, ...]
    only_a: tuple[Ring, ...]
    only_b: tuple[Ring, ...]


def differences(a: Part, b: Part, units: Units, alike: Alike = Alike()) -> list[str]:
    """Sentences without a verb, such as `2 web holes 1 1/2 further along`; none for the same parts."""
    if maps(a, b, alike):
        return []
    found = []
    if a.is_plate != b.is_plate or (a.section and b.section and a.section.name != b.section.name):
        found.append(f"{describe(a, units)} against {describe(b, units)}")
    elif a.is_plate and abs(a.thickness - b.thickness) > alike.mm:
        found.append(f"{format_length(a.thickness, units)} thick against {format_length(b.thickness, units)}")
    if a.item != b.item and not found:
        found.append(f"{_bought(a)} against {_bought(b)}")
    if alike.grade and a.grade != b.grade:
        found.append(f"grade {a.grade} against {b.grade}")
    if alike.finish and a.finish != b.finish:
        found.append(f"finish “{a.finish or 'none'}” against “{b.finish or 'none'}”")
    if _surface(a) != _surface(b):
        found.append(f"{_surface(a)} against {_surface(b)}")
    if a.is_plate != b.is_plate or (a.section and b.section and a.section.name != b.section.name):
        return found
    if not found and any(maps(other, b, alike) for other in reflected(a)):
        return ["the other hand: one is the mirror image of the other"]
    return found + (_of_plates(a, b, units) if a.is_plate else _of_rolled(a, b, units))


def _surface(part: Part) -> str:
    return part.surface.name if part.surface else "plain"


def _bought(part: Part) -> str:
    return f"{part.item.code} of {part.item.maker}" if part.item else "made here"


def reflected(part: Part) -> list[Part]:
    """A part's mirror image, end for end; a flat plate is its own, turned over, and a bent one is bent the other
    way."""
    if part.section is None:
        other = tuple(msgspec.structs.replace(b, angle=-b.angle) for b in part.bends)
        return [msgspec.structs.replace(part, bends=other)] if other else []
    cuts = [_mirrored(c, part.length) for c in (part.right, part.left)]

    def one(f: Feature) -> Feature:
        if isinstance(f, Hole):
            return Hole(f.face, part.length - f.x, f.w, f.d, f.slot, -f.angle if f.slot else 0.0)
        if isinstance(f, Cope):
            return msgspec.structs.replace(f, right=not f.right)
        if isinstance(f, Thread):
            return msgspec.structs.replace(f, right=not f.right, left_handed=not f.left_handed)
        return Notch(f.face, tuple((part.length - x, w) for x, w in f.outline))

    coil = part.coil and msgspec.structs.replace(part.coil, hand=-part.coil.hand, roll=part.coil.roll + 180.0)
    features = tuple(one(f) for f in part.features)
    return [msgspec.structs.replace(part, left=cuts[0], right=cuts[1], features=features, coil=coil)]


def _mirrored(cut: EndCut, length: float) -> EndCut:
    saddle = cut.saddle
    if isinstance(saddle, Saddle):
        saddle = msgspec.structs.replace(saddle, right=not saddle.right)
    return EndCut(length - cut.at, -cut.ky, -cut.kz, saddle)


# -- rolled ---------------------------------------------------------------------------------------------------


def turned(part: Part, r: np.ndarray) -> Part:
    """The same steel described after a rotation of its section."""
    cuts = [turned_cut(c, r, part.length) for c in (part.left, part.right)]
    if r[0, 0] < 0:
        cuts.reverse()
    features = tuple(turned_feature(part, f, r) for f in part.features)
    curve = turned_curve(part.curve, r) if part.curve else None
    coil = turned_coil(part.coil, r) if part.coil else None
    return msgspec.structs.replace(part, left=cuts[0], right=cuts[1], features=features, curve=curve, coil=coil)


def nearest_way(a: Part, b: Part) -> Part:
    """`b` turned so that the least of it differs from `a`."""
    if b.section is None:
        return b
    ways = [turned(b, r) for r in ways_onto(b, a)]
    return min(ways, key=lambda way: _unlike(a, way))


def _unlike(a: Part, b: Part) -> tuple[int, float]:
    only_a, only_b = _apart(a.features, b.features)
    return len(only_a) + len(only_b), abs(a.left.ky - b.left.ky) + abs(a.left.kz - b.left.kz)


def _apart(a: Sequence[Feature], b: Sequence[Feature]) -> tuple[list[Feature], list[Feature]]:
    """Features that have no near one in the other."""
    left, only = list(b), []
    for feature in a:
        hit = next((i for i, other in enumerate(left) if near(feature, other)), None)
        if hit is None:
            only.append(feature)
        else:
            del left[hit]
    return only, left


def _of_rolled(a: Part, b: Part, units: Units) -> list[str]:
    b = nearest_way(a, b)
    found = []
    if abs(a.length - b.length) > MM:
        more = "longer" if a.length > b.length else "shorter"
        found.append(f"{format_length(abs(a.length - b.length), units)} {more}")
    for words, one, other in (("left", a.left, b.left), ("right", a.right, b.right)):
        if isinstance(one.saddle, Saddle) != isinstance(other.saddle, Saddle):
            shapes = ["a saddle" if isinstance(c.saddle, Saddle) else "a flat cut" for c in (one, other)]
            found.append(f"the {words} end is {shapes[0]} against {shapes[1]}")
        elif isinstance(one.saddle, Saddle) and isinstance(other.saddle,
            Saddle) and abs(one.saddle.radius - other.saddle.radius) > MM:  # fmt: skip
            sizes = [format_length(2 * c.radius, units) for c in (one.saddle, other.saddle)]
            found.append(f"the {words} end is a saddle to a tube of {sizes[0]} against {sizes[1]}")
        elif not near_cut(one, msgspec.structs.replace(other, at=one.at)):
            found.append(f"the {words} end is cut otherwise")
    if a.curve != b.curve:
        found += _of_arcs(a, b, units)
    if a.coil != b.coil:
        found += _of_coils(a, b, units)
    return found + _of_features(*_apart(a.features, b.features), b, units)


def _of_arcs(a: Part, b: Part, units: Units) -> list[str]:
    if a.curve is None or b.curve is None:
        return ["rolled to an arc against straight" if a.curve else "straight against rolled to an arc"]
    found = []
    if abs(a.curve.rise(a.length) - b.curve.rise(b.length)) > MM:
        radii = [format_length(c.radius, units) for c in (a.curve, b.curve)]
        found.append(f"rolled to a radius of {radii[0]} against {radii[1]}")
    if abs((a.curve.turn - b.curve.turn + 180) % 360 - 180) > DEGREES:
        found.append("rolled to another side")
    return found


def _of_coils(a: Part, b: Part, units: Units) -> list[str]:
    if a.coil is None or b.coil is None:
        return ["climbing round an axis against not" if a.coil else "not climbing round an axis against so"]
    found = []
    if a.coil.hand != b.coil.hand:
        found.append("climbing to the other hand")
    for words, mine, other in (
        ("at a radius of", a.coil.radius, b.coil.radius),
        ("rising", a.coil.rise(a.length), b.coil.rise(b.length)),
    ):
        if abs(mine - other) > MM:
            found.append(f"{words} {format_length(mine, units)} against {format_length(other, units)}")
    if abs((a.coil.roll - b.coil.roll + 180) % 360 - 180) > DEGREES:
        found.append("turned otherwise about its own axis")
    return found


def _of_features(only_a: list[Feature], only_b: list[Feature], was: Part, units: Units) -> list[str]:
    moved: dict[tuple[str, str], list[Feature]] = defaultdict(list)
    for feature in list(only_a):
        other = min((o for o in only_b if _kind(o) == _kind(feature)), key=lambda o: _away(feature, o), default=None)
        if other is None or _away(feature, other) > _NEAR:
            continue
        words = _moved(feature, other, units)
        only_a.remove(feature)
        only_b.remove(other)
        moved[(_kind(feature), words)].append(other)
    found = []
    for (kind, words), some in moved.items():
        which = _which(kind, some, was)
        found.append(f"{which} moved {words}" if which[-1].isdigit() and words[0].isdigit() else f"{which} {words}")
    for more, side in ((only_a, "more"), (only_b, "fewer")):
        for kind, n in Counter(map(_kind, more)).items():
            found.append(f"{counted(n, kind)} {side}")
    return found


def _which(kind: str, some: Sequence[Feature], part: Part) -> str:
    """Features in words: whole columns of holes counted from the left, whole rows from the top, or how many."""
    every = [h for h in part.holes if _kind(h) == kind]
    holes = [f for f in some if isinstance(f, Hole)]
    if len(every) < 2 or not holes:
        return counted(len(some), kind)
    if len(holes) == len(every):
        return f"all {kind}s"
    reads: tuple[tuple[str, Callable[[Hole], int]], ...] = (
        ("column", lambda h: round(h.x)),
        ("row", lambda h: -round(h.w)),
    )
    for name, at in reads:
        lines = sorted({at(h) for h in every})
        own = {at(h) for h in holes}
        if len(lines) > 1 and sum(at(h) in own for h in every) == len(holes):
            numbers = [str(lines.index(n) + 1) for n in sorted(own)]
            listed = ", ".join(numbers[:-1]) + " and " + numbers[-1] if len(numbers) > 1 else numbers[0]
            return f"{kind} {name}{'s' if len(numbers) > 1 else ''} {listed}"
    return counted(len(some), kind)


def _kind(f: Feature) -> str:
    if isinstance(f, Hole):
        return f"{f.face} {'slot' if f.slot else 'hole'}"
    if isinstance(f, Cope):
        return f"{'bottom' if f.bottom else 'top'} cope at the {'right' if f.right else 'left'}"
    if isinstance(f, Thread):
        return f"{'left' if f.left_handed else 'right'}-hand thread at the {'right' if f.right else 'left'}"
    return f"{f.face} notch"


def _spot(f: Feature) -> np.ndarray:
    if isinstance(f, Hole):
        return np.array([f.x, f.w])
    if isinstance(f, Notch):
        return np.asarray(np.mean(f.outline, axis=0))
    return np.zeros(2)


def _away(a: Feature, b: Feature) -> float:
    return float(np.linalg.norm(_spot(a) - _spot(b)))


def _moved(a: Feature, b: Feature, units: Units) -> str:
    dx, dw = (_spot(a) - _spot(b)).tolist()
    words = []
    if isinstance(a, Hole) and isinstance(b, Hole) and max(abs(a.d - b.d), abs(a.slot - b.slot)) > MM:
        words.append(f"of {format_length(a.d, units)} against {format_length(b.d, units)}")
    if isinstance(a, Cope) and isinstance(b, Cope):
        sizes = ((a.length, b.length, "long"), (a.depth, b.depth, "deep"), (a.radius, b.radius, "in the corner"))
        words += [
            f"{format_length(x, units)} {w} against {format_length(y, units)}" for x, y, w in sizes if abs(x - y) > MM
        ]
    if isinstance(a, Thread) and isinstance(b, Thread) and abs(a.length - b.length) > MM:
        words.append(f"{format_length(a.length, units)} long against {format_length(b.length, units)}")
    if abs(dx) > MM:
        words.append(f"{format_length(abs(dx), units)} {'further along' if dx > 0 else 'less far along'}")
    if abs(dw) > MM:
        words.append(f"{format_length(abs(dw), units)} {'higher' if dw > 0 else 'lower'}")
    return ", ".join(words) or "shaped otherwise"


# -- plates and assemblies ------------------------------------------------------------------------------------


def _of_plates(a: Part, b: Part, units: Units) -> list[str]:
    found = []
    for words, one, other in (("long", a.length, b.length), ("wide", a.width, b.width)):
        if abs(one - other) > MM:
            found.append(f"{format_length(one, units)} {words} against {format_length(other, units)}")
    if len(a.outline) != len(b.outline):
        found.append(f"{counted(len(a.outline), 'corner')} against {len(b.outline)}")
    bare = [msgspec.structs.replace(p, features=(), thickness=1.0, grade="", finish="") for p in (a, b)]
    flat = [msgspec.structs.replace(p, bends=()) for p in bare]
    if not found and not maps(flat[0], flat[1]):
        found.append("another outline")
    elif len(a.bends) != len(b.bends):
        found.append(f"{counted(len(a.bends), 'bend')} against {len(b.bends)}")
    elif not found and not maps(bare[0], bare[1]):
        found.append("bent otherwise")
    return found + _of_features(*_apart(a.features, b.features), b, units)


def between(a: Assembly, b: Assembly, units: Units, alike: Alike = Alike()) -> list[str]:
    """Why two assemblies are not the same: their main parts, then what is fixed to them."""
    found = differences(a.main.part, b.main.part, units, alike)
    for name, asked in (("lot", alike.lot), ("role", alike.names), ("camber", alike.camber)):
        one, other = getattr(a.member, name), getattr(b.member, name)
        if asked and (abs(one - other) > alike.mm if name == "camber" else one != other):
            found.append(f"{name} {one or 'none'} against {other or 'none'}")
    rest = list(b.pieces[1:])
    alone = []
    for piece in a.pieces[1:]:
        hit = next((i for i, other in enumerate(rest) if maps(piece.part, other.part, alike)), None)
        if hit is None:
            alone.append(piece)
        else:
            del rest[hit]
    for piece in alone:
        other = next((o for o in rest if o.words == piece.words), None)
        if other is None:
            found.append(f"1 {piece.words} more")
        else:
            rest.remove(other)
            found += [f"{piece.words}: {words}" for words in differences(piece.part, other.part, units, alike)]
    found += [f"1 {piece.words} fewer" for piece in rest]
    more = len(a.studs) - len(b.studs)
    found += [f"{counted(abs(more), 'stud')} {'more' if more > 0 else 'fewer'}"] if more else []
    return found or ["parts stand at other places, or are welded or bolted otherwise"]


def laid_over(a: Part, b: Part) -> list[Laid]:
    """Each face of `a` with `b` over it, turned the way in which least differs."""
    b = nearest_way(a, b)
    only_a, only_b = ({f for f in side if isinstance(f, Hole)} for side in _apart(a.features, b.features))
    faces = [f for f in part_faces(a) if f in part_faces(b)]
    found = []
    for face in faces:
        holes = [[f for f in p.features if isinstance(f, Hole) and f.face is face] for p in (a, b)]
        rings = [(_ring(face_outline(p, face)), *(_ring(hole_outline(h)) for h in own)) for p, own
            in zip((a, b), holes, strict=True)]  # fmt: skip
        alone = [tuple(_ring(hole_outline(h)) for h in own if h in side) for own, side
            in zip(holes, (only_a, only_b), strict=True)]  # fmt: skip
        found.append(Laid(str(face) if a.section else "plate", rings[0], rings[1], alone[0], alone[1]))
    return found


def _ring(polygon) -> Ring:  # type: ignore[no-untyped-def]
    return tuple((float(x), float(y)) for x, y in polygon.exterior.coords)
