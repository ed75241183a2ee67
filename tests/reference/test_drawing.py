"""DXF drawings of others: lines by layer, whatever they are drawn with, laid by two points."""

import math

import ezdxf
import msgspec
import numpy as np
import pytest

from uncus.job.errors import JobError
from uncus.job.records import Reference
from uncus.reference.placing import by_two_points, placed
from uncus.reference.reading import read


@pytest.fixture
def plan(tmp_path):
    document = ezdxf.new(units=4)
    space = document.modelspace()
    for layer in ("GRID", "WALL", "HOLES"):
        document.layers.add(layer)
    space.add_line((0, 0), (9000, 0), dxfattribs={"layer": "GRID"})
    space.add_lwpolyline([(0, 0), (4000, 0), (4000, 3000), (0, 3000)], close=True, dxfattribs={"layer": "WALL"})
    space.add_arc((1000, 1000), 500, 0, 90, dxfattribs={"layer": "WALL"})
    space.add_circle((2000, 1000), 250, dxfattribs={"layer": "HOLES"})
    space.add_spline([(0, 0), (500, 800), (1500, 200)], dxfattribs={"layer": "HOLES"})
    block = document.blocks.new("COL")
    block.add_line((-100, 0), (100, 0))
    space.add_blockref("COL", (5000, 5000), dxfattribs={"layer": "GRID", "rotation": 90, "xscale": 2, "yscale": 2})
    space.add_text("A", height=300, dxfattribs={"layer": "GRID"}).set_placement((-500, 0))
    space.add_point((7, 7), dxfattribs={"layer": "WALL"})
    document.saveas(tmp_path / "plan.dxf")
    return tmp_path / "plan.dxf"


def test_every_kind_of_line_is_on_its_layer(plan, tmp_path):
    model = read(plan, tmp_path / "kept").model
    assert {p.layer for p in model.products} >= {"GRID", "WALL", "HOLES"}
    by = {p.layer: n for n, p in enumerate(model.products)}

    def lines(layer):
        n = model.instance_of[by[layer]]
        shape = model.shapes[int(model.shape[n])]
        return model.points_of(n)[shape.lines]

    grid = lines("GRID") if "GRID" in by else None
    assert any(np.allclose(sorted(a.tolist()), [(0, 0, 0), (9000, 0, 0)]) for a in grid)
    block = np.concatenate([lines(layer).reshape(-1, 3) for layer in by])
    for end in ((5000, 4800, 0), (5000, 5200, 0)):
        assert np.linalg.norm(block - end, axis=1).min() < 1e-2
    ring = lines("HOLES").reshape(-1, 3)[:, :2]
    on = np.abs(np.hypot(*(ring - (2000, 1000)).T) - 250) < 0.02
    assert on.sum() > 8
    chords = lines("WALL")
    assert np.linalg.norm(chords[:, 0] - chords[:, 1], axis=1).sum() == pytest.approx(14_000 + 250 * math.pi, rel=0.002)
    assert [w.text for w in model.facts.words] == ["A"]
    assert any("left out" in note for note in model.facts.notes)


def test_two_points_scale_turn_and_place_it(plan, tmp_path):
    read(plan, tmp_path / "kept")
    of = Reference(name="plan", path="plan.dxf", format="dxf", shift=(-1000.0, 0.0, 0.0))
    a, b = placed(of, [(0, 0, 0), (9000, 0, 0)]).tolist()
    to_a, to_b = (100.0, 200.0, 3600.0), (100.0, 200.0 + 4500.0, 3600.0)
    scaled = by_two_points(of, tuple(a), tuple(b), to_a, to_b, scales=True)
    assert np.allclose(placed(scaled, [(0, 0, 0), (9000, 0, 0)]), [to_a, to_b])
    assert scaled.scale == pytest.approx(0.5)
    kept = by_two_points(of, tuple(a), tuple(b), to_a, to_b)
    assert kept.scale == 1.0 and np.allclose(placed(kept, (0, 0, 0)), to_a)
    assert np.allclose(placed(kept, (9000, 0, 0)), (100.0, 9200.0, 3600.0))
    assert scaled.problem() is None
    with pytest.raises(JobError):
        by_two_points(of, tuple(a), tuple(a), to_a, to_b)
    tilted = msgspec.structs.replace(of, x=(1.0, 0.0, 0.0), y=(0.0, 0.0, 1.0))
    upright = by_two_points(
        tilted, *placed(tilted, [(0, 0, 0), (9000, 0, 0)]), (5.0, 5.0, 5.0), (5.0, 5.0, 4505.0), True
    )
    assert np.allclose(placed(upright, [(0, 0, 0), (9000, 0, 0)]), [(5, 5, 5), (5, 5, 4505)])


EMPTY = b"0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n"


@pytest.mark.parametrize("content", [b"", EMPTY, b"\x89PNG\r\n", b"0\n" * 5000])
def test_bad_drawings_are_one_sentence(content, tmp_path):
    (tmp_path / "bad.dxf").write_bytes(content)
    with pytest.raises(JobError, match=r"bad\.dxf.*\.$"):
        read(tmp_path / "bad.dxf", tmp_path / "kept")


def test_a_block_of_itself_and_a_drawing_too_large_end(tmp_path):
    document = ezdxf.new(units=0)
    block = document.blocks.new("A")
    block.add_blockref("A", (1, 1))
    block.add_line((0, 0), (1, 0))
    document.modelspace().add_blockref("A", (0, 0))
    document.saveas(tmp_path / "a.dxf")
    model = read(tmp_path / "a.dxf", tmp_path / "kept").model
    assert len(model.products) == 1 and any("unit" in n for n in model.facts.notes)
