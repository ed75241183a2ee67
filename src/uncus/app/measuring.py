"""Measures and guides: kept with the job, and cleared."""

from __future__ import annotations

from typing import TYPE_CHECKING

from uncus.job.records import Guide, Measured

if TYPE_CHECKING:
    from uncus.app.session import Session


def clear_measures(session: Session) -> None:
    kept = {m.id for m in session.job.all(Measured)}
    gone = [m.id for m in session.measures if m.id in kept]
    session.measures.clear()
    if gone:
        session.change("Clear measures", drop=gone)
    session.view_changed.emit()
    session.tool_changed.emit()


def remove_measure(session: Session, measure: Measured) -> None:
    """Take one measure away, out of the job too where it was kept."""
    session.measures = [m for m in session.measures if m.id != measure.id]
    if measure.id in session.job.records:
        session.change("Take a measure away", drop=[measure.id])
    session.view_changed.emit()
    session.tool_changed.emit()


def keep_measures(session: Session) -> None:
    """Keep what is measured with the job."""
    new = [m for m in session.measures if m.id not in session.job.records]
    if new and session.change(f"Keep {len(new)} measures", new):
        session.said.emit(f"{len(new)} measures are kept with the job.", False)
    elif not new:
        session.said.emit("There is no measure to keep.", True)


def clear_guides(session: Session) -> None:
    """The selected guides, or all."""
    guides = [g.id for g in session.job.all(Guide)]
    chosen = [id for id in guides if id in session.selection] or guides
    if not chosen:
        session.said.emit("There are no guides.", True)
    elif session.change(f"Clear {len(chosen)} guides", drop=chosen):
        session.said.emit(f"{len(chosen)} guides cleared; Ctrl+Z brings them back.", False)
