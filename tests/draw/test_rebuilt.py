"""Parts set out again from their printed sheets alone: the picture says which, the figures say how much."""

import re

import numpy as np
import pytest
from tests.conftest import marked

from uncus.draw.register import draw, register
from uncus.draw.sheet import Circle, Layer, Sheet
from uncus.job.job import Job
from uncus.job.records import Attachment, Member, Project, Role
from uncus.job.records import Line as Lies
from uncus.job.start import SERIES, usual_rules
from uncus.lens.office import connect
from uncus.steel.features import Face
from uncus.units import SIXTEENTH, Units, parse_length

_GATHERED = re.compile(r"^(\d+) @ (.+) = (.+)$")
SAME = 0.06  # mm of paper within which a line leads to a hole
TRUE = SIXTEENTH / 2 + 0.02


def figures(sheet: Sheet, spot, units) -> list[float]:
    out = []
    for words, _ in spot.texts:
        if match := _GATHERED.match(words):
            step = parse_length(match[2], units)
            assert abs(int(match[1]) * step - parse_length(match[3], units)) < 0.01, "a gathered run adds up as printed"
            out += [step] * int(match[1])
        else:
            out.append(parse_length(words.removeprefix("WP-WP "), units))
    return out


def spots(sheet: Sheet, start: str):
    return [s for s in sheet.spots if s.key.startswith(start)]


def along(sheet: Sheet, view: str, units) -> dict[float, float]:
    """Paper x of each running stop of a view, and what is printed for it."""
    found = {}
    for spot in spots(sheet, f"{view}|along"):
        values = figures(sheet, spot, units)
        found.update(zip((x for _, x, _ in spot.stops[1:]), values, strict=True))
    return found


def down(sheet: Sheet, view: str, units) -> list[list[tuple[str, float, float]]]:
    """For each chain across a view: its stops' keys, paper y, and how far below its first each is."""
    found = []
    for spot in spots(sheet, f"{view}|gage"):
        sums = np.concatenate([[0.0], np.cumsum(figures(sheet, spot, units))]).tolist()
        found.append([(key, y, s) for (key, _, y), s in zip(spot.stops, sums, strict=True)])
    return found


def holes_of(sheet: Sheet, view: str) -> list[Circle]:
    frame = next(f for f in sheet.frames if f.name == view)
    x0, y0, x1, y1 = frame.box
    return [
        i
        for i in sheet.items
        if isinstance(i, Circle)
        and i.layer in (Layer.OUTLINE, Layer.HIDDEN)
        and x0 - 1 < i.x < x1 + 1
        and y0 - 1 < i.y < y1 + 1
    ]


def near(table: dict[float, float], at: float) -> float | None:
    key = min(table, key=lambda k: abs(k - at), default=None)
    return table[key] if key is not None and abs(key - at) < SAME else None


def depth(chain: list[tuple[str, float, float]], y: float, part, view: str) -> float | None:
    """Where a row lies across the part as a chain says it: z or y."""
    at = next((s for _, at, s in chain if abs(at - y) < SAME), None)
    if at is None:
        return None
    (low, high), (near_side, _) = part.depth_range, part.y_range
    for key, _, s in chain:
        if key in ("top", "bottom") and view == "front":
            return (high if key == "top" else low) + s - at
        if key in ("middle", "heel"):
            v = s - at + (near_side * (1 if view == "top" else -1) if key == "heel" else 0.0)
            return v if view == "top" else -v
    middle = chain[-1][2] / 2  # rows the same on both sides of the web
    return middle - at if view == "top" else at - middle


def rebuilt(entry, sheet: Sheet) -> list[tuple[str, float, float, float]]:
    """Holes (view, x, z or y, d) as the sheet's figures give them."""
    units, part = entry.job.units, entry.job.subject.main
    views = [f.name for f in sheet.frames if f.name in ("front", "top", "bottom")]
    columns = {view: along(sheet, view, units) for view in views}
    found = []
    for view in views:
        chains = down(sheet, view, units) or (down(sheet, "top", units) if view == "bottom" else [])
        for c in holes_of(sheet, view):
            x = next((x for v in (view, *views) if (x := near(columns[v], c.x)) is not None), None)
            across = [w for chain in chains if (w := depth(chain, c.y, part, view)) is not None]
            assert x is not None, (entry.name, view, "a hole that no running dimension leads to")
            assert across, (entry.name, view, "a hole that no gage leads to")
            found.append((view, x, across[0], c.r * 2 * sheet.scale))
    return found


def check(entry, sheet: Sheet) -> int:
    """Every round hole of the part is among those rebuilt, to half a sixteenth (or mm) a figure."""
    part = entry.job.subject.main
    faces = {Face.WEB: "front", Face.BACK: "front", Face.TOP: "top", Face.BOTTOM: "bottom"}
    true = TRUE if entry.job.units is Units.IMPERIAL else 0.52
    got = rebuilt(entry, sheet)
    wanted = [h for h in part.holes if not h.slot]
    for h in wanted:
        views = (faces[h.face],) if h.face.upright else (faces[h.face], "top")
        hits = [g for g in got if g[0] in views and abs(g[1] - h.x) <= true and abs(g[2] - h.w) <= 2 * true and abs(g[3] - h.d) < 0.1]  # fmt: skip
        assert hits, (entry.name, h, got)
    return len(wanted)


def hard() -> list:
    """Skewed, sloping, rolled and deep pieces of every form, with attachments, in metric."""
    columns = [Member(id=f"c{i}", role=Role.COLUMN, section="HEB240", start=(x, y, 0), end=(x, y, 8000)) for i, (x, y) in enumerate(((0, 0), (7200, 0), (0, 6000), (7200, 6000)))]  # fmt: skip
    girders = [
        Member(id=f"g{i}", role=Role.BEAM, section="IPE400", start=(x, 0, 4000), end=(x, 6000, 4000), line=Lies.TOP)
        for i, x in enumerate((0.0, 7200.0))
    ]
    skewed = [
        Member(id=f"s{i}", role=Role.BEAM, section=name, start=(0, y0, 4000), end=(7200, y1, 4000), line=Lies.TOP)
        for i, (name, y0, y1) in enumerate((("IPE300", 1000, 2500), ("IPE270", 4500, 3000), ("UPN200", 5200, 5200)))
    ]
    sloped = [
        Member(id="r", role=Role.RAFTER, section="IPE330", start=(0, 0, 6000), end=(0, 6000, 7400), line=Lies.TOP)
    ]
    fixed = [
        Attachment(id="n", member="g0", kind="nailer holes", params={}),
        Attachment(id="t", member="g1", kind="stiffeners", params={"by": "count", "count": 3}),
        Attachment(id="u", member="s0", kind="safety holes", params={"by": "count"}),
    ]
    members = [*columns, *girders, *skewed, *sloped]
    records = [
        Project(name="Hard", number="9", units=Units.METRIC),
        usual_rules(Units.METRIC),
        *SERIES,
        *members,
        *fixed,
    ]
    return [*records, *connect(Job(records), [m.id for m in members]).made]


@pytest.fixture(scope="module")
def hard_job():
    return marked(hard())


@pytest.mark.parametrize("which", ["sample", "hard_job", "grid_frame"])
def test_every_hole_of_every_piece_can_be_set_out_from_its_sheet(which, request):
    count = sheets = 0
    for entry in register(*request.getfixturevalue(which)):
        if entry.kind == "part":
            count += check(entry, draw(entry.job))
            sheets += 1
    assert sheets > 14 and count > 60
