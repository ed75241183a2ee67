"""What a start does not wait for: packages that are slow to import are imported where they are used."""

import subprocess
import sys

import pytest

SLOW = frozenset(("scipy", "networkx", "ezdxf", "reportlab", "openpyxl", "ifcopenshell", "fontTools", "PIL", "bcf"))
QT = frozenset(("PySide6", "moderngl"))


@pytest.mark.parametrize(
    ("modules", "without"),
    [
        ("uncus.cli, uncus.mark.marking, uncus.mark.lines, uncus.shop.shop", SLOW | QT),  # a summary of an empty job
        ("uncus.shop.batch, uncus.deliver.package", SLOW | QT),  # a worker
        ("uncus.app.main, uncus.app.window", SLOW),
    ],
)
def test_a_start_waits_for_no_slow_package(modules: str, without: frozenset[str]) -> None:
    told = subprocess.run(
        [sys.executable, "-c", f"import sys, {modules}; print(*sys.modules)"],
        capture_output=True,
        text=True,
        check=True,
    )
    assert sorted(without & set(told.stdout.split())) == []
