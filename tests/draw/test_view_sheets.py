"""View frames as drawings: every piece in the box has one mark at its left end, lines and dimensions are the grid's and
the levels'."""

from collections import Counter

import msgspec
import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tests.conftest import how_many, marked

from uncus.draw.drawn import draw_all
from uncus.draw.issue import opened, packed, reasons
from uncus.draw.legibility import legibility
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.draw.sights import clipped, lines, looking, placed, shown
from uncus.draw.view_job import SiteWeld
from uncus.frame.usual_views import Steel, elevations
from uncus.job.drawings import Hidden, Moved, Written
from uncus.job.records import Drawing, Grid, GridLine, Level, Member, Role, Showing, ViewFrame
from uncus.sample.boathouse import boathouse
from uncus.sample.frames import frame as regular
from uncus.units import Units, format_elevation, format_length


def with_elevations(records):
    grid = next(r for r in records if isinstance(r, Grid))
    of = {kind: [r for r in records if isinstance(r, kind)] for kind in (Level, Member, ViewFrame)}
    return [*records, *elevations(Steel(grid, of[Level], of[Member], of[ViewFrame]))]


def views(job, shop):
    return [e for e in register(job, shop) if e.title.startswith("view")]


JOBS = {
    "sample": lambda: boathouse(Units.IMPERIAL),
    "regular": lambda: regular(3, 2),
}


@pytest.fixture(scope="module", params=JOBS)
def seen(request):
    job, shop = marked(with_elevations(JOBS[request.param]()))
    return job, shop, views(job, shop)


def within(frame, member):
    """Whether some of a member's line lies in a frame's box, by points along it."""
    points = np.linspace(member.start, member.end, 2001)
    u, v, w = placed(frame).to_local(points).T
    inside = (abs(u) <= frame.width / 2) & (abs(v) <= frame.height / 2) & (-frame.behind <= w) & (w <= frame.before)
    return int(inside.sum())


def test_every_piece_in_a_box_has_one_mark_near_its_left_end_and_no_word_lies_on_another(seen):
    job, shop, entries = seen
    assert len(entries) == len(job.all(ViewFrame)) > 3
    for entry in entries:
        (sheet,) = draw_all(entry.job)
        frame = entry.job.sights[0].frame
        head = f"{frame.id}|mark "
        marks = Counter(s.key for s in sheet.spots if s.key.startswith(head))
        assert set(marks.values()) <= {1}
        there = {id for a in shop.assemblies.values() if (id := a.member.id) in entry.pieces}
        assert {key.removeprefix(head) for key in marks} == there
        for member in (m for m in job.all(Member) if not m.is_rolled and m.climb is None and not m.maker):
            if shop.carried.get(member.id, member.id) == member.id and member.id in shop.shipped:
                number = within(frame, member)
                assert (member.id in there) == (number > 0) or number <= 2, "at its very edge"
        assert legibility(sheet).on_text == 0 and legibility(sheet).off_paper == 0
        tips = {key.partition("|")[0]: p[:2] for key, p in sheet.frames[0].points.items()}
        for spot in sheet.spots:
            id = spot.key.removeprefix(head)
            if id in tips:
                middle = ((spot.box[0] + spot.box[2]) / 2, (spot.box[1] + spot.box[3]) / 2)
                assert np.hypot(*np.subtract(middle, tips[id])) < 75.0  # mm of paper, in the thick of a joint


def test_dimensions_and_tags_of_an_elevation_are_the_grids_and_the_levels(seen):
    job, _, entries = seen
    levels = job.all(Level)
    for entry in entries:
        said = Counter(t.text for t in draw_all(entry.job)[0].items if isinstance(t, Text))
        (view,) = entry.job.sights
        own = [line for line in view.lines if line.height is None and line.upright]
        xs = sorted(line.a[0] for line in own)
        units = entry.job.units
        steps = [format_length(b - a, units) for a, b in zip(xs, xs[1:], strict=False)]
        assert all(said[words] >= n for words, n in Counter(steps).items())
        assert len(xs) < 3 or said[format_length(xs[-1] - xs[0], units)]
        assert all(said[line.name] for line in own)
        for level in levels:
            assert said[format_elevation(level.elevation, units)] >= 1
            assert said[level.name.upper()] == 1
        place = placed(view.frame)
        for line in own:  # and where it is in the building, by the grid itself
            (x, y), plumb = place.to_model((*line.a, 0.0))[:2], place.to_model((*line.b, 0.0))[:2]
            assert (x, y) == pytest.approx(tuple(plumb), abs=0.01)


def test_what_is_looked_at_is_said_by_the_compass():
    def frame(x, y):
        return ViewFrame("v", (0, 0, 0), x, y, 1000, 1000)

    up, root = (0, 0, 1), 0.5**0.5
    for x, words in (
        ((1, 0, 0), "NORTH"), ((0, 1, 0), "WEST"), ((-1, 0, 0), "SOUTH"), ((0, -1, 0), "EAST"),
        ((root, root, 0), "NORTH-WEST"), ((root, -root, 0), "NORTH-EAST"),
    ):  # fmt: skip
        assert looking(frame(x, up)) == f"LOOKING {words}"
    assert looking(frame((1, 0, 0), (0, 1, 0))) == "SEEN FROM ABOVE"
    assert looking(frame((1, 0, 0), (0, -1, 0))) == "SEEN FROM BELOW"


def test_elevations_are_made_once_for_lines_that_have_steel_skewed_ones_too():
    grid = Grid(id="g", numbers=(GridLine("1", 0.0), GridLine("2", 6000.0, turn=20.0), GridLine("9", 30_000.0)),
        letters=(GridLine("A", 0.0), GridLine("B", 5000.0)))  # fmt: skip
    feet = [(0.0, 0.0), (0.0, 5000.0), (6000.0, 0.0), (6000.0 - 5000.0 * np.tan(np.radians(20.0)), 5000.0)]
    columns = [Member(id=f"c{n}", role=Role.COLUMN, section="W10X49", start=(x, y, 0.0), end=(x, y, 4000.0))
        for n, (x, y) in enumerate(feet)]  # fmt: skip
    tops = [msgspec.structs.replace(c, id=f"t{c.id}", role=Role.BEAM, start=c.end, end=d.end)
        for c, d in zip(columns, columns[1:], strict=False)]  # fmt: skip
    steel = Steel(grid, [], [*columns, *tops])
    made = elevations(steel)
    names = {f.name for f in made}
    assert {"Elevation 1", "Elevation A"} <= names and "Elevation 9" not in names
    assert not elevations(steel._replace(there=made))
    for frame in made:
        assert frame.problem() is None and np.cross(frame.x, frame.y)[2] == pytest.approx(0.0)
        assert np.dot(frame.x, frame.y) == pytest.approx(0.0) and (frame.x[0] > 0 or frame.x[1] > 0)


def test_a_level_view_says_heights_that_are_not_its_own_and_an_upright_one_slopes():
    job, shop = marked(boathouse(Units.IMPERIAL))
    beams = [m for m in job.all(Member) if m.role is Role.BEAM and abs(m.start[2] - m.end[2]) < 1]
    z = Counter(round(m.start[2]) for m in beams).most_common(1)[0][0]
    low = ViewFrame("Part plan", (6000, 6000, z - 2 * 25.4), (1, 0, 0), (0, 1, 0), 30_000, 30_000, 400, 400)
    with job.change("view") as change:
        change.put(low)
    (entry,) = views(job, shop)
    said = " ".join(t.text for t in draw_all(entry.job)[0].items if isinstance(t, Text))
    assert f"({format_elevation(z, Units.IMPERIAL)})" in said
    found = entry.job.sights[0].lines
    assert {line.name for line in found} >= {line.label for line in job.all(Grid)[0].letters}
    assert not [line for line in found if line.height is not None]
    job2, shop2 = marked(with_elevations(boathouse(Units.IMPERIAL)))
    rafters = [m for m in job2.all(Member) if m.role is Role.RAFTER]
    rise = {round(12 * abs(m.end[2] - m.start[2]) / np.hypot(*np.subtract(m.end, m.start)[:2]), 3) for m in rafters}
    words = {f"({format_length(12 * 25.4 * s / 12, Units.IMPERIAL)} IN 12, " for s in rise}
    heights = [format_elevation(p[2], Units.IMPERIAL) for m in rafters for p in (m.start, m.end)]
    said = " ".join(t.text for e in views(job2, shop2) for t in draw_all(e.job)[0].items if isinstance(t, Text))
    assert all(one in said for one in words)
    for start, end in zip(heights[::2], heights[1::2], strict=True):  # both work points, as one is at no level
        assert f"IN 12, {start} to {end})" in said or f"IN 12, {end} to {start})" in said


def test_a_view_that_went_out_is_stale_with_the_reason_and_its_copy_opens(seen):
    entries = seen[2]
    entry = max(entries, key=lambda e: len(e.pieces))
    old = entry.job
    assert opened(packed(old, draw_all(old)))[0].content == old.content
    (view,) = old.sights
    first, rest = view.pieces[0], view.pieces[1:]
    member, put = first.member, msgspec.structs.replace
    wider = put(view.frame, width=view.frame.width + 100.0)
    moved = put(member, start=(member.start[0] + 50.0, *member.start[1:]))
    shows = put(view.frame, shows=Showing(sizes="at each piece"))
    weld = SiteWeld((0.0, 0.0), "SITE WELD")
    for new, words in (
        (put(view, frame=wider), ["the view frame changed"]),
        (put(view, frame=shows), ["how steel is shown changed"]),
        (put(view, pieces=(put(first, member=moved), *rest)), [f"{first.mark} moved"]),
        (put(view, pieces=(put(first, member=put(member, roll=member.roll + 90.0)), *rest)), [f"{first.mark} turned"]),
        (put(view, pieces=rest), [f"{first.mark} gone"]),
        (put(view, pieces=(put(first, mark="X9"), *rest)), [f"{first.mark} (now X9) marked otherwise"]),
        (put(view, pieces=(put(first, words=("LOT 2",)), *rest)), [f"{first.mark} told otherwise"]),
        (put(view, lines=view.lines[1:]), ["grid lines or levels changed"]),
        (put(view, welds=(weld,)), ["site welds changed"]),
        (put(view, signs=()), ["signs of other views changed"] if view.signs else []),
        (view, []),
    ):
        assert reasons(old, put(old, sights=(new,))) == words


def test_what_only_touches_a_box_or_lies_behind_it_is_not_seen():
    frame = ViewFrame("v", (0, 0, 0), (1, 0, 0), (0, 0, 1), 2000, 2000, 300, 300)

    def there(start, end):
        return bool(list(shown(frame, [Member(role=Role.BEAM, section="W8X18", start=start, end=end)], {})))

    assert (
        there((-5000, 0, 0), (5000, 0, 0)) and there((0, -200, 0), (0, 5000, 0)) and there((0, 100, -50), (0, 100, 50))
    )
    assert not there((1000, 0, 0), (3000, 0, 0)) and not there((-500, 400, 0), (500, 400, 0))
    assert not there((-500, 0, 1500), (500, 0, 1500))
    box = np.array([1.0, -1.0]), np.array([2.0, 1.0])
    assert clipped(np.array([0.0, 0.0]), np.array([4.0, 0.0]), *box) == (0.25, 0.5)
    grid = Grid(numbers=(GridLine("1", 0.0), GridLine("2", 1500.0)), letters=(GridLine("A", 0.0),))
    found = lines(frame, grid, [Level("Low", -500.0), Level("High", 5000.0)])
    assert [(line.name, line.a, line.b) for line in found] == [
        ("1", (0.0, -1000.0), (0.0, 1000.0)), ("Low", (-1000.0, -500.0), (1000.0, -500.0)),
    ]  # fmt: skip


def test_what_is_moved_left_out_or_written_by_hand_on_a_view_stays_and_what_is_gone_is_told(seen):
    entry = max(seen[2], key=lambda e: len(e.pieces))
    (before,) = draw_all(entry.job)
    id = entry.job.sights[0].frame.id
    keys = [s.key for s in before.spots if s.key.startswith(f"{id}|mark ")]
    edits = (Moved(keys[0], 9.0, 4.0), Hidden(keys[1]), Written(f"{id}|note a", id, 0.0, 0.0, "CHECK ON SITE"),
        Moved(f"{id}|mark of none", 1.0, 1.0))  # fmt: skip
    hand = Drawing(id="d", piece="", kind="erection", edits=edits)
    (after,) = draw_all(msgspec.structs.replace(entry.job, hand=hand))
    was, now = ({s.key: s for s in sheet.spots} for sheet in (before, after))
    home = np.subtract(after.frames[0].box[:2], before.frames[0].box[:2])  # a view is laid out by all that is in it
    assert np.subtract(now[keys[0]].box[:2], was[keys[0]].box[:2]) - home == pytest.approx((9.0, 4.0))
    assert keys[1] not in now and now[f"{id}|note a"].texts[0][0] == "CHECK ON SITE"
    assert all(np.subtract(now[key].box, was[key].box) == pytest.approx((*home, *home)) for key in keys[2:])
    assert len(after.lost) == 1


@pytest.mark.parametrize("units", Units)
def test_a_view_from_anywhere_is_drawn_with_no_word_on_another(units):
    """Askew, tiny, far off, through everything: what is in it is drawn, and where there is nothing no sheet is."""
    job, shop = marked(boathouse(units))
    rng = np.random.default_rng(7)
    with job.change("views") as change:
        for n in range(how_many(14, 120)):
            turn = Rotation.random(random_state=n).as_matrix() if n % 2 else np.eye(3)[:, [0, 2, 1]] * (1, 1, -1)
            at = rng.uniform((-3000, -3000, 0), (22_000, 15_000, 7000))
            size = rng.choice([300.0, 3000.0, 15_000.0]), rng.choice([200.0, 4000.0, 12_000.0])
            deep = rng.choice([1.0, 300.0, 6000.0], 2)
            change.put(ViewFrame(f"V{n}", tuple(at.tolist()), tuple(turn[:, 0].tolist()), tuple(turn[:, 1].tolist()),
                *map(float, size), *deep.tolist()))  # fmt: skip
    found = views(job, shop)
    assert found
    for entry in found:
        (sheet,) = draw_all(entry.job)
        assert legibility(sheet).on_text == 0 and sheet.lost == ()
        head = f"{entry.job.sights[0].frame.id}|mark "
        assert sum(s.key.startswith(head) for s in sheet.spots) == len(entry.job.members) > 0
