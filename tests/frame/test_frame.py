import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.catalog.sections import section
from uncus.frame.axes import member_frame, work_axes
from uncus.frame.grids import crossings, make_grid, where
from uncus.frame.placement import Placement
from uncus.job.records import Line, Member, Role

S = math.sqrt(0.5)


@pytest.mark.parametrize(
    ("start", "end", "roll", "x", "y", "z"),
    [  # worked by hand: z is up square to x (north for a plumb line), y = z cross x, then turned about x
        ((0, 0, 0), (5, 0, 0), 0, (1, 0, 0), (0, 1, 0), (0, 0, 1)),
        ((0, 0, 0), (0, 5, 0), 0, (0, 1, 0), (-1, 0, 0), (0, 0, 1)),
        ((0, 0, 0), (0, 0, 5), 0, (0, 0, 1), (1, 0, 0), (0, 1, 0)),
        ((0, 0, 5), (0, 0, 0), 0, (0, 0, -1), (-1, 0, 0), (0, 1, 0)),
        ((0, 0, 0), (5, 0, 5), 0, (S, 0, S), (0, 1, 0), (-S, 0, S)),
        ((0, 0, 0), (5, 0, 0), 90, (1, 0, 0), (0, 0, 1), (0, -1, 0)),
        ((0, 0, 0), (0, 0, 5), 90, (0, 0, 1), (0, 1, 0), (-1, 0, 0)),
    ],
)
def test_axes_of_a_work_line(start, end, roll, x, y, z):
    frame = work_axes(np.array(start, float), np.array(end, float), roll)
    assert np.allclose(frame.axes.T, [x, y, z])


@given(st.tuples(*[st.floats(-1e4, 1e4)] * 3), st.floats(-720, 720))
def test_axes_are_always_right_handed_and_square(end, roll):
    end = np.array(end)
    if np.linalg.norm(end) < 1:
        return
    axes = work_axes(np.zeros(3), end, roll).axes
    assert np.allclose(axes.T @ axes, np.eye(3), atol=1e-9)
    assert np.linalg.det(axes) == pytest.approx(1)


@pytest.mark.parametrize(("line", "top"), [(Line.TOP, 0.0), (Line.CENTRE, 154.94), (Line.BOTTOM, 309.88)])
def test_the_work_line_lies_where_the_record_says(line, top):
    s = section("W12X26")
    m = Member(role=Role.BEAM, section=s.name, start=(0, 0, 3000), end=(6000, 0, 3000), line=line, rise=10)
    frame = member_frame(m, s)
    assert frame.to_model((0, 0, s.d / 2))[2] == pytest.approx(3000 + top + 10)


def test_placements_compose_and_invert():
    a = work_axes(np.array([1.0, 2, 3]), np.array([4.0, 6, 8]), 33)
    b = work_axes(np.array([-5.0, 2, 0]), np.array([0, 0, 8.0]), -70)
    p = np.array([[1.0, 2, 3], [0, 0, 0]])
    assert np.allclose((a @ b).to_model(p), a.to_model(b.to_model(p)))
    assert np.allclose(a.inverse.to_model(p), a.to_local(p))
    assert (a @ a.inverse).near(Placement.identity(), 1e-9)
    with pytest.raises(ValueError, match="read-only"):
        a.origin[0] = 5


def test_grids_skip_letters_that_read_as_figures_and_name_places():
    grid = make_grid([6000.0] * 2, [5000.0] * 10)
    assert [g.label for g in grid.letters] == list("ABCDEFGHJKL")
    assert ("2/B", 6000.0, 5000.0) in crossings(grid)
    assert where(grid, 6010, 4990) == "2/B"
    assert where(grid, 3000, 5000) == "1-2, B"
    assert where(grid, 3000, 2000) == "1-2, A-B"
    assert where(None, 0, 0) == ""
