"""Facts of what stands on site: a crane with its load table, a laying-down area with the lots that lie there."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace

from uncus.app.facts.fields import TextField
from uncus.app.facts.page import Page
from uncus.app.session import Session
from uncus.job.errors import JobError
from uncus.job.records import Crane, LayDown, Reach
from uncus.mark.marking import natural
from uncus.shop.lifting import FAR, HEAVY, lift, lifting, weights_by_lot
from uncus.units import format_typed, format_weight, parse_length, parse_weight


def _put(session: Session, label: str, make: Callable[[], Crane | LayDown]) -> bool:
    def work() -> None:
        with session.job.change(label) as change:
            change.put(make())

    return session.attempt(work)


def show_crane(page: Page, crane: Crane) -> None:
    session, units, put = page.session, page.session.units, partial(_put, page.session)

    cranes, areas = session.job.all(Crane), session.job.all(LayDown)
    words = [lifting(a, lift(a, cranes, areas)) for a in session.shop.shipped.values()]
    page.title(crane.name, "crane: its rings are what it lifts out to there")
    for state in (HEAVY, FAR):
        if number := words.count(state):
            page.finding(f"{number} pieces {state}; lens: crane is “{state}”")
    page.heading("Crane")
    page.row("Name", TextField("Crane name", crane.name, lambda t: put("Crane name", lambda: replace(crane, name=t))))
    for n, axis in enumerate("XYZ"):

        def move(text: str, n: int = n) -> bool:
            def make() -> Crane:
                at = [*crane.at]
                at[n] = parse_length(text, units)
                return replace(crane, at=(at[0], at[1], at[2]))

            return put("Move crane", make)

        page.row(axis, TextField(f"Crane {axis}", format_typed(crane.at[n], units), move))
    page.row("Works from", TextField("Crane works from", format_typed(crane.nearest, units) if crane.nearest else "",
        lambda t: put("Crane works from", lambda: replace(crane, nearest=parse_length(t, units) if t.strip() else 0.0)),
        "any radius"), "The least radius that it lifts at; empty: not said")  # fmt: skip
    page.heading("Load table")
    if not crane.table:
        page.words("Type each row as radius and what is lifted out to there, such as 30' 9000 lb or 12 m 4 t.")
    for n, row in enumerate((*crane.table, None)):
        said = f"{format_typed(row.radius, units)}  {format_weight(row.lifts, units)}" if row else ""

        def enter(text: str, n: int = n) -> bool:
            def make() -> Crane:
                rest = [*crane.table[:n], *crane.table[n + 1 :]]
                table = sorted([*rest, *([_row(page, text)] if text.strip() else [])], key=lambda one: one.radius)
                return replace(crane, table=tuple(table))

            return put("Load table", make)

        page.row(f"Row {n + 1}", TextField(f"Load table row {n + 1}", said, enter, "radius and weight"),
            "Radius and weight; empty takes the row out")  # fmt: skip


def _row(page: Page, text: str) -> Reach:
    """A row as it is typed: the radius, then the weight."""
    words = text.replace(":", " ").split()
    units = page.session.units
    for n in range(len(words) - 1, 0, -1):  # the shortest that can be a weight
        try:
            weight = parse_weight(" ".join(words[n:]), units)
            return Reach(parse_length(" ".join(words[:n]), units), weight)
        except Exception as error:
            last = error
    raise JobError(f"“{text}” is no row of a load table; type a radius and a weight, such as 30' 9000 lb.") from (
        last if len(words) > 1 else None
    )


def show_area(page: Page, area: LayDown) -> None:
    session, units, put = page.session, page.session.units, partial(_put, page.session)

    weights = weights_by_lot(session.shop.shipped.values())
    total = sum(weights.get(lot, 0.0) for lot in area.lots)
    page.title(area.name, "laying-down area: what is set from here")
    if area.bears and total > area.bears:
        page.finding(f"What lies here weighs {format_weight(total, units)}, more than it bears.")
    page.heading("Area")
    page.row("Name", TextField("Area name", area.name, lambda t: put("Area name", lambda: replace(area, name=t))))
    page.row("Lots", TextField("Area lots", ", ".join(area.lots), lambda t: put("Lots of an area",
        lambda: replace(area, lots=tuple(dict.fromkeys(w.strip() for w in t.split(",") if w.strip()))))),
        "Whose steel lies here, with commas between")  # fmt: skip
    page.row("Bears", TextField("Area bears", format_weight(area.bears, units) if area.bears else "",
        lambda t: put("What an area bears", lambda: replace(area, bears=parse_weight(t, units) if t.strip() else 0.0))),
        "The most that may lie here; empty: not said")  # fmt: skip
    page.fact("Lies here", format_weight(total, units))
    missing = sorted(set(area.lots) - weights.keys(), key=natural)
    if missing:
        page.finding(f"There is no lot {', '.join(missing)}.")
    elif not area.lots:
        page.words(f"There are lots {', '.join(sorted(filter(None, weights), key=natural)) or 'none yet'}.")
