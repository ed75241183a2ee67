"""Files written beside their place and moved into it: whole, or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from uncus.job.errors import JobError


def write_beside(path: Path, data: bytes) -> None:
    """Write a file so that it is either all there or as it was. Raises JobError with why it cannot be."""
    beside: str | None = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, beside = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as out:
            out.write(data)
        os.replace(beside, path)
    except OSError as error:
        if beside is not None:
            Path(beside).unlink(missing_ok=True)
        raise JobError(f"{path} cannot be written: {error.strerror}.") from None
