#!/usr/bin/env python3
"""Tries to lose or break a job: kills while it is written, bytes of its file changed, records forged, texts of every
kind.

usage: PYTHONPATH=src python tools/fuzz.py [--minutes 20] [--seed 1] [--only kills,bytes,records,texts]
Prints what was tried and every fault with the seed that repeats it; ends with 1 where there is one.
"""

from __future__ import annotations

import argparse
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

import msgspec

from uncus.connect import standards
from uncus.draw import preset, template
from uncus.draw.above import above
from uncus.frame.planes import level_plane
from uncus.frame.typed import typed_point
from uncus.job import logs
from uncus.job.errors import JobError
from uncus.job.files import file_name, text_of
from uncus.job.forms import fields, typed_value
from uncus.job.job import Job
from uncus.job.records import Connection, Grid, Level, Loads, MarkRules, ShopRules
from uncus.job.schema import head_of, sum_of, total_of
from uncus.lens import criteria, grammar
from uncus.lens.facts import FACTS, Known
from uncus.mark import standards as standard_parts
from uncus.mark.marking import Marks, apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import Shop, build
from uncus.units import (
    UnitError,
    Units,
    parse_angle,
    parse_force,
    parse_length,
    parse_lengths,
    parse_moment,
    parse_stress,
)

SLOW = 1.0  # s within which any text is read or refused
SENTENCE = 700  # characters of what is said of it


class Fault(Exception):
    """What was found, in words."""


# -- kills ---------------------------------------------------------------------------------------------

WRITER = """
import sys
from pathlib import Path
from uncus.job.job import Job
from uncus.job.records import Level
path, copy = Path(sys.argv[1]), Path(sys.argv[2])
with Job.open(path) as job:
    n = len(job.all(Level))
    while True:
        with job.change(f"level {n}") as change:
            change.put(Level(id=f"level {n}", name=f"L{n} " + "x" * (n * 97 % 3000), elevation=float(n)))
            if n % 5 == 4:  # a large change, through the cache and onto the disk before it is finished
                for k in range(n - 4, n):
                    change.put(Level(id=f"level {k}", name=f"L{k} again " + "y" * 9000, elevation=float(n)))
        print(n, flush=True)
        n += 1
        if n % 7 == 0:
            job.undo()
            job.redo()
        if n % 11 == 0:
            job.save_copy(copy, replace=True)
"""


def kills(rng: random.Random, folder: Path) -> Iterator[str]:
    """A process that writes is killed at any moment: what it had finished is there; and a copy of another day put back
    under what the kill left is that copy, or the very state that was killed."""
    path, copy, day = folder / "a.uncus", folder / "copy.uncus", folder / "day"
    Job.create(path).close()
    last, then = -1, {}
    while True:
        if last > 400:
            path.unlink(), copy.unlink(missing_ok=True), day.unlink(missing_ok=True)
            Job.create(path).close()
            last, then = -1, {}
        writer = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path), str(copy)],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
        )
        assert writer.stdout is not None and writer.stderr is not None
        first = writer.stdout.readline()
        if not first:
            raise Fault(f"the writer did not begin: {writer.stderr.read()[-400:]}")
        time.sleep(rng.random() * 0.05)
        writer.kill()
        said = [int(first), *(int(line) for line in writer.stdout.read().split() if line.isdigit())]
        writer.communicate()
        last = max(said)
        journal = logs.beside(path, "-journal")
        left = journal.read_bytes() if journal.exists() else b""
        file = path.read_bytes()
        with Job.open(path) as job:
            if job.notes or job.aside:
                raise Fault(f"a kill left {job.notes} {job.aside}")
            now = dict(job.records)
            while job.redo():  # cut between an undo and its redo
                pass
            there = {one.id for one in job.all(Level)}
        if not {f"level {n}" for n in range(last + 1)} <= there or len(there) > last + 2:
            raise Fault(f"{last + 1} levels were finished, {len(there)} are there")
        if copy.exists():
            with Job.open(copy) as job:
                if job.notes or job.aside:
                    raise Fault(f"the saved copy says {job.notes} {job.aside}")
        yield "kill"
        if then and left:
            shutil.copyfile(day, path)
            journal.write_bytes(left)
            with Job.open(path) as job:
                if dict(job.records) not in (then, now):
                    raise Fault("a copy put back after a kill is a mixture of days")
            path.write_bytes(file)
            journal.write_bytes(left)
            yield "copy put back"
        with Job.open(path):
            pass
        if rng.random() < 0.3:
            shutil.copyfile(path, day)
            with Job.open(path) as job:
                then = dict(job.records)


# -- bytes ---------------------------------------------------------------------------------------------


def _changed(rng: random.Random, data: bytes) -> bytes:
    at, size = rng.randrange(len(data)), rng.choice([1, 1, 1, 2, 16, 500, 5000])
    page, other = (rng.randrange(len(data) // 4096) * 4096 for _ in range(2))
    match rng.randrange(8):
        case 0 | 1 | 2:
            return data[:at] + bytes([data[at] ^ 1 << rng.randrange(8)]) + data[at + 1 :]
        case 3:
            return data[:at] + rng.randbytes(size) + data[at + size :]
        case 4:
            return data[:at]
        case 5:
            return data[:page] + data[other : other + 4096] + data[page + 4096 :]
        case 6:
            return data[:at] + rng.randbytes(size) + data[at:]
        case _:
            return data[:at] + bytes(min(size, len(data) - at)) + data[at + size :]


def changed_bytes(rng: random.Random, folder: Path) -> Iterator[str]:
    """A file with bytes changed is refused in a sentence, or opened with what it lost told; what is shown is as it
    was."""
    good, path = folder / "good.uncus", folder / "bad.uncus"
    records = [*frame(2, 1), *(Level(id=f"l{n}", name="x" * 200, elevation=float(n)) for n in range(60))]
    with Job.create(good, records) as job:
        for n in range(20):
            with job.change(f"level {n}") as change:
                change.put(Level(id=f"l{n}", name=f"again {n}", elevation=float(n)))
        kept, older = dict(job.records), {r.id: r for r in records}
    data = good.read_bytes()
    while True:
        path.write_bytes(_changed(rng, data))
        try:
            with Job.open(path) as job:
                shown, told = dict(job.records), bool(job.notes or job.aside)
                with _sentences():
                    while job.undo():
                        pass
        except JobError as error:
            _short(error)
            yield "refused"
            continue
        finally:
            logs.beside(path, "-journal").unlink(missing_ok=True)
        if shown != kept and not told:
            raise Fault("another job was shown as if nothing were")
        if any(record != kept.get(id) and record != older.get(id) for id, record in shown.items()):
            raise Fault("a record was shown that never was")
        yield "told" if told else "made no difference"


# -- records -------------------------------------------------------------------------------------------

_VALUES = [
    None, True, 0, -1, 1e300, -1e-300, 10**25, "", "x" * 5000, "B\0", "../../victim", "=cmd|1", "\x0b", "😀", "W12X26",
        "W99X9", "é",
    [], {}, [[]] * 50, [0, 0, 0], [1e9, 0, 0], {"a": {"b": []}}, "3@24'", "-5", float(2**63), "right", "3/4", "\r\n",
]  # fmt: skip


def _places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    found = [path] if path else []
    if isinstance(value, dict):
        return found + [p for k, v in value.items() for p in _places(v, (*path, k))]
    if isinstance(value, list):
        return found + [p for k, v in enumerate(value[:9]) for p in _places(v, (*path, k))]
    return found


def _forged(rng: random.Random, body: bytes) -> bytes:
    value = msgspec.json.decode(body)
    for _ in range(rng.choice([1, 1, 1, 2, 4])):
        place = rng.choice(_places(value))
        if place in (("id",), ("type",)) and rng.random() < 0.9:
            continue
        holder = value
        for key in place[:-1]:
            holder = holder[key]
        new = rng.choice(_VALUES)
        if isinstance(holder[place[-1]], float | int) and rng.random() < 0.6:
            new = rng.choice([-1, 0, 0.001, 1, 7, 1e3, 1e5, 9e6, -300.0, 1e-9]) * (1 + rng.random())
        holder[place[-1]] = new
    if rng.random() < 0.05:
        value["more"] = rng.choice(_VALUES)
    return msgspec.json.encode(value)


def forge(path: Path, rng: random.Random) -> None:
    """Change some records as a careful forger would: every sum is made right."""
    with closing(sqlite3.connect(path, isolation_level=None)) as db:
        rows = db.execute("SELECT place, id, body FROM records").fetchall()
        for place, id, body in rng.sample(rows, rng.choice([1, 1, 2, 5])):
            new = _forged(rng, body)
            db.execute("UPDATE records SET body = ?, sum = ? WHERE place = ?", (new, sum_of(id, place, new), place))
        head = head_of(db)
        assert head is not None
        head = msgspec.structs.replace(head, total=total_of(db))
        db.execute("UPDATE head SET number = ?, turn = ?, last = ?, total = ?, sum = ?", head.row)


def forged_records(rng: random.Random, folder: Path) -> Iterator[str]:
    """Forged records are set aside or become findings on their pieces; steel, marks and lists are made all the same."""
    from uncus.cli import _summary
    from uncus.deliver.calculation import calculation_pdf, sheets_of
    from uncus.deliver.package import produce

    good, path, out = folder / "good.uncus", folder / "forged.uncus", folder / "out" / "package"
    memory = Job(frame(2, 1))
    apply(memory, propose(memory, build(memory)))
    Job.create(good, memory.records.values()).close()
    while True:
        shutil.copyfile(good, path)
        forge(path, rng)
        with Job.open(path) as job:
            shop = build(job)
            _no_faults(shop)
            follower = build(job)
            job.follow(follower.follow)
            with _sentences():
                apply(job, propose(job, shop))
            msgspec.json.encode(_summary(job, shop))
            Marks(job, shop.carried)
            known = Known.of(job, shop, above(job, shop)())
            some = rng.sample(sorted(shop.assemblies), min(6, len(shop.assemblies)))
            for asked in FACTS.values():
                for id in some:
                    read = asked.read(known, shop.assemblies[id])
                    assert isinstance(read, float) or all(isinstance(word, str) for word in read)
            if rng.random() < 0.3:
                calculation_pdf("fuzz", sheets_of(job, shop, rng.choices(job.all(Connection), k=6)))
            if rng.random() < 0.1:
                with _sentences():
                    made = produce(
                        job, out, only=["nc", "bills"] if rng.random() < 0.9 else ["sheets", "ifc"], shop=shop
                    )
                    if ours := [f for f in made.failures if "Error" in f]:
                        raise Fault(ours[0])
            outside = [p.name for p in folder.rglob("*victim*") if not p.is_relative_to(out)]
            if outside or any(p.suffix in (".nc1", ".pdf") and not p.is_relative_to(out) for p in folder.rglob("*")):
                raise Fault(f"something was written outside the package: {outside}")
            yield "set aside" if job.aside else "finding" if shop.all_findings else "taken"


def _no_faults(shop: Shop) -> None:
    for finding in shop.all_findings:
        if "fault of the program" in finding.text:
            raise Fault(finding.text)


# -- texts ---------------------------------------------------------------------------------------------

_PIECES = [
    "12'-6 1/2", "12-6.5", '150.5"', "3825mm", "3.825m", "(", ")", "((((", "+", "-", "*", "/", "@", ",", " at ", "30",
        "4:12", "2/B", "origin", "'",
    '"', "°", "k", "kips", "kN", "mm", "9" * 40, "9" * 5000, "0", "/0", ".", "..", "e9", "nan", "inf", "\0", "\r",
        "\n", "\t", "\x0b", "é", "²", "١٢",
    "“", "”", "role is beam", " and ", " or ", " not ", "weight over 200 lb", "section begins W12", "[", "]", "{", "}",
        ":", "<svg", "<!ENTITY a 'b'>",
    "width='420mm'", "\ud800", "\u202e", "../", "=cmd|1", "W12X26", "x" * 300, " " * 2000, "1 " * 300, "null", "true",
        '{"lenses":[', '{"type":"Lens","name":',
]  # fmt: skip

LIST_OF_READERS: list[tuple[str, Callable[[str], object]]] = [
    *((name, lambda t, f=f, u=u: f(t, u)) for u in Units for name, f in (  # type: ignore[misc]
        ("length", parse_length), ("lengths", parse_lengths), ("force", parse_force), ("moment", parse_moment),
            ("stress", parse_stress))),
    ("angle", parse_angle),
    ("lens", lambda t: grammar.write(grammar.read(t))),
    ("point", lambda t: typed_point(t, level_plane(Level(name="g", elevation=0)), Grid(), Units.IMPERIAL, None, None)),
    ("template", lambda t: template.read(t, "t")),
    ("standards", lambda t: standards.from_json(t.encode("utf-8", "surrogatepass"))),
    ("presets", lambda t: preset.from_json(t.encode("utf-16", "surrogatepass"))),
    ("lenses", lambda t: criteria.from_json(t.encode("utf-8", "replace"))),
    ("parts", lambda t: standard_parts.from_json(t.encode("latin-1", "replace"))),
    ("text", lambda t: text_of(t.encode("latin-1", "replace"))),
    ("name", file_name),
    *((f"field {name}", lambda t, a=a: typed_value(a, t, Units.METRIC))  # type: ignore[misc]
      for struct in (ShopRules, MarkRules, Loads) for name, a in fields(struct).items()),
]  # fmt: skip


def texts(rng: random.Random, folder: Path) -> Iterator[str]:
    """Any text typed or read is taken or refused in one short sentence, at once."""
    while True:
        text = "".join(rng.choice(_PIECES) for _ in range(rng.choice([1, 2, 3, 5, 9, 30])))
        if rng.random() < 0.1:
            text = "".join(chr(rng.randrange(1, 0x3000)) for _ in range(rng.randrange(1, 200)))
        if rng.random() < 0.02:
            text = text * rng.choice([10, 200])
        name, reader = rng.choice(LIST_OF_READERS)
        began = time.process_time()
        try:
            reader(text)
            outcome = "taken"
        except (JobError, UnitError, LookupError) as error:
            if type(error) in (KeyError, IndexError, LookupError):
                raise
            _short(error)
            outcome = "refused"
        if (took := time.process_time() - began) > SLOW:
            raise Fault(f"{name}: {took:.1f} s for {text[:80]!r} ({len(text)} characters)")
        yield outcome


def _short(error: Exception) -> None:
    words = str(error)
    if not words or len(words) > SENTENCE or "\n" in words or "Traceback" in words:
        raise Fault(f"not one short sentence: {words[:200]!r} ({len(words)} characters)")


@contextmanager
def _sentences() -> Iterator[None]:
    try:
        yield
    except JobError as error:
        _short(error)


# -- running -------------------------------------------------------------------------------------------

PARTS: dict[str, Callable[[random.Random, Path], Iterator[str]]] = {
    "kills": kills,
    "bytes": changed_bytes,
    "records": forged_records,
    "texts": texts,
}


def run(part: str, seed: int, seconds: float = 1e9, most: int = 10**9) -> tuple[Counter[str], list[str]]:
    """Try one part for so long or so often; what came of it, and the faults."""
    counts: Counter[str] = Counter()
    faults: list[str] = []
    end, number = time.monotonic() + seconds, 0
    while time.monotonic() < end and sum(counts.values()) < most and len(faults) < 20:
        number += 1
        with tempfile.TemporaryDirectory(prefix="uncus-fuzz-") as folder:
            try:
                for outcome in PARTS[part](random.Random(f"{seed}/{number}"), Path(folder)):
                    counts[outcome] += 1
                    if time.monotonic() > end or sum(counts.values()) >= most:
                        break
            except Exception as error:
                from uncus.faults import place

                kind = "" if isinstance(error, Fault) else f"{type(error).__name__} at {place(error)}: "
                faults.append(f"{part}, seed {seed}/{number}, after {sum(counts.values())}: {kind}{str(error)[:300]}")
    return counts, faults


def main() -> int:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--minutes", type=float, default=1.0)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--only", default=",".join(PARTS))
    given = asked.parse_args()
    parts = given.only.split(",")
    found = 0
    for part in parts:
        counts, faults = run(part, given.seed, given.minutes * 60 / len(parts))
        print(
            f"{part}: {sum(counts.values())} tried: " + ", ".join(f"{n} {what}" for what, n in counts.most_common()),
            flush=True,
        )
        for fault in faults:
            print(f"  FAULT {fault}", flush=True)
        found += len(faults)
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
