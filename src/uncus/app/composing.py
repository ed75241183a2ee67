"""What is done with things of many parts and with plates from the window's side."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from uncus.app.session import Session
from uncus.app.tools.change_plates import BendTool, HoleTool, OpeningTool, PlatePointTool
from uncus.app.tools.draw_climbing import ClimbTool
from uncus.app.tools.draw_parts import CompositeTool
from uncus.app.tools.draw_plates import OutlineTool, PlateTool
from uncus.compose.kinds import COMPOUNDS
from uncus.compose.making import kind_of
from uncus.job.composites import Composite
from uncus.job.forms import checked
from uncus.job.records import AnyRecord, Attachment, Connection, Member
from uncus.reference.plate_outline import read_outline
from uncus.units import counted

replace = msgspec.structs.replace


def take_up(session: Session, kind: str) -> None:
    session.use(lambda: CompositeTool(session, COMPOUNDS[kind]))


def plate(session: Session) -> None:
    session.use(lambda: PlateTool(session))


def climbing(session: Session) -> None:
    session.use(lambda: ClimbTool(session))


def holes(session: Session) -> None:
    session.attempt(lambda: session.use(lambda: HoleTool(session)))


def opening(session: Session) -> None:
    session.attempt(lambda: session.use(lambda: OpeningTool(session)))


def bend(session: Session) -> None:
    session.attempt(lambda: session.use(lambda: BendTool(session)))


def plate_point(session: Session) -> None:
    session.attempt(lambda: session.use(lambda: PlatePointTool(session)))


def plate_from(session: Session, path: Path) -> None:
    """Take up a plate whose outline is in a DXF file. Raises JobError."""
    read = read_outline(path, inches=session.imperial)
    session.use(lambda: OutlineTool(session, read.outline, read.openings, read.holes))


def members_of(session: Session, record: Composite) -> list[Member]:
    return [m for m in session.job.all(Member) if m.maker == record.id]


def select_whole(session: Session, record: Composite) -> None:
    """Select a thing of many parts with its members, so that all of it is seen."""
    session.select({record.id, *(m.id for m in members_of(session, record))})


def set_value(session: Session, record: Composite, name: str, value: Any) -> None:
    """Another value of a composite; all of it follows. Raises JobError where it cannot be made so."""
    params = kind_of(record).params
    values = msgspec.structs.asdict(checked(params, {**record.params, name: value}))
    usual = msgspec.structs.asdict(params())
    given = {k: v for k, v in values.items() if v != usual[k]}
    with session.job.change(f"{record.kind.capitalize()}: {name.replace('_', ' ')}") as change:
        change.put(replace(record, params=given))


def without_hand(session: Session, record: Composite) -> bool:
    return session.change(f"Parts of the {record.words} as its values make them", [replace(record, hand={})])


def parted(session: Session, record: Composite) -> bool:
    """Its parts as pieces of their own, in place."""
    job = session.job
    there: list[Member | Connection | Attachment] = [
        *job.all(Member), *job.all(Connection), *job.all(Attachment)
    ]  # fmt: skip
    own: list[AnyRecord] = [replace(p, maker="") for p in there if p.maker == record.id]
    done = session.change(f"Plain pieces of the {record.words}", own, [record.id])
    if done:
        session.said.emit(f"{counted(len(own), 'part')} of the {record.words} are plain pieces now.", False)
    return done
