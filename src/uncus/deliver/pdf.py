"""Sheets as PDF, lettering embedded."""

from __future__ import annotations

import io
import math
import zlib
from collections.abc import Container, Sequence
from functools import cache

from reportlab import rl_config
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.pdfdoc import PDFArray, PDFDocument, PDFName, PDFObjectReference
from reportlab.pdfbase.ttfonts import TTFont, TTFontFace
from reportlab.pdfgen.canvas import Canvas

from uncus.draw.lettering import em_per_cap, face_bytes
from uncus.draw.sheet import STYLE, UNPRINTED, Circle, Layer, Line, Polyline, Sheet, Spot, Text, linked

rl_config.useA85 = 0  # bytes as they are: smaller, and half the time of writing them as letters

_FACE = {False: "Sheet", True: "SheetNarrow"}


class _Face(TTFontFace):  # type: ignore[misc]
    """A face whose letters are taken out and compressed once for all files that need the same ones."""

    def __init__(self, data: bytes) -> None:
        super().__init__(io.BytesIO(data))
        self._taken: dict[tuple[int, ...], tuple[bytes, bytes]] = {}

    def makeSubset(self, subset: list[int]) -> bytes:
        key = tuple(subset)
        if key not in self._taken:
            letters = super().makeSubset(subset)
            self._taken[key] = letters, zlib.compress(letters)
        return self._taken[key][0]

    def addSubsetObjects(self, doc: PDFDocument, fontname: str, subset: list[int]) -> PDFObjectReference:
        descriptor = super().addSubsetObjects(doc, fontname, subset)
        stream = doc.idToObject[f"fontFile:{self.filename}({fontname})"]
        stream.content = self._taken[tuple(subset)][1]
        stream.dictionary["Filter"] = PDFArray([PDFName("FlateDecode")])
        return descriptor


@cache
def _register() -> None:
    for narrow, name in _FACE.items():
        font = TTFont(name, io.BytesIO(face_bytes(narrow)))
        font.face = _Face(face_bytes(narrow))
        pdfmetrics.registerFont(font)


def pdf_bytes(*sheets: Sheet) -> bytes:
    """Sheets as the pages of one file, each at its paper's size; what is for reference only is left out. Signs lead to
    their sheets: to a page of the file, or to the first of a file of that name beside it."""
    _register()
    out = io.BytesIO()
    page = Canvas(out, invariant=True, pageCompression=1)
    page.setTitle(f"{sheets[0].name} {sheets[0].title}")
    page.setCreator("Uncus")
    here = {sheet.name for sheet in sheets}
    for sheet in sheets:
        page.bookmarkPage(sheet.name)
        _page(page, sheet, here)
    page.save()
    return out.getvalue()


def _page(page: Canvas, sheet: Sheet, here: Container[str]) -> None:
    page.setPageSize((sheet.width * mm, sheet.height * mm))
    page.scale(mm, mm)
    page.setLineCap(1)
    page.setLineJoin(1)
    layers: dict[Layer, list[Line | Circle | Polyline]] = {layer: [] for layer in Layer}
    texts = []
    for item in sheet.items:
        if isinstance(item, Text):
            texts.append(item)
        else:
            layers[item.layer].append(item)
    for layer, own in layers.items():
        if own and layer not in UNPRINTED:
            width, dash = STYLE[layer]
            page.setLineWidth(width)
            page.setDash(list(dash), 0) if dash else page.setDash()
            _strokes(page, own)
    for text in texts:
        _text(page, text)
    for spot in sheet.spots:
        if name := linked(spot):
            _lead(page, spot, name, name in here)
    page.showPage()


def _lead(page: Canvas, spot: Spot, name: str, here: bool) -> None:
    for _, box in spot.texts:
        if here:
            page.linkRect("", name, box, relative=1, thickness=0)
        else:
            page.linkURL(f"{name}.pdf", box, relative=1, thickness=0, kind="GoToR")


def _strokes(page: Canvas, items: Sequence[Line | Circle | Polyline]) -> None:
    lines = [(i.x1, i.y1, i.x2, i.y2) for i in items if isinstance(i, Line)]
    if lines:
        page.lines(lines)
    for item in items:
        if isinstance(item, Circle):
            page.circle(item.x, item.y, item.r)
        elif isinstance(item, Polyline):
            path = page.beginPath()
            path.moveTo(*item.points[0])
            for point in item.points[1:]:
                path.lineTo(*point)
            if item.closed:
                path.close()
            page.drawPath(path, stroke=1, fill=int(item.filled))


def _text(page: Canvas, text: Text) -> None:
    name = _FACE[text.narrow]
    size = text.height * em_per_cap(text.narrow)
    long = pdfmetrics.stringWidth(text.text, name, size)
    left = {"l": 0.0, "c": -long / 2, "r": -long}[text.anchor]
    c, s = math.cos(math.radians(text.angle)), math.sin(math.radians(text.angle))
    down = -text.height / 2
    writer = page.beginText()
    writer.setFont(name, size)
    writer.setTextTransform(c, s, -s, c, text.x + c * left - s * down, text.y + s * left + c * down)
    writer.textOut(text.text)
    page.drawText(writer)
