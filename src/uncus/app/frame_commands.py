"""The commands of the stage Frame: laying out, steel, changes, seeing; and the snaps that keys force."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from uncus.app import composing, framing, measuring
from uncus.app.command import Command, by, some_members, some_selected, some_steel
from uncus.app.desk import Desk
from uncus.app.framing import take_up
from uncus.app.seeing import Style
from uncus.app.session import Session
from uncus.app.stages.grid import GridDialog
from uncus.app.stages.lens import LensDialog
from uncus.app.stages.preferences import PreferencesDialog
from uncus.app.tools.lay_out import FacePlaneTool
from uncus.compose.kinds import COMPOUNDS
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.frame.planes import view_plane
from uncus.frame.roll import RollBy, Toes
from uncus.frame.snaps import SnapKind
from uncus.job.records import Grid, Member, Role, View, ViewFrame, ViewKind, new_id

Do = Callable[[Session], object]


def _frame(
    id: str,
    words: str,
    key: str,
    group: str,
    icon: str,
    help: str,
    do: Do,
    when: Callable[[Session], bool] = lambda _: True,
) -> Command:
    return Command(id, words, key, "Frame", group, icon, help, by(do), when)


def _anywhere(
    id: str, words: str, key: str, help: str, do: Do, when: Callable[[Session], bool] = lambda _: True
) -> Command:
    return Command(id, words, key, "", "", "frame", help, by(do), when)


def _window(id: str, words: str, key: str, help: str, do: Callable[[Desk], object]) -> Command:
    """One that needs more than the session, from any stage."""
    return Command(id, words, key, "", "", "frame", help, do)


def _plane(
    id: str, words: str, help: str, do: Callable[[Desk], object], when: Callable[[Session], bool] = lambda _: True
) -> Command:
    return Command(id, words, "", "Frame", "", "plane", help, do, when)


def some_frames(session: Session) -> bool:
    return any(True for _ in session.job.all(ViewFrame))


def some_steel_there(session: Session) -> bool:
    return any(True for _ in session.job.all(Member)) and any(True for _ in session.job.all(Grid))


def some_plate(session: Session) -> bool:
    return any(m.blank is not None for m in session.members)


def _plate_file(desk: Desk) -> None:
    path = desk.file_from("A plate's outline", "Drawings (*.dxf)")
    if path is not None:
        desk.session.attempt(lambda: composing.plate_from(desk.session, path))


def _face_plane(desk: Desk) -> None:
    desk.session.use(lambda: FacePlaneTool(desk.session, desk.model.pointer.normal))


def _view_plane(desk: Desk) -> None:
    session, camera = desk.session, desk.model.camera
    session.set_plane(view_plane(session.plane.onto(camera.target), camera.axes[0], camera.axes[1]))


def _keep_plane(desk: Desk) -> None:
    session = desk.session
    if name := desk.ask_name("Keep the work plane", session.plane.name):
        session.attempt(lambda: framing.keep_plane(session, name))


def _through_frame(desk: Desk) -> None:
    session = desk.session
    frames = [r for id in session.selection if (r := session.job.get(id, ViewFrame))]
    if frames:
        desk.model.show_frame(frames[0])
    else:
        session.said.emit("Select a view frame first: pick its edge.", True)


def _keep_view(desk: Desk) -> None:
    session = desk.session
    name = desk.ask_name("Keep this view", f"{session.seeing.kind} {len(session.job.all(View)) + 1}")
    if name:
        keep_view(desk, name)


def keep_view(desk: Desk, name: str) -> None:
    """Keep the view as it is; one of the same name is replaced."""
    session = desk.session
    old = next((v for v in session.job.all(View) if v.name == name), None)
    view = desk.model.view(old.id if old else new_id(), name)
    if session.change(f"Keep view {name}", (view,)):
        session.said.emit(f"View “{name}” is kept; find it under views.", False)


def _look(kind: ViewKind) -> Callable[[Desk], object]:
    return lambda desk: desk.model.look(kind)


SNAP_KEYS = {
    SnapKind.END: "Alt+E",
    SnapKind.MIDDLE: "Alt+M",
    SnapKind.CROSSING: "Alt+X",
    SnapKind.LIFTED: "Alt+L",
    SnapKind.APPARENT: "Alt+A",
    SnapKind.GRID: "Alt+G",
    SnapKind.SQUARE: "Alt+Q",
    SnapKind.NEAREST: "Alt+N",
    SnapKind.HOLE: "Alt+O",
    SnapKind.CORNER: "Alt+C",
    SnapKind.PLANE: "Alt+P",
}
_SNAP_HELP = {
    SnapKind.END: "ends of members and guides",
    SnapKind.MIDDLE: "middles of members",
    SnapKind.CROSSING: "where two lines meet",
    SnapKind.LIFTED: "a plan crossing, lifted onto the member that passes there",
    SnapKind.APPARENT: "a plan crossing, left on the work plane",
    SnapKind.GRID: "crossings of grid lines",
    SnapKind.SQUARE: "square to a line, from the last point",
    SnapKind.NEAREST: "the nearest point of a line or edge",
    SnapKind.HOLE: "centres of holes",
    SnapKind.CORNER: "corners of pieces",
    SnapKind.PLANE: "the work plane itself",
}
_NUMBER_KEYS = {
    "portal frame": "N",
    "bay of bracing": "Shift+B",
    "bracing between four corners": "Shift+X",
    "run of purlins or girts": "Shift+P",
    "flat truss": "Shift+T",
    "plate in a wall": "Shift+E",
}
_NUMBER_ICONS = {
    "portal frame": "portal",
    "bay of bracing": "bracing",
    "bracing between four corners": "corners",
    "run of purlins or girts": "runs",
    "flat truss": "truss",
    "plate in a wall": "embed",
}

LAY_OUT = (
    Command("grid", "Grid and levels", "G", "Frame", "Lay out", "grid",
        "Type the spacings of the grid and the heights of the levels; move and skew lines.",
        lambda desk: desk.hold(GridDialog)),
    Command("plane", "Work plane", "W", "Frame", "Lay out", "plane",
        "Choose what picks lie on: a level, a grid wall, a face, a member, three points, the view.",
        lambda desk: desk.prompt.choose_plane()),
    _frame("guide", "Guide", "U", "Lay out", "guide",
        "Throw-away lines for picking: parallel, square, round a plate, along bolts.", take_up("guide")),
)  # fmt: skip

STEEL = (
    _frame("column", "Column", "C", "Steel", "column", "Pick a foot for each column; type its height.", framing.column),
    _frame("beam", "Beam", "B", "Steel", "beam", "Pick the left end, then the far end or type a length.", framing.beam),
    _frame("polyline", "Along a path", "Y", "Steel", "path",
        "Pick point after point; Enter makes a member of each side.", framing.polyline),
    *(
        _frame(name, kind.words, _NUMBER_KEYS.get(name, ""), "Steel", _NUMBER_ICONS.get(name, "frame"),
            f"By numbers: {kind.help}", partial(framing.by_numbers, name=name))
        for name, kind in BY_NUMBERS.items()
    ),
    *(
        _frame(f"draw {role}", f"Draw a {role}", "", "", "beam", f"Pick both ends of a {role}.",
            partial(framing.beam, role=role))
        for role in Role if role not in (Role.COLUMN, Role.BEAM, Role.EMBED, Role.PLATE, Role.TREAD, Role.PANEL)
    ),
)  # fmt: skip

_PART_KEYS = {"stair": "Shift+I", "winding stair": "Shift+W", "rail": "Shift+N", "transition": "Shift+Y"}
_PART_ICONS = {
    "stair": "stair",
    "stair with a landing": "stair",
    "winding stair": "winding",
    "rail": "rail",
    "ladder": "ladder",
    "grating": "grating",
    "floor plate": "floor",
    "bent plate": "bent",
    "lintel": "lintel",
    "elbow": "elbow",
    "saddle branch": "saddle",
}

PARTS = (
    _frame("plate", "Plate", "Shift+O", "Plates and stairs", "plate",
        "Draw a plate in the work plane: by corners with lines and arcs, a rectangle, a circle.", composing.plate),
    *(
        _frame(name, kind.words, _PART_KEYS.get(name, ""), "Plates and stairs", _PART_ICONS.get(name, "transition"),
            kind.help, partial(composing.take_up, kind=name))
        for name, kind in COMPOUNDS.items()
    ),
    _frame("climbing", "Climbing member", "Shift+Q", "Plates and stairs", "climb",
        "Any section along a helix: pick the axis it climbs about, then where it begins.", composing.climbing),
    Command("plate file", "Plate from a DXF file", "", "Frame", "", "plate",
        "Its outline, openings and holes as they are drawn; a pick says where it goes.", _plate_file),
    _frame("plate holes", "Holes in a plate", "", "", "plate", "One or a pattern, in the selected plate.",
        composing.holes, some_plate),
    _frame("plate opening", "Opening in a plate", "", "", "plate", "Drawn like an outline, in the selected plate.",
        composing.opening, some_plate),
    _frame("bend plate", "Bend a plate", "", "", "plate", "Along a line of the selected plate, by angle and radius.",
        composing.bend, some_plate),
    _frame("plate point", "Move a plate's point", "", "", "point", "A corner, an edge or a hole of the selected plate.",
        composing.plate_point, some_plate),
)  # fmt: skip

CHANGE = (
    _frame("copy", "Copy", "K", "Change", "copy", "From a point to as many others as you pick.", take_up("copy"),
        some_members),
    _frame("move", "Move", "V", "Change", "move", "From a point to another, or by typed distances.", take_up("move"),
        some_members),
    _frame("rotate", "Rotate", "T", "Change", "rotate", "About a point, square to the work plane.", take_up("rotate"),
        some_members),
    _frame("mirror", "Mirror", "I", "Change", "mirror", "In a line; channels and connections are mirrored too.",
        take_up("mirror"), some_members),
    _frame("array", "Array", "A", "Change", "array", "Copies at even steps, or onto other grid lines.",
        take_up("array"), some_members),
    _frame("split", "Split", "S", "Change", "split", "Cut what is selected by lines or the work plane.",
        take_up("split"), some_members),
    _frame("trim", "Trim or extend", "E", "Change", "trim",
        "Take the nearer ends to another member or the work plane.", take_up("trim"), some_members),
    _frame("join", "Join", "J", "Change", "join",
        "Members in line and end to end made one; of two plates that meet at an edge one that is bent there.",
        framing.join_members, some_members),
    _frame("work point", "Move work point", "Q", "Change", "point",
        "Move a point that members share; what stands on it follows.", take_up("work point"), some_steel),
    _frame("flip", "Flip ends", "X", "", "copy", "Exchange which end is the left one; the steel stays.", framing.flip,
        some_members),
    Command("delete", "Delete", "Del", "Frame", "Change", "delete",
        "Delete what is selected: members with their connections, guides, view frames.", by(Session.delete),
        some_selected, stays=True),
    *(
        _frame(f"roll {by.name}", f"Roll: {by}", "", "", "rotate", "Worked out from what the member rests on.",
            partial(framing.roll_by, by=by), some_members)
        for by in RollBy
    ),
    *(
        _frame(f"toes {toes}", f"Toes {toes}", "", "", "rotate", "Turn channels and angles.",
            partial(framing.point_toes, toes=toes), some_members)
        for toes in Toes
    ),
)  # fmt: skip

SEE = (
    _frame("measure", "Measure", "M", "Measure", "measure",
        "Straight and along the plane, an angle, an edge distance, a chain.", take_up("measure")),
    _frame("clear", "Clear measures", "Shift+M", "Measure", "clear", "Take all measures out of the view and the job.",
        measuring.clear_measures),
    _frame("keep measures", "Keep measures", "", "", "measure", "Keep what is measured with the job.",
        measuring.keep_measures),
    _frame("clear guides", "Clear guides", "Shift+U", "", "clear", "The selected guides, or all.",
        measuring.clear_guides),
    _frame("view frame", "View frame", "Z", "Measure", "view", "Place the box that a drawing view is made from.",
        framing.view_frame),
    _frame("elevations", "Elevations at grid lines", "", "Measure", "view",
        "A view frame at each grid line that steel stands on; each becomes an erection drawing.", framing.elevations,
        some_steel_there),
    _frame("usual set", "Usual set of views", "", "Measure", "view",
        "Elevations, braced walls, isometrics of the whole and of each lot, and schedules that are not there yet.",
        framing.usual_set, some_steel_there),
    _frame("crane", "Crane", "", "Site", "crane", "Where a crane stands; its load table is typed among its facts.",
        take_up("crane")),
    _frame("lay down", "Laying-down area", "", "Site", "area", "Where the steel of some lots lies until it is set.",
        take_up("lay down")),
)  # fmt: skip

PLANES = (
    _frame("next level", "Next level up", "PgUp", "", "plane", "Work on the plane of the next level.",
        lambda s: framing.next_level(s, 1)),
    _frame("level down", "Next level down", "PgDown", "", "plane", "Work on the plane of the level below.",
        lambda s: framing.next_level(s, -1)),
    _frame("depth", "Plane in or out", "D", "", "plane", "Move the work plane by a typed depth.", take_up("depth")),
    _frame("three points", "Plane by three points", "", "", "plane", "Origin, the way of x, the side of y.",
        take_up("three points")),
    _frame("web plane", "Plane of a member's web", "", "", "plane", "Through its work line.", take_up("web plane"),
        some_steel),
    _frame("flange plane", "Plane of a member's flange", "", "", "plane", "Through its work line.",
        take_up("flange plane"), some_steel),
    _plane("face plane", "Plane of a face", "The face of a piece that you pick.", _face_plane, some_steel),
    _plane("view plane", "Plane of the view", "Square to the line of sight.", _view_plane),
    _plane("keep plane", "Keep the work plane", "Give the plane in use a name.", _keep_plane),
    _frame("forget plane", "Forget the work plane", "", "", "plane", "Take the kept plane in use away.",
        lambda s: s.attempt(lambda: framing.forget_plane(s))),
)  # fmt: skip


def _hide(session: Session) -> None:
    session.seeing.hide(session.selection)
    session.select(())
    session.view_changed.emit()


def _only(session: Session) -> None:
    session.seeing.show_only(session.selection, session.shop.assemblies)
    session.view_changed.emit()


def _ghost(session: Session) -> None:
    session.seeing.ghost_rest(session.selection, session.shop.assemblies)
    session.view_changed.emit()


def _all(session: Session) -> None:
    session.seeing.show_all()
    session.seeing.clip(None, None)
    session.view_changed.emit()


def _style(style: Style) -> Do:
    def do(session: Session) -> None:
        session.seeing.set_style(session.selection or session.shop.assemblies, style)
        session.view_changed.emit()

    return do


def _frames(session: Session) -> None:
    session.seeing.frames = not session.seeing.frames
    session.view_changed.emit()


def _left_ends(session: Session) -> None:
    session.seeing.left_ends = not session.seeing.left_ends
    session.view_changed.emit()


VIEW = (
    _anywhere("hide", "Hide", "H", "Leave what is selected out of the view.", _hide, some_members),
    _anywhere("only", "Show only", "Shift+H", "Leave all but what is selected out of the view.", _only, some_members),
    _anywhere("ghost", "Ghost the rest", "Ctrl+H", "See through all but what is selected.", _ghost, some_members),
    _anywhere("show all", "Show all", "Shift+A", "Nothing hidden, ghosted or clipped.", _all),
    *(_anywhere(f"style {s}", f"Draw as {s}", "", "What is selected, or everything.", _style(s), some_steel) for s
        in Style),
    _anywhere("frames", "Show view frames", "", "The boxes that drawing views are made from.", _frames, some_frames),
    _anywhere("left ends", "Show left ends", "Shift+L", "Mark the left end of every member.", _left_ends, some_steel),
    _window("view plan", "View: plan", "F5", "From above.", _look(ViewKind.PLAN)),
    _window("view elevation", "View: elevation", "F6", "Square to an upright work plane, else from the south.",
        _look(ViewKind.ELEVATION)),
    _window("view section", "View: section", "F7", "Cut at the work plane, with a little depth.",
        _look(ViewKind.SECTION)),
    _window("view free", "View: free", "F8", "From a corner; middle drag turns.", _look(ViewKind.FREE)),
    _window("through frame", "Look through the view frame", "", "The selected frame's own view.", _through_frame),
    _window("keep view", "Keep this view", "", "Give the view a name, with what is hidden and clipped.", _keep_view),
    _window("lens", "Lens", "Ctrl+L", "Pick out pieces by what is known of them: select, colour, show only.",
        lambda desk: desk.keep_open(LensDialog)),
    _window("preferences", "Preferences", "Ctrl+,", "Look, snap distance, mouse, usual offsets.",
        lambda desk: desk.hold(lambda s, parent: PreferencesDialog(s, desk.follow_preferences, parent))),
    _window("type", "Type a value", "F2", "Put the keys into the prompt.", lambda desk: desk.prompt.entry.setFocus()),
)  # fmt: skip

SNAPS = (
    _anywhere("hold", "Hold picks to the work plane", "Alt+H",
        "Every pick is dropped onto the work plane until you let go.", Session.hold),
    *(
        _anywhere(f"snap {kind}", f"Snap: {kind} only", key, f"The next pick takes only {_SNAP_HELP[kind]}.",
            partial(Session.force, kind=kind))
        for kind, key in SNAP_KEYS.items()
    ),
)  # fmt: skip

FRAME = (*LAY_OUT, *STEEL, *PARTS, *CHANGE, *SEE, *PLANES, *VIEW, *SNAPS)
