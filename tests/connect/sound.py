"""Members to join in tests, and what every joint must be: closed, apart, bolted through every ply, welded where it
touches."""

import math
from itertools import combinations, pairwise, product

import numpy as np
from manifold3d import Manifold

from uncus.catalog.sections import Form
from uncus.connect.kind import Body
from uncus.job.records import Connection, End, Line, Member, Project, Role, ShopRules
from uncus.job.start import usual_rules
from uncus.shop.shop import Shop
from uncus.steel import profile
from uncus.steel.flats import flats
from uncus.steel.joint import FastenerKind, WeldForm
from uncus.steel.solid import solid
from uncus.units import Units

LEVEL = 3000.0


def column(section="W10X49", roll=0.0, id="support", top=6000.0, at=(0.0, 0.0), **more) -> Member:
    return Member(id=id, role=Role.COLUMN, section=section, start=(*at, 0.0), end=(*at, top), roll=roll, **more)


def girder(section="W18X35", z=LEVEL, id="support", **more) -> Member:
    """A beam along north that runs on past both sides."""
    more = {"line": Line.TOP, **more}
    return Member(id=id, role=Role.BEAM, section=section, start=(0, -4000.0, z), end=(0, 4000.0, z), **more)


def beam(
    turn=0.0, section="W12X26", slope=0.0, z=LEVEL, right=False, id="beam", length=5000.0, start=(0.0, 0.0), **more
) -> Member:
    """A beam from above a point, `turn` degrees from east counter-clockwise, rising by `slope` degrees; `right` puts
    its right end there."""
    t, s = math.radians(turn), math.radians(slope)
    a = (*start, z)
    b = (
        start[0] + length * math.cos(s) * math.cos(t),
        start[1] + length * math.cos(s) * math.sin(t),
        z + length * math.sin(s),
    )
    ends = (b, a) if right else (a, b)
    more = {"line": Line.TOP, "role": Role.BEAM, **more}
    return Member(id=id, section=section, start=ends[0], end=ends[1], **more)


def joined(
    kind,
    members,
    right=False,
    params=None,
    rules=None,
    support="support",
    others=(),
    member="beam",
    project=None,
    **more,
) -> Shop:
    """The steel of one connection, `c`."""
    end = End.RIGHT if right else End.LEFT
    c = Connection(
        id="c", kind=kind, member=member, end=end, support=support, others=others, params=params or {}, **more
    )
    rules = rules or ShopRules()
    units = Units.METRIC if rules == usual_rules(Units.METRIC) else Units.IMPERIAL
    return Shop([project or Project(units=units), rules, *members, c])


def wrong(shop, id="c") -> list[str]:
    return [f.text for f in shop.said(id) if f.severity == "wrong"]


def placed(piece) -> Manifold:
    return solid(piece.part).transform(np.hstack([piece.placement.axes, piece.placement.origin[:, None]]))


def sound(shop: Shop, id="c", film=0.0, root=0.5) -> None:
    """`film`: mm by which a round tube's facets may stand in what lies on it; `root`: mm of gap that a fillet
    bridges. No wrong finding; parts closed and apart; every bolt through every ply it joins; welds on both pieces."""
    found = wrong(shop, id)
    assert not found, found
    pieces = {p.id: p for p in shop.pieces()}
    bodies = {key: placed(piece) for key, piece in pieces.items()}
    _apart(bodies, {key for key, p in pieces.items() if p.part.section and p.part.section.form is Form.TUBE}, film)
    made = shop.connections[id]
    assert made.parts or made.cuts, "something was made"
    for group in made.fasteners:
        _bolted(pieces, group)
    kept = [w for a in shop.shipped.values() for w in (*a.welds, *a.site_welds)]
    for weld in made.welds:
        assert kept.count(weld) == 1, f"weld {weld.key} belongs to one assembly"
        for name in weld.joins:
            section = pieces[name].part.section
            facets = 0.6 if section is not None and section.form is Form.TUBE else 0.0
            if section is not None and any("flare bevel" in f.text for f in made.findings):
                facets = section.r  # said to lie in the rounded corners
            _touches(bodies[name], weld, name, facets + root)


def _apart(bodies, round_, film) -> None:
    boxes = {key: np.array(b.bounding_box()).reshape(2, 3) for key, b in bodies.items()}
    for key, body in bodies.items():
        assert body.volume() > 0, key
        assert len(body.decompose()) == 1, f"{key} is in pieces"
    for a, b in combinations(sorted(bodies), 2):
        (lo_a, hi_a), (lo_b, hi_b) = boxes[a], boxes[b]
        if (lo_a < hi_b).all() and (lo_b < hi_a).all():
            common = bodies[a] ^ bodies[b]
            thin = round_ & {a, b} and 2 * common.volume() < film * common.surface_area()
            assert common.volume() < 2.0 or thin, f"{a} and {b} share {common.volume():.1f} mm3"


def _bolted(pieces, group) -> None:
    axis = np.array(group.axis)
    for at in group.points:
        spans = []
        for name in group.joins:
            part, place = pieces[name].part, pieces[name].placement
            if part.item is not None:
                continue  # its maker bores it
            best, span = math.inf, (math.inf, math.inf)
            frames = [place @ flat.place for flat in flats(part.outline, part.bends,
                part.thickness)] if part.bends else [place]  # fmt: skip
            for frame, hole in product(frames, part.holes):
                local, along = frame.to_local(at), frame.axes.T @ axis
                wall = None if part.is_plate else profile.faces(part.section)[hole.face]
                mid, t = (0.0, part.thickness) if wall is None else (wall.mid, wall.thickness)
                upright = wall is None or wall.upright
                normal, w = (1, 2) if upright else (2, 1)
                if abs(along[normal]) < 1 - 1e-6:
                    continue
                step = (mid - local[normal]) / along[normal]
                there = local + step * along
                away = math.hypot(there[0] - hole.x, there[w] - hole.w)
                here = (step - t / 2, step + t / 2)
                if away < best - 0.005 or (away < 0.01 and abs(step) < abs(sum(span) / 2)):
                    best, span = away, here
            assert best < 0.01, f"{group.key}: {name} has no hole on the bolt's line ({best:.3f} mm off)"
            spans.append(span)
        if group.kind is FastenerKind.BOLT:
            spans.sort()
            assert spans[0][0] > -0.02 and spans[-1][1] < group.grip + 0.02, f"{group.key}: plies outside the grip"
            for (_, end), (start, _) in pairwise(spans):
                assert abs(start - end) < 1.6, f"{group.key}: plies {start - end:.2f} mm apart"
            assert group.length > group.grip


def _touches(body, weld, name, root) -> None:
    reach = max(root, weld.root) if weld.form is WeldForm.FILLET else 7.0  # a groove weld bridges its root opening
    for a, b in pairwise(weld.path):
        a, b = np.array(a), np.array(b)
        for share in (0.02, 0.5, 0.98):
            dot = Manifold.cube((0.02, 0.02, 0.02), True).translate(tuple(a + share * (b - a)))
            gap = body.min_gap(dot, 50.0)
            assert gap < reach, f"weld {weld.key} is {gap:.2f} mm off {name} at {share}"


def body_of(shop: Shop, id: str) -> Body:
    found = shop.body(id)
    assert found is not None
    return found
