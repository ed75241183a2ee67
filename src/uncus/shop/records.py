"""A job's records as the shop reads them, and what a change of each kind of them touches: one table, nothing else
asks."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from itertools import count
from types import MappingProxyType
from typing import Any, NamedTuple, TypeVar

import msgspec

from uncus.catalog.bought import key_of
from uncus.catalog.fittings import rod_fittings, thread_of
from uncus.catalog.sections import Form, Section, UnknownSection, section
from uncus.connect.kind import Body
from uncus.frame.arcs import arc_of
from uncus.frame.axes import member_frame, section_offset
from uncus.frame.helices import helix_of
from uncus.frame.outlines import polygon
from uncus.frame.placement import Placement
from uncus.job.bought import shipped_item
from uncus.job.job import Delta
from uncus.job.records import AnyRecord, Attachment, Blank, BoughtItem, Connection, Member, Project, ShopRules
from uncus.steel.double import fits
from uncus.steel.joint import Finding

J = TypeVar("J", Connection, Attachment)


class Woken(msgspec.Struct):
    """What is to be made anew after a change: joints, and members with what is fixed to them; members that are
    `gone`; members `beside`, whose steel may change though they are as they were."""

    joints: set[str] = msgspec.field(default_factory=set)
    members: set[str] = msgspec.field(default_factory=set)
    gone: set[str] = msgspec.field(default_factory=set)
    beside: set[str] = msgspec.field(default_factory=set)


class Records:
    """Members, connections, attachments, rules and project; who meets whom. `findings` are told of members that
    cannot be made."""

    def __init__(self, findings: dict[str, tuple[Finding, ...]]) -> None:
        self.findings = findings
        self.bodies: dict[str, Body] = {}
        self.connections: dict[str, Connection] = {}
        self.attachments: dict[str, Attachment] = {}
        self.at: dict[str, set[str]] = defaultdict(set)  # the connections of each member
        self.fixed: dict[str, set[str]] = defaultdict(set)  # and its attachments
        self.placed: dict[str, Member] = {}  # members that are bought items
        self.items: dict[str, BoughtItem] = {}  # by their codes
        self.rules, self.project = ShopRules(), Project()
        self._places = count()
        self._place: dict[str, int] = {}  # of each record in the order of making, by which everything is gone through

    def in_order(self, ids: Iterable[str]) -> list[str]:
        """Ids in the order in which their records were made, so that nothing hangs on how a set happens to lie in
        memory."""
        return sorted(ids, key=lambda id: (self._place.get(id, -1), id))

    def take(self, record: AnyRecord) -> None:
        if record.id not in self._place:
            self._place[record.id] = next(self._places)
        if (row := _TABLE.get(type(record))) is not None:
            row.take(self, record)

    def follow(self, delta: Delta) -> Woken:
        """Take a change in."""
        for edit in delta.edits:
            if edit.before is not None and (row := _TABLE.get(type(edit.before))) is not None:
                row.forget(self, edit.before)
            if edit.after is not None:
                self.take(edit.after)
            else:  # one that comes back comes last, as it does among the job's own
                self._place.pop(edit.id, None)
        woken = Woken()
        for record in (side for edit in delta.edits for side in (edit.before, edit.after) if side is not None):
            if (row := _TABLE.get(type(record))) is not None:
                row.wakes(self, record, woken)
        return woken


# -- members ------------------------------------------------------------------------------------------


def body_of(member: Member, items: Mapping[str, BoughtItem] = MappingProxyType({})) -> Body | str:
    """A member made ready for connections, or why it cannot be. `items` are the job's own, by their codes."""
    try:
        found = section(member.section)
    except UnknownSection as error:
        return str(error)
    if member.double is not None and not fits(found):
        return f"The {member.role} {member.section} cannot be a pair: only angles come in two; choose an L section."
    if member.turnbuckle is not None and thread_of(found) is None:
        return (
            f"The {member.role} {member.section} cannot have a turnbuckle; take a round bar, such as ROD1 or RD24, of "
            f"{', '.join(rod_fittings())}."
        )
    if member.blank is not None and (problem := _blank_problem(member, member.blank, found)):
        return problem
    if member.climb is not None:
        helix = helix_of(member, section_offset(member, found), found.centroid)
        return Body(member, found, helix.at(0.0) if helix else Placement.identity(), helix)
    frame = member_frame(member, found)
    if member.item is not None:
        item = item_of(member.item.code, items)
        if item is None:
            return f"The {member.words} is not among this job's bought items; take it out of the catalogue again."
        if member.item.mirrored and not item.facts.mirrors:
            return f"The {member.words} is not made as a mirror image; set it without."
        if member.item.black and not item.facts.black:
            return f"The {member.words} is not sold without its finish; order it finished."
        return Body(member, found, frame, None, item)
    return Body(member, found, frame, arc_of(member, frame))


def item_of(code: str, items: Mapping[str, BoughtItem]) -> BoughtItem | None:
    """The item of a code: a job's own, or one that ships; None where there is neither."""
    return items.get(key_of(code)) or shipped_item(code)


_OFF = 0.1  # mm by which a plate's outline may miss its section's size


def _blank_problem(member: Member, blank: Blank, found: Section) -> str | None:
    """Why a plate's outline does not go with its section; None where it does."""
    about = f"The {member.role} {member.section}"
    if found.form is not Form.FLAT:
        return f"{about} is cut to an outline and needs a plate to be cut from, such as PL3/8X12."
    try:
        x0, z0, x1, z1 = polygon(blank.outline).bounds
    except ValueError as error:
        return f"{about}: {error}"
    off = max(abs(x0), abs(x1 - member.work_length), abs(z0 + found.d / 2), abs(z1 - found.d / 2))
    if off > _OFF:
        return f"{about} has an outline that its section and work points do not enclose; set its outline anew."
    return None


def _take_member(of: Records, record: Member) -> None:
    if record.item is not None:
        of.placed[record.id] = record
    body = body_of(record, of.items)
    if isinstance(body, str):
        of.findings[record.id] = (Finding(record.id, body),)
    else:
        of.bodies[record.id] = body


def _forget_member(of: Records, record: Member) -> None:
    of.bodies.pop(record.id, None)
    of.placed.pop(record.id, None)


def _member_wakes(of: Records, record: Member, woken: Woken) -> None:
    woken.members.add(record.id)
    if record.id not in of.bodies:
        woken.gone.add(record.id)


# -- joints and attachments ---------------------------------------------------------------------------
def _note(held: dict[str, J], of_member: dict[str, set[str]], record: J) -> None:
    held[record.id] = record
    for id in record.members:
        of_member[id].add(record.id)


def _strike(held: dict[str, J], of_member: dict[str, set[str]], record: J) -> None:
    held.pop(record.id, None)
    for id in record.members:
        of_member[id].discard(record.id)


def _connection_wakes(of: Records, record: Connection, woken: Woken) -> None:
    """Joints at its own member may stand on what it makes."""
    woken.joints |= {record.id} | of.at[record.member]
    woken.beside |= set(record.members)


def _attachment_wakes(_: Records, record: Attachment, woken: Woken) -> None:
    woken.members.update(record.members)


# -- bought items -------------------------------------------------------------------------------------
def _take_item(of: Records, record: BoughtItem) -> None:
    of.items[key_of(record.code)] = record
    _again(of, record)


def _forget_item(of: Records, record: BoughtItem) -> None:
    of.items.pop(key_of(record.code), None)
    _again(of, record)


def _again(of: Records, record: BoughtItem) -> None:
    """Members that are this item, made ready anew."""
    for member in [m for m in of.placed.values() if m.item and key_of(m.item.code) == key_of(record.code)]:
        of.bodies.pop(member.id, None)
        of.findings.pop(member.id, None)
        _take_member(of, member)


def _item_wakes(of: Records, record: BoughtItem, woken: Woken) -> None:
    """Members that are this item, and those that have it fixed to them."""
    code = key_of(record.code)
    for member in of.placed.values():
        if member.item and key_of(member.item.code) == code:
            _member_wakes(of, member, woken)
    for one in of.attachments.values():
        if key_of(str(one.params.get("code", ""))) == code:
            woken.members.update(one.members)


# -- rules and project --------------------------------------------------------------------------------
def _set(of: Records, name: str, record: ShopRules | Project) -> None:
    setattr(of, name, record)


def _rules_wake(of: Records, _: ShopRules, woken: Woken) -> None:
    """Every joint, what is fixed to members, and the stitch plates of pairs."""
    woken.joints |= set(of.connections)
    woken.members |= {member for member, ids in of.fixed.items() if ids}
    woken.members |= {id for id, body in of.bodies.items() if body.record.double is not None}


def _project_wakes(of: Records, _: Project, woken: Woken) -> None:
    woken.members |= set(of.bodies)


class _Row(NamedTuple):
    """How a kind of record is taken in and let go, and what a change of it (either side of it) wakes."""

    take: Callable[[Records, Any], None]
    forget: Callable[[Records, Any], None]
    wakes: Callable[[Records, Any, Woken], None]


_TABLE: dict[type, _Row] = {
    Member: _Row(_take_member, _forget_member, _member_wakes),
    BoughtItem: _Row(_take_item, _forget_item, _item_wakes),
    Connection: _Row(
        lambda of, record: _note(of.connections, of.at, record),
        lambda of, record: _strike(of.connections, of.at, record),
        _connection_wakes,
    ),
    Attachment: _Row(
        lambda of, record: _note(of.attachments, of.fixed, record),
        lambda of, record: _strike(of.attachments, of.fixed, record),
        _attachment_wakes,
    ),
    ShopRules: _Row(
        lambda of, record: _set(of, "rules", record), lambda of, _: _set(of, "rules", ShopRules()), _rules_wake
    ),
    Project: _Row(
        lambda of, record: _set(of, "project", record), lambda of, _: _set(of, "project", Project()), _project_wakes
    ),
}  # records of other kinds touch no steel
