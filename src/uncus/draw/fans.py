"""Parts alike that stand round an axis like the treads of a winding stair: seen together along it, each with the angle
at which it stands, in place of a section for each."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence

import numpy as np

from uncus.draw.annotation import Annotation, Note, Ray
from uncus.draw.projection import axes_of
from uncus.draw.subject import Fixed, Subject
from uncus.units import Units, format_length

_FEWEST = 3  # alike, that are a fan
_SAME = 1.0  # mm and degrees within which two stand alike
_ALIKE = 0.02  # of direction


class Round:
    """How the parts of a subject stand round its axis: along the main part, or up where it is drawn as it stands. Both
    are seen from where an upright piece is seen from above."""

    def __init__(self, subject: Subject) -> None:
        self.view, self.axis = ("right end", 0) if subject.stood is None else ("top", 2)

    def _stands(self, f: Fixed) -> bool:
        """Whether a part's plane lies across the axis or along it."""
        return not f.is_member and f.part.is_plate and not _ALIKE < abs(float(f.place.y[self.axis])) < 1.0 - _ALIKE

    def _right_up(self, points: np.ndarray) -> np.ndarray:
        return np.atleast_2d(points) @ axes_of(self.view)[:2].T

    def out(self, f: Fixed) -> float:
        """How far from the axis its middle is."""
        return float(np.linalg.norm(self._right_up(f.centre)[0]))

    def reach(self, f: Fixed) -> float:
        return float(np.linalg.norm(self._right_up(f.corners), axis=1).max())

    def angle(self, f: Fixed) -> float:
        """Degrees anticlockwise from the right at which a part stands."""
        right, up = self._right_up(f.centre)[0].tolist()
        return math.degrees(math.atan2(up, right)) % 360.0

    def fans(self, fixed: Sequence[Fixed]) -> list[tuple[Fixed, ...]]:
        """Sets of parts of one mark as far from the axis, each turned about it otherwise, in order along it."""
        alike: dict[str, list[list[Fixed]]] = defaultdict(list)
        for f in sorted((f for f in fixed if self._stands(f) and self.out(f) > _SAME), key=self.out):
            rings = alike[f.mark]
            if rings and self.out(f) - self.out(rings[-1][-1]) < _SAME:
                rings[-1].append(f)
            else:
                rings.append([f])
        sets = (ring for rings in alike.values() for ring in rings)
        found = (sorted(own, key=lambda f: float(f.centre[self.axis])) for own in sets)
        return [tuple(own) for own in found if len(own) >= _FEWEST and self._turn_about(own)]

    def _turn_about(self, own: Sequence[Fixed]) -> bool:
        """Whether each is turned itself as far as its place is: stiffeners on two sides of a web are not."""
        first, (i, j) = own[0], [(1, 2), (2, 0), (0, 1)][self.axis]
        for f in own[1:]:
            turn = math.radians(self.angle(f) - self.angle(first))
            about = np.eye(3)
            about[[i, j], [i, j]] = math.cos(turn)
            about[i, j], about[j, i] = -math.sin(turn), math.sin(turn)
            if np.abs(about @ first.place.axes - f.place.axes).max() > _ALIKE:
                return False
        steps = [(self.angle(b) - self.angle(a)) % 180.0 for a, b in itertools.pairwise(own)]
        return any(_SAME < step < 180.0 - _SAME for step in steps)

    def every(self, fan: Sequence[Fixed]) -> float | None:
        """Degrees from one part to the next where all are as far apart, negative clockwise as they rise."""
        steps = [(self.angle(b) - self.angle(a) + 180.0) % 360.0 - 180.0 for a, b in itertools.pairwise(fan)]
        return steps[0] if max(steps) - min(steps) < 0.1 else None


def fans(subject: Subject) -> list[tuple[Fixed, ...]]:
    return Round(subject).fans(subject.fixed)


def told(subject: Subject, key: str, units: Units) -> Iterator[Annotation]:
    """What is written at the view of fans: the angle of every part, and the radius of what climbs about them."""
    about = Round(subject)
    axes = axes_of(about.view)
    for n, fan in enumerate(about.fans(subject.fixed)):
        for f in fan:
            yield Ray(f"{key}|angle {f.id}", about.angle(f), about.reach(f), f"{about.angle(f):.1f}°", n)
        u, v, _ = (axes @ fan[0].centre).tolist()
        yield Note(f"{key}|mark {fan[0].id}", (u, v), f"{fan[0].mark} TYP ({len(fan)})", v >= 0)
    for f in subject.fixed:
        if f.part.coil is not None:
            u, v, _ = (axes @ f.corners[len(f.corners) // 2]).tolist()
            yield Note(f"{key}|mark {f.id}", (u, v), f"{f.mark} R {format_length(f.part.coil.radius, units)}", v >= 0)


def title(subject: Subject, words: str) -> str:
    """A view's name, and how many degrees each fan's parts are apart."""
    about = Round(subject)
    steps = ((fan[0].mark, about.every(fan)) for fan in about.fans(subject.fixed))
    said = [f"{mark} EVERY {abs(s):.2f}° {'ANTI' if s > 0 else ''}CLOCKWISE" for mark, s in steps if s is not None]
    return ", ".join([words, *said])
