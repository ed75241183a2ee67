"""Where the parts fixed on an assembly go, as its sheets say it: by figures, by words, by what they touch."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely
from tests.draw.reading import SAME, Reader

from uncus.catalog.sections import Section
from uncus.draw.sheet import Frame, Sheet
from uncus.units import Units

_ACROSS = {"front": (0, 2), "top": (0, 1), "bottom": (0, 1), "left end": (1, 2), "right end": (1, 2)}
_SIGN = {"front": (1, 1), "top": (1, 1), "bottom": (1, -1), "left end": (-1, 1), "right end": (1, 1)}
_LAID = re.compile(r"^\S+ (?:TURNED .+? DEG, ROOT )?(.+) (NS of|FS of|above|below) (CL|HEEL)(?: TYP)?$")
_OUTSIDE = re.compile(r" (NS|FS|UNDER IT|ON TOP)(?: TYP)?$")
_GAP = re.compile(r" (.+) GAP, (.+?)(?: TYP)?$")
_ON_LINE = re.compile(r"ON (?:CL|HEEL), (NS|FS|above|below)(?: TYP)?$")
_CENTRED = "WEBS, AND PARTS ON A SKEW OR SLOPE, ARE CENTRED"


class Edge(NamedTuple):
    """An edge or a row of holes of a fixed part, across one axis: its paper place and its place in the model, by
    which what the sheet says of it is judged."""

    paper: float
    true: float


def placings(
    entry_sheets: Sequence[Sheet],
    units: Units,
    ids: Sequence[str],
    main: Section,
    views: dict[str, str],
    face_on: dict[str, str],
):  # type: ignore[no-untyped-def]
    """For each part fixed on, how each of x, y, z is given: a figure (printed, true), or that it touches what has a
    place, or is drawn about the middle, or the distance of its nearer face off the middle in words; nothing where
    nothing says it. `views` names the way each frame looks, `face_on` the view in which a plate is seen flat, or
    that it is skewed."""
    found: dict[str, dict[int, object]] = {id: {} for id in ids}
    readers = [Reader.of_assembly(sheet, units) for sheet in entry_sheets]
    for turn in range(5):  # figures first; then what touches a plate whose place is known has one too
        for reader in readers:
            for name, frame in reader.frames.items():
                if name in views:
                    _place_in(reader, frame, views[name], found, main, face_on, bool(turn))
    return found


def _place_in(
    reader: Reader,
    frame: Frame,
    way: str,
    found: dict[str, dict[int, object]],
    main: Section,
    face_on: dict[str, str],
    rest: bool,
) -> None:
    edges = {id: _edges(frame, id, way) for id in found if f"{id}|edge" in frame.points}
    said = _said(reader, frame, way)
    solid = _solid(frame, way, main)
    for id, own in edges.items():
        for n, axis in enumerate(_ACROSS[way]):
            if axis in found[id]:
                continue
            settled = [e for o, others in edges.items() if o != id and axis in found[o] for e in others[n][:2]]
            known = [*solid[n], *(e.paper for e in settled)]
            figure = next(((v, e.true) for e in own[n] for at, v in said[n].items() if abs(at - e.paper) < SAME), None)
            if figure is not None:
                found[id][axis] = figure
            elif any(abs(k - e.paper) < SAME for e in own[n][: 2 if axis else None] for k in known):
                found[id][axis] = "touches"
            elif axis and abs(own[n][0].true + own[n][1].true) / 2 / frame.scale < SAME:
                found[id][axis] = "middle"
    marks = [s.words for s in reader.sheet.spots if s.key.startswith(f"{frame.name}|mark ")]
    many = {m[1]: int(m[2]) for words in marks if (m := re.match(r"(.*) TYP \((\d+)\)$", words))}
    spoken = {s.key.partition("|mark ")[2] for s in reader.sheet.spots}
    silent = [id for id in edges if id not in spoken]  # all of the one mark that is said with its number
    assert len(many) < 2 or not silent, "more than one mark is said by its number: the reader would have to look"
    if many:
        assert len(silent) <= next(iter(many.values())) - 1
    typical = {words.split()[0]: words for words in marks if words.endswith(" TYP")}
    said_at = [(*spot.key.partition("|mark ")[::2], spot.words) for spot in reader.sheet.spots]
    said_at += [(frame.name, id, f"{next(iter(many))} TYP") for id in silent if many]
    for view, what, printed in said_at:
        if view != frame.name or what not in found or view.startswith("section"):
            continue
        axis = 1 if view == "front" else 2
        words = re.sub(r" TYP \(\d+\)$", "", typical.get(printed, printed))
        if match := _LAID.match(words):
            axis = {"NS of": 1, "FS of": 1}.get(match[2], 2)
            datum = -(main.b if axis == 1 else main.d) / 2 if match[3] == "HEEL" else 0.0
            found[what].setdefault(axis, datum + reader.mm(match[1]) * (1 if match[2] in ("FS of", "above") else -1))
        elif match := _GAP.search(words):
            gap = reader.mm(match[1])
            for way in match[2].split(" AND "):
                axis, sign = {"NS": (1, -1), "FS": (1, 1), "BELOW": (2, -1), "ABOVE": (2, 1)}[way]
                found[what].setdefault(axis, sign * ((main.b if axis == 1 else main.d) / 2 + gap))
        elif (match := _OUTSIDE.search(words)) and face_on.get(what) == view:
            half = {"NS": -main.b, "FS": main.b, "UNDER IT": -main.d, "ON TOP": main.d}[match[1]] / 2
            found[what].setdefault(axis, half)
        elif _ON_LINE.search(words):
            found[what].setdefault(axis, 0.0)
        elif face_on.get(what) == view and rest:
            found[what].setdefault(axis, "middle")  # a plate face on, of which nothing else is said
        elif face_on.get(what) == "skewed" and any(
            _CENTRED in s.words for s in reader.sheet.spots if s.kind == "notes"
        ):
            found[what].setdefault(1, "middle")
    for id in edges:
        if 0 not in found[id] and (bevel := _bevelled(reader, frame, edges[id][0])):
            found[id][0] = bevel


def _bevelled(reader: Reader, frame: Frame, us: list[Edge]) -> str:
    """Whether a part lies on an end that is bevelled: its edges within the bevel's run of the end."""
    for end, at in (("left", 0), ("right", 1)):
        key = ("left end", "right end")[at]
        if key in frame.points and (
            reader.spots(f"{frame.name}|bevel {end}") or reader.spots(f"{frame.name}|lean {end}")
        ):
            x = frame.points[key][0]
            if min(us[0].paper, us[1].paper) - 1 <= x <= max(us[0].paper, us[1].paper) + 1:
                return "touches"
    return ""


def _edges(frame: Frame, id: str, way: str) -> tuple[list[Edge], list[Edge]]:
    """Both edges of a part, then its rows of holes, along each of a view's axes."""
    su, sv = _SIGN[way]
    points = [frame.points[f"{id}|edge"], frame.points[f"{id}|far"]]
    us = [Edge(x, su * u) for x, _, u, _ in points]
    vs = [Edge(y, sv * v) for _, y, _, v in points]
    us += [Edge(p[0], su * p[2]) for k, p in frame.points.items() if k.startswith((f"{id}|x", f"{id}|root"))]
    vs += [Edge(p[1], sv * p[3]) for k, p in frame.points.items() if k.startswith(f"{id}|w")]
    within = shapely.box(*(f(p[n] for p in points) for f, n in ((min, 0), (min, 1), (max, 0), (max, 1))))
    for key, p in frame.points.items():  # a section's rows, those that lie in this part
        if key.startswith(("row ", "column ")) and within.covers(shapely.Point(p[0], p[1])):
            us.append(Edge(p[0], su * p[2]))
            vs.append(Edge(p[1], sv * p[3]))
    return us, vs


def _said(reader: Reader, frame: Frame, way: str) -> tuple[dict[float, float], dict[float, float]]:
    """Paper place to printed place, along each of a view's axes."""
    su, sv = _SIGN[way]
    us: dict[float, float] = {}
    vs: dict[float, float] = {}
    for spot in reader.sheet.spots:
        if not spot.key.startswith(f"{frame.name}|") or spot.kind != "chain":
            continue
        flat = abs(spot.stops[0][2] - spot.stops[-1][2]) < 1e-6
        running = flat and (spot.key.endswith(("along", "plates", "columns")) or "|panel points" in spot.key)
        values = reader.figures(spot)
        runs = [0.0, *(values if running else np.cumsum(values).tolist())]
        data = [(n, _datum(frame, key, flat)) for n, (key, _, _) in enumerate(spot.stops)]
        datum = next(((n, at) for n, at in data if at is not None), None)
        if datum is None:
            continue
        for (_, x, y), run in zip(spot.stops, runs, strict=True):
            if flat and running and x < spot.stops[0][1]:
                us[x] = su * (datum[1] - run)  # to the left of where it runs from
            elif flat:
                us[x] = su * (datum[1] + run - runs[datum[0]])
            else:
                vs[y] = sv * (datum[1] - run + runs[datum[0]])
    return us, vs


def _datum(frame: Frame, key: str, flat: bool) -> float | None:
    """The view's own place of a stop that figures start from."""
    if key in ("middle", "main|axis"):
        return 0.0
    if key in frame.points and key in (
        "top",
        "bottom",
        "plate top",
        "plate bottom",
        "heel",
        "left end",
        "left",
        "right",
    ):
        return frame.points[key][2 if flat else 3]
    return None


def _solid(frame: Frame, way: str, s: Section) -> tuple[list[float], list[float]]:
    """Paper places of the main part's own surfaces, and of its ends."""
    ys = [s.b / 2, -s.b / 2, s.tw / 2, -s.tw / 2, s.b / 2 - s.tw, s.tw - s.b / 2]
    zs = [s.d / 2, -s.d / 2, s.d / 2 - s.tf, s.tf - s.d / 2]
    us = [frame.points[k][0] for k in ("left end", "right end") if k in frame.points]
    if way in ("left end", "right end"):
        us = [frame.x + y / frame.scale for y in ys]
    return us, [frame.y + v / frame.scale for v in (zs if _ACROSS[way][1] == 2 else ys)]
