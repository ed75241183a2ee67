"""What the window shows and does: the job, its shop, the selection, the stage and the tool at hand."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, Signal

from uncus.app.tools.connect_one import ConnectTool
from uncus.app.tools.draw_members import BeamTool, ColumnTool, MeasureTool
from uncus.app.tools.tool import Commit, Measure, Tool
from uncus.connect.by_rule import by_rule
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.job import Delta, Job
from uncus.job.records import AnyRecord, Connection, Grid, Level, Line, Member, Role, Sent
from uncus.mark.marking import Marks, Proposal, assembly_content
from uncus.shop.pieces import Touched
from uncus.shop.shop import Shop, build
from uncus.units import FOOT, UnitError, format_elevation, format_length

STAGES = ("Frame", "Connect", "Check", "Mark", "Draw", "Deliver")


class Session(QObject):
    """Signals: steel (Touched), selection, stage, tool, said (sentence, is it an error)."""

    steel = Signal(object)
    selection_changed = Signal()
    stage_changed = Signal(str)
    tool_changed = Signal()
    view_changed = Signal()
    said = Signal(str, bool)
    asked = Signal(str)  # a command for the window: frame, find ...

    def __init__(self, job: Job) -> None:
        super().__init__()
        self.job = job
        self.shop: Shop = build(job)
        self.selection: frozenset[str] = frozenset()
        self.stage = "Frame"
        self.tool: Tool = Tool(self.units)
        self.last_tool: Callable[[], Tool] | None = None
        self.plane: Level = self._levels()[0]
        self.measures: list[Measure] = []
        self.proposal: Proposal | None = None
        self._marks: Marks | None = None
        self._contents: dict[str, tuple[object, str]] = {}
        preset = "W10X49" if self.imperial else "HEB200"
        self.column_template = Member(
            role=Role.COLUMN, section=preset, start=(0, 0, 0), end=(0, 0, 1000), line=Line.CENTRE
        )
        self.beam_template = Member(
            role=Role.BEAM,
            section="W12X26" if self.imperial else "IPE300",
            start=(0, 0, 0),
            end=(1000, 0, 0),
            line=Line.TOP,
        )
        self._stop = job.follow(self._followed)

    # -- facts of the job -------------------------------------------------------------------------
    @property
    def units(self):  # type: ignore[no-untyped-def]
        return self.job.project.units

    @property
    def imperial(self) -> bool:
        return self.units == "imperial"

    def _levels(self) -> list[Level]:
        found = sorted(self.job.all(Level), key=lambda level: level.elevation)
        return found or [Level(id="level 0", name="Ground", elevation=0.0)]

    @property
    def grid(self) -> Grid | None:
        return next(iter(self.job.all(Grid)), None)

    def length(self, mm: float) -> str:
        return format_length(mm, self.units)

    @property
    def marks(self) -> Marks:
        """The marks as they are, read once a change."""
        if self._marks is None:
            self._marks = Marks(self.job)
        return self._marks

    def content(self, id: str) -> str:
        """An assembly's fingerprint, worked out once for as long as it stays the same."""
        assembly = self.shop.assemblies[id]
        known = self._contents.get(id)
        if known is None or known[0] is not assembly:
            known = self._contents[id] = (assembly, assembly_content(assembly))
        return known[1]

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
        touched: Touched = self.shop.follow(delta)
        self.proposal = self._marks = None
        if not any(level.id == self.plane.id for level in self._levels()):
            self.plane = self._levels()[0]
        gone = self.selection - self.shop.assemblies.keys() - self.job.records.keys()
        self.steel.emit(touched)
        if gone:
            self.select(self.selection - gone)
        else:
            self.selection_changed.emit()

    def commit(self, done: Commit | Measure | None) -> None:
        """Take what a tool gives."""
        if isinstance(done, Measure):
            self.measures.append(done)
        elif isinstance(done, Commit) and self.change(done.label, done.put, done.drop) and not self._findings_of(done):
            self.said.emit(f"{done.label} made; Ctrl+Z takes it back.", False)
        self.tool_changed.emit()

    def _findings_of(self, done: Commit) -> bool:
        for record in done.put:
            if isinstance(record, Connection):
                found = self.shop.connections.get(record.id)
                if found and found.findings:
                    self.said.emit(found.findings[0].text, True)
                    return True
        return False

    def undo(self) -> None:
        delta = self.job.undo()
        self.said.emit(f"Took back: {delta.label}" if delta else "There is nothing to take back.", False)

    def redo(self) -> None:
        delta = self.job.redo()
        self.said.emit(f"Did again: {delta.label}" if delta else "There is nothing to do again.", False)

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

    def delete(self) -> None:
        """Delete what is selected, and the connections at members that go."""
        gone = set(self.selection)
        if not gone:
            self.said.emit("Nothing is selected; pick what should go first.", True)
            return
        for member in self.members:
            gone |= {c.id for c in self.shop.connections_at(member.id)}
        self.change(f"Delete {len(self.selection)} selected", drop=sorted(gone))

    def select_all(self) -> None:
        self.select(self.shop.assemblies)

    # -- stage and tool -------------------------------------------------------------------------
    def go(self, stage: str) -> None:
        self.stage = stage
        self.use(None)
        self.stage_changed.emit(stage)

    def use(self, make: Callable[[], Tool] | None) -> None:
        """Take a tool; None goes back to selecting."""
        if make is not None:
            self.last_tool = make
        self.tool = make() if make else Tool(self.units)
        self.tool_changed.emit()

    def column(self) -> None:
        above = [level.elevation for level in self._levels() if level.elevation > self.plane.elevation + 1]
        height = (above[0] - self.plane.elevation) if above else 12 * FOOT
        self.use(lambda: ColumnTool(self.units, self.column_template, height))

    def beam(self) -> None:
        self.use(lambda: BeamTool(self.units, self.beam_template))

    def measure(self) -> None:
        self.use(lambda: MeasureTool(self.units))

    def connect_one(self) -> None:
        self.use(lambda: ConnectTool(self.job))

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
        self.attempt(lambda: self.commit(self.tool.picked(snap)))

    def typed(self, text: str) -> bool:
        """What was entered in the prompt; True where the tool took it."""
        return self.attempt(lambda: self.commit(self.tool.typed(text)))

    def next_plane(self) -> None:
        levels = self._levels()
        at = next((i for i, level in enumerate(levels) if level.id == self.plane.id), -1)
        self.plane = levels[(at + 1) % len(levels)]
        self.view_changed.emit()
        self.tool_changed.emit()
        self.said.emit(f"Work plane: {self.plane.name}, {format_elevation(self.plane.elevation, self.units)}", False)

    def clear_measures(self) -> None:
        self.measures.clear()
        self.view_changed.emit()

    # -- by rule ----------------------------------------------------------------------------------
    def connect_by_rule(self) -> None:
        """Connect the free ends of the selection, or of everything where nothing is selected."""
        ids = [m.id for m in self.members] or list(self.shop.assemblies)
        proposal = by_rule(self.job, ids)
        if proposal.made:
            self.change(f"Connect {len(proposal.made)} ends by rule", proposal.made)
        wrong = sum(bool(self.shop.connections[c.id].findings) for c in proposal.made if c.id in self.shop.connections)
        words = f"{len(proposal.made)} ends connected"
        if wrong:
            words += f", {wrong} of them with a finding (see Check)"
        if proposal.skipped:
            words += f"; {len(proposal.skipped)} left: {proposal.skipped[0].why}"
            self.select({s.member for s in proposal.skipped})
        self.said.emit(words + ".", bool(wrong))

    # -- how far the job is -----------------------------------------------------------------------
    def progress(self) -> dict[str, float]:
        """The share of the job that is through each stage, 0 to 1."""
        shop, job = self.shop, self.job
        if not shop.assemblies:
            return dict.fromkeys(STAGES, 0.0)
        members = job.all(Member)
        marks = self.marks
        framed = len(shop.assemblies) / max(1, len(members))
        ends = sum(1 if m.role in (Role.COLUMN, Role.POST) else 2 for m in members)
        connected = min(1.0, len(shop.connections) / max(1, ends))
        wrong = {f.about for f in shop.all_findings}
        clean = 1 - len(wrong) / max(1, len(shop.assemblies) + len(shop.connections))
        marked = sum(1 for id in shop.assemblies if marks.content_of(id) == self.content(id)) / len(shop.assemblies)
        sent = {s.sheet: s for s in job.all(Sent)}
        names = {marks.of_assembly(id) for id in shop.assemblies}
        drawn = len(names & sent.keys()) / max(1, len(names)) if sent else 0.0
        return {
            "Frame": framed,
            "Connect": connected,
            "Check": clean,
            "Mark": marked,
            "Draw": drawn if marked == 1 else drawn * marked,
            "Deliver": drawn if marked == 1 else 0.0,
        }
