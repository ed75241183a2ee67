"""What a reading process does whatever it reads: it keeps to its memory, says how far it is, and writes all or
nothing."""

from __future__ import annotations

import os
import resource
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from uncus.reference.model import Model


class Refused(Exception):
    """Why a file is not read, in words that follow its name."""


def tell(**words: Any) -> None:
    """A line of progress, or of what went wrong, for who started this process."""
    sys.stdout.write(msgspec.json.encode(words).decode() + "\n")
    sys.stdout.flush()


def within(megabytes: int) -> None:
    """Keep this process to so much memory, and let others go before it."""
    limit = megabytes * 1_000_000
    resource.setrlimit(resource.RLIMIT_AS, (limit, limit))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.nice(5)  # whoever waits for it is looking at a window


def surroundings() -> dict[str, str]:
    """The environment of such a process: it finds what this one finds, and keeps to one core."""
    single = dict.fromkeys(("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"), "1")
    return {**os.environ, **single, "PYTHONPATH": os.pathsep.join(p for p in sys.path if p)}


def run(read: Callable[[Path], Model]) -> None:
    """Read the file that the command names within its megabytes, write what was read, and end."""
    path, out, megabytes = sys.argv[1:4]
    within(int(megabytes))
    code = 0
    try:
        tell(step="opening", done=0, of=0)
        packed = read(Path(path)).packed()
        part = Path(f"{out}.part")
        part.write_bytes(packed)
        os.replace(part, out)
        tell(step="done", done=1, of=1)
    except Refused as refused:
        tell(refused=str(refused))
        code = 3
    except MemoryError:
        tell(memory=True)
        code = 4
    except RecursionError:
        tell(refused="is nested too deeply to be read")
        code = 3
    sys.stdout.flush()
    os._exit(code)  # nothing is to be taken apart: a reader's own end may fail where the file was strange
