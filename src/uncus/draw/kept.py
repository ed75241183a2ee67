"""What a job keeps of sheets, found for each sheet that there is now."""

from __future__ import annotations

from typing import NamedTuple

from msgspec.structs import replace

from uncus.draw.entry import Entry, State
from uncus.draw.histories import History, Place, current, kept, matched
from uncus.draw.inputs import SheetJob, printed
from uncus.draw.states import state_of
from uncus.job.job import Job
from uncus.job.records import Drawing, Issue
from uncus.mark.lines import assembly_lines
from uncus.mark.marking import Marks
from uncus.shop.shop import Shop


class Standing(NamedTuple):
    """What is kept of one sheet: the piece it is drawn from, what was done to it by hand, the copy that went out
    last, and the piece that all this is kept by."""

    drawn_from: str
    hand: Drawing | None
    issue: Issue | None
    keeper: str

    @property
    def since(self) -> str:
        """The copy that a sheet under revision is clouded against; none where its last revision went out already."""
        hand, issue = self.hand, self.issue
        if hand is None or issue is None or not hand.revisions or issue.revision == hand.revisions[-1].mark:
            return ""
        return issue.packed

    def went_on(self, state: State) -> str:
        """The day a sheet went out that in this state is, title and all, what went out last; else nothing."""
        revision = self.hand.revisions[-1].mark if self.hand and self.hand.revisions else ""
        return self.issue.on if state is State.CURRENT and self.issue and self.issue.revision == revision else ""


class Kept:
    """The histories of a job's sheets, given those `of` its sheets of assemblies and parts, and the pieces and levels
    that are `alive`."""

    def __init__(self, job: Job, of: dict[tuple[str, str], History], alive: set[str]) -> None:
        self.histories, self.of = kept(job), of
        self.alive = alive
        self.taken = {(h.kind, h.piece) for h in self.histories}

    def _history(self, kind: str, own: tuple[str, ...], name: str) -> History | None:
        """Assemblies' and parts' by all places at once; a plan's by its level, a sheet of several plates' by any of
        them, by its name only where they are gone."""
        if kind in ("assembly", "part"):
            return self.of.get((kind, name))
        one = [
            h
            for h in self.histories
            if h.kind in (kind, "") and (h.pieces.intersection(own) or h.pieces.isdisjoint(self.alive))
        ]
        return matched(one, [Place(kind, name, own)]).get((kind, name)) if one else None

    def standing(self, kind: str, own: tuple[str, ...], name: str) -> Standing:
        """What is kept of a sheet of some kind that shows `own`."""
        found = self._history(kind, own, name)
        hand = found.drawing if found else None
        drawn_from = hand.piece if hand and hand.piece in own else own[0] if own else ""
        return Standing(drawn_from, hand, found.issue if found else None, self._keeper(found, kind, own, name))

    def _keeper(self, found: History | None, kind: str, own: tuple[str, ...], name: str) -> str:
        """By what a sheet's history is kept; of a new one by a piece that no other history is kept by, or by its
        name too."""
        if (found is not None and found.piece) or not own:
            return found.piece if found else ""
        return next((id for id in own if (kind, id) not in self.taken), f"{own[0]} as {name}")


def entry(
    job: SheetJob,
    title: str,
    kind: str,
    pieces: tuple[str, ...],
    own: tuple[str, ...],
    standing: Standing,
    plates: tuple[Entry, ...] = (),
) -> Entry:
    """A line of the register for a sheet drawn from `job`, as far as that is printed."""
    job = printed(job)
    state = state_of(job, standing.issue)
    return Entry(
        job=replace(job, on=standing.went_on(state)),
        title=title,
        kind=kind,
        pieces=pieces,
        state=state,
        piece=standing.drawn_from,
        hand=standing.hand,
        issue=standing.issue,
        plates=plates,
        own=own,
        keeper=standing.keeper,
    )


def hands_of(job: Job, shop: Shop, marks: Marks) -> dict[tuple[str, str], Drawing]:
    """What was done by hand to the sheets of assemblies and parts, by kind and mark."""
    found = current(job, marks, assembly_lines(shop, marks))
    return {at: history.drawing for at, history in found.items() if history.drawing is not None}
