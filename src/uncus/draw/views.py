"""The views of a piece, each on a board of its own: lines, what the rules say of them, and what was done by hand."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import msgspec

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.board import Board
from uncus.draw.breaks import Shortening
from uncus.draw.by_hand import applied, said, view_of
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT
from uncus.draw.fans import Round, title, told
from uncus.draw.placing import place
from uncus.draw.projection import Ring, View, axes_of, project
from uncus.draw.rules import Sayings
from uncus.draw.rules.marks import FACE_ON
from uncus.draw.rules.plates import foot_of
from uncus.draw.rules.rule import LEAST, TOUCHING
from uncus.draw.rules.webs import axis, axis_lines, work_points
from uncus.draw.seen import LONG, Seen
from uncus.draw.sheet import Frame, Layer, Text
from uncus.draw.subject import SQUARE, Fixed, Section, Subject
from uncus.job.drawings import Edit, Recut, Scaled, SheetPreset
from uncus.steel.forming import is_rolled_plate
from uncus.units import Units

Points = dict[str, tuple[float, float]]
FAN = "seen from the end"
_RULINGS = 24  # about so many of a rolled plate are shown


class Asked(msgspec.Struct, frozen=True):
    """What views are drawn by: units, preset, edits by hand."""

    units: Units
    preset: SheetPreset
    edits: tuple[Edit, ...] = ()

    def of(self, view: str) -> list[Edit]:
        return [e for e in self.edits if view_of(e) == view]

    def scale(self, view: str, usual: float) -> float:
        """The scale of a view: its own by hand, or the sheet's."""
        return next((e.scale for e in self.of(view) if isinstance(e, Scaled)), usual)

    def cut(self, section: Section, subject: Subject) -> Section:
        """A section where it was cut by hand: what lies there is drawn, under the name it had."""
        at = next((e.at for e in self.of(section.view) if isinstance(e, Recut)), None)
        if at is None or not 0.0 < at < subject.main.length:
            return section
        return msgspec.structs.replace(subject.section_at(at), named=section.key)


class Drawn(msgspec.Struct, frozen=True, eq=False):
    """A view drawn: its board, its frame (before it is laid on the sheet), edits that found nothing."""

    board: Board
    frame: Frame
    lost: tuple[str, ...] = ()


class Told(NamedTuple):
    """A view along the piece, what is said of it and the points that dimensions measure to: alike at every scale."""

    seen: Seen
    annotations: Sequence[Annotation]
    points: Points


def told_of(subject: Subject, names: Iterable[str], asked: Asked) -> dict[str, Told]:
    """What the rules say of views, the front's first: what one has said the others do not say again."""
    sayings, found = Sayings(), {}
    for name in sorted(dict.fromkeys(names), key=lambda n: n != "front"):
        seen = Seen(subject, name, asked.units, asked.preset)
        found[name] = Told(seen, sayings.of(seen), points_of(seen))
    return found


def long_view(
    one: Told,
    scale: float,
    short: Shortening,
    asked: Asked,
    more: Sequence[Annotation] = (),
    named: str = "",
    words: str = "",
) -> Drawn:
    """Front, top or bottom; `more` is what the rules do not say, such as the letters of sections. Where a sheet has
    several such views each is `named`, and told by `words`."""
    seen, points = one.seen, one.points
    canvas = Canvas(seen.view, scale, short)
    _reference(canvas, seen)
    key = named or seen.name
    edited = applied([in_view(a, named) for a in (*one.annotations, *more)], asked.of(key), points)
    title = " ".join(filter(None, (words, _title(seen.subject, seen.name))))
    place(canvas, edited.annotations, edited.moved, asked.units, asked.preset.degrees, title)
    frame = msgspec.structs.replace(canvas.frame(points), name=key)
    return Drawn(canvas.board, frame, tuple(said(e) for e in edited.lost))


def in_view(one: Annotation, view: str) -> Annotation:
    """What a rule says, under the name of the view that it is said in where that has one of its own."""
    if not view:
        return one
    return msgspec.structs.replace(one, key=f"{view}|{one.key.partition('|')[2]}")


def _title(subject: Subject, name: str) -> str:
    faces = dict(subject.faces)
    face = faces.get({"front": "web", "top": "top", "bottom": "bottom"}[name])
    words = f"FACE {face}" if face else ""
    return words if name == "front" else f"{name} view {words}".strip().upper()


def _reference(canvas: Canvas, seen: Seen) -> None:
    """What the ends meet, for reference; the axes of a truss; bend lines."""
    subject = seen.subject
    for met in subject.meets:
        skewed = max(abs(met.skew), abs(met.slope)) >= SQUARE
        if met.stub is not None and (seen.preset.neighbours or skewed):
            canvas.reference(project([met.stub], seen.name).seen)
    members = [f for f in subject.fixed if f.has_axis and seen.name == "front"]
    for (u0, v0), (u1, v1) in (axis(f, seen) for f in members):
        canvas.centre(u0, v0, u1, v1)
    if members:
        canvas.centre(0.0, 0.0, seen.length, 0.0)
    if subject.rolled_as is not None and seen.name == "front":
        every = max(1, len(subject.rolled_as.bends) // _RULINGS) if is_rolled_plate(subject.rolled_as) else 1
        for b in subject.rolled_as.bends[::every]:
            canvas.centre(b.x1, b.z1, b.x2, b.z2)


def points_of(seen: Seen) -> Points:
    """Every point of a view that a dimension can be measured to, by its key."""
    across = seen.main.depth_range if seen.name == "front" else seen.main.y_range
    low, high = (-across[1], -across[0]) if seen.name == "bottom" else across
    points: Points = {"left end": (0.0, low), "right end": (seen.length, low), "top": (0.0, high), "bottom": (0.0, low)}
    for hole in seen.holes:
        points.setdefault(hole.column, (hole.u, hole.v))
        points.setdefault(hole.row, (hole.u, hole.v))
    if seen.datum[0] == "heel":
        points["heel"] = (0.0, seen.datum[1])
    for f in seen.subject.fixed:
        if f.normal == FACE_ON.get(seen.name):
            points[f"{f.id}|x foot"] = (foot_of(f, seen), seen.low)
    points |= _corners(seen.subject.fixed, seen.name) | _roots(seen) | _works(seen)
    if seen.subject.works is not None:
        for name, x in zip(("left", "right"), seen.subject.works, strict=True):
            points[f"{name} work point"] = (x, 0.0)
    if seen.main.is_plate:
        for n, (x, z) in enumerate(seen.main.outline):
            points[f"corner {n}"] = (x, z)
    return points


def _corners(fixed: Sequence[Fixed], view: str) -> Points:
    """The upper left and lower right corner of what is fixed on, as a view shows it."""
    axes, points = axes_of(view), {}
    for f in fixed:
        (u0, v0, _), (u1, v1, _) = (axes @ corner for corner in f.box())
        points[f"{f.id}|edge"] = (float(min(u0, u1)), float(max(v0, v1)))
        points[f"{f.id}|far"] = (float(max(u0, u1)), float(min(v0, v1)))
    return points


def _works(seen: Seen) -> Points:
    """Work points of members welded on: places along the piece, and the heights of chords."""
    members = [f for f in seen.subject.fixed if f.has_axis]
    chords = {key: v for key, v in axis_lines(seen, members).items() if v is not None} if members else {}
    points: Points = {f"{key}|axis": (0.0, v) for key, v in chords.items()}
    for f in members:
        if f.end_on:
            points[f"{f.id}|end on"] = (float(f.centre[0]), float(f.centre[2]))
        for n, (_, u, v) in enumerate(work_points(f, seen, chords)):
            points[f"{f.id}|x work point {n}"] = points[f"{f.id}|w work point {n}"] = (u, v)
        if f.id in chords:
            points[f"{f.id}|w axis"] = (0.0, chords[f.id])
            points[f"{f.id}|x start"] = axis(f, seen)[0]
    return points


def _roots(seen: Seen) -> Points:
    """Where plates on the skew stand on the main part."""
    if seen.main.section is None:
        return {}
    axes = axes_of(seen.name)
    roots = ((f, f.root(seen.main)) for f in seen.subject.fixed if f.normal == "")
    feet = ((f, root[root[:, 0].argmin()]) for f, root in roots if root is not None)
    return {f"{f.id}|root": (float((axes @ foot)[0]), float((axes @ foot)[1])) for f, foot in feet}


def section_view(subject: Subject, section: Section, letter: str, scale: float, asked: Asked) -> Drawn:
    """A section across: the plates face on, dimensioned from the main part's top and middle."""
    name = "left end" if section.at_end and section.x < subject.main.length / 2 else "right end"
    view = project(subject.section_bodies(section), name)
    canvas = Canvas(view, scale, Shortening())
    key = section.view
    left, low, right, high = view.box
    points: Points = {
        "plate top": (0.0, high),
        "plate bottom": (0.0, low),
        "top": (0.0, subject.main.depth_range[1]),
        "middle": (0.0, 0.0),
        "left": (left, low),
        "right": (right, low),
    }
    vs, us = distinct(view.rings, True), distinct(view.rings, False)
    points |= {f"row {i}": (r.u, r.v) for i, r in enumerate(vs)}
    points |= {f"column {i}": (r.u, r.v) for i, r in enumerate(us)}
    points |= _corners((*section.fixed, *subject.passing(section)), name)
    edited = applied(list(_across(subject, section, view, key, vs, us)), asked.of(key), points)
    if us and not section.at_end:
        canvas.board.line(Layer.CENTRE, 0, canvas.y(low) - 4, 0, canvas.y(high) + 4)
    place(canvas, edited.annotations, edited.moved, asked.units, asked.preset.degrees)
    board = canvas.board
    words = "LEFT END" if name == "left end" else ("RIGHT END" if section.at_end else f"SECTION {letter}-{letter}")
    if section.others:
        words += f" ({1 + len(section.others)} places)"
    board.text(Text((canvas.x(left) + canvas.x(right)) / 2, board.extent()[1] - 4, words, TEXT, "c"))
    frame = msgspec.structs.replace(canvas.frame(points), name=key)
    return Drawn(board, frame, tuple(said(e) for e in edited.lost))


def fan_view(subject: Subject, scale: float, asked: Asked) -> Drawn:
    """All of a piece seen from its end, with the angles of what stands round it."""
    view = project(subject.bodies, Round(subject).view)
    canvas = Canvas(view, scale, Shortening())
    left, low, right, high = view.box
    for line in ((left, 0.0, right, 0.0), (0.0, low, 0.0, high)):
        canvas.centre(*line)
    edited = applied(list(told(subject, FAN, asked.units)), asked.of(FAN), {})
    place(canvas, edited.annotations, edited.moved, asked.units, asked.preset.degrees)
    board = canvas.board
    board.text(
        Text(
            (canvas.x(left) + canvas.x(right)) / 2,
            board.extent()[1] - 4,
            title(subject, "FROM THE RIGHT END"),
            TEXT,
            "c",
        )
    )
    frame = msgspec.structs.replace(canvas.frame({}), name=FAN)
    return Drawn(board, frame, tuple(said(e) for e in edited.lost))


def _across(subject: Subject, section: Section, view: View, key: str, vs: Sequence[Ring], us: Sequence[Ring]):  # type: ignore[no-untyped-def]
    left, low, right, high = view.box
    rows = tuple(Stop(f"row {i}", r.v) for i, r in enumerate(vs))
    columns = [Stop(f"column {i}", r.u) for i, r in enumerate(us)]
    main_top = subject.main.depth_range[1]
    if section.at_end and abs(high + low) / 2 > LEAST and abs(high - main_top) > LEAST:
        ends = sorted((Stop("plate top", high), Stop("top", main_top)), key=lambda s: -s.at)
        yield Chain(f"{key}|past", "right", tuple(ends))
    if rows and section.at_end:
        yield Chain(f"{key}|rows", "left", (Stop("plate top", high), *rows, Stop("plate bottom", low)), to_edge=True)
    elif rows:
        stops = sorted((Stop("top", main_top), *rows), key=lambda s: -s.at)
        yield Chain(f"{key}|rows", "left", tuple(stops))
    if columns and section.at_end:
        yield Chain(f"{key}|columns", "below", (Stop("left", left), *columns, Stop("right", right)), "running")
    else:
        for n, stop in enumerate(columns):
            ends = sorted((Stop("middle", 0.0), stop), key=lambda s: s.at)
            if ends[1].at - ends[0].at > 0.5:
                yield Chain(f"{key}|column {n}", "below", tuple(ends), rank=n)
    axes = axes_of(view.name)
    yield from _down(subject, section, view, key)
    for f in section.fixed:
        c = axes @ f.centre
        yield Note(f"{key}|mark {f.id}", (float(c[0]), float(c[1])), f.mark)


def _down(subject: Subject, section: Section, view: View, key: str) -> Iterator[Chain]:
    """How far down from the top those begin that have no holes to set them out, touch nothing and are not about the
    middle."""
    low, top = subject.main.depth_range
    walls = _levels(subject)
    found: dict[int, Stop] = {}
    for f in section.fixed:
        near, far = f.box()
        v0, v1 = float(near[2]), float(far[2])
        held = any(abs(v - wall) < TOUCHING for v in (v0, v1) for wall in walls) or abs(v0 + v1) / 2 < LEAST
        within = low + LEAST < v0 and v1 < top - LEAST
        if within and not held and not f.part.holes and f.normal in ("x", "y") and not subject.is_bolted(f):
            found.setdefault(round(v1), Stop(f"{f.id}|edge", v1))
    if found:
        yield Chain(f"{key}|down", "left", (Stop("top", top), *(found[v] for v in sorted(found, reverse=True))), rank=1)


def _levels(subject: Subject) -> tuple[float, ...]:
    """Heights of the main part's own upper and lower surfaces."""
    s = subject.main.section
    return (s.d / 2, s.d / 2 - s.tf, s.tf - s.d / 2, -s.d / 2) if s else subject.main.depth_range


def distinct(rings: Sequence[Ring], down: bool, apart: float = 0.05) -> list[Ring]:
    """One ring of each row from the top down, or of each column from the left."""
    out: list[Ring] = []
    for ring in sorted(rings, key=lambda r: -r.v if down else r.u):
        if not out or abs((out[-1].v - ring.v) if down else (out[-1].u - ring.u)) > apart:
            out.append(ring)
    return out


__all__ = ["FAN", "LONG", "Asked", "Drawn", "fan_view", "long_view", "section_view"]
