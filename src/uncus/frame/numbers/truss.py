"""A flat truss: parallel chords and the web members between them."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.frame.axes import UP
from uncus.frame.numbers.kind import ByNumbers, Placed, between, even
from uncus.frame.placement import Vec
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Double, Member, Role
from uncus.units import FOOT


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    web: Annotated[
        str,
        About(
            "Web",
            unit="choice",
            choices=("Pratt", "Howe", "Warren"),
            help="Pratt: diagonals fall to the middle; Howe: they rise to it; Warren: up and down without posts.",
        ),
    ] = "Pratt"
    depth: Annotated[float, About("Depth between work lines", low=200, high=20_000)] = 4 * FOOT
    panels: Annotated[int, About("Panels", unit="count", low=1, high=200)] = 6
    chord: Annotated[str, About("Chords", unit="section")] = "W8X24"
    diagonal: Annotated[str, About("Diagonals", unit="section")] = "L4X4X3/8"
    post: Annotated[str, About("Posts", unit="section")] = "L4X4X3/8"
    pair: Annotated[str, About("Web angles", unit="choice", choices=("single", "pairs"))] = "single"
    below: Annotated[str, About("Points picked are on the", unit="choice", choices=("top chord", "bottom chord"))] = (
        "top chord"
    )


def build(p: Params, placed: Placed) -> list[Member]:
    x, span = placed.level_way, placed.span
    base = placed.points[0] - (p.depth * UP if p.below == "top chord" else 0 * UP)
    panel = even(span, p.panels)

    def low(n: int) -> Vec:
        return np.asarray(base + x * panel[n])

    def high(n: int) -> Vec:
        return np.asarray(low(n) + p.depth * UP)

    if p.web != "Warren" and p.panels % 2:
        raise JobError(f"A {p.web} truss needs an even number of panels, so that it has a middle; type {p.panels + 1}.")
    end, last = p.panels, p.panels
    out = [
        between(Role.BEAM, p.chord, high(0), high(end)),
        between(Role.BEAM, p.chord, low(0), low(end)),
    ]

    def web(role: Role, section: str, a: Vec, b: Vec) -> Member:
        double = Double() if p.pair == "pairs" and section.startswith("L") else None
        return between(role, section, a, b, double=double)

    if p.web == "Warren":
        out += [web(Role.POST, p.post, low(n), high(n)) for n in (0, last)]
        for n in range(p.panels):
            a, b = (low(n), high(n + 1)) if n % 2 == 0 else (high(n), low(n + 1))
            out.append(web(Role.BRACE, p.diagonal, a, b))
        return out
    out += [web(Role.POST, p.post, low(n), high(n)) for n in range(p.panels + 1)]
    for n in range(p.panels):
        left_half = n < p.panels / 2
        falls = left_half == (p.web == "Pratt")
        a, b = (high(n), low(n + 1)) if falls else (low(n), high(n + 1))
        out.append(web(Role.BRACE, p.diagonal, a, b))
    return out


TRUSS = ByNumbers(
    "flat truss",
    "Flat truss",
    Params,
    ("pick the left end", "pick the right end, or type the span"),
    build,
    "Parallel chords with posts and diagonals.",
    {"chord": "HEA140", "depth": 1200.0},
)
