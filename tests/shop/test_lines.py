import numpy as np
import pytest

from uncus.catalog.sections import section
from uncus.frame.snaps import SnapKind
from uncus.job.job import Job
from uncus.job.records import Member, Role
from uncus.shop.lines import bolt_lines, corner_snaps, edge_lines, gage_lines, hole_snaps, outline
from uncus.shop.shop import build


def main(name, end=(4000.0, 0, 0)):
    m = Member(id="m", role=Role.BEAM, section=name, start=(0, 0, 1000), end=end and (end[0], end[1], end[2] + 1000))
    return build(Job([m])).assemblies["m"].main


@pytest.mark.parametrize(
    ("name", "count"), [("W12X26", 4), ("C10X15.3", 2), ("L6X4X1/2", 1), ("HSS6X6X1/4", 0), ("PIPE4STD", 0)]
)
def test_gage_lines_run_the_length_at_the_usual_gage(name, count):
    lines = gage_lines(main(name))
    assert len(lines) == count
    for a, b in lines:
        assert np.allclose(b - a, (4000, 0, 0))
    if name == "W12X26":
        s = section(name)
        ys = sorted({round(a[1], 3) for a, _ in lines})
        assert ys == pytest.approx([-s.gage / 2, s.gage / 2])


def test_corners_and_edges_are_the_steel_s_own():
    piece = main("W12X26")
    s = section("W12X26")
    corners = np.array([c.point for c in corner_snaps(piece)])
    assert len(corners) >= 24 and all(c.kind is SnapKind.CORNER for c in corner_snaps(piece))
    assert np.ptp(corners, axis=0) == pytest.approx((4000, s.b, s.d))
    assert all(np.linalg.norm(b - a) > 0.1 for a, b in edge_lines(piece))
    ring = outline(piece)
    assert len(ring) == 4 and np.ptp(np.array(ring), axis=0) == pytest.approx((4000, 0, s.d))


def test_holes_and_their_rows_on_the_sample(sample):
    shop = sample[1]
    seen = 0
    for assembly in shop.assemblies.values():
        for piece in assembly.pieces:
            spots = hole_snaps(piece)
            assert len(spots) == len(piece.part.holes)
            for fasteners in assembly.holds:
                for point in fasteners.points:
                    axis = np.asarray(fasteners.axis)
                    off = [np.subtract(s.point, point) for s in spots]
                    if any(np.linalg.norm(v - (v @ axis) * axis) < 0.6 for v in off):
                        seen += 1
            for a, b in bolt_lines(piece):
                on = [np.linalg.norm(np.cross(np.subtract(s.point, a), b - a)) / np.linalg.norm(b - a) for s in spots]
                assert sum(v < 0.2 for v in on) >= 2
    assert seen > 300, "bolts stand in holes"
