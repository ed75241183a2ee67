"""Facts of the job itself, and at the stage Connect the shop's rules."""

from __future__ import annotations

import msgspec

from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.page import Page
from uncus.catalog.bolts import bolt_sizes
from uncus.catalog.grades import BOLT_GRADES
from uncus.units import Units, format_typed, format_weight, parse_length


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
    if session.stage == "Connect":
        _shop_rules(page)
    page.heading("Steel")
    page.fact("Members", str(len(session.shop.assemblies)))
    page.fact("Connections", str(len(session.shop.connections)))
    page.fact("Gross", format_weight(session.gross(), session.units))
    findings = len(session.shop.all_findings)
    page.fact("Findings", f"▲ {findings}, see Check" if findings else "none")


def _shop_rules(page: Page) -> None:
    """The fabricator's preferences: every connection that says nothing else follows them at once."""
    session, rules = page.session, page.session.job.rules
    units = session.units

    def put(label: str, **values: object) -> bool:
        return session.change(f"Shop rule: {label}", (msgspec.structs.replace(session.job.rules, **values),))

    page.heading("Shop rules")
    bolts = [b.name for b in bolt_sizes().values()]
    page.row("Bolt", ChoiceField("Shop rule bolt", rules.bolt, bolts, lambda t: put("bolt", bolt=t)))
    grades = list(BOLT_GRADES)
    page.row(
        "Bolt grade",
        ChoiceField("Shop rule bolt grade", rules.bolt_grade, grades, lambda t: put("grade", bolt_grade=t)),
    )
    for name, words in _RULE_WORDS.items():

        def enter(text: str, name: str = name, words: str = words) -> bool:
            return session.attempt(lambda: _put_rule(page, name, words, text))

        page.row(words, TextField(f"Shop rule {words.lower()}", format_typed(getattr(rules, name), units), enter))


def _put_rule(page: Page, name: str, words: str, text: str) -> None:
    value = parse_length(text, page.session.units)
    with page.session.job.change(f"Shop rule: {words.lower()}") as change:
        change.put(msgspec.structs.replace(page.session.job.rules, **{name: value}))


_RULE_WORDS = {
    "tab_thickness": "Tab thickness",
    "tab_weld": "Least weld leg",
    "pitch": "Pitch",
    "edge": "Edge distance",
    "gap": "Gap at beam ends",
    "cope_radius": "Cope radius",
    "base_thickness": "Base plate",
}
