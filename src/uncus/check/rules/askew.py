"""Members nearly plumb, level or along a grid line."""

import math
from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.job.forms import About
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    most: Annotated[float, About("Askew by less than", unit="angle", low=0.01, high=5.0)] = 0.5
    least: Annotated[float, About("And off by more than", low=0.1, high=50.0,
        help="Over the member's length; less is a rounding.")] = 0.4  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    m = looked.member(id)
    if m is None:
        return
    way = np.subtract(m.end, m.start)
    most = float(np.linalg.norm(way)) * math.sin(math.radians(values.most))
    asked = [("plumb", math.hypot(way[0], way[1])), ("level", abs(float(way[2])))]
    if abs(way[2]) <= values.least:  # a plan direction is that of what lies level
        grid = looked.grid_lines
        off = np.abs((way[:2] * grid.across).sum(axis=1)).tolist()
        asked += [(f"along grid line {label}", far) for far, label in zip(off, grid.labels, strict=True)]
    for name, off in asked:
        if values.least < off < most:
            text = f"The {m.role} {m.section} is all but {name}: {looked.said(off)} off over its length; set it true."
            form = form_of(name, round(off, 1))
            yield Found("askew", (m.id,), text, Severity.LOOK, looked.middle(m.id), form)
            return


KIND = Rule("askew", "Nearly true", "Members nearly plumb, level or along a grid line.", each, values=Values,
    state=lambda looked: looked.grid)  # fmt: skip
