"""From what stands in a package's way to its place: the piece, the sheet, the finding."""

from __future__ import annotations

from uncus.app.desk import Desk
from uncus.app.session import Session


def to_cause(desk: Desk, check: str, about: str) -> None:
    """Show what a line of Ready? is about, by the line's name (see `deliver.ready.CHECKS`)."""
    session = desk.session
    if check == "findings":
        if session.go("Check"):
            desk.check.go_to(about)
    elif check in ("sheets", "revised"):
        if session.go("Draw"):
            desk.draw.open(about)
    elif session.go("Mark" if check == "marked" else "Frame"):
        pieces = _with_part(session, about) if check == "nc" else {about}
        session.select(pieces & session.shop.assemblies.keys())
        session.framed.emit()


def _with_part(session: Session, mark: str) -> set[str]:
    """Pieces that hold a part of a mark."""
    of, held = session.marks.of_part, session.shop.assemblies.items()
    return {id for id, assembly in held if any(of(p.id) == mark for p in assembly.pieces)}
