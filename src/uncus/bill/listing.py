"""Lists by template: columns, worked out or as they are, sorted, grouped and added up. Templates are shared in an open
file."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from itertools import groupby

import msgspec

from uncus.bill.formula import formula, is_formula
from uncus.bill.lists import survey_list
from uncus.bill.loads import too_much
from uncus.bill.logo import logo
from uncus.bill.sources import SOURCES, Billing, Row, Source, facts_of, through
from uncus.bill.table import Cell, Column, Subtotal, Table, Unit
from uncus.job.billing import ListColumn, ListTemplate, Load, SortBy
from uncus.job.errors import JobError
from uncus.job.files import json_of
from uncus.mark.content import natural
from uncus.shop.pieces import Assembly

FORMAT = "uncus list templates 1"
_Read = Callable[[Row, Sequence[Row]], Cell]


class Templates(msgspec.Struct, frozen=True):
    """Templates as an office keeps them in a file."""

    templates: tuple[ListTemplate, ...]
    format: str = FORMAT


def to_json(templates: Sequence[ListTemplate]) -> bytes:
    return msgspec.json.format(msgspec.json.encode(Templates(tuple(templates))), indent=1)


def from_json(data: bytes, name: str) -> list[ListTemplate]:
    """Templates of an office's file, each as good as one typed. Raises JobError with the one that is not."""
    found = json_of(data, Templates, name, "list of templates")
    if found.format != FORMAT:
        raise JobError(f"{name} is written as “{found.format[:40]}”, which this version does not read.")
    for template in found.templates:
        if problem := template.problem():
            raise JobError(f"{name}: {problem}")
        if template.logo:
            logo(template.logo)
        checked(template)
    return list(found.templates)


def source_of(template: ListTemplate) -> Source:
    """Raises JobError with the kinds of lists there are."""
    if template.of not in SOURCES:
        raise JobError(f"List “{template.name}” is of “{template.of}”; lists are of {', '.join(SOURCES)}.")
    return SOURCES[template.of]


def checked(template: ListTemplate) -> list[tuple[Column, _Read]]:
    """How each column is read. Raises JobError for one that asks for what its rows do not have."""
    facts = facts_of(source_of(template))
    found = [_column(c, facts) for c in template.columns]
    for what in (*template.group, *(s.what for s in template.sort)):
        if what not in facts:
            raise JobError(f"List “{template.name}” sorts or groups by “{what}”, which its rows do not have.")
    return found


def _column(column: ListColumn, facts: Mapping[str, Column]) -> tuple[Column, _Read]:
    what = column.what.strip()
    if what in facts:
        fact = facts[what]
        if column.total and fact.unit is Unit.TEXT:
            raise JobError(f"“{what}” is words and cannot be added up.")
        return Column(column.words or fact.words, fact.unit, column.total), lambda row, group: row.get(what, "")
    if not is_formula(what):
        raise JobError(f"“{what}” is no fact of these rows; they have {', '.join(facts)}.")
    value, unit = formula(what, facts)

    def read(row: Row, group: Sequence[Row]) -> Cell:
        number = value.read(row, group)
        return "" if number is None else number

    return Column(column.words or what, unit, column.total), read


def listed(template: ListTemplate, of: Billing) -> Table:
    """A list of a job. Raises JobError."""
    source, columns = source_of(template), checked(template)
    if template.lens:
        own = through(of.job, of.shop, template.lens)
        of = Billing(of.job, of.shop, of.marks, _both(own, of.wanted))
    needed = {
        n for n in (*template.group, *(s.what for s in template.sort), *_named(template)) if n not in source.facts
    }
    rows = []
    for row, some in source.rows(of):
        rows.append({**row, **{name: of.asked(name, some) for name in needed}} if needed else row)
    for by in reversed(template.sort):
        rows.sort(key=lambda row: _order(row.get(by.what, "")), reverse=by.falling)
    rows.sort(key=lambda row: tuple(_order(row.get(name, "")) for name in template.group))
    cells: list[tuple[Cell, ...]] = []
    groups: list[Subtotal] = []
    for key, some_rows in groupby(rows, key=lambda row: tuple(row.get(name, "") for name in template.group)):
        group = list(some_rows)
        first = len(cells)
        cells += [tuple(read(row, group) for _, read in columns) for row in group]
        if template.group:
            groups.append(Subtotal(", ".join(str(k) for k in key), first, len(cells)))
    return Table(
        template.name,
        template.title or source.words,
        tuple(c for c, _ in columns),
        tuple(cells),
        tuple(groups),
        (*template.notes, *_told(template, of)),
        template.office,
        template.heading,
        template.landscape,
        template.logo,
    )


def _told(template: ListTemplate, of: Billing) -> list[str]:
    """What has to be said under a list: of what is shipped, which loads are too much."""
    return list(too_much(of.job.all(Load), of.shop.shipped, of.marks, of.units)) if template.of == "shipping" else []


def _both(a: Callable[[Assembly], bool], b: Callable[[Assembly], bool]) -> Callable[[Assembly], bool]:
    return lambda assembly: a(assembly) and b(assembly)


def _named(template: ListTemplate) -> list[str]:
    """What a lens has to be asked for: columns that are a fact of its own, or formulas that hold its name."""
    facts = facts_of(source_of(template))
    own = source_of(template).facts
    more = [name for name in facts if name not in own]
    return [
        n for n in more if any(n == c.what.strip() or (is_formula(c.what) and n in c.what) for c in template.columns)
    ]


def _order(cell: Cell) -> tuple[object, ...]:
    """Numbers by size, words as people read marks; nothing last."""
    if isinstance(cell, int | float):
        return (0, float(cell))
    return (1, natural(cell)) if cell else (2,)


def _template(name: str, of: str, columns: str, totals: str = "", group: str = "", sort: str = "") -> ListTemplate:
    """One of ours: names between bars."""
    added = set(totals.split("|"))
    return ListTemplate(
        id=f"usual {name}", name=name, of=of,
        columns=tuple(ListColumn(c, total=c in added) for c in columns.split("|")),
        group=tuple(filter(None, group.split("|"))), sort=tuple(SortBy(s) for s in filter(None, sort.split("|"))),
    )  # fmt: skip


_OF_PARTS = "mark|number|section or plate|length|grade|holes|weight each, gross|weight each, net|weight|used in"
_OF_HELD = "kind|size|length|grade|place|number|spares|to order"
USUAL: tuple[ListTemplate, ...] = (
    _template("assemblies", "assemblies", "mark|number|main section|role|length|weight each, gross|weight each, net|"
        "weight|bought|lot|where", "number|weight|bought"),
    _template("parts", "parts", _OF_PARTS, "number|weight"),
    _template("cuts", "cuts", "section|grade|length|ends|number|weight|marks", "number|weight", "section|grade"),
    _template("plates", "plates", "mark|number|thickness|width|length|grade|weight each, gross|weight|used in",
        "number|weight", "thickness|grade", "mark"),
    _template("bolts and nuts", "bolts", _OF_HELD, "", "place"),
    _template("rods", "rods", _OF_HELD, "", "place"),
    _template("studs", "studs", _OF_HELD, "", "place"),
    _template("welds", "welds", "place|form|size|number|length", "number|length", "place"),
    _template("bought", "bought", "mark|number|code|maker|item|finish|weight each|weight|used in", "number|weight"),
    _template("paint", "paint", "finish|section or plate|number|area|weight", "number|area|weight", "finish"),
    _template("advance bill", "ordered", "section|grade|length|number|weight each|weight|marks", "number|weight",
        "section"),
    _template("shipping", "shipping", "load|mark|number|main section|length|weight each|weight", "number|weight",
        "lot|load", "mark"),
    _template("sheets", "sheets", "sheet|title|kind|state|revision|pieces", "", "kind", "sheet"),
)  # fmt: skip


_BY_NAME = {template.name: template for template in USUAL}
_IN_PACKAGES = (
    _BY_NAME["assemblies"],
    _BY_NAME["parts"],
    _template("bolts", "held", "kind|size|length|grade|place|number|with each", "number"),
    _BY_NAME["bought"],
)


def all_lists(of: Billing) -> list[Table]:
    """The lists that go with every package; of those that not every job has, what has something in it."""
    tables = [*(listed(template, of) for template in _IN_PACKAGES), survey_list(of.shop, of.marks, of.wanted, of.grid)]
    return [*tables[:3], *(t for t in tables[3:] if t.rows)]


def some_lists(templates: Iterable[ListTemplate], of: Billing) -> tuple[list[Table], list[str]]:
    """Lists by templates, and what is wrong with those that cannot be made: one never stops the others."""
    made, wrong = list[Table](), list[str]()
    for template in templates:
        try:
            made.append(listed(template, of))
        except JobError as error:
            wrong.append(f"List “{template.name}” was not made: {error}")
    return made, wrong


def templates_of(of: Sequence[ListTemplate]) -> list[ListTemplate]:
    """The job's own templates, and the usual ones that none of its own stands for by name."""
    names = {t.name.casefold() for t in of}
    return [*of, *(t for t in USUAL if t.name.casefold() not in names)]


def template_named(of: Sequence[ListTemplate], name: str) -> ListTemplate:
    """Raises JobError with the lists there are."""
    there = templates_of(of)
    found = next((t for t in there if t.name.casefold() == name.strip().casefold()), None)
    if found is None:
        raise JobError(f"There is no list “{name}”; there are {', '.join(t.name for t in there)}.")
    return found
