"""Lists as the files they are written to."""

from __future__ import annotations

from collections.abc import Sequence

from uncus.bill.printed import printed
from uncus.bill.table import Table
from uncus.job.files import file_name
from uncus.job.job import Job

BOOK = "lists.xlsx"


def list_files(tables: Sequence[Table], job: Job) -> dict[str, bytes]:
    """PDF and CSV of each list, and all of them in one workbook, by name."""
    from uncus.deliver.pdf import pdf_bytes  # these import for a third of a second each
    from uncus.deliver.tables import csv_bytes, xlsx_bytes

    units = job.project.units
    words = "   ".join(filter(None, (job.project.name, job.project.number)))
    found = {}
    for table in tables:
        name = file_name(table.name)
        found[f"{name}.pdf"] = pdf_bytes(*printed(table, units, words))
        found[f"{name}.csv"] = csv_bytes(table, units)
    found[BOOK] = xlsx_bytes(tables, units, words)
    return found
