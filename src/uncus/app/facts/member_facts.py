"""Facts of members: one or many, each value shared or mixed, each edit one undo."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

import msgspec

from uncus.app import framing
from uncus.app.facts.composite_facts import part_of
from uncus.app.facts.fields import ChoiceField, TextField, shared
from uncus.app.facts.mark_facts import show_marks
from uncus.app.facts.page import Page
from uncus.app.facts.plate_facts import show_plate
from uncus.catalog.grades import GRADES, usual_grade
from uncus.catalog.sections import Form, section, sections
from uncus.frame.arcs import bow_of, replace_bow
from uncus.frame.placement import tidied
from uncus.frame.roll import RollBy, Toes
from uncus.frame.typed import retyped_point
from uncus.job.bought import Placed
from uncus.job.errors import JobError
from uncus.job.forms import FLAGS
from uncus.job.records import END_CUTS, Connection, Double, Layout, Leg, Line, Member, Role, Turnbuckle
from uncus.reference.items import codes
from uncus.shop.whereabouts import whereabouts
from uncus.units import format_angle, format_typed, format_weight, parse_angle, parse_length

Edit = Callable[[str, Callable[[Member], Member]], bool]


def show_members(page: Page, members: list[Member]) -> None:
    session = page.session
    marks = session.marks
    roles = sorted({str(m.role) for m in members})
    if len(members) == 1:
        m = members[0]
        mark = marks.of_assembly(m.id)
        page.title(
            f"{str(m.role).capitalize()}{' ' + mark if mark else ''}",
            f"{whereabouts(session.grid, session.shop.assemblies[m.id])}"
            if m.id in session.shop.assemblies
            else "not in the catalogue",
        )
    else:
        page.title(f"{len(members)} members", ", ".join(roles))
    if session.stage == "Mark":
        show_marks(page, members)
    part_of(page, {m.maker for m in members if m.maker})
    if len(members) == 1 and members[0].blank is not None:
        show_plate(page, members[0])
    if all(m.item is not None for m in members):
        _bought(page, members)
        _results(page, members)
        return
    member_fields(page, members, lambda label, change: _edit(page, label, members, change))
    _work_points(page, members)
    page.button(
        "Flip ends", "Exchange which end is the left one; the steel stays (X)", lambda: framing.flip(page.session)
    )
    _results(page, members)
    _ends(page, members)


def _bought(page: Page, members: list[Member]) -> None:
    """What is asked of a bought item: which it is, and how it is ordered and made; not its section."""
    replace, items = msgspec.structs.replace, [m.item for m in members if m.item is not None]

    def choose(words: str, now: list[str], choices: Sequence[str], give: Callable[[Placed, str], Placed]) -> None:
        def enter(text: str) -> bool:
            return _edit(page, words, members, lambda m: replace(m, item=give(m.item, text)) if m.item else m)

        page.row(words, ChoiceField(words, shared(now), choices, enter))

    page.heading("Bought item")
    choose("Item", [i.code for i in items], codes(page.session.job), lambda i, t: replace(i, code=t))
    choose(
        "Mirror image", [FLAGS[not i.mirrored] for i in items], FLAGS, lambda i, t: replace(i, mirrored=t == FLAGS[0])
    )
    orders = ("finished", "black")
    choose("Ordered", [orders[i.black] for i in items], orders, lambda i, t: replace(i, black=t == orders[1]))


def _edit(page: Page, label: str, members: Sequence[Member], change: Callable[[Member], Member]) -> bool:
    return page.session.attempt(lambda: _put(page, label, [change(m) for m in members]))


def _put(page: Page, label: str, records: Sequence[Member]) -> None:
    with page.session.job.change(label) as c:
        for record in records:
            c.put(record)


def member_fields(page: Page, members: Sequence[Member], edit: Edit) -> None:
    replace = msgspec.structs.replace
    page.heading("Section")
    page.row(
        "Section",
        TextField(
            "Section",
            shared([m.section for m in members]),
            lambda t: edit("Section", lambda m: replace(m, section=section(t).name)),
            offers=list(sections()),
        ),
        "Any usual spelling: w12x26, HSS6X6X1/4, IPE200",
    )
    usual = shared([_usual(m) for m in members]) or "usual"
    grades = [m.grade for m in members]
    page.row(
        "Grade",
        ChoiceField(
            "Grade",
            (shared(grades) or f"{usual} (usual)") if shared(grades) is not None else None,
            [f"{usual} (usual)", *GRADES],
            lambda t: edit("Grade", lambda m: replace(m, grade="" if "(usual)" in t else t)),
        ),
    )
    page.row(
        "Role",
        ChoiceField(
            "Role",
            shared([str(m.role) for m in members]),
            [str(r) for r in Role],
            lambda t: edit("Role", lambda m: replace(m, role=Role(t))),
        ),
    )
    page.row(
        "Lot",
        TextField("Lot", shared([m.lot for m in members]), lambda t: edit("Lot", lambda m: replace(m, lot=t or "1"))),
    )
    finishes = shared([m.finish for m in members])
    page.row(
        "Finish",
        TextField(
            "Finish",
            finishes,
            lambda t: edit("Finish", lambda m: replace(m, finish=t)),
            placeholder=page.session.job.project.finish,
        ),
    )
    _seismic(page, members, edit)
    page.heading("Position")
    page.row(
        "Work line at",
        ChoiceField(
            "Work line at",
            shared([str(m.line) for m in members]),
            [str(x) for x in Line],
            lambda t: edit("Work line", lambda m: replace(m, line=Line(t))),
        ),
        "Which line of the section lies on the work line",
    )
    _length(
        page, "Above it", "rise", members, edit, "How far the section is raised above the work line; minus lowers it"
    )
    _length(
        page,
        "To the far side",
        "aside",
        members,
        edit,
        "How far the section lies beyond the work line",
    )
    page.row(
        "Roll",
        TextField(
            "Roll",
            shared([format_angle(m.roll) for m in members]),
            lambda t: edit("Roll", lambda m: replace(m, roll=parse_angle(t) % 360, roll_by="")),
        ),
        "Degrees about the member's own line",
    )
    _turning(page, members, edit)
    if any(_is_angle(m) for m in members):
        _pair(page, [m for m in members if _is_angle(m)], edit)
    if any(_is_rod(m) for m in members):
        _tie(page, [m for m in members if _is_rod(m)], edit)
    page.heading("Ends")
    _length(page, "Pull back left", "left_back", members, edit, "Takes from the left end; minus runs it on")
    _length(page, "Pull back right", "right_back", members, edit, "Takes from the right end; minus runs it on")
    _cuts(page, members, edit)
    _length(page, "Camber", "camber", members, edit, "Mill camber at the middle")
    _arc(page, members, edit)


_NO, _YES = "no", "yes"


def _seismic(page: Page, members: Sequence[Member], edit: Edit) -> None:
    """Whether they are part of a frame that yields in an earthquake; only where one may be."""
    if all(m.role not in (Role.BEAM, Role.BRACE, Role.RAFTER) for m in members):
        return
    shown = shared([_YES if m.seismic else _NO for m in members])
    page.row(
        "Seismic frame",
        ChoiceField("Seismic frame", shown, [_NO, _YES],
            lambda t: edit("Seismic frame", lambda m: msgspec.structs.replace(m, seismic=t == _YES))),
        "Beams with moment joints and braces that yield in an earthquake have protected zones: sheets show them, and "
        "what is bored, welded or bolted there is found (AISC 341, D1.3).",
    )  # fmt: skip


def _end_cut(edit: Edit, name: str, text: str) -> bool:
    return edit("End cut", lambda m: msgspec.structs.replace(m, **{name: text}))


def _cuts(page: Page, members: Sequence[Member], edit: Edit) -> None:
    """How ends that no joint cuts are cut; of members that climb, by how much they turn."""
    for words, name in (("Left end cut", "left_cut"), ("Right end cut", "right_cut")):
        shown = shared([getattr(m, name) for m in members])
        field = ChoiceField(words, shown, END_CUTS, partial(_end_cut, edit, name))
        page.row(words, field, "Where no joint cuts it: square, plumb or level.")
    climbing = [m for m in members if m.climb is not None]
    if not climbing:
        return

    def turned(m: Member, text: str) -> Member:
        if m.climb is None:
            return m
        climb = msgspec.structs.replace(m.climb, turn=parse_angle(text))
        return msgspec.structs.replace(m, climb=climb, end=tidied(climb.at(m.start, 1.0, m.end[2] - m.start[2])))

    turns = shared([format_angle(m.climb.turn) for m in climbing if m.climb])
    page.row("Turns by", TextField("Turns by", turns, lambda t: edit("Turn", lambda m: turned(m, t))),
        "Degrees about its axis from the left end, to the left where positive.")  # fmt: skip


def _arc(page: Page, members: Sequence[Member], edit: Edit) -> None:
    """How far the middle of members rolled to an arc stands out."""
    units = page.session.units
    page.heading("Rolled to an arc")
    for words, side, help in (
        ("Stands out up", 0, "How far the middle of the arc stands above its straight line; minus hangs below it"),
        ("Stands out left", 1, "How far it stands to the left of its straight line, seen from the left end"),
    ):

        def change(text: str, side: int = side) -> bool:
            return edit("Arc", partial(replace_bow, value=parse_length(text, units), side=side))

        page.row(words, TextField(words, shared([format_typed(bow_of(m)[side], units) for m in members]), change), help)


_BY = "worked out..."


def _turning(page: Page, members: Sequence[Member], edit: Edit) -> None:
    """Roll worked out from supports, and which way toes point: for what is placed."""
    session = page.session
    if not all(m.id in session.job.records for m in members):
        return
    now = shared([m.roll_by for m in members]) or _BY
    field = ChoiceField("Roll by", now, [_BY, *(str(by) for by in RollBy)], lambda t: _roll(page, t), does=True)
    page.row(
        "Roll by",
        field,
        "What the member rests on gives the angle, again whenever that moves; what was used is said below.",
    )
    if any(framing.has_toes(m) for m in members):
        choices = ["as they are", *(str(t) for t in Toes)]
        field = ChoiceField("Toes", choices[0], choices, lambda t: _toes(page, t), does=True)
        page.row("Toes", field, "In: to the middle of the building.")
    if any(framing.has_toes(m) and _is_angle(m) for m in members):
        choices = ["as it is", "down", "up"]
        page.row(
            "Flat leg",
            ChoiceField("Flat leg", choices[0], choices, lambda t: _leg(page, t), does=True),
            "Toes keep their way.",
        )


def _roll(page: Page, text: str) -> bool:
    if text != _BY:
        framing.roll_by(page.session, RollBy(text))
    return True


def _toes(page: Page, text: str) -> bool:
    if text in list(Toes):
        framing.point_toes(page.session, Toes(text))
    return True


def _leg(page: Page, text: str) -> bool:
    if text in ("down", "up"):
        framing.turn_leg(page.session, text == "up")
    return True


def _is_rod(m: Member) -> bool:
    try:
        return section(m.section).form is Form.ROUND
    except LookupError:
        return False


def _tie(page: Page, rods: list[Member], edit: Edit) -> None:
    """The turnbuckle of tie rods."""
    units, (without, with_one) = page.session.units, ("none", "with one")

    def put(turnbuckle: Turnbuckle | None) -> Callable[[Member], Member]:
        return lambda m: msgspec.structs.replace(m, turnbuckle=turnbuckle) if _is_rod(m) else m

    page.heading("Tie rod")
    shown = shared([with_one if m.turnbuckle else without for m in rods])
    page.row(
        "Turnbuckle",
        ChoiceField("Turnbuckle", shown, [without, with_one],
            lambda t: edit("Turnbuckle", put(Turnbuckle() if t == with_one else None))),
        "One length is turned in the clevises at its ends; two are drawn together by a turnbuckle.",
    )  # fmt: skip
    found = [m.turnbuckle for m in rods if m.turnbuckle]
    if found:
        at = shared(["" if t.at is None else format_typed(t.at, units) for t in found])
        page.row(
            "Its middle",
            TextField("Its middle", at, lambda t: edit("Turnbuckle", put(Turnbuckle(parse_length(t, units) if t else
                None))), placeholder="halfway"),
            "From the left work point; empty: halfway.",
        )  # fmt: skip


def _is_angle(m: Member) -> bool:
    try:
        return section(m.section).form is Form.ANGLE
    except LookupError:
        return False


def _pair(page: Page, members: Sequence[Member], edit: Edit) -> None:
    """One angle, or two: how they stand, their gap and stitches."""
    replace = msgspec.structs.replace
    units = page.session.units

    def change(**values: object) -> Callable[[Member], Member]:
        return lambda m: replace(m, double=replace(m.double or Double(), **values)) if _is_angle(m) else m

    def layout(text: str) -> bool:
        if text == "single":
            return edit("Single angle", lambda m: replace(m, double=None))
        return edit("Double angle", change(layout=Layout(text)))

    page.heading("Angles")
    shown = shared([str(m.double.layout) if m.double else "single" for m in members])
    page.row(
        "Angles", ChoiceField("Angles", shown, ["single", *(str(x) for x in Layout)], layout), "One angle, or a pair."
    )
    pairs = [m.double for m in members if m.double]
    if not pairs:
        return
    legs = shared([str(p.leg) for p in pairs])
    page.row(
        "Legs together",
        ChoiceField("Legs together", legs, [str(x) for x in Leg], lambda t: edit("Leg", change(leg=Leg(t)))),
    )
    gap = shared([format_typed(p.gap, units) for p in pairs])
    page.row("Gap", TextField("Gap", gap, lambda t: edit("Gap", change(gap=parse_length(t, units)))))
    count = shared(["" if p.stitches is None else str(p.stitches) for p in pairs])
    page.row(
        "Stitches",
        TextField("Stitches", count, lambda t: edit("Stitches", change(stitches=_count(t))), placeholder="by spacing"),
        "How many stitch plates; empty: by the spacing below.",
    )
    apart = shared(["" if p.spacing is None else format_typed(p.spacing, units) for p in pairs])
    page.row(
        "At most apart",
        TextField(
            "At most apart",
            apart,
            lambda t: edit("Stitch spacing", change(spacing=parse_length(t, units) if t else None)),
            placeholder="none",
        ),
        "The largest spacing of stitch plates, where no count is given.",
    )


def _count(text: str) -> int | None:
    if not text:
        return None
    if not text.isdigit():
        raise JobError(f"Stitches is a whole number; “{text}” is not.")
    return int(text[:6])


def _work_points(page: Page, members: Sequence[Member]) -> None:
    """Where the ends are, each to be typed anew."""
    session = page.session
    page.heading("Work points")
    for words, name in (("Left end at", "start"), ("Right end at", "end")):
        axes = zip(*(getattr(m, name) for m in members), strict=True)
        values = [shared([format_typed(v, session.units) for v in axis]) for axis in axes]

        field = TextField(words, ", ".join(v or "" for v in values), partial(_retype, page, members, name))
        page.row(words, field, "x, y, z from the grid's origin; one left empty stays as it is. Or a crossing: 2/B, 12'")


def _retype(page: Page, members: Sequence[Member], name: str, text: str) -> bool:
    """An end's work point typed anew."""
    session = page.session

    def change(m: Member) -> Member:
        point = retyped_point(text, getattr(m, name), session.grid, session.units)
        return msgspec.structs.replace(m, **{name: point})

    return _edit(page, "Work point", members, change)


def _length(
    page: Page,
    words: str,
    name: str,
    members: Sequence[Member],
    edit: Edit,
    help: str,
) -> None:
    units = page.session.units
    values = [format_typed(getattr(m, name), units) for m in members]
    page.row(
        words,
        TextField(
            words,
            shared(values),
            lambda t: edit(words, lambda m: msgspec.structs.replace(m, **{name: parse_length(t, units)})),
        ),
        help,
    )


def _results(page: Page, members: Sequence[Member]) -> None:
    shop, units = page.session.shop, page.session.units
    found = [shop.assemblies[m.id] for m in members if m.id in shop.assemblies]
    if not found:
        return
    page.heading("Steel")
    if len(found) == 1:
        a = found[0]
        page.fact("Cut length", page.session.length(a.main.part.length))
        page.fact("Work points", page.session.length(a.member.work_length))
        page.fact("Parts", str(len(a.pieces)))
    page.fact("Gross", format_weight(sum(a.gross for a in found), units))
    page.fact("Net", format_weight(sum(a.net for a in found), units))


def _ends(page: Page, members: Sequence[Member]) -> None:
    """The connections of the members: pick one to edit it, or all of a kind."""
    found: dict[str, list[Connection]] = {}
    for m in members:
        for c in page.session.shop.connections_at(m.id):
            if c.member == m.id:
                found.setdefault(c.kind, []).append(c)
    page.heading("Connections")
    if not found:
        page.fact("None", "stage Connect, R joins the ends")
    for kind, connections in found.items():
        if len(members) == 1:
            for c in connections:
                _choose(page, f"{str(c.end).capitalize()} end: {kind}", [c])
        else:
            _choose(page, f"{len(connections)} {kind}s", connections)


def _choose(page: Page, words: str, connections: list[Connection]) -> None:
    wrong = any(page.session.shop.said(c.id) for c in connections)
    ids = {c.id for c in connections}
    page.button(("▲ " if wrong else "") + words, "Edit its facts", lambda: page.session.select(ids), words)


def _usual(member: Member) -> str:
    try:
        return usual_grade(section(member.section))
    except LookupError:
        return "usual"
