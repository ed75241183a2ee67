"""An assembly of the shop made into the subject of a sheet: plain values, all a worker needs."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator

import numpy as np

from uncus.catalog.bolts import HoleKind, bolt_sizes, stud_diameter
from uncus.catalog.sections import Form
from uncus.connect import base_plate
from uncus.connect.kind import Body
from uncus.connect.kinds import KINDS
from uncus.connect.meeting import Meeting, meeting
from uncus.draw.as_stood import stand
from uncus.draw.legs import up_of
from uncus.draw.studs import Stud
from uncus.draw.subject import EndWelds, Fixed, Meets, Subject, hole_key, normal_of
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Placement, Vec, settled_one
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.job import Job
from uncus.job.records import End, Level, Role
from uncus.mark.content import natural
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.forming import laid_flat, unrolled
from uncus.steel.joint import FastenerKind, WeldForm, point
from uncus.steel.part import rolled
from uncus.units import format_elevation

_COMPASS = ("A", "B", "C", "D")  # from the face nearest to the plan's north, clockwise seen from above
_PLUMB = 0.99  # of slope from which a member does not frame to a side of a column but stands on it
_STUB = 350.0  # mm of a support shown to either side, for reference


def of_assembly(assembly: Assembly, marks: Marks, shop: Shop, job: Job) -> Subject:
    """The assembly's parts in its main part's frame; a main part that is rolled to an arc, and what is fixed to it, as
    it is before; one that climbs or is bent as it stands."""
    main = assembly.main
    inverse = main.placement.inverse
    stood = stand(assembly.pieces) if len(assembly.pieces) > 1 else None
    fixed = []
    for piece in assembly.pieces[1:]:
        weld = next((w for w in assembly.welds if piece.id in w.joins), None)
        here = inverse @ piece.placement
        place = unrolled(main.part, here, here.to_model(piece.part.centre)) if stood is None else stood @ here
        fixed.append(Fixed(piece.id, piece.part, place, marks.of_part(piece.id), weld, normal_of(place)))
    fixed.sort(
        key=lambda f: (round(float(f.centre[0]), 1), round(float(f.centre[2]), 1), round(float(f.centre[1]), 1), f.mark)
    )
    body = shop.body(assembly.id)
    along = body is not None and body.arc is None and float(main.placement.x @ body.frame.x) > 0.999
    straight = along and assembly.member.double is None
    return Subject(
        laid_flat(main.part),
        tuple(fixed),
        _sources(assembly, shop),
        _works(assembly, body) if along and body else None,
        tuple(_meets(assembly, shop, marks)) if straight else (),
        _levels(assembly, job),
        _faces(assembly),
        main.part if main.part.is_formed else None,
        tuple(_studs(assembly)),
        end_welds=tuple(_end_welds(assembly)) if straight else (),
        stood=stood,
        up=up_of(assembly.pieces) if stood is None and assembly.member.role is Role.RAIL else None,
        pins=tuple(sorted(_pins(assembly))),
    )


def _studs(assembly: Assembly) -> Iterator[Stud]:
    """The studs that are welded on in the shop."""
    part, inverse = assembly.main.part, assembly.main.placement.inverse
    for group in assembly.holds:
        if group.kind is not FastenerKind.STUD or group.field:
            continue
        out = -np.array(group.axis)
        for head in group.points:
            axes = np.column_stack([out, *np.linalg.svd(out[None])[2][1:]])
            here = inverse @ Placement(np.asarray(head) - group.length * out, axes)
            place = unrolled(part, here, here.origin)
            yield Stud(
                point(place.origin), point(place.axes[:, 0]), stud_diameter(group.size), group.length, group.size
            )


def _pins(assembly: Assembly) -> Iterator[float]:
    """Along the main part, where what was bought with it is pinned to others."""
    bought = {p.id for p in assembly.pieces if p.part.item is not None}
    for group in assembly.holds:
        if group.field and bought.intersection(group.joins):
            yield from (round(float(assembly.main.placement.to_local(np.asarray(head))[0]), 4) for head in group.points)


def _end_welds(assembly: Assembly) -> Iterator[EndWelds]:
    """The fillets that are made on site along the main part near its ends, such as those of a slotted tube."""
    main, found = assembly.main, Counter[tuple[bool, float, float]]()
    for weld in assembly.site_welds:
        xs = main.placement.to_local(np.array(weld.path))[:, 0]
        along = len(weld.path) == 2 and abs(float(xs[1] - xs[0])) > 0.99 * math.dist(*weld.path)
        if weld.form is WeldForm.FILLET and along:
            middle = float(xs.mean())
            found[(middle > main.part.length / 2, round(weld.size, 2), round(weld.length / weld.sides, 1))] += (
                weld.sides
            )
    for (right, size, length), n in sorted(found.items()):
        yield EndWelds(right, size, length, n)


def _sources(assembly: Assembly, shop: Shop) -> tuple[str, ...]:
    """For each of the main part's holes, the joint or attachment that made it."""
    part, body = assembly.main.part, shop.body(assembly.id)
    if body is None or not part.holes:
        return ()
    shift = float(body.stock[0].frame.to_local(assembly.main.placement.origin)[0]) if body.arc is None else 0.0
    made: dict[tuple[object, ...], str] = {}
    for record in (*shop.connections_at(assembly.id), *shop.attachments_at(assembly.id)):
        contribution = shop.connections.get(record.id)
        for owner, f in contribution.features if contribution else ():
            if owner == assembly.id and isinstance(f, Hole):
                made.setdefault((str(f.face), round(f.x - shift, 1), round(f.w, 1)), record.id)
    return tuple(made.get(hole_key(h), "own") for h in part.holes)


def zones_of(assemblies: Iterable[Assembly], shop: Shop) -> tuple[tuple[float, float], ...]:
    """The protected zones of pieces of one mark, in one place of the building or another, along their main parts."""
    found = set()
    for assembly in assemblies:
        body = shop.body(assembly.id)
        if body is not None and assembly.zones:
            start = float(body.frame.to_local(assembly.main.placement.origin)[0])
            found |= {(_shown(z.low - start), _shown(z.high - start)) for z in assembly.zones}
    return tuple(sorted(found))


def _shown(mm: float) -> float:
    return settled_one(mm, 2)


def _works(assembly: Assembly, body: Body) -> tuple[float, float]:
    shift = float(body.frame.to_local(assembly.main.placement.origin)[0])
    return round(-shift, 6) + 0.0, round(body.length - shift, 6)


def _meets(assembly: Assembly, shop: Shop, marks: Marks) -> list[Meets]:
    """What holds each end, as its joint sees it; an end whose joint has no such plane says nothing."""
    found = []
    for record in shop.connections_at(assembly.id):
        kind = KINDS.get(record.kind)
        if record.member != assembly.id or kind is None or record.support is None or record.kind == "setback":
            continue
        joint = shop.joint(record.id)
        try:
            met = meeting(joint) if joint else "gone"
        except (JobError, LookupError, ValueError, ZeroDivisionError):
            continue
        if joint is None or isinstance(met, str) or joint.support is None:
            continue
        shift = float(joint.member.frame.to_local(assembly.main.placement.origin)[0])
        name = marks.of_assembly(joint.support.id) or joint.support.words
        words = f"{name} {_side(met)}"
        stub = _stub(joint.support, met, assembly.main.placement)
        found.append(Meets(record.end is End.RIGHT, met.a - shift, met.ky, met.kz, met.skew, met.slope, words, stub))
    return found


def slips(assembly: Assembly, shop: Shop) -> bool:
    """Whether bolts go through oversize holes of an assembly, and so hold by friction (AISC 360 J3.2)."""
    sizes, pieces = bolt_sizes(), {p.id: p.part for p in assembly.pieces}
    for record in shop.connections_at(assembly.id):
        made = shop.connections.get(record.id)
        for group in made.fasteners if made else ():
            wide = sizes[group.size].hole_size(HoleKind.OVERSIZE)[0] if group.size in sizes else None
            holes = (h for id in group.joins if id in pieces for h in pieces[id].holes)
            if wide is not None and any(abs(h.d - wide) < 0.05 and not h.slot for h in holes):
                return True
    return False


def framing_of(assemblies: Iterable[Assembly], shop: Shop, marks: Marks) -> tuple[tuple[str, float, str], ...]:
    """What frames to each side of the upright pieces of one mark: the side's letter, the height of the work point and
    the mark, or all that frame there to one piece or another."""
    there: dict[tuple[str, float], list[str]] = defaultdict(list)
    for assembly in assemblies:
        for letter, z, mark in _framing(assembly, shop, marks):
            there[(letter, z)].append(mark)
    return tuple((*at, "/".join(sorted(set(found), key=natural))) for at, found in sorted(there.items()))


def bases_of(assemblies: Iterable[Assembly], shop: Shop) -> tuple[tuple[str, float], ...]:
    """By what columns of one mark are levelled on their base plates, and the grout under these."""
    own = (r for a in assemblies for r in shop.connections_at(a.id) if r.member == a.id)
    feet = (r for r in own if r.kind == base_plate.KIND.name and (made := shop.connections.get(r.id)) and made.parts)
    found = (checked(base_plate.Params, r.params) for r in feet)  # what was made has values that can be used
    return tuple(sorted({(p.levelling, p.grout) for p in found}))


def _framing(assembly: Assembly, shop: Shop, marks: Marks) -> list[tuple[str, float, str]]:
    letters, place = dict(_faces(assembly)), assembly.main.placement
    if not letters:
        return []
    outward = [(letters[str(face)], n) for face, n in _outward(place).items()]
    found = []
    for record in shop.connections_at(assembly.id):
        kind, body = KINDS.get(record.kind), shop.body(record.member)
        mark = marks.of_assembly(record.member)
        if record.support != assembly.id or kind is None or not kind.carries or body is None or not mark:
            continue
        away, member = body.away(record.end), body.record
        if abs(float(away[2])) < _PLUMB:
            letter, _ = max(outward, key=lambda side: float(side[1] @ away))
            found.append((letter, round((member.start if record.end is End.LEFT else member.end)[2], 1), mark))
    return found


def _outward(place: Placement) -> dict[Face, Vec]:
    """The way each side of a piece looks."""
    return {Face.WEB: -place.y, Face.BACK: place.y, Face.TOP: place.z, Face.BOTTOM: -place.z}


def _side(met: Meeting) -> str:
    hollow = met.surface.body.section.form in (Form.BOX, Form.TUBE)
    side = "WALL" if hollow else "FLANGE" if met.surface.flange else "WEB"
    n = met.surface.normal
    if abs(float(n[2])) > 0.9:
        return f"{side}, {'TOP' if n[2] > 0 else 'UNDERSIDE'}"
    angle = math.degrees(math.atan2(float(n[0]), float(n[1]))) % 360  # clockwise from north
    return f"{side}, {('N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW')[round(angle / 45) % 8]} SIDE"


def _stub(support: Body, met: Meeting, main: Placement):  # type: ignore[no-untyped-def]
    """A short length of the support where the end meets it, in the main part's frame."""
    x = float(support.frame.to_local(met.body.frame.to_model((met.a, 0.0, 0.0)))[0])
    low, high = max(0.0, x - _STUB), min(support.length, x + _STUB)
    if high - low < 10.0:
        return None
    part, shift = rolled(support.section, "", "", EndCut(low), EndCut(high))
    return part, main.inverse @ support.frame.moved((shift, 0.0, 0.0))


def _levels(assembly: Assembly, job: Job) -> tuple[tuple[float, str], ...]:
    place, units = assembly.main.placement, job.project.units
    if not is_vertical(place.x):
        return ()
    found = []
    for level in sorted(job.all(Level), key=lambda one: one.elevation):
        x = (level.elevation - float(place.origin[2])) / float(place.x[2])
        if -1.0 < x < assembly.main.part.length + 1.0:
            found.append((round(x, 4), f"{level.name.upper()} {format_elevation(level.elevation, units)}"))
    return tuple(found)


def _faces(assembly: Assembly) -> tuple[tuple[str, str], ...]:
    """Letters of an upright piece's sides: A is the one nearest to the plan's north, then clockwise seen from above."""
    place = assembly.main.placement
    if not is_vertical(place.x):
        return ()
    outward = _outward(place)
    north = np.array([0.0, 1.0, 0.0])
    first = max((Face.TOP, Face.BOTTOM), key=lambda f: (round(float(outward[f] @ north), 6), f is Face.TOP))
    start = math.atan2(float(outward[first][0]), float(outward[first][1]))
    letters = []
    for face, n in outward.items():
        turn = math.degrees(math.atan2(float(n[0]), float(n[1])) - start) % 360
        letters.append((str(face), _COMPASS[round(turn / 90) % 4]))
    return tuple(letters)
