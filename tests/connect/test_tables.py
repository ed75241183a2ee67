"""What the rules give for common beams, against what a detailer would set down."""

import pytest
from tests.connect.sound import beam, column, girder
from tests.connect.test_shear_tab import tab_of

from uncus.job.start import usual_rules
from uncus.units import INCH, Units


@pytest.mark.parametrize(
    ("section", "rows", "tab"),
    [
        ("W8X18", 2, 6),
        ("W10X22", 2, 6),
        ("W12X26", 3, 9),
        ("W14X30", 3, 9),
        ("W16X31", 4, 12),
        ("W18X35", 5, 15),
        ("W21X44", 6, 18),
        ("W24X55", 6, 18),
    ],
)
def test_rows_by_depth_at_a_column_flange(section, rows, tab):
    shop = tab_of(column("W14X90"), beam(90, section=section))
    piece = next(p for p in shop.pieces() if p.id == "c/tab")
    assert len(piece.part.holes) == rows
    assert piece.part.width == pytest.approx(tab * INCH, abs=2e-3)


@pytest.mark.parametrize(
    ("gird", "section", "rows", "top_cope", "bottom_cope"),
    [
        ("W18X35", "W12X26", 3, True, False),
        ("W16X31", "W16X31", 4, True, True),
        ("W24X55", "W16X31", 4, True, False),
        ("W14X22", "W10X22", 2, True, False),
    ],
)
def test_copes_where_flanges_meet(gird, section, rows, top_cope, bottom_cope):
    shop = tab_of(girder(gird), beam(0, section=section))
    main = shop.assemblies["beam"].main.part
    assert {c.bottom for c in main.copes} == ({False} if top_cope else set()) | ({True} if bottom_cope else set())
    tab = next(p for p in shop.pieces() if p.id == "c/tab").part
    assert len(tab.holes) <= rows and len(tab.holes) >= 2
    for cope in main.copes:
        quarter = cope.depth / INCH * 4
        assert quarter == pytest.approx(round(quarter)), "cope depths are in quarters of an inch"


def test_a_lower_beam_needs_no_cope():
    shop = tab_of(girder("W24X55"), beam(0, section="W12X26", z=3000 - 100.0))
    assert not shop.assemblies["beam"].main.part.copes and not shop.connections["c"].findings


def test_metric_rules_give_metric_steps():
    rules = usual_rules(Units.METRIC)
    shop = tab_of(column("HEB240"), beam(90, section="IPE300"), rules=rules)
    assert not shop.connections["c"].findings
    tab = next(p for p in shop.pieces() if p.id == "c/tab").part
    assert (tab.length, tab.thickness) == (90, 10) and tab.holes[0].d == 22
    assert shop.assemblies["beam"].main.part.length == pytest.approx(5000 - 130)
    assert shop.connections["c"].fasteners[0].length == 45
    assert shop.connections["c"].welds[0].size == 7
