import math

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.frame.grids import (
    Family,
    bounds,
    crossings,
    follow_grid,
    follow_levels,
    make_grid,
    respaced,
    runs,
    where,
)
from uncus.job.records import Grid, GridLine, Level, Member, Role

PLAIN = make_grid([6000.0, 7000.0], [5000.0, 4000.0])
# line 3 leans 30 degrees to the left of north about (13000, 0) and ends past B; line 1.5 is added
ODD = Grid(
    numbers=(*PLAIN.numbers[:2], GridLine("3", 13000.0, turn=30.0, last=7000.0), GridLine("1.5", 2500.0)),
    letters=PLAIN.letters,
)


def test_skewed_and_partial_lines_cross_where_they_are():
    found = {name: (x, y) for name, x, y in crossings(ODD)}
    assert found["3/B"] == pytest.approx((13000 - 5000 * math.tan(math.radians(30)), 5000), abs=1e-4)
    assert "3/C" not in found, "the line ends 7000 along, at y = 6062"
    assert found["1.5/C"] == (2500, 9000) and len(found) == 11
    by_label = {r.label: r for r in runs(ODD, 1800)}
    assert by_label["3"].at(by_label["3"].last) == pytest.approx((13000 - 3500, 7000 * math.cos(math.radians(30))))
    assert by_label["A"].at(by_label["A"].first) == pytest.approx((-1800, 0))
    assert bounds(ODD) == pytest.approx((0, 0, 13000, 9000), abs=1e-4)
    assert bounds(Grid()) is None and [r.label for r in runs(Grid(numbers=(GridLine("1", 5.0),)))] == ["1"]


@pytest.mark.parametrize(
    ("x", "y", "words"),
    [(10113, 5000, "3/B"), (2490, 20, "1.5/A"), (4000, 5000, "1.5-2, B"), (7000, 8900, "2-3, C"),
        (-900, 0, "beyond 1/A")],
)  # fmt: skip
def test_places_between_uneven_lines(x, y, words):
    assert where(ODD, x, y) == words


def _member(a, b):
    return Member(role=Role.BEAM, section="W12X26", start=a, end=b)


def test_members_follow_the_lines_they_stand_on():
    after = msgspec.structs.replace(PLAIN, numbers=(PLAIN.numbers[0], GridLine("2", 6300.0), PLAIN.numbers[2]))
    on = _member((6000, 5000, 0), (6000, 2000, 3000))
    half = _member((0, 5000, 0), (6000, 5000, 0))
    off = _member((3000, 5000, 0), (3000, 0, 0))
    moved = follow_grid([on, half, off], PLAIN, after)
    assert [(m.id, m.start, m.end) for m in moved] == [
        (on.id, (6300, 5000, 0), (6300, 2000, 3000)),
        (half.id, (0, 5000, 0), (6300, 5000, 0)),
    ]


def test_members_follow_a_line_that_is_turned_or_renamed():
    after = msgspec.structs.replace(PLAIN, numbers=(*PLAIN.numbers[:2], GridLine("R", 13000.0, turn=-20.0)))
    tan = math.tan(math.radians(20))
    (moved,) = follow_grid([_member((13000, 5000, 0), (13000, 3000, 0))], PLAIN, after, {"3": "R"})
    assert moved.start == pytest.approx((13000 + 5000 * tan, 5000, 0), abs=1e-4)
    assert moved.end == pytest.approx((13000 + 3000 * tan, 3000, 0))
    assert follow_grid([moved], PLAIN, after) == []


@given(st.lists(st.floats(500, 9000), min_size=3, max_size=3), st.lists(st.floats(500, 9000), min_size=3, max_size=3))
def test_following_there_and_back_is_where_it_was(first, second):
    a, b = make_grid(first, [4000.0]), make_grid(second, [4000.0])
    members = [_member((n.at, 0, 0), (n.at, 4000, 100)) for n in a.numbers] + [
        _member((0, 0, 0), (a.numbers[-1].at, 0, 0))
    ]
    there = follow_grid(members, a, b)
    back = {m.id: m for m in follow_grid(there, b, a)}
    for m in members:
        again = back.get(m.id, m)
        assert again.start == pytest.approx(m.start, abs=2e-3) and again.end == pytest.approx(m.end, abs=2e-3)


def test_members_follow_levels():
    before = [Level(id="a", name="A", elevation=0.0), Level(id="b", name="B", elevation=3000.0)]
    after = [before[0], msgspec.structs.replace(before[1], elevation=3200.0)]
    column = _member((0, 0, 0), (0, 0, 3000))
    (moved,) = follow_levels([column, _member((0, 0, 3100), (9, 0, 3100))], before, after)
    assert moved.end == (0, 0, 3200) and moved.start == (0, 0, 0)


def test_new_spacings_keep_names_and_skews():
    lines = (GridLine("X", 100.0), GridLine("7", 5000.0, turn=5.0))
    found = respaced(lines, [4000.0, 3000.0, 1000.0], Family.NUMBERS)
    assert [(g.label, g.at, g.turn) for g in found] == [("X", 100, 0), ("7", 4100, 5), ("1", 7100, 0), ("2", 8100, 0)]
    assert [g.label for g in respaced((), [1000.0], Family.LETTERS)] == ["A", "B"]
