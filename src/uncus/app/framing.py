"""What the stage Frame does with a session: work planes, tools to take up, and changes of the selection at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import msgspec
import numpy as np

from uncus.app.session import Session
from uncus.app.tools.change_members import ArrayTool, CopyTool, MirrorTool, MoveTool, RotateTool, WorkPointTool
from uncus.app.tools.cut_members import SplitTool, TrimTool
from uncus.app.tools.draw_members import BeamTool, ColumnTool, NumbersTool, PolylineTool
from uncus.app.tools.guide import GuideTool
from uncus.app.tools.lay_out import DepthTool, MemberPlaneTool, ThreePointsTool, ViewFrameTool
from uncus.app.tools.measure import MeasureTool
from uncus.app.tools.site import CraneTool, LayDownTool
from uncus.catalog.sections import Form, UnknownSection, section
from uncus.connect.mirror import mirrored
from uncus.connect.settings import Joined
from uncus.frame import usual_views
from uncus.frame.carrying import flipped_with
from uncus.frame.cuts import join
from uncus.frame.grids import bounds, runs
from uncus.frame.neighbours import Segments
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.frame.planes import Plane, kept_plane, level_plane, wall_plane
from uncus.frame.roll import RollBy, Rolled, Toes, by_supports, toes_now, turned_toes
from uncus.job.errors import JobError
from uncus.job.records import Attachment, Connection, Member, Role, ViewFrame, WorkPlane, new_id
from uncus.steel.edge_fold import bent_as_one
from uncus.units import FOOT, counted

_USUAL = {
    Role.COLUMN: ("W10X49", "HEB200"),
    Role.BEAM: ("W12X26", "IPE300"),
    Role.RAFTER: ("W14X22", "IPE330"),
    Role.EAVES: ("C10X15.3", "UPN240"),
    Role.PURLIN: ("W8X18", "IPE200"),
    Role.GIRT: ("C8X11.5", "UPN200"),
    Role.BRACE: ("L4X4X3/8", "L4X4X3/8"),
    Role.POST: ("HSS5X5X1/4", "HEA140"),
    Role.STRUT: ("HSS5X5X1/4", "HEA140"),
    Role.HANGER: ("L4X4X3/8", "L4X4X3/8"),
    Role.EMBED: ("PL3/4X12", "FL300X20"),
    Role.PLATE: ("PL3/8X12", "FL300X10"),
    Role.TREAD: ("PL1/4X12", "FL300X6"),
    Role.PANEL: ("PL1/4X36", "FL900X6"),
    Role.STRINGER: ("C10X15.3", "UPN200"),
    Role.RAIL: ("HSS1.900X0.145", "CFCHS48.3X4"),
}

# -- new members ------------------------------------------------------------------------------------------


def template(session: Session, role: Role) -> Member:
    """What the next member of a role is like: as the last one was set, else the user's offset and a usual size."""
    known = session.templates.get(str(role))
    if known is not None:
        return known
    line, rise = session.preferences.offset(role)
    size = _USUAL[role][0 if session.imperial else 1]
    made = Member(role=role, section=size, start=(0, 0, 0), end=(1000, 0, 0), line=line, rise=rise)
    session.templates[str(role)] = made
    return made


def column(session: Session) -> None:
    z = float(session.plane.place.origin[2])
    above = [level.elevation for level in session.levels if level.elevation > z + 1]
    height = (above[0] - z) if above else 12 * FOOT
    session.use(lambda: ColumnTool(session, template(session, Role.COLUMN), height))


def beam(session: Session, role: Role = Role.BEAM) -> None:
    session.use(lambda: BeamTool(session, template(session, role)))


def polyline(session: Session) -> None:
    session.use(lambda: PolylineTool(session, template(session, Role.BEAM)))


def by_numbers(session: Session, name: str) -> None:
    session.use(lambda: NumbersTool(session, BY_NUMBERS[name]))


# -- tools ------------------------------------------------------------------------------------------------

_TOOLS: dict[str, Callable[[Session], object]] = {
    "copy": CopyTool,
    "move": MoveTool,
    "rotate": RotateTool,
    "mirror": MirrorTool,
    "array": ArrayTool,
    "split": SplitTool,
    "trim": TrimTool,
    "work point": WorkPointTool,
    "guide": GuideTool,
    "measure": MeasureTool,
    "depth": DepthTool,
    "three points": ThreePointsTool,
    "view frame": ViewFrameTool,
    "crane": CraneTool,
    "lay down": LayDownTool,
    "web plane": lambda session: MemberPlaneTool(session, flat=False),
    "flange plane": lambda session: MemberPlaneTool(session, flat=True),
}


def take_up(name: str) -> Callable[[Session], None]:
    """A command that takes up a tool."""
    return lambda session: session.use(lambda: _TOOLS[name](session))  # type: ignore[arg-type,return-value]


# -- work planes --------------------------------------------------------------------------------------------


def planes(session: Session) -> list[Plane]:
    """Every plane there is to choose: levels from below, kept ones, then the grid's walls."""
    out = [level_plane(level) for level in session.levels]
    out += [kept_plane(record) for record in session.job.all(WorkPlane)]
    grid = session.grid
    if grid is not None and bounds(grid) is not None:
        out += [wall_plane(run) for run in runs(grid)]
    return out


def next_level(session: Session, step: int = 1) -> None:
    levels = session.levels
    at = next((i for i, level in enumerate(levels) if level.id == session.plane.id), -1)
    session.set_plane(level_plane(levels[(at + step) % len(levels)]))


def keep_plane(session: Session, name: str) -> None:
    """Keep the plane in use under a name. Raises JobError."""
    if any(p.name.casefold() == name.strip().casefold() for p in session.job.all(WorkPlane)):
        raise JobError(f"A work plane “{name}” is kept already; choose another name.")
    record = session.plane.record(new_id(), name.strip())
    with session.job.change(f"Keep work plane {name}") as change:
        change.put(record)
    session.set_plane(kept_plane(record))


def forget_plane(session: Session) -> None:
    if not isinstance(session.job.records.get(session.plane.id), WorkPlane):
        raise JobError("The plane in use is not a kept one; there is nothing to take away.")
    session.change(f"Forget work plane {session.plane.name}", drop=[session.plane.id])


# -- the selection, at once -----------------------------------------------------------------------------------


def _members(session: Session) -> list[Member]:
    if not session.members:
        raise JobError("No member is selected; pick some first.")
    return session.members


def _joined(session: Session, member: Member) -> list[Joined]:
    return [*session.shop.connections_at(member.id), *session.shop.attachments_at(member.id)]


def flip(session: Session) -> None:
    """Exchange which end is the left one; the steel stays."""

    def work() -> None:
        members = _members(session)
        records: list[Member | Joined] = []
        gone: list[str] = []
        refused = []
        for m in members:
            try:
                put, drop = flipped_with(
                    m, _joined(session, m), lambda r, turned: mirrored(r, turned, session.job.rules)
                )
            except JobError as error:
                refused.append(str(error))
                continue
            records += put
            gone += drop
        if not records:
            raise JobError(refused[0])
        if not session.change(f"Flip ends of {len(members) - len(refused)}", records, gone):
            return
        words = f"{len(members) - len(refused)} flipped: their left end is the other one now"
        session.said.emit(words + (f"; {len(refused)} left: {refused[0]}" if refused else "."), bool(refused))

    session.attempt(work)


def view_frame(session: Session) -> None:
    """Take up the tool that places one; it is to be seen, whatever was hidden."""
    session.seeing.frames = True
    take_up("view frame")(session)


def elevations(session: Session) -> None:
    """A view frame at each grid line that has none yet."""
    made = usual_views.elevations(usual_views.Steel.of(session.job, session.units))
    _keep_views(session, "Elevations", made, f"{counted(len(made), 'elevation')} made, among the views and in Draw",
        "Every grid line that steel stands on has its elevation already.")  # fmt: skip


def plans_as_views(session: Session) -> None:
    """View frames of the levels, which take the place of their plans and show steel as they are asked to."""
    made = usual_views.plans(usual_views.Steel.of(session.job, session.units))
    done = f"{counted(len(made), 'plan')} made views, which stand for the levels' plans"
    _keep_views(session, "Plans as views", made, done, "Every level with steel has its plan as a view already.")


def _keep_views(session: Session, label: str, made: Sequence[ViewFrame], done: str, none: str) -> None:
    if not made:
        session.said.emit(none, False)
    elif session.change(label, made):
        _without_boxes(session, done)


def usual_set(session: Session) -> None:
    """All that an erector usually gets: elevations, braced walls, isometrics, and schedules."""
    job = session.job
    made = usual_views.usual(usual_views.Steel.of(job, job.project.units))
    rules = job.erection
    scheduled = msgspec.structs.replace(rules, columns=True, bolts=True, welds=True, lots=True)
    if not made and scheduled == rules:
        session.said.emit("The usual views and schedules are there already; the list of views tells which.", False)
    elif session.change("Usual set of erection drawings", [*made, *([scheduled] if scheduled != rules else [])]):
        told = f"{counted(len(made), 'view')} and the schedules made, in Draw beside the plans"
        _without_boxes(session, told if scheduled != rules else f"{counted(len(made), 'view')} made, in Draw")


def _without_boxes(session: Session, done: str) -> None:
    session.seeing.frames = False  # so many boxes are in the way of the steel
    session.view_changed.emit()
    session.said.emit(f"{done}; their boxes are hidden (show, Show view frames).", False)


def join_members(session: Session) -> None:
    """Make members in line one; of two plates that meet at an edge one that is bent there."""

    def work() -> None:
        members, joints = _members(session), (session.job.all(Connection), session.job.all(Attachment))
        if len(members) == 2 and all(m.blank is not None for m in members):
            one, other = members
            done = bent_as_one(one, other, session.units, session.job.rules.plate_grade, joints)
        else:
            done = join(members, joints[0], session.units, joints[1])
        if session.change("Join", done.put, done.drop):
            session.select(r.id for r in done.put if isinstance(r, Member))
            session.said.emit(done.words, False)

    session.attempt(work)


def _turn(session: Session, label: str, turn: Callable[[Member], Rolled], members: Iterable[Member]) -> None:
    """Turn members, each as it can be; what was used and what could not be is said."""

    def work() -> None:
        done: list[Rolled] = []
        refused = []
        for m in members:
            try:
                done.append(turn(m))
            except JobError as error:
                refused.append(str(error))
        if not done:
            raise JobError(refused[0])
        put: list[Member | Connection] = [r.member for r in done]
        if not session.change(f"{label} of {len(done)}", put):
            return
        words = sorted({r.words for r in done})
        told = f"{len(done)} turned: {'; others: '.join(words[:2])}" + ("; and more" if len(words) > 2 else "")
        session.said.emit(told + (f"; {len(refused)} left: {refused[0]}" if refused else "."), bool(refused))

    session.attempt(work)


def roll_by(session: Session, by: RollBy) -> None:
    """Roll worked out from what the selected members rest on."""
    members = session.job.all(Member)
    among = Segments(members)
    chosen = session.members
    if not chosen:
        session.said.emit("No member is selected; pick some first.", True)
        return
    _turn(session, "Roll", lambda m: by_supports(m, among, by), chosen)


def point_toes(session: Session, toes: Toes, leg_up: bool | None = None) -> None:
    """Toes of the selected channels and angles in, out, up or down."""
    members = [m for m in session.members if has_toes(m)]
    if not members:
        session.said.emit("No channel or angle is selected; only they have toes.", True)
        return
    _turn(session, "Toes", lambda m: turned_toes(m, toes, middle(session), leg_up), members)


def turn_leg(session: Session, up: bool) -> None:
    """The flat leg of the selected angles up or down, their toes pointing as they do."""
    members = [m for m in session.members if has_toes(m) and section(m.section).form is Form.ANGLE]
    if not members:
        session.said.emit("No single angle is selected; only they have a leg to turn.", True)
        return
    centre = middle(session)
    _turn(session, "Leg", lambda m: turned_toes(m, toes_now(m, centre), centre, up), members)


def has_toes(m: Member) -> bool:
    try:
        return section(m.section).form in (Form.CHANNEL, Form.ANGLE) and m.double is None
    except UnknownSection:
        return False


def middle(session: Session) -> np.ndarray:
    """The middle of the building in plan: of its grid, else of its members."""
    around = bounds(session.grid) if session.grid else None
    if around is None:
        points = np.array([p for m in session.job.all(Member) for p in (m.start, m.end)])
        return np.asarray((points.min(axis=0) + points.max(axis=0)) / 2)
    x0, y0, x1, y1 = around
    return np.array([(x0 + x1) / 2, (y0 + y1) / 2, 0.0])


def role_changed(session: Session, before: Member, role: Role) -> Member:
    """A template for another role: its own offset, the rest as it was."""
    line, rise = session.preferences.offset(role)
    return msgspec.structs.replace(before, role=role, line=line, rise=rise)
