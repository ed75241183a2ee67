"""The views that an erector usually gets: a plan of each level, an elevation at each grid line that steel stands on, of
braced walls off them, and an isometric of the whole and of each lot; and how they follow levels and grid lines."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from uncus.frame.axes import UP, is_vertical
from uncus.frame.grids import Run, runs
from uncus.frame.placement import Vec, tidied, unit
from uncus.job.job import Change, Job
from uncus.job.records import Grid, Level, Member, Role, ViewFrame, derived_id
from uncus.job.views import LISTED, SOLID, STICKS, UNSAID, Showing
from uncus.units import Units, counted

DEEP = 400.0  # mm before and behind a grid line, within which steel is on it
_WHOLE = {Units.IMPERIAL: 152.4, Units.METRIC: 100.0}  # mm that sizes of views are multiples of
_MARGIN = 600.0  # mm round it
_LEAST = 2  # pieces on a line, of which one stands, that make an elevation of it
_SOLID_TO = 400  # pieces of an isometric that can still be told apart where they are drawn as solids
_SIZES = ("width", "height", "before", "behind")
_UNDER = 900.0  # mm under a level that its plan goes down, and the plan of the one below goes up
_LEAST_OVER = 300.0  # mm over a level that its plan goes up at least
_STILL, _STILL_TURNED = 0.1, 1e-6  # mm by which a view is where it was, and of its axes
_PLUMB = 0.02  # of a wall's normal
_ROOT = math.sqrt(0.5)
_SIDEWAYS = np.array([_ROOT, -_ROOT, 0.0])  # an isometric is looked at from the south-west, from above
_TOWARDS = np.array([-1.0, -1.0, 1.0]) / math.sqrt(3.0)


class Steel(NamedTuple):
    """What usual views are made of: the grid, levels, members, the views there are; sizes of views are whole multiples
    of `whole` (mm)."""

    grid: Grid | None
    levels: Sequence[Level]
    members: Sequence[Member]
    there: Sequence[ViewFrame] = ()
    whole: float = 1.0

    @classmethod
    def of(cls, job: Job | Change, units: Units) -> Steel:
        return cls(next(iter(job.all(Grid)), None), job.all(Level), job.all(Member), job.all(ViewFrame), _WHOLE[units])

    @property
    def heights(self) -> list[float]:
        return [level.elevation for level in self.levels]

    @property
    def lines(self) -> Sequence[Run]:
        return runs(self.grid) if self.grid is not None and self.grid.numbers and self.grid.letters else ()


def plan_id(level: Level) -> str:
    """The id of a level's plan, where it is a view."""
    return derived_id("usual view", "plan", level.id)


def plans(of: Steel) -> list[ViewFrame]:
    """View frames of the levels that there are none of yet, each over all steel in plan, from a little under it to as
    far under the next."""
    return _new(_plans(of), of)


def elevations(of: Steel) -> list[ViewFrame]:
    """View frames at the grid lines that have steel and none yet: lines across the page looked at towards north, those
    up the page towards west, as near as they run. One that was renamed or left out is there."""
    return _new(_elevations(of), of)


def usual(of: Steel) -> list[ViewFrame]:
    """All usual views that there are none of yet: elevations, braced walls, isometrics."""
    return _new([*_elevations(of), *_walls(of), *_isometrics(of.members)], of)


def fitted(frame: ViewFrame, of: Steel) -> ViewFrame | None:
    """A usual view with its box as it would be made today; None where it would not be made, or is no usual one."""
    return _fitted(frame, _today(of).get(frame.id))


def _today(of: Steel) -> dict[str, ViewFrame]:
    """All usual views as they would be made today, by their ids."""
    bare = of._replace(there=())
    return {one.id: one for one in (*usual(bare), *plans(bare))}


def _fitted(frame: ViewFrame, now: ViewFrame | None) -> ViewFrame | None:
    if now is None:
        return None
    return replace(frame, origin=now.origin, x=now.x, y=now.y, width=now.width, height=now.height, before=now.before,
        behind=now.behind)  # fmt: skip


def followed(change: Change) -> str:
    """Usual views put where the level or grid line went that they are of, in the same step; in words, or nothing."""
    edited = {one.id for e in change.edits() for one in (e.before, e.after) if one is not None}
    if not any(isinstance(one, (Level, Grid)) for e in change.edits() for one in (e.before, e.after)):
        return ""
    steel, moved = Steel.of(change, Units.IMPERIAL), 0
    today = _today(steel) if steel.there else {}
    for frame in steel.there:
        now = _fitted(frame, today.get(frame.id)) if frame.id not in edited else None
        put = _kept_up(frame, now) if now is not None else None
        if put is not None:
            change.put(put)
            moved += 1
    return f"{counted(moved, 'view')} moved with what they are of" if moved else ""


def _kept_up(frame: ViewFrame, now: ViewFrame) -> ViewFrame | None:
    """A level or upright view that was put somewhere: turned and where it would be made now where its line turned, else
    along the way it is looked alone; None where it stays."""
    normal = np.cross(now.x, now.y)
    if _STILL_TURNED < abs(float(normal[2])) < 1.0 - _STILL_TURNED:
        return None  # an isometric is of all there is
    if max(abs(a - b) for a, b in zip((*now.x, *now.y), (*frame.x, *frame.y), strict=True)) > _STILL_TURNED:
        return now
    off = float(np.subtract(now.origin, frame.origin) @ normal)
    return replace(frame, origin=tidied(np.asarray(frame.origin) + off * normal)) if abs(off) > _STILL else None


def _new(made: Iterable[ViewFrame], of: Steel) -> list[ViewFrame]:
    taken = {key for frame in of.there for key in (frame.id, frame.name)}
    found = (one for one in made if one.id not in taken and one.name not in taken)
    return [replace(one, **{name: math.ceil(getattr(one, name) / of.whole - 1e-6) * of.whole for name in _SIZES})
        for one in found]  # fmt: skip


def _plans(of: Steel) -> Iterator[ViewFrame]:
    if not of.members:
        return
    ends = np.array([p for m in of.members for p in (m.start, m.end)])
    (x0, y0), (x1, y1) = (ends[:, :2].min(axis=0) - _MARGIN).tolist(), (ends[:, :2].max(axis=0) + _MARGIN).tolist()
    heights = [*sorted(of.heights), float(ends[:, 2].max()) + _MARGIN + _UNDER]
    for level in sorted(of.levels, key=lambda one: one.elevation):
        z = level.elevation
        over = max(_LEAST_OVER, min(h for h in heights if h > z + 1.0 or h == heights[-1]) - z - _UNDER)
        if any(-_UNDER <= p - z <= over for p in ends[:, 2].tolist()):
            middle = tidied(np.array([(x0 + x1) / 2, (y0 + y1) / 2, z]))
            yield ViewFrame(id=plan_id(level), name=f"Plan {level.name}", origin=middle, x=(1.0, 0.0, 0.0),
                y=(0.0, 1.0, 0.0), width=x1 - x0, height=y1 - y0, before=over, behind=_UNDER)  # fmt: skip


def _elevations(of: Steel) -> Iterator[ViewFrame]:
    for run in of.lines:
        own = [m for m in of.members if _is_on(run, m)]
        if len(own) >= _LEAST and any(_stands(m) for m in own):
            along = np.array([*run.along, 0.0])
            yield _upright(f"Elevation {run.label}", along, np.array([*run.at(0.0), 0.0]), own, of.heights)


def _stands(m: Member) -> bool:
    return is_vertical(unit(np.subtract(m.end, m.start)))


def _is_on(run: Run, m: Member) -> bool:
    return m.start != m.end and all(abs(run.away(p[0], p[1])) < DEEP for p in (m.start, m.end))


def _upright(
    name: str, along: Vec, at: Vec, own: Sequence[Member], heights: Sequence[float], id: str = ""
) -> ViewFrame:
    """A view square to a level way, round what is on it."""
    # seen from the south or the east: what runs west is read the other way
    x = -along if along[0] < -1e-6 or (abs(along[0]) <= 1e-6 and along[1] < 0) else along
    ends = np.array([p for m in own for p in (m.start, m.end)])
    t, z = (ends - at) @ x, [*ends[:, 2].tolist(), *heights]
    t0, t1, z0, z1 = float(t.min()), float(t.max()), min(z), max(z)
    middle = at + x * (t0 + t1) / 2 + UP * ((z0 + z1) / 2 - at[2])
    return ViewFrame(id=id or derived_id("usual view", name), name=name, origin=tidied(middle), x=tidied(x),
        y=tidied(UP), width=t1 - t0 + 2 * _MARGIN, height=z1 - z0 + 2 * _MARGIN, before=DEEP, behind=DEEP)  # fmt: skip


# -- braced walls ---------------------------------------------------------------------------------------
def _walls(of: Steel) -> Iterator[ViewFrame]:
    """Upright planes with braces aslant in them that no elevation at a grid line shows, named by what lies in them
    first."""
    lines = of.lines
    walls: dict[tuple[float, float], list[Member]] = defaultdict(list)
    for m in of.members:
        way = np.subtract(m.end, m.start)
        flat = float(np.hypot(*way[:2]))
        if m.role is not Role.BRACE or flat < 1.0 or abs(way[2]) < _PLUMB * flat or any(_is_on(r, m) for r in lines):
            continue
        angle = math.atan2(way[1], way[0]) % math.pi
        normal = np.array([-math.sin(angle), math.cos(angle)])
        walls[round(math.degrees(angle), 1) % 180.0, round(float(normal @ m.start[:2]) / DEEP)].append(m)
    for number, key in enumerate(sorted(walls), 1):
        first = walls[key][0]
        along = unit(np.array([*np.subtract(first.end, first.start)[:2], 0.0]))
        normal = np.array([-along[1], along[0], 0.0])
        own = [m for m in of.members if all(abs(float(normal @ np.subtract(p, first.start))) < DEEP
            for p in (m.start, m.end))]  # fmt: skip
        yield _upright(f"Braced wall {number}", along, np.array(first.start), own, of.heights,
            derived_id("usual view", "wall", *map(str, key)))  # fmt: skip


# -- isometrics -----------------------------------------------------------------------------------------
def _isometrics(members: Sequence[Member]) -> Iterator[ViewFrame]:
    if len(members) < _LEAST:
        return
    yield _isometric("Isometric", members, "")
    lots = defaultdict[str, list[Member]](list)
    for m in members:
        lots[m.lot].append(m)
    for lot in sorted(lots) if len(lots) > 1 else ():
        if lot:
            said = lot.replace('"', "")
            yield _isometric(f"Isometric, lot {lot}", lots[lot], f'lot is "{said}"')


def _isometric(name: str, own: Sequence[Member], only: str) -> ViewFrame:
    x, z = _SIDEWAYS, _TOWARDS
    axes = np.column_stack([x, np.cross(z, x), z])
    local = np.array([p for m in own for p in (m.start, m.end)]) @ axes
    low, high = local.min(axis=0) - _MARGIN, local.max(axis=0) + _MARGIN
    middle, (width, height, deep) = axes @ ((low + high) / 2), (high - low).tolist()
    shows = Showing(steel=SOLID if len(own) <= _SOLID_TO else STICKS, sizes=LISTED, heights=UNSAID, says="",
        welds=False, odd=False, signs=False, only=only)  # fmt: skip
    return ViewFrame(id=derived_id("usual view", name), name=name, origin=tidied(middle), x=tidied(x),
        y=tidied(axes[:, 1]), width=width, height=height, before=deep / 2, behind=deep / 2, shows=shows)  # fmt: skip
