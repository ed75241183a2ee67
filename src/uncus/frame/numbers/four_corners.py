"""Bracing between any four corners of a plane: a bay that is skewed in plan, a roof slope, a wall that is no
rectangle."""

from typing import Annotated

import numpy as np

from uncus.frame.numbers.bays import METRIC, Bay, Braces, Run, braces
from uncus.frame.numbers.kind import ByNumbers, Placed
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Member

_SHAPES = ("X", "first to third corner", "second to fourth corner", "K from the first two corners")


class Params(Braces, frozen=True, forbid_unknown_fields=True):
    shape: Annotated[
        str,
        About(
            "Shape",
            unit="choice",
            choices=_SHAPES,
            help="K: from the first two corners to the middle of the side between the other two.",
        ),
    ] = "X"
    below: Annotated[
        float,
        About(
            "Below the corners",
            low=-2_000,
            high=2_000,
            help="How far the work points lie under the plane of the corners, such as from the top of steel to where "
            "gussets reach the webs.",
        ),
    ] = 152.4


def build(p: Params, placed: Placed) -> list[Member]:
    corners = placed.points[:4]
    sides = [np.linalg.norm(q - r) for q, r in zip(corners, (*corners[1:], corners[0]), strict=True)]
    if min(sides) < 100.0:
        raise JobError("Two of the corners lie on one another; pick four, one after the other round the bay.")
    bay = Bay(*corners)
    bay.crossing()  # refuses corners that go round no bay, or lie in no plane
    bay = bay.moved(-p.below * bay.normal) if not bay.is_upright else bay
    a, b, c, d = bay
    peak = (c + d) / 2
    shapes: dict[str, list[Run]] = {
        "X": [(a, c), (b, d)],
        _SHAPES[1]: [(a, c)],
        _SHAPES[2]: [(b, d)],
        _SHAPES[3]: [(a, peak), (peak, b)],
    }
    return braces(p, bay, shapes[p.shape], p.shape == "X")


FOUR_CORNERS = ByNumbers(
    "bracing between four corners",
    "Four-corner bay",
    Params,
    ("pick the first corner", "pick the next corner round the bay", "pick the third corner", "pick the last corner"),
    build,
    "X, single or K bracing between any four corners of a plane: skewed in plan, on a roof slope, in a wall.",
    {**METRIC, "below": 150.0},
)
