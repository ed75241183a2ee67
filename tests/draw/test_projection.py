import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.conftest import how_many

from uncus.catalog.sections import section
from uncus.draw.breaks import Shortening, shortening
from uncus.draw.gathering import of_assembly
from uncus.draw.projection import axes_of, merged, project, union
from uncus.frame.placement import Placement
from uncus.mark.marking import Marks
from uncus.steel.features import Cope, EndCut, Face, Hole
from uncus.steel.part import plate, rolled
from uncus.steel.solid import plain_mesh


def in_front(bodies, axes, point):
    """Whether any triangle lies before a point (u, v, depth), by brute force; None where it is too near to say."""
    for part, place in bodies:
        mesh = plain_mesh(part)
        t = (place.to_model(mesh.points) @ axes.T)[mesh.triangles]
        n = np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])
        use = n[:, 2] > 1e-6
        t, n = t[use], n[use]
        sides = []
        for i in range(3):
            e, r = t[:, (i + 1) % 3] - t[:, i], point - t[:, i]
            sides.append((e[:, 0] * r[:, 1] - e[:, 1] * r[:, 0]) / np.hypot(e[:, 0], e[:, 1]))
        inside = np.min(sides, axis=0)
        plane = t[:, 0, 2] - np.einsum("ij,ij->i", n[:, :2], point[:2] - t[:, 0, :2]) / n[:, 2]
        ahead = plane - point[2]
        if np.any((np.abs(inside) < 0.6) & (ahead > -0.6)) or np.any((inside > 0) & (np.abs(ahead) < 0.6)):
            return None
        if np.any((inside > 0) & (ahead > 0)):
            return True
    return False


@pytest.mark.parametrize("name", ["front", "top", "bottom", "left end", "right end"])
@pytest.mark.parametrize("which", ["beam", "column", "rafter"])
def test_lines_are_hidden_exactly_where_something_is_in_front(sample, which, name):
    """Every drawn line against brute force at points along it; lines merged onto others are left to the merge test."""
    job, shop = sample
    assembly = max((a for a in shop.assemblies.values() if a.member.role == which), key=lambda a: len(a.pieces))
    bodies = of_assembly(assembly, Marks(job), shop, job).bodies
    axes, view = axes_of(name), project(bodies, name)
    wrong = checked = 0
    for part, place in bodies:
        mesh = plain_mesh(part)
        points = place.to_model(mesh.points) @ axes.T
        for a in points[:: max(1, len(points) // 12)]:
            hidden = in_front(bodies, axes, a)
            if hidden is None:
                continue
            checked += 1
            on_seen = _on(view.seen, a[:2])
            wrong += bool(hidden and on_seen and not _on_edge_of_others(bodies, axes, a))
    assert wrong <= checked * 0.02 + 1


def _on(segments, p):
    a, b = segments[:, :2], segments[:, 2:]
    d = b - a
    t = np.clip(np.einsum("ij,ij->i", p - a, d) / np.einsum("ij,ij->i", d, d), 0, 1)
    return bool((np.hypot(*(a + t[:, None] * d - p).T) < 0.05).any())


def _on_edge_of_others(bodies, axes, p):
    """A hidden corner may lie under a seen line of something nearer."""
    for part, place in bodies:
        points = place.to_model(plain_mesh(part).points) @ axes.T
        if (np.abs(points[:, :2] - p[:2]) < 0.5).any(axis=1).any():
            return True
    return False


def total(segments):
    return float(np.hypot(*(segments[:, 2:] - segments[:, :2]).T).sum()) if len(segments) else 0.0


def test_a_beam_worked_by_hand():
    """A W12X26 one metre long. Front: outline and the two flange lines. Top: outline, the web's two lines dashed."""
    s = section("W12X26")
    part, _ = rolled(s, "A992", "", EndCut(0), EndCut(1000), [Hole(Face.WEB, 200, 0, 20), Hole(Face.TOP, 300, 50, 22)])
    bodies = [(part, Placement.identity())]
    front, top = project(bodies, "front"), project(bodies, "top")
    assert total(front.seen) == pytest.approx(4 * 1000 + 2 * s.d, abs=1)
    assert total(front.hidden) == 0 and len(front.rings) == 1 and front.rings[0].seen and len(front.marks) == 1
    assert total(top.seen) == pytest.approx(2 * 1000 + 2 * s.b, abs=1)
    assert total(top.hidden) == pytest.approx(2 * 1000, abs=60)
    bottom = project(bodies, "bottom")
    assert [r.seen for r in top.rings] == [True] and [r.seen for r in bottom.rings] == [False]


def test_a_plate_behind_the_web_is_dashed_and_its_holes_too():
    s = section("W12X26")
    part, _ = rolled(s, "A992", "", EndCut(0), EndCut(1000))
    tab = plate([(0, -50), (100, -50), (100, 50), (0, 50)], 10, "A36", "", [Hole(Face.WEB, 50, 0, 20)])
    place = Placement((400, s.tw / 2 + 5, 0), np.eye(3))
    behind = project([(part, Placement.identity()), (tab, place)], "front")
    assert total(behind.hidden) == pytest.approx(400, abs=1) and not behind.rings[0].seen
    before = project([(part, Placement.identity()), (tab, Placement((400, -s.tw / 2 - 5, 0), np.eye(3)))], "front")
    assert total(before.hidden) == 0 and before.rings[0].seen


def test_copes_show_in_the_view():
    part, _ = rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(1000), [Cope(False, False, 100, 40, 12.7)])
    view = project([(part, Placement.identity())], "front")
    assert _on(view.seen, np.array([50.0, part.section.d / 2 - 40])) and not _on(
        view.seen, np.array([50.0, part.section.d / 2])
    )


@given(st.lists(st.tuples(st.floats(0, 100), st.floats(0, 100)).map(lambda p: (min(p), max(p))), max_size=12))
def test_united_intervals_cover_the_same_and_do_not_touch(intervals):
    united = union(intervals)
    assert all(b[0] > a[1] for a, b in zip(united, united[1:], strict=False))
    for low, high in intervals:
        assert any(s <= low and high <= e for s, e in united)


def test_merging_joins_collinear_pieces_and_drops_what_lies_under():
    seen = np.array([[0, 0, 10, 0], [10, 0, 20, 0], [0, 5, 0, 9]], dtype=float)
    hidden = np.array([[5, 0, 30, 0], [0, 5, 0, 9]], dtype=float)
    kept, dashed = merged(seen, hidden)
    assert sorted(map(tuple, np.abs(kept).tolist())) == [(0, 0, 20, 0), (0, 5, 0, 9)]
    assert [sorted((a, c)) for a, _, c, _ in np.abs(dashed).tolist()] == [[20, 30]]


@settings(max_examples=how_many(20, 600))
@given(st.lists(st.floats(0, 12000), max_size=12), st.sampled_from([4, 8, 12, 16]))
def test_shortening_fits_the_paper_and_keeps_every_event_clear(events, scale):
    found = shortening(events, 12000.0, scale, 250.0)
    for start, end in found.stretches:
        assert not any(start < e < end for e in events)
    if found.stretches and found.u(12000.0) / scale <= 251:
        assert found.u(0.0) == 0
    values = np.linspace(0, 12000, 500)
    moved = [found.u(v) for v in values]
    assert all(b >= a - 1e-9 for a, b in zip(moved, moved[1:], strict=False))


def test_shortened_segments_close_up():
    short = Shortening(((1000.0, 9000.0),), 50.0)
    out = short.segments(np.array([[0, 0, 10000, 10], [2000, 0, 3000, 0], [9500, 0, 9500, 5]], dtype=float))
    assert out.max() == pytest.approx(2050) and len(out) == 3
    assert sorted(out[:, 0].round().tolist()) == [0, 1050, 1550]


@pytest.mark.parametrize("length", [500.0, 6000.0, 18000.0])
@pytest.mark.parametrize("name", ["HSS8X8X3/8", "HSS12X4X1/4", "W24X55", "C10X15.3"])
def test_nothing_shines_through_the_seams_of_a_face(name, length):
    """A long thin face is two triangles whose seam runs nearly along the edges behind it: they stay hidden all
    along."""
    part, _ = rolled(section(name), "", "", EndCut(0.0), EndCut(length))
    view = project([(part, Placement.identity())], "front")
    s = section(name)
    inside = [v for u0, v, u1, w in view.seen.tolist() if abs(v - w) < 1e-6 and abs(u1 - u0) < length - 1.0]
    assert not inside, inside
    heights = {round(abs(v), 3) for _, v, _, w in view.seen.tolist() if abs(v - w) < 1e-6}
    wanted = {round(s.d / 2, 3)} | ({round(s.d / 2 - s.tf, 3)} if s.form == "I" else set())
    assert heights == wanted
