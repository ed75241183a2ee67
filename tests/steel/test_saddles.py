"""Ends cut to round tubes: one solid with the tube they stand on, weighed, turned, wrapped and told as that solid
is."""

import math

import numpy as np
import pytest
from manifold3d import Manifold
from msgspec.structs import replace

from uncus.catalog.sections import section
from uncus.deliver.flat_dxf import flat_document
from uncus.deliver.nc import Heading, nc_text
from uncus.job.errors import JobError
from uncus.mark.canonical import part_form
from uncus.mark.differences import differences, reflected, turned
from uncus.mark.sameness import maps, spun
from uncus.steel.features import EndCut, Face, Hole, Notch, saddle_at
from uncus.steel.flat import net_volume
from uncus.steel.part import rolled
from uncus.steel.solid import mesh, solid
from uncus.steel.wrapping import is_wrapped, wrapped
from uncus.units import Units

BRANCH = section("HSS4.000X0.250")
# slope of the tube's axis, the way it runs in degrees from z towards y, its radius: at the left end and at the right
ENDS = [
    ((0.0, 0.0, 84.1), (0.0, 0.0, 84.1)),
    ((0.0, 25.0, 60.0), (0.0, 115.0, 109.5)),
    ((0.5, 30.0, 84.1), (-0.8, 75.0, 54.0)),
    ((1.0, 140.0, 109.5), (0.0, 10.0, 84.1)),
]


def saddled(*ends, features=(), name="HSS4.000X0.250"):
    cuts = []
    for n, (slope, turn, radius) in enumerate(ends):
        along = (math.sin(math.radians(turn)), math.cos(math.radians(turn)))
        cuts.append(EndCut(1200.0 * n, slope * along[0], slope * along[1], saddle_at(radius, along, n == 1)))
    return rolled(section(name), "A500-C", "", *cuts, features)[0]


@pytest.mark.parametrize("ends", ENDS)
def test_an_end_touches_the_tube_all_round_and_weighs_what_it_is(ends):
    part = saddled(*ends)
    assert solid(part).volume() == pytest.approx(net_volume(part), rel=1e-3)
    for (slope, turn, radius), cut, right in zip(ends, (part.left, part.right), (False, True), strict=True):
        u = np.array([slope, math.sin(math.radians(turn)), math.cos(math.radians(turn))])
        u /= np.linalg.norm(u)
        axis = cut.at + (1 if right else -1) * radius * math.hypot(1.0, slope)
        here = np.linspace(0, 2 * math.pi, 91)
        for r in (BRANCH.d / 2, BRANCH.d / 2 - BRANCH.tw):  # both sides of its wall
            y, z = r * np.sin(here), r * np.cos(here)
            spots = np.column_stack([cut.x(y, z) - axis, y, z])
            off = spots - np.outer(spots @ u, u)
            assert np.linalg.norm(off, axis=1) == pytest.approx(radius, abs=1e-5)
        height = 4000.0
        side = np.cross(u, [1.0, 0, 0])
        side /= np.linalg.norm(side)
        axes = np.column_stack([side, np.cross(u, side), u])
        tube = Manifold.cylinder(height, radius - 0.2, circular_segments=96, center=True)
        assert (solid(part) ^ tube.transform(np.column_stack([axes, [axis, 0, 0]]))).volume() < 1.0


@pytest.mark.parametrize("ends", ENDS)
def test_a_round_tube_turned_about_itself_is_the_same_and_its_mirror_image_is_told(ends):
    part = saddled(*ends)
    for angle in (0.3, 1.7, 4.0):
        other = turned(part, spun(angle))
        found = maps(part, other)
        assert found and part_form(part) == part_form(other) and not differences(part, other, Units.IMPERIAL)
        moved = solid(part).transform(np.hstack([found[0].axes, found[0].origin[:, None]]))
        assert (moved - solid(other)).volume() < 1e-2 * solid(part).volume()  # facets that do not fall on one another
    mirrored = reflected(part)[0]
    planes = {round(math.sin(math.radians(2 * turn)), 6) for _, turn, _ in ends}
    if len(planes) > 1 and any(slope for slope, *_ in ends):
        assert not maps(part, mirrored)
        assert differences(part, mirrored, Units.IMPERIAL) == ["the other hand: one is the mirror image of the other"]


def test_another_tube_another_way_or_a_flat_cut_is_another_part():
    usual, right = ENDS[0]
    said = {
        (0.0, 0.0, 109.5): "the left end is a saddle to a tube of 8 5/8 against 6 5/8",
        (0.2, 0.0, 84.1): "the left end is cut otherwise",
    }
    for end, words in said.items():
        assert not maps(saddled(end, right), saddled(usual, right))
        assert words in differences(saddled(end, right), saddled(usual, right), Units.IMPERIAL)
    across = saddled(usual, (0.0, 90.0, 84.1))
    assert not maps(across, saddled(usual, right)) and part_form(across) != part_form(saddled(usual, right))
    square = rolled(BRANCH, "A500-C", "", EndCut(0.0), EndCut(1200.0))[0]
    assert "the left end is a saddle against a flat cut" in differences(saddled(*ENDS[0]), square, Units.IMPERIAL)


@pytest.mark.parametrize("ends", ENDS)
@pytest.mark.parametrize(
    "features",
    [
        (),
        (Hole(Face.WEB, 500.0, 12.0, 27.0), Notch(Face.TOP, ((600, -20), (800, -20), (800, 15), (600, 15)))),
        (Notch(Face.BOTTOM, ((600, -20), (800, -20), (800, 15), (600, 15))),
            Notch(Face.BACK, ((300, 5), (400, 5), (400, 30), (300, 30)))),
    ],
)  # fmt: skip
def test_a_pattern_is_the_tubes_outside_laid_flat(ends, features):
    part = saddled(*ends, features=features)
    pattern = wrapped(part)
    made = mesh(part)
    corners = made.points[made.triangles]
    flat = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    outside = (np.hypot(corners[..., 1], corners[..., 2]) > BRANCH.d / 2 - 0.5).all(axis=1)
    outside &= np.abs(flat[:, 0]) < 0.1 * np.linalg.norm(flat, axis=1)  # not the cut wall
    assert pattern.area == pytest.approx(np.linalg.norm(flat[outside], axis=1).sum() / 2, rel=3e-3)
    assert pattern.bounds[3] - pattern.bounds[1] == pytest.approx(math.pi * BRANCH.d)
    drawn = [e.dxf.layer for e in flat_document(part).modelspace()]
    assert drawn == ["CUT"] * (1 + len(pattern.interiors)) + ["MARK"]


def test_where_a_hole_lies_on_the_pattern():
    """On the near side's middle a quarter of the way round from the bottom, on the top half; above the near side's
    middle further on."""
    at = {
        "near": Hole(Face.WEB, 500.0, 0.0, 20.0),
        "top": Notch(Face.TOP, ((700, -5), (710, -5), (710, 5), (700, 5))),
    }
    round_ = math.pi * BRANCH.d
    for share, name in ((0.25, "near"), (0.5, "top")):
        (ring,) = wrapped(saddled(*ENDS[0], features=(at[name],))).interiors
        assert ring.centroid.y == pytest.approx(share * round_, abs=0.1)
    (ring,) = wrapped(saddled(*ENDS[0], features=(Hole(Face.WEB, 500.0, 20.0, 10.0),))).interiors
    assert ring.centroid.y > 0.25 * round_ + 20


def test_no_nc_is_written_of_a_saddle():
    part = saddled(*ENDS[0])
    assert is_wrapped(part)
    for left, right in ((part.left, EndCut(part.length)), (EndCut(0.0), part.right)):
        assert is_wrapped(replace(part, left=left, right=right)), "at one end alone"
    with pytest.raises(JobError, match="wrap round it"):
        nc_text(part, Heading("1", "1", "m", 1))
