"""What all commands have in common: whatever goes wrong is one sentence on standard error and exit 2."""

from __future__ import annotations

import sqlite3
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from uncus.job.errors import JobError
from uncus.units import UnitError

if TYPE_CHECKING:
    from uncus.job.job import Job
    from uncus.job.records import Rule
    from uncus.shop.shop import Shop

app = typer.Typer(
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
    help="Uncus: structural steel detailing.",
)

_FEW = 100  # joints of a job, fewer than which are made sooner than found

Lens = Annotated[
    str | None, typer.Option(help="Only what this lens lets through: a name, or text such as: role is beam.")
]
Cluster = Annotated[
    str,
    typer.Option("--cluster", metavar="ADDRESS", help="A Dask scheduler whose workers do it, as tls://machine:8786."),
]
JobFile = Annotated[Path, typer.Argument(metavar="JOB", help="The job's .uncus file.")]


@contextmanager
def sentences() -> Iterator[None]:
    """Whatever goes wrong becomes one sentence and exit 2."""
    try:
        yield
    except (JobError, UnitError) as error:
        fail(str(error))
    except OSError as error:
        fail(f"{error.filename or 'A file'} could not be read or written: {error.strerror or error}.")
    except (sqlite3.Error, MemoryError) as error:
        fail(f"The job could not be worked on: {error or 'out of memory'}.")
    except RecursionError:
        fail("Something was nested too deeply to be read; make it flatter and try again.")
    except KeyboardInterrupt:
        fail("Stopped; nothing half done was left behind.")


@contextmanager
def opened_job(path: Path) -> Iterator[Job]:
    """A job, with what opening it found said on standard error."""
    from uncus.job.job import Job

    with Job.open(path) as job:
        for sentence in (*job.notes, *(one.text for one in job.aside)):
            said(sentence)
        yield job


def steel(job: Job) -> Shop:
    """All steel of a job; of a large one by worker processes, and with the joints that were made before."""
    from uncus.shop.shop import build

    bare = build(job, bare=True)
    if len(bare.waiting.joints) < _FEW:
        bare.complete()
        return bare
    from uncus.shop.ahead import complete
    from uncus.shop.kept import Kept, usual_place

    kept = Kept(usual_place())
    try:
        bare.keep_in(kept)
        complete(bare)
    finally:
        bare.keep_in(None)
        kept.close()
    return bare


def through(rule: Rule, opened: Job, shop: Shop) -> list[str]:
    """The pieces that a lens lets through; words that no piece has are said."""
    from functools import cache

    from uncus.draw.above import above
    from uncus.lens.criteria import chosen
    from uncus.lens.unmet import unmet

    handed = cache(above(opened, shop))  # asked for twice, read once
    for sentence in unmet(rule, opened, shop, handed):
        said(sentence)
    return chosen(rule, opened, shop, handed)


def fail(sentence: str) -> None:
    raise typer.Exit(said(sentence))


def said(sentence: str) -> int:
    print(f"uncus: {sentence}", file=sys.stderr)
    return 2
