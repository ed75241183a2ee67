"""The model view: orbit, pan, zoom, hover, pick and box over a picture of the shop's steel."""

from __future__ import annotations

import os

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from PySide6.QtWidgets import QWidget

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.overlay import Overlay
from uncus.app.canvas.picking import Pickables
from uncus.app.canvas.renderer import Renderer
from uncus.app.canvas.scene import Batch, Detail, batches, extent, moving_batches, part_shape
from uncus.app.session import Session
from uncus.app.theme import LIGHT, Theme
from uncus.app.tools.connect_one import ConnectTool
from uncus.catalog.sections import UnknownSection, section
from uncus.frame.axes import member_frame
from uncus.frame.snaps import Snap, SnapPoints, on_plane
from uncus.job.records import Member
from uncus.steel.features import EndCut
from uncus.steel.part import rolled

_REACH = 12.0  # pixels within which a named point takes the pick
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
        self.overlay = Overlay(session, self.camera)
        self.theme: Theme = LIGHT
        self.colours: dict[str, str] = {}
        self.key: list[tuple[str, str, str]] = []
        self.hovered = ""
        self.snap: Snap | None = None
        self._renderer: Renderer | None = None
        self._stale, self._tints_stale, self._preview_stale = True, True, True
        self._pickables: Pickables | None = None
        self._corners: np.ndarray | None = None
        self._points: SnapPoints | None = None
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
        session.selection_changed.connect(self._retint)
        session.tool_changed.connect(self._tool_changed)
        session.view_changed.connect(self._view_changed)

    # -- what is shown ----------------------------------------------------------------------------
    def _steel_changed(self, _touched: object = None) -> None:
        self._stale = self._preview_stale = True
        self._pickables = self._corners = self._points = None
        self.hovered = ""
        self.update()

    def _retint(self) -> None:
        self._tints_stale = True
        self.update()

    def _view_changed(self) -> None:
        self._points = None
        self.update()

    def _tool_changed(self) -> None:
        self._points = None
        self._preview_stale = True
        self.setCursor(Qt.CursorShape.CrossCursor if self.session.tool.picks_points else Qt.CursorShape.ArrowCursor)
        self.update()

    def colour(self, colours: dict[str, str], key: list[tuple[str, str, str]]) -> None:
        """Colour pieces by owner, with a key of (sign, words, colour)."""
        self.colours, self.key = colours, key
        self._retint()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self._retint()

    @property
    def pickables(self) -> Pickables:
        if self._pickables is None:
            self._pickables = Pickables(self.session.shop.assemblies, self.session.shop.assemblies)
        return self._pickables

    def frame(self) -> None:
        """Show all of the selection; where nothing is selected, everything and the grid."""
        chosen = [self.session.shop.assemblies[i] for i in self.session.selection if i in self.session.shop.assemblies]
        points = extent(chosen or self.session.shop.assemblies.values())
        grid = self.session.grid
        if not chosen and grid is not None and grid.numbers and grid.letters:
            crossings = [(n.at, c.at, self.session.plane.elevation) for n in grid.numbers for c in grid.letters]
            points = np.concatenate([points, np.array(crossings)])
        self.camera.frame(points if len(points) else np.array([(0, 0, 0), (12000, 12000, 4000)]))
        everything = extent(self.session.shop.assemblies.values())
        if len(everything):
            self.camera.reach = max(100_000.0, 2.0 * float(np.linalg.norm(np.ptp(everything, axis=0))))
        self.update()

    # -- OpenGL -----------------------------------------------------------------------------------
    def initializeGL(self) -> None:
        self._renderer = Renderer(self.samples)
        self._stale = self._tints_stale = self._preview_stale = True

    def resizeGL(self, width: int, height: int) -> None:
        self.camera.width, self.camera.height = self.width(), self.height()
        if not self._framed:
            self._framed = True
            self.frame()

    def paintGL(self) -> None:
        renderer = self._renderer
        if renderer is None:
            return
        if self._stale:
            renderer.upload("rest", batches(self.session.shop.assemblies.values()))
            renderer.upload("moving", moving_batches(self.session.shop.assemblies.values()))
            self._stale, self._tints_stale = False, True
        if self._tints_stale:
            renderer.tint(self._tints(), self.theme.steel)
            self._tints_stale = False
        if self._preview_stale:
            renderer.upload_preview(self._preview(), self.theme.go)
            self._preview_stale = False
        painter = QPainter(self)
        self.overlay.under(painter, self.theme)
        painter.beginNativePainting()
        ratio = self.devicePixelRatio()
        pixels = (round(self.width() * ratio), round(self.height() * ratio))
        renderer.draw(self.defaultFramebufferObject(), self.camera, pixels, self.theme.edge, self._moving)
        painter.endNativePainting()
        self.overlay.over(painter, self.theme, self.snap, self._box, self.key)
        painter.end()

    def _tints(self) -> dict[str, str]:
        tints = dict(self.colours)
        owners = set(self.session.selection)
        for connection in self.session.connections:
            owners.add(connection.member)
        tints.update(dict.fromkeys(owners, self.theme.go))
        if self.hovered and self.hovered not in owners:
            tints[self.hovered] = self.theme.look
        return tints

    def _preview(self) -> list[Batch]:
        out = []
        for member in self.session.tool.preview().members:
            out += _member_batch(member)
        return out

    # -- pointer ----------------------------------------------------------------------------------
    def _ray(self, at: QPointF) -> tuple[np.ndarray, np.ndarray]:
        return self.camera.ray(at.x(), at.y())

    def _under(self, at: QPointF) -> tuple[str, np.ndarray] | None:
        hit = self.pickables.at(*self._ray(at))
        return (hit[0].owner, hit[1]) if hit else None

    def snap_at(self, at: QPointF) -> Snap | None:
        """Where a pick here would land."""
        tool = self.session.tool
        if isinstance(tool, ConnectTool) or not tool.picks_points:
            hit = self._under(at)
            return Snap(_plain(hit[1]), "face", hit[0]) if hit else None
        if self._points is None:
            self._points = SnapPoints(self.session.job.all(Member), self.session.grid, self.session.plane.elevation)
        index = self._points.nearest(self.camera.to_screen(self._points.points), (at.x(), at.y()), _REACH)
        if index is not None:
            return Snap(_plain(self._points.points[index]), self._points.words[index], self._points.pieces[index])
        point = on_plane(*self._ray(at), self.session.plane.elevation)
        return Snap(_plain(np.round(point, 1)), "on the plane") if point is not None else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press = self._last = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            hit = self._under(event.position())
            self._about = hit[1] if hit else self.camera.target.copy()
        self.setFocus(Qt.FocusReason.MouseFocusReason)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at, buttons = event.position(), event.buttons()
        d = at - self._last
        if buttons & Qt.MouseButton.MiddleButton:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.camera.pan(d.x(), d.y())
            else:
                self.camera.orbit(d.x(), d.y(), self._about)
            self._start_moving()
        elif buttons & Qt.MouseButton.LeftButton and self._press is not None and not self.session.tool.picks_points:
            if (at - self._press).manhattanLength() > _DRAG:
                self._box = QRectF(self._press, at)
            self.update()
        else:
            self._hover(at)
        self._last = at

    def _hover(self, at: QPointF) -> None:
        self.snap = self.snap_at(at)
        self.snapped.emit(self.snap)
        tool = self.session.tool
        if tool.picks_points:
            if self.snap is not None:
                tool.moved(self.snap)
                self._preview_stale = True
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
        if box is not None:
            self._select_box(box, add)
        else:
            self._click(event.position(), add)
        self.update()

    def _click(self, at: QPointF, add: bool) -> None:
        tool = self.session.tool
        if tool.picks_points or isinstance(tool, ConnectTool):
            snap = self.snap_at(at)
            if snap is None:
                self.session.said.emit("There is nothing to pick here.", True)
                return
            self.snap = snap
            tool.moved(snap)
            self.session.picked(snap)
            self._preview_stale = True
            return
        hit = self._under(at)
        self.session.select({hit[0]} if hit else (), add)

    def _select_box(self, box: QRectF, add: bool) -> None:
        if self._corners is None:
            self._corners = self.pickables.corners()
        screen = self.camera.to_screen(self._corners.reshape(-1, 3))[:, :2].reshape(-1, 8, 2)
        plain = box.normalized()
        edges = (plain.left(), plain.top(), plain.right(), plain.bottom())
        self.session.select(self.pickables.within(screen, edges, whole=box.width() > 0), add)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if not self.session.tool.picks_points and (hit := self._under(event.position())):
            self.opened.emit(hit[0])

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = event.position()
        self.camera.zoom(0.8 ** (event.angleDelta().y() / 120), at.x(), at.y())
        self._start_moving()

    def _start_moving(self) -> None:
        self._moving = True
        self._rest.start()
        self.update()

    def _settle(self) -> None:
        self._moving = False
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text()
        plain = not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.typed.emit("\n")
        elif plain and text and (text.isdigit() or text in "-+.'\""):
            self.typed.emit(text)
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, following: bool) -> bool:
        return False  # Tab goes from a piece to its sheet; Ctrl+K and the mouse lead elsewhere


def _plain(v: np.ndarray) -> tuple[float, float, float]:
    return float(v[0]), float(v[1]), float(v[2])


def _member_batch(member: Member) -> list[Batch]:
    """A member as it would be, before any connection."""
    try:
        found = section(member.section)
        frame = member_frame(member, found)
        part, shift = rolled(found, "", "", EndCut(member.left_back), EndCut(member.work_length - member.right_back))
    except (UnknownSection, ValueError):
        return []
    place = frame.moved((shift, 0, 0))
    matrix = np.hstack([place.axes, place.origin[:, None]]).ravel().astype(np.float32)[None]
    return [Batch(part_shape(part, Detail.PLAIN), matrix, [member.id])]
