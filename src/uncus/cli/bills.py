"""Bills on the command line: lists by template, what changed, and stock nested."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from uncus.cli.common import JobFile, Lens, app, opened_job, said, sentences, steel
from uncus.job.errors import JobError
from uncus.units import counted, format_weight

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from uncus.bill.compare import Compared
    from uncus.bill.sources import Billing
    from uncus.bill.table import Table
    from uncus.job.billing import Stood
    from uncus.job.job import Job

Out = Annotated[Path, typer.Option("--out", help="The folder that the files go to.")]
AsJson = Annotated[bool, typer.Option("--json", help="As JSON.")]


@app.command()
def bills(
    job: JobFile,
    out: Out,
    names: Annotated[list[str] | None, typer.Option("--list", help="This list alone; may be given again.")] = None,
    template: Annotated[
        str, typer.Option(help="A template of the job's by name, or a file of templates, taken before the job's own.")
    ] = "",
    lens: Lens = None,
    keep: Annotated[str, typer.Option(help="Keep the first list in the job under this name, as it is sent now.")] = "",
    advance: Annotated[str, typer.Option(help="The advance bill, its marks and lengths kept under this name.")] = "",
) -> None:
    """Lists by template as PDF, XLSX and CSV, all there are or those named; or the advance bill."""
    with sentences():
        from datetime import date

        from uncus.bill.listing import from_json, some_lists, template_named, templates_of
        from uncus.job.files import read_outside
        from uncus.job.records import ListTemplate

        file = Path(template)
        given = from_json(read_outside(file), file.name) if template and file.is_file() else []
        if template and file.is_file() and not given:
            raise JobError(f"{file.name} holds no templates.")
        with opened_job(job) as opened:
            of = _billing(opened, lens)
            own = [*given, *opened.all(ListTemplate)]
            if advance:
                tables = [_advance(opened, of, advance, date.today().isoformat())]
            else:
                wanted = [*(names or ()), *([template] if template and not given else ())]
                chosen = [template_named(own, name) for name in wanted] if wanted else given or templates_of(own)
                made, wrong = some_lists(chosen, of)
                tables = [table for table in made if table.rows or wanted]
                for sentence in wrong:
                    said(sentence)
                if wrong and not tables:
                    raise JobError("No list could be made.")
            if not tables:
                raise JobError("No list has anything in it: mark the pieces first.")
            written = _written(tables, opened, out)
            if keep:
                from uncus.bill.kept import kept
                from uncus.bill.stood import stood

                parts = stood(opened, of.shop, of.marks, of.wanted)
                record = kept(tables[0], parts, keep, date.today().isoformat())
                with opened.change(f"List kept: {keep}") as change:
                    change.put(record)
        print(f"{counted(len(tables), 'list')} in {counted(written, 'file')} in {out}")


def _billing(opened: Job, lens: str | None) -> Billing:
    """What of a job is billed; words of a lens that no piece has are said."""
    from uncus.bill.sources import Billing, through
    from uncus.draw.above import above
    from uncus.lens.criteria import lens_named
    from uncus.lens.unmet import unmet
    from uncus.mark.marking import Marks

    shop = steel(opened)
    if lens:
        for sentence in unmet(lens_named(opened, lens).rule, opened, shop, above(opened, shop)):
            said(sentence)
    return Billing(opened, shop, Marks(opened, shop.carried), through(opened, shop, lens or ""))


def _advance(opened: Job, of: Billing, name: str, on: str) -> Table:
    """The advance bill, and its marks kept."""
    from uncus.bill.advance import keep_advance
    from uncus.bill.listing import listed, template_named
    from uncus.bill.sources import to_order

    found = to_order(of)
    if not found:
        raise JobError("There is nothing to order ahead.")
    made = keep_advance(opened, list(of.shop.shipped.values()), found, on, name)
    with opened.change(f"Advance bill {name}") as change:
        for record in made:
            change.put(record)
    return listed(template_named((), "advance bill"), of)


def _written(tables: list[Table], opened: Job, out: Path) -> int:
    """The lists as files, each whole or not at all; how many."""
    from uncus.deliver.list_files import list_files
    from uncus.job.files import write_beside

    files = list_files(tables, opened)
    for name, data in files.items():
        write_beside(out / name, data)
    return len(files)


@app.command()
def compare(
    job: JobFile,
    other: Annotated[Path | None, typer.Argument(metavar="[OTHER]", help="A job or a package's folder.")] = None,
    kept: Annotated[str, typer.Option(help="A list that is kept in the job, in place of OTHER.")] = "",
    tolerance: Annotated[float, typer.Option(help="Lengths that differ by less (mm) are alike.", min=0.0)] = 1.0,
    as_json: AsJson = False,
    out: Annotated[Path | None, typer.Option("--out", help="A folder for what changed as PDF and XLSX.")] = None,
) -> None:
    """What changed since OTHER: piece by piece, by who a piece is and not by its mark. Exit 1 where anything did."""
    with sentences():
        from uncus.bill import compare as comparing
        from uncus.bill.stood import of_package, stood
        from uncus.job.records import KeptList

        if (other is None) == (not kept):
            raise JobError("Name a job or a package to compare with, or a kept list by --kept.")
        with opened_job(job) as opened:
            of, units = _billing(opened, None), opened.project.units
            now = stood(opened, of.shop, of.marks)
            why: Callable[[str], Sequence[str]] = _nothing
            if kept:
                lists = {one.name.casefold(): one for one in opened.all(KeptList)}
                found = lists.get(kept.casefold())
                if found is None:
                    there = ", ".join(one.name for one in lists.values()) or "none yet"
                    raise JobError(f"No list “{kept}” is kept; there are: {there}.")
                then, name = found.parts, f"{found.name}, {found.on}"
            elif other is not None and other.is_dir():
                then, name = of_package(other), other.name
            else:
                assert other is not None
                then, why = _of_job(other, of)
                name = other.stem
            result = comparing.compare(then, now, (name, "now"), tolerance, units, why)
            if out is not None:
                from uncus.bill.changes import change_tables

                _written(change_tables(result, units), opened, out)
        if as_json:
            print(msgspec.json.format(msgspec.json.encode(_rows(result)), indent=1).decode())
        else:
            print(comparing.in_words(result, units))
            for d in result.differences:
                weight = f"{'-' if d.kg < 0 else '+'}{format_weight(abs(d.kg), units)}"
                print(f"{d.one.mark or d.id}   {', '.join(d.kinds)}   {weight}   {d.words}")
            for o in result.ordered:
                if o.how != comparing.SERVES:
                    print(o.words)
        if result.differences:
            raise typer.Exit(1)


def _nothing(_: str) -> Sequence[str]:
    return ()


def _of_job(path: Path, of: Billing) -> tuple[tuple[Stood, ...], Callable[[str], Sequence[str]]]:
    """The parts of another job, and in what one of them is detailed otherwise now."""
    from uncus.bill.stood import stood
    from uncus.job.job import Job
    from uncus.mark.differences import differences
    from uncus.mark.marking import Marks

    there = Job.read(path)
    shop = steel(there)
    old = {p.id: p.part for p in shop.pieces()}
    new = {p.id: p.part for p in of.shop.pieces()}
    return stood(there, shop, Marks(there, shop.carried)), lambda id: differences(new[id], old[id], of.units)


def _rows(result: Compared) -> dict[str, Any]:
    rows = [
        {"piece": d.id, "mark": d.one.mark, "changed": list(d.kinds), "words": d.words, "pieces": d.pieces,
            "metres": round(d.metres, 4), "kg": round(d.kg, 3)}
        for d in result.differences
    ]  # fmt: skip
    ordered = [{"piece": o.was.id, "mark": o.was.advance, "how": o.how, "words": o.words} for o in result.ordered]
    return {"was": result.was, "now": result.now, "pieces": [result.before[0], result.after[0]],
        "kg": [round(result.before[1], 3), round(result.after[1], 3)], "changed": rows, "ordered": ordered}  # fmt: skip


@app.command()
def nest(
    job: JobFile,
    out: Out,
    plates: Annotated[bool, typer.Option("--plates", help="Plates into sheets, in place of bars.")] = False,
    lens: Lens = None,
    keep: Annotated[str, typer.Option(help="Keep what is left as offcuts, of a nest of this name.")] = "",
    as_json: AsJson = False,
) -> None:
    """Cut lengths laid into stock, or plates into sheets: pictures, what is to be bought, and a DXF a sheet."""
    with sentences():
        from uncus.job.records import Offcut

        with opened_job(job) as opened:
            of = _billing(opened, lens)
            offcuts = opened.all(Offcut)
            told, data, made = (_plates if plates else _bars)(opened, of, offcuts, out, keep)
            if keep and made:
                with opened.change(f"Offcuts of {keep}") as change:
                    for record in made:
                        change.put(record)
        for sentence in told:
            said(sentence)
        if as_json:
            print(msgspec.json.format(msgspec.json.encode(data), indent=1).decode())
        else:
            print(data["words"])


def _tell(done: int, of: int, words: str) -> None:
    import sys

    if sys.stderr.isatty():
        print(f"\r{done} of {of}  {words:30}", end="", file=sys.stderr)


def _bars(
    opened: Job, of: Billing, offcuts: list[Any], out: Path, keep: str
) -> tuple[tuple[str, ...], dict[str, Any], list[Any]]:
    from uncus.bill.changes import mill_table
    from uncus.bill.nesting.bars import cuts_of, mill_order, nest, offcuts_of
    from uncus.bill.nesting.pictures import bar_pages, listed_bars
    from uncus.deliver.pdf import pdf_bytes
    from uncus.job.files import write_beside

    units = opened.project.units
    result = nest(cuts_of(of.chosen, lambda p: of.marks.of_part(p.id)), opened.stock, offcuts, units, _tell)
    if not result.groups:
        raise JobError(" ".join(result.told) or "There are no bars to be cut: mark the pieces first.")
    write_beside(out / "bars.pdf", pdf_bytes(*bar_pages(result, units, opened.project.name)))
    _written([mill_table(mill_order(result))], opened, out)
    words = (
        f"{sum(1 for _ in result.bars)} bars, drop {100 * result.drop:.1f} %, "
        f"{100 * result.over_bound:.2f} % over the least there can be"
    )
    bars = list(listed_bars(result.bars))
    data = {"words": words, "drop": result.drop, "over_bound": result.over_bound, "bars": bars, "told": result.told}
    return result.told, data, offcuts_of(result, opened.stock, keep, offcuts)


def _plates(
    opened: Job, of: Billing, offcuts: list[Any], out: Path, keep: str
) -> tuple[tuple[str, ...], dict[str, Any], list[Any]]:
    from uncus.bill.nesting.pictures import listed_sheets, plate_pages
    from uncus.bill.nesting.plates import blanks_of, nest_plates
    from uncus.deliver.nest_dxf import nest_dxf
    from uncus.deliver.pdf import pdf_bytes
    from uncus.job.files import write_beside

    units = opened.project.units
    result = nest_plates(blanks_of(of.chosen, lambda p: of.marks.of_part(p.id)), opened.stock, offcuts, units, _tell)
    if not result.sheets:
        raise JobError(" ".join(result.told) or "There are no plates to be cut: mark the pieces first.")
    write_beside(out / "plates.pdf", pdf_bytes(*plate_pages(result, units, opened.project.name)))
    for n, sheet in enumerate(result.sheets, 1):
        write_beside(out / f"sheet {n}.dxf", nest_dxf(sheet))
    words = f"{len(result.sheets)} sheets, {100 * result.fill:.1f} % filled"
    data = {"words": words, "fill": result.fill, "sheets": list(listed_sheets(result.sheets)), "told": result.told}
    used = {s.offcut for s in result.sheets if s.offcut}
    return result.told, data, [msgspec.structs.replace(o, used=keep) for o in offcuts if o.mark in used]
