"""Words and marks drawn with QPainter under and over the steel."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QLinearGradient, QPainter, QPen, QPolygonF

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.drawing_words import drawing_words
from uncus.app.canvas.laid import Layouts
from uncus.app.session import Session
from uncus.app.theme import Theme, lettering
from uncus.app.tools.lay_out import corners, grips
from uncus.app.tools.site import ring, site_lines
from uncus.frame.grids import bounds, runs
from uncus.frame.guides import stretch
from uncus.frame.placement import point_of
from uncus.frame.snaps import OVER, Snap
from uncus.job.holds import held
from uncus.job.records import Crane, End, Grid, Guide, LayDown, Member, ViewFrame
from uncus.shop.lines import edge_lines
from uncus.units import format_elevation, format_length, format_weight


def _pen(colour: str, width: float = 1.0, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    pen = QPen(QColor(colour), width, style)
    pen.setCosmetic(True)
    return pen


_TELLS, _ALONG = 40.0, 12.0  # pixels: from what length a left end is marked, and how far along


_DOTS = 500  # left ends in one picture
Spot = tuple[float, float, float]
_APART = 32.0  # px from one bubble to the next, across and along together


def thinning(count: int) -> list[int]:
    """The order in which things in a row are kept as long as there is room: both ends, then halves, quarters, ..."""
    order: list[int] = []
    seen: set[int] = set()
    step = max(1, count - 1)
    while len(order) < count:
        for n in range(0, count, step):
            if n not in seen:
                seen.add(n)
                order.append(n)
        if step == 1:
            break
        step = max(1, step // 2)
    return order


class Overlay:
    """Draws for one view."""

    def __init__(self, session: Session, camera: Camera, laid: Callable[[], Layouts] = Layouts) -> None:
        self.session, self.camera = session, camera
        self._laid = laid  # the steel in arrays, as it stands
        self.stretching: ViewFrame | None = None
        self._corners: np.ndarray | None = None
        self._plane_at: QPointF | None = None  # where the work plane's name stands

    def _at(self, *points: tuple[float, float, float]) -> list[QPointF]:
        return [QPointF(x, y) for x, y, _ in self.camera.to_screen(np.array(points)).tolist()]

    # -- under the steel --------------------------------------------------------------------------
    def lies_under(self, theme: Theme) -> tuple[object, ...]:
        """All that what lies under the steel hangs on: while it stays, so does the picture of it."""
        camera, session, plane = self.camera, self.session, self.session.plane
        seen = camera.yaw, camera.pitch, camera.scale, *camera.target.tolist(), camera.width, camera.height
        place = plane.place.origin.tobytes(), plane.place.axes.tobytes(), plane.level
        known = session.grid, tuple(session.levels), session.units, session.stage, self._extent().tobytes()
        return theme, lettering(), seen, place, known

    def under(self, painter: QPainter, theme: Theme) -> None:
        width, height = self.camera.width, self.camera.height
        sky = QLinearGradient(0, 0, 0, height)
        sky.setColorAt(0, QColor(theme.sky[0]))
        sky.setColorAt(1, QColor(theme.sky[1]))
        painter.fillRect(0, 0, width, height, sky)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._plane_and_grid(painter, theme)

    def _plane_and_grid(self, painter: QPainter, theme: Theme) -> None:
        """The grid as the view sees it, and the work plane with its name."""
        grid = self.session.grid
        self._plane_at = None
        if self.session.stage in ("Frame", "Connect"):
            self._plane(painter, theme)
        pen = _pen(theme.slate, 1)
        pen.setDashPattern([12, 3, 2, 3])
        if abs(self.camera.pitch) < 12.0:
            self._upright_grid(painter, theme, grid, pen)
            return
        if grid is None:
            return
        z = float(self.session.plane.place.origin[2]) if self.session.plane.level else self.session.levels[0].elevation
        there = runs(grid, OVER)
        self._grid_lines(painter, theme, pen, [
            (run.label, (*run.at(run.first), z), (*run.at(run.last), z)) for run in there])  # fmt: skip

    def _upright_grid(self, painter: QPainter, theme: Theme, grid: Grid | None, pen: QPen) -> None:
        """Seen level: grid lines that run with the line of sight stand upright, levels lie across with their
        heights."""
        heights = [level.elevation for level in self.session.levels]
        heights += self._extent()[:, 2].tolist()
        low, high = min(heights) - OVER, max(heights) + OVER
        back = self.camera.axes[2]
        along = [run for run in (runs(grid, OVER) if grid else ()) if abs(float(run.along @ back[:2])) >= 0.7]
        spots = [run.at((run.first + run.last) / 2) for run in along]
        self._grid_lines(painter, theme, pen, [
            (run.label, (x, y, low), (x, y, high)) for run, (x, y) in zip(along, spots, strict=True)])  # fmt: skip
        for level in self.session.levels:
            (p,) = self._at((*self.camera.target[:2].tolist(), level.elevation))
            painter.setPen(pen)
            painter.drawLine(QPointF(0, p.y()), QPointF(self.camera.width, p.y()))
            words = f"{level.name}  {format_elevation(level.elevation, self.session.units)}"
            self._tag(painter, theme, QPointF(10, p.y() - 3), words, quiet=True)

    def _grid_lines(self, painter: QPainter, theme: Theme, pen: QPen, lines: list[tuple[str, Spot, Spot]]) -> None:
        """Lines by label and ends (model), and their bubbles."""
        if not lines:
            return
        points = self._at(*(end for _, *ends in lines for end in ends))
        pairs = list(zip(points[::2], points[1::2], strict=True))
        painter.setPen(pen)
        painter.drawLines([QLineF(p, q) for p, q in pairs])
        self._bubbles(painter, theme, [(p, q, label) for (p, q), (label, *_) in zip(pairs, lines, strict=True)])

    def forget(self) -> None:
        """The steel, grid or levels changed."""
        self._corners = None

    def _extent(self) -> np.ndarray:
        """The eight corners of the box round the grid, the levels and all work points; nothing where there is none."""
        if self._corners is None:
            laid = self._laid()
            box = laid.ends[laid.standing].reshape(-1, 3)
            around = bounds(self.session.grid) if self.session.grid else None
            if around is not None:
                x0, y0, x1, y1 = around
                low, high = self.session.levels[0].elevation, self.session.levels[-1].elevation
                box = np.concatenate([box, [(x0, y0, low), (x1, y1, high)]])
            ends = np.array([box.min(axis=0), box.max(axis=0)]) if len(box) else np.zeros((0, 3))
            pick = np.array([[(i >> k) & 1 for k in range(3)] for i in range(8)])
            self._corners = np.stack([ends[pick[:, k], k] for k in range(3)], axis=1) if len(box) else ends
        return self._corners

    def _plane(self, painter: QPainter, theme: Theme) -> None:
        """The work plane as a sheet over the job, its name at a corner."""
        place = self.session.plane.place
        points = self._extent()
        if not len(points):
            return
        local = place.to_local(points)[:, :2]
        (u0, v0), (u1, v1) = local.min(axis=0) - OVER, local.max(axis=0) + OVER
        ring = place.to_model(np.array([(u0, v0, 0), (u1, v0, 0), (u1, v1, 0), (u0, v1, 0)]))
        outline = self._at(*ring.tolist())
        wash = QColor(theme.go)
        wash.setAlpha(18)
        painter.setBrush(wash)
        painter.setPen(_pen(theme.go, 1, Qt.PenStyle.DashLine))
        painter.drawPolygon(QPolygonF(outline))
        self._plane_at = min(outline, key=lambda c: (round(c.y() / 8), c.x()))  # bubbles stand at the low corners

    def _bubbles(self, painter: QPainter, theme: Theme, lines: list[tuple[QPointF, QPointF, str]]) -> None:
        """As many as have room: from afar the outer lines' and evenly some between, never one on another."""
        taken: list[tuple[float, float]] = []
        size, apart = lettering(), _APART * lettering()
        for n in thinning(len(lines)):
            p, q, label = lines[n]
            d = p - q
            centre = p + d * (12 * size / max(1.0, math.hypot(d.x(), d.y())))
            x, y = centre.x(), centre.y()
            if all(abs(x - u) + abs(y - v) > apart for u, v in taken):
                taken.append((x, y))
                self._bubble(painter, theme, centre, label)

    def _bubble(self, painter: QPainter, theme: Theme, centre: QPointF, label: str) -> None:
        painter.setPen(_pen(theme.slate, 1))
        painter.setBrush(QColor(theme.bone))
        r = 11 * lettering()
        painter.drawEllipse(centre, r, r)
        painter.setPen(QColor(theme.ink))
        self._font(painter, 11)
        painter.drawText(QRectF(centre.x() - r, centre.y() - r, 2 * r, 2 * r), Qt.AlignmentFlag.AlignCenter, label)

    # -- over the steel ---------------------------------------------------------------------------
    def over(
        self,
        painter: QPainter,
        theme: Theme,
        snap: Snap | None,
        box: QRectF | None,
        key: list[tuple[str, str, str]],
        hovered: str = "",
    ) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._plane_name(painter, theme)
        self._guides(painter, theme)
        drawing_words(painter, theme, self.session, self.camera)
        self._gone(painter, theme)
        self._frames(painter, theme)
        self._site(painter, theme)
        self._selected(painter, theme)
        self._left_ends(painter, theme, hovered)
        self._measures(painter, theme)
        self._pointed(painter, theme)
        self._spotted(painter, theme)
        self._held(painter, theme)
        self._preview(painter, theme)
        if snap is not None and self.session.tool.picks_points and not self.session.tool.picks_pieces:
            self._snap(painter, theme, snap)
        if box is not None:
            self._box(painter, theme, box)
        self._triad(painter, theme)
        self._filling(painter, theme)
        self._key(painter, theme, key)
        if not self.session.shop.so_far:
            self._empty(painter, theme)

    def _held(self, painter: QPainter, theme: Theme) -> None:
        """The numbers of the questions that hold pieces, amid them."""
        shop = self.session.shop
        for id, holds in held(self.session.job).items():
            body = shop.body(id)
            if body is None or not self.session.seeing.shown(id):
                continue
            (at,) = self._at(point_of((body.frame.origin + body.end(End.RIGHT)) / 2))
            self._tag(painter, theme, at, "? " + ", ".join(str(h.number) for h in holds), quiet=True)

    def _spotted(self, painter: QPainter, theme: Theme) -> None:
        """Where the finding is that is looked at: a ring about it, or at the edge an arrow towards it."""
        at = self.session.spotted
        if at is None:
            return
        (spot,) = self._at(at)
        r, edge = 16 * lettering(), 26 * lettering()
        painter.setPen(_pen(theme.wrong, 2.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        inside = QRectF(edge, edge, self.camera.width - 2 * edge, self.camera.height - 2 * edge)
        if inside.contains(spot):
            painter.drawEllipse(spot, r, r)
            return
        middle = inside.center()
        way = spot - middle
        share = min(inside.width() / 2 / max(1.0, abs(way.x())), inside.height() / 2 / max(1.0, abs(way.y())))
        tip = middle + way * share
        long = math.hypot(way.x(), way.y())
        along = way / max(1.0, long)
        across = QPointF(-along.y(), along.x())
        painter.setBrush(QColor(theme.wrong))
        painter.drawPolygon(QPolygonF([tip, tip - along * r + across * (r / 2), tip - along * r - across * (r / 2)]))

    def _filling(self, painter: QPainter, theme: Theme) -> None:
        """How much of the steel is made while a large job is opened."""
        filling = self.session.filling
        if filling.running:
            words = f"members stand without some of their joints yet: {int(100 * filling.share)} % made"
            self._tag(painter, theme, QPointF(12, self.camera.height - 96 * lettering()), words)

    def _plane_name(self, painter: QPainter, theme: Theme) -> None:
        """The work plane's name at a corner of it that is in sight."""
        if self._plane_at is None:
            return
        x = min(max(self._plane_at.x(), 6.0), self.camera.width - 200.0)
        y = min(max(self._plane_at.y(), 4.0), self.camera.height - 40.0)
        self._tag(painter, theme, QPointF(x + 4, y + 20), f"plane: {self.session.plane_words()}", quiet=True)

    def _guides(self, painter: QPainter, theme: Theme) -> None:
        for guide in self.session.job.all(Guide):
            p, q = self._at(*(tuple(v.tolist()) for v in stretch(guide)))
            chosen = guide.id in self.session.selection
            painter.setPen(_pen(theme.go if chosen else theme.look, 2 if chosen else 1, Qt.PenStyle.DashLine))
            painter.drawLine(p, q)

    def _pointed(self, painter: QPainter, theme: Theme) -> None:
        """What the value whose field has the keys measures: a dimension on the steel, the weld that it is the size of,
        or what moves with it."""
        pointed = self.session.pointing.shown
        if pointed is None:
            return
        a, b, value, path, moved = pointed.at
        words = f"{pointed.words}: {format_length(value, self.session.units)}"
        painter.setPen(_pen(theme.wrong, 2))
        painter.setBrush(QColor(theme.wrong))
        if moved or path:
            spots = self._at(*(tuple(p.tolist()) for p in (moved or path)))
            if path:
                painter.drawPolyline(QPolygonF(spots))
            for p in spots if moved else ():
                painter.drawEllipse(p, 3, 3)
            self._tag(painter, theme, spots[0] + QPointF(10, -10), words)
            return
        p, q = self._at(tuple(a.tolist()), tuple(b.tolist()))
        painter.drawLine(p, q)
        run = q - p
        long = max(1.0, math.hypot(run.x(), run.y()))
        across = QPointF(-run.y(), run.x()) * (6 / long)
        for end in (p, q):
            painter.drawLine(end - across, end + across)
        self._tag(painter, theme, (p + q) / 2 + across + QPointF(8, -8), words)

    def _gone(self, painter: QPainter, theme: Theme) -> None:
        """Members that were there at the moment that is held against now."""
        found = self.session.compared()
        lost = [m for m in found.gone if isinstance(m, Member)] if found is not None else []
        painter.setPen(_pen(theme.wrong, 2, Qt.PenStyle.DashLine))
        for m in lost:
            painter.drawLine(*self._at(m.start, m.end))

    def _frames(self, painter: QPainter, theme: Theme) -> None:
        """View frames: their face, depth behind, name, and grips where selected."""
        for frame in self.session.job.all(ViewFrame):
            if not self.session.seeing.frame_shown(frame.id, self.session.selection):
                continue
            if self.stretching is not None and self.stretching.id == frame.id:
                frame = self.stretching
            chosen = frame.id in self.session.selection
            face = self._at(*corners(frame))
            out = np.cross(frame.x, frame.y)
            back = self._at(*(tuple((np.asarray(c) - out * frame.behind).tolist()) for c in corners(frame)))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(_pen(theme.new, 1, Qt.PenStyle.DotLine))
            painter.drawPolygon(QPolygonF(back))
            painter.setPen(_pen(theme.new, 2 if chosen else 1.3))
            painter.drawPolygon(QPolygonF(face))
            self._tag(painter, theme, face[3] + QPointF(0, -4), f"view: {frame.name}", quiet=True)
            if chosen:
                painter.setBrush(QColor(theme.bone))
                for p in self._at(*grips(frame)):
                    painter.drawRect(QRectF(p.x() - 4, p.y() - 4, 8, 8))

    def _site(self, painter: QPainter, theme: Theme) -> None:
        """Cranes with their rings, laying-down areas."""
        job, chosen = self.session.job, self.session.selection
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for crane in job.all(Crane):
            for row in crane.table:
                painter.setPen(_pen(theme.new, 1, Qt.PenStyle.DashLine))
                painter.drawPolyline(QPolygonF(self._at(*ring(crane.at, row.radius))))
                self._tag(painter, theme, self._at((crane.at[0], crane.at[1] + row.radius, crane.at[2]))[0],
                    format_weight(row.lifts, job.project.units), quiet=True)  # fmt: skip
        for id, points in site_lines(job):
            painter.setPen(_pen(theme.new, 3 if id in chosen else 1.6))
            painter.drawPolyline(QPolygonF(self._at(*points)))
            record = job.get(id, Crane) or job.get(id, LayDown)
            if record is not None:
                self._tag(painter, theme, self._at(points[0])[0] + QPointF(6, -4), record.name, quiet=True)

    def _left_ends(self, painter: QPainter, theme: Theme, hovered: str) -> None:
        """The left end of the piece under the pointer; of every piece a dot a little way along it, so that at a joint
        it is clear whose it is, unless it is too short on the screen to tell."""
        session, laid = self.session, self._laid()
        named = session.job.get(hovered, Member) if hovered and hovered not in session.selection else None
        if session.seeing.left_ends:
            flags = laid.standing & laid.flags(session.seeing.hidden, False)
        else:
            flags = laid.standing & laid.flags([named.id] if named else [], True)
        painter.setPen(_pen(theme.bone, 1))
        painter.setBrush(QColor(theme.look))
        for spot in self._dots(laid.ends[flags]):
            painter.drawEllipse(spot, 3, 3)
        if named is not None:
            (p,) = self._at(named.start)
            mark = session.marks.of_assembly(named.id)
            self._tag(painter, theme, p + QPointF(9, -9), f"left end of {mark or named.role} {named.section}")

    def _dots(self, ends: np.ndarray) -> list[QPointF]:
        """A little way along each work line (n, 2, 3) that is in sight and long enough on the screen to tell one end
        from the other; of so many that they would be one blot, none."""
        screen = self.camera.to_screen(ends.reshape(-1, 3))[:, :2].reshape(-1, 2, 2)
        run = screen[:, 1] - screen[:, 0]
        long = np.hypot(run[:, 0], run[:, 1])
        spots = screen[:, 0] + run * (_ALONG / np.maximum(long, 1.0))[:, None]
        seen = (long > _TELLS) & ((spots > -5) & (spots < (self.camera.width + 5, self.camera.height + 5))).all(axis=1)
        return [QPointF(x, y) for x, y in spots[seen].tolist()] if int(seen.sum()) <= _DOTS else []

    def _joints(self, painter: QPainter, theme: Theme) -> None:
        """The plates and bolts of the selected joints, drawn over the steel."""
        chosen = [*self.session.connections, *self.session.attachments]
        for record in chosen[:60]:
            pieces, bolts = self.session.shop.made_by(record.id)
            painter.setPen(_pen(theme.go, 2))
            ends = [end for piece in pieces for line in edge_lines(piece) for end in line]
            if ends:
                flat = self.camera.to_screen(np.array(ends))[:, :2].tolist()
                points = [QPointF(x, y) for x, y in flat]
                painter.drawLines([QLineF(a, b) for a, b in zip(points[::2], points[1::2], strict=True)])
            painter.setBrush(QColor(theme.bone))
            for p in self._at(*bolts) if bolts else ():
                painter.drawEllipse(p, 3.5, 3.5)

    def _selected(self, painter: QPainter, theme: Theme) -> None:
        """The left end of each selected member, and marks where they matter."""
        session = self.session
        self._joints(painter, theme)
        members = session.members
        if len(members) <= 200:
            for m in members:
                (p,) = self._at(m.start)
                painter.setPen(_pen(theme.bone, 1.5))
                painter.setBrush(QColor(theme.go))
                painter.drawEllipse(p, 5, 5)
                if len(members) <= 12:
                    mark = session.marks.of_assembly(m.id)
                    self._tag(painter, theme, p + QPointF(9, -9), f"{mark} left end" if mark else "left end")
        if session.stage in ("Mark", "Draw", "Deliver"):
            marks = session.marks
            shown = list(session.shop.assemblies)
            if len(shown) <= 150:
                taken: list[QPointF] = []
                for id in shown:
                    assembly = session.shop.assemblies.get(id)
                    mark = marks.of_assembly(id)
                    if assembly and mark:
                        middle = [(a + b) / 2 for a, b in zip(assembly.member.start, assembly.member.end, strict=True)]
                        (p,) = self._at((middle[0], middle[1], middle[2]))
                        if any(abs(p.x() - q.x()) < 30 and abs(p.y() - q.y()) < 17 for q in taken):
                            continue  # a mark over a mark is no use: zoom in for it
                        taken.append(p)
                        self._tag(painter, theme, p, mark, centred=True, quiet=True)

    def _measures(self, painter: QPainter, theme: Theme) -> None:
        for m in self.session.measures:
            points = self._at(*m.points)
            if m.kind == "angle":
                points = [points[1], points[0], points[2]]
            painter.setPen(_pen(theme.look, 2))
            painter.drawPolyline(QPolygonF(points))
            at = points[1] if m.kind == "angle" else (points[0] + points[-1]) / 2
            kept = " kept" if m.id in self.session.job.records else ""
            self._tag(painter, theme, at, m.words + kept, centred=True)

    def _preview(self, painter: QPainter, theme: Theme) -> None:
        preview = self.session.tool.preview()
        painter.setPen(_pen(theme.go, 2))
        for path in preview.lines:
            points = self._at(*path)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF(points))
            painter.setBrush(QColor(theme.bone))
            painter.drawEllipse(points[0], 4, 4)
        if preview.words and preview.at is not None:
            (p,) = self._at(preview.at)
            self._tag(painter, theme, p + QPointF(14, 30), preview.words)

    def _snap(self, painter: QPainter, theme: Theme, snap: Snap) -> None:
        (p,) = self._at(snap.point)
        painter.setPen(_pen(theme.wrong, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(p, 8, 8)
        self._tag(painter, theme, p + QPointF(14, -14), snap.words)
        away = self.session.plane.away(snap.point)
        if abs(away) > 1.0:  # say how far a pick is off the plane, and show where it stands on it
            (foot,) = self._at(tuple(self.session.plane.onto(snap.point).tolist()))
            painter.setPen(_pen(theme.wrong, 1, Qt.PenStyle.DotLine))
            painter.drawLine(p, foot)
            side = "out of" if away > 0 else "behind"
            if self.session.plane.level:
                side = "above" if away > 0 else "below"
            words = f"{self.session.length(abs(away))} {side} the plane"
            self._tag(painter, theme, p + QPointF(14, 8), words, quiet=True)
        if self.session.held:
            painter.setPen(_pen(theme.wrong, 2))
            painter.drawLine(p + QPointF(-11, 11), p + QPointF(11, 11))  # the plane, under the mark

    def _tag(
        self, painter: QPainter, theme: Theme, at: QPointF, words: str, centred: bool = False, quiet: bool = False
    ) -> None:
        self._font(painter, 11)
        box = QRectF(painter.fontMetrics().boundingRect(words)).adjusted(-5, -2, 5, 2)
        box.moveCenter(at) if centred else box.moveBottomLeft(at)
        box.moveRight(min(box.right(), self.camera.width - 3.0))  # no word off the edge
        box.moveLeft(max(box.left(), 3.0))
        painter.setPen(_pen(theme.rule) if quiet else QPen(Qt.PenStyle.NoPen))
        painter.setBrush(QColor(theme.bone if quiet else theme.rail))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(QColor(theme.ink if quiet else theme.rail_ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _box(self, painter: QPainter, theme: Theme, box: QRectF) -> None:
        whole = box.width() > 0
        wash = QColor(theme.go)
        wash.setAlpha(30)
        painter.setBrush(wash)
        painter.setPen(_pen(theme.go, 1, Qt.PenStyle.SolidLine if whole else Qt.PenStyle.DashLine))
        painter.drawRect(box.normalized())
        self._tag(painter, theme, box.bottomRight() + QPointF(8, 0), "all inside" if whole else "all it touches")

    def _triad(self, painter: QPainter, theme: Theme) -> None:
        origin = QPointF(38, self.camera.height - 38)
        for axis, (name, colour) in enumerate((("x", theme.wrong), ("y", theme.go), ("z", theme.ink))):
            right, up, _ = self.camera.axes[:, axis]
            tip = origin + QPointF(right * 26, -up * 26)
            painter.setPen(_pen(colour, 2))
            painter.drawLine(origin, tip)
            painter.setPen(QColor(theme.slate))
            self._font(painter, 11)
            painter.drawText(tip + QPointF(right * 6 - 3, -up * 6 + 4), name)

    def _key(self, painter: QPainter, theme: Theme, key: list[tuple[str, str, str]]) -> None:
        """What colours mean: sign, words, colour."""
        if not key:
            return
        self._font(painter, 12)
        wide = max(painter.fontMetrics().horizontalAdvance(f"{sign}  {words}") for sign, words, _ in key) + 42
        row = 20 * lettering()
        box = QRectF(self.camera.width - wide - 12, 12, wide, row * len(key) + 12)
        painter.setPen(_pen(theme.rule))
        painter.setBrush(QColor(theme.bone))
        painter.drawRoundedRect(box, 5, 5)
        for n, (sign, words, colour) in enumerate(key):
            y = box.top() + 6 + row * n
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colour))
            painter.drawRect(QRectF(box.left() + 10, y + row / 2 - 4, 9, 9))
            painter.setPen(QColor(theme.ink))
            painter.drawText(QRectF(box.left() + 27, y, wide, row), Qt.AlignmentFlag.AlignVCenter, f"{sign}  {words}")

    def _empty(self, painter: QPainter, theme: Theme) -> None:
        painter.setPen(QColor(theme.slate))
        self._font(painter, 15)
        grid = self.session.grid
        words = (
            "No steel yet.\nC places columns on the grid, B draws beams between them, N makes a portal frame."
            if grid is not None and (grid.numbers or grid.letters)
            else "No steel yet.\nPress G first: type the grid and the levels.\n"
            "Then C places columns, B draws beams, N makes a portal frame."
        )
        painter.drawText(QRectF(0, 0, self.camera.width, self.camera.height * 0.5), Qt.AlignmentFlag.AlignCenter, words)

    def _font(self, painter: QPainter, pixels: int) -> None:
        font = QFont("IBM Plex Sans")
        font.setPixelSize(round(pixels * lettering()))
        painter.setFont(font)
