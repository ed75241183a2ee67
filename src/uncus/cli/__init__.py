"""The command line. Errors are one sentence on standard error and exit 2; no traceback reaches a user."""

from __future__ import annotations

import gc
import signal
import sys
from contextlib import suppress
from pathlib import Path
from typing import Annotated

import msgspec
import typer

from uncus.cli.common import Cluster, JobFile, Lens, app, opened_job, said, sentences, steel, through
from uncus.job.errors import JobError
from uncus.units import Units

SELDOM = 20_000, 20, 50  # allocations between collections of cycles: of modules and records hardly any are in one


@app.callback(invoke_without_command=True)
def start(
    context: typer.Context,
    version: Annotated[bool, typer.Option("--version", help="Say which version this is.")] = False,
) -> None:
    """Uncus: structural steel detailing. Without a command the start page opens."""
    if version:
        from uncus import __version__

        print(f"uncus {__version__}")
        raise typer.Exit
    if context.invoked_subcommand is None:
        with sentences():
            _window(None)


@app.command()
def demo() -> None:
    """Open the window on a fresh copy of the sample job."""
    with sentences():
        from platformdirs import user_data_path

        from uncus.sample.fresh import fresh_sample

        _window(fresh_sample(user_data_path("uncus", ensure_exists=True)))


@app.command(name="open")
def open_job(
    job: Annotated[Path | None, typer.Argument(metavar="[JOB]", help="Nothing: the start page.")] = None,
) -> None:
    """Open the window on a job, or the start page."""
    with sentences():
        from uncus.job.errors import InUse
        from uncus.job.job import Job

        if job is not None:
            with suppress(InUse):  # the window offers to read it
                Job.open(job).close()  # says what is wrong before a window comes up
        _window(job)


@app.command(name="install-desktop")
def install_desktop(
    remove: Annotated[bool, typer.Option("--remove", help="Take it away again.")] = False,
) -> None:
    """A menu entry, and jobs that open with a double click, in your own data folder."""
    with sentences():
        from uncus.cli import desktop

        folder = desktop.data_folder()
        if remove:
            print(f"{desktop.remove(folder)} files taken out of {folder}")
        else:
            made = desktop.install(folder, desktop.starter())
            print(f"Uncus is in the menu and opens .uncus files ({len(made.files)} files in {folder})")


def _window(path: Path | None) -> None:
    """The window on a job, or the start page."""
    try:
        from uncus.app.main import run
    except ImportError as error:
        raise JobError(
            f"The window needs a system library that is missing ({error}); run tools/setup window as root."
        ) from error
    raise typer.Exit(run(path))


@app.command(name="new")
def new_job(
    job: JobFile,
    name: Annotated[str, typer.Option(help="What the job is called; the file's name otherwise.")] = "",
    number: Annotated[str, typer.Option(help="The job's number.")] = "",
    units: Annotated[Units | None, typer.Option(help="As your preferences say otherwise.")] = None,
    then_open: Annotated[bool, typer.Option("--open", help="Open the window on it.")] = False,
) -> None:
    """Make a job with nothing drawn yet."""
    with sentences():
        from uncus.app import preferences
        from uncus.job.job import Job
        from uncus.job.start import new_job as records

        place = preferences.place()
        usual = Units(preferences.read(place).units) if place.exists() else Units.IMPERIAL
        Job.create(job, records(name.strip() or job.stem, number, units or usual)).close()
        if then_open:
            _window(job)


@app.command()
def sample(
    job: JobFile,
    bays: Annotated[int, typer.Option(min=0, max=200, help="Make a plain frame this many bays long instead.")] = 0,
    storeys: Annotated[int, typer.Option(min=0, max=50, help="Storeys of that frame.")] = 0,
    metric: Annotated[bool, typer.Option("--metric", help="European shapes in millimetres.")] = False,
    tour: Annotated[bool, typer.Option("--tour", help="With three slips in it for the stage Check to find.")] = False,
    replace: Annotated[bool, typer.Option("--replace", help="Write over a job that is there.")] = False,
) -> None:
    """Make the sample job, or a frame of any size; its pieces are not marked yet."""
    with sentences():
        _make_sample(job, bays, storeys, replace, metric, tour)


def _make_sample(path: Path, bays: int, storeys: int, replace: bool, metric: bool = False, slips: bool = False) -> None:
    from uncus.job.job import Job
    from uncus.sample.architect import reference_of, write_file
    from uncus.sample.frames import frame
    from uncus.sample.outside import whole
    from uncus.sample.tour import tour

    if bool(bays) != bool(storeys):
        raise JobError("A frame needs both --bays and --storeys.")
    if bays and metric:
        raise JobError("The plain frame is of American shapes alone; leave out --metric, or --bays and --storeys.")
    if bays and slips:
        raise JobError("The tour is of the sample job; leave out --bays and --storeys.")
    units = Units.METRIC if metric else Units.IMPERIAL
    records = frame(bays, storeys) if bays else tour(units) if slips else whole(units)
    if bays:
        Job.create(path, records, replace).close()
    else:
        Job.create(path, [*records, reference_of(path)], replace).close()
        write_file(path)


@app.command()
def copy(
    job: JobFile,
    to: Annotated[Path, typer.Argument(metavar="TO", help="The copy to make.")],
    replace: Annotated[bool, typer.Option("--replace", help="Write over a job that is there.")] = False,
) -> None:
    """Make a whole copy of a job, history included."""
    with sentences():
        with opened_job(job) as opened:
            opened.save_copy(to, replace)
        print(f"{to} is a copy of {job.name}")


@app.command(name="go-back")
def go_back(
    job: JobFile, copy: Annotated[Path, typer.Argument(metavar="COPY", help="The copy to go back to.")]
) -> None:
    """Make a job what a copy of it holds: a change that can be taken back, or, where the job cannot be opened, in
    its place."""
    with sentences():
        from uncus.job.going_back import put_back

        print(put_back(job, copy) + ".")


@app.command()
def produce(
    job: JobFile,
    out: Annotated[Path, typer.Option(help="The folder of the package.")],
    lens: Lens = None,
    only: Annotated[str, typer.Option(help="Some outputs, such as sheets,nc; a wrong one names all there are.")] = "",
    cluster: Cluster = "",
) -> None:
    """Write sheets, NC, DXF, IFC and bills into one folder."""
    with sentences():
        from rich.console import Console
        from rich.progress import Progress as Bar

        from uncus.deliver.folder import check_place
        from uncus.deliver.outputs import chosen as outputs_of
        from uncus.deliver.package import Progress, went_out
        from uncus.deliver.package import produce as write
        from uncus.shop.cluster import handed_to

        check_place(out)
        names = [item.strip() for item in only.split(",") if item.strip()]
        outputs_of(names)
        with (
            handed_to(cluster, said) as make,
            opened_job(job) as opened,
            Bar(console=Console(stderr=True), transient=True) as bar,
        ):
            task = bar.add_task("producing", total=None)

            class Told(Progress):
                def tell(self, done: int, of: int, words: str) -> None:
                    bar.update(task, completed=done, total=of, description=words)

            shop = steel(opened)
            made = write(opened, out, lens, names, Told(), make, shop)
            records = went_out(opened, made)
            if records:
                with opened.change("Sheets sent") as change:
                    for record in records:
                        change.put(record)
        for failure in made.failures:
            print(f"uncus: {failure}", file=sys.stderr)
        print(f"{len(made.files)} files in {made.folder}")
        if made.failures:
            raise typer.Exit(2)


@app.command()
def summary(
    job: JobFile,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
    lens: Lens = None,
) -> None:
    """What is in a job: members, assemblies, parts, bolts."""
    with sentences():
        from uncus.draw.above import above
        from uncus.lens.criteria import named

        with opened_job(job) as opened:
            shop = steel(opened)
            wanted = named(lens, opened, shop, above(opened, shop))
            content = _summary(opened, shop, wanted)
        if as_json:
            print(msgspec.json.format(msgspec.json.encode(content), indent=1).decode())
            return
        print(f"members: {content['members']}")
        for words, all_, lines in (("pieces", "pieces", "assemblies"), ("parts", "parts_in_all", "parts")):
            marked = sum(line["number"] for line in content[lines])
            bare = f", {content[all_] - marked} not marked" if content[all_] > marked else ""
            print(f"{words}: {content[all_]}, under {len(content[lines])} marks{bare}")
        print(f"bolts: {sum(line['number'] for line in content['bolts'])} of {len(content['bolts'])} kinds")
        print(f"findings: {len(content['findings'])}")


@app.command()
def lenses(
    job: JobFile,
    write_to: Annotated[Path | None, typer.Option("--export", help="Write them to this file.")] = None,
    read_from: Annotated[
        Path | None, typer.Option("--import", help="Take the lenses of this file into the job.")
    ] = None,
    try_out: Annotated[str | None, typer.Option("--try", help="Count what a typed lens lets through.")] = None,
) -> None:
    """The lenses of a job, each as text with what it lets through; taken to and from files."""
    with sentences():
        from uncus.job import records
        from uncus.job.files import read_outside, writable, write_beside
        from uncus.lens.criteria import from_json, lens_named, to_json
        from uncus.lens.grammar import write

        if write_to is not None:
            writable(write_to)
        with opened_job(job) as opened:
            if read_from is not None:
                known = {lens.name.casefold(): lens.id for lens in opened.all(records.Lens)}
                with opened.change("Import lenses") as change:
                    for lens in from_json(read_outside(read_from), read_from):
                        own = known.get(lens.name.casefold(), records.new_id())
                        change.put(msgspec.structs.replace(lens, id=own))
            if write_to is not None:
                write_beside(write_to, to_json(opened.all(records.Lens)))
            shop = steel(opened)
            shown = [lens_named(opened, try_out)] if try_out else opened.all(records.Lens)
            for lens in shown:
                print(f"{len(through(lens.rule, opened, shop)):6}  {lens.name}: {write(lens.rule) or 'anything'}")


@app.command()
def connect(
    job: JobFile,
    lens: Annotated[str | None, typer.Option(help="Only what this lens lets through.")] = None,
    redo: Annotated[bool, typer.Option("--redo", help="Joined ends too; locked joints are left alone.")] = False,
) -> None:
    """Connect free ends by the office's rules; every end that is not done is listed with the reason."""
    with sentences():
        from uncus.connect.by_rule import DONE
        from uncus.job.records import Member
        from uncus.lens.criteria import lens_named
        from uncus.lens.office import connect as run

        with opened_job(job) as opened:
            shop = steel(opened)
            ids = through(lens_named(opened, lens).rule, opened, shop) if lens else list(shop.assemblies)
            report = run(opened, ids, shop, redo)
            if report.records:
                with opened.change(f"Connect {len(report.records)} ends by rule") as change:
                    for record in report.records:
                        change.put(record)
            for line in report.lines:
                member = opened.get(line.member, Member)
                if line.state != DONE and member is not None:
                    place = f"{line.end} end" if line.end else "crossing"
                    print(f"{line.state}: {place} of {member.role} {member.section}: {line.why}")
            print(report.words)


@app.command()
def calculate(
    job: JobFile,
    out: Annotated[Path, typer.Option(help="The PDF to write.")],
    lens: Annotated[str | None, typer.Option(help="Only joints of what this lens lets through.")] = None,
) -> None:
    """Calculation sheets of a job's joints as a PDF."""
    with sentences():
        from collections import Counter

        from uncus.connect.strength.design import State
        from uncus.deliver.calculation import calculation_pdf, sheets_of
        from uncus.job.files import writable, write_beside
        from uncus.job.records import Connection
        from uncus.lens.criteria import lens_named

        writable(out)
        with opened_job(job) as opened:
            shop = steel(opened)
            ids = set(through(lens_named(opened, lens).rule, opened, shop)) if lens else set(shop.assemblies)
            sheets = sheets_of(opened, shop, [c for c in opened.all(Connection) if c.member in ids])
            project = opened.project
            write_beside(out, calculation_pdf(f"{project.number} {project.name}".strip(), sheets))
            states = Counter(s.design.state for s in sheets)
            print(f"{len(sheets)} joints calculated: " + ", ".join(f"{states[state]} {state}" for state in State))


@app.command()
def standards(
    job: JobFile,
    write_to: Annotated[Path | None, typer.Option("--export", help="Write the job's standards to this file.")] = None,
    read_from: Annotated[Path | None, typer.Option("--import", help="Take this file's standards into the job.")] = None,
) -> None:
    """Shop rules, presets and rules of joining, to and from one file."""
    with sentences():
        from uncus.connect.standards import from_json, of_job, taken_in, to_json
        from uncus.job.files import read_outside, writable, write_beside
        from uncus.job.records import OfficeRule, Preset

        if write_to is not None:
            writable(write_to)
        with opened_job(job) as opened:
            if read_from is not None:
                found = from_json(read_outside(read_from), read_from)
                with opened.change(f"Standards from {read_from.name}") as change:
                    for rule in opened.all(OfficeRule) if found.joining else ():
                        change.drop(rule.id)
                    for record in taken_in(opened, found):
                        change.put(record)
            if write_to is not None:
                write_beside(write_to, to_json(of_job(opened)))
            print(f"{len(opened.all(Preset))} presets, {len(opened.all(OfficeRule))} rules of joining of its own")


@app.command()
def loads(
    job: JobFile,
    write_to: Annotated[
        Path | None, typer.Option("--export", help="Write the loads at all joints to this CSV.")
    ] = None,
    read_from: Annotated[Path | None, typer.Option("--import", help="Take the engineer's loads from this CSV.")] = None,
) -> None:
    """The engineer's loads at the ends of members, by mark or place: written as a CSV to fill in, and read back."""
    with sentences():
        from uncus.deliver.reactions import taken, to_csv
        from uncus.job.files import read_outside, writable, write_beside

        if write_to is not None:
            writable(write_to)
        with opened_job(job) as opened:
            shop = steel(opened)
            if read_from is not None:
                found = taken(read_outside(read_from), opened, shop, read_from)
                if found.put:
                    with opened.change(f"Loads from {read_from.name}") as change:
                        for record in found.put:
                            change.put(record)
                for sentence in found.told:
                    print(sentence, file=sys.stderr)
                print(f"{found.words}.")
            if write_to is not None:
                write_beside(write_to, to_csv(opened, shop))


def _summary(job, shop, wanted=lambda _: True) -> dict:  # type: ignore[no-untyped-def,type-arg]
    from uncus.bill.lists import bolt_counts
    from uncus.mark.lines import assembly_lines, part_lines
    from uncus.mark.marking import Marks
    from uncus.steel.describe import billed_length, describe
    from uncus.steel.flat import gross_weight, net_weight

    marks = Marks(job, shop.carried)
    chosen = [a for a in shop.shipped.values() if wanted(a)]
    lines = assembly_lines(shop, marks, wanted)
    return {
        "job": job.project.name,
        "number": job.project.number,
        "units": job.project.units,
        "members": sum(len(shop.in_piece(a.id)) for a in chosen),
        "pieces": len(chosen),
        "unmarked": marks.unmarked(chosen),
        "findings": [f.text for f in shop.all_findings],
        "assemblies": [
            {
                "mark": line.mark,
                "number": len(line.assemblies),
                "main_section": line.first.member.section,
                "length_mm": line.first.main.part.length,
                "gross_kg": round(line.first.gross, 3),
                "net_kg": round(line.first.net, 3),
            }
            for line in lines
        ],
        "parts_in_all": sum(len(a.pieces) for a in chosen),
        "parts": [
            {
                "mark": line.mark,
                "number": len(line.pieces),
                "section": describe(line.first.part, job.project.units),
                "length_mm": billed_length(line.first.part),
                "gross_kg": round(gross_weight(line.first.part), 3),
                "net_kg": round(net_weight(line.first.part), 3),
                "holes": len(line.first.part.holes),
            }
            for line in part_lines(chosen, marks)
        ],
        "bolts": [
            {"kind": b.kind, "size": b.size, "length_mm": b.length, "grade": b.grade, "where": b.place, "number": n}
            for b, n in bolt_counts(chosen).items()
        ],
    }


def main() -> None:
    """Run the command line; what is wrong with the words typed is a sentence too."""
    gc.set_threshold(*SELDOM)
    from uncus.cli import bills as bills
    from uncus.cli import bought as bought
    from uncus.cli import checks as checks  # their commands after those above
    from uncus.cli import marks as marks
    from uncus.cli import packages as packages
    from uncus.cli import references as references

    signal.signal(signal.SIGTERM, _stop)
    try:
        code = app(standalone_mode=False)
    except typer.Abort:
        code = said("Stopped.")
    except BrokenPipeError:
        sys.stderr.close()
        code = 2
    except Exception as error:
        # the parser's own exceptions carry their sentence in format_message
        message = getattr(error, "format_message", None)
        if message is None:
            raise
        code = said(message())
    sys.exit(code if isinstance(code, int) else 0)


def _stop(_signal: int, _frame: object) -> None:
    raise KeyboardInterrupt  # so that what is half written is cleared away
