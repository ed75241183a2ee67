"""Copying, moving, turning, mirroring and arraying the selected members."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.connect.mirror import mirrored
from uncus.connect.settings import Joined
from uncus.frame.axes import UP
from uncus.frame.carrying import copied, moved
from uncus.frame.cuts import refuse_doubles
from uncus.frame.grids import Run, crossings, runs
from uncus.frame.moves import (
    MOST,
    Motion,
    Turned,
    array,
    mirror_in,
    move_by,
    move_work_point,
    transformed,
    turn_about,
)
from uncus.frame.placement import Vec
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Attachment, Connection, Member
from uncus.units import UnitError, counted, format_angle, format_length, parse_angle

_SHOWN = 300  # members of a preview that are drawn
WITH = Annotated[
    str,
    About(
        "Connections",
        unit="choice",
        choices=("with", "without"),
        help="With: joints among what is picked go along, and what is attached to them; so do joints to what holds "
        "them, where something like it stands. What you choose is your default next time.",
    ),
]
KEEP = Annotated[str, About("The picked ones", unit="choice", choices=("stay", "go"), help="Stay: a copy is made.")]


class CopyOptions(msgspec.Struct, frozen=True):
    connections: WITH = "with"


class TurnOptions(msgspec.Struct, frozen=True):
    originals: KEEP = "go"
    connections: WITH = "with"


class MirrorOptions(msgspec.Struct, frozen=True):
    originals: KEEP = "stay"
    connections: WITH = "with"


class ArrayOptions(msgspec.Struct, frozen=True):
    count: Annotated[int, About("Copies", unit="count", low=1, high=10**9, help="Besides the ones that are there.")] = 3
    lines: Annotated[
        str,
        About(
            "To grid lines",
            unit="text",
            help="Instead of a count: 2-5 or 2, 4; pick a point on the line they stand on.",
        ),
    ] = ""
    connections: WITH = "with"


class ChangeTool(PointTool):
    """Works on the members that were selected when it was taken up."""

    options_type: type = CopyOptions

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(self.options_type)

    def _joints(self) -> list[Joined]:
        return self._all_joined() if self.options.connections == "with" else []

    def _all_joined(self) -> list[Joined]:
        return [*self.site.job.all(Connection), *self.site.job.all(Attachment)]

    def _mirrored(self, record: Joined, turned: Turned) -> dict[str, Any]:
        return mirrored(record, turned, self.site.job.rules)

    def _need_some(self) -> None:
        if not self.chosen:
            raise JobError(f"{self.words} works on members: press Esc, pick some, then take it up again.")

    def _copied(self, motions: Sequence[Motion]) -> Commit:
        self._need_some()
        there = {m.id: m for m in self.site.job.all(Member)}
        made, left_out = copied(self.chosen, motions, self._joints(), self._mirrored, there)
        members = [r for r in made if isinstance(r, Member)]
        refuse_doubles(members, self.site.job.all(Member))
        joints = sum(isinstance(r, Connection) for r in made)
        fixed = len(made) - len(members) - joints
        along = [counted(n, thing) for n, thing in ((joints, "connection"), (fixed, "attachment")) if n]
        words = f"{counted(len(members), 'member')} copied" + (f" with {' and '.join(along)}" if along else "")
        if left_out:
            words += f"; {counted(len(left_out), 'joint')} left out, as nothing stands there like what holds the first"
        return Commit(f"{self.words} {len(self.chosen)}", tuple(made), words=words)

    def _moved(self, motion: Motion) -> Commit:
        self._need_some()
        joints = self._all_joined()
        there = {m.id: m for m in self.site.job.all(Member)}
        put, left = moved(self.chosen, motion, joints, self._mirrored, there)
        mine = {m.id for m in self.chosen}
        refuse_doubles(
            [r for r in put if isinstance(r, Member)], [m for m in self.site.job.all(Member) if m.id not in mine]
        )
        drop: list[str] = []
        if self.options.connections == "without":
            drop = [r.id for r in joints if mine.intersection(r.members)]
            put = [r for r in put if isinstance(r, Member)]
        words = f"{counted(len(self.chosen), 'member')} moved" + (
            f", {counted(len(drop), 'joint')} taken off" if drop else ""
        )
        return Commit(f"{self.words} {len(self.chosen)}", tuple(put), (*drop, *left), words)

    def _shown(self, motions: Sequence[Motion], words: str) -> Preview:
        members: list[Member] = []
        for motion in motions:
            members += [transformed(m, motion) for m in self.chosen[: max(0, _SHOWN - len(members))]]
            if len(members) >= _SHOWN:
                break
        path = self._path()
        return Preview(tuple(members), (path,), words, path[-1])


def _vector(points: Sequence[Sequence[float]]) -> Vec:
    return np.subtract(points[1], points[0])


class CopyTool(ChangeTool):
    """From a point to as many others as are picked."""

    words = "Copy"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        verb = self.words.lower()
        if not self.chosen:
            return f"nothing is selected: Esc, pick what to {verb}, then take it up again"
        if self.picks:
            return f"pick where to {verb} it, or type how far"
        return f"{counted(len(self.chosen), 'member')}: pick a point on them"

    def taken(self) -> Result:
        self._need_some()
        if len(self.picks) < 2:
            return None
        done = self._copied([move_by(_vector(self.points))])
        self.picks.pop()  # the next pick makes another copy from the same point
        return done

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        return self._shown([move_by(_vector(path))], format_length(float(np.linalg.norm(_vector(path))), self.units))


class MoveTool(CopyTool):
    words = "Move"

    def taken(self) -> Result:
        self._need_some()
        if len(self.picks) < 2:
            return None
        done = self._moved(move_by(_vector(self.points)))
        self.picks.clear()
        return done


class RotateTool(ChangeTool):
    """About a point, by a typed angle or from one picked direction to another; square to the work plane."""

    words = "Rotate"
    options_type = TurnOptions

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return (
            f"{counted(len(self.chosen), 'member')}: pick the point to turn about",
            "type the angle, or pick a direction to turn from",
            "pick the direction to turn to, or type the angle",
        )[len(self.picks)]

    def _motion(self, degrees: float) -> Motion:
        return turn_about(self.points[0], self.site.plane.base.z, degrees)

    def _done(self, degrees: float) -> Commit:
        if abs(degrees) < 1e-6:
            raise JobError("An angle of nothing turns nothing; type another.")
        motion = self._motion(degrees)
        done = self._copied([motion]) if self.options.originals == "stay" else self._moved(motion)
        self.picks.clear()
        return done

    def taken(self) -> Result:
        self._need_some()
        return self._done(self._angle(self.points)) if len(self.picks) == 3 else None

    def _angle(self, points: Sequence[Sequence[float]]) -> float:
        base = self.site.plane.base
        a, b = (np.subtract(p, points[0]) for p in points[1:])
        turns = [np.arctan2(float(v @ base.y), float(v @ base.x)) for v in (a, b)]
        return float(np.degrees(turns[1] - turns[0]))

    def typed(self, text: str) -> Result:
        if self.picks:
            try:
                return self._done(parse_angle(text))
            except UnitError:
                if "," not in text and "/" not in text:
                    raise
        return super().typed(text)

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 3:
            return Preview(lines=(path,) if len(path) > 1 else ())
        degrees = self._angle(path)
        return self._shown([self._motion(degrees)], format_angle(degrees))


class MirrorTool(ChangeTool):
    """In the plane through two points, square to the work plane."""

    words = "Mirror"
    options_type = MirrorOptions

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return (
            "pick a second point of the mirror line"
            if self.picks
            else f"{counted(len(self.chosen), 'member')}: pick a point of the mirror line"
        )

    def _motion(self, points: Sequence[Sequence[float]]) -> Motion:
        normal = np.cross(_vector(points), self.site.plane.base.z)
        if np.linalg.norm(normal) < 1.0:
            raise JobError("The two points are the same, or stand over each other; pick another second point.")
        return mirror_in(points[0], normal)

    def taken(self) -> Result:
        self._need_some()
        if len(self.picks) < 2:
            return None
        motion = self._motion(self.points)
        done = self._copied([motion]) if self.options.originals == "stay" else self._moved(motion)
        self.picks.clear()
        return done

    def preview(self) -> Preview:
        path = self._path()
        try:
            return self._shown([self._motion(path)], "mirrored") if len(path) == 2 else Preview()
        except JobError:
            return Preview()


class ArrayTool(ChangeTool):
    """Copies at even steps, or onto other grid lines."""

    words = "Array"
    options_type = ArrayOptions

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if self.options.lines:
            return f"{counted(len(self.chosen), 'member')}: pick a point on the grid line they stand on"
        if self.picks:
            return f"pick one step on, or type it; {self.options.count} copies"
        return f"{counted(len(self.chosen), 'member')}: pick a point on them"

    def taken(self) -> Result:
        self._need_some()
        if self.options.lines:
            motions = self._to_lines()
        elif len(self.picks) < 2:
            return None
        else:
            motions = array(self.options.count, _vector(self.points))
        done = self._copied(motions)
        if self.options.lines:
            done = msgspec.structs.replace(done, words=done.words + self._turned(self.options.lines))
        self.picks.clear()
        return done

    def _to_lines(self) -> list[Motion]:
        grid = self.site.grid
        if grid is None:
            raise JobError("The job has no grid yet; press G and type one.")
        x, y, _ = self.points[0]
        on = [r for r in runs(grid) if abs(r.away(x, y)) <= 5.0]
        wanted = labels_of(self.options.lines, [r.label for r in runs(grid)])
        family = {r.family for r in runs(grid) if r.label in wanted}
        start = next((r for r in on if r.family in family), None)
        if start is None or len(family) != 1:
            raise JobError(
                f"The point is on no grid line of the same family as {self.options.lines}; pick one that is."
            )
        other = next((r.label for r in on if r.family not in family), None)
        at = {name: (cx, cy) for name, cx, cy in crossings(grid)}
        motions = []
        for label in wanted:
            if label == start.label:
                continue
            target = next(r for r in runs(grid) if r.label == label)
            name = f"{label}/{other}" if f"{label}/{other}" in at else f"{other}/{label}"
            spot = at[name] if other is not None and name in at else target.nearest(x, y)
            motions.append(self._onto(start, target, spot))
        if not motions:
            raise JobError(f"There is no other grid line in “{self.options.lines}”.")
        return motions

    def _onto(self, start: Run, target: Run, spot: tuple[float, float]) -> Motion:
        """From the point on one grid line to a spot of another, turned where that runs another way."""
        here = np.asarray(self.points[0])
        turn = turn_about(here, UP, target.turned_from(start))
        return msgspec.structs.replace(turn, shift=turn.shift + (spot[0] - here[0], spot[1] - here[1], 0.0))

    def _turned(self, lines: str) -> str:
        """Which grid lines turn the copies, in words."""
        grid, (x, y, _) = self.site.grid, self.points[0]
        assert grid is not None
        known = {r.label: r for r in runs(grid)}
        wanted = labels_of(lines, list(known))
        start = next(r for r in known.values() if abs(r.away(x, y)) <= 5.0 and r.family is known[wanted[0]].family)
        turns = {label: known[label].turned_from(start) for label in wanted}
        told = [f"{label}, {format_angle(abs(turn))} off" for label, turn in turns.items() if abs(turn) > 0.01]
        return f"; turned with grid line {' and '.join(told)}" if told else ""

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2 or self.options.lines or self.options.count > MOST:
            return Preview()
        try:
            motions = array(self.options.count, _vector(path))
        except JobError:
            return Preview()
        step = format_length(float(np.linalg.norm(_vector(path))), self.units)
        return self._shown(motions, f"{self.options.count} at {step}")


def labels_of(text: str, known: Sequence[str]) -> list[str]:
    """Grid lines of a typed list such as `2-5, 7`, in order. Raises JobError naming one that is not there."""
    out: list[str] = []
    for item in filter(None, (piece.strip() for piece in text.split(","))):
        first, dash, last = item.partition("-")
        if item in known:
            out.append(item)
        elif dash and first.strip() in known and last.strip() in known:
            a, b = known.index(first.strip()), known.index(last.strip())
            out += known[min(a, b) : max(a, b) + 1]
        else:
            raise JobError(f"There is no grid line “{item}”; there are {', '.join(known)}.")
    return list(dict.fromkeys(out))


class WorkPointTool(PointTool):
    """A work point and where it goes; all that stands on it follows."""

    words = "Move work point"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick where it goes, or type how far" if self.picks else "pick the work point: an end that members share"

    def _moves(self, points: Sequence[Sequence[float]]) -> list[Member]:
        return move_work_point(self.site.job.all(Member), points[0], points[1])

    def taken(self) -> Result:
        if len(self.picks) < 2:
            a = np.asarray(self.points[0])
            if not any(
                min(np.linalg.norm(a - m.start), np.linalg.norm(a - m.end)) <= 1 for m in self.site.job.all(Member)
            ):
                raise JobError("No member has its end here; pick a work point (hold it with Alt+E).")
            return None
        changed = self._moves(self.points)
        self.picks.clear()
        if not changed:
            raise JobError("The point is where it was; nothing moved.")
        return Commit(
            "Move work point", tuple(changed), words=f"{counted(len(changed), 'member')} moved with the work point"
        )

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        try:
            changed = self._moves(path)
        except JobError as error:
            return Preview(lines=(path,), words=str(error), at=path[-1])
        return Preview(tuple(changed[:_SHOWN]), (path,), f"{len(changed)} follow", path[-1])
