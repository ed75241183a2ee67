"""Faults of the program itself: where one is, and a report of it that holds nothing of the job but ids."""

from __future__ import annotations

import platform
import re
import sys
import traceback
from collections.abc import Iterable
from datetime import datetime
from pathlib import Path

from uncus import __version__

_KEPT = 20  # reports in the folder
_HOME = Path(__file__).parent


def place(error: BaseException) -> str:
    """The innermost line of ours that an error passed through: `connect/shear_tab.py:120 (TypeError)`."""
    frames = traceback.extract_tb(error.__traceback__)
    ours = [f for f in frames if Path(f.filename).is_relative_to(_HOME)] or frames
    where = f"{_shown(ours[-1].filename)}:{ours[-1].lineno}" if ours else "an unknown place"
    return f"{where} ({type(error).__name__})"


def report(error: BaseException, doing: str, ids: Iterable[str]) -> str:
    """A fault in writing: what was done, which records it touched by id, and the way there. What an error says of
    itself may quote the job, so it is left out, as are all values."""
    lines = [
        f"Uncus {__version__}, Python {platform.python_version()}, {platform.system()} {platform.release()}",
        datetime.now().isoformat(timespec="seconds"),
        f"While: {doing}",
        "Records: " + (", ".join(_plain(id) for id in ids) or "none"),
        "",
    ]
    seen: BaseException | None = error
    while seen is not None:
        lines.append(type(seen).__name__)
        lines += [f"  {_shown(f.filename)}:{f.lineno} in {f.name}" for f in traceback.extract_tb(seen.__traceback__)]
        seen = seen.__cause__ or (None if seen.__suppress_context__ else seen.__context__)
    return "\n".join(lines) + "\n"


def keep(folder: Path, text: str) -> Path | None:
    """Keep a report in a folder, of which the newest few stay; None where it cannot be written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        path = folder / f"fault {datetime.now():%Y-%m-%d %H%M%S %f}.txt"
        path.write_text(text, encoding="utf-8")
        for old in sorted(folder.glob("fault *.txt"))[:-_KEPT]:
            old.unlink(missing_ok=True)
    except OSError:
        print(text, file=sys.stderr)
        return None
    return path


def _shown(filename: str) -> str:
    path = Path(filename)
    if path.is_relative_to(_HOME):
        return str(path.relative_to(_HOME))
    return "/".join(path.parts[-2:])


def _plain(id: str) -> str:
    """An id as it may stand in a report: those made of people's words (`sent:B1`) keep only what they are of."""
    uuid = re.search(r"[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}", id)
    return (
        (f"{id.partition(':')[0][:20]}:" if ":" in id else "") + uuid[0] if uuid else re.sub(r"[^a-z ].*", "…", id[:20])
    )
