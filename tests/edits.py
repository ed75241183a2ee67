"""A job under random edits of every kind and field, beside one that is made anew from its records each time it is
asked."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Iterable

import msgspec
import numpy as np

from uncus.app.canvas.laid import Layouts
from uncus.app.canvas.scene import Solid
from uncus.check.checking import look
from uncus.check.found import Found
from uncus.check.looked import Looked
from uncus.compose.carried import carried
from uncus.compose.following import amended
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kinds import KINDS
from uncus.draw.keeping import edited, issue_of, revised
from uncus.draw.register import past, register
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_in
from uncus.job.blanks import Blank, HoleRow
from uncus.job.composites import Anchor, Composite
from uncus.job.drawings import Hidden
from uncus.job.errors import JobError
from uncus.job.job import Delta, Job
from uncus.job.joinery import SITE_WITH
from uncus.job.records import (
    AdvanceMark,
    Attachment,
    Climb,
    Connection,
    Double,
    Drawing,
    Either,
    End,
    Fact,
    Grid,
    Guide,
    Issue,
    IssuedMark,
    Lens,
    Level,
    Line,
    Loads,
    Mark,
    MarkRules,
    Member,
    OfficeRule,
    Preset,
    Record,
    Role,
    Series,
    SheetPreset,
    StandardPart,
    Turnbuckle,
    View,
    ViewFrame,
    ViewKind,
    WorkPlane,
    new_id,
)  # fmt: skip
from uncus.lens.office import connect
from uncus.mark.kept import issued
from uncus.mark.marker import Marker
from uncus.mark.proposal import apply
from uncus.shop.shop import Shop, build

replace = msgspec.structs.replace
Edit = Callable[[random.Random, "Followed"], Iterable[Record | str] | None]


class Followed:
    """A job whose steel, marks and arrays follow it change by change, as the window's do."""

    def __init__(self, records: Iterable[Record]) -> None:
        self.job = Job(list(records))
        self.job.amend(amended)
        self.job.amend(carried)
        self.shop = build(self.job)
        self.marker = Marker(self.job, self.shop)
        self.layouts, self.solid = Layouts(), Solid()
        self.looked: Looked | None = None
        self.layouts.follow(self.shop.so_far)
        self.job.follow(self._follow)

    def _follow(self, delta: Delta) -> None:
        touched = self.shop.follow(delta)
        self.marker.follow(delta, touched)
        self.layouts.follow(self.shop.so_far, touched.any)

    def found(self) -> set[Found]:
        """All that is found by now, looking again at what changed since it was asked last."""
        self.looked = Looked(self.job, self.shop, before=self.looked)
        return set(look(self.looked).found)

    def some(self, rng: random.Random, kind: type) -> Record | None:
        there = self.job.all(kind)
        return rng.choice(there) if there else None


# -- edits ----------------------------------------------------------------------------------------------
def _field(kind: type, /, **values: list[object]) -> Edit:
    """Another value in one of a record's fields."""

    def edit(rng: random.Random, of: Followed) -> Iterable[Record | str]:
        record = of.some(rng, kind)
        name = rng.choice(sorted(values))
        return [replace(record, **{name: rng.choice(values[name])})] if record is not None else []

    return edit


def _gone(kind: type) -> Edit:
    return lambda rng, of: [r.id] if (r := of.some(rng, kind)) is not None else []


def _moved(rng: random.Random, of: Followed) -> Iterable[Record]:
    m = of.some(rng, Member)
    step = np.array([rng.choice([0.0, 0.4, 0.7, 300.0]) for _ in range(3)])
    return [replace(m, start=tuple((m.start + step).tolist()), end=tuple((m.end + step).tolist()))] if m else []


def _longer(rng: random.Random, of: Followed) -> Iterable[Record]:
    m = of.some(rng, Member)
    way = np.subtract(m.end, m.start) if m else np.zeros(3)
    more = rng.choice([0.4, 0.8, 25.0, -300.0])
    return [replace(m, end=tuple((np.asarray(m.end) + way / np.linalg.norm(way) * more).tolist()))] if m else []


def _copied(rng: random.Random, of: Followed) -> Iterable[Record]:
    m = of.some(rng, Member)
    return (
        [
            replace(
                m,
                id=new_id(),
                start=(m.start[0], m.start[1] + 700, m.start[2]),
                end=(m.end[0], m.end[1] + 700, m.end[2]),
            )
        ]
        if m
        else []
    )


def _pair(rng: random.Random, of: Followed) -> Iterable[Record]:
    m = of.some(rng, Member)
    return [replace(m, section="L4X4X3/8", double=None if m.double else Double(), role=Role.BRACE)] if m else []


def _joined(rng: random.Random, of: Followed) -> Iterable[Record]:
    members = of.job.all(Member)
    if len(members) < 2:
        return []
    one, other = rng.sample(members, 2)
    kind = rng.choice([k for k, v in KINDS.items() if not v.others])
    return [
        Connection(id=f"made {rng.randrange(4)}", kind=kind, member=one.id, end=rng.choice(list(End)), support=other.id)
    ]


def _attached(rng: random.Random, of: Followed) -> Iterable[Record]:
    members = of.job.all(Member)
    if len(members) < 2:
        return []
    one, other = rng.sample(members, 2)
    kind = rng.choice(sorted(ATTACHMENTS))
    return [
        Attachment(
            id=f"attached {rng.randrange(4)}",
            kind=kind,
            member=one.id,
            mate=other.id if ATTACHMENTS[kind].crosses else None,
        )
    ]


def _by_rule(rng: random.Random, of: Followed) -> Iterable[Record]:
    ids = [m.id for m in rng.sample(of.job.all(Member), min(2, len(of.job.all(Member))))]
    return connect(of.job, ids, of.shop, rng.random() < 0.5).records


def _marks_applied(_: random.Random, of: Followed) -> None:
    apply(of.job, of.marker.proposal())


def _marked(rng: random.Random, of: Followed) -> Iterable[Record]:
    m = of.some(rng, Mark)
    how = rng.choice(["typed", "unique", "left out", ""])
    return [replace(m, how=how, mark=rng.choice([m.mark, "B7", "Z1"]) if how == "typed" else m.mark)] if m else []


def _sent(rng: random.Random, of: Followed) -> Iterable[Record]:
    entries = [e for e in register(of.job, of.shop) if e.kind != "plates"]
    e = rng.choice(entries) if entries else None
    today = "2026-03-01"
    return [issue_of(e, today), *issued(of.job, of.shop, lambda a: a.id in e.own, today)] if e else []


def _by_hand(rng: random.Random, of: Followed) -> Iterable[Record]:
    entries = register(of.job, of.shop)
    if not entries:
        return []
    e = rng.choice(entries)
    return [edited(e, Hidden("front|overall"))] if rng.random() < 0.5 else revised([e], "2026-03-02", "changed")


MANY = {  # things of few parts, and values that they are made by
    "ladder": (2, [{"cage": "a cage"}, {}, {"width": 500.0}, {"width": -1.0}]),
    "rail": (2, [{}, {"toe": 100.0}, {"spacing": 600.0}, {"foot": "plate on the side"}, {"height": 900.0}]),
    "grating": (2, [{}, {"panel": 600.0}, {"bearing": "across it"}]),
    "floor plate": (2, [{}, {"spacing": 300.0}]),
    "bent plate": (3, [{}, {"thickness": 9.525}, {"radius": 1.0}]),
    "transition": (2, [{}, {"pieces": 3, "folds": 8}]),
}


def _composed(rng: random.Random, of: Followed) -> Iterable[Record]:
    """A ladder, a rail or the like: free, or hung on a member or a level."""
    kind = rng.choice(sorted(MANY))
    number, params = MANY[kind]
    hosts = [*of.job.all(Member)[:6], *of.job.all(Level)]
    anchors = []
    for n in range(number):
        on = rng.choice(hosts).id if rng.random() < 0.4 and hosts else ""
        at = (500.0 + 900.0 * n, rng.choice([0.0, 400.0]) + 200.0 * n, rng.choice([0.0, 300.0 * n]))
        anchors.append(Anchor(at, on, rng.choice(["", "top"]) if on else ""))
    return [Composite(id=f"many {rng.randrange(3)}", kind=kind, anchors=tuple(anchors), params=rng.choice(params))]


def _revalued(rng: random.Random, of: Followed) -> Iterable[Record]:
    c = of.some(rng, Composite)
    known = MANY.get(c.kind) if c else None
    return [replace(c, params=rng.choice(known[1]))] if c and known else []


def _plated(rng: random.Random, of: Followed) -> Iterable[Record]:
    """A plate of one's own on a member, welded to it, or its outline changed."""
    m = of.some(rng, Member)
    if m is None:
        return []
    if m.blank is not None:
        holes = rng.choice([(), (HoleRow(40.0, 0.0, 20.0),)])
        return [replace(m, blank=replace(m.blank, holes=holes))]
    place = Placement(np.asarray(m.start) + (0.0, 0.0, rng.choice([6.0, 300.0])), np.eye(3))
    made = plate_in(place, Blank(rectangle((0.0, -60.0), (200.0, 60.0))), 12.0, of.job.project.units)
    id = f"plate {rng.randrange(2)}"
    weld = Attachment(id=f"weld of {id}", member=id, kind=rng.choice(["welded on", "bolted on"]), mate=m.id)
    return [replace(made, id=id), weld] if m.id != id else []


LENS = Either((Fact("section", "begins", "W12"), Fact("level", "is", "Roof"), Fact("bolts", "is", "site")))
EDITS: dict[str, Edit] = {
    "member's section": _field(Member, section=["W12X26", "W16X31", "HSS6X6X1/4", "L4X4X3/8", "nonsense"]),
    "member's look": _field(Member, grade=["", "A36"], finish=["", "galvanized"], lot=["1", "2"], role=list(Role)),
    "member's shape": _field(Member, camber=[0.0, 19.0], bow=[(0.0, 0.0, 0.0), (0.0, 200.0, 0.0)],
        left_back=[0.0, 12.0], right_back=[0.0, 30.0]),
    "tie rod": _field(Member, section=["ROD1", "W12X26"], turnbuckle=[None, Turnbuckle(), Turnbuckle(at=900.0)]),
        "seismic frame": _field(Member, seismic=[True, False]),
    "member's line": _field(Member, roll=[0.0, 90.0, 45.0], line=list(Line), rise=[0.0, -50.0], aside=[0.0, 20.0]),
    "member moved": _moved, "member longer": _longer, "member copied": _copied, "member gone": _gone(Member),
        "pair of angles": _pair,
    "joint made": _joined, "joints by rule": _by_rule, "joint gone": _gone(Connection),
        "joint's other end": _field(Connection, end=list(End)),
    "joint's values": _field(Connection, params=[{"rows": 2}, {"rows": 4}, {"thickness": 12.7}, {}, {"rows": "many"}]),
    "joint's kind": _field(Connection, kind=[*KINDS, "of another age"]),
        "joint's loads": _field(Connection, loads=[Loads(), Loads(shear=60e3)], locked=[True, False]),
    "attached": _attached, "attachment's values": _field(Attachment, params=[{}, {"count": 3}, {"at": 500.0}]),
        "attachment gone": _gone(Attachment),
    "shop rules": lambda rng, of: [replace(of.job.rules, **dict([rng.choice([
        ("bolt", "7/8"), ("bolt", "3/4"), ("bolt_grade", "A490"), ("plate_grade", "A572-50"), ("plate_grade", "A36"),
            ("tab_thickness", 12.7),
        ("electrode", "E80"), ("electrode", "E70"), *(("site_with", one) for one in SITE_WITH),
            ("gap", 19.0), ("cope_radius", 20.0), ("pitch", 80.0)])]))],
    "project": lambda rng, of: [replace(of.job.project, **dict([rng.choice([
        ("name", "Another"), ("number", "26-999"), ("units", "metric"), ("units", "imperial"), ("finish", "primer"),
            ("finish", "")])]))],
    "grid": lambda rng, of: [replace(g, numbers=g.numbers[: rng.randrange(1, 9)])] if (g := of.some(rng, Grid))
        else [], "grid gone": _gone(Grid),
    "level": _field(Level, elevation=[0.0, 300.0, 4000.0], name=["Roof", "Slab"]), "level gone": _gone(Level),
    "another level": lambda rng, of: [Level(id=f"level {rng.randrange(3)}", name="Loft",
        elevation=rng.choice([2500.0, 6000.0]))],
    "marks applied": _marks_applied, "mark by hand": _marked, "mark gone": _gone(Mark),
        "mark's content": _field(Mark, content=["stale"], form=["", "x"]),
    "mark rules": _field(MarkRules, holes=[True, False], grade=[True, False], camber=[True, False], lot=[True, False],
        names=[True, False],
                         as_erected=[True, False], tolerance=[0.5, 1.0], policy=["loose", "firm", "frozen"],
                             families=["none", "length"], refill=[True, False]),
    "rules of marks": lambda rng, of: [MarkRules(id="mark rules", policy=rng.choice(["loose", "firm", "frozen"]))],
    "series": _field(Series, prefix=["B", "BM"], start=[1, 101], step=[1, 5],
        members=[LENS, Fact("role", "is", "beam")], order=[0, 3]), "series gone": _gone(Series),
    "another series": lambda rng, of: [Series(id="own series", prefix="Q", roles=(), order=-1, members=LENS)],
    "lens": lambda rng, of: [Lens(id="lens", name="own", rule=LENS)], "office rule": lambda rng,
        of: [OfficeRule(id="rule", order=1, name="x", kind="shear tab")],
    "joint's preset": lambda rng, of: [Preset(id="preset", kind="shear tab", name="heavy", params={"rows": 5})],
    "sheets' preset": lambda rng, of: [SheetPreset(id="sheets", name="own", kinds=("beam", "shear tab"),
        off=("marks",), several=rng.choice([1, 4]))],
    "sheet sent": _sent, "sheet by hand": _by_hand, "sheet's record gone": _gone(Drawing), "copy gone": _gone(Issue),
        "issued mark gone": _gone(IssuedMark),
    "ordered as": lambda rng, of: [AdvanceMark(id="adv", piece=m.id, mark="A1", content="", on="2026-01-01",
        package="AB-1")] if (m := of.some(rng, Member)) else [],
    "many parts": _composed, "values of many parts": _revalued, "many parts gone": _gone(Composite),
    "climbing": _field(Member, climb=[None, Climb(0.0, 0.0, 60.0)], left_cut=["", "plumb"]), "plate": _plated,
    "guide": lambda rng, of: [Guide(id="guide", a=(0, 0, 0), b=(rng.random(), 1, 0))], "plane": lambda rng,
        of: [WorkPlane(id="plane", name="p", origin=(0, 0, 0), x=(1, 0, 0), y=(0, 1, 0))],
    "view": lambda rng, of: [View(id="view", name="v", kind=ViewKind.PLAN, target=(0, 0, 0), yaw=0, pitch=0, scale=1)],
    "frame": lambda rng, of: [ViewFrame(id="frame", name="f", origin=(0, 0, 0), x=(1, 0, 0), y=(0, 0, 1), width=9,
        height=9)],
    "standard part gone": _gone(StandardPart),
}  # fmt: skip


def step(rng: random.Random, of: Followed) -> str:
    """One random edit, undo or redo; its kind. What cannot be is refused whole."""
    if rng.random() < 0.2:
        back = rng.random() < 0.6
        (of.job.undo if back else of.job.redo)()
        return "undo" if back else "redo"
    kind = rng.choice(sorted(EDITS))
    try:
        found = EDITS[kind](rng, of)
        with of.job.change(kind) as change:
            for one in found or ():
                change.drop(one) if isinstance(one, str) else change.put(one)
    except JobError:
        return f"{kind}, refused"
    return kind


# -- against a rebuild ----------------------------------------------------------------------------------
def differences(of: Followed) -> list[str]:
    """Where what followed the job is not as what is made anew from its records."""
    job = Job(list(of.job.records.values()))
    shop = build(job)
    found = []
    if dict(of.job.records) != dict(job.records):
        found.append("records")
    found += steel_differences(of.shop, shop)
    if [_rows(of.marker), _rows(Marker(job, shop))] != [_rows(Marker(job, shop))] * 2:
        found.append("marks")
    if _register(of.job, of.shop) != _register(job, shop):
        found.append("register")
    if of.found() != set(look(Looked(job, shop)).found):
        found.append("checks")
    if _arrays(of.layouts, of.solid) != _arrays(Layouts.of(shop.assemblies.values()), Solid()):
        found.append("arrays")
    return found


def steel_differences(one: Shop, other: Shop) -> list[str]:
    """Where the steel of two shops, or what is said of it, is not the same."""
    names = ("assemblies", "connections", "shipped", "carried")
    found = [f"shop's {name}" for name in names if dict(getattr(one, name)) != dict(getattr(other, name))]
    return found if _said(one) == _said(other) else [*found, "findings"]


def _said(shop: Shop) -> Counter[tuple[str, str]]:
    strengths = [shop.strength(id) for id in shop.connections]
    return Counter((f.about, f.text) for f in (*shop.all_findings, *strengths) if f is not None)


def _rows(marker: Marker) -> object:
    try:
        rows = marker.proposal().rows
    except JobError as error:
        return str(error)
    return sorted(
        (r.part, r.mark, r.state, r.pieces, r.before, r.why, r.contents, r.form, [o.words for o in r.options])
        for r in rows
    )


def _register(job: Job, shop: Shop) -> list[object]:
    return [
        (e.name, e.job.content, e.title, e.pieces, e.own, e.state, e.keeper, e.heirs, e.revision)
        for e in (*register(job, shop), *past(job, shop))
    ]


def _arrays(laid: Layouts, solid: Solid) -> Counter[bytes]:
    """Every instance that is drawn: its shape, where it is and whose."""
    found: Counter[bytes] = Counter()
    for batch in solid.follow(laid, laid.flags((), False)).values():
        shape = batch.shape.triangles.tobytes() + batch.shape.lines.tobytes()
        found.update(
            bytes(str(hash(shape)), "ascii") + place.tobytes() + laid.owners[owner].encode()
            for place, owner in zip(batch.places, batch.owners, strict=True)
        )
    return found


__all__ = ["EDITS", "Followed", "differences", "step"]
