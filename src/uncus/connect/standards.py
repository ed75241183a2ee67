"""An office's standards as one JSON file: shop rules, presets and rules of joining; written whole, read with
suspicion."""

from __future__ import annotations

import json
from pathlib import Path

import msgspec

from uncus.catalog.sections import UnknownSection, section
from uncus.connect.settings import params_of
from uncus.job.errors import JobError
from uncus.job.files import json_of
from uncus.job.forms import checked
from uncus.job.job import Job
from uncus.job.migrations import nc_options_of
from uncus.job.records import CheckRules, NamesLearnt, NcOptions, OfficeRule, Preset, ShopRules


class Standards(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What an office shares between jobs; what is not in the file is left as it is."""

    shop_rules: ShopRules | None = None
    presets: tuple[Preset, ...] = ()
    joining: tuple[OfficeRule, ...] = ()
    nc: NcOptions | None = None
    checks: CheckRules | None = None
    names: NamesLearnt | None = None
    format: str = "uncus standards 1"


def of_job(job: Job) -> Standards:
    checks = job.get("check rules", CheckRules)
    names = job.get("names learnt", NamesLearnt)
    return Standards(job.rules, tuple(job.all(Preset)), tuple(job.all(OfficeRule)), job.nc, checks, names)


def to_json(standards: Standards) -> bytes:
    return msgspec.json.format(msgspec.json.encode(standards), indent=1) + b"\n"


def from_json(data: bytes, source: Path | str = "The file") -> Standards:
    """Standards read from a file's bytes, each value checked. Raises JobError with what is wrong."""
    found = json_of(data, Standards, source, "standards")
    if found.nc is None and found.shop_rules is not None:  # a file from before these were apart
        own = nc_options_of(json.loads(data)["shop_rules"])
        found = msgspec.structs.replace(found, nc=msgspec.convert(own, NcOptions) if own else None)
    if found.format != "uncus standards 1":
        raise JobError(f"{source} says “{found.format}”, which this Uncus does not read.")
    for rules in (found.shop_rules, found.nc):
        if rules is not None and (problem := rules.problem()):
            raise JobError(f"{source}: {problem}")
    for ours in found.names.sections.values() if found.names is not None else ():
        try:
            section(ours)
        except UnknownSection as error:
            raise JobError(f"{source}: {error}") from None
    named: list[Preset | OfficeRule] = [*found.presets, *found.joining]
    for one in named:
        if problem := one.problem():
            raise JobError(f"{source}: {problem}")
        try:
            checked(params_of(one.kind), one.params)
        except JobError as error:
            raise JobError(f"“{one.name}” in {source}: {error}") from None
    return found


Taken = ShopRules | NcOptions | CheckRules | NamesLearnt | Preset | OfficeRule


def taken_in(job: Job, standards: Standards) -> list[Taken]:
    """The records that bring standards into a job: presets take the place of those of the same kind and name, rules of
    joining of all there are; names that were learnt elsewhere are learnt beside the job's own."""
    put: list[Taken] = []
    if standards.names is not None:
        own, more = job.get("names learnt", NamesLearnt) or NamesLearnt(), standards.names
        put.append(NamesLearnt(sections=own.sections | more.sections, grades=own.grades | more.grades))
    if standards.shop_rules is not None:
        put.append(msgspec.structs.replace(standards.shop_rules, id="shop rules"))
    if standards.nc is not None:
        put.append(msgspec.structs.replace(standards.nc, id="nc options"))
    if standards.checks is not None:
        put.append(msgspec.structs.replace(standards.checks, id="check rules"))
    known = {(p.kind, p.name.casefold()): p.id for p in job.all(Preset)}
    for preset in standards.presets:
        id = known.get((preset.kind, preset.name.casefold()))
        put.append(msgspec.structs.replace(preset, id=id) if id else preset)
    put += standards.joining
    return put
