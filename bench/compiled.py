"""The environment of a program that is installed: its modules' byte code is kept, as an installer leaves it. Without it
a shell that asks Python to write none (PYTHONDONTWRITEBYTECODE) makes every process compile all it imports."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

_KEPT = tempfile.TemporaryDirectory()


def installed() -> dict[str, str]:
    """Of this process and those it starts from now on, all of our modules compiled once."""
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    os.environ["PYTHONPYCACHEPREFIX"] = _KEPT.name
    source = Path(__file__).parent.parent / "src"
    subprocess.run([sys.executable, "-m", "compileall", "-q", str(source)], check=True)
    return dict(os.environ)
