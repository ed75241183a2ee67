"""What the window shows and does: the job, its shop, the selection, the stage and the tool at hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any, NamedTuple

import msgspec
import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from uncus import faults
from uncus.app import preferences as settings
from uncus.app.filling import AT_ONCE, Filling
from uncus.app.others import OtherModels
from uncus.app.pointing import Pointing
from uncus.app.preferences import Preferences
from uncus.app.seeing import Seeing
from uncus.app.tools.connect_one import ConnectTool
from uncus.app.tools.tool import Commit, Result, Tool
from uncus.bill.compare import Compared
from uncus.caches import Beside
from uncus.compose.carried import carried
from uncus.compose.following import amended as composites_amended
from uncus.connect.by_rule import Report
from uncus.draw.above import above
from uncus.frame import usual_views
from uncus.frame.cuts import refuse_doubles
from uncus.frame.neighbours import Segments
from uncus.frame.planes import Plane, kept_plane, level_plane
from uncus.frame.rerolling import amended
from uncus.frame.snaps import Snap, SnapKind
from uncus.job.errors import JobError
from uncus.job.history import Since, since
from uncus.job.job import Delta, Job
from uncus.job.records import (
    AnyRecord,
    Attachment,
    Connection,
    Grid,
    Level,
    Measured,
    Member,
    Point,
    WorkPlane,
)
from uncus.lens.above import Handed
from uncus.mark.content import assembly_content
from uncus.mark.marker import Marker
from uncus.mark.marking import Marks
from uncus.mark.proposal import Choices, Proposal
from uncus.shop.kept import Kept, usual_place
from uncus.shop.pieces import Touched
from uncus.shop.shop import Shop, build
from uncus.units import UnitError, counted, format_elevation, format_length

_NEAR_MISS = 3_000.0  # mm above or below sloping steel within which an end in the air was meant to land on it
_FRAMING = ("Frame", "Connect")  # stages that can be worked in while steel is made
STAGES = ("Frame", "Connect", "Check", "Mark", "Draw", "Deliver")


class Tied(NamedTuple):
    """Members that are asked about, those that the shop fixes to them, and those that hold to them on site."""

    asked: frozenset[str]
    shop: frozenset[str]
    site: frozenset[str]


class Session(QObject):
    """Signals: steel (Touched), selection, stage, tool, said (sentence, is it an error)."""

    steel = Signal(object)
    selection_changed = Signal()
    stage_changed = Signal(str)
    tool_changed = Signal()
    view_changed = Signal()
    said = Signal(str, bool)
    reported = Signal()
    wanted = Signal(object)  # a Command that a button or a menu asks for
    framed = Signal()  # the view goes to the selection
    gone_to = Signal(object)  # the view goes to a point
    looked_at = Signal(object)  # a kept View or a ViewFrame
    coloured = Signal()  # what colours the model has changed
    to_canvas = Signal()  # the keys go back to the model, or to the sheet
    to_facts = Signal()
    sheet_seen = Signal()  # a sheet came up for the first time
    keys_changed = Signal()  # commands have other keys
    faulted = Signal()  # a fault of the program is reported

    def __init__(
        self, job: Job, preferences: Preferences | None = None, keep: Path | None = None, state: Path | None = None
    ) -> None:
        super().__init__()
        self.job = job
        self.seen_sheet = False
        self.pointing = Pointing(self)  # what the value at hand measures
        self.since: int | None = None  # the moment of the history that is held against now
        self._compared: Since | None = None
        self._state = state  # the folder that keeps reports of faults; None: nowhere
        self.fault_report = ""
        self.fault_kept: Path | None = None
        self.preferences = preferences or Preferences()
        self._keep = keep  # where preferences are written; None: nowhere
        self.seeing = Seeing()
        self.spotted: Point | None = None  # where the finding is that is looked at
        self.by_progress = False  # whether pieces are coloured by how far their fabricator says they are
        self.differing: Compared | None = None  # what changed since something else, as it is shown in the model
        self.tied: Tied | None = None  # what holds what, as it is looked at
        self._kept = Kept(usual_place()) if state is not None else None  # joints that were made before
        self.shop: Shop = build(job, len(job.all(Connection)) > AT_ONCE, self._kept)
        self.filling = Filling(self)
        self.selection: frozenset[str] = frozenset()
        self.stage = "Frame"
        self.plane: Plane = level_plane(self.levels[0])
        self.held = False  # picks are dropped onto the work plane
        self.only: SnapKind | None = None  # the one kind of snap that the next pick takes
        self.tool: Tool = Tool(self)
        self.last_tool: Callable[[], Tool] | None = None
        self.measures: list[Measured] = job.all(Measured)
        self._marker: Marker | None = None  # made when marks are first proposed, and following from then on
        self._proposal: Proposal | None = None
        self.choices = Choices()  # how conflicts of the proposal are settled so far
        self.mark_only: frozenset[str] | None = None  # the pieces that a run marks; None: all
        self.copied: Connection | Attachment | None = None  # whose values can be given to others
        self.report: Report | None = None  # of the last run of rules
        self._marks: Marks | None = None
        self._contents: Beside[str, str] = Beside()
        self._gross: Beside[str, float] = Beside()
        self.templates: dict[str, Member] = {}
        self._stop = job.follow(self._followed)
        job.amend(amended)
        job.amend(composites_amended)
        job.amend(carried)
        job.amend(usual_views.followed)
        self.others = OtherModels(self)
        self.below = ""  # the panel under the model, of those that any stage with a model may have
        if self.shop.waiting:
            self.shop.awaited = lambda: self.filling.finish(stoppable=False)
            QTimer.singleShot(0, self.filling.start)

    def close(self) -> None:
        """Work that goes on beside the window ends, and what is kept is written."""
        self.filling.stop()
        self.others.wind_up()
        if self._kept is not None:
            self._kept.close()

    # -- facts of the job -------------------------------------------------------------------------
    @property
    def units(self):  # type: ignore[no-untyped-def]
        return self.job.project.units

    @property
    def imperial(self) -> bool:
        return self.units == "imperial"

    @property
    def levels(self) -> list[Level]:
        """From the lowest up; an empty job has a ground."""
        found = sorted(self.job.all(Level), key=lambda level: level.elevation)
        return found or [Level(id="level 0", name="Ground", elevation=0.0)]

    @property
    def grid(self) -> Grid | None:
        return next(iter(self.job.all(Grid)), None)

    def length(self, mm: float) -> str:
        return format_length(mm, self.units)

    @property
    def above(self) -> Handed:
        """What lenses ask of sheets and findings."""
        return above(self.job, self.shop)

    @property
    def marks(self) -> Marks:
        """The marks as they are, read once a change."""
        if self._marks is None:
            self._marks = Marks(self.job, self.shop.carried_so_far)
        return self._marks

    @property
    def proposal(self) -> Proposal:
        """What a marking run would do with the answers given so far; the job is not touched."""
        if self._marker is None:
            self._marker = Marker(self.job, self.shop)
        if self._proposal is None:
            self._proposal = self._marker.proposal(self.choices, self.mark_only)
        return self._proposal

    def settle(self, choices: Choices | None = None, only: frozenset[str] | None = None) -> None:
        """Another answer to the proposal; None drops all of them."""
        self.choices = self.choices.with_(choices) if choices is not None else Choices()
        self.mark_only, self._proposal = only, None
        self.coloured.emit()

    def content(self, id: str) -> str:
        """An assembly's fingerprint, worked out once for as long as it stays the same."""
        assembly = self.shop.shipped[id]
        return self._contents.of(id, assembly, lambda: assembly_content(assembly))

    def gross(self) -> float:
        """The job's gross weight, kg, of which only what changed is weighed again."""
        return sum(self._gross.of(id, a, lambda a=a: a.gross) for id, a in self.shop.assemblies.items())  # type: ignore[misc]

    # -- saying, changing ---------------------------------------------------------------------------
    def attempt(self, work: Callable[[], object]) -> bool:
        """Do something that may be refused; the refusal is said as one sentence."""
        try:
            work()
        except (JobError, UnitError, LookupError) as error:
            self.said.emit(str(error), True)
            return False
        return True

    def change(self, label: str, put: Iterable[AnyRecord] = (), drop: Iterable[str] = ()) -> bool:
        """One change, one undo step; True where it was made."""

        def work() -> None:
            with self.job.change(label) as change:
                for id in drop:
                    change.drop(id)
                for record in put:
                    change.put(record)

        return self.attempt(work)

    def _followed(self, delta: Delta) -> None:
        if delta.notes:
            self.said.emit(f"{delta.label}.", False)
        try:
            touched = self.shop.follow(delta)
            if self._marker is not None:
                self._marker.follow(delta, touched)
        except Exception as error:
            touched = self._made_anew(delta, error)
        self._proposal = self._marks = self._compared = None
        self._follow_plane(delta)
        self.pointing.again()
        self.seeing.forget(e.id for e in delta.edits if e.after is None)
        known = {m.id for m in self.measures}
        self.measures = [m for m in self.measures if m.id not in {e.id for e in delta.edits if e.after is None}]
        self.measures += [m for m in self.job.all(Measured) if m.id not in known]
        gone = self.selection - self.shop.assemblies.keys() - self.job.records.keys()
        self.steel.emit(touched)
        if any(_first_lines(edit.before, edit.after) for edit in delta.edits):
            QTimer.singleShot(0, self.framed.emit)  # the first grid is seen whole
        if gone:
            self.select(self.selection - gone)
        else:
            self.selection_changed.emit()

    def _made_anew(self, delta: Delta, error: Exception) -> Touched:
        """All steel made again where following a change failed half-way; the change itself is on disk already."""
        before = frozenset(self.shop.assemblies)
        self._marker = None
        try:
            self.shop = build(self.job)
            words = (
                "A fault in the program: this change could not be followed, so all steel was made anew. Nothing is "
                "lost."
            )
        except Exception as worse:
            worse.__context__ = error
            error = worse
            words = "A fault in the program: the steel of this change cannot be made. Take it back (Ctrl+Z)."
        self.fault(error, "following a change", [edit.id for edit in delta.edits], words)
        after = frozenset(self.shop.assemblies)
        return Touched(after, before - after, frozenset(self.shop.shipped), before - after)

    def fault(self, error: BaseException, doing: str, ids: Iterable[str], words: str) -> None:
        """Report a fault of the program: kept in the state folder, said in one sentence, shown on request."""
        self.fault_report = faults.report(error, doing, ids)
        self.fault_kept = faults.keep(self._state, self.fault_report) if self._state is not None else None

        def tell() -> None:
            self.said.emit(words, True)
            self.faulted.emit()

        QTimer.singleShot(0, tell)  # after what else is said of the change

    def said_on_opening(self) -> None:
        """What opening the file found."""
        sentences = [*self.job.notes, *(one.text for one in self.job.aside)]
        if sentences:
            where = (
                ": see Check" if self.job.aside else ""
            )  # notes on the file are not of the steel, and stand nowhere else
            more = f" (and {len(sentences) - 1} more{where})" if len(sentences) > 1 else ""
            self.said.emit(sentences[0] + more, bool(self.job.aside))

    def clear_aside(self) -> None:
        """Take out of the file what could not be used when it was opened."""
        number = len(self.job.aside)

        def work() -> None:
            self.job.clear_aside()
            self.shop = build(self.job)
            self._marker = self._proposal = None
            self.steel.emit(Touched(frozenset(self.shop.assemblies)))
            self.said.emit(f"{counted(number, 'record')} that could not be used taken out of the file.", False)

        self.attempt(work)

    def commit(self, done: Result) -> None:
        """Take what a tool gives. Raises JobError where a new member would lie on another."""
        words, wrong = "", False
        if isinstance(done, Measured):
            self.measures.append(done)
            words = f"{done.kind}: {done.words}"
        elif isinstance(done, Plane):
            self.use(None)
            self.set_plane(done)
            return
        elif isinstance(done, Commit):
            put = {r.id: r for r in done.put if isinstance(r, Member)}
            after = {m.id: m for m in self.job.all(Member) if m.id not in done.drop} | put
            new = [m for m in put.values() if m.id not in self.job.records]
            refuse_doubles(new, list(after.values()))
            missed = self._missed(done.landing)
            with self.job.change(done.label) as change:
                for id in done.drop:
                    change.drop(id)
                for record in done.put:
                    change.put(record)
            found = self._findings_of(done)
            words, wrong = found or missed, bool(found or missed)
            told = "; ".join((done.words.rstrip(".") or f"{done.label} made", *change.notes))
            words = words or f"{told}; Ctrl+Z takes it back."
        self.only = None
        self.tool_changed.emit()
        if words:
            self.said.emit(words, wrong)

    def _missed(self, points: Iterable[Point]) -> str:
        """What new ends pass over or under without landing on it: the usual mistake on sloping work."""
        if self.preferences.land != "yes":
            return ""
        among: Segments | None = None
        for p in points:
            among = among or Segments(self.job.all(Member))
            here = np.asarray(p)
            if among.touched(here):
                continue
            found = among.sloping.passing(here, np.array([0.0, 0.0, 1.0]))
            if found is not None and abs(found[1]) < _NEAR_MISS:
                member, away = found
                side = "under" if away > 0 else "over"
                return (
                    f"Made, but the end is {self.length(abs(away))} {side} the {member.role} {member.section} that it "
                    "crosses in plan; Ctrl+Z and hold “lifted” (Alt+L) to land on it."
                )
        return ""

    def _findings_of(self, done: Commit) -> str:
        """The first finding on a connection that was just made."""
        for record in done.put:
            found = self.shop.said(record.id) if isinstance(record, Connection) else ()
            if found:
                return found[0].text
        return ""

    def undo(self) -> None:
        delta = self.job.undo()
        self.said.emit(f"Took back: {delta.label}" if delta else "There is nothing to take back.", False)

    def redo(self) -> None:
        delta = self.job.redo()
        self.said.emit(f"Did again: {delta.label}" if delta else "There is nothing to do again.", False)

    def see_sheet(self) -> None:
        """A sheet is on the screen."""
        if not self.seen_sheet:
            self.seen_sheet = True
            self.sheet_seen.emit()

    def travel(self, number: int) -> None:
        """Go to the state after a change of the history. Raises JobError."""
        back = number < self.job.head
        self.job.travel(number)
        way = "Back" if back else "Forth"
        self.said.emit(f"{way} in the history: {self.job.can_undo or 'its beginning'}.", False)

    def compare(self, number: int | None) -> None:
        """Show in colours what differs from the state after a change; None: no more."""
        self.since, self._compared = number, None
        if number is not None and not self.attempt(self.compared):
            self.since = None
        self.coloured.emit()

    def compared(self) -> Since | None:
        """What differs from the moment that is held against now. Raises JobError where it cannot be read."""
        if self.since is None:
            return None
        if self._compared is None:
            self._compared = since(self.job, self.since)
        return self._compared

    # -- selection ------------------------------------------------------------------------------
    def select(self, ids: Iterable[str], add: bool = False) -> None:
        wanted = frozenset(ids)
        self.selection = (self.selection ^ wanted) if add else wanted
        self.selection_changed.emit()

    @property
    def members(self) -> list[Member]:
        return [m for id in sorted(self.selection) if (m := self.job.get(id, Member))]

    @property
    def connections(self) -> list[Connection]:
        return [c for id in sorted(self.selection) if (c := self.job.get(id, Connection))]

    @property
    def attachments(self) -> list[Attachment]:
        return [a for id in sorted(self.selection) if (a := self.job.get(id, Attachment))]

    def delete(self) -> None:
        """Delete what is selected, and the connections at members that go."""
        gone = set(self.selection)
        if not gone:
            self.said.emit("Nothing is selected; pick what should go first.", True)
            return
        for member in self.members:
            gone |= {c.id for c in self.shop.connections_at(member.id)}
            gone |= {a.id for a in self.shop.attachments_at(member.id)}
        self.change(f"Delete {len(self.selection)} selected", drop=sorted(gone))

    def put_below(self, panel: str) -> None:
        """Show a panel under the model; "" none."""
        self.below = panel
        self.reported.emit()

    def select_all(self) -> None:
        self.select(self.shop.assemblies)

    # -- stage and tool -------------------------------------------------------------------------
    def go(self, stage: str) -> bool:
        """Open a stage; False where it needs all steel and that was not waited for."""
        if stage not in _FRAMING and not self.filling.finish():
            self.said.emit(f"{stage} opens once all of the steel is made.", False)
            self.stage_changed.emit(self.stage)
            return False
        self.stage = stage
        self.use(None)
        self.stage_changed.emit(stage)
        return True

    def use(self, make: Callable[[], Tool] | None) -> None:
        """Take a tool; None goes back to selecting."""
        if make is not None:
            self.last_tool = make
        self.tool = make() if make else Tool(self)
        self.only = None
        self.tool_changed.emit()

    def connect_one(self) -> None:
        self.use(lambda: ConnectTool(self))

    def repeat(self) -> None:
        if self.last_tool is not None:
            self.use(self.last_tool)

    def step_back(self) -> None:
        """Esc: one pick back, then out of the tool, then nothing selected."""
        if self.tool.back():
            self.tool_changed.emit()
        elif type(self.tool) is not Tool:
            self.use(None)
        else:
            self.select(())

    def picked(self, snap: Snap) -> None:
        self._taken(lambda: self.tool.picked(snap))

    def typed(self, text: str) -> bool:
        """What was entered in the prompt; True where the tool took it."""
        return self._taken(lambda: self.tool.typed(text))

    def _taken(self, give: Callable[[], Result]) -> bool:
        """Give the tool something; what is refused leaves its picks as they were."""
        tool, before = self.tool, self.tool.state()
        if self.attempt(lambda: self.commit(give())):
            return True
        tool.restore(before)
        return False

    def again(self) -> None:
        """The tool's options changed."""
        self.pointing.again()
        self.tool_changed.emit()

    # -- work plane, snaps, preferences -------------------------------------------------------------
    def set_plane(self, plane: Plane) -> None:
        self.plane = plane
        self.view_changed.emit()
        self.tool_changed.emit()
        self.said.emit(f"Work plane: {self.plane_words()}", False)

    def plane_words(self) -> str:
        plane = self.plane
        if plane.level:
            height = format_elevation(float(plane.place.origin[2]), self.units)
            return f"{plane.name}, {height}"
        return plane.name + (f", {self.length(plane.depth)} out" if abs(plane.depth) > 0.05 else "")

    def _follow_plane(self, delta: Delta) -> None:
        """The plane in use follows its level or record; where that is gone, the lowest level's is taken."""
        touched = {e.id: e.after for e in delta.edits}
        if self.plane.id in touched or not self.plane.id:
            record = touched.get(self.plane.id)
            if isinstance(record, Level):
                self.plane = level_plane(record).deeper(self.plane.depth)
            elif isinstance(record, WorkPlane):
                self.plane = kept_plane(record)
            elif self.plane.id:
                self.plane = level_plane(self.levels[0])
        if self.plane.id == "level 0" and self.job.all(Level):
            self.plane = level_plane(self.levels[0])

    def hold(self) -> None:
        """Picks are dropped onto the work plane, or no more."""
        self.held = not self.held
        self.tool_changed.emit()
        self.said.emit("Picks are held to the work plane." if self.held else "Picks land where they snap.", False)

    def force(self, kind: SnapKind) -> None:
        """The next pick takes this kind of snap only; asked twice, any again."""
        self.only = None if self.only is kind else kind
        self.tool_changed.emit()

    def remembered(self, tool: str) -> dict[str, Any]:
        return dict(self.preferences.tools.get(tool, {}))

    def prefer(self, **values: Any) -> None:
        """Change preferences, and keep them. Raises JobError."""
        self.preferences = msgspec.structs.replace(self.preferences, **values)
        if self._keep is not None:
            settings.write(self._keep, self.preferences)
        self.view_changed.emit()

    def set_option(self, name: str, value: Any) -> None:
        """Change an option of the tool at hand; it is the tool's own next time. Raises JobError."""
        self.tool.set_option(name, value)
        kept = {**self.preferences.tools, self.tool.words: msgspec.structs.asdict(self.tool.options)}
        self.prefer(tools=kept)
        self.again()


def _first_lines(before: AnyRecord | None, after: AnyRecord | None) -> bool:
    """Whether a grid has lines now and had none."""
    had, has = (isinstance(one, Grid) and bool(one.numbers or one.letters) for one in (before, after))
    return has and not had
