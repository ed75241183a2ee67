"""Frames of any size, regular and not: columns, girders, joists, base plates and shear tabs, for measuring."""

import random
from functools import partial

from uncus.connect.by_rule import USUAL
from uncus.frame.grids import make_grid
from uncus.job.job import Job
from uncus.job.records import (
    AnyRecord,
    Grid,
    Level,
    Line,
    Member,
    Point,
    Project,
    Role,
    ShopRules,
    derived_id,
)
from uncus.job.start import SERIES
from uncus.lens.office import connect
from uncus.units import FOOT


def connected(records: list[AnyRecord], without: tuple[str, ...] = ()) -> list[AnyRecord]:
    """The records with all ends connected that the office's usual rules can connect, but for those `without` which it
    does."""
    job = Job([*records, *(rule for rule in USUAL if rule.kind not in without)])
    made = connect(job, [m.id for m in job.all(Member)]).made
    return [*records, *made]


def placed(
    job: str, role: Role, section: str, a: Point, b: Point, line: Line = Line.TOP, roll: float = 0.0, lot: str = "1"
) -> Member:
    """A member of a generated job: its id is made of where it is, so that the same job is made alike every time."""
    id = derived_id(job, role, repr(a), repr(b))
    return Member(id=id, role=role, section=section, start=a, end=b, line=line, roll=roll, lot=lot)


def frame(bays: int, storeys: int) -> list[AnyRecord]:
    """Records of a frame of `bays` by 3 bays: W10 columns over all storeys, W16 girders, W12 joists at thirds.

    About 16 members a bay and storey; the sizes vary from bay to bay so that marks have work to do.
    """
    across = [(24 + i % 3) * FOOT for i in range(bays)]
    up = [20 * FOOT, 24 * FOOT, 20 * FOOT]
    grid = make_grid(across, up)
    heights = [(13 + (0 if s else 1)) * FOOT for s in range(storeys)]
    records: list[AnyRecord] = [Project(name=f"Frame {bays} x {storeys}", number="M-1"), ShopRules(), *SERIES]
    records.append(Grid(id="grid", numbers=grid.numbers, letters=grid.letters))
    levels = [sum(heights[: n + 1]) for n in range(storeys)]
    records.append(Level(id="level 0", name="Ground", elevation=0.0))
    records += [Level(id=f"level {n + 1}", name=f"Level {n + 1}", elevation=z) for n, z in enumerate(levels)]

    member = partial(placed, "frame")
    xs, ys = [g.at for g in grid.numbers], [g.at for g in grid.letters]
    joist, girder = ("W12X19", "W12X26", "W14X22"), ("W16X31", "W18X35")
    for x in xs:
        for y in ys:
            records.append(member(Role.COLUMN, "W10X49", (x, y, 0.0), (x, y, levels[-1]), Line.CENTRE))
    for n, z in enumerate(levels):
        for i, (x0, x1) in enumerate(zip(xs, xs[1:], strict=False)):
            for y in ys:
                records.append(member(Role.BEAM, joist[(i + n) % 3], (x0, y, z), (x1, y, z)))
            for y0, y1 in zip(ys, ys[1:], strict=False):
                for part in (1 / 3, 2 / 3):
                    y = y0 + (y1 - y0) * part
                    records.append(member(Role.BEAM, joist[(i + n) % 3], (x0, y, z), (x1, y, z)))
        for x in xs:
            for j, (y0, y1) in enumerate(zip(ys, ys[1:], strict=False)):
                records.append(member(Role.BEAM, girder[j % 2], (x, y0, z), (x, y1, z)))
    return connected(records)


def frame_of(members: int) -> list[AnyRecord]:
    """A frame of about so many members, four storeys high."""
    per_bay = 4 + 4 * (4 + 6 + 3)
    return frame(max(1, round(members / per_bay)), 4)


def irregular(bays: int, storeys: int, seed: int = 1) -> list[AnyRecord]:
    """A frame like `frame` of which no two bays are alike: every column stands off its crossing by up to 2', every
    storey is of its own height, every joist runs askew from girder to girder."""
    lot = random.Random(seed)
    xs = [i * 26 * FOOT for i in range(bays + 1)]
    ys = [j * 21 * FOOT for j in range(4)]
    at = {(i, j): (x + lot.uniform(-2, 2) * FOOT, y + lot.uniform(-2, 2) * FOOT)
        for i, x in enumerate(xs) for j, y in enumerate(ys)}  # fmt: skip
    heights = [(12.5 + lot.random()) * FOOT for _ in range(storeys)]
    levels = [sum(heights[: n + 1]) for n in range(storeys)]
    grid = make_grid([26 * FOOT] * bays, [21 * FOOT] * 3)
    records: list[AnyRecord] = [Project(name=f"Irregular {bays} x {storeys}", number="M-2"), ShopRules(), *SERIES]
    records.append(Grid(id="grid", numbers=grid.numbers, letters=grid.letters))
    records += [Level(id=f"level {n}", name=f"Level {n}", elevation=z) for n, z in enumerate([0.0, *levels])]
    member = partial(placed, "irregular")
    joists, girders = ("W12X19", "W12X26", "W14X22"), ("W16X31", "W18X35", "W21X44")
    for x, y in at.values():
        records.append(member(Role.COLUMN, lot.choice(("W10X49", "W12X53", "W10X60")), (x, y, 0.0), (x, y, levels[-1]),
            Line.CENTRE))  # fmt: skip
    for z in levels:
        for i in range(bays + 1):
            for j in range(3):
                records.append(member(Role.BEAM, lot.choice(girders), (*at[i, j], z), (*at[i, j + 1], z)))
        for i in range(bays):
            for j in range(4):
                records.append(member(Role.BEAM, lot.choice(joists), (*at[i, j], z), (*at[i + 1, j], z)))
            for j in range(3):
                for part in (1 / 3, 2 / 3):
                    a, b = (_between(at[k, j], at[k, j + 1], part + lot.uniform(-0.08, 0.08)) for k in (i, i + 1))
                    records.append(member(Role.BEAM, lot.choice(joists), (*a, z), (*b, z)))
    return connected(records)


def _between(a: tuple[float, float], b: tuple[float, float], share: float) -> tuple[float, float]:
    return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share


def irregular_of(members: int) -> list[AnyRecord]:
    """An irregular frame of about so many members, four storeys high."""
    return irregular(max(1, round(members / (4 + 4 * 13))), 4)
