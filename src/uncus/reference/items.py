"""Bought items in a job: where they are used, and one set in the model by itself."""

from __future__ import annotations

from collections import Counter

import msgspec
import numpy as np

from uncus.catalog.bought import bought_items, key_of
from uncus.catalog.sections import plate_section
from uncus.frame.placement import point_of, unit
from uncus.job.bought import BoughtItem, Placed, shipped_item
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Attachment, Line, Member, Point, Role
from uncus.reference.members import roll_to
from uncus.steel.bodies import item_part


def item_in(job: Job, code: str) -> BoughtItem:
    """A job's own item, or one that ships. Raises JobError."""
    found = job.get(BoughtItem.named(code), BoughtItem) or shipped_item(code)
    if found is None:
        raise JobError(f"There is no bought item “{code}” in this job; take it out of the catalogue first.")
    return found


def codes(job: Job) -> list[str]:
    """The items that may be set in a job: its own, then those that ship."""
    own = sorted(i.code for i in job.all(BoughtItem))
    known = {key_of(c) for c in own}
    return [*own, *(i.code for k, i in bought_items().items() if k not in known)]


def users(job: Job, code: str) -> list[str]:
    """The members that are an item, and those that have it fixed to them."""
    key = key_of(code)
    found = [m.id for m in job.all(Member) if m.item is not None and key_of(m.item.code) == key]
    return found + [a.member for a in job.all(Attachment) if key_of(str(a.params.get("code", ""))) == key]


def uses(job: Job) -> Counter[str]:
    """How often each of a job's items is named, by its id."""
    found: Counter[str] = Counter()
    for member in job.all(Member):
        if member.item is not None:
            found[BoughtItem.named(member.item.code)] += 1
    for one in job.all(Attachment):
        if isinstance(code := one.params.get("code"), str):
            found[BoughtItem.named(code)] += 1
    return found


def set_item(item: BoughtItem, at: Point, out: Point, up: Point, how: Placed | None = None) -> Member:
    """The member that an item is: its foot's middle at a point, standing out in a direction, its own up towards
    another. Raises JobError."""
    how = how or Placed(item.code)
    part, x0, _ = item_part(item.facts, item.body, how.mirrored, how.black)
    x = unit(out)
    z = np.asarray(up, dtype=np.float64) - (np.asarray(up) @ x) * x
    if float(np.linalg.norm(z)) < 1e-6:
        z = np.array((1.0, 0.0, 0.0)) if abs(x[2]) > 0.9 else np.array((0.0, 0.0, 1.0))
        z = z - (z @ x) * x
    thick = min(max(part.thickness, 2.0), 160.0)
    box = plate_section(thick, min(max(part.width, thick), 6000.0), False).name
    end = np.asarray(at) + x * max(part.length + x0, 1.0)
    member = Member(role=Role.BOUGHT, section=box, start=point_of(at), end=point_of(end), line=Line.CENTRE, item=how)
    made = msgspec.structs.replace(member, roll=roll_to(member, unit(z)))
    if problem := made.problem():
        raise JobError(problem)
    return made
