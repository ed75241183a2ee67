"""The notes of a piece's sheet, in the order they stand; each says one thing, or nothing."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from uncus.catalog.grades import electrode_words
from uncus.draw.bracing import on_gusset_words
from uncus.draw.piece_job import PieceJob
from uncus.draw.rules.holes import through_walls
from uncus.draw.site_work import BoltLine, WeldLine, counted_bolts, counted_welds
from uncus.job.holds import ended
from uncus.steel.describe import forming_words
from uncus.steel.joint import FastenerKind, WeldForm
from uncus.units import Units, format_elevation, format_length

_FASTENERS = {str(FastenerKind.BOLT): "BOLTS", str(FastenerKind.STUD): "STUDS"}


def note_lines(job: PieceJob) -> list[str]:
    """All notes of a sheet."""
    return [line for note in _NOTES for line in note(job)]


def _holes(job: PieceJob) -> Iterator[str]:
    holes = Counter(round(h.d, 2) for _, part, n in job.bill for h in part.holes if not h.slot for _ in range(n))
    if not holes:
        return
    common, _ = holes.most_common(1)[0]
    yield f"HOLES {format_length(common, job.units)} DIA. UNLESS NOTED."
    for d, n in sorted(holes.items()):
        if d != common:
            marks = dict.fromkeys(mark for mark, part, _ in job.bill if any(abs(h.d - d) < 0.02 for h in part.holes))
            yield f"{n} HOLES {format_length(d, job.units)} DIA. IN {', '.join(marks)}."


def _slots(job: PieceJob) -> Iterator[str]:
    found = (
        (round(h.d, 2), round(h.slot, 2)) for _, part, n in job.bill for h in part.holes if h.slot for _ in range(n)
    )
    for (d, slot), n in sorted(Counter(found).items()):
        yield f"{n} SLOTS {format_length(d, job.units)} x {format_length(slot, job.units)}."


def _centred(job: PieceJob) -> Iterator[str]:
    main = job.subject.main
    if main.section is not None and any(h.face in ("top", "bottom") for h in main.holes):
        yield "FLANGE GAGES ARE CENTRED ON THE WEB UNLESS NOTED."
    if any(f.normal == "" or f.is_member for f in job.subject.fixed):
        yield "WEBS, AND PARTS ON A SKEW OR SLOPE, ARE CENTRED UNLESS NOTED."


def _welds(job: PieceJob) -> Iterator[str]:
    if any(f.weld for f in job.subject.fixed):
        yield f"WELDS {electrode_words(job.electrode)} FILLET, AS SYMBOLS."


def _work(job: PieceJob) -> Iterator[str]:
    if job.work:
        yield f"WORK TO {job.work.upper()}."
    if job.weld_tests:
        yield f"TESTS OF WELDS: {job.weld_tests.upper()}."


def _bare(job: PieceJob) -> Iterator[str]:
    """Surfaces that paint would spoil: near welds made on site (AISC 360 M3.5), and where bolts hold by friction, as
    they do in oversize holes (J3.2)."""
    if job.site_welds or job.some_welds:
        near = format_length(50.8 if job.units is Units.IMPERIAL else 50.0, job.units)
        yield f"NO PAINT WITHIN {near} OF SITE WELDS."
    if job.slips:
        yield "NO PAINT ON FACES AT OVERSIZE HOLES: BOLTS THERE ARE SLIP-CRITICAL."


def _framing(job: PieceJob) -> Iterator[str]:
    """What frames to each face of a column, from the lowest up."""
    faces: dict[str, list[str]] = defaultdict(list)
    for letter, z, mark in job.subject.framing:
        faces[letter].append(f"{mark} AT {format_elevation(z, job.units)}")
    for letter, found in sorted(faces.items()):
        yield f"FACE {letter}: {', '.join(found)}."


_AT_END = 60.0  # mm from an end within which a zone is that end's
_LEVELLED = {"nuts": "NUTS UNDER THE PLATE", "plate": "A LEVELLING PLATE", "shims": "PACKS"}


def _bases(job: PieceJob) -> Iterator[str]:
    for by, grout in job.subject.bases:
        under = f", {format_length(grout, job.units)} GROUT" if grout else ""
        yield f"BASE LEVELLED BY {_LEVELLED[by]}{under}."


def _zones(job: PieceJob) -> Iterator[str]:
    """Stretches that yield in an earthquake (AISC 341-22 D1.3)."""
    length = job.subject.main.length
    if job.subject.zones:
        said = [_zone_words(low, high, length, job.units) for low, high in job.subject.zones]
        yield f"PROTECTED ZONE{'S' if len(said) > 1 else ''}: {', '.join(said)}. NO HOLES, WELDS OR ATTACHMENTS THERE."


def _zone_words(low: float, high: float, length: float, units: Units) -> str:
    """From the end that it is at; of one amid the piece, from where to where."""
    if low < _AT_END:
        return f"LEFT END TO {format_length(high, units)}"
    if length - high < _AT_END:
        return f"LAST {format_length(length - low, units)} AT THE RIGHT END"
    return f"{format_length(low, units)} TO {format_length(high, units)}"


def _questions(job: PieceJob) -> Iterator[str]:
    for words in job.held:
        yield f"HELD BY {ended(words).upper()}"


def _bracing(job: PieceJob) -> Iterator[str]:
    yield from on_gusset_words(job.subject.bracing, job.units)


def _fasteners(job: PieceJob) -> Iterator[str]:
    for where, field in (("SHOP", False), ("SITE", True)):
        for line, n in sorted(counted_bolts(g for g in job.holds if g.field == field).items()):
            yield f"{where}: {n} {_bolt_words(line, job.units)}."
    for some in job.some_bolts:
        yield f"SITE: {some.number} {_bolt_words(some.line, job.units)}, ON {some.pieces} OF {job.required}."


def _bolt_words(line: BoltLine, units: Units) -> str:
    words = _FASTENERS.get(line.kind, "ANCHOR RODS")
    return f"{words} {line.size} {line.grade} x {format_length(line.length, units)}"


def _site_welds(job: PieceJob) -> Iterator[str]:
    for line, n in sorted(counted_welds(job.site_welds).items()):
        yield f"SITE: {_weld_words(line, n, job)}."
    for some in job.some_welds:
        yield f"SITE: {_weld_words(some.line, some.number, job)}, ON {some.pieces} OF {job.required}."


def _weld_words(line: WeldLine, n: int, job: PieceJob) -> str:
    form = "FILLET" if line.form is WeldForm.FILLET else "GROOVE"
    sides = " BOTH SIDES" if line.sides == 2 else ""
    size, run = format_length(line.size, job.units), format_length(line.length, job.units)
    return f"{n} {form} WELD{'S' if n > 1 else ''} {size}{sides} x {run} LONG, {electrode_words(job.electrode)}"


def _copes(job: PieceJob) -> Iterator[str]:
    radii = {round(c.radius, 1) for c in job.subject.main.copes}
    if len(radii) == 1:  # else each cope says its own
        yield f"COPE RADIUS {format_length(radii.pop(), job.units)}."


def _shape(job: PieceJob) -> Iterator[str]:
    if through_walls(job.subject.main):
        yield "HOLES IN THE SIDES GO THROUGH BOTH WALLS UNLESS NOTED."
    if job.camber:
        yield f"CAMBER {format_length(job.camber, job.units)} UP AT THE MIDDLE."
    for mark, part, _ in job.bill:
        for words in forming_words(part, job.units):
            yield f"{mark}: {words}."


def _which_way(job: PieceJob) -> Iterator[str]:
    if job.subject.up is not None:
        yield "EACH LEG IS SEEN FROM THE SIDE ON WHICH ITS NUMBER STANDS IN THE VIEW FROM ABOVE."
        return
    if job.subject.faces:
        yield "FACE A IS THE FACE TOWARDS PLAN NORTH, THEN CLOCKWISE SEEN FROM ABOVE."
    if job.subject.main.section is not None and job.subject.stood is None:
        yield "LEFT END OF THE SHEET IS THE PIECE'S LEFT END."


_NOTES = (
    _questions,
    _holes,
    _slots,
    _centred,
    _welds,
    _fasteners,
    _site_welds,
    _bare,
    _copes,
    _shape,
    _which_way,
    _framing,
    _bracing,
    _bases,
    _zones,
    _work,
)
