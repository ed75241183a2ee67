"""Lists as CSV and XLSX."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from typing import TYPE_CHECKING

from uncus.bill.shown import head_words, shown
from uncus.bill.table import Cell, Column, Subtotal, Table, Unit
from uncus.units import FOOT, Units
from uncus.words import one_line, runs

if TYPE_CHECKING:
    from openpyxl.cell import Cell as XlsxCell
    from openpyxl.worksheet.worksheet import Worksheet

_TAB, _NOT_IN_TABS = 31, frozenset("[]:*?/\\")
_MOST = 32_000  # characters of a cell, which takes 32,767


def _safe(cell: Cell) -> Cell:
    """Text for a file that says of no cell what it is: one line, and nothing that a spreadsheet would run as a
    formula."""
    if not isinstance(cell, str):
        return cell
    plain = one_line(cell)
    return "'" + plain if runs(plain) else plain


def _put(sheet: Worksheet, row: int, column: int, cell: Cell) -> XlsxCell:
    """One cell. Text is said to be text, so that none of it is ever run as a formula."""
    found = sheet.cell(row, column)
    if isinstance(cell, str):
        plain = one_line(cell)[:_MOST]
        found.value = plain
        found.data_type = "s"
        found.quotePrefix = runs(plain)
    else:
        found.value = cell
    return found


def _tab(title: str, there: Sequence[str]) -> str:
    """A name for a sheet of a workbook: short, without what it may not hold, and no other's."""
    plain = "".join("_" if c in _NOT_IN_TABS else c for c in one_line(title)).strip(" '")[:_TAB] or "List"
    known, name, number = {one.casefold() for one in there}, plain, 2
    while name.casefold() in known:
        name, number = f"{plain[: _TAB - 4]} {number}", number + 1
    return name


def csv_bytes(table: Table, units: Units) -> bytes:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([_safe(head_words(c.words, c.unit, units)) for c in table.columns])
    for row in table.rows:
        writer.writerow([_safe(shown(cell, c.unit, units)) for cell, c in zip(row, table.columns, strict=True)])
    return out.getvalue().encode("utf-8")


def _in_feet(column: Column, units: Units) -> bool:
    """Whether lengths go as feet: those that are added up; else feet and inches are words."""
    return column.unit is Unit.LENGTH and column.total and units is Units.IMPERIAL


def _cell(cell: Cell, column: Column, units: Units) -> Cell:
    """A cell for a workbook: numbers are numbers, whatever they measure."""
    if isinstance(cell, str) or column.unit is not Unit.LENGTH:
        return shown(cell, column.unit, units)
    if _in_feet(column, units):
        return round(float(cell) / FOOT, 4)
    return round(float(cell), 1) if units is Units.METRIC else shown(cell, column.unit, units)


def _rows(sheet: Worksheet, table: Table, units: Units) -> None:
    """Rows, those of a group under its head and over their sums, and the sums of all."""
    from openpyxl.styles import Font
    from openpyxl.utils import get_column_letter

    bold, at = Font(bold=True), 3

    def sums(first: int, words: str) -> None:
        for index, column in enumerate(table.columns, 1):
            if column.total:
                letter = get_column_letter(index)  # 9: a sum that leaves out sums within
                sheet.cell(at, index, f"=SUBTOTAL(9,{letter}{first}:{letter}{at - 1})").font = bold
            elif index == 1 and words:
                _put(sheet, at, 1, words).font = bold

    adds = any(c.total for c in table.columns)
    for group in table.groups or (Subtotal("", 0, len(table.rows)),):
        if table.groups:
            _put(sheet, at, 1, group.words or "none").font = bold
            at += 1
        first = at
        for row in table.rows[group.first : group.last]:
            for index, (cell, column) in enumerate(zip(row, table.columns, strict=True), 1):
                _put(sheet, at, index, _cell(cell, column, units))
            at += 1
        if table.groups and adds and at - first > 1:
            sums(first, "")
            at += 1
    if adds and table.rows:
        sums(3, "Total")


def xlsx_bytes(tables: Sequence[Table], units: Units, heading: str) -> bytes:
    """One workbook, a sheet a list: headings kept in view, totals at the foot."""
    from openpyxl import Workbook
    from openpyxl.styles import Alignment, Font
    from openpyxl.utils import get_column_letter

    book = Workbook()
    book.remove(book.active)
    for table in tables:
        sheet = book.create_sheet(_tab(table.title, book.sheetnames))
        _put(sheet, 1, 1, f"{heading}: {table.title}").font = Font(bold=True, size=13)
        for at, c in enumerate(table.columns, 1):
            _put(sheet, 2, at, f"{c.words} (ft)" if _in_feet(c, units) else head_words(c.words, c.unit, units))
        for cell in sheet[2]:
            cell.font = Font(bold=True)
            cell.alignment = Alignment(wrap_text=True, vertical="bottom")
        sheet.freeze_panes = "A3"
        _rows(sheet, table, units)
        for index, column in enumerate(table.columns, 1):
            shown_long = [len(str(_cell(r[index - 1], column, units))) for r in table.rows]
            widest = max([*shown_long, len(column.words) // 2 + 2])
            sheet.column_dimensions[get_column_letter(index)].width = min(40, widest + 3)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
