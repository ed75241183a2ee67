"""What is under the pointer: the piece, the face, the snap, a guide or a grip. No Qt."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable

import numpy as np

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.laid import Layouts
from uncus.app.canvas.others import Met, Others
from uncus.app.canvas.picking import Pickables, crosses
from uncus.app.session import Session
from uncus.app.tools.lay_out import grips
from uncus.app.tools.site import site_lines
from uncus.frame.guides import stretch
from uncus.frame.placement import point_of
from uncus.frame.snaps import NamedLine, Snap, SnapIndex, SnapKind, Wanted
from uncus.job.records import Guide, Member, ViewFrame
from uncus.shop.lines import corner_snaps, edge_lines, hole_snaps
from uncus.shop.makers import maker_at

_TOUCH = 7.0  # pixels within which a line or grip is touched


class Pointer:
    """Reads a session through a camera; forget what is stale with `forget_steel` and `forget_snaps`."""

    def __init__(self, session: Session, camera: Camera) -> None:
        self.session, self.camera = session, camera
        self._laid = Layouts()
        self._touched: set[str] | None = None  # assemblies that may be others than are laid out; None: all
        self._pickables: Pickables | None = None
        self._corners: np.ndarray | None = None
        self._index: SnapIndex | None = None
        self.others = Others({})

    def forget_steel(self, touched: Iterable[str] | None = None) -> None:
        """What is known of some assemblies may be no more; None: of all."""
        if touched is None:
            self._touched = None
        elif self._touched is not None:
            self._touched |= set(touched)
        self._pickables = self._corners = self._index = None

    def lay(self, made: Iterable[str]) -> None:
        """Lay out what was made of members that stood bare, as it comes, and not all at once when it is to be seen."""
        if self._touched is not None:
            self._touched |= set(made)
            self._pickables = self._corners = None
            _ = self.laid

    def forget_snaps(self) -> None:
        self._index = None

    @property
    def laid(self) -> Layouts:
        """The steel as it stands by now, in arrays."""
        if self._touched is None or self._touched:
            self._laid.follow(self.session.shop.so_far, self._touched)
            self._touched = set()
        return self._laid

    @property
    def pickables(self) -> Pickables:
        if self._pickables is None:
            laid = self.laid
            self._pickables = Pickables(laid, laid.flags(self.session.seeing.hidden, False))
        return self._pickables

    @property
    def corners(self) -> np.ndarray:
        if self._corners is None:
            self._corners = self.pickables.corners()
        return self._corners

    @property
    def index(self) -> SnapIndex:
        if self._index is None:
            session = self.session
            members = [m for m in session.job.all(Member) if session.seeing.shown(m.id)]
            self._index = SnapIndex(members, session.grid, session.plane, session.job.all(Guide), session.levels)
        return self._index

    def span(self) -> tuple[float, float]:
        """What the clipping by depth leaves of a sight line, as distances along it."""
        seeing = self.session.seeing
        before = 1e6 - seeing.before if seeing.before is not None else -math.inf
        behind = 1e6 + seeing.behind if seeing.behind is not None else math.inf
        return before, behind

    def piece(self, x: float, y: float) -> tuple[str, np.ndarray] | None:
        """The assembly met first, and where."""
        hit = self.pickables.at(*self.camera.ray(x, y), self.span())
        return (hit[0].owner, hit[1]) if hit else None

    def maker(self, x: float, y: float) -> str | None:
        """The record of the joint or attachment that made what is met first: a plate, bolt or hole."""
        hit = self.pickables.at(*self.camera.ray(x, y), self.span())
        if hit is None:
            return None
        return maker_at(self.session.shop, hit[0], hit[1], 8.0 * self.camera.scale)

    def normal(self, snap: Snap) -> np.ndarray | None:
        """The outward normal of the face a point was picked on."""
        x, y, _ = self.camera.to_screen(snap.point)[0]
        return self.pickables.normal_at(*self.camera.ray(float(x), float(y)))

    def snap(self, x: float, y: float) -> Snap | None:
        """Where a pick here would land, for the tool at hand."""
        session = self.session
        tool = session.tool
        if tool.picks_pieces or not tool.picks_points:
            hit = self.piece(x, y)
            return Snap(point_of(hit[1]), "face", hit[0]) if hit else None
        low, high = (end - 1e6 for end in self.span())
        wanted = Wanted(session.only, session.held, tool.last, float(session.preferences.snap), (low, high))
        extra, edges = self._of_pieces(x, y)
        return self.index.find((x, y), self.camera, wanted, extra, edges)

    def _of_pieces(self, x: float, y: float) -> tuple[list[Snap], list[NamedLine]]:
        """Hole centres, corners and edges of the pieces near the pointer, as far as they are wanted."""
        session, only = self.session, self.session.only
        reach = session.preferences.snap * self.camera.scale
        others, their_edges = self._of_others(x, y, reach)
        if only not in (None, SnapKind.HOLE, SnapKind.CORNER, SnapKind.NEAREST, SnapKind.SQUARE):
            return others, their_edges
        pieces = self.pickables.near(*self.camera.ray(x, y), reach)
        extra, edges = others, their_edges
        wants_edges = only in (SnapKind.NEAREST, SnapKind.SQUARE) or session.tool.picks_edges
        for piece in pieces:
            if only in (None, SnapKind.HOLE):
                extra += hole_snaps(piece)
            if only in (None, SnapKind.CORNER):
                extra += corner_snaps(piece)
            if wants_edges:
                edges += [NamedLine(a, b, f"edge of {piece.words}", piece.owner) for a, b in edge_lines(piece)]
        return extra, edges

    def _of_others(self, x: float, y: float, reach: float) -> tuple[list[Snap], list[NamedLine]]:
        """Corners, ends and edges of others' models near the pointer, as far as they are wanted."""
        session, only = self.session, self.session.only
        if not len(self.others):
            return [], []
        snaps, edges = self.others.near(*self.camera.ray(x, y), reach)
        kept = [s for s in snaps if only in (None, s.kind)]
        wants_edges = only in (SnapKind.NEAREST, SnapKind.SQUARE) or session.tool.picks_edges
        return kept, edges if wants_edges else []

    def other(self, x: float, y: float) -> Met | None:
        """The product of others' models that is met first, where no steel is nearer."""
        if not len(self.others):
            return None
        ray = self.camera.ray(x, y)
        met = self.others.at(*ray, self.span())
        steel = self.pickables.at(*ray, self.span())
        if met is None or (steel is not None and float((steel[1] - ray[0]) @ ray[1]) < met.far):
            return None
        return met

    def within(self, box: tuple[float, float, float, float], whole: bool) -> set[str]:
        """Pieces and guides inside a box of pixels, or touched by it."""
        screen = self.camera.to_screen(self.corners.reshape(-1, 3))[:, :2].reshape(-1, 8, 2)
        found = self.pickables.within(screen, box, whole)
        for guide in self.session.job.all(Guide):
            a, b = self.camera.to_screen(np.array(stretch(guide)))[:, :2]
            inside = [box[0] <= p[0] <= box[2] and box[1] <= p[1] <= box[3] for p in (a, b)]
            if all(inside) or (not whole and crosses(a, b, box, 0.0)):
                found.add(guide.id)
        return found

    def line(self, x: float, y: float) -> str | None:
        """The guide, view frame, crane or laying-down area whose line is touched."""
        at = np.array([x, y])
        best: tuple[float, str] | None = None
        for guide in self.session.job.all(Guide):
            away = _off(at, *self.camera.to_screen(np.array(stretch(guide)))[:, :2])
            if away <= _TOUCH and (best is None or away < best[0]):
                best = (away, guide.id)
        for frame in self.session.job.all(ViewFrame):
            if not self.session.seeing.frame_shown(frame.id, self.session.selection):
                continue
            ring = self.camera.to_screen(np.array(grips(frame)[:4]))[:, :2]
            away = min(_off(at, a, b) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True))
            if away <= _TOUCH and (best is None or away < best[0]):
                best = (away, frame.id)
        for id, points in site_lines(self.session.job):
            line = self.camera.to_screen(np.array(points))[:, :2]
            away = min(_off(at, a, b) for a, b in itertools.pairwise(line))
            if away <= _TOUCH and (best is None or away < best[0]):
                best = (away, id)
        return best[1] if best else None

    def grip(self, x: float, y: float) -> tuple[str, int] | None:
        """The grip of a selected view frame that is touched."""
        for frame in self.session.job.all(ViewFrame):
            if frame.id not in self.session.selection:
                continue
            for n, (px, py, _) in enumerate(self.camera.to_screen(np.array(grips(frame))).tolist()):
                if math.hypot(px - x, py - y) <= _TOUCH + 2:
                    return frame.id, n
        return None


def _off(at: np.ndarray, a: np.ndarray, b: np.ndarray) -> float:
    d = b - a
    t = min(1.0, max(0.0, float((at - a) @ d) / max(float(d @ d), 1e-9)))
    return float(np.linalg.norm(a + t * d - at))
