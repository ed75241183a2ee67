"""The anchor plan: one sheet set of all that stands on rods."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.draw.anchor_plan import AnchorJob
from uncus.draw.bases import bases
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.kept import entry
from uncus.job.records import Grid

KIND, NAME, OWN = "erection", "AP1", ("anchor plan",)


def entries(of: Needs) -> Iterator[Entry]:
    """It shows all bases, wanted or not, where one that is wanted is among them."""
    job, rules = of.job, of.job.erection
    everything = of.everything
    found, kinds = bases((of.marks.of_assembly(a.id), a) for a in everything)
    if of.wanted.isdisjoint(base.id for base in found):
        return
    standing = of.kept.standing(KIND, OWN, NAME)
    plan = AnchorJob(
        bases=found,
        kinds=kinds,
        grid=next(iter(job.all(Grid)), None),
        under=rules.under.upper(),
        larger=rules.larger,
        template=rules.template,
        **of.said(NAME, standing),
    )
    yield entry(plan, "anchor plan", KIND, tuple(dict.fromkeys(base.id for base in found)), OWN, standing)
