"""The marks that pieces have now; and a run over a job as it stands."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Mark, Member
from uncus.mark.content import assembly_content, part_content
from uncus.mark.content import natural as natural
from uncus.mark.marker import Marker
from uncus.mark.proposal import Proposal
from uncus.mark.proposal import State as State
from uncus.mark.proposal import apply as apply
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop


def propose(job: Job, shop: Shop) -> Proposal:
    """What a marking run would do; the job is not touched."""
    return Marker(job, shop).proposal()


class Marks:
    """The marks a job's pieces have now, read once. `carried` tells of members that leave the shop as part of
    another's piece which that is: they answer to its mark."""

    def __init__(self, job: Job, carried: Mapping[str, str] | None = None) -> None:
        self._carried = carried or {}
        self._assembly = {m.piece: m for m in job.all(Mark) if not m.part}
        self._part = {m.piece: m for m in job.all(Mark) if m.part}
        self._bought = {m.id for m in job.all(Member) if m.item is not None}

    def of_assembly(self, id: str) -> str:
        if id in self._bought:  # one thing to the buyer: it has one mark
            return self.of_part(id)
        mark = self._assembly.get(self._carried.get(id, id))
        return mark.mark if mark else ""

    def content_of(self, id: str) -> str:
        """The fingerprint an assembly had when it got its mark."""
        mark = self._assembly.get(id)
        return mark.content if mark else ""

    def of_part(self, id: str) -> str:
        mark = self._part.get(id)
        return mark.mark if mark else ""

    def unmarked(self, assemblies: Iterable[Assembly]) -> list[str]:
        """Pieces without a mark, or changed since they got theirs, in words."""
        found = []
        for assembly in assemblies:
            own = self._assembly.get(assembly.id)
            if assembly.is_bought:
                if self._stale(assembly.main):
                    found.append(f"{assembly.words} (no mark, or changed since it was marked)")
            elif own is None:
                found.append(f"{assembly.words} (no mark)")
            elif not own.content:
                found.append(f"{own.mark} (marked by an older version)")
            elif own.content != assembly_content(assembly):
                found.append(f"{own.mark} (changed since it was marked)")
            elif any(self._stale(piece) for piece in assembly.pieces):
                found.append(f"{own.mark} (a part of it has no mark)")
        return found

    def _stale(self, piece: Piece) -> bool:
        mark = self._part.get(piece.id)
        return mark is None or mark.content != part_content(piece.part)

    def require(self, assemblies: Iterable[Assembly]) -> None:
        """Raises JobError naming the unmarked pieces and how to mark them."""
        found = self.unmarked(assemblies)
        if found:
            some = ", ".join(found[:5]) + (f" and {len(found) - 5} more" if len(found) > 5 else "")
            raise JobError(
                f"{len(found)} pieces are not marked: {some}. Mark them first: uncus mark JOB, or Apply in the Mark "
                f"stage."
            )
