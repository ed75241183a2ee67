"""Makes the small pictures beside the choices of stairs, rails and plate work (src/uncus/app/facts/choices.json), each
drawn of steel that is built as it asks. No screen is needed:

PYTHONPATH=src python tools/choice_pictures.py
"""

import json
import math
from collections.abc import Iterator
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np

from uncus.compose.following import amended
from uncus.compose.kinds import COMPOUNDS
from uncus.compose.making import hung_on, pure
from uncus.draw.projection import project
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_frame
from uncus.job.composites import Anchor, Composite
from uncus.job.forms import fields
from uncus.job.job import Job
from uncus.job.records import Attachment, Line, Member, Project, Role
from uncus.shop.own_parts import own_part
from uncus.shop.records import body_of
from uncus.shop.shop import build
from uncus.steel.features import EndCut
from uncus.steel.forming import formed

OUT = Path(__file__).parent.parent / "src" / "uncus" / "app" / "facts" / "choices.json"
WIDE, HIGH = 840, 640  # what a picture's points lie within
_SMALL = 1400.0  # mm that a picture is wide in which bolts are told apart
_NEAR = 1.0  # mm that a line lies off another and still is on it


class Shot(NamedTuple):
    """What of an example is seen of a field's choices: its points and values; the middle of the picture and how wide it
    is; from where, degrees to the left of its first step and from above; steel that its points are on, by the choice
    (none: every one) and the point's number; the edge of the ground by the choice. Parts whose keys hold one of
    `strong` are drawn so (all, where there is none), those of `without` not at all;
    where it is `textured`, what plates have on them is drawn."""

    kinds: tuple[str, ...]
    field: str
    points: tuple[tuple[float, float, float], ...]
    values: dict[str, Any]
    middle: tuple[float, float, float]
    wide: float
    turned: float = 30.0
    above: float = 20.0
    on: tuple[tuple[str, int, Member], ...] = ()
    ground: tuple[tuple[str, tuple[tuple[float, float, float], ...]], ...] = ()
    strong: tuple[str, ...] = ()
    without: tuple[str, ...] = ()
    textured: bool = False


STAIRS = ("stair", "stair with a landing")
FLIGHT = ((0.0, 0.0, 0.0), (840.0, 0.0, 720.0))
PLAIN = {"risers": 4, "width": 500.0}


def _across(x: float, z: float, shape: str, line: Line = Line.TOP, roll: float = 0.0) -> Member:
    """A beam across a flight."""
    return Member(role=Role.BEAM, section=shape, start=(x, -900.0, z), end=(x, 900.0, z), line=line, roll=roll)


ENDS = (
    ("against a face, with an end plate", 1, _across(873.0, 586.6, "C10X15.3", Line.CENTRE, 180.0)),
    ("on a beam's web, with a tab", 1, _across(925.0, 713.6, "W12X26")),
    ("hung under a beam, with a plate", 1, _across(800.0, 1150.0, "W10X33")),
    ("on a beam, bolted", 0, _across(-90.0, 0.0, "W14X145")),
    ("against a face, with a plate", 0, _across(-33.0, -133.4, "C10X15.3", Line.CENTRE)),
)
FLOOR = ((-900.0, 250.0, 0.0), (900.0, 250.0, 0.0))
PIT = tuple((x, 250.0, z) for x, z in ((-900, 0), (-620, 0), (-620, -152), (160, -152), (160, 0), (900, 0)))
GROUND = (("on the floor, with a plate", FLOOR), ("in a pit", PIT))
ALONG = ((0.0, 0.0, 0.0), (2400.0, 0.0, 0.0))
ROUND = ((0.0, 0.0, 0.0), (1200.0, 0.0, 0.0), (1200.0, 1200.0, 0.0))
SQUARE = {"top": "HSS2X2X1/4", "posts": "HSS2X2X1/4", "middle": "HSS2X2X1/4"}
UNDER = Member(role=Role.BEAM, section="W12X26", start=(-900.0, 0.0, 0.0), end=(3300.0, 0.0, 0.0), line=Line.TOP)
DUCT = ((0.0, 0.0, 900.0), (250.0, 100.0, 0.0))
SHOTS = (
    Shot(STAIRS, "tread", FLIGHT, {**PLAIN, "held": "welded"}, (200.0, -250.0, 300.0), 760.0, 14.0, 14.0,
        strong=("tread",), without=("right stringer",), textured=True),
    Shot(STAIRS, "held", FLIGHT, {**PLAIN, "tread": "plate"}, (130.0, -230.0, 150.0), 460.0, 20.0, 20.0,
        strong=("tread",), without=("right stringer",)),
    Shot(STAIRS, "foot", FLIGHT, {**PLAIN, "head": "left open"}, (-60.0, 250.0, 60.0), 1200.0, 25.0, 15.0,
        on=ENDS, ground=GROUND, strong=("foot", "stringer"), without=("right stringer", "tread")),
    Shot(STAIRS, "head", FLIGHT, {**PLAIN, "foot": "left open"}, (860.0, 250.0, 740.0), 1150.0, -25.0, 15.0,
        on=ENDS, strong=("head", "tab", "hanger", "seat", "level", "stringer"), without=("right stringer", "tread")),
    Shot(STAIRS[1:], "turns", ((0.0, 0.0, 0.0), (1000.0, 0.0, 0.0), (0.0, 0.0, 1800.0)),
        {"risers": 10, "width": 900.0, "going": 260.0}, (1500.0, 0.0, 700.0), 7000.0, 25.0, 40.0),
    Shot(("winding stair",), "about", ((0.0, 0.0, 0.0), (1000.0, 0.0, 0.0), (0.0, 0.0, 1800.0)),
        {"risers": 10, "turn": 160.0, "outer": 1300.0}, (0.0, 0.0, 1200.0), 3900.0, 60.0, 35.0),
    Shot(("winding stair",), "hand", ((0.0, 0.0, 0.0), (1000.0, 0.0, 0.0), (0.0, 0.0, 1800.0)),
        {"risers": 10, "turn": 160.0}, (0.0, 0.0, 1200.0), 3900.0, 60.0, 35.0),
    Shot(("winding stair",), "outer_stringer", ((0.0, 0.0, 0.0), (1000.0, 0.0, 0.0), (0.0, 0.0, 1800.0)),
        {"risers": 10, "turn": 160.0}, (0.0, 0.0, 1200.0), 3900.0, 60.0, 35.0),
    Shot(("ladder",), "cage", ((0.0, 0.0, 0.0), (0.0, 0.0, 3600.0), (0.0, -900.0, 0.0)), {}, (0.0, -300.0, 2900.0),
        2900.0, 35.0, 15.0),
    Shot(("ladder",), "gate", ((0.0, 0.0, 0.0), (0.0, 0.0, 1500.0), (0.0, -900.0, 0.0)), {}, (0.0, -180.0, 2100.0),
        1700.0, -30.0, 20.0),
    Shot(("ladder",), "side", ((0.0, 0.0, 0.0), (0.0, 0.0, 5000.0), (0.0, -900.0, 0.0)), {"landing": 2600.0},
        (0.0, -400.0, 3100.0), 3800.0, 30.0, 20.0),
    Shot(("rail",), "between", ALONG, {**SQUARE, "spacing": 1200.0}, (1200.0, 0.0, 530.0), 2900.0, 10.0, 10.0,
        on=(("", 0, UNDER),), strong=("middle", "bar", "panel", "bay")),
    Shot(("rail",), "foot", ALONG, {**SQUARE, "posts": "HSS2X2X1/8", "spacing": 2400.0, "from_end": 300.0},
        (300.0, -30.0, 0.0), 700.0, 40.0, 25.0, strong=("post",), on=(("plate with four bolts", 0, UNDER),
        ("plate with two bolts", 0, UNDER), ("welded on", 0, UNDER), ("into a socket", 0, UNDER))),
    Shot(("rail",), "corners", ROUND, {"from_end": 300.0}, (1150.0, 150.0, 950.0), 900.0, 60.0, 35.0),
    Shot(("rail",), "first_end", ALONG, {"from_end": 250.0}, (120.0, 0.0, 800.0), 1200.0, 20.0, 15.0),
    Shot(("rail",), "last_end", ALONG, {"from_end": 250.0}, (2280.0, 0.0, 800.0), 1200.0, 20.0, 15.0),
    Shot(("grating",), "cut", ((0.0, 0.0, 0.0), (1800.0, 1200.0, 0.0), (900.0, 600.0, 0.0)), {}, (900.0, 600.0, 0.0),
        2400.0, 20.0, 50.0),
    Shot(("floor plate",), "runs", ((0.0, 0.0, 0.0), (1800.0, 1500.0, 0.0)), {}, (900.0, 750.0, -60.0), 3000.0, 20.0,
        -40.0),
    Shot(("lintel",), "made", ((0.0, 0.0, 0.0), (500.0, 0.0, 0.0)), {"bearing": 100.0}, (250.0, 0.0, 60.0), 620.0, 60.0,
        25.0),
    Shot(("lintel",), "leg", ((0.0, 0.0, 0.0), (500.0, 0.0, 0.0)), {"bearing": 100.0, "made": "one angle"},
        (250.0, 0.0, 60.0), 620.0, 60.0, 25.0),
    Shot(("transition",), "made", DUCT, {"first": "circle", "second": "circle", "folds": 12,
        "second_wide": 350.0}, (120.0, 50.0, 450.0), 1500.0),
    Shot(("transition",), "flange", DUCT, {"folds": 12}, (120.0, 50.0, 450.0), 1700.0),
    Shot(("transition",), "first", DUCT, {"first_deep": 600.0, "folds": 12}, (120.0, 50.0, 450.0), 1600.0, above=40.0),
    Shot(("transition",), "second", DUCT, {"second_deep": 300.0, "folds": 12}, (120.0, 50.0, 450.0), 1600.0,
        above=-40.0),
)  # fmt: skip


class Built(NamedTuple):
    """Every part of the example with a choice of its field, in place, and which are to be strong; its bolts, and the
    lugs or bars on its plates."""

    bodies: list[tuple[Any, Placement]]
    strong: list[bool]
    bolts: list[tuple[float, float, float]]
    lugs: list[np.ndarray]


def built(shot: Shot, choice: Any) -> Built:
    hosts, anchors = [], [Anchor(p) for p in shot.points]
    for when, n, host in shot.on:
        if when in ("", choice):
            hosts.append(host)
            anchors[n] = hung_on(np.array(shot.points[n]), host)
    kind = shot.kinds[0]
    record = Composite(kind=kind, anchors=tuple(anchors), params={**shot.values, shot.field: choice})
    job = Job([Project(), *hosts])
    job.amend(amended)
    with job.change("Example") as change:
        change.put(record)
    shop = build(job)
    wrong = [f.text for f in shop.all_findings if f.severity == "wrong" and "anchor" not in f.text]
    if wrong:
        print(f"{kind}, {shot.field}, {choice}: {wrong[0]}")
    made = pure(record, job.records)
    own = {p.id for key, p in made.items() if not shot.strong or _of(key, shot.strong)}
    left = {p.id for key, p in made.items() if _of(key, shot.without)}
    pieces = [p for p in shop.pieces() if p.maker not in left]
    holds = [p for p in made.values() if isinstance(p, Attachment) and own & set(p.members) and p.member not in left]
    bolts = [at for p in holds for f in shop.connections[p.id].fasteners for at in f.points if shot.wide < _SMALL]
    lugs = [line for m in job.all(Member) if shot.textured for line in _lugs(m)]
    return Built([(p.part, p.placement) for p in pieces], [p.maker in own for p in pieces], bolts, lugs)


def _lugs(plate: Member) -> Iterator[np.ndarray]:
    """What is seen on the upper side of a plate that is not plain."""
    blank = plate.blank
    if blank is None or blank.lugs is None:
        return
    part, low = own_part(body_of(plate), "", (EndCut(0.0), EndCut(plate.work_length)))
    place = plate_frame(plate).moved((low, 0.0, 0.0))
    (x0, z0), (x1, z1) = np.min(part.outline, axis=0), np.max(part.outline, axis=0)
    if blank.lugs.name == "checkered":
        spots = [(x, z) for x in np.arange(x0 + 15, x1, 30) for z in np.arange(z0 + 15, z1, 30)]
        runs = [(6.0, 6.0 if n % 2 else -6.0) for n in range(len(spots))]
    else:
        spots = [((x0 + x1) / 2, z) for z in np.arange(z0 + 30, z1 - 1, 30)]
        runs = [((x1 - x0) / 2, 0.0)] * len(spots)
    lines = []
    for (x, z), (dx, dz) in zip(spots, runs, strict=True):
        ends = [(x - dx, -part.thickness / 2, z - dz), (x + dx, -part.thickness / 2, z + dz)]
        lines.append(place.to_model(formed(part, ends)))
    high = max(line[:, 2].max() for line in lines)
    yield from (line for line in lines if line[:, 2].min() > high - 1.0)


def _of(key: str, words: tuple[str, ...]) -> bool:
    return any(word in key for word in words)


def looked_from(shot: Shot) -> np.ndarray:
    """Rows: right, up, towards the viewer."""
    step = np.subtract(shot.points[1], shot.points[0])
    on = math.atan2(step[1], step[0]) if np.hypot(*step[:2]) > 10.0 and shot.kinds[0] != "ladder" else 0.0
    turn, tip = on + math.radians(shot.turned), math.radians(shot.above)
    right = np.array([math.cos(turn), math.sin(turn), 0.0])
    back = np.array([math.sin(turn) * math.cos(tip), -math.cos(turn) * math.cos(tip), math.sin(tip)])
    return np.stack([right, np.cross(back, right), back])


def seen(bodies: list[tuple[Any, Placement]], axes: np.ndarray) -> np.ndarray:
    """The lines (n, 4) that are seen of parts, as u1 v1 u2 v2 in mm."""
    turn = np.stack([axes[0], -axes[2], axes[1]])
    turned = [(part, Placement(turn @ place.origin, turn @ place.axes)) for part, place in bodies]
    return project(turned, "front").seen if turned else np.zeros((0, 4))


def clipped(lines: np.ndarray, middle: np.ndarray, scale: float) -> Iterator[list[int]]:
    """Lines in a picture's own numbers, y down, as far as they lie in it."""
    box = np.array([WIDE, HIGH])
    for line in lines:
        a, b = ((line[k : k + 2] - middle) * scale * (1, -1) + box / 2 for k in (0, 2))
        low, high, run = 0.0, 1.0, b - a
        for k in range(2):
            if abs(run[k]) < 1e-9:
                if not 0 <= a[k] <= box[k]:
                    low = 2.0
                continue
            t = sorted(((0 - a[k]) / run[k], (box[k] - a[k]) / run[k]))
            low, high = max(low, t[0]), min(high, t[1])
        if high - low > 1e-6:
            ends = [round(v) for t in (low, high) for v in (a + run * t)]
            if ends[:2] != ends[2:]:
                yield ends


def on_others(lines: np.ndarray, others: np.ndarray) -> np.ndarray:
    """Which lines have their middle on one of others."""
    if not len(others):
        return np.zeros(len(lines), dtype=bool)
    middle = (lines[:, :2] + lines[:, 2:]) / 2
    a, run = others[:, :2], others[:, 2:] - others[:, :2]
    long = np.maximum((run**2).sum(axis=1), 1e-9)
    t = np.clip(((middle[:, None] - a) * run).sum(axis=2) / long, 0.0, 1.0)
    return (np.linalg.norm(middle[:, None] - (a + t[..., None] * run), axis=2) < _NEAR).any(axis=1)


def pictured(shot: Shot) -> dict[str, dict[str, list[list[int]]]]:
    """By choice: the lines of what it is about, and of the steel beside it."""
    found = {}
    axes, about = looked_from(shot), fields(COMPOUNDS[shot.kinds[0]].params)[shot.field]
    middle, scale = axes[:2] @ np.array(shot.middle), WIDE / shot.wide
    for choice in about.choices:
        made = built(shot, choice)
        lines = seen(made.bodies, axes)
        grey = [b for b, strong in zip(made.bodies, made.strong, strict=True) if not strong]
        beside = on_others(lines, seen(grey, axes))
        ground = [np.array(path) @ axes[:2].T for when, path in shot.ground if when == choice]
        own = [np.hstack([path[:-1], path[1:]]) for path in ground]
        lugs = [(line @ axes[:2].T).reshape(1, 4) for line in made.lugs]
        spots = (np.array(made.bolts).reshape(-1, 3) @ axes[:2].T - middle) * scale * (1, -1) + (WIDE / 2, HIGH / 2)
        found[choice] = {
            "lines": list(clipped(lines[~beside], middle, scale)),
            "beside": list(clipped(np.concatenate([lines[beside], *own, *lugs]), middle, scale)),
            "dots": sorted({(x, y) for x, y in spots.round().astype(int).tolist() if 0 < x < WIDE and 0 < y < HIGH}),
        }
    return found


def main() -> None:
    made = [{"kinds": shot.kinds, "field": shot.field, "choices": pictured(shot)} for shot in SHOTS]
    OUT.write_text(json.dumps(made, separators=(",", ":")) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
