import numpy as np
import pytest

from uncus.job.records import Connection, End, Member, Role, ShopRules
from uncus.shop.shop import Shop
from uncus.steel.solid import solid
from uncus.units import INCH


def stand(section="W10X49", top=4000.0, end=End.LEFT, params=None, start=(0, 0, 0), roll=0.0):
    a, b = start, (0.0, 0.0, top)
    m = Member(
        id="m",
        role=Role.COLUMN,
        section=section,
        start=a if end is End.LEFT else b,
        end=b if end is End.LEFT else a,
        roll=roll,
    )
    c = Connection(id="c", kind="base plate", member="m", end=end, params=params or {})
    return Shop([ShopRules(), m, c])


@pytest.mark.parametrize("section", ["W10X49", "W14X90", "HSS6X6X1/4", "PIPE6STD", "HEB200", "C10X20"])
@pytest.mark.parametrize("end", list(End))
@pytest.mark.parametrize("roll", [0.0, 30.0])
def test_plate_column_and_rods_stand_as_they_should(section, end, roll):
    shop = stand(section, end=end, roll=roll)
    made = shop.connections["c"]
    assert not made.findings
    assembly = shop.assemblies["m"]
    plate = assembly.pieces[1]
    corners = plate.placement.to_model(
        [(x, y, z) for x in (0, plate.part.length) for y in plate.part.y_range for z in plate.part.depth_range]
    )
    assert (corners[:, 2].min(), corners[:, 2].max()) == pytest.approx((0.0, 0.75 * INCH), abs=1e-6)
    assert np.allclose(corners[:, :2].mean(axis=0), 0, atol=1e-6)
    both = [
        solid(p.part).transform(np.hstack([p.placement.axes, p.placement.origin[:, None]])) for p in assembly.pieces
    ]
    assert (both[0] ^ both[1]).volume() < 1 and both[0].min_gap(both[1], 5) < 0.01
    assert assembly.main.part.length == pytest.approx(4000 - 0.75 * INCH)
    (rods,) = made.fasteners
    for at in rods.points:
        local = plate.placement.to_local(at)
        assert min(np.hypot(h.x - local[0], h.w - local[2]) for h in plate.part.holes) < 0.01
        assert at[2] > 0.75 * INCH and rods.axis == (0, 0, -1)
    assert made.welds[0].around and made.welds[0].length > 0


@pytest.mark.parametrize(
    ("params", "more", "says"),
    [
        ({}, {"start": (1500.0, 0, 0)}, "plumb"),
        ({"along": 100.0}, {}, "smaller than"),
        ({"along": 300.0, "across": 300.0, "edge": 30.0}, {"section": "HSS10X10X1/4"}, "meets the"),
    ],
)
def test_findings(params, more, says):
    findings = stand(params=params, **more).connections["c"].findings
    assert any(says in f.text for f in findings)
