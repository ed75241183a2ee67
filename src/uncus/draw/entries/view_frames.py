"""Sheets of the erector's views: one of each view frame that has steel in it, or of those that stand together."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from uncus.draw.entries import plans
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.kept import entry
from uncus.draw.sighting import Building, sight
from uncus.draw.sights import is_level, is_upright, placed
from uncus.draw.view_job import Sight, Sign, ViewJob
from uncus.job.records import ViewFrame
from uncus.mark.marking import natural

_LARGER = 0.6  # of a view's size, under which another in its plane is a detail of it
_SQUARE = 0.02  # of a view's plane to another's, from which one does not cut the other


class _Place(NamedTuple):
    """Where a view is found: its sheet and its number there."""

    sheet: str
    number: str


def entries(of: Needs) -> Iterator[Entry]:
    """Sheets by name, after the plans and numbered on from them, each kept by its frames."""
    frames = sorted((one for one in of.job.all(ViewFrame) if one.drawn), key=lambda one: (natural(one.name), one.id))
    if not frames:
        return
    building = Building.of(of.job, of.shop, of.marks, of.everything)
    seen = [one for one in (sight(frame, building) for frame in frames) if one.own]
    sheets: dict[str, list[Sight]] = {}
    for one in seen:
        sheets.setdefault(one.frame.sheet.strip() or f"\0{one.frame.id}", []).append(one)
    ordered = sorted(sheets.values(), key=lambda own: (*_rank(own[0].frame), natural(_title(own))))
    first = plans.count(of) + 1
    names = [f"E{first + n}" for n in range(len(ordered))]
    places = {one.frame.id: _Place(names[n], str(k) if len(own) > 1 else "")
        for n, own in enumerate(ordered) for k, one in enumerate(own, 1)}  # fmt: skip
    all_frames = [one.frame for one in seen]
    for n, own in enumerate(ordered):
        ids = tuple(one.frame.id for one in own)
        if of.wanted.isdisjoint(p.member.id for one in own for p in one.own):
            continue
        standing = of.kept.standing(plans.KIND, ids, names[n])
        signed = tuple(replace(one, signs=tuple(signs(one.frame, all_frames, places))) for one in own)
        view = ViewJob(title=_title(own), sights=signed, **of.said(names[n], standing))
        pieces = tuple(m.id for _, m in view.members)
        kind = "view" if len(own) == 1 else "views"
        yield entry(view, f"{kind}: {_title(own)}", plans.KIND, pieces, ids, standing)


def _rank(frame: ViewFrame) -> tuple[int, float]:
    """Plans from the lowest level up, then what is looked at from the side, then what is askew, as an erector reads."""
    if is_level(frame):
        return 0, frame.origin[2]
    return (1 if is_upright(frame) else 2), 0.0


def _title(own: Sequence[Sight]) -> str:
    frame = own[0].frame
    return frame.sheet.strip() or frame.name


def signs(frame: ViewFrame, others: Sequence[ViewFrame], places: Mapping[str, _Place]) -> Iterator[Sign]:
    """Where other views cut a view's face square, and which of them show a part of it larger."""
    if not frame.shows.signs:
        return
    place, half = placed(frame), np.array([frame.width, frame.height]) / 2
    for other in others:
        if other.id == frame.id or other.id not in places:
            continue
        own = placed(other)
        middle, look = place.to_local(own.origin), place.axes.T @ -own.z
        sheet, number = places[other.id]
        if abs(float(look[2])) < _SQUARE:
            along = np.array([-look[1], look[0]])
            across = place.axes.T @ np.column_stack([own.x * other.width, own.y * other.height]) / 2
            if abs(float(middle[2])) > float(np.abs(across[2]).sum()):
                continue  # it stands over the view, or under it
            reach = float(np.abs(along @ across[:2]).sum())
            ends = middle[:2] - reach * along, middle[:2] + reach * along
            if min(abs(ends[0]) > half) or not _met(ends, half):
                continue
            (u1, v1), (u2, v2) = (end.round(1).tolist() for end in ends)
            yield Sign(other.id, sheet, number, (u1, v1), (u2, v2), tuple(look[:2].round(6).tolist()))
        elif float(look[2]) < _SQUARE - 1.0 and abs(float(middle[2])) < frame.before + frame.behind:
            corners = place.axes.T @ np.column_stack([own.x * other.width, own.y * other.height]) / 2
            size = np.abs(corners[:2]).sum(axis=1)
            if math.prod(size) < _LARGER * math.prod(half) and bool((np.abs(middle[:2]) + size <= half + 1.0).all()):
                low, high = (middle[:2] - size).round(1).tolist(), (middle[:2] + size).round(1).tolist()
                yield Sign(other.id, sheet, number, tuple(low), tuple(high), box=True)


def _met(ends: Sequence[np.ndarray], half: np.ndarray) -> bool:
    low, high = np.minimum(*ends), np.maximum(*ends)
    return bool(((low <= half) & (high >= -half)).all())
