"""Nothing on a sheet lies on anything else: counted over the sample, a frame and a table of hard pieces."""

import pytest

from uncus.draw.board import crossing, spread, through
from uncus.draw.legibility import legibility


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
    import numpy as np

    rows = np.array([(0, 0, 10, 10), (0, 5, 10, 5), (20, 0, 20, 10), (0, 11, 10, 11)], dtype=float)
    assert through(rows, (4, 4, 6, 6)).tolist() == [True, True, False, False]
    assert crossing(rows, (5, 0, 5, 10)).tolist() == [True, True, False, False]
    assert spread([0.0, 1.0], 3.0, [1e6, 1.0]) == pytest.approx([0.0, 3.0], abs=1e-4)
