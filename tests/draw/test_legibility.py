"""Nothing on a sheet lies on anything else: counted over the sample, a frame and a table of hard pieces."""

import random

import pytest

from uncus.draw.board import Board, box_around, spread, united
from uncus.draw.cells import Boxes, Lines, crosses, meet, passes
from uncus.draw.legibility import legibility
from uncus.draw.sheet import UNPRINTED, Layer, Text


@pytest.mark.parametrize(
    "which", ["sample", "metric_sample", "hard_job", pytest.param("grid_frame", marks=pytest.mark.long), "gallery_job"]
)
def test_no_text_on_text_or_lines_and_no_leader_across_another(which, drawn):
    found = [(s.name, legibility(s)) for e, sheets in drawn(which) if e.kind != "erection" for s in sheets]
    assert not [name for name, one in found if one.on_text or one.off_paper]
    faults = [(name, one) for name, one in found if not one.clean]
    assert not faults, faults
    assert not [e.name for e, sheets in drawn(which) for s in sheets if any("~" in p.key for p in s.spots)]  # fmt: skip
    assert sum(one.texts for _, one in found) > 500


def test_segments_through_boxes_and_across_each_other():
    rows = [(0, 0, 10, 10), (0, 5, 10, 5), (20, 0, 20, 10), (0, 11, 10, 11)]
    assert [passes(row, (4, 4, 6, 6)) for row in rows] == [True, True, False, False]
    assert not passes((0, 4, 10, 4), (4, 4, 6, 6)) and passes((5, 5, 5, 5), (4, 4, 6, 6))
    assert [crosses(row, (5, 0, 5, 10)) for row in rows] == [True, True, False, False]
    assert not crosses((5, 0, 5, 10), (0, 0, 10, 0)), "at an end"
    assert spread([0.0, 1.0], 3.0, [1e6, 1.0]) == pytest.approx([0.0, 3.0], abs=1e-4)


@pytest.mark.parametrize("seed", range(4))
def test_what_lies_near_a_place_is_what_lies_there_of_all(seed):
    """Lines level, upright, on the edges of squares, of no length and across the paper; boxes from a dot to the whole
    of it: the squares lose none and count none twice."""
    lot = random.Random(seed)

    def place():
        return lot.choice([lot.uniform(-30, 400), 10.0 * lot.randrange(-3, 40), 2.5 * lot.randrange(100)])

    def line():
        x1, y1, x2, y2 = place(), place(), place(), place()
        return lot.choice([(x1, y1, x2, y2), (x1, y1, x2, y1), (x1, y1, x1, y2), (x1, y1, x1 + 3, y1 + 1)])

    def box():
        x, y, w, h = place(), place(), lot.choice([2.0, 30.0, 380.0]), lot.choice([2.0, 10.0, 250.0])
        return (x, y, x + w, y + h)

    all_lines, all_boxes, lines, boxes = [line() for _ in range(150)], [box() for _ in range(60)], Lines(), Boxes()
    for one in all_lines[:100]:
        lines.add(one)
    for one in all_boxes[:40]:
        boxes.add(one)
    more, further = lines.copy(), boxes.copy()
    for one in all_lines[100:]:
        more.add(one)
    for one in all_boxes[40:]:
        further.add(one)
    for asked in [box() for _ in range(150)]:
        assert lines.through(asked, 10**9) == sum(passes(one, asked) for one in all_lines[:100])
        assert more.through(asked, 3) == min(3, sum(passes(one, asked) for one in all_lines))
        assert boxes.meets(asked) == any(meet(one, asked) for one in all_boxes[:40])
    for asked in [line() for _ in range(150)]:
        assert lines.across(asked) == sum(crosses(one, asked) for one in all_lines[:100])
        assert further.on(asked) == sum(passes(asked, one) for one in all_boxes)


@pytest.mark.parametrize("seed", range(3))
def test_a_board_reaches_as_far_as_all_that_is_drawn_on_it(seed):
    """However often it is asked, copied, and its lines parted in between."""
    lot = random.Random(seed)
    board, boxes = Board(), []
    for step in range(300):
        x, y = lot.uniform(-step, step), lot.uniform(-step, step)
        match lot.randrange(5):
            case 0:
                board.line(lot.choice(list(Layer)), x, y, y, x)
            case 1:
                board.text(Text(x, y, "12 3/4", 2.5, lot.choice("lcr"), lot.choice([0.0, 90.0, 30.0])))
                boxes.append(box_around(board.items[-1]))
            case 2:
                board.keep_clear((x, y, x + 5, y + 5))
                boxes.append((x, y, x + 5, y + 5))
            case 3 if board.items:
                board.items = board.items[lot.randrange(3) :]
            case 4:
                board = board.copy()
        drawn = [box_around(i) for i in board.items if isinstance(i, Text) or i.layer not in UNPRINTED]
        if (boxes or drawn) and lot.random() < 0.5:
            assert board.extent() == pytest.approx(united([*boxes, *drawn]))
