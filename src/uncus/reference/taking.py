"""What of a reference would be made into members: new ones and, of a newer copy, only what changed there.

What was changed by hand on a member since stays, its joints too; what goes from the copy is offered to go here.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable
from enum import StrEnum
from typing import Any, NamedTuple

import msgspec

from uncus.job.job import Job
from uncus.job.records import AnyRecord, Attachment, Connection, Grid, Level, Member, NamesLearnt, derived_id
from uncus.job.references import Reference, Taken
from uncus.reference.levels import Laid, laid_out
from uncus.reference.members import Left, Made, Settings, is_steel, made
from uncus.reference.model import Model, Product
from uncus.reference.profiles import Names
from uncus.units import Units

_SAME = 0.05  # mm and degrees within which a number is what it was


class What(StrEnum):
    NEW = "new"
    CHANGED = "changed"
    GONE = "gone"
    SAME = "as it was"


class Offer(NamedTuple):
    """A member that would be made, changed or taken out: `fields` are what changed in the copy, `notes` what is to be
    said."""

    what: What
    product: str
    name: str
    member: Member
    as_made: dict[str, Any]
    fields: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()
    by: str = ""


class Taking(NamedTuple):
    """All offers of a reference, what stays a reference and why, and what its grid and storeys have."""

    reference: Reference
    offers: tuple[Offer, ...]
    left: tuple[Left, ...]
    laid: Laid

    def of(self, what: What) -> tuple[Offer, ...]:
        return tuple(o for o in self.offers if o.what is what)

    @property
    def open(self) -> tuple[Offer, ...]:
        """What would change something."""
        return tuple(o for o in self.offers if o.what is not What.SAME)

    @property
    def reasons(self) -> Counter[str]:
        """Why products are left, and how many for each reason."""
        return Counter(one.why for one in self.left)


def settings_of(job: Job, fittings: bool = False) -> Settings:
    """How a job makes others' products into members."""
    learnt = job.get("names learnt", NamesLearnt) or NamesLearnt()
    imperial = job.project.units is Units.IMPERIAL
    return Settings(job.project.units, Names(learnt.sections, learnt.grades, imperial), fittings)


def taking(
    job: Job,
    model: Model,
    of: Reference,
    fittings: bool = False,
    tell: Callable[[int, int, str], None] = lambda done, of, words: None,
    stopped: Callable[[], bool] = lambda: False,
    only: Iterable[str] | None = None,
) -> Taking:
    """What of a reference would be made into members; `only` of some products, by their GlobalIds."""
    how, wanted = settings_of(job, fittings), None if only is None else set(only)
    known = {t.product: t for t in job.all(Taken) if t.reference == of.id}
    offers: list[Offer] = []
    left: list[Left] = []
    steel = [n for n, p in enumerate(model.products) if is_steel(p) and (wanted is None or p.guid in wanted)]
    for done, n in enumerate(steel):
        if done % 50 == 0:
            tell(done, len(steel), "products looked at")
            if stopped():
                break
        found = made(model, n, of, how)
        taken = known.get(model.products[n].guid)
        if isinstance(found, Left):
            left.append(found)
            if taken is not None and (member := job.get(taken.member, Member)) is not None:
                note = f"in this copy {found.why}"
                offers.append(Offer(What.GONE, taken.product, found.product.name, member, {}, (), (note,)))
            continue
        one = _offer(job, of, found, taken)
        if isinstance(one, Left):
            left.append(one)
        else:
            offers.append(one)
    there = model.by_guid
    for taken in known.values():
        member = job.get(taken.member, Member)
        if wanted is None and taken.product not in there and member is not None:
            offers.append(Offer(What.GONE, taken.product, str(member.role), member, {}))
    grid = next(iter(job.all(Grid)), None)
    return Taking(of, tuple(offers), tuple(left), laid_out(model, of, grid, job.all(Level)))


def _offer(job: Job, of: Reference, found: Made, taken: Taken | None) -> Offer | Left:
    product, as_made = found.product, msgspec.to_builtins(found.member)
    as_made.pop("id", None)
    if taken is None:
        id = found.member.id if found.by == "ours" else derived_id("member", of.id, product.guid)
        if job.get(id, Member) is not None:
            return Left(product, "it is in this job already")
        member = msgspec.structs.replace(found.member, id=id)
        return Offer(What.NEW, product.guid, product.name, member, as_made, (), found.notes, found.by)
    current = job.get(taken.member, Member)
    if current is None:
        return Left(product, "the member that it was made into was taken out here")
    fields = tuple(n for n, value in as_made.items() if not _alike(value, taken.as_made.get(n)))
    if not fields:
        return Offer(What.SAME, product.guid, product.name, current, taken.as_made, (), found.notes, found.by)
    now = msgspec.to_builtins(current)
    both = [n for n in fields if not _alike(now.get(n), taken.as_made.get(n)) and not _alike(now.get(n), as_made[n])]
    notes = (*found.notes, *(f"its {n.replace('_', ' ')} was changed here as well" for n in both))
    member = msgspec.structs.replace(current, **{n: getattr(found.member, n) for n in fields})
    if problem := member.problem():
        return Left(product, problem)
    return Offer(What.CHANGED, product.guid, product.name, member, as_made, fields, notes, found.by)


def _alike(a: object, b: object) -> bool:
    """Whether two values are one but for the rounding of a file."""
    if isinstance(a, bool) or isinstance(b, bool):
        return a is b
    if isinstance(a, int | float) and isinstance(b, int | float):
        return math.isclose(a, b, abs_tol=_SAME)
    if isinstance(a, list | tuple) and isinstance(b, list | tuple):
        return len(a) == len(b) and all(_alike(x, y) for x, y in zip(a, b, strict=True))
    if isinstance(a, dict) and isinstance(b, dict):
        return a.keys() == b.keys() and all(_alike(v, b[k]) for k, v in a.items())
    return bool(a == b)


def records_of(
    job: Job, found: Taking, chosen: Iterable[Offer], levels: bool = True
) -> tuple[list[AnyRecord], list[str]]:
    """What is put and what is dropped where some offers are taken, and the grid and levels with them."""
    put: list[AnyRecord] = []
    drop: list[str] = []
    of = found.reference
    for offer in chosen:
        id = Taken.named(of.id, offer.product)
        if offer.what is What.GONE:
            gone = offer.member.id
            drop += [gone, id]
            hanging: list[Connection | Attachment] = [*job.all(Connection), *job.all(Attachment)]
            drop += [r.id for r in hanging if gone in r.members]
        elif offer.what is not What.SAME:
            put.append(offer.member)
            put.append(Taken(id=id, reference=of.id, product=offer.product, member=offer.member.id,
                as_made=offer.as_made))  # fmt: skip
    if levels:
        put += [*([found.laid.grid] if found.laid.grid is not None else []), *found.laid.levels]
    return put, list(dict.fromkeys(drop))


def named_products(products: Iterable[Product]) -> str:
    """A few products in words."""
    some = [p.name or p.guid for p in products]
    return ", ".join(some[:4]) + (f" and {len(some) - 4} more" if len(some) > 4 else "")
