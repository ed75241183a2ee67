"""Symbols as their standards draw them, by their lines on the paper."""

import math

import pytest

from uncus.draw.annotation import WeldNote
from uncus.draw.board import Board
from uncus.draw.dimension import weld_symbol
from uncus.draw.sheet import Line, Polyline, Text
from uncus.units import Units


def drawn(units: Units, tip: tuple[float, float], **more) -> Board:
    said = {"both": False, "field": False, "around": False, "groove": False, **more}
    board = Board()
    weld_symbol(
        board, 0.0, 0.0, *tip, WeldNote(key="w", tip=tip, size=6.0 if units is Units.METRIC else 6.35, **said), units
    )
    return board


@pytest.mark.parametrize("tip", [(-20.0, -15.0), (-20.0, 15.0), (20.0, -15.0), (20.0, 15.0), (0.0, 12.0)])
def test_the_arrow_is_at_the_joint_and_lies_along_its_leader(tip):
    point, *wings = next(i for i in drawn(Units.IMPERIAL, tip).items if isinstance(i, Polyline) and i.filled).points
    away = math.hypot(*tip)
    assert point == tip and [math.dist(w, tip) for w in wings] == pytest.approx([2.2, 2.2])
    along = [((x - tip[0]) * -tip[0] + (y - tip[1]) * -tip[1]) / away for x, y in wings]
    across = [((x - tip[0]) * tip[1] - (y - tip[1]) * tip[0]) / away for x, y in wings]
    assert along == pytest.approx([2.2 * math.cos(0.2)] * 2)
    assert sorted(across) == pytest.approx([-2.2 * math.sin(0.2), 2.2 * math.sin(0.2)])


@pytest.mark.parametrize("right", [True, False])
@pytest.mark.parametrize("groove", [True, False])
@pytest.mark.parametrize(("units", "both", "sides"), [
    (Units.IMPERIAL, False, {-1}), (Units.METRIC, False, {1}), (Units.IMPERIAL, True, {-1, 1}),
    (Units.METRIC, True, {-1, 1}),
])  # fmt: skip
def test_the_weld_is_on_the_side_of_the_line_that_its_standard_gives_to_the_arrow(right, groove, units, both, sides):
    """AWS A2.4: below; ISO 2553, system A: above, with a dashed line for the other side. A fillet's upright leg, as
    a bevel's, is to the left whichever way the arrow goes."""
    board = drawn(units, (-20.0 if right else 20.0, 15.0), both=both, groove=groove)
    if groove:
        strokes = [i for i in board.items if isinstance(i, Line) and i.y1 == 0.0 and i.y2 in (2.8, -2.8)]
        assert {math.copysign(1, s.y2) for s in strokes} == sides and len(strokes) == 2 * len(sides)
        upright, slanting = sorted({(s.x1, s.x2) for s in strokes}, key=lambda s: s[1] - s[0])
        assert upright[0] == upright[1] == slanting[0] == slanting[1] - 2.4
    else:
        legs = [i.points for i in board.items if isinstance(i, Polyline) and not i.filled]
        assert {math.copysign(1, leg[1][1]) for leg in legs} == sides and len(legs) == len(sides)
        for foot, top, toe in legs:
            assert foot[0] == top[0] == toe[0] - 2.6 and abs(top[1]) == 2.6 and foot[1] == toe[1] == 0.0
        sizes = [(i.text, math.copysign(1, i.y)) for i in board.items if isinstance(i, Text) and i.text != "TYP"]
        assert sorted(sizes) == sorted(("z6" if units is Units.METRIC else "1/4", side) for side in sides)
    dashes = [i for i in board.items if isinstance(i, Line) and i.y1 == i.y2 == -1.0]
    assert len(dashes) == (5 if units is Units.METRIC and not both else 0)
