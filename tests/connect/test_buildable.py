"""What cannot be bought, made, entered, turned, welded or brought to its place is found, by name, with what to do."""

import msgspec
import numpy as np
import pytest
import shapely
from tests.connect.sound import beam, column, girder, joined

from uncus.catalog.bolts import bolt_size
from uncus.catalog.sections import section as find
from uncus.connect.bent import Fold
from uncus.connect.buildable import weld_runs
from uncus.connect.buildable.blocks import Blocks, blocks_of
from uncus.connect.buildable.holes import to_fillet
from uncus.frame.placement import Placement
from uncus.job.records import Attachment, Connection, End, Line, ShopRules
from uncus.shop.shop import Shop
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.flat import net_volume
from uncus.steel.joint import Contribution
from uncus.steel.part import plate, rolled
from uncus.steel.profile import faces, outline
from uncus.steel.solid import solid

POST, WEB = column("W14X90", roll=90), column("W14X90")


@pytest.mark.parametrize(
    ("kind", "members", "params", "rules", "says"),
    [
        ("shear tab", [POST, beam(0)], {"edge": 20.0, "over": 20.0}, {}, 'from the edge of the shear tab and needs 1"'),
        ("shear tab", [POST, beam(0)], {"pitch": 40.0}, {}, 'closer than the 2" they need'),
        ("shear tab", [POST, beam(0)], {"down": 35.0, "over": 19.0, "rows": 2}, {}, "meets the fillet of the beam"),
        ("shear end plate", [POST, beam(0)], {"gage": 70.0}, {}, "meets the fillet of the column"),
        ("moment end plate", [POST, beam(0)], {"gage": 352.0}, {}, "from the edge of the column"),
        ("moment end plate", [POST, beam(0)], {"beside": 22.0}, {}, "cannot be turned tight"),
        ("shear end plate", [POST, beam(0)], {"gage": 60.0}, {}, "cannot be turned tight"),
        ("apex", [beam(180, "W14X22", -30, id="support"), beam(0, "W14X22", -30)], {"layout": "flush"}, {}, None),
        ("shear tab", [POST, beam(0)], {"thickness": 10.0}, {}, "does not keep; take 1/2"),
        ("shear tab", [POST, beam(0)], {"thickness": 60.0}, {}, "takes without asking"),
        ("shear tab", [POST, beam(0, "W10X12")], {"thickness": 16.5}, {"threads": "excluded"},
            "thread of the 3/4 bolts reaches"),
        ("shear tab", [POST, beam(0, "W10X12")], {"thickness": 12.7}, {"threads": "excluded"}, None),
        ("base plate", [column(id="beam")], {}, {"thickest": 12.0}, "takes without asking"),
        ("double angle", [column("HSS14X14X1/2"), beam(0)], {}, {}, "blind bolts"),
        ("shear tab", [POST, beam(0)], {}, {}, None),
        ("moment end plate", [column("W14X730", roll=90), beam(0)], {"thickness": 100.0}, {}, "order them early"),
    ],
)  # fmt: skip
def test_what_cannot_be_built_is_said(kind, members, params, rules, says):
    support = None if kind == "base plate" else "support"
    shop = joined(kind, members, params=params, rules=ShopRules(**rules), support=support)
    texts = [f.text for f in shop.connections["c"].findings]
    if says is None:
        assert not texts
    else:
        assert any(says in t for t in texts), texts
        assert all(t.endswith(".") and len(t) < 260 for t in texts)


@pytest.mark.parametrize("roll", [0.0, 90.0])
@pytest.mark.parametrize("up", [True, False])
def test_a_beam_that_only_just_passes_its_support_is_told_from_one_that_only_just_meets_it(roll, up):
    """By half of what the beam is deep, as it is rolled."""
    reach = (find("W18X35").d + (find("W12X26").d if roll == 0.0 else find("W12X26").b)) / 2
    for off, meets in ((reach - 2.0, True), (reach + 2.0, False)):
        z = 3000.0 + (off if up else -off)
        members = [girder(z=3000.0, line=Line.CENTRE), beam(0, z=z, roll=roll, line=Line.CENTRE)]
        texts = [f.text for f in joined("shear tab", members).connections["c"].findings]
        assert any("the two do not meet" in t for t in texts) is not meets, texts


@pytest.mark.parametrize(("spacing", "reached"), [(36.0, False), (150.0, True)])
def test_welds_between_plates_too_near_one_another_are_found(spacing, reached):
    rows = Attachment(id="s", kind="stiffeners", member="beam", params={"spacing": spacing})
    shop = Shop([ShopRules(), beam(0, "W16X31"), rows])
    texts = [f.text for f in shop.connections["s"].findings]
    assert any("weld of the stiffener cannot be reached" in t for t in texts) is not reached


def test_a_cylinder_meets_a_block_where_they_truly_meet():
    """Against points strewn in cylinders anywhere about a beam: what holds one well inside is hit; what is farther from
    the whole axis than the radius is not."""
    shop = joined("shear tab", [POST, beam(30, slope=10)])
    blocks = Blocks(blocks_of([shop.body("beam"), shop.body("support")], Contribution()))
    rng = np.random.default_rng(5)
    start = shop.body("beam").frame.to_model(rng.uniform((-100, -150, -200), (600, 150, 200), (400, 3)))
    axis = rng.normal(size=(400, 3))
    axis /= np.linalg.norm(axis, axis=1)[:, None]
    length, radius = rng.uniform(30, 120, 400), rng.uniform(8, 40, 400)
    hit = blocks.hit(start, axis, length, radius)
    side = np.cross(axis, rng.normal(size=(400, 3)))
    side /= np.linalg.norm(side, axis=1)[:, None]
    along, turn, out = rng.uniform(0.2, 0.8, 300), rng.uniform(0, 2 * np.pi, 300), 0.6 * np.sqrt(rng.uniform(0, 1, 300))
    round_ = np.cos(turn)[:, None] * side[:, None] + np.sin(turn)[:, None] * np.cross(axis, side)[:, None]
    strewn = (
        start[:, None]
        + axis[:, None] * (length[:, None] * along)[..., None]
        + round_ * (radius[:, None] * out)[..., None]
    )
    steps = np.linspace(0.0, 1.0, 200)
    for j, block in enumerate(blocks.all):
        spots = start[:, None] + axis[:, None] * (steps * length[:, None])[..., None]
        local = block.frame.to_local(spots)
        nearest = np.linalg.norm(local - np.clip(local, -np.array(block.half), block.half), axis=2)
        held = (np.abs(block.frame.to_local(strewn)) < block.half).all(axis=2).any(axis=1)
        assert hit[held, j].all()
        assert not hit[nearest.min(axis=1) > radius + 0.01, j].any()
    assert hit.any() and not hit.all()


@pytest.mark.parametrize(("support_roll", "caught"), [(0.0, False), (90.0, True)])
def test_a_beam_caught_at_both_ends_has_its_flange_coped_on_the_tabs_side(support_roll, caught):
    def turned(m):
        return msgspec.structs.replace(m, roll=90.0) if m.id == "support" else m

    posts = [turned(column("W10X49", id="support")), column("W10X49", id="far", at=(0.0, 5000.0), roll=support_roll)]
    ends = [Connection(id=e, kind="shear tab", member="beam", end=End(e), support=s) for e, s
        in (("left", "support"), ("right", "far"))]  # fmt: skip
    for lowered, expected in (("where it must be", ""), ("as it is", "cannot be let down past its tabs")):
        records = [msgspec.structs.replace(c, params={"lowered": lowered}) for c in ends]
        shop = Shop([ShopRules(), *posts, beam(90, "W10X22"), *records])
        texts = [f.text for f in shop.all_findings]
        assert any(expected in t for t in texts) if caught and expected else not texts
        part = shop.assemblies["beam"].main.part
        assert len(part.notches) == (2 if caught and not expected else 0)
        assert net_volume(part) == pytest.approx(solid(part).volume(), rel=2e-5), "fillets go with the flange"


@pytest.mark.parametrize("name", ["L4X4X3/8", "L6X4X1/2", "C12X20.7", "W12X26", "WT6X20", "HSS8X4X1/4", "IPE300"])
def test_a_row_that_is_said_to_be_clear_of_a_fillet_goes_through_the_plain_wall(name):
    """The section's own outline cut along the drill: no more steel than the wall, wherever the fillet is said to be
    away; and the middle of every wall is clear."""
    own, shape = find(name), outline(find(name))
    for face, wall in faces(own).items():
        for w in np.linspace(wall.lo + 0.5, wall.hi - 0.5, 60):
            ends = [(-999.0, w), (999.0, w)] if face.upright else [(w, -999.0), (w, 999.0)]
            cut = shapely.LineString(ends).intersection(shape)
            thick = max(run.length for run in getattr(cut, "geoms", [cut]))
            assert to_fillet(own, face, w) < 0.0 or thick < wall.thickness + 0.5, (face, w)
        quarter = wall.lo + 0.75 * (wall.hi - wall.lo)  # neither the middle of a flange nor an edge
        assert to_fillet(own, face, quarter) > 0.0, face


@pytest.mark.parametrize("between", [50.0, 75.0, 90.0, 120.0, 150.0])
def test_a_bend_of_its_radius_touches_both_legs_where_they_begin_to_be_flat(between):
    """The bend's own centre, found from the first leg, is as far from the second leg's face."""
    t = np.radians(between)
    first, second = np.array([1.0, 0.0, 0.0]), np.array([np.cos(t), np.sin(t), 0.0])
    fold = Fold(np.array([40.0, -20.0, 5.0]), first, second, 9.525, 14.3)
    centre = fold.set_back * first + (9.525 + 14.3) * fold.inward
    assert np.linalg.norm(np.cross(second, centre)) == pytest.approx(9.525 + 14.3)
    assert float(second @ centre) == pytest.approx(fold.set_back)


@pytest.mark.parametrize("between", [90.0, 120.0, 150.0])
@pytest.mark.parametrize("size", ["3/4", "1", "M20"])
def test_a_bolt_beside_a_bend_stands_off_by_half_its_head_and_a_millimetre(between, size):
    """Over where the leg begins to be flat, and by less than a step of the shop's rule more; further where asked."""
    t, one = np.radians(between), bolt_size(size)
    fold = Fold(np.zeros(3), np.array([1.0, 0.0, 0.0]), np.array([np.cos(t), np.sin(t), 0.0]), 9.525, 14.3)
    least = (14.3 + 9.525) / np.tan(t / 2) + one.head_flats / 2 + 1.0
    for step in (True, False):
        found = fold.gage(one, 0.0, 19.0, step)
        assert least - 1e-6 <= found < least + 7.0 and fold.gage(one, found + 20.0, 19.0, step) == found + 20.0


def test_how_far_a_point_is_from_a_parts_steel():
    """Nothing on it or in it; past an edge and off the face, the way between; past the end of a rolled length too."""
    flat = plate([(0, 0), (100, 0), (100, 50), (0, 50)], 10.0, "A36", "", [Hole(Face.WEB, 50.0, 25.0, 20.0)])
    spots = np.array([(20, 0, 20), (20, 5, 20), (20, 6, 20), (103, 9, 20), (50, 0, 25)])
    assert weld_runs.off(flat, Placement.identity(), spots) == pytest.approx([0, 0, 1, 5, 10], abs=0.01)
    s = find("W12X26")
    length, _ = rolled(s, "A992", "", EndCut(0.0), EndCut(1000.0))
    spots = np.array(
        [(500, 0, s.d / 2), (500, 0, s.d / 2 + 2), (500, s.tw / 2 + 3, 0), (1007, 0, 0), (-4, 0, s.d / 2 + 3)]
    )
    assert weld_runs.off(length, Placement.identity(), spots) == pytest.approx([0, 2, 3, 7, 5])


@pytest.mark.parametrize("side", [1, -1])
def test_a_plate_through_a_tube_aslant_is_refused_where_it_would_leave_by_a_corner(side):
    """From the skew on from which it is nearer to the round of a wall than a fillet can bridge."""
    tube = find("HSS8X8X3/8")

    def refused(turn: float) -> bool:
        said = joined("through plate", [column("HSS8X8X3/8"), beam(side * turn, "W16X31")], params={"rows": 2})
        return any("by its corner" in f.text for f in said.connections["c"].findings)

    first = next(turn for turn in np.arange(0.0, 46.0, 1.0) if refused(turn))
    beside = (find("W16X31").tw + 9.525) / 2 / np.cos(np.radians(first))  # from the work line to the plate's middle
    aside = tube.d / 2 * np.tan(np.radians(first)) + beside  # at either wall, its flat ending where the corner begins
    assert aside == pytest.approx(tube.d / 2 - 2 * tube.tw - 9.6, abs=3.0) and refused(first + 8.0)
