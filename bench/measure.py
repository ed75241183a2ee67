"""Measures what the plan promises, for frames of about 100, 500, 2,000 and 10,000 members, and the growth per member
between them.

usage: PYTHONPATH=src python bench/measure.py [--sizes 100,500,2000,10000] [--no-window] [--no-sheets] [--irregular]
Prints one table. Ratios against the work's growth are what count: absolute times depend on the machine. `--irregular`
takes frames of which no two joints are alike.
"""

from __future__ import annotations

import argparse
import gc
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import msgspec

from compiled import installed
from uncus.deliver.ifc import ifc_text
from uncus.deliver.nc import Heading, nc_text
from uncus.deliver.package import DrawWork, done
from uncus.draw.drawn import draw_all
from uncus.draw.legibility import legibility
from uncus.draw.register import register
from uncus.job.job import Job
from uncus.job.records import Connection, Member, Role
from uncus.mark.lines import part_lines
from uncus.mark.marker import Marker
from uncus.mark.marking import Marks, apply, propose
from uncus.mark.sameness import maps
from uncus.sample.frames import frame_of, irregular_of
from uncus.shop import joints
from uncus.shop.batch import each
from uncus.shop.kept import Kept
from uncus.shop.shop import build
from uncus.steel.flat import net_volume

AIM = {
    "marks after one edit / marks": 0.02,
    "one-member edit / full build": 0.01,
    "growth per member": 1.15,
    "600 sheets (PDF), s": 30.0,
    "600 sheets (PDF and DXF), s": 60.0,
}


def timed(work: Callable[[], object], times: int = 1) -> tuple[float, object]:
    """The best of some runs, each from cold caches, since other work on the machine only ever adds."""
    best = float("inf")
    for _ in range(times):
        maps.cache_clear()
        net_volume.cache_clear()
        joints.forget()
        gc.collect()
        start = time.perf_counter()
        result = work()
        best = min(best, time.perf_counter() - start)
    return best, result


def change_joints(job: Job, shop) -> float:  # type: ignore[no-untyped-def]
    """A hundred shear tabs given another thickness in one step, followed through to steel; the best of three."""
    stop = job.follow(shop.follow)
    tabs = [c for c in job.all(Connection) if c.kind == "shear tab"][:100]
    best = float("inf")
    for thickness in (12.7, 9.525, 7.9375):
        start = time.perf_counter()
        with job.change("bench") as change:
            for c in tabs:
                change.put(msgspec.structs.replace(c, params={**c.params, "thickness": thickness}))
        best = min(best, time.perf_counter() - start)
    for _ in range(3):
        job.undo()
    stop()
    return best


def edit_time(job: Job, shop) -> float:  # type: ignore[no-untyped-def]
    """The median of twenty section changes, each followed through to steel."""
    stop = job.follow(shop.follow)
    beams = [m for m in job.all(Member) if m.role is Role.BEAM][:: max(1, len(shop.assemblies) // 25)][:20]
    times = []
    for beam in beams:
        other = "W12X30" if beam.section != "W12X30" else "W12X26"
        start = time.perf_counter()
        with job.change("bench") as change:
            change.put(msgspec.structs.replace(beam, section=other))
        times.append(time.perf_counter() - start)
    for _ in beams:
        job.undo()
    stop()
    return sorted(times)[len(times) // 2]


def marks_time(job: Job, shop) -> float:  # type: ignore[no-untyped-def]
    """The median of twenty section changes, each followed through to a new proposal; the shop's own work left out."""
    marker, spent = Marker(job, shop), 0.0
    marker.proposal()

    def follow(delta) -> None:  # type: ignore[no-untyped-def]
        nonlocal spent
        touched = shop.follow(delta)
        start = time.perf_counter()
        marker.follow(delta, touched)
        marker.proposal()
        spent = time.perf_counter() - start

    stop = job.follow(follow)
    times = []
    for beam in [m for m in job.all(Member) if m.role is Role.BEAM][:20]:
        with job.change("bench") as change:
            change.put(msgspec.structs.replace(beam, section="W12X30" if beam.section != "W12X30" else "W12X26"))
        times.append(spent)
    for _ in times:
        job.undo()
    stop()
    return sorted(times)[len(times) // 2]


def sheets_time(job: Job, shop, dxf: bool, wanted: int = 600) -> tuple[float, int]:  # type: ignore[no-untyped-def]
    """Seconds for `wanted` entries as PDF (and DXF) in worker processes; they are repeated up to that count and
    drawn anew each time."""
    entries, outputs = register(job, shop), ("sheets", "dxf") if dxf else ("sheets",)
    jobs = ([(e.job, e.kind) for e in entries] * (wanted // len(entries) + 1))[:wanted]
    start = time.perf_counter()
    made = list(each(done, [DrawWork(job, kind, outputs) for job, kind in jobs]))
    failures = [d.failure for d in made if d.failure]
    if failures:
        raise SystemExit(failures[0])
    return time.perf_counter() - start, len(made)


def _opened(path: Path) -> int:
    with Job.open(path) as job:
        return len(job.records)


def window_rate(records_path: Path) -> str:
    """Frames a second while orbiting, measured in a process of its own under a virtual screen."""
    command = [
        "xvfb-run",
        "-a",
        "-s",
        "-screen 0 1280x800x24",
        sys.executable,
        str(Path(__file__).with_name("orbit.py")),
        str(records_path),
    ]
    environment = {**os.environ, "QT_QPA_PLATFORM": "xcb", "LIBGL_ALWAYS_SOFTWARE": "1"}
    done = subprocess.run(command, capture_output=True, text=True, env=environment)
    return done.stdout.strip() or f"not measured: {done.stderr.strip().splitlines()[-1:]}"


def kept_time(job: Job) -> float:
    """Seconds of a build whose joints were made before and are kept on disk."""
    with tempfile.TemporaryDirectory() as folder:
        kept = Kept(Path(folder))
        build(job, kept=kept)
        kept.close()

        def again() -> None:
            kept = Kept(Path(folder))
            build(job, kept=kept)
            kept.close()

        return timed(again, 2)[0]


def opened(path: Path, cache: str) -> dict[str, float]:
    """What `opening.py` prints, in a process of its own under a virtual screen."""
    run = [sys.executable, str(Path(__file__).with_name("opening.py")), str(path), cache]
    command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", *run]
    environment = {**os.environ, "QT_QPA_PLATFORM": "xcb", "LIBGL_ALWAYS_SOFTWARE": "1"}
    done = subprocess.run(command, capture_output=True, text=True, env=environment, check=True)
    return msgspec.json.decode(done.stdout.splitlines()[-1])  # type: ignore[no-any-return]


def summary_time(path: Path, cache: str) -> float:
    """Seconds of `uncus summary` from a cold process."""
    start = time.perf_counter()
    subprocess.run([sys.executable, "-m", "uncus", "summary", str(path)], capture_output=True, check=True,
        env={**os.environ, "XDG_CACHE_HOME": cache})  # fmt: skip
    return time.perf_counter() - start


def produce_time(job: Job) -> float:
    """Seconds of `uncus produce`, all of it from a cold process that nothing is kept for."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bench.uncus"
        Job.create(path, job.records.values()).close()
        start = time.perf_counter()
        subprocess.run([sys.executable, "-m", "uncus", "produce", str(path), "--out", f"{folder}/out"],
            capture_output=True, check=True, env={**os.environ, "XDG_CACHE_HOME": f"{folder}/cache"})  # fmt: skip
        return time.perf_counter() - start


def measure(size: int, window: bool, sheets: bool, irregular: bool) -> dict[str, float | str]:
    records = irregular_of(size) if irregular else frame_of(size)
    row: dict[str, float | str] = {}
    job = Job(records)
    seconds, shop = timed(lambda: build(job), 2)
    members = len(shop.assemblies)  # type: ignore[attr-defined]
    row["members"], row["parts"] = members, sum(1 for _ in shop.pieces())  # type: ignore[attr-defined]
    row["full build, s"] = seconds
    row["build of kept joints, s"] = kept_time(job)
    row["kept / full build"] = float(row["build of kept joints, s"]) / seconds
    row["one-member edit, ms"] = edit_time(job, shop) * 1000
    row["100 joints changed at once, s"] = change_joints(job, shop)
    row["one-member edit / full build"] = float(row["one-member edit, ms"]) / 1000 / seconds
    if sheets:
        sheets_rows(row, job, shop)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "bench.uncus"
        Job.create(path, job.records.values()).close()
        row["open, s"], _ = timed(lambda: _opened(path), 3)
        row["file, MB"] = path.stat().st_size / 1e6
        cache = f"{folder}/cache"
        row["summary, s"], row["summary again, s"] = summary_time(path, cache), summary_time(path, cache)
        if window:
            row["frames a second, orbiting"] = window_rate(path)
            row |= opened(path, f"{folder}/window")
            again = opened(path, f"{folder}/window")
            row["opened again: all steel, s"] = again["all steel in the window, s"]
    row["peak memory, MB"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return row


def sheets_rows(row: dict[str, float | str], job: Job, shop) -> None:  # type: ignore[no-untyped-def]
    """Marks, sheets, NC and IFC of a job."""
    row["marks, s"], proposal = timed(lambda: propose(job, shop), 3)  # type: ignore[arg-type]
    apply(job, proposal)  # type: ignore[arg-type]
    row["marks after one edit, ms"] = marks_time(job, shop) * 1000
    row["marks after one edit / marks"] = float(row["marks after one edit, ms"]) / 1000 / float(row["marks, s"])
    row["register, s"], entries = timed(lambda: register(job, shop), 3)  # type: ignore[arg-type]
    row["sheets in the register"] = len(entries)  # type: ignore[arg-type]
    row["600 sheets (PDF), s"], _ = sheets_time(job, shop, False)
    row["600 sheets (PDF and DXF), s"], _ = sheets_time(job, shop, True)
    read = [legibility(s) for e in entries if e.kind != "erection" for s in draw_all(e.job)]  # type: ignore[attr-defined]
    row["sheets that read clean"] = sum(one.clean for one in read) / len(read)
    row["cost of a sheet"] = sum(one.cost for one in read) / len(read)
    lines = part_lines(shop.assemblies.values(), Marks(job))  # type: ignore[attr-defined]
    row["NC files, s"], texts = timed(lambda: [nc_text(x.first.part, Heading("1", "1", x.mark, 1)) for x in lines])
    row["NC files"] = len(texts)  # type: ignore[arg-type]
    row["IFC, s"], _ = timed(lambda: ifc_text(job, shop, Marks(job)))  # type: ignore[arg-type]
    row["produce, s"] = produce_time(job)


def in_own_process(size: str, given: argparse.Namespace) -> dict[str, float | str]:
    """One size measured in a fresh process, so that what one leaves in memory does not slow the next."""
    flags = [f"--{name.replace('_', '-')}" for name in ("no_window", "no_sheets", "irregular") if getattr(given, name)]
    command = [sys.executable, __file__, "--one", size, *flags]
    return msgspec.json.decode(subprocess.run(command, capture_output=True, text=True, check=True).stdout)


def main() -> None:
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--sizes", default="100,500,2000,10000")
    for name in ("--no-window", "--no-sheets", "--irregular"):
        words.add_argument(name, action="store_true")
    words.add_argument("--one", type=int, help="measure one size and print it as JSON")
    given = words.parse_args()
    installed()
    if given.one:
        print(
            msgspec.json.encode(measure(given.one, not given.no_window, not given.no_sheets, given.irregular)).decode()
        )
        return
    rows = [in_own_process(size, given) for size in given.sizes.split(",")]
    names = list(rows[0])
    print(f"{'':34}" + "".join(f"{r['members']:>14} " for r in rows))
    for name in names[1:]:
        print(
            f"{name:34}"
            + "".join(f"{r[name]:>14.4g} " if isinstance(r[name], float) else f"{r[name]:>14} " for r in rows)
        )
    if len(rows) > 1:
        print("\ngrowth per member (time per member at the larger size over that at the smaller)")
        for name in [n for n in names if n.endswith(", s")]:
            steps = [
                (float(b[name]) / float(b["members"])) / (float(a[name]) / float(a["members"]))
                for a, b in zip(rows, rows[1:], strict=False)
            ]
            print(f"{name:34}{'':>14} " + "".join(f"{s:>14.2f} " for s in steps))
    print("\naims: " + ", ".join(f"{k} under {v:g}" for k, v in AIM.items()))


if __name__ == "__main__":
    main()
