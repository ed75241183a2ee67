"""The office's rules of joining: which members, which ends, what holds them, and the kind and values they get, in
order."""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

import msgspec

from uncus.app import joining
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.page import Page
from uncus.app.facts.value_row import value_row
from uncus.app.stages.ordered import Ordered, OrderedDialog
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.by_rule import ENDS, HOLDING, rules_of
from uncus.connect.kinds import KINDS
from uncus.connect.settings import params_of
from uncus.job.errors import JobError
from uncus.job.forms import checked, fields
from uncus.job.records import Fact, OfficeRule, Preset, new_id
from uncus.lens.criteria import allowed, chosen
from uncus.lens.grammar import read, write

_NEVER = ("setback",)


class RulesDialog(OrderedDialog):
    """The first rule that fits an end and can be made is used."""

    title = "Rules of joining"
    intro = "For each end, the first rule that fits it and can be made:"
    empty = "No rules: press New, or start from the usual ones."
    foot = "Shared with other jobs by “Export standards” among the shop rules."
    heads = ("Name", "Members", "Ends", "Held by", "Kind")
    widths = (28, 150, 120, 52, 120)
    opens_at = (1080, 540)

    @property
    def records(self) -> list[Ordered]:
        return list(rules_of(self.session.job))

    def cells(self, records: Sequence[Ordered]) -> list[tuple[str, ...]]:
        rules = cast("Sequence[OfficeRule]", records)
        said = {k.name: k.words for k in KINDS.values()} | {k.name: k.words for k in ATTACHMENTS.values()}
        kinds = [said.get(r.kind, r.kind) for r in rules]
        return [
            (r.name, write(r.members) or "anything", r.ends, r.holding, k) for r, k in zip(rules, kinds, strict=True)
        ]

    def save(self, label: str, records: Sequence[Ordered]) -> bool:
        return joining.in_order(self.session, label, OfficeRule, records)

    def another(self, like: Ordered | None) -> Ordered:
        if isinstance(like, OfficeRule):
            return msgspec.structs.replace(like, id=new_id(), name=f"{like.name}, more")
        return OfficeRule(order=1, name="Beams", kind="shear tab", members=Fact("role", "is", "beam"))

    def more(self):  # type: ignore[no-untyped-def]
        return [
            (
                "Usual rules",
                "Start again from the usual ones; Ctrl+Z takes it back",
                lambda: self.save("The usual rules", []),
            )
        ]

    def remove(self) -> None:
        if len(self.records) == 1:
            self.session.said.emit("The last rule stays: without any, the usual ones are asked.", True)
            return
        super().remove()

    def form(self, page: Page, record: Ordered) -> None:
        rule = cast("OfficeRule", record)
        page.title(rule.name, f"rule {rule.order}: {self._reach(rule)}")
        page.heading("When")
        page.row("Name", TextField("Rule's name", rule.name, lambda t: self.put(rule, "name", lambda: t)))
        page.row(
            "Members",
            TextField(
                "Members of the rule",
                write(rule.members),
                lambda t: self.put(rule, "members", lambda: allowed(read(t))),
            ),
            'A lens as text, such as role is beam and depth over 12"; “anything” for all.',
        )
        page.row("Ends", ChoiceField("Ends of the rule", rule.ends, ENDS, lambda t: self.put(rule, "ends", lambda: t)))
        holding = ChoiceField("Held by", str(rule.holding), [str(h) for h in HOLDING],
            lambda t: self.put(rule, "holding", lambda: t))  # fmt: skip
        page.row("Held by", holding, "What the end stands at.")
        page.heading("Then")
        kinds = [*(k for k in KINDS if k not in _NEVER), *(k.name for k in ATTACHMENTS.values() if k.crosses)]
        page.row("Kind", ChoiceField("Kind of the rule", rule.kind, kinds, lambda t: self._set_kind(rule, t)))
        presets = [p.name for p in self.session.job.all(Preset) if p.kind == rule.kind]
        picked = any(c.kind == rule.kind for c in self.session.connections)
        offers = ["choose", *presets, *(["the picked joint"] if picked else []), "the kind's own"]
        values = ChoiceField("Values from", "choose", offers, lambda t: self._values_from(rule, t), does=True)
        page.row("Values from", values, "A preset, a joint picked in the model, or none but the kind's own.")
        if rule.kind in {**KINDS, **ATTACHMENTS}:
            for name, about in fields(params_of(rule.kind)).items():
                value_row(page, name, about, [rule], lambda n, v: self._set_value(rule, n, v))

    def _reach(self, rule: OfficeRule) -> str:
        try:
            return f"{len(chosen(rule.members, self.session.job, self.session.shop)):,} pieces are meant"
        except JobError as error:
            return str(error)

    def _set_kind(self, rule: OfficeRule, kind: str) -> bool:
        known = fields(params_of(kind))
        params = {}
        for name, value in rule.params.items():
            if name in known:
                try:
                    checked(params_of(kind), {name: value})
                except JobError:
                    continue
                params[name] = value
        return self.replace(rule, f"Rule {rule.name}: {kind}", kind=kind, params=params)

    def _set_value(self, rule: OfficeRule, name: str, value: object) -> bool:
        params = {k: v for k, v in rule.params.items() if k != name}
        if value is not None:
            params[name] = value
        try:
            checked(params_of(rule.kind), params)
        except JobError as error:
            self.session.said.emit(str(error), True)
            return False
        return self.replace(rule, f"Rule {rule.name}: {name}", params=params)

    def _values_from(self, rule: OfficeRule, text: str) -> bool:
        found: dict[str, object] | None = {} if text == "the kind's own" else None
        if text == "the picked joint":
            found = next((dict(c.params) for c in self.session.connections if c.kind == rule.kind), None)
        preset = next((p for p in self.session.job.all(Preset) if p.kind == rule.kind and p.name == text), None)
        if preset is not None:
            found = dict(preset.params)
        return found is not None and self.replace(rule, f"Rule {rule.name}: values", params=found)
