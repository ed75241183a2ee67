"""Joints by the office's rules, for what is selected or for everything, and setbacks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from uncus.connect.by_rule import FAILED, LOOK, SKIPPED, Report, setbacks
from uncus.job.records import Connection
from uncus.lens.office import connect

if TYPE_CHECKING:
    from uncus.app.session import Session


def connect_by_rule(session: Session) -> None:
    """Connect the free ends of the selection, or of everything where nothing is selected, by the office's rules."""
    ids = _worked_on(session)
    session.attempt(lambda: _reported(session, "Connect", connect(session.job, ids, session.shop), "by rule"))


def connect_again(session: Session) -> None:
    """Joints of the selection made anew by the office's rules, those that are locked apart."""
    ids = [m.id for m in session.members]
    if not ids:
        session.said.emit("Nothing is selected; pick the members whose joints should be made anew.", True)
        return
    job, shop = session.job, session.shop
    session.attempt(lambda: _reported(session, "Connect", connect(job, ids, shop, redo=True), "anew by rule"))


def set_back(session: Session, gap: float) -> None:
    """Every free end of the selection (or of all) pulled back by a gap from what holds it, until it has a joint."""
    session.attempt(lambda: _reported(session, "Set back", setbacks(session.job, _worked_on(session), gap), "by a gap"))


def clear_setbacks(session: Session) -> None:
    """All setbacks gone as one step."""
    gone = [c.id for c in session.job.all(Connection) if c.kind == "setback"]
    if not gone:
        session.said.emit("There are no setbacks.", True)
    elif session.change(f"Clear {len(gone)} setbacks", drop=gone):
        session.said.emit(f"{len(gone)} setbacks cleared; Ctrl+Z brings them back.", False)


def _worked_on(session: Session) -> list[str]:
    return [m.id for m in session.members] or list(session.shop.assemblies)


def _reported(session: Session, label: str, report: Report, how: str) -> None:
    if report.records:
        session.change(f"{label} {len(report.records)} ends {how}", report.records)
    session.report = report
    left = report.of(FAILED) or report.of(SKIPPED)
    words = report.words
    if left:
        words += f". First left: {left[0].why}"
    session.said.emit(words.rstrip(".") + ".", bool(report.of(FAILED) or report.of(LOOK)))
    session.reported.emit()
