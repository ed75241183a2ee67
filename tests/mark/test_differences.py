"""Why two pieces differ: a table of known differences, each said and nothing else."""

import msgspec
import pytest
from tests.connect.sound import beam, column

from uncus.catalog.sections import section
from uncus.job.records import Connection, End, ShopRules
from uncus.mark.differences import between, differences, laid_over, turned
from uncus.mark.sameness import rotations
from uncus.shop.shop import Shop
from uncus.steel.features import Cope, EndCut, Face, Hole
from uncus.steel.part import plate, rolled
from uncus.units import INCH, Units

HOLES = [Hole(Face.WEB, 50.8, w, 20.6375) for w in (-76.2, 0.0, 76.2)]
COPE = Cope(False, False, 101.6, 38.1, 12.7)


def part(name="W16X31", length=3000.0, features=(*HOLES, COPE), grade="A992", finish="", left=EndCut(0.0)):
    return rolled(section(name), grade, finish, left, EndCut(length), features)[0]


def shifted(dx=0.0, dw=0.0, d=0.0):
    return [msgspec.structs.replace(h, x=h.x + dx, w=h.w + dw, d=h.d + d) for h in HOLES]


def moved(holes, dx=0.0, dw=0.0):
    return [msgspec.structs.replace(h, x=h.x + dx, w=h.w + dw) for h in holes]


GRID = [Hole(Face.WEB, x, w, 20.6375) for x in (50.8, 1500.0, 2800.0) for w in (-76.2, 0.0, 76.2)]
PLATE = plate([(0, -100), (90, -100), (90, 100), (0, 100)], 9.525, "A36", "", [Hole(Face.WEB, 50, 30, 20.6)])


@pytest.mark.parametrize(
    ("a", "b", "said"),
    [
        (part(), part(), []),
        (part(), part(length=3000.0 - INCH / 2), ["1/2 longer"]),
        (part(features=[*shifted(1.5 * INCH), COPE]), part(), ["all web holes 1 1/2 further along"]),
        (part(features=[*shifted(dw=-INCH), COPE]), part(), ["all web holes 1 lower"]),
        (part(features=[*shifted(d=1.5875), COPE]), part(), ["all web holes of 7/8 against 13/16"]),
        (part(features=[*GRID[:3], *moved(GRID[3:6], dx=INCH), *GRID[6:]]), part(features=GRID),
            ["web hole column 2 moved 1 further along"]),
        (part(features=[moved([h], dw=INCH)[0] if h.w < -1 else h for h in GRID]), part(features=GRID),
            ["web hole row 3 moved 1 higher"]),
        (part(features=[*moved(GRID[3:], dx=INCH), *GRID[:3]]), part(features=GRID),
            ["web hole columns 2 and 3 moved 1 further along"]),
        (part(features=[*moved(GRID[:2], dx=INCH), *GRID[2:]]), part(features=GRID), ["2 web holes 1 further along"]),
        (part(features=HOLES), part(), ["1 top cope at the left fewer"]),
        (part(features=[*HOLES, msgspec.structs.replace(COPE, depth=50.8)]), part(),
            ["1 top cope at the left 2 deep against 1 1/2"]),
        (part(features=[*HOLES, COPE, Hole(Face.TOP, 1500.0, 40.0, 14.3)]), part(), ["1 top hole more"]),
        (part("W16X40"), part(), ["W16X40 against W16X31"]),
        (part(grade="A36"), part(), ["grade A36 against A992"]),
        (part(finish="galvanised"), part(), ["finish “galvanised” against “none”"]),
        (part(left=EndCut(0.0, 0.2)), part(), ["9/16 longer", "the left end is cut otherwise",
            "all web holes 9/16 further along"]),
        (msgspec.structs.replace(PLATE, thickness=12.7), PLATE, ["1/2 thick against 3/8"]),
        (plate([(0, -100), (95, -100), (95, 100), (0, 100)], 9.525, "A36", "", PLATE.features), PLATE,
            ["3 3/4 long against 3 9/16"]),
        (PLATE, plate(PLATE.outline, 9.525, "A36", "", []), ["1 web hole more"]),
        (PLATE, part(), ["PL 3/8 x 3 9/16 against W16X31", "grade A36 against A992"]),
    ],
)  # fmt: skip
def test_known_differences_are_said(a, b, said):
    assert differences(a, b, Units.IMPERIAL) == said


def test_turning_is_no_difference_and_the_other_hand_is_named():
    channel = rolled(section("C10X15.3"), "A36", "", EndCut(0), EndCut(2000), [Hole(Face.WEB, 200, 40, 20)])[0]
    hand = rolled(section("C10X15.3"), "A36", "", EndCut(0), EndCut(2000), [Hole(Face.WEB, 1800, 40, 20)])[0]
    assert "mirror image" in differences(channel, hand, Units.IMPERIAL)[0]
    for r in rotations(part()):
        far = part(features=[*shifted(2 * INCH), COPE])
        said = differences(far, turned(part(), r), Units.IMPERIAL)
        assert said == ["all web holes 2 further along"], "the way in which least differs is compared"


def test_both_are_laid_over_each_other_with_what_only_one_has():
    faces = {one.face: one for one in laid_over(part(), part(features=[*shifted(INCH)[:1], *HOLES[1:], COPE]))}
    web = faces["web"]
    assert len(web.a) == len(web.b) == 4 and len(web.only_a) == len(web.only_b) == 1
    assert not faces["top"].only_a


def test_assemblies_are_told_apart_by_what_is_fixed_to_them():
    def shop(**params):
        c = Connection(id="c", kind="shear end plate", member="beam", end=End.LEFT, support="support", params=params)
        return Shop([ShopRules(), column("W14X90", roll=90), beam(0, "W16X31"), c]).assemblies["beam"]

    said = between(shop(thickness=12.7), shop(), Units.IMPERIAL)
    assert said[0].endswith("longer") or said[0].endswith("shorter")
    assert "end plate: 1/2 thick against 3/8" in said
    assert between(shop(rows=3), shop(rows=2), Units.IMPERIAL)
    bare = Shop([ShopRules(), beam(0, "W16X31")]).assemblies["beam"]
    assert "1 end plate more" in between(shop(), bare, Units.IMPERIAL)
    assert "1 end plate fewer" in between(bare, shop(), Units.IMPERIAL)
