"""Work points a little off a grid line: a slip of the hand, and not meant."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.job.forms import About
from uncus.job.records import Point
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    most: Annotated[float, About("Off by less than", low=0.1, high=200.0)] = 25.4
    least: Annotated[float, About("And by more than", low=0.01, high=10.0)] = 0.4


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    m = looked.member(id)
    if m is None or m.maker or m.blank is not None or m.item is not None:
        return  # plates, and what a stair or rail is made of, lie where their own measures put them
    for end, point in (("left", m.start), ("right", m.end)):
        far, line = _nearly(looked, values, point)
        if line:
            text = f"The {end} work point of the {m.role} {m.section} is {looked.said(far)} off {line}; move it there."
            yield Found("off lines", (f"{m.id}/{end}",), text, Severity.LOOK, point, form_of(round(far, 1), line))


def _nearly(looked: Looked, values: Values, point: Point) -> tuple[float, str]:
    """How far a point is off the nearest line or level that it is nearly on, and which; no name where there is none."""
    grid = looked.grid_lines
    away = np.abs(((np.asarray(point[:2]) - grid.origin) * grid.across).sum(axis=1))
    near = np.flatnonzero((away > values.least) & (away < values.most)).tolist()
    found = [(float(away[n]), f"grid line {grid.labels[n]}") for n in near]
    heights = ((abs(point[2] - level.elevation), level.name) for level in looked.levels)
    found += [one for one in heights if values.least < one[0] < values.most]
    return min(found, default=(0.0, ""))


KIND = Rule("off lines", "Nearly on a line", "Work points off a grid line or level by less than can be meant.", each,
    values=Values, state=lambda looked: (looked.grid, looked.levels))  # fmt: skip
