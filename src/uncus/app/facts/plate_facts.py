"""Facts of a plate: its thickness, its corners, holes and bends, each typed anew or taken out."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.page import Page
from uncus.catalog.sections import section
from uncus.frame.plates import with_blank
from uncus.job.blanks import Blank, Corner, Fold, HoleRow, Lugs
from uncus.job.errors import JobError
from uncus.job.records import Member
from uncus.units import format_angle, format_typed, parse_angle, parse_length

replace = msgspec.structs.replace
_MOST = 40  # rows of corners, holes or bends that the page shows
_SURFACES = ("plain", "checkered")


def show_plate(page: Page, member: Member) -> None:
    """The plate's own rows, on the page of its member."""
    blank = member.blank
    assert blank is not None
    units, session = page.session.units, page.session
    thickness = section(member.section).tw

    def put(label: str, make: Callable[[], Blank], t: float | None = None) -> bool:
        def work() -> None:
            with session.job.change(label) as change:
                change.put(with_blank(member, make(), session.job.project.units, t))

        return session.attempt(work)

    page.heading("Plate")
    page.row("Thickness", TextField("Thickness", format_typed(thickness, units),
        lambda text: put("Thickness", lambda: blank, parse_length(text, units))))  # fmt: skip
    surface = ChoiceField("Surface", _SURFACES[blank.lugs is not None], _SURFACES,
        lambda text: put("Surface", lambda: replace(blank, lugs=Lugs() if text == _SURFACES[1] else None)))  # fmt: skip
    page.row("Surface", surface)
    page.heading(f"Corners ({len(blank.outline)})")
    for n, corner in enumerate(blank.outline[:_MOST]):
        words = _corner(corner, page)
        page.row(f"Corner {n + 1}", TextField(f"Corner {n + 1}", words, _taker(put, page, blank, n)),
            "Along and across the plate; “r” and a radius rounds it, “c” and a leg clips it; empty: out.")  # fmt: skip
    if blank.openings:
        page.heading(f"Openings ({len(blank.openings)})")
        for n in range(min(len(blank.openings), _MOST)):
            rest = blank.openings[:n] + blank.openings[n + 1 :]
            page.button(f"Take out opening {n + 1}", "The plate is whole there again",
                lambda rest=rest: put("Opening", lambda: replace(blank, openings=rest)))  # type: ignore[misc]  # fmt: skip
    if blank.holes:
        page.heading(f"Holes ({sum(h.count for h in blank.holes)})")
    for n, hole in enumerate(blank.holes[:_MOST]):
        page.row(f"Holes {n + 1}", TextField(f"Holes {n + 1}", _hole(hole, page), _hole_taker(put, page, blank, n)),
            "Along, across, width, and how many along x across of a pattern; empty takes them out.")  # fmt: skip
    if blank.folds:
        page.heading(f"Bends ({len(blank.folds)})")
    for n, fold in enumerate(blank.folds[:_MOST]):
        page.row(f"Bend {n + 1}", TextField(f"Bend {n + 1}", _fold(fold, page), _fold_taker(put, page, blank, n)),
            "Its angle and inside radius; empty takes it out.")  # fmt: skip


def _corner(c: Corner, page: Page) -> str:
    units = page.session.units
    more = f", r {format_typed(c.round, units)}" if c.round else f", c {format_typed(c.clip, units)}" if c.clip else ""
    return f"{format_typed(c.x, units)}, {format_typed(c.z, units)}{more}"


def _taker(put: Callable[..., bool], page: Page, blank: Blank, n: int) -> Callable[[str], bool]:
    units = page.session.units

    def read(text: str) -> Corner:
        parts = [p.strip() for p in text.split(",")]
        if len(parts) not in (2, 3):
            raise JobError("A corner is two lengths, along and across, such as 6, 3; with r 1/2 to round it.")
        x, z = (parse_length(p, units) for p in parts[:2])
        made = Corner(x, z, blank.outline[n].bulge)
        if len(parts) == 3:
            how, size = parts[2][:1].casefold(), parse_length(parts[2][1:], units)
            if how not in ("r", "c"):
                raise JobError("A corner is rounded by r and a radius, or clipped by c and a leg, such as c 3/4.")
            made = replace(made, round=size) if how == "r" else replace(made, clip=size)
        return made

    def take(text: str) -> bool:
        def make() -> Blank:
            ring = list(blank.outline)
            if text.strip():
                ring[n] = read(text)
            else:
                del ring[n]
            return replace(blank, outline=tuple(ring))

        return put("Corner", make)

    return take


def _hole(h: HoleRow, page: Page) -> str:
    units = page.session.units
    pattern = f", {h.columns} x {h.rows}" if h.count > 1 else ""
    return f"{', '.join(format_typed(v, units) for v in (h.x, h.z, h.d))}{pattern}"


def _hole_taker(put: Callable[..., bool], page: Page, blank: Blank, n: int) -> Callable[[str], bool]:
    units = page.session.units

    def read(text: str) -> HoleRow:
        parts = [p.strip() for p in text.split(",")]
        if len(parts) not in (3, 4):
            raise JobError("Holes are three lengths - along, across, width - and 4 x 2 for a pattern.")
        x, z, d = (parse_length(p, units) for p in parts[:3])
        made = replace(blank.holes[n], x=x, z=z, d=d)
        if len(parts) == 4:
            counts = parts[3].casefold().split("x")
            if len(counts) != 2 or not all(c.strip().isdigit() for c in counts):
                raise JobError("A pattern is how many along and how many across, such as 4 x 2.")
            made = replace(made, columns=int(counts[0]), rows=int(counts[1]))
        return made

    def take(text: str) -> bool:
        def make() -> Blank:
            rows = list(blank.holes)
            if text.strip():
                rows[n] = read(text)
            else:
                del rows[n]
            return replace(blank, holes=tuple(rows))

        return put("Holes", make)

    return take


def _fold(f: Fold, page: Page) -> str:
    return f"{format_angle(f.angle)}, {format_typed(max(f.radius, 0.0), page.session.units)}"


def _fold_taker(put: Callable[..., bool], page: Page, blank: Blank, n: int) -> Callable[[str], bool]:
    units = page.session.units

    def take(text: str) -> bool:
        def make() -> Blank:
            folds = list(blank.folds)
            if not text.strip():
                del folds[n]
            else:
                angle, _, radius = text.partition(",")
                size = parse_length(radius, units) if radius.strip() else folds[n].radius
                folds[n] = replace(folds[n], angle=parse_angle(angle), radius=size)
            return replace(blank, folds=tuple(folds))

        return put("Bend", make)

    return take
