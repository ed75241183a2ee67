"""Cleaning up a sheet by hand, without Qt: what is under the pointer, what is picked, and the edit that follows."""

from __future__ import annotations

import math
from collections.abc import Sequence

from uncus.draw.sheet import Frame, Sheet, Spot, linked
from uncus.job.drawings import Edit, Hidden, Merged, Moved, Reached, Recut, Spanned, Split, Written

_KINDS = ("chain", "aligned", "note", "weldnote", "bevel", "levelline", "cut", "view")
_BESIDE = 25.0  # mm of paper from a view within which a click means it
_REACH = 5.0  # mm of paper within which a stop or a point is meant
_MODES = {
    "": "Click a dimension or words to take hold of them; drag to move, Delete leaves them out.",
    "merge": "Pick the chain that is to come into this one.",
    "reach": "Pick a point of the view: a hole, an edge, a corner.",
    "from": "Pick the point the dimension starts at.",
    "to": "Pick the point it goes to; hold Shift for straight between them.",
    "note": "Pick the place of the note's tip.",
}


class CleanUp:
    """`picked` is an annotation's key, `stop` one stop of a picked chain, `viewed` the view clicked last; `mode`
    what the next pick is for."""

    def __init__(self) -> None:
        self.sheets: Sequence[Sheet] = ()
        self.page = 0
        self.viewed = ""
        self.picked, self.stop, self.mode = "", "", ""
        self._from: tuple[str, str] = ("", "")

    # -- the sheet ----------------------------------------------------------------------------------
    def show(self, sheets: Sequence[Sheet], page: int = 0) -> None:
        """Another sheet, or the same one redone: what is picked stays picked while it is there."""
        self.sheets, self.page = sheets, min(page, max(0, len(sheets) - 1))
        if self.spot is None:
            self.picked, self.stop = "", ""
        if self.frame(self.viewed) is None:
            self.viewed = ""

    def frame(self, view: str) -> Frame | None:
        return next((f for f in self.sheet.frames if f.name == view), None) if self.sheet else None

    @property
    def section(self) -> str:
        """The section that is meant: of the picked letter, or the one clicked last."""
        spot = self.spot
        if spot is not None and spot.kind == "cut":
            return spot.key.partition("|cut ")[2].rpartition(" ")[0]
        return self.viewed if self.viewed.startswith("section") else ""

    @property
    def sheet(self) -> Sheet | None:
        return self.sheets[self.page] if self.sheets else None

    @property
    def spot(self) -> Spot | None:
        return next((s for s in self._spots if s.key == self.picked), None)

    @property
    def _spots(self) -> Sequence[Spot]:
        return [s for s in self.sheet.spots if s.kind in _KINDS] if self.sheet else []

    @property
    def prompt(self) -> str:
        if self.mode or self.spot is None:
            return _MODES[self.mode]
        words = self.spot.words or self.picked.partition("|")[2]
        what = f"{words[:48]}: " if words else ""
        if self.spot.kind == "cut":
            return (
                f"Section {words.split()[0]}: drag it along the piece to cut elsewhere, Delete leaves the letters out."
            )
        if self.spot.kind == "view":
            return f"{what}drag or arrows move the whole view, R puts it back."
        if self.stop:
            return f"{what}one stop; Delete drops it, S splits the chain here."
        return f"{what}drag or arrows move it, Delete leaves it out, M merges, P adds a point, R resets."

    def at(self, x: float, y: float) -> Spot | None:
        """The annotation under a place of the paper: the smallest whose texts or box hold it."""
        hits = [s for s in self._spots if any(_holds(b, x, y, 0.6) for _, b in s.texts)]
        hits = hits or [s for s in self._spots if _holds(s.box, x, y, 0.6)]
        return min(hits, key=lambda s: (s.box[2] - s.box[0]) * (s.box[3] - s.box[1]), default=None)

    def leads_to(self, x: float, y: float) -> str:
        """The sheet that a sign under a place of the paper leads to; nothing where there is none."""
        for spot in self.sheet.spots if self.sheet and not self.mode else ():
            if (name := linked(spot)) and any(_holds(b, x, y, 1.0) for _, b in spot.texts):
                return name
        return ""

    def point(self, x: float, y: float) -> tuple[str, str] | None:
        """The view and key of the point nearest to a place."""
        if self.sheet is None:
            return None
        found = [
            (math.hypot(p[0] - x, p[1] - y), frame.name, key)
            for frame in self.sheet.frames
            for key, p in frame.points.items()
        ]
        near = min(found, default=None)
        return (near[1], near[2]) if near and near[0] < _REACH else None

    def view_at(self, x: float, y: float) -> Frame | None:
        """The view nearest to a place."""
        frames = self.sheet.frames if self.sheet else ()
        return min(frames, key=lambda f: _away(f.box, x, y), default=None)

    # -- picking ------------------------------------------------------------------------------------
    def press(self, x: float, y: float, straight: bool = False) -> Edit | str | None:
        """A click: an edit where it completes one; words where it cannot; nothing where it only picks."""
        if self.mode:
            return self._for_mode(x, y, straight)
        spot = self.at(x, y)
        frame = self.view_at(x, y)
        self.viewed = frame.name if frame is not None and _away(frame.box, x, y) < _BESIDE else ""
        if spot is None:
            self.picked, self.stop = "", ""
            return None
        again = spot.key == self.picked
        self.picked, self.stop = spot.key, ""
        if again and spot.kind == "chain":  # a second click on a chain takes one of its stops
            near = min(spot.stops, key=lambda s: math.hypot(s[1] - x, s[2] - y), default=None)
            if near is not None and math.hypot(near[1] - x, near[2] - y) < _REACH:
                self.stop = near[0]
        return None

    def _for_mode(self, x: float, y: float, straight: bool) -> Edit | str | None:
        mode, key = self.mode, self.picked
        if mode == "merge":
            spot = self.at(x, y)
            if spot is None or spot.key == key or spot.kind != "chain":
                return "That is no other chain; pick a line of dimensions."
            self.mode = ""
            return Merged(key, spot.key)
        if mode == "note":
            frame = self.view_at(x, y)
            if frame is None:
                return "There is no view to write at."
            self.mode = ""
            return Written("", frame.name, *frame.own(x, y), "")
        point = self.point(x, y)
        if point is None:
            return "No point of a view is near; pick a hole, an edge or a corner."
        view, name = point
        if mode == "reach":
            if key.partition("|")[0] != view:
                return "That point is in another view than the chain."
            self.mode = ""
            return Reached(key, name)
        if mode == "from":
            self._from, self.mode = point, "to"
            return None
        if view != self._from[0] or name == self._from[1]:
            return "Pick another point of the same view."
        self.mode = ""
        return self._span(view, self._from[1], name, straight)

    def _span(self, view: str, a: str, b: str, straight: bool) -> Spanned:
        frame = self.frame(view)
        along = ""
        if frame is not None and not straight:
            (_, _, u1, v1), (_, _, u2, v2) = frame.points[a], frame.points[b]
            along = "u" if abs(u2 - u1) >= abs(v2 - v1) else "v"
        return Spanned(f"{view}|own {a} {b} {along}", view, a, b, along)

    # -- keys ---------------------------------------------------------------------------------------
    def enter(self, mode: str) -> str:
        """Start a mode; words where it has nothing to work on."""
        if mode in ("merge", "reach") and (self.spot is None or self.spot.kind != "chain"):
            return "Pick a chain of dimensions first."
        self.mode = mode
        return ""

    def back(self) -> bool:
        """Esc: out of the mode, then of the stop, then of what is picked; False where there was nothing."""
        if self.mode:
            self.mode = "from" if self.mode == "to" else ""
        elif self.stop:
            self.stop = ""
        elif self.picked:
            self.picked = ""
        else:
            return False
        return True

    def left_out(self) -> Edit | str | None:
        if self.spot is not None and self.spot.kind == "view":
            return "Views are left out by their list: Views and schedules."
        return Hidden(self.picked, self.stop) if self.spot is not None else None

    def split(self) -> Edit | str:
        if not self.stop:
            return "Click a stop of the picked chain first; the chain is split there."
        return Split(self.picked, self.stop)

    def nudged(self, dx: float, dy: float) -> Edit | None:
        """What is picked moved by so many mm of paper; a section's letter cuts it there."""
        spot = self.spot
        if spot is None:
            return None
        frame = self.frame(self.picked.partition("|")[0])
        if spot.kind == "cut" and frame is not None:
            return Recut(self.section, round(frame.own(spot.stops[0][1] + dx, 0.0)[0], 1))
        return Moved(self.picked, dx, dy)


def _holds(box: tuple[float, float, float, float], x: float, y: float, by: float) -> bool:
    return box[0] - by <= x <= box[2] + by and box[1] - by <= y <= box[3] + by


def _away(box: tuple[float, float, float, float], x: float, y: float) -> float:
    return math.hypot(max(box[0] - x, 0.0, x - box[2]), max(box[1] - y, 0.0, y - box[3]))
