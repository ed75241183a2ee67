"""Sheets on paper through the desktop's own print dialog, painted from the same list of primitives as on the screen."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
from PySide6.QtCore import QMarginsF, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrintPreviewDialog
from PySide6.QtWidgets import QWidget

from uncus.app.sheet.sheet_view import paint
from uncus.draw.sheet import UNPRINTED, Sheet, Text
from uncus.units import INCH

_TRUE = 0.02  # share by which a paper may differ and the sheet is still printed true to its scale


def set_out(printer: QPrinter, sheet: Sheet) -> None:
    """Give a printer the paper of a sheet, without margins: a sheet has its own border."""
    sides = sorted((sheet.width, sheet.height))
    size = QPageSize(QSizeF(*sides), QPageSize.Unit.Millimeter, "", QPageSize.SizeMatchPolicy.FuzzyMatch)
    printer.setPageSize(size)
    printer.setFullPage(True)
    printer.setPageMargins(QMarginsF(0, 0, 0, 0))
    _turn(printer, sheet)


def _turn(printer: QPrinter, sheet: Sheet) -> None:
    wide = QPageLayout.Orientation.Landscape if sheet.width > sheet.height else QPageLayout.Orientation.Portrait
    printer.setPageOrientation(wide)


def print_sheets(printer: QPrinter, sheets: Sequence[Sheet]) -> float:
    """Print sheets, a page each; on other paper than theirs as large as it takes them. The least share of its size that
    one was printed at."""
    least = 1.0
    painter: QPainter | None = None
    for sheet in sheets:
        _turn(printer, sheet)
        if painter is None:
            painter = QPainter(printer)
        else:
            printer.newPage()
        dots = printer.resolution() / INCH
        page = printer.pageLayout().fullRectPixels(printer.resolution())
        share = min(page.width() / dots / sheet.width, page.height() / dots / sheet.height)
        share = 1.0 if abs(share - 1) < _TRUE or share > 1 else share
        least = min(least, share)
        painter.save()
        painter.scale(dots * share, dots * share)
        paint(painter, printed(sheet))
        painter.restore()
    if painter is not None:
        painter.end()
    return least


def printed(sheet: Sheet) -> Sheet:
    """A sheet without what is for the eye alone."""
    return msgspec.structs.replace(
        sheet, items=tuple(i for i in sheet.items if isinstance(i, Text) or i.layer not in UNPRINTED)
    )


class Preview(QPrintPreviewDialog):
    """The desktop's preview of sheets, from which they are printed. It keeps its printer, which Qt does not own."""

    def __init__(self, sheets: Sequence[Sheet], parent: QWidget) -> None:
        self.printer_ = QPrinter(QPrinter.PrinterMode.HighResolution)
        set_out(self.printer_, sheets[0])
        super().__init__(self.printer_, parent)
        self.setWindowTitle(f"Print {sheets[0].name}" + (f" and {len(sheets) - 1} more" if len(sheets) > 1 else ""))
        self.resize(1000, 720)
        self.paintRequested.connect(lambda to: print_sheets(to, sheets))
