"""Packages on the command line: whether one can go, made and sent, taken by the intake, and its answers."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from uncus.cli.common import Cluster, JobFile, app, opened_job, said, sentences, steel
from uncus.job.errors import JobError
from uncus.units import counted

if TYPE_CHECKING:
    from uncus.deliver.ready import Line
    from uncus.job.job import Job
    from uncus.job.packages import Sending
    from uncus.standin.noticeboard import Notice

KindName = Annotated[str, typer.Option("--kind", help="The kind of package, such as: for fabrication.")]
AsJson = Annotated[bool, typer.Option("--json", help="As JSON.")]


def _print_json(content: Any) -> None:
    print(msgspec.json.format(msgspec.json.encode(content), indent=1).decode())


@app.command()
def ready(
    job: JobFile,
    kind: KindName = "for fabrication",
    to: Annotated[str, typer.Option(help="Who would get it: his model, and what he asks of it.")] = "",
    cluster: Cluster = "",
    as_json: AsJson = False,
) -> None:
    """Whether a package can go: marked, current, checked, proved, added up. Exit 1 where something is in the way."""
    with sentences():
        from uncus.deliver.ready import ready as look
        from uncus.deliver.sending import kind_named, outputs_for, receiver_named
        from uncus.shop.cluster import handed_to

        with handed_to(cluster, said) as make, opened_job(job) as opened:
            receiver, asked = receiver_named(opened, to), kind_named(opened, kind)
            asked = msgspec.structs.replace(asked, outputs=outputs_for(asked, receiver))  # as it goes to him
            lines = look(opened, steel(opened), asked, asks=receiver.ids, make=make)
        if as_json:
            _print_json({"kind": kind, "lines": lines, "ready": not any(line.stops for line in lines)})
        else:
            _say(lines)
        stops = any(line.stops for line in lines)
    if stops:
        raise typer.Exit(1)


def _say(lines: list[Line]) -> None:
    for line in lines:
        sign = "✓" if line.ok else "✕" if line.must else "▲"
        print(f"{sign} {line.words}")
        for words in line.against[:8]:
            print(f"    {words}")
        if len(line.against) > 8:
            print(f"    and {len(line.against) - 8} more")


@app.command()
def receiver(
    job: JobFile,
    name: Annotated[str, typer.Argument(metavar="NAME", help="Who gets packages.")],
    model: Annotated[str | None, typer.Option(help="What he reads: ifc, ifc2x3, material or both.")] = None,
    ids: Annotated[Path | None, typer.Option(help="What he asks of the IFC model: an IDS file.")] = None,
    nothing: Annotated[bool, typer.Option("--no-ids", help="He asks nothing of the model any more.")] = False,
    zipped: Annotated[bool | None, typer.Option("--zip/--no-zip", help="Whether he gets packages as ZIP too.")] = None,
    as_json: AsJson = False,
) -> None:
    """Keep who gets packages, what he reads and what he asks of it; without options: say what is kept."""
    with sentences():
        from uncus.deliver.ids_proof import asks_of
        from uncus.deliver.sending import receiver_named
        from uncus.job.files import read_outside

        if not name.strip():
            raise JobError("A receiver needs a name.")
        with opened_job(job) as opened:
            old = receiver_named(opened, name)
            told: dict[str, Any] = {"model": model, "zipped": zipped}
            if ids is not None:
                told |= {"ids": asks_of(read_outside(ids), ids.name), "ids_name": ids.name}
            elif nothing:
                told |= {"ids": "", "ids_name": ""}
            new = msgspec.structs.replace(old, **{k: v for k, v in told.items() if v is not None})
            if problem := new.problem():
                raise JobError(problem)
            if new != opened.records.get(new.id):
                with opened.change(f"Receiver {new.name}") as change:
                    change.put(new)
        if as_json:
            _print_json({"name": new.name, "model": new.model, "zip": new.zipped, "ids": new.ids_name})
        else:
            print(f"{new.name}: model {new.model or 'not said'}, {'ZIP too' if new.zipped else 'no ZIP'}, "
                f"IDS {new.ids_name or 'none'}")  # fmt: skip


@app.command()
def package(
    job: JobFile,
    kind: KindName,
    out: Annotated[Path, typer.Option("--out", help="The folder that the package's own folder is made in.")],
    to: Annotated[str, typer.Option(help="Who gets it.")] = "",
    zipped: Annotated[bool, typer.Option("--zip", help="Packed as ZIP beside the folder, too.")] = False,
    reason: Annotated[str, typer.Option(help="Why it goes although something stands in its way.")] = "",
    both: Annotated[bool, typer.Option("--both", help="IFC and the material file to one receiver.")] = False,
    on: Annotated[str, typer.Option(help="The day it goes, as 2026-11-29; today otherwise.")] = "",
    cluster: Cluster = "",
    as_json: AsJson = False,
) -> None:
    """Make a package of a kind for a receiver: looked at before it goes, whole or not at all, read back, and kept."""
    with sentences():
        from datetime import date

        from uncus.deliver.package import went_out
        from uncus.deliver.sending import kind_named, receiver_named
        from uncus.deliver.sending import package as made_package
        from uncus.shop.cluster import handed_to

        try:
            day = date.fromisoformat(on).isoformat() if on else date.today().isoformat()
        except ValueError:
            raise JobError(f"“{on}” is no day; give one such as 2026-11-29.") from None
        with handed_to(cluster, said) as make, opened_job(job) as opened:
            shop = steel(opened)
            sent = made_package(opened, shop, kind_named(opened, kind), receiver_named(opened, to), out, reason, day,
                zipped, both, make=make)  # fmt: skip
            with opened.change(f"Package {sent.record.number} sent") as change:
                for record in (*went_out(opened, sent.made), sent.record):
                    change.put(record)
        for sentence in sent.made.failures:
            said(sentence)
        if as_json:
            record = sent.record
            _print_json({"folder": str(sent.folder), "zip": str(sent.zipped or ""), "number": record.number,
                "files": len(record.files), "pieces": len(record.pieces), "against": record.against})  # fmt: skip
        else:
            print(f"package {sent.record.number}: {counted(len(sent.record.files), 'file')} in {sent.folder}")


@app.command()
def publish(
    job: JobFile,
    package: Annotated[str, typer.Argument(metavar="PACKAGE", help="A package: its folder, its ZIP, or its number.")],
    board: Annotated[str, typer.Option("--board", help="The noticeboard: a folder, or http://127.0.0.1:PORT.")],
    as_json: AsJson = False,
) -> None:
    """Lay out a package of a job on a noticeboard, as its next version; say who has an earlier one."""
    with sentences():
        with opened_job(job) as opened:
            data, name = _packed(opened, package)
        notice, told = _laid_out(board, data, name)
        if as_json:
            _print_json({"notice": notice, "receivers": told})
        else:
            print(f"{notice.number} {notice.job}: version {notice.version}, {counted(notice.files, 'file')}")
            for who, words in told.items():
                print(f"    {who}: {words}")


def _packed(job: Job, package: str) -> tuple[bytes, str]:
    """A package of a job as ZIP, and its name. Raises JobError where it is another job's."""
    import tempfile

    from uncus.deliver.sending import written_again, zip_bytes
    from uncus.job.files import read_outside
    from uncus.job.packages import Sending
    from uncus.standin.parcels import opened

    path = Path(package)
    sending = next((s for s in job.all(Sending) if package == str(s.number)), None) if not path.exists() else None
    with tempfile.TemporaryDirectory(prefix="uncus-") as place:
        if sending is None and not path.exists():
            raise JobError(f"There is no package {package} of this job, and no folder or ZIP of that name.")
        if sending is not None:
            path = written_again(job, sending, Path(place))
        parcel = opened(path)
        of, own = parcel.manifest, job.project
        if (of.job, of.number) != (own.name, own.number):
            raise JobError(
                f"{path.name} is a package of {of.number} {of.job}, and this job is {own.number} {own.name}."
            )
        if path.is_file():
            return read_outside(path, 2_000_000_000), path.name
        return zip_bytes(path, of.on or _day_of(sending)), path.name


def _day_of(sending: Sending | None) -> str:
    from datetime import date

    return sending.on if sending is not None else date.today().isoformat()


def _laid_out(board: str, data: bytes, name: str) -> tuple[Notice, dict[str, str]]:
    """The version that a package became, and of a board that is a folder what each receiver has to learn."""
    from uncus.standin.noticeboard import Noticeboard
    from uncus.standin.parcels import unpacked
    from uncus.standin.serving import publish_to

    if "://" in board:
        return publish_to(board, data, name), {}
    place = Noticeboard(Path(board))
    notice = place.lay_out(unpacked(data, name))
    return notice, place.to_learn(notice)


@app.command()
def noticeboard(
    folder: Annotated[Path, typer.Argument(metavar="FOLDER", help="The noticeboard's folder.")],
    serve: Annotated[
        int | None, typer.Option(min=0, max=65535, help="Serve it at this port of this machine (0: any).")
    ] = None,
    take: Annotated[str, typer.Option(help="Take the last version of a job, by the name it goes by there.")] = "",
    receiver: Annotated[str, typer.Option(help="Who takes it.")] = "",
    out: Annotated[Path, typer.Option("--out", help="The folder that it is taken to.")] = Path(),
    on: Annotated[str, typer.Option(help="The day it is taken; today otherwise.")] = "",
    as_json: AsJson = False,
) -> None:
    """The shared place (a stand-in): what is laid out there, taken by a receiver, or served on this machine alone."""
    with sentences():
        from datetime import date

        from uncus.standin.noticeboard import Noticeboard

        board = Noticeboard(folder)
        if serve is not None:
            from uncus.standin.serving import Server

            with Server(board, serve) as server:
                print(f"{folder} at {server.place}; Ctrl+C ends it", flush=True)
                server.serve_forever()
        elif take:
            took = board.take(take, receiver, out, on or date.today().isoformat())
            if as_json:
                _print_json({"notice": took.notice, "folder": str(took.folder), "changes": took.changes})
            else:
                print(f"version {took.notice.version} in {took.folder}")
                for one in took.changes.pieces if took.changes else ():
                    print(f"    {one.mark} {one.how}: {one.words}")
        elif as_json:
            _print_json({job: board.versions(job) for job in board.jobs()})
        elif not (jobs := board.jobs()):
            print(f"Nothing is laid out on {folder} yet.")
        else:
            for job in jobs:
                print(job)
                for notice in board.versions(job):
                    print(f"    {notice.version}: {notice.package}, {counted(notice.pieces, 'piece')}")


@app.command()
def intake(
    packages: Annotated[list[Path], typer.Argument(metavar="PACKAGE...", help="Packages: folders or ZIPs.")],
    folder: Annotated[Path, typer.Option("--folder", help="The intake's own folder.")] = Path("intake"),
    out: Annotated[Path | None, typer.Option("--out", help="Where receipts are written; beside the folder's.")] = None,
    stage: Annotated[str, typer.Option(help="Report all pieces as: cut, fitted, painted, shipped, erected.")] = "",
    on: Annotated[str, typer.Option(help="The day of the report.")] = "",
    as_json: AsJson = False,
) -> None:
    """The fabricator's office (a stand-in): takes packages, counts, asks for what is missing, answers."""
    with sentences():
        from datetime import date

        from uncus.job.files import file_name, write_beside
        from uncus.job.packages import Stage
        from uncus.standin.intake import Intake, to_json

        office = Intake(folder)
        receipts = [office.take(one) for one in packages]
        for receipt in receipts:
            name = file_name(f"receipt {receipt.package}")
            write_beside((out or folder) / f"{name}.json", to_json(receipt))
        if stage:
            if stage not in list(Stage):
                raise JobError(f"“{stage}” is no stage; there are {', '.join(Stage)}.")
            last = receipts[-1]
            told = office.report(last.job, last.number, Stage(stage), (), on or date.today().isoformat())
            write_beside((out or folder) / "progress.json", to_json(told))
        if as_json:
            _print_json(receipts)
        else:
            for r in receipts:
                print(f"{r.package}: {counted(r.pieces, 'piece')}, {counted(r.bolts, 'bolt')}, {r.kg / 1000:.3f} t, "
                    f"{r.nc} NC, {counted(r.sheets, 'sheet')}")  # fmt: skip
                for words in (*r.missing, *(f"{n}: {', '.join(v[:8])}" for n, v in (("new", r.added), ("gone", r.gone),
                        ("changed", r.changed)) if v)):  # fmt: skip
                    print(f"    {words}")
        wrong = any(not r.accepted for r in receipts)
    if wrong:
        raise typer.Exit(1)


@app.command()
def progress(
    job: JobFile,
    file: Annotated[Path, typer.Argument(metavar="FILE", help="The fabricator's progress file.")],
    as_json: AsJson = False,
) -> None:
    """Take in how far pieces are, as the fabricator says."""
    with sentences():
        from uncus.deliver.answers import taken_in
        from uncus.job.files import read_outside
        from uncus.standin.intake import read_progress

        told = read_progress(read_outside(file), file.name)
        with opened_job(job) as opened:
            answer = taken_in(opened, steel(opened), told)
            if answer.records:
                with opened.change(f"Progress of {told.by or file.name}") as change:
                    for record in answer.records:
                        change.put(record)
        for note in answer.notes:
            said(note)
        if as_json:
            _print_json({"pieces": len(answer.records), "notes": list(answer.notes)})
        else:
            print(f"{counted(len(answer.records), 'piece')} reported")
