"""What lists are of: for each kind of row the facts it has, and the rows of a job. A new kind is one entry here."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator
from functools import cache, cached_property, lru_cache

import msgspec
import numpy as np

from uncus.bill.advance import OrderedLength, advance_lengths, alike
from uncus.bill.lists import bolt_counts, used_in, where_of
from uncus.bill.table import Cell, Column, Unit
from uncus.draw.above import above
from uncus.draw.register import register
from uncus.job.billing import Load
from uncus.job.job import Job
from uncus.job.records import ErectionRules, Grid
from uncus.lens.above import Above
from uncus.lens.criteria import named
from uncus.lens.facts import FACTS, Known, Measure
from uncus.mark.lines import AssemblyLine, PartLine, assembly_lines, part_lines
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.steel.describe import billed_length, describe
from uncus.steel.flat import gross_weight, net_weight
from uncus.steel.joint import GOES_WITH, FastenerKind
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh

Row = dict[str, Cell]


def through(job: Job, shop: Shop, lens: str) -> Callable[[Assembly], bool]:
    """Whether a lens, by its name or as it is typed, lets a piece into a bill; without one all are let through. It may
    ask for anything, sheets and findings too. Raises JobError."""
    return named(lens or None, job, shop, cache(above(job, shop)))


class Billing:
    """A marked job, or what of it goes into its lists."""

    def __init__(self, job: Job, shop: Shop, marks: Marks, wanted: Callable[[Assembly], bool] = lambda _: True) -> None:
        self.job, self.shop, self.marks, self.wanted = job, shop, marks, wanted
        self.units = job.project.units
        self.grid = next(iter(job.all(Grid)), None)

    @cached_property
    def lines(self) -> list[AssemblyLine]:
        return assembly_lines(self.shop, self.marks, self.wanted)

    @cached_property
    def chosen(self) -> list[Assembly]:
        return [a for line in self.lines for a in line.assemblies]

    @cached_property
    def parts(self) -> list[PartLine]:
        return part_lines(self.chosen, self.marks)

    @cached_property
    def known(self) -> Known:
        return Known.of(self.job, self.shop, Above())

    def asked(self, name: str, some: Iterable[Assembly]) -> Cell:
        """What a lens would know of some pieces by a fact's name: the words of all, or the number where it is one."""
        fact = FACTS[name]
        found = [fact.read(self.known, a) for a in some]
        if fact.measure is not None:
            numbers = {float(n) for n in found if isinstance(n, int | float)}
            return numbers.pop() if len(numbers) == 1 else ""
        words = {str(w) for one in found if not isinstance(one, int | float) for w in one}
        return ", ".join(sorted(words, key=natural))


def to_order(of: Billing) -> list[OrderedLength]:
    """Every bar that is to be bought by the job's rules, without what is not yet to be. Raises JobError."""
    rules = of.job.advance
    left_out = through(of.job, of.shop, rules.without) if rules.without else lambda _: False
    return advance_lengths(of.shop.shipped.values(), of.marks, rules, lambda a: of.wanted(a) and not left_out(a))


class Source(msgspec.Struct, frozen=True):
    """A kind of rows: its words, the facts of each by name, and how they are made; `pieces` where a row stands for
    pieces of a lens, so that what lenses know can be a column too."""

    name: str
    words: str
    facts: dict[str, Column]
    rows: Callable[[Billing], Iterator[tuple[Row, tuple[Assembly, ...]]]]
    pieces: bool = False


_LENS_UNITS = {Measure.LENGTH: Unit.LENGTH, Measure.WEIGHT: Unit.WEIGHT, Measure.COUNT: Unit.NUMBER}


def facts_of(source: Source) -> dict[str, Column]:
    """All that a column of a list may show."""
    if not source.pieces:
        return source.facts
    more = {
        name: Column(fact.words, _LENS_UNITS[fact.measure] if fact.measure else Unit.TEXT)
        for name, fact in FACTS.items()
        if not fact.above and name not in source.facts
    }
    return {**source.facts, **more}


def _columns(**facts: str) -> dict[str, Column]:
    """Facts by name with `unit: words`."""
    found = {}
    for name, said in facts.items():
        unit, _, words = said.partition(": ")
        found[name.replace("__", ", ").replace("_", " ")] = Column(words, Unit(unit))
    return found


# -- assemblies and parts -----------------------------------------------------------------------------
def _assemblies(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    for line in of.lines:
        a, n = line.first, len(line.assemblies)
        if a.is_bought:
            continue
        row: Row = {"mark": line.mark, "number": n, "main section": a.member.section, "role": str(a.member.role),
            "length": a.main.part.length, "weight each, gross": a.gross, "weight each, net": a.net,
            "weight": a.gross * n, "net": a.net * n, "bought": a.bought * n, "lot": a.member.lot,
            "where": where_of(line, of.grid),
            "area": n * sum(surface(p.part) for p in a.pieces), "parts": len(a.pieces)}  # fmt: skip
        yield row, line.assemblies


def _part_row(of: Billing, line: PartLine) -> Row:
    part, n = line.first.part, len(line.pieces)
    return {"mark": line.mark, "number": n, "section or plate": describe(part, of.units),
        "length": billed_length(part), "width": min(part.width, part.length) if part.section is None else "",
        "thickness": part.thickness or "", "grade": part.grade, "finish": part.finish, "holes": len(part.holes),
        "weight each, gross": gross_weight(part), "weight each, net": net_weight(part),
        "weight": gross_weight(part) * n, "net": net_weight(part) * n, "used in": used_in(line, of.marks),
        "area": surface(part) * n}  # fmt: skip


def _parts(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    for line in of.parts:
        if line.first.part.item is None:
            yield _part_row(of, line), ()


def _plates(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    for line in of.parts:
        part = line.first.part
        if part.item is None and part.section is None:
            yield _part_row(of, line), ()


def _cuts(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    """Bars alike to the saw: section, grade, length and how their ends are sawn."""
    alike: dict[tuple[str, str, float, str], list[PartLine]] = defaultdict(list)
    for line in of.parts:
        part = line.first.part
        if part.section is not None and part.item is None:
            ends = "square" if part.left.square and part.right.square else "mitred"
            alike[part.section.name, part.grade, round(part.length, 1), ends].append(line)
    for (name, grade, long, ends), lines in sorted(alike.items(), key=lambda one: (natural(one[0][0]), one[0][1:])):
        number = sum(len(line.pieces) for line in lines)
        weight = sum(gross_weight(line.first.part) * len(line.pieces) for line in lines)
        marks = ", ".join(line.mark for line in lines)
        yield {"section": name, "grade": grade, "length": long, "ends": ends, "number": number, "marks": marks,
            "weight": weight, "running length": long * number}, ()  # fmt: skip


@lru_cache(maxsize=8192)
def surface(part: Part) -> float:
    """m2 of a part to be painted, holes and copes not taken off."""
    mesh = plain_mesh(part)
    p = mesh.points[mesh.triangles]
    return float(np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum()) / 2e6


def _ordered(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    """Bars at the lengths they are ordered at, ahead of detailing."""
    for (name, grade, long), own in alike(to_order(of)).items():
        marks = ", ".join(sorted({o.mark for o in own if o.mark}, key=natural))
        yield {"section": name, "grade": grade, "length": long, "number": len(own), "weight each": own[0].kg,
            "weight": sum(o.kg for o in own), "marks": marks}, ()  # fmt: skip


# -- what holds -----------------------------------------------------------------------------------------
_EACH = {FastenerKind.BOLT: "nut, washer", FastenerKind.ROD: "2 nuts, plate washer", FastenerKind.STUD: "ferrule"}


def spares(rules: ErectionRules, number: int, place: str) -> int:
    """How many more are sent than are wanted: of what the shop puts in itself none."""
    return 0 if place == "shop" else rules.spares(number)


def _fasteners(of: Billing, kinds: Iterable[FastenerKind], small: bool) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    wanted = set(kinds)
    more: dict[tuple[str, str, str, str], int] = defaultdict(int)
    for b, n in bolt_counts(of.chosen).items():
        kind = FastenerKind(b.kind)
        if kind not in wanted:
            continue
        extra = spares(of.job.erection, n, b.place)
        yield {"kind": b.kind, "size": b.size, "length": b.length, "grade": b.grade, "place": b.place, "number": n,
            "spares": extra, "to order": n + extra, "with each": _EACH[kind]}, ()  # fmt: skip
        for words, each in GOES_WITH[kind]:
            more[words, b.size, b.grade, b.place] += each * n
    if small:
        for (kind_words, size, grade, place), n in sorted(more.items()):
            extra = spares(of.job.erection, n, place)
            yield {"kind": kind_words, "size": size, "length": "", "grade": grade, "place": place, "number": n,
                "spares": extra, "to order": n + extra, "with each": ""}, ()  # fmt: skip


def _welds(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    alike: dict[tuple[str, str, float], list[float]] = defaultdict(list)
    for a in of.chosen:
        for weld in (*a.welds, *a.site_welds):
            alike["site" if weld.field else "shop", str(weld.form), round(weld.size, 2)].append(weld.length)
    for (place, form, size), lengths in sorted(alike.items()):
        yield {"place": place, "form": form, "size": size, "number": len(lengths), "length": sum(lengths)}, ()


# -- what is bought, painted, shipped, drawn --------------------------------------------------------------
def _bought(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    for line in of.parts:
        item, n = line.first.part.item, len(line.pieces)
        if item is not None:
            yield {"mark": line.mark, "number": n, "code": item.code, "maker": item.maker, "item": item.words,
                "finish": line.first.part.finish, "weight each": item.kg, "weight": item.kg * n,
                "used in": used_in(line, of.marks)}, ()  # fmt: skip


def _paint(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    alike: dict[tuple[str, str], Counter[Part]] = defaultdict(Counter)
    for part, number in Counter(p.part for line in of.parts for p in line.pieces if p.part.item is None).items():
        alike[part.finish, describe(part, of.units).split(" x ")[0]][part] += number
    for (finish, what), parts in sorted(alike.items(), key=lambda one: (one[0][0], natural(one[0][1]))):
        yield {"finish": finish or "none", "section or plate": what, "number": parts.total(),
            "area": sum(surface(part) * n for part, n in parts.items()),
            "weight": sum(gross_weight(part) * n for part, n in parts.items())}, ()  # fmt: skip


def _shipping(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    """Each mark on each load, and what no load has by its lot."""
    riding = {id: load.name for load in of.job.all(Load) for id in load.pieces}
    for line in of.lines:
        alike: dict[tuple[str, str], list[Assembly]] = defaultdict(list)
        for a in line.assemblies:
            alike[riding.get(a.id, ""), a.member.lot].append(a)
        for (load, lot), own in sorted(alike.items()):
            yield {"load": load or "on no load", "lot": lot or "no lot", "mark": line.mark, "number": len(own),
                "main section": own[0].member.section, "length": own[0].main.part.length,
                "weight each": own[0].lifted, "weight": own[0].lifted * len(own)}, tuple(own)  # fmt: skip


def _sheets(of: Billing) -> Iterator[tuple[Row, tuple[Assembly, ...]]]:
    there = {a.id for a in of.chosen}
    for e in register(of.job, of.shop):
        if e.kind == "erection" or not there.isdisjoint(e.pieces):
            yield {"sheet": e.name, "kind": e.kind, "title": e.title, "state": str(e.state), "revision": e.revision,
                "pieces": len(e.pieces)}, ()  # fmt: skip


_PART = _columns(
    mark="text: Mark", number="count: Number", section_or_plate="text: Section or plate", length="length: Length",
    width="length: Width", thickness="length: Thickness", grade="text: Grade", finish="text: Finish",
    holes="count: Holes", weight_each__gross="weight: Weight each, gross", weight_each__net="weight: Weight each, net",
    weight="weight: Weight, gross", net="weight: Weight, net", used_in="text: Used in", area="area: Area",
)  # fmt: skip
_HELD = _columns(
    kind="text: Kind", size="text: Size", length="length: Length", grade="text: Grade", place="text: Where",
    number="count: Number", spares="count: Spares", to_order="count: To order", with_each="text: With each",
)  # fmt: skip

SOURCES: dict[str, Source] = {
    one.name: one
    for one in (
        Source("assemblies", "Assemblies", _columns(
            mark="text: Mark", number="count: Number", main_section="text: Main section", role="text: Role",
            length="length: Length", weight_each__gross="weight: Weight each, gross",
            weight_each__net="weight: Weight each, net", weight="weight: Weight, gross", net="weight: Weight, net",
            bought="weight: Bought with it", lot="text: Lot",
            where="text: Where", area="area: Area", parts="count: Parts"), _assemblies, True),
        Source("parts", "Parts", _PART, _parts),
        Source("cuts", "Cut lengths", _columns(
            section="text: Section", grade="text: Grade", length="length: Length", ends="text: Ends",
            number="count: Number", marks="text: Marks", weight="weight: Weight",
            running_length="length: Length in all"), _cuts),
        Source("ordered", "To be ordered ahead", _columns(
            section="text: Section", grade="text: Grade", length="length: Length", number="count: Number",
            weight_each="weight: Weight each", weight="weight: Weight", marks="text: Advance marks"), _ordered),
        Source("plates", "Plates", _PART, _plates),
        Source("bolts", "Bolts, nuts and washers", _HELD, lambda of: _fasteners(of, (FastenerKind.BOLT,), True)),
        Source("rods", "Anchor rods", _HELD, lambda of: _fasteners(of, (FastenerKind.ROD,), True)),
        Source("studs", "Studs", _HELD, lambda of: _fasteners(of, (FastenerKind.STUD,), True)),
        Source("held", "Bolts, rods and studs", _HELD, lambda of: _fasteners(of, FastenerKind, False)),
        Source("welds", "Welds", _columns(
            place="text: Where", form="text: Form", size="length: Size", number="count: Number",
            length="length: Length"), _welds),
        Source("bought", "Bought items", _columns(
            mark="text: Mark", number="count: Number", code="text: Code", maker="text: Maker", item="text: Item",
            finish="text: Finish", weight_each="weight: Weight each", weight="weight: Weight",
            used_in="text: Used in"), _bought),
        Source("paint", "Paint", _columns(
            finish="text: Finish", section_or_plate="text: Section or plate", number="count: Number",
            area="area: Area", weight="weight: Weight"), _paint),
        Source("shipping", "Shipping", _columns(
            load="text: Load", lot="text: Lot", mark="text: Mark", number="count: Number",
            main_section="text: Main section", length="length: Length", weight_each="weight: Weight each",
            weight="weight: Weight"), _shipping, True),
        Source("sheets", "Sheets", _columns(
            sheet="text: Sheet", kind="text: Kind", title="text: Title", state="text: State",
            revision="text: Revision", pieces="count: Pieces"), _sheets),
    )
}  # fmt: skip
