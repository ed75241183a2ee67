"""Studs welded to a piece in the shop, as its views show them: circles face on, shaft and head from the side."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from uncus.draw.projection import Array, View, axes_of

_HEAD = 1.6, 0.5  # diameter and thickness of a head by the shaft's diameter, about (ISO 13918 SD, AWS D1.1 figure 9.1)
_SIDES = 16


class Stud(msgspec.Struct, frozen=True):
    """A stud in the main part's frame: its foot on the steel, the way it stands out, diameter and length, its size."""

    foot: tuple[float, float, float]
    out: tuple[float, float, float]
    d: float
    long: float
    size: str


def facing(stud: Stud, view: str) -> float:
    """How much a stud looks to whoever looks at a view: 1 towards, -1 away, 0 from the side."""
    return float(axes_of(view)[2] @ np.array(stud.out))


def place_in(stud: Stud, view: str) -> tuple[float, float]:
    """Where a stud's foot is in a view."""
    u, v, _ = axes_of(view) @ np.array(stud.foot)
    return float(u), float(v)


def with_studs(view: View, studs: Sequence[Stud]) -> View:
    """A view with its studs drawn: those that stand away from the viewer are hidden."""
    seen, hidden = [view.seen], [view.hidden]
    for stud in studs:
        towards = facing(stud, view.name)
        lines = _circle(stud, view.name) if abs(towards) > 0.99 else _side(stud, view.name)
        (hidden if towards < -0.99 else seen).append(lines)
    return msgspec.structs.replace(view, seen=np.concatenate(seen), hidden=np.concatenate(hidden)) if studs else view


def _circle(stud: Stud, view: str) -> Array:
    turn = np.linspace(0.0, 2 * np.pi, _SIDES + 1)
    ring = np.array(place_in(stud, view)) + stud.d / 2 * np.column_stack([np.cos(turn), np.sin(turn)])
    return np.hstack([ring[:-1], ring[1:]])


def _side(stud: Stud, view: str) -> Array:
    """Shaft and head in outline."""
    foot, out = np.array(place_in(stud, view)), (axes_of(view) @ np.array(stud.out))[:2]
    across, thick = np.array([-out[1], out[0]]), _HEAD[1] * stud.d
    neck, top = foot + (stud.long - thick) * out, foot + stud.long * out
    shaft, head = stud.d / 2 * across, _HEAD[0] * stud.d / 2 * across
    path = np.array([foot + shaft, neck + shaft, neck + head, top + head, top - head, neck - head, neck - shaft,
        foot - shaft])  # fmt: skip
    return np.hstack([np.vstack([path[:-1], neck + head]), np.vstack([path[1:], neck - head])])
