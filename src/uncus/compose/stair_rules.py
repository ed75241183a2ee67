"""What codes and standards ask of stairs: rise and going, headroom, landings, rails. Each with its name and clauses."""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec

from uncus.compose.kind import Said
from uncus.units import FOOT, INCH, Units, length_in_words

_SAME = 0.05  # mm


class StairRule(msgspec.Struct, frozen=True):
    """Limits in mm; None where a rule has none. `step` is what twice the rise and the going come to. A ladder climbs at
    most `ladder_climb` from landing to landing, `caged_climb` with a cage; one of more than `guarded_over` guards
    against falls, for which a cage does where `cage_guards`."""

    name: str
    source: str
    most_rise: float | None = None
    least_rise: float | None = None
    least_going: float | None = None
    step: tuple[float, float] | None = None
    slope: tuple[float, float] | None = None
    headroom: float = 2032.0
    most_climb: float | None = None
    least_width: float | None = None
    guard: float = 1066.8
    handrail: tuple[float, float] | None = None
    middle_gap: float | None = None
    toe_board: float | None = None
    post_spacing: float | None = None
    winding_rise: float | None = None
    winding_going: float | None = None
    winding_width: float | None = None
    winding_headroom: float | None = None
    rungs: tuple[float, float] = (254.0, 355.6)
    ladder_climb: float | None = None
    caged_climb: float | None = None
    guarded_over: float | None = None
    cage_guards: bool = True


RULES: dict[str, StairRule] = {
    rule.name: rule
    for rule in (
        StairRule(
            "IBC, means of egress",
            "International Building Code 1011, 1014, 1015",
            most_rise=7 * INCH,
            least_rise=4 * INCH,
            least_going=11 * INCH,
            headroom=80 * INCH,
            most_climb=12 * FOOT,
            least_width=36 * INCH,
            guard=42 * INCH,
            handrail=(34 * INCH, 38 * INCH),
            middle_gap=4 * INCH,
            winding_rise=9.5 * INCH,
            winding_going=7.5 * INCH,
            winding_width=26 * INCH,
            winding_headroom=78 * INCH,
        ),
        StairRule(
            "OSHA, standard stairs",
            "29 CFR 1910.23, 1910.25, 1910.28, 1910.29",
            most_rise=9.5 * INCH,
            least_going=9.5 * INCH,
            slope=(30.0, 50.0),
            headroom=80 * INCH,
            least_width=22 * INCH,
            guard=42 * INCH,
            handrail=(30 * INCH, 38 * INCH),
            middle_gap=21 * INCH,
            toe_board=3.5 * INCH,
            winding_rise=9.5 * INCH,
            winding_going=7.5 * INCH,
            winding_width=26 * INCH,
            winding_headroom=78 * INCH,
            rungs=(10 * INCH, 14 * INCH),
            ladder_climb=150 * FOOT,
            caged_climb=50 * FOOT,
            guarded_over=24 * FOOT,
            cage_guards=False,
        ),
        StairRule(
            "ISO 14122-3",
            "ISO 14122-3, 14122-4",
            step=(600.0, 660.0),
            slope=(20.0, 45.0),
            headroom=2300.0,
            most_climb=3000.0,
            least_width=600.0,
            guard=1100.0,
            handrail=(900.0, 1100.0),
            middle_gap=500.0,
            toe_board=100.0,
            post_spacing=1500.0,
            rungs=(225.0, 300.0),
            ladder_climb=6000.0,
            caged_climb=6000.0,
            guarded_over=3000.0,
        ),
        StairRule("comfort alone", "twice the rise and the going, 24 to 25 in (610 to 635 mm)", step=(609.6, 635.0)),
    )
}
NAMES = tuple(RULES)
_COMFORT = 622.3  # mm that twice the rise and the going come to at best


def broken(rule: StairRule, rise: float, going: float, climb: float, width: float, units: Units) -> Iterator[Said]:
    """What of a flight breaks a rule, with the figure and the limit."""

    def said(what: str, value: float, limit: float, way: str) -> Said:
        return Said(f"{what} is {length_in_words(value, units)}; {rule.name} asks for {way} "
            f"{length_in_words(limit, units)}.")  # fmt: skip

    if rule.most_rise is not None and rise > rule.most_rise + _SAME:
        yield said("The rise", rise, rule.most_rise, "at most")
    if rule.least_rise is not None and rise < rule.least_rise - _SAME:
        yield said("The rise", rise, rule.least_rise, "at least")
    if rule.least_going is not None and going < rule.least_going - _SAME:
        yield said("The going", going, rule.least_going, "at least")
    if rule.step is not None:
        step = 2 * rise + going
        if step < rule.step[0] - _SAME:
            yield said("Twice the rise and the going", step, rule.step[0], "at least")
        if step > rule.step[1] + _SAME:
            yield said("Twice the rise and the going", step, rule.step[1], "at most")
    if rule.slope is not None:
        slope = math.degrees(math.atan2(rise, going))
        if not rule.slope[0] - 0.05 <= slope <= rule.slope[1] + 0.05:
            yield Said(f"The flight slopes by {slope:.1f} degrees; {rule.name} asks for {rule.slope[0]:g} to "
                f"{rule.slope[1]:g}.")  # fmt: skip
    if rule.most_climb is not None and climb > rule.most_climb + _SAME:
        yield said("What the flight climbs in one go", climb, rule.most_climb, "a landing after at most")
    if rule.least_width is not None and width < rule.least_width - _SAME:
        yield said("The width", width, rule.least_width, "at least")


def risers(rule: StairRule, climb: float, going: float | None) -> int:
    """How many risers a climb is best made of: as near to comfort as the rule lets."""
    wanted = (_COMFORT - going) / 2 if going else min(rule.most_rise or 178.0, 178.0)
    wanted = min(max(wanted, rule.least_rise or 100.0), rule.most_rise or 230.0)
    n = max(1, round(climb / wanted))
    while rule.most_rise is not None and climb / n > rule.most_rise + _SAME:
        n += 1
    return n
