"""Bolts of one diameter and grade whose lengths are a step apart, where one would do."""

from collections import Counter
from collections.abc import Iterator
from itertools import pairwise
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.job.forms import About
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    step: Annotated[float, About("A step of length", low=1.0, high=50.0)] = 7.0
    few: Annotated[int, About("Worth telling up to", unit="count", low=1, high=10_000,
        help="So many bolts of the shorter length, which the longer could serve.")] = 40  # fmt: skip


def whole(looked: Looked, values: Values) -> Iterator[Found]:
    many: Counter[tuple[str, str, float]] = Counter()
    at: dict[tuple[str, str, float], dict[str, tuple[float, float, float]]] = {}
    for id, groups in looked.site_bolts.items():
        for g in groups:
            key = g.size, g.grade, round(g.length, 2)
            many[key] += len(g.points)
            at.setdefault(key, {})[id] = g.points[0]
    for one, next_ in pairwise(sorted(many)):
        if one[:2] == next_[:2] and next_[2] - one[2] <= values.step and many[one] <= values.few:
            text = (
                f"{many[one]} of the {one[0]} {one[1]} bolts are {looked.said(one[2])} long and {many[next_]} are "
                f"{looked.said(next_[2])}: the longer would serve for both."
            )
            for id, point in sorted(at[one].items()):
                yield Found(
                    "lengths", (f"{id}/{one[0]} {one[2]:g}",), text, Severity.SAVING, point, form_of(one, next_)
                )


KIND = Rule("lengths", "Two lengths where one would do", "Site bolts a step of length apart.", whole=whole,
    values=Values, state=lambda looked: looked.site_bolts)  # fmt: skip
