"""The model view: orbit, pan, zoom, hover, pick and box over a picture of the shop's steel."""

from __future__ import annotations

import os
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from PySide6.QtWidgets import QWidget

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.dimensions import Dimensions
from uncus.app.canvas.massing import MANY, Massing
from uncus.app.canvas.overlay import Overlay
from uncus.app.canvas.pointer import Pointer
from uncus.app.canvas.pulling import Pull
from uncus.app.canvas.renderer import SETS, Renderer, Tints, rgb
from uncus.app.canvas.scene import (
    Batch,
    Detail,
    Solid,
    batches,
    extent,
    part_shape,
    stick_batches,
)
from uncus.app.seeing import Style
from uncus.app.session import Session
from uncus.app.theme import LIGHT, Theme
from uncus.app.tools.lay_out import stretched
from uncus.catalog.sections import UnknownSection, section
from uncus.frame.arcs import arc_of
from uncus.frame.axes import member_frame
from uncus.frame.grids import bounds
from uncus.frame.placement import point_of
from uncus.frame.snaps import OVER, Snap
from uncus.job.records import Member, Point, View, ViewFrame, ViewKind
from uncus.shop.lines import corner_snaps
from uncus.shop.pieces import Touched
from uncus.steel.features import EndCut
from uncus.steel.forming import Curve
from uncus.steel.part import rolled
from uncus.units import FOOT

_LARGE = 600  # pieces beyond which an edit is shown plainly first
_JOINT = 3000.0  # mm of the model that a view of one place shows
_DRAG = 5.0  # pixels a press may wander and still be a click


def samples_wanted() -> int:
    """Samples a pixel for steel at rest: 4, or what UNCUS_SAMPLES says (0 on slow machines)."""
    text = os.environ.get("UNCUS_SAMPLES", "4")
    return int(text) if text.isdigit() else 4


class ModelView(QOpenGLWidget):
    """`typed` carries the first character of what should go to the prompt."""

    typed = Signal(str)
    opened = Signal(str)
    snapped = Signal(object)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.camera = Camera()
        self.samples = samples_wanted()
        session.pointing.seen_along = lambda: self.camera.axes
        self.pointer = Pointer(session, self.camera)
        self.overlay = Overlay(session, self.camera, lambda: self.pointer.laid)
        self.dimensions = Dimensions(session, self.camera)
        self.theme: Theme = LIGHT
        self.colours: dict[str, str] = {}
        self.key: list[tuple[str, str, str]] = []
        self.hovered = ""
        self.snap: Snap | None = None
        self._renderer: Renderer | None = None
        self._stale: set[str] = set(SETS)  # sets of batches that are not as the steel is
        self._solid = Solid()
        self._massing: Massing | None = None
        self._picture: list[Batch] = []
        self._under: tuple[object, QImage] | None = None  # what lies under the steel, and what that hangs on
        self._tints_stale, self._preview_stale = True, True
        self._others_seen = -1
        self._seen = -1  # version of what is shown that the uploaded sets are of
        self._grip: tuple[str, int] | None = None
        self._pull: Pull | None = None
        self._press: QPointF | None = None
        self._last = QPointF()
        self._box: QRectF | None = None
        self._about = np.zeros(3)
        self._framed = False
        self._moving = False
        self._rest = QTimer(self, singleShot=True, interval=160)
        self._rest.timeout.connect(self._settle)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Model")
        self.setAccessibleDescription(
            "The steel in three dimensions; middle drag turns, with Shift it pans, the wheel zooms."
        )
        session.steel.connect(self._steel_changed)
        session.filling.done.connect(self._rest.start)
        session.filling.progressed.connect(self.update)
        session.filling.made.connect(self.pointer.lay)
        session.selection_changed.connect(self._retint)
        session.tool_changed.connect(self._tool_changed)
        session.view_changed.connect(self._view_changed)
        session.others.changed.connect(self._others_changed)

    # -- what is shown ----------------------------------------------------------------------------
    def _steel_changed(self, touched: Touched | None = None) -> None:
        self._stale, self._preview_stale = set(SETS), True
        self.pointer.forget_steel(touched.any if touched is not None else None)
        self.overlay.forget()
        self.dimensions.forget()
        self.hovered = ""
        if len(self.session.shop.so_far) > _LARGE:
            self._start_moving()  # show the change at once, plainly; finely when the hand rests
        self.update()

    def _retint(self) -> None:
        self._tints_stale = True
        self.update()

    def _view_changed(self) -> None:
        if self.session.seeing.version != self._seen:
            self._stale = set(SETS)
            self.pointer.forget_steel()
        self.pointer.forget_snaps()
        self.update()

    def _others_changed(self) -> None:
        self.pointer.others = self.session.others.scene.others
        self.update()

    def _tool_changed(self) -> None:
        self.pointer.forget_snaps()
        self._preview_stale = True
        crossed = self._picks
        self.setCursor(Qt.CursorShape.CrossCursor if crossed else Qt.CursorShape.ArrowCursor)
        self.update()

    @property
    def _picks(self) -> bool:
        """Whether a click goes to the tool at hand."""
        return self.session.tool.picks_points or self.session.tool.picks_pieces

    def colour(self, colours: dict[str, str], key: list[tuple[str, str, str]]) -> None:
        """Colour pieces by owner, with a key of (sign, words, colour)."""
        self.colours, self.key = colours, key
        self._retint()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._retint()

    def frame(self) -> None:
        """Show all of the selection; where nothing is selected, everything and the grid."""
        assemblies, seeing = self.session.shop.so_far, self.session.seeing
        chosen: list[object] = [assemblies[i] for i in self.session.selection if i in assemblies]
        points = extent(
            [assemblies[i] for i in self.session.selection if i in assemblies]
            or [a for a in assemblies.values() if seeing.shown(a.id)]
        )
        joints = [c.id for c in (*self.session.connections, *self.session.attachments)]
        if joints and not chosen:
            points, chosen = self._around(joints), [True]  # a joint is looked at from near by
        around = bounds(self.session.grid) if self.session.grid else None
        if not chosen and around is not None and not seeing.hidden:
            x0, y0, x1, y1 = np.add(around, (-OVER, -OVER, OVER, OVER)).tolist()
            z = self.session.levels[0].elevation
            points = np.concatenate([points, [(x0, y0, z), (x1, y0, z), (x1, y1, z), (x0, y1, z)]])
        if not chosen and len(self.pointer.others):
            points = np.concatenate([points.reshape(-1, 3), self.pointer.others.extent])
        self.camera.frame(points if len(points) else np.array([(0, 0, 0), (12000, 12000, 4000)]))
        everything = np.concatenate([extent(assemblies.values()), self.pointer.others.extent])
        if len(everything):
            self.camera.reach = max(100_000.0, 2.0 * float(np.linalg.norm(np.ptp(everything, axis=0))))
        self.update()

    def _around(self, joints: list[str]) -> np.ndarray:
        """Points round the parts and bolts of joints, with some of the steel they are on."""
        found: list[np.ndarray] = []
        for id in joints:
            pieces, bolts = self.session.shop.made_by(id)
            found += [piece.placement.origin for piece in pieces]
            found += [np.asarray(corner.point) for piece in pieces[:20] for corner in corner_snaps(piece)]
            found += [np.asarray(b) for b in bolts]
        if not found:
            return np.zeros((0, 3))
        points = np.array([np.asarray(p) for p in found])
        low, high = points.min(axis=0) - 250.0, points.max(axis=0) + 250.0
        return np.array([[(low, high)[(i >> k) & 1][k] for k in range(3)] for i in range(8)])

    def look(self, kind: ViewKind) -> None:
        """Take one of the four views: a plan from above; an elevation or section square to the work plane where that
        is upright, else from the south; free as it is."""
        seeing, plane = self.session.seeing, self.session.plane
        upright = abs(float(plane.base.z[2])) < 0.7
        if kind is ViewKind.PLAN:
            self.camera.look_from((0.0, 0.0, 1.0))
        elif kind in (ViewKind.ELEVATION, ViewKind.SECTION):
            self.camera.look_from(plane.base.z if upright else (0.0, -1.0, 0.0))
        else:
            self.camera.yaw, self.camera.pitch = -35.0, 28.0
        before = behind = None
        if kind is ViewKind.SECTION:
            before, behind = (2 * FOOT, 8 * FOOT) if self.session.imperial else (600.0, 2500.0)
        seeing.kind = kind
        seeing.clip(None, None)
        self.frame()
        if kind is ViewKind.SECTION:
            # the cut is at the work plane: the depth of the view is measured from there
            n = self.camera.axes[2]
            self.camera.target = self.camera.target + float((plane.place.origin - self.camera.target) @ n) * n
            seeing.clip(before, behind)
        self.session.view_changed.emit()

    def view(self, id: str, name: str) -> View:
        """The view as it is now, to be kept."""
        camera, seeing = self.camera, self.session.seeing
        return View(
            id=id,
            name=name,
            kind=seeing.kind,
            target=point_of(camera.target),
            yaw=camera.yaw,
            pitch=camera.pitch,
            scale=camera.scale,
            before=seeing.before,
            behind=seeing.behind,
            hidden=tuple(sorted(seeing.hidden)),
        )

    def show_view(self, view: View) -> None:
        """Go back to a kept view."""
        camera, seeing = self.camera, self.session.seeing
        camera.target = np.array(view.target)
        camera.yaw, camera.pitch, camera.scale = view.yaw, view.pitch, view.scale
        seeing.kind = view.kind
        seeing.set_hidden(view.hidden)
        seeing.clip(view.before, view.behind)
        self.session.view_changed.emit()

    def go_to(self, at: Point) -> None:
        """Bring a point to the middle, from so near that a joint fills the view."""
        self.camera.target = np.array(at)
        self.camera.scale = min(self.camera.scale, _JOINT / max(200, min(self.camera.width, self.camera.height)))
        self.session.view_changed.emit()

    def show_frame(self, frame: ViewFrame) -> None:
        """Look through a view frame: square at it, with its depth."""
        camera, seeing = self.camera, self.session.seeing
        camera.look_from(np.cross(frame.x, frame.y))
        camera.target = np.array(frame.origin)
        camera.scale = 1.12 * max(frame.width / max(50, camera.width), frame.height / max(50, camera.height - 60))
        seeing.kind = ViewKind.PLAN if abs(float(camera.axes[2][2])) > 0.99 else ViewKind.SECTION
        seeing.clip(frame.before, frame.behind)
        self.session.view_changed.emit()

    # -- OpenGL -----------------------------------------------------------------------------------
    def initializeGL(self) -> None:
        self._renderer = Renderer(self.samples)
        self._stale = set(SETS)
        self._solid, self._picture, self._others_seen = Solid(), [], -1
        self._tints_stale = self._preview_stale = True

    def resizeGL(self, width: int, height: int) -> None:
        self.camera.width, self.camera.height = self.width(), self.height()
        if not self._framed:
            self._framed = True
            self.frame()

    def paintGL(self) -> None:
        renderer = self._renderer
        if renderer is None:
            return
        wanted = self._stale & {"moving" if self._moving else "rest", "lines", "ghost"}
        if wanted:
            self._upload(renderer, wanted)
            self._stale -= wanted
            self._tints_stale = True
        if self._moving and self._massing is not None:
            picture = self._massing.picture(self.camera)
            if picture is not self._picture:
                renderer.upload("moving", {(n,): batch for n, batch in enumerate(picture)})
                self._picture = picture
        if self._tints_stale:
            renderer.tint(self._tints())
            self._tints_stale = False
        self._draw_others(renderer)
        if self._preview_stale:
            renderer.upload_preview(self._preview(), self.theme.go)
            self._preview_stale = False
        # lines and letters are painted into pictures of their own, which the processor does finely and fast; as parts
        # of
        # the scene they would need several samples a pixel of the whole widget
        hangs_on = self.overlay.lies_under(self.theme), self.devicePixelRatio()
        if self._under is None or self._under[0] != hangs_on:
            self._under = hangs_on, self._painted(lambda p: self.overlay.under(p, self.theme))
        over = self._painted(self._paint_over)
        painter = QPainter(self)
        painter.drawImage(0, 0, self._under[1])
        painter.beginNativePainting()
        ratio = self.devicePixelRatio()
        pixels = (round(self.width() * ratio), round(self.height() * ratio))
        seeing = self.session.seeing
        before, behind = (1e9 if depth is None else depth for depth in (seeing.before, seeing.behind))
        inks = (self.theme.edge, self.theme.slate)
        renderer.draw(self.defaultFramebufferObject(), self.camera, pixels, inks, self._moving, (before, behind))
        painter.endNativePainting()
        painter.drawImage(0, 0, over)
        painter.end()

    def _draw_others(self, renderer: Renderer) -> None:
        """What is shown of others' models, where it is another than was drawn."""
        scene = self.session.others.scene
        renderer.see_through = self.session.others.see_through
        if scene.version != self._others_seen:
            done = [renderer.upload_others(name, getattr(scene.drawn, name), scene.drawn.tints) for name in
                ("rest", "lines")]  # fmt: skip
            if all(done):
                self._others_seen = scene.version
            else:
                self._rest.start()  # the next picture takes more
        if self._moving and len(scene.others):
            renderer.upload_others("moving", scene.others.moving(self.camera), scene.drawn.tints)

    def _paint_over(self, painter: QPainter) -> None:
        self.overlay.over(painter, self.theme, self.snap, self._box, self.key + self.session.others.key, self.hovered)
        self.dimensions.paint(painter, self.theme, self.hovered)

    def show_dimensions(self) -> None:
        """Dimensions of the selected pieces' own sheets on or off the model."""
        ids = frozenset(m.id for m in self.session.members)
        self.session.said.emit(self.dimensions.toggle(ids), False)
        self.update()

    def _painted(self, paint: Callable[[QPainter], None]) -> QImage:
        ratio = self.devicePixelRatio()
        image = QImage(
            round(self.width() * ratio), round(self.height() * ratio), QImage.Format.Format_ARGB32_Premultiplied
        )
        image.setDevicePixelRatio(ratio)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        paint(painter)
        painter.end()
        return image

    def _upload(self, renderer: Renderer, wanted: set[str]) -> None:
        """The steel, sorted by how it is shown, into the sets that are wanted."""
        seeing, laid = self.session.seeing, self.pointer.laid
        self._seen = seeing.version
        shown, ghosted = laid.flags(seeing.hidden, False), laid.flags(seeing.ghosted, True)
        solid = shown & ~ghosted & laid.flags(seeing.styles, False)
        if "rest" in wanted:
            renderer.upload("rest", self._solid.follow(laid, solid))
        if "moving" in wanted:
            self._massing = Massing(laid, solid)
        if "lines" in wanted:
            styled = {style: [id for id, own in seeing.styles.items() if own is style] for style in Style}
            outlined = laid.flags(styled[Style.OUTLINE], True) & shown & ~ghosted
            sticks = [id for id in styled[Style.STICK] if id in laid.rows and id not in seeing.hidden | seeing.ghosted]
            lines = batches(laid, outlined, lines_only=True) + stick_batches(laid, sticks)
            renderer.upload("lines", {(n,): batch for n, batch in enumerate(lines)})
        if "ghost" in wanted:
            ghosts = batches(laid, shown & ghosted, Detail.STOCK)
            renderer.upload("ghost", {(n,): batch for n, batch in enumerate(ghosts)})

    def _tints(self) -> Tints:
        """The colour of each owner: by the lens or stage, then what is selected, then what is under the pointer."""
        laid, selected = self.pointer.laid, self.session.selection
        tints = np.tile(np.array(rgb(self.theme.steel), dtype=np.float32), (len(laid.standing), 1))
        by_colour: dict[str, list[int]] = {}
        hovered = {self.hovered: self.theme.look} if self.hovered not in selected else {}
        for id, colour in (*self.colours.items(), *((id, self.theme.go) for id in selected), *hovered.items()):
            if (owner := laid.owner_of(id)) is not None:
                by_colour.setdefault(colour, []).append(owner)
        for colour in (*(c for c in by_colour if c not in (self.theme.go, self.theme.look)), self.theme.go,
                self.theme.look):  # fmt: skip
            tints[by_colour.get(colour, [])] = rgb(colour)
        return tints

    def _preview(self) -> list[Batch]:
        out = []
        for member in self.session.tool.preview().members:
            out += _member_batch(member)
        return out

    # -- pointer ----------------------------------------------------------------------------------
    @property
    def _turn_button(self) -> Qt.MouseButton:
        right = self.session.preferences.orbit == "right"
        return Qt.MouseButton.RightButton if right else Qt.MouseButton.MiddleButton

    def snap_at(self, at: QPointF) -> Snap | None:
        """Where a pick here would land."""
        return self.pointer.snap(at.x(), at.y())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press = self._last = event.position()
        if event.button() in (self._turn_button, Qt.MouseButton.MiddleButton):
            hit = self.pointer.piece(event.position().x(), event.position().y())
            self._about = hit[1] if hit else self.camera.target.copy()
        elif event.button() == Qt.MouseButton.LeftButton:
            self._pull = Pull.at(self.session, self.camera, event.position())
            self.session.pointing.pulling = self._pull is not None
            if not self._picks:
                self._grip = self.pointer.grip(event.position().x(), event.position().y())
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at, buttons = event.position(), event.buttons()
        d = at - self._last
        if buttons & self._turn_button or buttons & Qt.MouseButton.MiddleButton:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.camera.pan(d.x(), d.y())
            else:
                self.camera.orbit(d.x(), d.y(), self._about)
                if self.session.seeing.kind is not ViewKind.FREE:
                    self.session.seeing.kind = ViewKind.FREE
                    self.session.view_changed.emit()
            self._start_moving()
        elif self._pull is not None and buttons & Qt.MouseButton.LeftButton:
            self._pull.to(at)
            self.update()
        elif self._grip is not None and buttons & Qt.MouseButton.LeftButton:
            self.overlay.stretching = self._stretch(at)
            self.update()
        elif buttons & Qt.MouseButton.LeftButton and self._press is not None and not self._picks:
            if (at - self._press).manhattanLength() > _DRAG:
                self._box = QRectF(self._press, at)
            self.update()
        else:
            self._hover(at)
        self._last = at

    def _stretch(self, at: QPointF) -> ViewFrame | None:
        """The view frame as dragging its grip to a pixel makes it."""
        frame = self.session.job.get(self._grip[0], ViewFrame) if self._grip else None
        if frame is None or self._grip is None:
            return None
        origin, way = self.camera.ray(at.x(), at.y())
        normal = np.cross(frame.x, frame.y)
        slope = float(way @ normal)
        if abs(slope) < 1e-6:
            return frame
        to = origin + way * (float((np.asarray(frame.origin) - origin) @ normal) / slope)
        return stretched(frame, self._grip[1], point_of(np.round(to, 1)))

    def _hover(self, at: QPointF) -> None:
        self.snap = self.snap_at(at)
        self.snapped.emit(self.snap)
        tool = self.session.tool
        if self.snap is not None and self._picks:
            tool.moved(self.snap)
            self.session.pointing.moved()
            self._preview_stale = True
        if tool.picks_points and not tool.picks_pieces:
            self.update()
            return
        now = self.snap.piece if self.snap else ""
        if now != self.hovered:
            self.hovered = now
            self._retint()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self._press is None:
            self._press = None
            return
        box, self._box, self._press = self._box, None, None
        add = bool(event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))
        if self._pull is not None:
            pull, self._pull, self.session.pointing.pulling = self._pull, None, False
            if not pull.let_go(event.position()):
                self._click(event.position(), add)  # it was not moved: a pick that lies there
        elif self._grip is not None:
            frame = self._stretch(event.position())
            self._grip = self.overlay.stretching = None
            if frame is not None:
                self.session.change(f"Stretch view frame {frame.name}", (frame,))
        elif box is not None:
            self._select_box(box, add)
        else:
            self._click(event.position(), add)
        self.update()

    def _click(self, at: QPointF, add: bool) -> None:
        session = self.session
        if self._picks:
            snap = self.snap_at(at)
            if snap is None:
                words = f"There is no “{session.only}” here; Esc or its key again takes any." if session.only else ""
                session.said.emit(words or "There is nothing to pick here.", True)
                return
            self.snap = snap
            session.tool.moved(snap)
            session.pointing.moved()
            session.picked(snap)
            self._preview_stale = True
            return
        hit = self.pointer.piece(at.x(), at.y())
        found = hit[0] if hit else self.pointer.line(at.x(), at.y())
        if session.stage == "Connect":  # a plate, bolt or hole stands for the joint that made it
            found = self.pointer.maker(at.x(), at.y()) or found
        if found is None and (met := self.pointer.other(at.x(), at.y())) is not None:
            session.others.picked.emit(met.reference, met.product)
        session.select({found} if found else (), add)

    def _select_box(self, box: QRectF, add: bool) -> None:
        plain = box.normalized()
        edges = (plain.left(), plain.top(), plain.right(), plain.bottom())
        self.session.select(self.pointer.within(edges, whole=box.width() > 0), add)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        hit = self.pointer.piece(event.position().x(), event.position().y())
        if not self._picks and hit:
            self.opened.emit(hit[0])

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = event.position()
        sense = 1 if self.session.preferences.wheel == "zooms in" else -1
        self.camera.zoom(0.8 ** (sense * event.angleDelta().y() / 120), at.x(), at.y())
        self._start_moving()

    def _start_moving(self) -> None:
        self._moving = True
        self._rest.start()
        self.update()

    def _settle(self) -> None:
        if self.session.filling.running and len(self.session.shop.so_far) > MANY:
            return  # drawn plainly until all of it is made
        self._moving = False
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text()
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.typed.emit("\n")
        elif plain and text and (text.isdigit() or text in "-+.'\"(,"):
            self.typed.emit(text)
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, following: bool) -> bool:
        return False  # Tab goes from a piece to its sheet; Ctrl+K and the mouse lead elsewhere


def _member_batch(member: Member) -> list[Batch]:
    """A member as it would be, before any connection."""
    try:
        found = section(member.section)
        frame = member_frame(member, found)
        arc = arc_of(member, frame)
        ends = EndCut(member.left_back), EndCut((arc.length if arc else member.work_length) - member.right_back)
        part, shift = rolled(found, "", "", *ends, curve=Curve(arc.radius, arc.turn) if arc else None)
    except (UnknownSection, ValueError):
        return []
    place = (arc.at(shift + part.length / 2) if arc else frame).moved((shift, 0, 0))
    matrix = np.hstack([place.axes, place.origin[:, None]]).ravel().astype(np.float32)[None]
    return [Batch(part_shape(part, Detail.PLAIN), matrix, np.zeros(1, dtype=np.int32))]
