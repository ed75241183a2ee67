"""Bolts of one diameter in several grades, which are mixed up on site."""

from collections import defaultdict
from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.steel.joint import Severity


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    at: dict[str, dict[str, list[tuple[str, tuple[float, float, float]]]]] = defaultdict(lambda: defaultdict(list))
    for id, groups in looked.site_bolts.items():
        for group in groups:
            at[group.size][group.grade] += [(id, group.points[0])] * len(group.points)
    for size, grades in sorted(at.items()):
        if len(grades) > 1:
            usual = max(sorted(grades), key=lambda g: len(grades[g]))
            for grade in sorted(grades.keys() - {usual}):
                text = (
                    f"{size} bolts are {usual} ({len(grades[usual])} of them) and {grade} ({len(grades[grade])}); take "
                    f"one grade for a diameter, so that none is mixed up on site."
                )
                for id, point in sorted(dict(grades[grade]).items()):
                    yield Found("grades", (f"{id}/{size}",), text, Severity.LOOK, point, form_of(size, grade, usual))


KIND = Rule("grades", "Grades are mixed", "Site bolts of one diameter in more than one grade.", whole=whole,
    state=lambda looked: looked.site_bolts)  # fmt: skip
