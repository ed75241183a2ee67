"""Marks on the command line: a run, the answers to what it asks, and the series."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from uncus.cli.common import JobFile, Lens, app, opened_job, sentences, steel, through
from uncus.job.errors import JobError
from uncus.job.records import Both, Mark, Role, Series

if TYPE_CHECKING:
    from uncus.job.job import Job
    from uncus.mark.proposal import Choices, Proposal, Row


@app.command()
def mark(
    job: JobFile,
    lens: Lens = None,
    policy: Annotated[str, typer.Option(help="From now on: loose, firm or frozen.")] = "",
    ordered: Annotated[str, typer.Option(help="Keep the marks as ordered in a package of this name.")] = "",
    settle: Annotated[
        str, typer.Option(help="Answers to what is in conflict, by the numbers it is listed with, such as 1=2,3=1.")
    ] = "",
) -> None:
    """Give every piece its mark; what is in conflict is listed with its answers and stays as it was."""
    with sentences():
        from datetime import date

        from uncus.lens.criteria import lens_named
        from uncus.mark import kept
        from uncus.mark.marker import Marker
        from uncus.mark.proposal import State, apply

        with opened_job(job) as opened:
            if policy:
                rules = msgspec.structs.replace(opened.mark_rules, policy=policy)
                with opened.change(f"Marks {policy}") as change:
                    change.put(rules)
            shop = steel(opened)
            only = frozenset(through(lens_named(opened, lens).rule, opened, shop)) if lens else None
            marker = Marker(opened, shop)
            proposal = marker.proposal(only=only)
            if settle:
                proposal = marker.proposal(_answers(settle, _conflicts(proposal)), only)
            changed = apply(opened, proposal)
            advance = kept.ordered(opened, shop.shipped.values(), date.today().isoformat(), ordered) if ordered else []
            if advance:
                with opened.change(f"Advance marks, {ordered}") as change:
                    for one in advance:
                        change.put(one)
        counts = ", ".join(f"{n} {state}" for state in State if (n := proposal.count(state)))
        print(f"{len(proposal.rows)} marks: {counts}; {changed} pieces changed.")
        for n, row in enumerate(_conflicts(proposal), 1):
            print(f"{n}  {row.mark or 'no mark'}, {len(row.pieces)} of it: {row.why}.")
            for k, option in enumerate(row.options, 1):
                print(f"     {n}={k}  {option.words}")


def _conflicts(proposal: Proposal) -> list[Row]:
    from uncus.mark.proposal import State

    return [row for row in proposal.rows if row.state is State.CONFLICT]


def _answers(text: str, conflicts: list[Row]) -> Choices:
    """What was typed as answers. Raises JobError for one that was not asked."""
    from uncus.mark.proposal import Choices

    found = Choices()
    for one in filter(None, (word.strip() for word in text.split(","))):
        match = re.fullmatch(r"(\d{1,6})\s*=\s*(\d{1,3})", one)
        if match is None:
            raise JobError(f"“{one}” is no answer; type a conflict's number and an answer's, such as 1=2.")
        number, answer = int(match[1]), int(match[2])
        if not 1 <= number <= len(conflicts):
            raise JobError(f"There is no conflict {number}; {_numbered(len(conflicts), 'conflict')}.")
        options = conflicts[number - 1].options
        if not 1 <= answer <= len(options):
            raise JobError(f"Conflict {number} has no answer {answer}; {_numbered(len(options), 'answer')}.")
        found = found.with_(options[answer - 1].choices)
    return found


def _numbered(n: int, what: str) -> str:
    return f"there is no {what}" if n == 0 else f"there is one {what}" if n == 1 else f"there are {n} {what}s"


@app.command()
def series(
    job: JobFile,
    prefix: Annotated[str, typer.Option(help="Of the series to make or to change.")] = "",
    of: Annotated[str, typer.Option(help="What it marks: roles such as beam,girt, or with --parts kinds.")] = "",
    parts: Annotated[bool, typer.Option("--parts", help="Marks of parts, not of assemblies.")] = False,
    start: Annotated[int | None, typer.Option(help="The first number.")] = None,
    step: Annotated[int | None, typer.Option(help="From one number to the next.")] = None,
    pad: Annotated[int | None, typer.Option(help="Figures at least, such as 3 for 001.")] = None,
    last: Annotated[int | None, typer.Option(help="The last number; 0 for none.")] = None,
    lens: Annotated[str | None, typer.Option(help="Only what this lens lets through.")] = None,
    order: Annotated[int | None, typer.Option(help="The first series in this order that fits gives the mark.")] = None,
    away: Annotated[bool, typer.Option("--away", help="Take the series away.")] = False,
) -> None:
    """The series that marks come from; with a prefix, make or change one."""
    with sentences():
        from uncus.lens.criteria import allowed, lens_named

        roles = tuple(word.strip() for word in of.split(",") if word.strip())
        for role in roles if not parts else ():
            if role not in list(Role):
                raise JobError(f"There is no role “{role}”; there are {', '.join(Role)}.")
        with opened_job(job) as opened:
            members = allowed(lens_named(opened, lens).rule, before=(Mark,)) if lens is not None else None
            given = {
                "roles": roles or None,
                "start": start,
                "step": step,
                "pad": pad,
                "order": order,
                "members": members,
            }
            new: dict[str, Any] = {name: value for name, value in given.items() if value is not None}
            if last is not None:
                new["last"] = last or None
            _change_series(opened, prefix, parts, new, away)
            for one in sorted(opened.all(Series), key=lambda s: (s.parts, s.order, s.start)):
                print(_series_words(one))


def _change_series(opened: Job, prefix: str, parts: bool, new: dict[str, Any], away: bool) -> None:
    """Make, change or take away the series of a prefix. Raises JobError where it is not clear which is meant."""
    if not prefix:
        if new or away:
            raise JobError("Say by --prefix which series is meant.")
        return
    own = [s for s in opened.all(Series) if s.prefix == prefix and s.parts == parts]
    if len(own) > 1:
        raise JobError(f"There are {len(own)} series {prefix}; change them in the window.")
    if not own and (away or "roles" not in new):
        ask = "" if away else "; to make one, say by --of what it marks"
        raise JobError(f"There is no series {prefix}{' of parts' if parts else ''}{ask}.")
    if away:
        with opened.change(f"Take series {prefix} away") as change:
            change.drop(own[0].id)
    elif new:
        one = msgspec.structs.replace(own[0] if own else Series(prefix, (), parts=parts), **new)
        with opened.change(f"Series {prefix}") as change:
            change.put(one)


def _series_words(one: Series) -> str:
    from uncus.lens.grammar import write

    to = f" to {one.last}" if one.last is not None else " on"
    by = f" by {one.step}" if one.step != 1 else ""
    through = f"; {write(one.members)}" if one.members != Both() else ""
    what = f"{'parts: ' if one.parts else ''}{', '.join(one.roles)}"
    return f"{one.prefix:6}  {one.start:0{max(1, one.pad)}d}{to}{by}  {what}{through}"
