"""Facts of the job itself, and at the stage Connect the shop's rules."""

from __future__ import annotations

from functools import partial

import msgspec

from uncus.app.connect_commands import EXPORT_STANDARDS, IMPORT_STANDARDS
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.form import struct_form
from uncus.app.facts.mark_facts import show_rules
from uncus.app.facts.page import Page
from uncus.app.joining import set_rule
from uncus.job.errors import JobError
from uncus.job.records import STANDARDS, ByDepth, Connection
from uncus.units import Units, format_force, format_typed, format_weight, parse_force, parse_length


def show_job(page: Page) -> None:
    session = page.session
    project = session.job.project
    page.title(project.name, project.number or "no number yet")
    replace = msgspec.structs.replace

    def edit(label: str, **values: object) -> bool:
        return session.change(label, (replace(session.job.project, **values),))

    page.heading("Job")
    page.row("Name", TextField("Job name", project.name, lambda t: edit("Job name", name=t)))
    page.row("Number", TextField("Job number", project.number, lambda t: edit("Job number", number=t)))
    page.row("Finish", TextField("Job finish", project.finish, lambda t: edit("Finish", finish=t)))
    page.row(
        "Units",
        ChoiceField("Job units", str(project.units), [str(u) for u in Units], lambda t: edit("Units", units=Units(t))),
        "How lengths and weights are shown; either kind may always be typed.",
    )
    usual = f"{msgspec.structs.replace(project, standard='').designed_by}, by units"
    page.row(
        "Standard",
        ChoiceField("Standard of design", project.standard or usual, [usual, *STANDARDS],
            lambda t: edit("Standard", standard="" if t == usual else t)),
        "What joints are designed by; bolts and plates of either kind may be used under both.",
    )  # fmt: skip
    field = TextField("Work to", project.work, lambda t: edit("Work to", work=t.strip()), placeholder="not said")
    page.row("Work to", field, "The shop's standard and class, as sheets say it: AISC 303, or EN 1090-2 EXC2")
    field = TextField(
        "Tests of welds", project.weld_tests, lambda t: edit("Tests of welds", weld_tests=t.strip()),
        placeholder="not said"
    )  # fmt: skip
    page.row("Tests of welds", field, "As sheets of welded pieces say it: VT 100%, MT 10% of fillets")
    if session.stage == "Connect":
        _shop_rules(page)
    if session.stage == "Mark":
        show_rules(page)
    page.heading("Steel")
    page.fact("Members", str(len(session.shop.assemblies)))
    if session.shop.waiting:
        page.fact("Joints", f"{len(session.job.all(Connection))}, being made")
        return
    page.fact("Connections", str(len(session.shop.connections)))
    page.fact("Gross", format_weight(session.gross(), session.units))
    findings = len(session.shop.known_findings)
    page.fact("Findings", f"▲ {findings}, see Check" if findings else "none")


def _shop_rules(page: Page) -> None:
    """The fabricator's preferences: every connection that says nothing else follows them at once."""
    session = page.session
    page.heading("Shop rules")
    struct_form(
        page.form, session.job.rules, session.units, lambda name, read: set_rule(session, name, read), "Shop rule "
    )
    page.heading("Minimums by depth")
    _by_depth(page)
    page.heading("Standards")
    page.words("Shop rules, presets and rules of joining, shared as one file.")
    page.command(EXPORT_STANDARDS)
    page.command(IMPORT_STANDARDS)


def _by_depth(page: Page) -> None:
    """A row for each depth: bolt, rows, thickness and shear of beams no deeper; a row is typed as words."""
    session = page.session
    rows = session.job.rules.by_depth
    if not rows:
        page.words("None: every beam takes as many rows as its web has room for.")
    for n, row in enumerate(rows):
        field = TextField(f"Up to depth {n + 1}", depth_words(row, session.units), partial(_set_depth, page, n))
        page.row(f"{n + 1}", field, "Depth; bolt; rows; thickness; shear. Empty takes the row away.")
    field = TextField(
        "New row by depth", "", lambda t: _set_depth(page, len(rows), t), placeholder='12"; 3/4; 3; 3/8; 25'
    )
    page.row("Add", field, "Up to which depth; bolt; rows; plate thickness; shear. Leave any but the depth empty.")


def depth_words(row: ByDepth, units: Units) -> str:
    """A row of the shop's table as it is typed."""
    cells = [
        format_typed(row.depth, units),
        row.bolt or "",
        str(row.rows or ""),
        format_typed(row.thickness, units) if row.thickness else "",
        format_force(row.shear, units) if row.shear is not None else "",
    ]
    return "; ".join(cells).rstrip("; ")


def depth_row(text: str, units: Units) -> ByDepth:
    """A typed row of the shop's table. Raises UnitError or JobError."""
    cells = [c.strip() for c in text.split(";")] + [""] * 5
    rows = cells[2]
    if rows and not rows.isdigit():
        raise JobError(f"Rows of bolts are a whole number; “{rows}” is not.")
    return ByDepth(
        parse_length(cells[0], units),
        cells[1] or None,
        int(rows) if rows else None,
        parse_length(cells[3], units) if cells[3] else None,
        parse_force(cells[4], units) if cells[4] else None,
    )


def _set_depth(page: Page, n: int, text: str) -> bool:
    session = page.session

    def read() -> tuple[ByDepth, ...]:
        rows = list(session.job.rules.by_depth)
        rows[n : n + 1] = [depth_row(text, session.units)] if text.strip() else []
        return tuple(sorted(rows, key=lambda row: row.depth))

    return set_rule(session, "by_depth", read)
