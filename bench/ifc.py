"""The IFC writer against ifcopenshell making the same entities bare, in one run; and its file read back.

    PYTHONPATH=src python bench/ifc.py [--bays 12]

`ifcopenshell` is given each entity's class and attributes ready made: only its own calls are timed.
"""

import argparse
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.validate

from uncus.deliver.ifc import ifc_text
from uncus.job.job import Job
from uncus.mark.marking import Marks, apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import build

AIM = 0.2  # of the peer's time


def bare(model: ifcopenshell.file) -> float:
    """Seconds that ifcopenshell takes to make a model's entities, nothing else."""
    found = sorted((e for e in model), key=lambda e: e.id())
    listed = [(e.id(), e.is_a(), list(e)) for e in found]
    made: dict[int, Any] = {}
    new, spent = ifcopenshell.file(schema="IFC4"), 0.0

    def own(value: Any) -> Any:
        if isinstance(value, ifcopenshell.entity_instance):
            return made[value.id()] if value.id() else new.create_entity(value.is_a(), *value)
        return tuple(own(v) for v in value) if isinstance(value, tuple) else value

    for number, kind, values in listed:
        ready = [own(v) for v in values]
        start = time.perf_counter()
        made[number] = new.create_entity(kind, *ready)
        spent += time.perf_counter() - start
    return spent


def main() -> int:
    words = argparse.ArgumentParser(description=__doc__.partition("\n")[0])
    words.add_argument("--bays", type=int, default=12, help="bays each way of the frame")
    words.add_argument("--rules", action="store_true", help="hold the file against the schema's own rules")
    given = words.parse_args()
    job = Job(frame(given.bays, given.bays))
    shop = build(job)
    apply(job, propose(job, shop))
    marks = Marks(job)
    start = time.perf_counter()
    text = ifc_text(job, shop, marks)
    ours = time.perf_counter() - start
    start = time.perf_counter()
    model = ifcopenshell.file.from_string(text)
    read = time.perf_counter() - start
    peer = bare(model)
    print(f"{len(shop.assemblies)} members, {text.count(chr(10))} lines, {len(text) / 1e6:.1f} MB")
    print(f"written in {ours:.2f} s, read back in {read:.2f} s; the same entities bare by ifcopenshell {peer:.2f} s")
    print(f"{ours / peer:.3f} of the peer's time (aim {AIM})")
    wrong = 0
    if given.rules:
        start = time.perf_counter()
        log = ifcopenshell.validate.json_logger()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.ifc"
            path.write_text(text)
            ifcopenshell.validate.validate(ifcopenshell.open(str(path)), log, express_rules=True)
        wrong = len(log.statements)
        print(f"rules of the schema: {wrong} broken ({time.perf_counter() - start:.0f} s)")
    return int(ours > AIM * peer or wrong > 0)


if __name__ == "__main__":
    sys.exit(main())
