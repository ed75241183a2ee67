"""The site plan, where a crane or a laying-down area is placed."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from uncus.draw.entries.needs import Needs
from uncus.draw.entries.plans import KIND
from uncus.draw.entry import Entry
from uncus.draw.kept import entry
from uncus.draw.sights import Spot
from uncus.draw.site_plan import Area, SiteJob, Unlifted
from uncus.job.records import Crane, Grid, LayDown
from uncus.mark.marking import natural
from uncus.shop.lifting import LIFTED, NO_CRANE, lift, lifting, weights_by_lot
from uncus.shop.pieces import Assembly
from uncus.units import Units, format_weight

NAME, OWN = "SP1", ("site plan",)


def entries(of: Needs) -> Iterator[Entry]:
    """It shows all steel, wanted or not."""
    cranes, areas = of.job.all(Crane), of.job.all(LayDown)
    everything = of.everything
    if not (cranes or areas) or of.wanted.isdisjoint(a.id for a in everything):
        return
    units, weights = of.job.project.units, weights_by_lot(everything)
    standing = of.kept.standing(KIND, OWN, NAME)
    plan = SiteJob(
        grid=next(iter(of.job.all(Grid)), None),
        lines=tuple(dict.fromkeys(_line(a) for a in everything)),
        cranes=tuple(sorted(cranes, key=lambda one: natural(one.name))),
        areas=tuple(Area(area.id, tuple((x, y) for x, y, _ in area.corners), tuple(_words(area, weights, units)))
            for area in sorted(areas, key=lambda one: natural(one.name))),
        unlifted=tuple(sorted(_unlifted(of, everything, cranes, areas), key=lambda one: natural(one.mark))),
        **of.said(NAME, standing),
    )  # fmt: skip
    yield entry(plan, "site plan", KIND, (), OWN, standing)


def _line(a: Assembly) -> tuple[Spot, Spot]:
    (x1, y1, _), (x2, y2, _) = a.member.start, a.member.end
    return (round(x1, 1), round(y1, 1)), (round(x2, 1), round(y2, 1))


def _words(area: LayDown, weights: dict[str, float], units: Units) -> Iterator[str]:
    """What is said of an area: its name, whose steel lies there, what that weighs, and whether it bears it."""
    yield area.name.upper()
    lots = [lot for lot in area.lots if lot in weights]
    if lots:
        total = sum(weights[lot] for lot in lots)
        yield f"LOT {', '.join(sorted(lots, key=natural))}: {format_weight(total, units)}"
        if area.bears and total > area.bears:
            yield f"MORE THAN THE {format_weight(area.bears, units)} IT BEARS"
    elif area.bears:
        yield f"BEARS {format_weight(area.bears, units)}"


def _unlifted(
    of: Needs, everything: Sequence[Assembly], cranes: Sequence[Crane], areas: Sequence[LayDown]
) -> Iterator[Unlifted]:
    for a in everything:
        found = lift(a, cranes, areas)
        words = lifting(a, found)
        if found is not None and words not in (LIFTED, NO_CRANE):
            yield Unlifted(
                a.id, of.marks.of_assembly(a.id), _line(a), round(a.lifted, 1), words, round(found.radius, 1)
            )
