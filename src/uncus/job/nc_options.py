"""What the shop's machines are told beside the shape of a part."""

from __future__ import annotations

from typing import Annotated

from uncus.job.forms import About
from uncus.job.record import Record


class NcOptions(Record, frozen=True, tag=True):
    """Options of NC files; one a job, with a fixed id."""

    id: str = "nc options"
    layout: Annotated[
        str,
        About(
            "Layout marks",
            unit="choice",
            choices=("none", "powder", "punch"),
            help="Outlines of what is welded on, with its mark, scribed by powder (PU) or punched (KO).",
        ),
    ] = "none"
    stamps: Annotated[bool, About("Piece marks", unit="flag", help="Each piece's own mark, stamped (SI).")] = True

    def problem(self) -> str | None:
        if self.layout not in ("none", "powder", "punch"):
            return f"Layout marks are none, powder or punch; “{self.layout[:40]}” is not known."
        return None
