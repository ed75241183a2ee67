"""Others' models on the command line: laid beside the steel, made into members."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from uncus.cli.common import JobFile, app, opened_job, said, sentences
from uncus.job.errors import JobError
from uncus.units import counted

if TYPE_CHECKING:
    from uncus.job.job import Job
    from uncus.job.records import Reference
    from uncus.reference.changes import Compared
    from uncus.reference.model import Model
    from uncus.reference.taking import Taking


@app.command()
def reference(
    job: JobFile,
    file: Annotated[Path, typer.Argument(metavar="FILE", help="An IFC model or a DXF drawing.")],
    members: Annotated[bool, typer.Option("--members", help="Make its steel into members of ours.")] = False,
    fittings: Annotated[bool, typer.Option("--fittings", help="Plates that are part of an assembly as well.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """Lay a model or drawing of others beside the steel, or take in a newer copy of one that is there; with --members
    make it into members: of a newer copy, only what changed."""
    with sentences():
        from uncus.reference.laying import laid, model_before

        with opened_job(job) as opened:
            made, model, notes = laid(file, opened)
            before = model_before(made, opened.path)
            told: dict[str, Any] = {"reference": made.name, "products": len(model.products),
                "shapes": len(model.shapes), "shift": list(made.shift), "notes": list(notes)}  # fmt: skip
            with opened.change(f"Reference {made.name}") as change:
                change.put(made)
            changed = _changes(model, before)
            if changed is not None:
                told["changes"] = {str(way): n for way, n in changed.ways.items()}
            taken = _members(opened, model, made, fittings, told) if members else None
        if as_json:
            print(msgspec.json.format(msgspec.json.encode(told), indent=1).decode())
            return
        for note in notes:
            said(note)
        print(f"{made.name}: {counted(len(model.products), 'product')}, {counted(len(model.shapes), 'shape')}")
        if changed is not None:
            print("since the copy before: " + (", ".join(f"{n} {way}" for way, n in changed.ways.items()) or "nothing"))
        if taken is not None:
            _say(taken, told)


def _changes(model: Model, before: Model | None) -> Compared | None:
    from uncus.reference.changes import compared

    return compared(before, model) if before is not None else None


def _members(opened: Job, model: Model, of: Reference, fittings: bool, told: dict[str, Any]) -> Taking:
    from uncus.reference.taking import What, records_of, taking

    found = taking(opened, model, of, fittings)
    put, drop = records_of(opened, found, found.open)
    if put or drop:
        with opened.change(f"Members of {of.name}") as change:
            for record in put:
                change.put(record)
            for id in drop:
                change.drop(id)
    told["members"] = {str(what): len(found.of(what)) for what in What}
    told["levels"], told["grid lines"] = len(found.laid.levels), found.laid.lines
    told["left"] = [{"product": p.product.guid, "name": p.product.name, "class": p.product.cls, "why": p.why}
        for p in found.left]  # fmt: skip
    told["look"] = [{"product": o.product, "name": o.name, "notes": list(o.notes)} for o in found.offers if o.notes]
    told["notes"] += found.laid.notes
    if not found.offers and not found.left:
        raise JobError(f"{of.name} has no beam, column, brace or plate to be made; it was laid in as a reference.")
    return found


def _say(taken: Taking, told: dict[str, Any]) -> None:
    counts = ", ".join(f"{n} {what}" for what, n in told["members"].items() if n)
    laid = f"{counted(told['levels'], 'level')}, {counted(told['grid lines'], 'grid line')}"
    print(f"members: {counts or 'none'}; {laid}")
    for why, n in taken.reasons.most_common():
        print(f"  {n} left: {why}")
    for note in taken.laid.notes:
        said(note)
