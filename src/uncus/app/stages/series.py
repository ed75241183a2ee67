"""The series of marks in order: prefix and numbers, and which pieces they are for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import cast

import msgspec

from uncus.app import joining
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.page import Page
from uncus.app.stages.ordered import Ordered, OrderedDialog
from uncus.job.errors import JobError
from uncus.job.records import Mark, Role, Series, new_id
from uncus.lens.criteria import allowed
from uncus.lens.grammar import read, write
from uncus.mark.series import limits, name_of

_KINDS = ("assemblies", "parts")


class SeriesDialog(OrderedDialog):
    """The first series that fits a piece gives its mark."""

    title = "Series of marks"
    intro = "For each piece, the first series that fits it:"
    empty = "No series: pieces are marked M1, M2 ... and parts x1, x2 ...; press New."
    heads = ("First", "Last", "For", "Roles or kinds", "Members")
    opens_at = (900, 430)

    @property
    def records(self) -> list[Ordered]:
        return sorted(self.session.job.all(Series), key=lambda s: s.order)

    def cells(self, records: Sequence[Ordered]) -> list[tuple[str, ...]]:
        series = cast("Sequence[Series]", records)
        ends = {s.id: limits(series)[s.id][0] for s in series}
        return [
            (name_of(s, s.start), name_of(s, last) if (last := ends[s.id]) is not None else "", _KINDS[s.parts],
             ", ".join(s.roles) or "all", write(s.members) or "anything")
            for s in series
        ]  # fmt: skip

    def save(self, label: str, records: Sequence[Ordered]) -> bool:
        return joining.in_order(self.session, label, Series, records)

    def another(self, like: Ordered | None) -> Ordered:
        if isinstance(like, Series):
            return msgspec.structs.replace(like, id=new_id(), start=like.start + 100)
        return Series(prefix="B", roles=(Role.BEAM,))

    def form(self, page: Page, record: Ordered) -> None:
        one = cast("Series", record)

        def text(words: str, name: str, shown: str, read_value: Callable[[str], object], help: str = "") -> None:
            page.row(words, TextField(f"Series {words.lower()}", shown,
                lambda t: self.put(one, name, lambda: read_value(t))), help)  # fmt: skip

        page.title(f"{name_of(one, one.start)}, {name_of(one, one.start + one.step)} ...", f"for {_KINDS[one.parts]}")
        page.heading("Numbers")
        text("Prefix", "prefix", one.prefix, str)
        text("First", "start", str(one.start), _whole)
        text("Step", "step", str(one.step), _whole)
        text("Figures", "pad", str(one.pad), _whole, "At least so many: 3 makes B007.")
        text("Last", "last", str(one.last) if one.last is not None else "", lambda t: _whole(t) if t else None,
            "Empty: no end but the next series' start.")  # fmt: skip
        page.heading("Which pieces")
        kinds = ChoiceField("Series for", _KINDS[one.parts], _KINDS,
            lambda t: self.put(one, "parts", lambda: t == _KINDS[1]))  # fmt: skip
        page.row("For", kinds)
        roles = "plate, rolled, or a part's own words such as shear tab" if one.parts else ", ".join(Role)
        text("Roles", "roles", ", ".join(one.roles), lambda t: tuple(r.strip() for r in t.split(",") if r.strip()),
            f"Some of: {roles}; empty for all.")  # fmt: skip
        text("Members", "members", write(one.members), lambda t: allowed(read(t), before=(Mark,)),
            "A lens as text, such as section begins W12 or lot is 2; empty for all.")  # fmt: skip


def _whole(text: str) -> int:
    if not text.strip().isdigit():
        raise JobError(f"A whole number is wanted here; “{text}” is none.")
    return int(text)
