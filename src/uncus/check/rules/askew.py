"""Members nearly plumb, level or along a grid line."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.frame.grids import runs
from uncus.job.forms import About
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    most: Annotated[float, About("Askew by less than", unit="angle", low=0.01, high=5.0)] = 0.5
    least: Annotated[float, About("And off by more than", low=0.1, high=50.0,
        help="Over the member's length; less is a rounding.")] = 0.4  # fmt: skip


def find(looked: Looked, values: Values) -> Iterator[Found]:
    ends = looked.ends
    if not len(ends):
        return
    way = ends[:, 1] - ends[:, 0]
    long = np.linalg.norm(way, axis=1)
    asked = [("plumb", np.linalg.norm(way[:, :2], axis=1)), ("level", np.abs(way[:, 2]))]
    for run in runs(looked.grid) if looked.grid else ():
        across = np.abs(way[:, :2] @ np.array([run.along[1], -run.along[0]]))
        flat = np.abs(way[:, 2]) <= values.least  # a plan direction is that of what lies level
        asked.append((f"along grid line {run.label}", np.where(flat, across, np.inf)))
    told: set[int] = set()
    for name, off in asked:
        slip = (off > values.least) & (off < long * np.sin(np.radians(values.most)))
        for n in np.flatnonzero(slip).tolist():
            if n in told:
                continue
            told.add(n)
            m = looked.members[n]
            text = (
                f"The {m.role} {m.section} is all but {name}: {looked.said(float(off[n]))} off over its length; set it "
                f"true."
            )
            yield Found(
                "askew", (m.id,), text, Severity.LOOK, looked.middle(m.id), form_of(name, round(float(off[n]), 1))
            )


KIND = Rule("askew", "Nearly true", "Members nearly plumb, level or along a grid line.", find, Values)
