"""The made-up architect's model of the boathouse, which ships with the sample: slab, walls, doors and windows."""

from __future__ import annotations

import hashlib
from importlib.resources import files
from pathlib import Path

from uncus.job.files import write_beside
from uncus.job.records import Reference

NAME = "Tern Point hall, architect"


def architect_ifc() -> bytes:
    """The model's file, as it ships."""
    return (files(__package__) / "data" / "tern-point-hall.ifc").read_bytes()


def reference_of(job: Path) -> Reference:
    """The record that lays it in beside a job: its own origin is the grid's first crossing."""
    sum = hashlib.sha256(architect_ifc()).hexdigest()
    return Reference(id="reference architect", name=NAME, path=f"{NAME}.ifc", sum=sum)


def write_file(job: Path) -> None:
    """The model's file beside a job. Raises JobError."""
    write_beside(job.with_name(f"{NAME}.ifc"), architect_ifc())
