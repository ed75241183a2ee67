"""A part set out again from its printed sheet, as the shop would: the picture says which, the figures say how much.

Nothing of the part itself is looked at: only the sheet's lines and words, and the tables of sections.
"""

from __future__ import annotations

import itertools
import math
import re

import numpy as np
import shapely
from msgspec import UNSET, UnsetType

from uncus.catalog.sections import Form, Section, section
from uncus.draw.seen import LONG
from uncus.draw.sheet import Circle, Layer, Line, Polyline, Sheet, Spot
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Face, Feature, Hole, Notch, Saddle
from uncus.steel.forming import Bend, Curve
from uncus.steel.part import Part, plate, rolled
from uncus.units import Units, parse_length

SAME = 0.06  # mm of paper within which a line leads to a point
_GATHERED = re.compile(r"^(\d+) @ (.+) = (.+)$")
_DRAWN = (Layer.OUTLINE, Layer.HIDDEN)


class Incomplete(AssertionError):
    """Something that the picture shows and no figure sets out."""


class Reader:
    """One sheet of a part and the words on it."""

    def __init__(self, sheet: Sheet, units: Units) -> None:
        self.sheet, self.units = sheet, units
        self.frames = {f.name: f for f in sheet.frames}
        self.front = self.frames["front"]
        rows = [s for s in sheet.spots if s.kind == "bill"]
        self.row = next(r for r in rows if not r.key.endswith("total")).texts
        self.notes = " ".join(s.words for s in sheet.spots if s.kind == "notes")
        self.sizes = self._sizes()

    @classmethod
    def of_assembly(cls, sheet: Sheet, units: Units) -> Reader:
        """A reader of a sheet that need not have a front view or a bill: any of an assembly's."""
        reader = cls.__new__(cls)
        reader.sheet, reader.units, reader.frames = sheet, units, {f.name: f for f in sheet.frames}
        return reader

    # -- figures ------------------------------------------------------------------------------------
    def mm(self, text: str) -> float:
        return parse_length(text.removeprefix("WP-WP "), self.units)

    def figures(self, spot: Spot) -> list[float]:
        out = []
        for words, _ in spot.texts:
            if match := _GATHERED.match(words):
                step = self.mm(match[2])
                assert abs(int(match[1]) * step - self.mm(match[3])) < 0.01, "a gathered run adds up as printed"
                out += [step] * int(match[1])
            else:
                out.append(self.mm(words))
        return out

    def spots(self, start: str, kind: str = "") -> list[Spot]:
        return [s for s in self.sheet.spots if s.key.startswith(start) and kind in ("", s.kind)]

    def one(self, key: str) -> float:
        found = self.spots(key)
        assert len(found) == 1, key
        return self.figures(found[0])[0]

    def running(self, start: str) -> dict[float, float]:
        """Paper x of each stop of running dimensions, and what is printed for it."""
        found: dict[float, float] = {}
        for spot in self.spots(start):
            found.update(zip((x for _, x, _ in spot.stops[1:]), self.figures(spot), strict=True))
        return found

    def down(self, start: str) -> list[list[tuple[str, float, float]]]:
        """Chains across a view: their stops' keys, paper y, and how far below its first each is."""
        found = []
        for spot in self.spots(start):
            sums = np.concatenate([[0.0], np.cumsum(self.figures(spot))]).tolist()
            found.append([(key, y, s) for (key, _, y), s in zip(spot.stops, sums, strict=True)])
        return found

    def tip(self, spot: Spot) -> tuple[float, float]:
        """Where a note's leader leads, in its view's mm: the leader is the line that ends at the words."""
        x0, y0, x1, y1 = spot.texts[0][1]
        words = shapely.box(x0 - 1.5, y0 - 1.5, x1 + 1.5, y1 + 1.5)
        lines = [i for i in self.sheet.items if isinstance(i, Line) and i.layer is Layer.LEADER]
        line = min(lines, key=lambda i: words.distance(shapely.Point(i.x1, i.y1)))
        assert words.distance(shapely.Point(line.x1, line.y1)) < 0.5, spot.words
        return self.frames[spot.key.partition("|")[0]].own(line.x2, line.y2)

    # -- the whole ----------------------------------------------------------------------------------
    def part(self) -> Part:
        words, length, grade = self.row[2][0], self.mm(self.row[3][0]), self.row[4][0]
        finish = next(s.words for s in self.spots("title|line 3")).removeprefix("PAINT: ").lower()
        if " x " in words and words.removeprefix("BENT ").startswith("PL "):
            return self._plate(words, grade, finish)
        shape = section(words.partition(" ROLLED")[0])
        cuts = self._cuts()
        corners = list(profile.outline(shape).convex_hull.exterior.coords)
        low = min(cuts[0].x(y, z) for y, z in corners)
        high = max(cuts[1].x(y, z) for y, z in corners)
        assert abs(self.one("front|overall") - length) < 0.01 or self.spots("front|work points")
        left, right = cuts[0].moved(-low), cuts[1].moved(length - high)
        for spot in self.spots("front|saddles apart"):
            apart = parse_length(spot.texts[0][0].removeprefix("ON AXIS "), self.units)
            assert abs(right.at - left.at - apart) < 4.0, "the length on the axis goes with that over all"
        features: list[Feature] = [*self._copes(), *self._notches(shape, length, (left, right)), *self._holes(shape)]
        made, _ = rolled(shape, grade, finish, left, right, features, self._curve())
        return made

    def _cuts(self) -> tuple[EndCut, EndCut]:
        return tuple(EndCut(0, *self._lean(end), self._saddle(end)) for end in ("left", "right"))

    def _saddle(self, end: str) -> Saddle | UnsetType:
        for spot in self.spots(f"front|saddle {end}"):
            match = re.match(r"SADDLE TO (.+?) O\.D\. TUBE, (UP AND DOWN|NEAR TO FAR|[0-9.]+)", spot.words)
            assert match, spot.words
            turn = {"UP AND DOWN": 0.0, "NEAR TO FAR": 90.0}.get(match[2])
            return Saddle(self.mm(match[1]) / 2, float(match[2]) if turn is None else turn, end == "right")
        return UNSET

    def _lean(self, end: str) -> tuple[float, float]:
        """An end's slopes in y and z: figures from its triangles, the way they lean from the picture."""
        slopes = []
        for view in ("top", "front"):
            found = self.spots(f"{view}|bevel {end}")
            if not found:
                slopes.append(0.0)
                continue
            texts = [w for w, _ in found[0].texts]
            if texts[0].endswith("°"):
                slope = math.tan(math.radians(float(texts[0].rstrip("°"))))
            else:
                slope = self.mm(texts[1]) / (12 * 25.4)
            x0, y0, x1, y1 = found[0].box
            triangle = next(
                i
                for i in self.sheet.items
                if isinstance(i, Polyline) and i.closed and len(i.points) == 3 and not i.filled
                and all(x0 - 0.1 < x < x1 + 0.1 and y0 - 0.1 < y < y1 + 0.1 for x, y in i.points)
            )  # fmt: skip
            upright, lean = triangle.points[0], triangle.points[2]
            slopes.append(math.copysign(slope, lean[0] - upright[0]))
        return slopes[0], slopes[1]

    # -- copes and notches --------------------------------------------------------------------------
    def _copes(self) -> list[Cope]:
        common = re.search(r"COPE RADIUS (.+?)\.(?: |$)", self.notes)
        found = []
        for end, edge in itertools.product(("left", "right"), ("top", "bottom")):
            key = f"front|cope {end} {edge}"
            if not self.spots(f"{key} length"):
                continue
            own = [s.words.removeprefix("R ") for s in self.spots(f"{key} radius")]
            radius = self.mm(own[0] if own else common[1] if common else "missing")
            found.append(Cope(end == "right", edge == "bottom", self.one(f"{key} length"), self.one(f"{key} depth"),
                radius))  # fmt: skip
        return found

    def _notches(self, shape: Section, length: float, cuts: tuple[EndCut, EndCut]) -> list[Notch]:
        found: list[Notch] = []
        for spot in (s for view in LONG for s in self.spots(f"{view}|notch")):
            words, (x, z) = spot.words, self.tip(spot)
            right = x > length / 2
            end, way = (length, -1.0) if right else (0.0, 1.0)
            for face in _faces_said(words, shape):
                if "CUT OUT" in words:
                    pairs = (one.split(", ") for one in words.partition("CL AT ")[2].split("; "))
                    found.append(Notch(face, tuple((self.mm(x), self.mm(w)) for x, w in pairs)))
                elif shape.form in (Form.BOX, Form.TUBE):
                    found.append(Notch(face, self._slot(words, end, way, length)))
                elif face is Face.WEB:
                    found.append(Notch(face, self._access(words, cuts[right], way, shape, z)))
                else:
                    found.append(Notch(face, self._flange(words, end, way, shape)))
        return found

    def _slot(self, words: str, end: float, way: float, length: float) -> tuple[tuple[float, float], ...]:
        match = re.search(r"SLOT (.+?) X (.+?) CENTRED(?: AT (.+))?$", words)
        assert match, words
        wide, long = self.mm(match[1]), self.mm(match[2])
        if match[3]:
            at = self.mm(match[3])
            x0, x1 = at - long / 2, at + long / 2
        else:
            x0, x1 = sorted((end, end + way * long))
        return ((x0, -wide / 2), (x1, -wide / 2), (x1, wide / 2), (x0, wide / 2))

    def _access(self, words: str, cut: EndCut, way: float, s: Section, z: float) -> tuple[tuple[float, float], ...]:
        match = re.search(r"ACCESS HOLE (.+?) AND (.+?) X (.+?) FROM FLANGE$", words)
        assert match, words
        long, short, deep = (self.mm(m) for m in match.groups())
        sign = 1.0 if z > 0 else -1.0
        near = sign * (s.d / 2 - s.tf)
        far = near - sign * deep
        here, there = cut.x(0.0, near), cut.x(0.0, far)
        return ((here, near), (here + way * long, near), (there + way * short, far), (there, far))

    def _flange(self, words: str, end: float, way: float, s: Section) -> tuple[tuple[float, float], ...]:
        sign, toe, web = (-1.0 if " NS " in words else 1.0), s.b / 2, s.tw / 2
        if match := re.search(r"CORNER CLIPPED (.+?) X (.+)$", words):
            inner, outer, wide = 0.0, self.mm(match[1]), self.mm(match[2])
        elif match := re.search(r"CUT (.+?), FLUSH WITH WEB$", words):
            inner = outer = self.mm(match[1])
            wide = toe - web
        elif match := re.search(r"CUT (.+?) TO (.+?) AT TOE, (.+?) WIDE$", words):
            inner, outer, wide = (self.mm(m) for m in match.groups())
        elif match := re.search(r"CUT (.+?), (.+?) WIDE$", words):
            inner = outer = self.mm(match[1])
            wide = self.mm(match[2])
        else:
            raise Incomplete(words)
        at_web, at_toe = sign * (toe - wide), sign * toe
        return ((end, at_web), (end + way * inner, at_web), (end + way * outer, at_toe), (end, at_toe))

    # -- holes --------------------------------------------------------------------------------------
    def _sizes(self) -> list[tuple[float, float]]:
        """Every size of hole that the sheet names: diameter, and length of a slot."""
        found = []
        for d in re.findall(r"HOLES (.+?) DIA\.", self.notes):
            found.append((self.mm(d), 0.0))
        for d, slot in re.findall(r"SLOTS (.+?) x (.+?)\.(?: |$)", self.notes):
            found.append((self.mm(d), self.mm(slot)))
        return found

    def _drawn(self, view: str) -> list[tuple[float, float, float, float, float, Layer]]:
        """Holes of a view as pictured: paper x, y, diameter, length of slot, its lean, and its layer."""
        x0, y0, x1, y1 = self.frames[view].box
        found = []
        for i in self.sheet.items:
            if isinstance(i, Circle) and i.layer in _DRAWN and x0 - 1 < i.x < x1 + 1 and y0 - 1 < i.y < y1 + 1:
                found.append((i.x, i.y, 2 * i.r, 0.0, 0.0, i.layer))
            if isinstance(i, Polyline) and i.layer in _DRAWN and i.closed and len(i.points) == 18:
                points = np.array(i.points)
                x, y = points.mean(axis=0)
                if not (x0 - 1 < x < x1 + 1 and y0 - 1 < y < y1 + 1):
                    continue
                axis = points[:9].mean(axis=0) - points[9:].mean(axis=0)
                d = float(np.hypot(*(points[0] - points[8])))
                reach = float(np.hypot(*(points[4] - points[13])))
                lean = (math.degrees(math.atan2(axis[1], axis[0])) + 90) % 180 - 90
                found.append((float(x), float(y), d, reach, lean, i.layer))
        return found

    def _size(self, d: float, slot: float) -> tuple[float, float]:
        """The size said that a pictured hole is of."""
        scale = self.front.scale
        size = min(self.sizes, key=lambda s: abs(s[0] - d * scale) + abs(s[1] - slot * scale), default=(0.0, 0.0))
        if abs(size[0] - d * scale) > 1.0 or abs(size[1] - slot * scale) > 1.5:
            raise Incomplete(f"a hole of {d * scale:.1f} whose size is not said")
        return size

    def _lean_said(self, lean: float) -> float:
        if abs(lean) < 0.5 or abs(abs(lean) - 90) < 0.5:
            return 0.0 if abs(lean) < 0.5 else 90.0
        said = [float(m) for s in self.sheet.spots for m in re.findall(r"SLOTS? AT (.+?) DEG", s.words)]
        near = min(said, key=lambda v: abs(v - abs(lean)), default=1e9)
        if abs(near - abs(lean)) > 1.0:
            raise Incomplete(f"a slot that leans {lean:.1f} degrees, which no note says")
        return math.copysign(near, lean)

    def _holes(self, shape: Section | None) -> list[Hole]:
        views = [v for v in ("front", "top", "bottom") if v in self.frames]
        columns = {view: self.running(f"{view}|along") for view in views}
        through = "THROUGH BOTH WALLS" in self.notes
        near_only = [self.tip(s)[0] for s in self.sheet.spots if s.words == "NEAR WALL ONLY"]
        found = []
        for view in views:
            chains = self.down(f"{view}|gage") or (self.down("top|gage") if view == "bottom" else [])
            drawn = self._drawn(view)
            solid = {(round(x, 1), round(y, 1), round(d, 1)) for x, y, d, *_, layer in drawn if layer is Layer.OUTLINE}
            for x, y, d, slot, lean, layer in drawn:
                other = layer is Layer.HIDDEN or (
                    shape is not None and view == "top" and Face.TOP not in profile.faces(shape)
                )
                if other and view != "front":
                    continue  # of the other flange or leg, whose own view says it
                if layer is Layer.HIDDEN and (round(x, 1), round(y, 1), round(d, 1)) in solid:
                    continue  # the far wall's, behind one that is seen: a note says so
                at = next((v for own in (view, *views) if (v := _near(columns[own], x)) is not None), None)
                across = [w for chain in chains if (w := self._across(chain, y, shape, view)) is not None]
                if not across and abs(y - self.frames[view].y) < SAME and "ARE CENTRED ON THE WEB" in self.notes:
                    across = [0.0]
                if at is None or not across:
                    raise Incomplete(
                        f"a hole in the {view} view that no {'gage' if at is not None else 'running dimension'} leads "
                        f"to")  # fmt: skip
                size = self._size(d, slot)
                angle = (-1.0 if view == "bottom" else 1.0) * self._lean_said(lean) if slot else 0.0
                faces = [{"front": Face.WEB, "top": Face.TOP, "bottom": Face.BOTTOM}[view]]
                if view == "front" and shape is not None and shape.form is Form.BOX:
                    if layer is Layer.HIDDEN:
                        faces = [Face.BACK]
                    elif through and not self._alone(
                        near_only, x, sorted(self.front.own(one[0], 0.0)[0] for one in drawn)
                    ):
                        faces.append(Face.BACK)
                found += [Hole(face, at, across[0], size[0], size[1], angle) for face in faces]
        return found

    def _alone(self, tips: list[float], x: float, every: list[float]) -> bool:
        """Whether the picture's hole stands with one that a note says is in one wall: step by step along, none far."""
        u = self.front.own(x, 0.0)[0]
        return any(
            tip < u + 0.5 and max(np.diff([tip, *(e for e in every if tip < e < u), u]), default=0.0) < 150.0
            for tip in tips
        )

    def _across(self, chain: list[tuple[str, float, float]], y: float, s: Section | None, view: str) -> float | None:
        """Where a row lies across the part as a chain says it: z or y."""
        at = next((d for _, p, d in chain if abs(p - y) < SAME), None)
        if at is None:
            return None
        sign = -1.0 if view == "bottom" else 1.0
        half = self.high if view == "front" else (s.b / 2 if s else 0.0)
        for key, _, d in chain:
            if key in ("top", "bottom") and view == "front":
                return (half if key == "top" else -half) + d - at
            if key == "middle":
                return sign * (d - at)
            if key == "heel":
                return sign * (d - at) - half
        return sign * (chain[-1][2] / 2 - at)  # rows the same on both sides of the web

    @property
    def high(self) -> float:
        """Half of the piece's depth: a section's from its table, a plate's from its own height."""
        heights = self.spots("front|height")
        if heights:
            return self.figures(heights[0])[0] / 2
        return section(self.row[2][0].partition(" ROLLED")[0]).d / 2

    # -- plates -------------------------------------------------------------------------------------
    def _plate(self, words: str, grade: str, finish: str) -> Part:
        thickness = self.mm(words.removeprefix("BENT ").removeprefix("PL ").partition(" x ")[0])
        overall, height = self.one("front|overall"), self.one("front|height")
        top = self.spots("front|height")[0].stops[0][2]
        left = self.spots("front|overall")[0].stops[0][1]
        xs = {
            left: 0.0,
            self.spots("front|overall")[0].stops[-1][1]: overall,
            **self.running("front|along"),
            **self.running("front|corners along"),
        }
        zs = {top: height / 2, self.spots("front|height")[0].stops[-1][2]: -height / 2}
        for chain in self.down("front|corners down"):
            zs.update({y: height / 2 - d for _, y, d in chain})
        ring = []
        for x, y in self._outline():
            px, pz = _near(xs, x), _near(zs, y)
            if px is None or pz is None:
                raise Incomplete(f"a corner at {self.front.own(x, y)} that no dimension leads to")
            ring.append((px, pz))
        return plate(ring, thickness, grade, finish, self._holes(None), self._bends(overall, height))

    def _outline(self) -> list[tuple[float, float]]:
        """The corners of the plate as pictured."""
        x0, y0, x1, y1 = self.front.box
        lines = [
            shapely.LineString([(i.x1, i.y1), (i.x2, i.y2)])
            for i in self.sheet.items
            if isinstance(i, Line) and i.layer is Layer.OUTLINE
            and x0 - 1 < i.x1 < x1 + 1 and y0 - 1 < i.y1 < y1 + 1 and x0 - 1 < i.x2 < x1 + 1 and y0 - 1 < i.y2 < y1 + 1
        ]  # fmt: skip
        lines += self._mended(lines)
        met: list[tuple[float, float]] = []

        def one(p: tuple[float, float]) -> tuple[float, float]:
            """The corner that an end of a line is, be it off by a bit."""
            near = next((q for q in met if math.dist(p, q) < 0.01), None)
            if near is None:
                met.append(p)
            return near or p

        closed = shapely.union_all([shapely.LineString([one(p) for p in line.coords]) for line in lines])
        whole = shapely.union_all(list(shapely.polygonize(list(getattr(closed, "geoms", [closed]))).geoms))
        assert isinstance(whole, shapely.Polygon), "the outline is one closed ring"
        return [(float(x), float(y)) for x, y in whole.simplify(0.005).exterior.coords[:-1]]

    def _mended(self, lines: list[shapely.LineString]) -> list[shapely.LineString]:
        """Lines that a break has cut, joined across it."""
        breaks = sorted(
            i.points[0][0] for i in self.sheet.items if isinstance(i, Polyline) and i.layer is Layer.THIN
                and len(i.points) == 6
        )  # fmt: skip
        ends = sorted({(round(x, 3), round(y, 3)) for line in lines for x, y in line.coords}, key=lambda p: p[1])
        found = []
        for left, right in zip(breaks[::2], breaks[1::2], strict=True):
            cut = [[p for p in ends if abs(p[0] - at) < SAME] for at in (left, right)]
            found += [shapely.LineString(pair) for pair in zip(*cut, strict=True)]  # in order across: slanting ones too
        return found

    def _bends(self, overall: float, height: float) -> list[Bend]:
        found = []
        for spot in self.spots("front|bend", "note"):
            match = re.match(r"BEND (UP|DOWN) (.+?) DEG, R (.+?) INSIDE", spot.words)
            assert match, spot.words
            angle = float(match[2]) * (1 if match[1] == "UP" else -1)
            radius = self.mm(match[3])
            key = spot.key
            across, along = self.spots(f"{key} across"), self.spots(f"{key} along")
            if across:
                z = height / 2 - self.figures(across[0])[0]
                ends = ((0.0, z), (overall, z))
            if along:
                x = self.figures(along[0])[0]
                ends = ((x, -height / 2), (x, height / 2))
            if across and along:
                ends = self._bend_ends(key, overall, height)
            if not across and not along:
                raise Incomplete("a bend line that no dimension leads to")
            found.append(Bend(*ends[0], *ends[1], angle, radius))
        return found

    def _bend_ends(self, key: str, overall: float, height: float) -> tuple[tuple[float, float], tuple[float, float]]:
        """The ends of a bend line on the skew: the centre line in the picture, its ends' figures from the chains to
        them."""
        box = shapely.box(*self.front.box)
        lines = [
            i for i in self.sheet.items
            if isinstance(i, Line) and i.layer is Layer.CENTRE and abs(i.x1 - i.x2) > 1 and abs(i.y1 - i.y2) > 1
            and box.distance(shapely.Point(i.x1, i.y1)) < 1
        ]  # fmt: skip
        (line,) = lines
        x0, y0, x1, y1 = self.front.box
        xs = {x0: 0.0, x1: overall, **self.running(f"{key} along")}
        zs = {y1: height / 2, y0: -height / 2}
        for chain in self.down(f"{key} across"):
            zs.update({y: height / 2 - d for _, y, d in chain})
        found = [(_near(xs, x), _near(zs, y)) for x, y in ((line.x1, line.y1), (line.x2, line.y2))]
        if any(v is None for end in found for v in end):
            raise Incomplete("an end of a bend line that no dimension leads to")
        return found[0], found[1]  # type: ignore[return-value]

    def _curve(self) -> Curve | None:
        for spot in self.spots("front|arc"):
            match = re.match(r"ROLL TO R (.+?) ON THE AXIS, CROWN (.+?), CHORD", spot.words)
            assert match, spot.words
            sides = {"UP": 0.0, "TO FAR SIDE": 90.0, "DOWN": 180.0, "TO NEAR SIDE": 270.0}
            turn = sides.get(match[2])
            return Curve(self.mm(match[1]), float(match[2].split()[0]) if turn is None else turn)
        return None


def _faces_said(words: str, s: Section) -> list[Face]:
    if s.form in (Form.BOX, Form.TUBE):
        sides = {"BOTH SIDES": [Face.WEB, Face.BACK], "TOP AND BOTTOM": [Face.TOP, Face.BOTTOM]}
        single = {"NEAR SIDE": [Face.WEB], "FAR SIDE": [Face.BACK], "TOP": [Face.TOP], "BOTTOM": [Face.BOTTOM]}
        return next(faces for said, faces in {**sides, **single}.items() if words.startswith(said))
    if words.startswith("BOTH FLANGES"):
        return [Face.TOP, Face.BOTTOM]
    return [{"TOP": Face.TOP, "BOTTOM": Face.BOTTOM, "WEB": Face.WEB, "BACK": Face.BACK}[words.split()[0]]]


def _near(table: dict[float, float], at: float) -> float | None:
    key = min(table, key=lambda k: abs(k - at), default=None)
    return table[key] if key is not None and abs(key - at) < SAME else None
