"""What is kept of sheets: edits by hand, flags, revisions and the copies that go out, as records to put into the
job."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import msgspec

from uncus.draw.above import WORKLIST as WORKLIST
from uncus.draw.anchors import anchors_of
from uncus.draw.by_hand import view_of
from uncus.draw.drawn import draw_all, going_out
from uncus.draw.entry import Entry
from uncus.draw.issue import packed
from uncus.draw.piece_job import PieceJob
from uncus.job.drawings import OF_VIEWS, Edit, Moved, Revision, Written
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Drawing, Issue, derived_id
from uncus.mark.content import natural

replace = msgspec.structs.replace


def drawing_of(entry: Entry) -> Drawing:
    """What is kept of a sheet; a new record where nothing is yet."""
    hand = entry.hand or Drawing(id=f"drawing:{entry.kind}:{entry.keeper}", piece=entry.keeper, kind=entry.kind)
    return replace(hand, sheet=entry.name, pieces=entry.own)


def edited(entry: Entry, *edits: Edit) -> Drawing:
    """The sheet with further edits: a move adds to the one before of the same thing; words, a view's scale and its
    cut take the place of those before."""
    hand = _as_it_lies(entry)
    kept = list(hand.edits)
    for edit in edits:
        if edit in kept and not isinstance(edit, Moved):
            continue
        if isinstance(edit, Moved):
            before = next((e for e in kept if isinstance(e, Moved) and e.key == edit.key), None)
            if before is not None:
                kept.remove(before)
                edit = Moved(edit.key, before.dx + edit.dx, before.dy + edit.dy)
        elif isinstance(edit, Written | OF_VIEWS):  # the last one holds
            kept = [e for e in kept if not (type(e) is type(edit) and e.key == edit.key)]
        kept.append(edit)
    anchors = anchors_of(entry.job.subject, tuple(kept)) if isinstance(entry.job, PieceJob) else ()
    return replace(hand, edits=tuple(kept), anchors=anchors)


def _as_it_lies(entry: Entry) -> Drawing:
    """What is kept of a sheet, without what was made while its piece lay the other way round: what is done now begins
    anew."""
    hand, job = drawing_of(entry), entry.job
    if isinstance(job, PieceJob) and job.aside and job.hand is not None:
        return replace(hand, edits=(), sections=job.hand.sections)
    return hand


def sectioned(entry: Entry, at: float) -> Drawing:
    """The sheet with a section added, so many mm from the left end."""
    hand = _as_it_lies(entry)
    return replace(hand, sections=(*hand.sections, at))


def of_plate(entry: Entry, edit: Edit) -> tuple[Entry, Edit]:
    """The sheet that an edit is kept with, and the edit as that sheet knows it: on a sheet of several plates it is
    the plate's own. Raises JobError where an edit would join two plates."""
    if not entry.plates:
        return entry, edit
    plate = next((p for p in entry.plates if view_of(edit).startswith(f"{p.name} ")), None)
    if plate is None:
        raise JobError("Pick something on one of the plates first.")
    own = f"{plate.name} "
    changes = {}
    for name in ("key", "other", "view"):
        value = getattr(edit, name, None)
        if value is None:
            continue
        if not value.startswith(own):
            raise JobError(f"That belongs to another plate than {plate.name}.")
        changes[name] = value.removeprefix(own)
    return plate, replace(edit, **changes)


def reset(entry: Entry, key: str = "") -> Drawing:
    """The sheet without the edits of one thing, or without any."""
    hand = drawing_of(entry)
    if not key:
        return replace(hand, edits=(), scale=0.0, sections=())
    return replace(hand, edits=tuple(e for e in hand.edits if e.key != key and getattr(e, "other", "") != key))


def flagged(entries: Iterable[Entry], flag: str, on: bool) -> list[Drawing]:
    """Sheets with a flag set or taken off; those that are so already are left."""
    found = []
    for entry in entries:
        hand = drawing_of(entry)
        if (flag in hand.flags) != on:
            flags = (*hand.flags, flag) if on else tuple(f for f in hand.flags if f != flag)
            found.append(replace(hand, flags=flags))
    return found


def next_mark(entry: Entry) -> str:
    """The revision mark after the last: 1 after none, B after A."""
    last = entry.revision
    if not last:
        return "1"
    if last.isdigit():
        return str(int(last) + 1)
    return last[:-1] + chr(ord(last[-1]) + 1) if last[-1] not in "zZ" else f"{last}A"


def issue_of(entry: Entry, on: str, copy: str = "", before: int = 0) -> Issue:
    """The copy of a sheet that goes out now."""
    number = (entry.issue.number if entry.issue else before) + 1
    return Issue(
        id=derived_id("issue", entry.kind, entry.keeper, str(number)),
        piece=entry.keeper,
        kind=entry.kind,
        sheet=entry.name,
        revision=entry.revision,
        on=on,
        content=entry.job.content,
        packed=copy or packed(entry.job, draw_all(going_out(entry, on))),
        number=number,
        pieces=entry.own,
    )


def sent(entries: Iterable[Entry], copies: Mapping[str, str], on: str) -> list[Issue]:
    """The copies of a package; a sheet that is as it last went out is not kept twice."""
    found = []
    for entry in entries:
        if entry.name in copies and not entry.job.on:
            found.append(issue_of(entry, on, copies[entry.name]))
    return found


def revised(
    entries: Sequence[Entry], on: str, words: str, mark: str = "", drawn: str = "", checked: str = ""
) -> list[Drawing]:
    """Sheets with a revision more, each with its next mark or the one given. Raises JobError for a mark that a sheet
    has."""
    if not words.strip():
        raise JobError("Say in a few words what the revision is for.")
    found = []
    for entry in entries:
        hand = drawing_of(entry)
        own = mark or next_mark(entry)
        if any(r.mark == own for r in hand.revisions):
            raise JobError(
                f"Sheet {entry.name} has a revision {own} already; give another mark or leave it to the program."
            )
        one = Revision(own, on, words.strip(), drawn, checked)
        found.append(replace(hand, revisions=(*hand.revisions, one), drawn=drawn or hand.drawn, checked=checked))
    return found


def issues_of(job: Job, entry: Entry) -> list[Issue]:
    """The copies of a sheet that went out, the newest first."""
    own = {entry.piece, *entry.pieces}
    found = [i for i in job.all(Issue) if i.kind == entry.kind and i.piece in own]
    return sorted(found, key=lambda i: (i.on, i.number), reverse=True)


def by_marks(entries: Sequence[Entry], text: str) -> list[Entry]:
    """The sheets of typed marks, `B1 B3-B7, C2`. Raises JobError for one that no sheet has."""
    names = sorted((e.name for e in entries), key=natural)
    wanted: set[str] = set()
    for word in text.replace(",", " ").split():
        first, _, last = word.partition("-")
        if word in names:
            wanted.add(word)
        elif last and first in names and last in names:
            wanted |= set(names[names.index(first) : names.index(last) + 1])
        else:
            raise JobError(f"No sheet is called “{word}”.")
    return [e for e in entries if e.name in wanted]
