"""What the interface does to marks: each one undo step, each refusal one sentence."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path

import msgspec

from uncus.app.session import Session
from uncus.job.errors import JobError
from uncus.job.files import read_outside, write_beside
from uncus.job.records import Mark, StandardPart
from uncus.mark.content import mark_id
from uncus.mark.kept import ordered
from uncus.mark.standards import from_json, picked, taken_in, to_json
from uncus.units import counted

BY_RULE = "by the rules"
HOW = (BY_RULE, "unique", "left out")


def set_rule(session: Session, name: str, read: Callable[[], object]) -> bool:
    """One of the rules of marking."""

    def work() -> None:
        rules = msgspec.structs.replace(session.job.mark_rules, **{name: read()})
        if problem := rules.problem():
            raise JobError(problem)
        with session.job.change(f"Marks: {name.replace('_', ' ')}") as change:
            change.put(rules)

    return session.attempt(work)


def type_mark(session: Session, ids: Sequence[str], text: str) -> bool:
    """A mark typed for assemblies and kept; empty gives it back to the rules."""
    text = text.strip()

    def record(id: str) -> Mark:
        old = session.job.get(mark_id(id, False), Mark)
        content = session.content(id)
        if not text:
            return msgspec.structs.replace(old, how="") if old else Mark(id=mark_id(id, False), piece=id, mark="")
        return Mark(id=mark_id(id, False), piece=id, mark=text, content=old.content if old else content, how="typed")

    return session.change(f"Mark {text or BY_RULE}", [record(id) for id in _pieces(session, ids)])


def set_how(session: Session, ids: Sequence[str], how: str) -> bool:
    """Assemblies that share their mark with none, or have none; or by the rules again."""
    value = "" if how == BY_RULE else how

    def record(id: str) -> Mark:
        old = session.job.get(mark_id(id, False), Mark) or Mark(id=mark_id(id, False), piece=id, mark="")
        return msgspec.structs.replace(old, how=value, mark="" if value == "left out" else old.mark)

    pieces = _pieces(session, ids)
    return session.change(f"{counted(len(pieces), 'piece')} {how}", [record(id) for id in pieces])


def _pieces(session: Session, ids: Sequence[str]) -> list[str]:
    """The pieces that members leave the shop in: theirs are the marks."""
    return list(dict.fromkeys(session.shop.ships_as(id) for id in ids))


def keep_advance(session: Session, package: str) -> bool:
    """Today's marks kept on the selected pieces (on all, where none is) as what was ordered."""
    shop = session.shop
    ids = dict.fromkeys(shop.ships_as(m.id) for m in session.members) or shop.shipped
    found = ordered(session.job, [shop.shipped[i] for i in ids], date.today().isoformat(), package.strip()
        or "advance bill")  # fmt: skip
    if not found:
        session.said.emit("Nothing was kept: these pieces have no marks yet, or were ordered before.", True)
        return False
    done = session.change(f"Advance marks, {package}", found)
    if done:
        session.said.emit(f"{counted(sum(not a.part for a in found), 'piece')} kept as ordered in {package}.", False)
    return done


def make_standard(session: Session) -> bool:
    """The parts of the selected pieces become standard parts under the marks they have."""

    def work() -> None:
        pieces = [p for m in session.members for p in session.shop.assemblies[m.id].pieces]
        if not pieces:
            raise JobError("Pick the pieces whose parts should be standard first.")
        made = picked([(p, session.marks.of_part(p.id)) for p in pieces], session.job.all(StandardPart), session.units)
        with session.job.change("Standard parts") as change:
            for one in made:
                change.put(one)
        session.said.emit(f"{counted(len(made), 'part')} made standard; export them for other jobs.", False)

    return session.attempt(work)


def export_standard_parts(session: Session, path: Path) -> bool:
    def work() -> None:
        parts = session.job.all(StandardPart)
        if not parts:
            raise JobError("There are no standard parts yet: pick pieces and make their parts standard.")
        write_beside(path, to_json(parts))
        session.said.emit(f"{counted(len(parts), 'standard part')} in {path.name}.", False)

    return session.attempt(work)


def import_standard_parts(session: Session, path: Path) -> bool:
    def work() -> None:
        found = taken_in(session.job, from_json(read_outside(path), path.name))
        with session.job.change(f"Standard parts from {path.name}") as change:
            for one in found:
                change.put(one)
        session.said.emit(f"Took in {counted(len(found), 'standard part')}; the proposal shows where they fit.", False)

    return session.attempt(work)
