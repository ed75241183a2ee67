"""What a new job starts with: its series of marks, the shop's usual rules and a ground to stand on."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from uncus.job.records import (
    AnyRecord,
    CheckRules,
    ErectionRules,
    Grid,
    Lens,
    Level,
    MarkRules,
    NcOptions,
    OfficeRule,
    Preset,
    Project,
    Role,
    Series,
    SheetPreset,
    ShopRules,
    StandardPart,
)
from uncus.units import Units

SERIES = (
    Series(id="series columns", prefix="C", roles=(Role.COLUMN, Role.POST)),
    Series(id="series beams", prefix="B", roles=(Role.BEAM, Role.EAVES, Role.PURLIN, Role.GIRT, Role.STRUT)),
    Series(id="series rafters", prefix="R", roles=(Role.RAFTER,)),
    Series(id="series braces", prefix="V", roles=(Role.BRACE, Role.HANGER)),
    Series(id="series embeds", prefix="EP", roles=(Role.EMBED,)),
    Series(id="series plates", prefix="p", roles=("plate",), parts=True),
    Series(id="series rolled", prefix="m", roles=("rolled",), parts=True),
    Series(id="series bought", prefix="q", roles=("bought",), parts=True),
)

_METRIC = ShopRules(
    bolt="M20",
    bolt_grade="8.8",
    plate_grade="S275JR",
    tab_thickness=10.0,
    tab_weld=6.0,
    pitch=70.0,
    edge=40.0,
    gap=10.0,
    cope_radius=12.0,
    cope_clear=12.0,
    concrete=25.0,
    rod="M24",
    rod_grade="8.8",
    electrode="G42",
    base_thickness=25.0,
    gusset_thickness=10.0,
    angle="L90X90X8",
    seat_angle="L150X100X12",
    stock=(6.0, 8.0, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 50.0, 60.0, 80.0),
    thickest=50.0,
)


def usual_rules(units: Units) -> ShopRules:
    """The rules a fabricator would start from; each job changes its own."""
    return ShopRules() if units is Units.IMPERIAL else _METRIC


def new_job(name: str, number: str, units: Units) -> list[AnyRecord]:
    """The records of a job with nothing drawn yet."""
    return [
        Project(name=name, number=number, units=units),
        usual_rules(units),
        *SERIES,
        Grid(id="grid"),
        Level(id="level ground", name="Ground", elevation=0.0),
    ]


OFFICE = (ShopRules, NcOptions, ErectionRules, CheckRules, Series, MarkRules, StandardPart, Lens, OfficeRule, Preset,
    SheetPreset)  # fmt: skip


def new_like(name: str, number: str, office: Iterable[AnyRecord]) -> list[AnyRecord]:
    """The records of a job with nothing drawn yet that goes by an office's own: its units, standard and finish, rules,
    series, standard parts, lenses and presets."""
    found = list(office)
    project = next((r for r in found if isinstance(r, Project)), Project())
    started = new_job(name, number, project.units)
    kept: list[AnyRecord] = [
        msgspec.structs.replace(r, order="") if isinstance(r, ErectionRules) else r
        for r in found
        if isinstance(r, OFFICE)
    ]  # lots are a job's own
    own = {type(r) for r in kept}
    return [
        msgspec.structs.replace(project, name=name, number=number),
        *kept,
        *(r for r in started if not isinstance(r, Project) and type(r) not in own),
    ]
