"""The catalogue of bought items on the command line: what is in it, items from IFC, and what a job has of it."""

from __future__ import annotations

from datetime import date
from getpass import getuser
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from uncus.cli.common import app, opened_job, said, sentences
from uncus.job.errors import JobError
from uncus.units import counted

if TYPE_CHECKING:
    from uncus.job.bought import BoughtItem
    from uncus.reference.catalogue import Catalogue, Entry

_USUAL = "the folder in your preferences otherwise"


@app.command()
def bought(
    folder: Annotated[Path | None, typer.Option(help=f"The catalogue's folder; {_USUAL}.")] = None,
    make: Annotated[bool, typer.Option("--make", help="Make the folder a catalogue, where it is none.")] = False,
    file: Annotated[Path | None, typer.Option("--import", help="An IFC file whose shape becomes an item.")] = None,
    code: Annotated[str, typer.Option(help="The item's product code; the file's name otherwise.")] = "",
    maker: Annotated[str, typer.Option(help="Who makes it.")] = "",
    words: Annotated[str, typer.Option(help="What it is.")] = "",
    finish: Annotated[str, typer.Option(help="The finish it comes with.")] = "",
    kg: Annotated[float, typer.Option(help="What it weighs, kg; as solid steel otherwise.")] = 0.0,
    out: Annotated[str, typer.Option(help="Which axis of the file points out of what it is fixed to.")] = "x",
    picture: Annotated[Path | None, typer.Option(help="A PNG of it.")] = None,
    job: Annotated[Path | None, typer.Option(help="A job: what it uses, and what is newer in the catalogue.")] = None,
    take: Annotated[
        list[str] | None, typer.Option("--take", help="Take this item into the job, or “all newer”.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """Keep the catalogue of bought items: list it, import an item from IFC, take items or newer versions into a job."""
    with sentences():
        catalogue = _opened(folder, make)
        if file is not None:
            _import(catalogue, file, code, maker, words, finish, kg, out, picture)
        if job is not None:
            _of_job(catalogue, job, take or [], as_json)
            return
        entries = catalogue.entries()
        for fault in catalogue.faults:
            said(fault)
        if as_json:
            print(msgspec.json.format(msgspec.json.encode([_told(e) for e in entries]), indent=1).decode())
            return
        for entry in entries:
            print(_line(entry))
        print(f"{counted(len(entries), 'item')} in {catalogue.folder}")


def _opened(folder: Path | None, make: bool) -> Catalogue:
    from uncus.app import preferences
    from uncus.reference.catalogue import Catalogue, find

    if folder is not None:
        return Catalogue.make(folder) if make else Catalogue.open(folder)
    place = preferences.place()
    own = preferences.read(place) if place.exists() else preferences.Preferences()
    if not own.catalogue:
        raise JobError("No catalogue is named in your preferences; give its folder with --folder.")
    found = find(Path(own.catalogue), own.catalogue_id)
    if found is None:
        raise JobError(f"The catalogue {own.catalogue} is not there; give its folder with --folder.")
    return found


def _told(entry: Entry) -> dict[str, Any]:
    held = entry.newest
    return {**msgspec.to_builtins(held.facts), "version": held.version.version, "by": held.version.by,
        "on": held.version.on, "versions": len(entry.versions), "side by side": len(entry.heads),
        "shape": bool(held.version.shape)}  # fmt: skip


def _line(entry: Entry) -> str:
    facts, version = entry.newest.facts, entry.newest.version.version
    both = f"   {len(entry.heads)} versions stand side by side" if len(entry.heads) > 1 else ""
    return f"{facts.code:16} {facts.words}, {facts.maker}, {facts.kg:g} kg, version {version}{both}"


def _import(
    catalogue: Catalogue, file: Path, code: str, maker: str, words: str, finish: str, kg: float, out: str,
    picture: Path | None,
) -> None:  # fmt: skip
    from uncus.catalog.bought import Bought
    from uncus.job.bought import BoughtItem
    from uncus.job.files import read_outside
    from uncus.reference.catalogue import body_of_ifc, turned_out
    from uncus.steel.bodies import body_solid, is_closed
    from uncus.units import STEEL_DENSITY

    body = turned_out(body_of_ifc(file), out)
    if not is_closed(body):
        said(f"What {file.name} shows encloses nothing; the least solid that holds it is taken.")
    if not kg:
        kg = round(body_solid(body).volume() * STEEL_DENSITY, 2)
        said(f"{file.name} was given no weight; solid steel of its shape weighs {kg:g} kg.")
    photo = read_outside(picture, 400_000) if picture is not None else b""
    facts = Bought(code.strip() or file.stem, maker, words or "bought item", kg, finish)
    item = BoughtItem(id=BoughtItem.named(facts.code), facts=facts, body=body, picture=photo)
    there = catalogue.entry(facts.code)
    held = catalogue.keep(item, getuser(), date.today().isoformat(), f"from {file.name}",
        tuple(h.digest for h in there.heads) if there else ())  # fmt: skip
    print(f"{held.facts.code}: version {held.version.version}")


def _of_job(catalogue: Catalogue, path: Path, take: list[str], as_json: bool) -> None:
    from uncus.job.records import BoughtItem
    from uncus.reference.catalogue import newer
    from uncus.reference.items import uses

    with opened_job(path) as opened:
        items = opened.all(BoughtItem)
        fresh = newer(items, catalogue)
        put: list[BoughtItem] = []
        for code in take:
            if code.casefold() == "all newer":
                put += [catalogue.item(one.held) for one in fresh]
                continue
            entry = catalogue.entry(code)
            if entry is None:
                raise JobError(f"There is no item “{code}” in {catalogue.folder}.")
            put.append(catalogue.item(entry.newest))
        if put:
            with opened.change("Bought items") as change:
                for record in put:
                    change.put(record)
            items, fresh = opened.all(BoughtItem), newer(opened.all(BoughtItem), catalogue)
        used = uses(opened)
    if as_json:
        told = {"items": [{"code": i.code, "version": i.version, "used": used.get(i.id, 0)} for i in items],
            "newer": [{"code": n.item.code, "version": n.held.version.version, "what": list(n.words)} for n in fresh],
            "taken": [i.code for i in put]}  # fmt: skip
        print(msgspec.json.format(msgspec.json.encode(told), indent=1).decode())
        return
    for item in items:
        print(f"{item.code:16} version {item.version}, used {used.get(item.id, 0)} times")
    for one in fresh:
        print(f"newer: {one.item.code} version {one.held.version.version}: {'; '.join(one.words)}")
