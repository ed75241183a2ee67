"""Checks on the command line: what is found, how it stands, what is put aside, and topics to and from others."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import msgspec
import typer

from uncus.cli.common import Cluster, JobFile, Lens, app, opened_job, said, sentences, steel, through
from uncus.job.errors import JobError

if TYPE_CHECKING:
    from uncus.check.checking import Told
    from uncus.check.looked import Looked


@app.command()
def check(
    job: JobFile,
    lens: Lens = None,
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
    keep: Annotated[
        bool, typer.Option("--keep", help="Keep what is found, so that the next run says what is solved.")
    ] = False,
    put_aside: Annotated[
        str, typer.Option("--aside", help="Put findings aside, by their numbers, such as 1,3; with --by and --why.")
    ] = "",
    by: Annotated[str, typer.Option(help="Who puts them aside.")] = "",
    why: Annotated[str, typer.Option(help="Why they are put aside.")] = "",
    bcf: Annotated[Path | None, typer.Option(metavar="FILE", help="Write findings and topics as BCF.")] = None,
    bcf_in: Annotated[Path | None, typer.Option(metavar="FILE", help="Take in the topics of a BCF file first.")] = None,
    bcf_version: Annotated[str, typer.Option(help="Of the BCF that is written: 3.0 or 2.1.")] = "3.0",
    cluster: Cluster = "",
) -> None:
    """Look at the whole job: clashes, what holds what, every rule. Exit 1 where something wrong is open, else 0."""
    with sentences():
        from datetime import UTC, date, datetime

        from uncus.check.checking import aside, look, open_first, seen, stand
        from uncus.check.looked import Looked
        from uncus.check.shares import found_elsewhere
        from uncus.deliver.bcf import bcf_bytes, read_bcf
        from uncus.deliver.topics import coming_in, going_out
        from uncus.job.files import writable, write_beside
        from uncus.job.records import Connection, Verdict
        from uncus.lens.criteria import lens_named
        from uncus.shop.cluster import handed_to

        if bcf is not None:
            writable(bcf)
        topics = read_bcf(bcf_in) if bcf_in is not None else []
        if keep and lens:
            raise JobError("A run that keeps what it finds looks at the whole job; leave the lens out.")
        today = date.today().isoformat()
        with handed_to(cluster, said) as make, opened_job(job) as opened:
            shop = steel(opened)
            only = set(through(lens_named(opened, lens).rule, opened, shop)) if lens else None
            for c in opened.all(Connection):
                shop.design(c.id)
            looked = Looked(opened, shop)
            found = look(looked, elsewhere=found_elsewhere(opened, make) if cluster else {})
            if new := coming_in(looked, stand(found, opened.all(Verdict)), topics):
                with opened.change("Topics taken in") as change:
                    for topic in new:
                        change.put(topic)
                looked = Looked(opened, shop, before=looked)
                found = look(looked)

            def standing() -> list[Told]:
                told = stand(found, opened.all(Verdict))
                return [one for one in told if only is None or _concerns(looked, one, only)]

            told = standing()
            listed = list(open_first(told))
            if put_aside:
                chosen = [listed[n - 1].found for n in _numbers(put_aside, len(listed))]
                with opened.change("Findings put aside") as change:
                    for verdict in aside(chosen, by, why, today):
                        change.put(verdict)
                told = standing()
            if keep:
                with opened.change("Findings kept") as change:
                    for verdict in seen(told, today):
                        change.put(verdict)
            content = _content(looked, told)
            if bcf is not None:
                now = datetime.now(UTC).isoformat(timespec="seconds").replace("+00:00", "Z")
                sent = going_out(looked, told, by, now)
                write_beside(bcf, bcf_bytes(sent, opened.project, bcf_version))
        if as_json:
            print(msgspec.json.format(msgspec.json.encode(content), indent=1).decode())
        else:
            _print(looked, told, content)
        wrong = any(one.counts for one in told)
    if wrong:
        raise typer.Exit(1)


def _concerns(looked: Looked, told: Told, only: set[str]) -> bool:
    """Whether a finding is about a piece that a lens lets through."""
    return not only.isdisjoint(looked.members_of(told.found))


def _numbers(text: str, most: int) -> list[int]:
    found = []
    for word in text.split(","):
        if not word.strip().isdigit() or not 1 <= int(word) <= most:
            raise JobError(f"“{word.strip()[:20]}” is no number of an open finding; they go from 1 to {most}.")
        found.append(int(word))
    return found


def _content(looked: Looked, told: list[Told]) -> dict[str, Any]:
    from uncus.check.checking import Stands, open_first

    numbers = {one.found.key: n for n, one in enumerate(open_first(told), 1)}
    return {
        "findings": [
            {
                "number": numbers.get(one.found.key, 0),
                "rule": one.found.rule,
                "about": one.found.about,
                "severity": one.found.severity,
                "stands": one.stands,
                "text": one.found.text,
                "place": looked.place(one.found.at),
                "at_mm": one.found.at,
                "volume_mm3": round(one.found.volume, 1),
                "depth_mm": round(one.found.depth, 3),
                "by": one.verdict.by if one.verdict else "",
                "why": one.verdict.why if one.verdict and one.verdict.stands == "aside" else "",
            }
            for one in told
        ],
        "counts": {stands: sum(one.stands is stands for one in told) for stands in Stands},
        "wrong": sum(one.counts for one in told),
    }


def _print(looked: Looked, told: list[Told], content: dict[str, Any]) -> None:
    """A row for all that is the same, with its places."""
    from uncus.check.checking import alike

    number_of = {one.found.key: listed["number"] for one, listed in zip(told, content["findings"], strict=True)}
    for some in alike(told):
        first = some[0]
        places = "; ".join(dict.fromkeys(place for one in some if (place := looked.place(one.found.at))))
        numbers = ",".join(str(n) for one in some if (n := number_of[one.found.key]))
        head = f"{numbers + '  ' if numbers else ''}{first.found.severity}, {first.stands}"
        print(f"{head}: {first.found.text}{f' ({places})' if places else ''}")
    print(", ".join(f"{number} {stands}" for stands, number in content["counts"].items() if number) or "nothing found")
