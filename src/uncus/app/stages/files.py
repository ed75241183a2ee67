"""Files that panels ask for, and lists as the files they are written to."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from uncus.bill.printed import printed
from uncus.bill.table import Table
from uncus.job.files import file_name
from uncus.job.job import Job


def open_file(parent: QWidget, title: str, kinds: str) -> Path | None:
    found, _ = QFileDialog.getOpenFileName(parent, title, "", kinds)
    return Path(found) if found else None


def save_file(parent: QWidget, title: str, offer: str, kinds: str) -> Path | None:
    found, _ = QFileDialog.getSaveFileName(parent, title, offer, kinds)
    return Path(found) if found else None


def folder_for(parent: QWidget, title: str) -> Path | None:
    found = QFileDialog.getExistingDirectory(parent, title)
    return Path(found) if found else None


def files_of(tables: Sequence[Table], job: Job, folder: Path) -> dict[Path, bytes]:
    """Lists as PDF and CSV each, and as one workbook."""
    from uncus.deliver.pdf import pdf_bytes
    from uncus.deliver.tables import csv_bytes, xlsx_bytes

    units = job.project.units
    words = "   ".join(filter(None, (job.project.name, job.project.number)))
    found = {}
    for table in tables:
        name = file_name(table.name)
        found[folder / f"{name}.pdf"] = pdf_bytes(*printed(table, units, words))
        found[folder / f"{name}.csv"] = csv_bytes(table, units)
    found[folder / f"{file_name(tables[0].name)}.xlsx"] = xlsx_bytes(tables, units, words)
    return found
