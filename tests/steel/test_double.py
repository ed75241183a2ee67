import math

import msgspec
import numpy as np
import pytest

from uncus.catalog.sections import section
from uncus.job.job import Job
from uncus.job.records import Double, Layout, Leg, Line, Member, Role
from uncus.mark.clusters import AssemblyClusters
from uncus.shop.shop import build
from uncus.steel.double import stitch_positions
from uncus.steel.solid import solid

END = (3000.0, 0.0, 4000.0)


def pair(name="L6X4X1/2", line=Line.CENTRE, **values):
    double = Double(**({"gap": 9.525} | values))
    return Member(id="v", role=Role.BRACE, section=name, start=(0, 0, 0), end=END, line=line, double=double)


def steel(member):
    return build(Job([member])).assemblies["v"]


def placed_solid(piece):
    p = piece.placement
    return solid(piece.part).transform(np.hstack([p.axes, p.origin[:, None]]))


@pytest.mark.parametrize("layout", list(Layout))
@pytest.mark.parametrize("leg", list(Leg))
@pytest.mark.parametrize("name", ["L6X4X1/2", "L4X4X3/8"])
def test_a_pair_lies_at_its_gap_and_touches_only_its_stitches(layout, leg, name):
    a = steel(pair(name, layout=layout, leg=leg, stitches=2))
    s = section(name)
    assert [p.words for p in a.pieces] == ["brace", "second angle", "stitch plate", "stitch plate"]
    solids = [placed_solid(p) for p in a.pieces]
    for i, one in enumerate(solids):
        for other in solids[i + 1 :]:
            assert (one ^ other).volume() < 1.0, "no two parts overlap"
    assert solids[0].min_gap(solids[1], 100.0) == pytest.approx(
        9.525 if layout is Layout.BACK_TO_BACK else 9.525 * math.sqrt(2), abs=0.02
    )
    assert all(solids[i].min_gap(solids[2 + n], 10.0) < 0.01 for i in (0, 1) for n in (0, 1)), "stitches touch both"
    # seen along the member: as wide and high as the legs say
    frame = steel(pair(name, layout=layout, leg=leg)).pieces
    local = [p.placement.to_model(np.array([(x, y, z) for x in (0, p.part.length) for y in p.part.y_range for z
        in p.part.depth_range])) for p in frame[:2]]  # fmt: skip
    x = np.array([0.6, 0, 0.8])
    up = np.array([-0.8, 0, 0.6])
    points = np.concatenate(local)
    wide, high = np.ptp(points[:, 1]), np.ptp(points @ up)
    upright, flat = (s.b, s.d) if leg is Leg.SHORT and layout is Layout.BACK_TO_BACK else (s.d, s.b)
    assert wide == pytest.approx(2 * flat + 9.525)
    assert high == pytest.approx(upright if layout is Layout.BACK_TO_BACK else 2 * upright + 9.525)
    assert np.ptp(points @ x) == pytest.approx(5000)


def test_the_work_line_at_the_top_of_the_pair():
    a = steel(pair(line=Line.TOP, leg=Leg.SHORT, stitches=0))
    up = np.array([-0.8, 0, 0.6])
    tops = [float((p.placement.to_model([(0, y, z) for y in p.part.y_range for z in p.part.depth_range]) @ up).max())
        for p in a.pieces]  # fmt: skip
    assert tops == pytest.approx([0, 0], abs=1e-6)


@pytest.mark.parametrize(
    ("double", "length", "positions"),
    [
        (Double(stitches=1), 4000, [2000]),
        (Double(stitches=0), 4000, []),
        (Double(spacing=1000), 4000, [1000, 2000, 3000]),
        (Double(spacing=999), 4000, [800, 1600, 2400, 3200]),
        (Double(spacing=5000), 4000, []),
        (Double(spacing=None), 4000, []),
    ],
)
def test_stitches_by_count_or_spacing(double, length, positions):
    assert stitch_positions(double, length) == pytest.approx(positions)


def test_both_angles_of_a_pair_are_one_part_and_weights_add_up():
    a = steel(pair(stitches=3))
    first, second = a.pieces[0].part, a.pieces[1].part
    assert first == second and a.gross > 2 * section("L6X4X1/2").kg_m * 5
    assert len(a.welds) == 12 and len({w.key for w in a.welds}) == 12


def test_pairs_are_the_same_where_they_are_and_differ_by_layout():
    clusters = AssemblyClusters()
    pieces = {k: steel(m) for k, m in {"a": pair(), "b": pair(), "star": pair(layout=Layout.STAR),
        "gap": pair(gap=12.7)}.items()}  # fmt: skip
    for key, piece in pieces.items():
        clusters.put(msgspec.structs.replace(piece, member=msgspec.structs.replace(piece.member, id=key)), "V")
    clusters.settle()
    keys = {k: clusters.of(k) for k in pieces}
    assert keys["a"] == keys["b"] and len(set(keys.values())) == 3


def test_only_angles_come_in_pairs():
    shop = build(Job([pair("W12X26")]))
    assert not shop.assemblies and "only angles" in shop.all_findings[0].text
