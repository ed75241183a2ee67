"""Work points a little off a grid line: a slip of the hand, and not meant."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.frame.grids import runs
from uncus.frame.placement import point_of
from uncus.job.forms import About
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    most: Annotated[float, About("Off by less than", low=0.1, high=200.0)] = 25.4
    least: Annotated[float, About("And by more than", low=0.01, high=10.0)] = 0.4


def find(looked: Looked, values: Values) -> Iterator[Found]:
    points = looked.ends.reshape(-1, 3)
    if not len(points):
        return
    best = np.full(len(points), np.inf)
    on = np.zeros(len(points), dtype=bool)
    name = np.full(len(points), "", dtype=object)
    for run in runs(looked.grid) if looked.grid else ():
        side = np.array([run.along[1], -run.along[0]])
        away = np.abs((points[:, :2] - run.origin) @ side)
        on |= away <= values.least
        nearer = (away < best) & (away > values.least) & (away < values.most)
        best[nearer], name[nearer] = away[nearer], f"grid line {run.label}"
    for level in looked.levels:
        away = np.abs(points[:, 2] - level.elevation)
        nearer = (away < best) & (away > values.least) & (away < values.most)
        best[nearer], name[nearer] = away[nearer], level.name
    for n in np.flatnonzero(np.isfinite(best)).tolist():
        m, end = looked.members[n // 2], ("left", "right")[n % 2]
        far, line = float(best[n]), name[n]
        text = f"The {end} work point of the {m.role} {m.section} is {looked.said(far)} off {line}; move it there."
        form = form_of(round(far, 1), line)
        yield Found("off lines", (f"{m.id}/{end}",), text, Severity.LOOK, point_of(points[n]), form)


KIND = Rule("off lines", "Nearly on a line", "Work points off a grid line or level by less than can be meant.", find,
    Values)  # fmt: skip
