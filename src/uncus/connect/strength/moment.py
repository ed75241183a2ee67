"""Strength of moment joints, splices of I sections, knees and apexes. A moment goes as a couple through the flanges,
the shear through the web."""

from __future__ import annotations

import math

from uncus.catalog.sections import Form
from uncus.connect.strength.case import Case, plate_grid
from uncus.connect.strength.shear import shear_tab
from uncus.steel.part import Part


def _couple(case: Case) -> float:
    """The greater force of a flange from moment and axial force."""
    s = case.joint.member.section
    return case.moment / max(1.0, s.d - s.tf) + abs(case.axial) / 2


def column_side(case: Case, force: float, bearing: float, stiffened: bool, doubled: float) -> None:
    """What a flange's force does to the column: its flange and web, and the panel between (AISC 360 J10)."""
    support, code = case.joint.support, case.code
    if support is None or support.section.form is not Form.I:
        return
    s, steel = support.section, case.body_steel(support)
    if not stiffened:
        case.add(code.flange_bending("column flange", force, s.tf, steel))
        case.add(code.web_yielding("column web", force, s.tw + doubled, s.tf + s.r, bearing, steel))
        case.add(code.web_crippling("column web", force, s.tw + doubled, s.tf, s.d, bearing, steel))
    case.add(code.panel_shear("column panel", force, s.d, s.tw + doubled, steel))


def _between_flanges(case: Case, force: float) -> bool:
    """Plates between a column's flanges: their welds to it and their shear along both flanges. False: the beam is
    not held by such."""
    lines = [w for w in case.made.welds if w.key.startswith("top plate to ")]
    if not lines:
        return False
    plate = case.part("top plate")
    steel, flanges = case.steel(plate), [w for w in lines if w.key.endswith("flange")]
    case.add(case.code.fillet("plate between the column's flanges", force, min(w.size for w in lines),
        sum(w.length for w in lines), steel))  # fmt: skip
    long = sum(w.length / w.sides for w in flanges)
    case.add(case.code.shear_yielding("plate along the column's flanges", force, long * plate.thickness, steel))
    case.leave("bending of the column's web and flanges by plates between them")
    if any(p.key.startswith("behind") for p in case.made.parts):
        case.leave("the stiffeners behind the column's web, and their welds")
    return True


def _end_width(plate: Part) -> float:
    """The width of a flange plate at its free end."""
    ends = [z for x, z in plate.outline if x > plate.length - 0.1]
    return max(ends) - min(ends)


def _skewed(case: Case) -> None:
    """What a beam that is not square to the column's flange does to it besides."""
    support = case.joint.support
    if support is None or case.joint.member.section.form is not Form.I:
        return
    lean = max(
        abs(float(case.joint.member.frame.y @ way)) for way in (support.frame.y, support.frame.z, support.frame.x)
    )
    if lean < 0.9999:
        case.leave(
            "twist of the column by a skewed beam, and the share of its flanges' force along the column's flange"
        )


def _stiffening(case: Case) -> tuple[bool, float]:
    """Whether there are continuity plates, and how much doublers add to the web."""
    plates = [p for p in case.made.parts if p.key.startswith("continuity")]
    doublers = [p for p in case.made.parts if p.key.startswith("doubler")]
    return bool(plates), sum(p.part.thickness for p in doublers)


def _continuity(case: Case, force: float) -> None:
    plates = [p.part for p in case.made.parts if p.key.startswith("continuity top")]
    support = case.joint.support
    if not plates or support is None:
        return
    s = support.section
    wide = (s.b - s.tw) / 2 - 25.0
    case.add(case.code.tension_yielding("continuity plates", force / 2, 2 * wide * plates[0].thickness,
        case.steel(plates[0])))  # fmt: skip


def moment_end_plate(case: Case) -> None:
    """Bolts of the tension side, the plate as a strip between flange and bolts, flange and web welds, the column.

    The strip between the flange and the bolts beside it carries half of what the bolts do, bent both ways.
    """
    code, beam = case.code, case.joint.member
    s, own = beam.section, case.body_steel(beam)
    plate, group = case.part("plate"), case.group("bolts")
    steel = case.steel(plate)
    zs = sorted({round(h.w, 1) for h in plate.holes}, reverse=True)
    middle = _flange_level(case, plate)
    top = [z for z in zs if z > (zs[0] + zs[-1]) / 2 - 1]
    bottom = middle - (s.d - s.tf)
    arms = [z - bottom for z in top]
    one = case.bolting(group, 1)
    # moment by the bolts' arms: each row of two at its full tension (the prying is kept out by the plate's own check)
    pulled = one._replace(number=2 * len(top), worth=2.0 * len(top))
    mean = sum(arms) / len(arms)
    case.add(
        code.bolt_tension("bolts at the flange that is pulled", case.moment / mean + max(0.0, case.axial) / 2, pulled)
    )
    pressed = one._replace(number=one.number - pulled.number, worth=float(one.number - pulled.number))
    if pressed.number:
        case.add(code.bolt_shear("bolts at the flange that is pressed", case.shear, pressed))
    beside = min(abs(z - middle) for z in top) - s.tf / 2
    force = _couple(case)
    case.add(code.bending("end plate beside the flange", force / 2 * max(1.0, beside) / 2, plate.thickness,
        plate.length, steel))  # fmt: skip
    case.add(code.shear_yielding("end plate beside the flange", force / 2, plate.length * plate.thickness, steel))
    flange = case.weld("top flange")
    if flange.form == "fillet":
        case.add(code.fillet("weld of a flange", force, flange.size, 2 * s.b - s.tw, own, across=True))
    else:
        case.add(code.tension_yielding("flange at its groove weld", force, s.b * s.tf, own))
    web = case.weld("web")
    case.add(code.fillet("weld of the web", case.shear, web.size, web.length, own))
    case.add(code.shear_yielding("beam web", case.shear, s.d * s.tw, own))
    stiff, doubled = _stiffening(case)
    column_side(case, force, s.tf + 2 * plate.thickness, stiff, doubled)
    _continuity(case, force)
    _skewed(case)


def _flange_level(case: Case, plate: Part) -> float:
    """z of the middle of the top flange in the plate's frame."""
    flange = case.weld("top flange")
    made = next(p for p in case.made.parts if p.key == "plate")
    z = sum(float(made.placement.to_local(at)[2]) for at in flange.path) / len(flange.path)
    return z - case.joint.member.section.tf / 2


def flange_plates(case: Case) -> None:
    """Both flange plates, their bolts and welds, the beam's flange net section; the web's tab under the shear."""
    code, beam = case.code, case.joint.member
    s, own = beam.section, case.body_steel(beam)
    plate, group = case.part("top plate"), case.group("top bolts")
    steel, t = case.steel(plate), plate.thickness
    force = case.moment / (s.d + t) + abs(case.axial) / 2
    one = case.bolting(group, 1)
    grid = plate_grid(plate, [type(h)(h.face, h.w, h.x, h.d) for h in plate.holes])  # loaded along x
    rows = grid.rows
    edge = plate.length - max(h.x for h in plate.holes)
    net = code.net_hole(one.hole)
    wide = _end_width(plate)
    gage = max(h.w for h in plate.holes) - min(h.w for h in plate.holes)
    case.add(code.bolt_shear("bolts in a flange plate", force, one))
    case.add(code.bearing("flange plate", force, one, t, steel, edge, grid.pitch, (wide - gage) / 2, rows))
    case.add(
        code.bearing("beam flange", force, one, s.tf, own, case.joint.rules.edge, grid.pitch, (s.b - gage) / 2, rows)
    )
    case.add(code.tension_yielding("flange plate", force, wide * t, steel))
    case.add(code.tension_rupture("flange plate", force, (wide - 2 * net) * t, 1.0, steel))
    long = edge + (rows - 1) * grid.pitch
    case.add(code.block_shear("flange plate", force, 2 * long * t, 2 * (long - (rows - 0.5) * net) * t,
        (wide - gage - net) * t, steel, concentric=True))  # fmt: skip
    case.add(code.compression("flange plate", force, wide * t, steel, 0.65 * (plate.length - long), t / math.sqrt(12)))
    case.add(code.tension_rupture("beam flange", force, (s.b - 2 * net) * s.tf, 1.0, own))
    stiff, doubled = _stiffening(case)
    if not _between_flanges(case, force):
        column_side(case, force, t, stiff, doubled)
        _continuity(case, force)
    _skewed(case)
    shear_tab(case)


def welded_moment(case: Case) -> None:
    """Flanges by their groove welds, the web's tab under the shear, the column."""
    s, own = case.joint.member.section, case.body_steel(case.joint.member)
    force = _couple(case)
    case.add(case.code.tension_yielding("flange at its groove weld", force, s.b * s.tf, own))
    stiff, doubled = _stiffening(case)
    if _between_flanges(case, force):
        plate = case.part("top plate")
        case.add(case.code.tension_yielding("plate past the column's flanges", force,
            _end_width(plate) * plate.thickness, case.steel(plate)))  # fmt: skip
    else:
        column_side(case, force, s.tf, stiff, doubled)
        _continuity(case, force)
    _skewed(case)
    shear_tab(case)


def splice(case: Case) -> None:
    """Flange plates under the couple and axial force, web plates under the shear off its middle."""
    code, beam = case.code, case.joint.member
    s, own = beam.section, case.body_steel(beam)
    plate, group = case.part("top plate"), case.group("top member")
    steel, t = case.steel(plate), plate.thickness
    force = case.moment / (s.d + t) + abs(case.axial) / 2
    one = case.bolting(group, 1)
    rows = len(group.points) // 2
    edge, pitch = _run(plate, rows)
    gage = max(h.w for h in plate.holes) - min(h.w for h in plate.holes)
    net = code.net_hole(one.hole)
    case.add(code.bolt_shear("bolts in a flange", force, one))
    case.add(code.bearing("flange plate", force, one, t, steel, edge, pitch, (plate.width - gage) / 2, rows))
    case.add(code.bearing("flange", force, one, s.tf, own, edge, pitch, (s.b - gage) / 2, rows))
    case.add(code.tension_yielding("flange plate", force, plate.width * t, steel))
    case.add(code.tension_rupture("flange plate", force, (plate.width - 2 * net) * t, 1.0, steel))
    case.add(code.tension_rupture("flange", force, (s.b - 2 * net) * s.tf, 1.0, own))
    if not case.has("web near"):
        return
    web, bolts = case.part("web near"), case.group("web member")
    two = case.bolting(bolts, 2, _reach(bolts, case))
    case.add(code.bolt_shear("bolts in the web", case.shear, two))
    n = len({round(h.w, 1) for h in web.holes})
    low = min(h.w for h in web.holes) - web.depth_range[0]
    zs = sorted({round(h.w, 1) for h in web.holes})
    apart = zs[1] - zs[0] if n > 1 else 0.0
    case.add(code.shear_yielding("web plates", case.shear, 2 * web.width * web.thickness, case.steel(web)))
    case.add(code.shear_rupture("web plates", case.shear, 2 * (web.width - n * net) * web.thickness, case.steel(web)))
    case.add(code.bearing("web plates", case.shear, two, 2 * web.thickness, case.steel(web), low, apart, edge, n))
    case.add(code.bearing("web", case.shear, two, s.tw, own, 10 * two.size.d, apart, edge, n))
    case.add(
        code.bending("web plates", case.shear * _reach(bolts, case), web.width, 2 * web.thickness, case.steel(web))
    )


def _run(plate, rows: int) -> tuple[float, float]:  # type: ignore[no-untyped-def]
    """End distance and pitch along a splice plate, at its member's end."""
    xs = sorted({round(h.x, 1) for h in plate.holes})
    return xs[0], xs[1] - xs[0] if rows > 1 else 0.0


def _reach(group, case: Case) -> float:  # type: ignore[no-untyped-def]
    """From the splice to the middle of the web's bolts at one side."""
    body, end = case.joint.member, case.joint.record.end
    here = body.end(end)
    away = body.away(end)
    along = [float((p[0] - here[0]) * away[0] + (p[1] - here[1]) * away[1] + (p[2] - here[2]) * away[2]) for p
        in group.points]  # fmt: skip
    return sum(along) / len(along)


def plates_in_line(case: Case) -> None:
    """Knees and apexes: end plates face to face, bolts at the top pulled or those at the bottom, whichever is less."""
    code, rafter = case.code, case.joint.member
    s, own = rafter.section, case.body_steel(rafter)
    plate, group = case.part("plate"), case.group("bolts")
    one = case.bolting(group, 1)
    zs = sorted((h.w for h in plate.holes), reverse=True)
    deep = zs[0] - zs[-1] + 2 * s.tf
    top = [z for z in zs if z > (zs[0] + zs[-1]) / 2]
    low = zs[-1] - s.tf
    arm = sum(z - low for z in top) / len(top)
    case.add(code.bolt_tension("bolts that are pulled", case.moment / arm + max(0.0, case.axial) / 2,
        one._replace(number=len(top), worth=float(len(top)))))  # fmt: skip
    case.add(code.bolt_shear("bolts that are pressed", case.shear,
        one._replace(number=len(zs) - len(top), worth=float(len(zs) - len(top)))))  # fmt: skip
    force = case.moment / max(deep - s.tf, 1.0) + abs(case.axial) / 2
    beside = case.joint.rules.edge - s.tw / 2
    case.add(code.bending("end plate beside the flange", force / 2 * max(10.0, beside) / 2, plate.thickness,
        plate.length, case.steel(plate)))  # fmt: skip
    case.add(code.tension_yielding("rafter flange", force, s.b * s.tf, own))
    web = case.weld("web")
    case.add(code.fillet("weld of the web", case.shear, web.size, web.length, own))
    case.add(code.shear_yielding("rafter web", case.shear, s.d * s.tw, own))
    stiffened = any("stiffener" in p.key for p in case.made.parts)
    if case.joint.record.kind == "knee":
        column_side(case, force, s.tf + 2 * plate.thickness, stiffened, 0.0)
