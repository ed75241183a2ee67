"""One sheet on the screen, as PDF, as DXF and as SVG: the same picture to a cell of two millimetres."""

import io
from importlib.resources import as_file, files

import ezdxf
import msgspec
import numpy as np
import pypdfium2
import pytest
from ezdxf.addons.drawing import Frontend, RenderContext, config, layout, svg
from ezdxf.fonts import fonts
from ezdxf.math import BoundingBox2d
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtSvg import QSvgRenderer
from scipy.ndimage import binary_dilation

from uncus.app.sheet.printing import print_sheets, printed, set_out
from uncus.app.sheet.sheet_view import paint
from uncus.deliver.dxf import dxf_bytes
from uncus.deliver.pdf import pdf_bytes
from uncus.deliver.svg import svg_text
from uncus.draw.drawn import draw
from uncus.draw.register import register
from uncus.draw.sheet import UNPRINTED, Layer, Sheet, Text
from uncus.frame.usual_views import Steel, elevations
from uncus.job.job import Job
from uncus.job.records import ErectionRules, Showing

FINE = 4  # pixels a mm
CELL = 8  # pixels


@pytest.fixture(scope="module", autouse=True)
def our_fonts():
    """The DXF is drawn with the faces we ship and no others: a bare machine has none."""
    fonts.font_manager.clear()
    with as_file(files("uncus") / "fonts") as folder:
        fonts.font_manager.build([str(folder)], support_dirs=False)
    yield
    fonts.font_manager.clear()
    fonts.load()


def picture(sheet: Sheet, draw_on) -> np.ndarray:
    image = QImage(round(sheet.width * FINE), round(sheet.height * FINE), QImage.Format.Format_Grayscale8)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    draw_on(painter)
    painter.end()
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width()].copy()


def on_screen(sheet):
    def work(painter):
        painter.scale(FINE, FINE)
        paint(painter, sheet)

    return picture(sheet, work)


def as_pdf(sheet):
    page = pypdfium2.PdfDocument(pdf_bytes(sheet))[0]
    return page.render(scale=FINE * 25.4 / 72, grayscale=True).to_numpy().squeeze()


def as_dxf(sheet):
    document, backend = ezdxf.read(io.StringIO(dxf_bytes(sheet).decode())), svg.SVGBackend()
    black = config.Configuration(background_policy=config.BackgroundPolicy.WHITE, color_policy=config.ColorPolicy.BLACK)
    Frontend(RenderContext(document), backend, config=black).draw_layout(document.modelspace())
    page = layout.Page(sheet.width, sheet.height, layout.Units.mm, margins=layout.Margins.all(0))
    text = backend.get_string(page, render_box=BoundingBox2d([(0, 0), (sheet.width, sheet.height)]))
    return picture(sheet, QSvgRenderer(text.encode()).render)


def as_svg(sheet):
    return picture(sheet, QSvgRenderer(svg_text(sheet).encode()).render)


def inked(grey) -> np.ndarray:
    """Which cells have ink in them, a thin line between two pixels as well."""
    rows, columns = (n // CELL * CELL for n in (min(grey.shape[0], 1100), grey.shape[1]))
    return (grey[:rows, :columns] < 200).reshape(rows // CELL, CELL, -1, CELL).any(axis=(1, 3))


def as_printed(sheet, place, paper=None):
    """Through the desktop's printing, to a file."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(place / "printed.pdf"))
    set_out(printer, sheet)
    if paper:
        printer.setPageSize(QPageSize(paper))
    share = print_sheets(printer, [sheet, sheet])
    return pypdfium2.PdfDocument(place / "printed.pdf"), share


def test_sheets_are_printed_as_they_are_and_smaller_on_smaller_paper(sample, qapp, tmp_path):
    sheet = draw(next(e for e in register(*sample) if e.name == "R1").job)
    pages, share = as_printed(sheet, tmp_path)
    assert len(pages) == 2 and share == 1.0
    assert np.allclose(np.array(pages[0].get_size()) * 25.4 / 72, (sheet.width, sheet.height), atol=0.6)
    it = inked(pages[0].render(scale=FINE * 25.4 / 72, grayscale=True).to_numpy().squeeze())
    of = inked(on_screen(printed(sheet)))
    rows, columns = (min(n) for n in zip(it.shape, of.shape, strict=True))
    a, b = it[:rows, :columns], of[:rows, :columns]
    only = (a & ~binary_dilation(b)).sum() + (b & ~binary_dilation(a)).sum()
    assert a.sum() > 800 and only <= 0.004 * a.sum()
    pages, share = as_printed(sheet, tmp_path, QPageSize.PageSizeId.A4)
    assert share == pytest.approx(min(297 / sheet.width, 210 / sheet.height), abs=0.005)
    assert inked(pages[0].render(scale=FINE * 25.4 / 72, grayscale=True).to_numpy().squeeze()).sum() > 300


@pytest.fixture(scope="module")
def erected(sample):
    """Sheets of the sample with an elevation by hidden lines, what stands and what is heavy, and all schedules."""
    job = Job([*sample[0].records.values(), ErectionRules(columns=True, bolts=True, lots=True)])
    wall = next(f for f in elevations(Steel.of(job, job.project.units)) if f.name == "Elevation A")
    shows = Showing(steel="as outlines, with its lines", bolts=True, beyond=7000.0, heavy="role is column",
        standing="role is brace")  # fmt: skip
    with job.change("view") as change:
        change.put(msgspec.structs.replace(wall, shows=shows))
    return {e.name: e for e in register(job, sample[1])}


@pytest.mark.parametrize("name", ["R1", "C1", "p3", "E4", "AP1", "CS1", "SC1"])
def test_screen_pdf_dxf_and_svg_show_the_same_sheet(erected, qapp, name):
    sheet = draw(erected[name].job)
    kept = tuple(i for i in sheet.items if isinstance(i, Text) or i.layer not in UNPRINTED)  # what prints
    sheet = msgspec.structs.replace(sheet, items=kept)
    screen = inked(on_screen(sheet))
    for other in (as_pdf(sheet), as_dxf(sheet), as_svg(sheet)):
        it = inked(other)
        both = min(screen.shape[1], it.shape[1])
        a, b = screen[: len(it), :both], it[: len(screen), :both]
        only = (a & ~binary_dilation(b)).sum() + (b & ~binary_dilation(a)).sum()
        assert a.sum() > 800 and only <= 0.002 * a.sum(), (name, only, a.sum())


def test_a_views_dxf_has_its_kinds_of_lines_on_layers_of_their_own(erected):
    sheet = draw(erected["E4"].job)
    document = ezdxf.read(io.StringIO(dxf_bytes(sheet).decode("utf-8")))
    used = {entity.dxf.layer for entity in document.modelspace()}
    wanted = {str(i.layer) for i in sheet.items if not isinstance(i, Text)}
    assert {str(layer) for layer in (Layer.HEAVY, Layer.STANDING, Layer.FAINT, Layer.CENTRE)} <= wanted
    assert {layer.casefold() for layer in wanted} <= {layer.casefold() for layer in used}
