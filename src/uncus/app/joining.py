"""What the interface does to joints and attachments: each one undo step, each refusal one sentence."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import msgspec

from uncus.app.session import Session
from uncus.connect.attachments.kind import AttachmentKind
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kind import Body
from uncus.connect.kinds import KINDS
from uncus.connect.settings import Joined, free, like, other_side, params_of, swapped
from uncus.connect.situation import near_pairs
from uncus.connect.standards import from_json, of_job, taken_in, to_json
from uncus.deliver.reactions import Taken, taken, to_csv
from uncus.job.errors import JobError
from uncus.job.files import read_outside, write_beside
from uncus.job.forms import checked, fields
from uncus.job.records import Attachment, Connection, Loads, OfficeRule, Preset, Series, ShopRules, new_id
from uncus.units import counted


def _put(session: Session, label: str, make: Callable[[], Sequence[Any]]) -> bool:
    """Records made and put as one change, or the refusal said."""

    def work() -> None:
        records = make()
        with session.job.change(label) as change:
            for record in records:
                change.put(record)

    return session.attempt(work)


def words_of(record: Joined) -> str:
    found = KINDS.get(record.kind) if isinstance(record, Connection) else ATTACHMENTS.get(record.kind)
    return found.words if found else record.kind


def set_value(session: Session, records: Sequence[Joined], name: str, value: Any) -> bool:
    """One value of several joints (None: by rule), those that are locked apart."""

    def make() -> list[Joined]:
        out = []
        for r in free(records):
            params = {k: v for k, v in r.params.items() if k != name}
            if value is not None:
                params[name] = value
            checked(params_of(r.kind), params)
            out.append(msgspec.structs.replace(r, params=params))
        return out

    about = fields(params_of(records[0].kind))[name]
    return _put(session, f"{about.words} of {counted(len(records), 'joint')}", make)


def set_kind(session: Session, connections: Sequence[Connection], kind: str) -> bool:
    """Swap the kind, keeping what carries over."""
    return _put(session, f"{counted(len(connections), 'joint')} to {kind}",
        lambda: [swapped(c, kind) for c in free(connections)])  # type: ignore[arg-type]  # fmt: skip


def set_load(session: Session, connections: Sequence[Connection], name: str, value: float | None) -> bool:
    def make() -> list[Connection]:
        out = []
        for c in connections:
            loads = msgspec.structs.replace(c.loads or Loads(), **{name: value})
            out.append(msgspec.structs.replace(c, loads=loads if loads != Loads() else None))
        return out

    return _put(session, f"Load of {counted(len(connections), 'joint')}", make)


def lock(session: Session, records: Sequence[Joined]) -> bool:
    """Lock those that are free; unlock where all are locked."""
    on = not all(r.locked for r in records)
    words = f"{'Lock' if on else 'Unlock'} {counted(len(records), 'joint')}"
    return _put(session, words, lambda: [msgspec.structs.replace(r, locked=on) for r in records])


def flip_side(session: Session) -> None:
    """Plates of the selected joints to the other side of the web."""
    found = session.connections
    if not found:
        session.said.emit("Pick a joint first: at the stage Connect, click its plate or a bolt.", True)
        return
    _put(session, f"Side of {counted(len(found), 'joint')}",
        lambda: [other_side(c, session.job.rules) for c in free(found)])  # type: ignore[arg-type]  # fmt: skip


def copy_settings(session: Session) -> None:
    """Keep the values of one joint or attachment, to be given to others."""
    found: list[Connection | Attachment] = [*session.connections, *session.attachments]
    if len(found) != 1:
        session.said.emit("Pick the one joint whose values should be given to others.", True)
        return
    session.copied = found[0]
    session.said.emit(
        f"The values of this {words_of(found[0]).lower()} are kept: pick others and give them (Shift+V).", False
    )
    session.selection_changed.emit()


def give_settings(session: Session) -> None:
    """Give the kept values to the selected joints."""
    source = session.copied
    targets: list[Connection | Attachment] = [*session.connections, *session.attachments]
    if source is None or not targets:
        session.said.emit("Keep one joint's values first (Shift+C), then pick the joints to give them to.", True)
        return
    if _put(session, f"Values to {counted(len(targets), 'joint')}",
        lambda: [like(t, source.kind, source.params) for t in free(targets)]):  # fmt: skip
        session.said.emit(f"{counted(len(targets), 'joint')} took the values; Ctrl+Z takes it back.", False)


def keep_preset(session: Session, record: Joined, name: str) -> bool:
    """The values of a joint under a name; one of the same name takes its place."""
    old = next(
        (p for p in session.job.all(Preset) if p.kind == record.kind and p.name.casefold() == name.casefold()), None
    )
    preset = Preset(id=old.id if old else new_id(), kind=record.kind, name=name.strip(), params=record.params)
    return session.change(f"Preset {name}", (preset,))


def use_preset(session: Session, records: Sequence[Joined], name: str) -> bool:
    def make() -> list[Joined]:
        preset = next((p for p in session.job.all(Preset) if p.kind == records[0].kind and p.name == name), None)
        if preset is None:
            raise JobError(f"There is no preset “{name}” for this kind.")
        return [like(r, preset.kind, preset.params) for r in free(records)]

    return _put(session, f"Preset {name} to {counted(len(records), 'joint')}", make)


def attach(session: Session, kind: str) -> bool:
    """An attachment of a kind on each selected member that can take it, or between each two that can; they become the
    selection."""
    found = ATTACHMENTS[kind]
    if found.crosses is not None:
        return _attach_between(session, found, found.crosses)
    made = []
    for member in session.members:
        body = session.shop.body(member.id)
        if body is not None and found.fits(body):
            made.append(Attachment(kind=kind, member=member.id))
    if not made:
        session.said.emit(f"{found.words} go on none of the selected members.", True)
        return False
    if session.change(f"{found.words} on {counted(len(made), 'member')}", made):
        session.select(a.id for a in made)
        session.said.emit(f"{found.words} on {counted(len(made), 'member')}; their values are at the right.", False)
    return True


def _attach_between(session: Session, found: AttachmentKind, crosses: Callable[[Body, Body], bool]) -> bool:
    bodies = [b for m in session.members if (b := session.shop.body(m.id)) is not None]
    held = {frozenset(a.members) for a in session.job.all(Attachment) if a.kind == found.name}
    made = [
        Attachment(kind=found.name, member=a.id, mate=b.id)
        for a, b in near_pairs(bodies)
        if frozenset((a.id, b.id)) not in held and crosses(a, b)
    ]
    if not made:
        session.said.emit(
            f"{found.words} go between none of the selected members: pick two that pass back to back and have none "
            f"yet.", True)  # fmt: skip
        return False
    if session.change(f"{found.words} at {counted(len(made), 'crossing')}", made):
        session.select(a.id for a in made)
        session.said.emit(f"{found.words} at {counted(len(made), 'crossing')}; their values are at the right.", False)
    return True


def fitting_kinds(session: Session) -> list[str]:
    """Kinds of attachment that go on every selected member."""
    bodies = [session.shop.body(m.id) for m in session.members]
    there = [b for b in bodies if b is not None]
    if not there or len(there) < len(bodies):
        return []
    return [k.name for k in ATTACHMENTS.values() if all(map(k.fits, there)) and (k.crosses is None or len(there) > 1)]


# -- standards and calculations -----------------------------------------------------------------------------


def export_standards(session: Session, path: Path) -> bool:
    def work() -> None:
        write_beside(path, to_json(of_job(session.job)))
        session.said.emit(f"Shop rules, presets and rules of joining are in {path.name}.", False)

    return session.attempt(work)


def import_standards(session: Session, path: Path) -> bool:
    """Take in an office's standards as one step, and say how many joints that reworked."""

    def work() -> None:
        found = from_json(read_outside(path), path.name)
        put = taken_in(session.job, found)
        drop = [r.id for r in session.job.all(OfficeRule)] if found.joining else []
        before = dict(session.shop.connections)
        with session.job.change(f"Standards from {path.name}") as change:
            for id in drop:
                change.drop(id)
            for record in put:
                change.put(record)
        session.said.emit(f"Took in {path.name}: {reworked(session, before)}", False)

    return session.attempt(work)


def reworked(session: Session, before: dict[str, Any]) -> str:
    """How many joints came out otherwise than before, in words."""
    now = session.shop.connections
    other = sum(1 for id, made in now.items() if before.get(id) != made)
    return f"{counted(other, 'joint')} reworked, {counted(len(now) - other, 'joint')} as before."


def set_rule(session: Session, name: str, read: Callable[[], Any]) -> bool:
    """One of the shop's rules; every joint that says nothing else follows, and how many did is said."""

    def work() -> None:
        rules = msgspec.structs.replace(session.job.rules, **{name: read()})
        if problem := rules.problem():
            raise JobError(problem)
        before = dict(session.shop.connections)
        about = fields(ShopRules).get(name)
        words = about.words if about else "Minimums by depth"
        with session.job.change(f"Shop rule: {words.lower()}") as change:
            change.put(rules)
        session.said.emit(f"{words}: {reworked(session, before)}", False)

    return session.attempt(work)


def in_order(session: Session, label: str, kind: type[OfficeRule] | type[Series],
    records: Sequence[OfficeRule | Series]) -> bool:  # fmt: skip
    """All records of a kind that are asked in order, as they are to be: the others go."""

    def work() -> None:
        put = [msgspec.structs.replace(record, order=n) for n, record in enumerate(records, 1)]
        kept = {record.id for record in put}
        with session.job.change(label) as change:
            for old in session.job.all(kind):
                if old.id not in kept:
                    change.drop(old.id)
            for record in put:
                change.put(record)

    return session.attempt(work)


def export_loads(session: Session, path: Path) -> bool:
    """Loads at every joint as a CSV for the engineer to fill in."""

    def work() -> None:
        write_beside(path, to_csv(session.job, session.shop))
        session.said.emit(f"Loads at all joints are in {path.name}; fill it in and import it.", False)

    return session.attempt(work)


def import_loads(session: Session, path: Path) -> Taken | None:
    """The engineer's loads from a CSV, as one step; what of it did not match is said and given back."""
    result: list[Taken] = []

    def work() -> None:
        found = taken(read_outside(path), session.job, session.shop, path.name)
        if found.put:
            with session.job.change(f"Loads from {path.name}") as change:
                for record in found.put:
                    change.put(record)
        session.said.emit(f"{found.words}.", bool(found.told))
        result.append(found)

    session.attempt(work)
    return result[0] if result else None


def write_calculations(session: Session, path: Path) -> bool:
    """Calculation sheets of the selected joints (of the selected members' joints, where no joint is picked)."""
    chosen = session.connections or [c for m in session.members for c in session.shop.connections_at(m.id)]
    if not chosen:
        session.said.emit("Pick joints, or members whose joints should be calculated.", True)
        return False

    def work() -> None:
        project = session.job.project
        from uncus.deliver.calculation import calculation_pdf, sheets_of

        sheets = sheets_of(session.job, session.shop, list({c.id: c for c in chosen}.values()))
        if not sheets:
            raise JobError("None of these joints has limit states to calculate.")
        write_beside(path, calculation_pdf(f"{project.number} {project.name}".strip(), sheets))
        session.said.emit(f"{counted(len(sheets), 'joint')} calculated in {path.name}.", False)

    return session.attempt(work)
