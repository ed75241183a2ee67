"""Sheets as SVG, lettering as outlines: looks alike wherever it is opened, with no font at hand (SVG 1.1, W3C)."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from functools import cache
from xml.sax.saxutils import escape, quoteattr

from fontTools.pens.svgPathPen import SVGPathPen
from fontTools.ttLib import TTFont

from uncus.draw.lettering import em_per_cap, face_bytes
from uncus.draw.lettering import width as text_width
from uncus.draw.sheet import STYLE, UNPRINTED, Box, Circle, Layer, Line, Polyline, Primitive, Sheet, Text


def svg_text(sheet: Sheet, box: Box | None = None) -> str:
    """A sheet, or what of it lies in a box (x0, y0, x1, y1 in mm of the paper), in mm; what is for reference only is
    left out."""
    x0, y0, x1, y1 = box or (0.0, 0.0, sheet.width, sheet.height)
    items = [i for i in sheet.items if _within(i, (x0, y0, x1, y1))]
    glyphs: dict[str, str] = {}
    body = [*_strokes(items), *(_letters(i, glyphs) for i in items if isinstance(i, Text))]
    defs = "".join(f'<path id="{id}" d="{path}"/>' for id, path in sorted(glyphs.items()))
    size = f'width="{_n(x1 - x0)}mm" height="{_n(y1 - y0)}mm" viewBox="{_n(x0)} {_n(-y1)} {_n(x1 - x0)} {_n(y1 - y0)}"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size}>'
        f"<title>{escape(f'{sheet.name} {sheet.title}')}</title><defs>{defs}</defs>"
        f'<g fill="none" stroke="#1D2930" stroke-linecap="round" stroke-linejoin="round">{"".join(body)}</g></svg>\n'
    )


def _within(item: Primitive, box: Box) -> bool:
    if not isinstance(item, Text) and item.layer in UNPRINTED:
        return False
    match item:
        case Line():
            points = [(item.x1, item.y1), (item.x2, item.y2)]
        case Polyline():
            points = list(item.points)
        case _:
            points = [(item.x, item.y)]
    x0, y0, x1, y1 = box
    return all(x0 <= x <= x1 and y0 <= y <= y1 for x, y in points)


def _strokes(items: Sequence[Primitive]) -> Iterator[str]:
    """Lines a layer at a time; y runs down in SVG."""
    for layer in Layer:
        own = [i for i in items if not isinstance(i, Text) and i.layer is layer]
        if not own:
            continue
        width, dash = STYLE[layer]
        dashes = f" stroke-dasharray={quoteattr(' '.join(map(_n, dash)))}" if dash else ""
        yield f'<g class="{layer}" stroke-width="{_n(width)}"{dashes}>'
        lines = [i for i in own if isinstance(i, Line)]
        if lines:
            path = "".join(f"M{_n(i.x1)} {_n(-i.y1)}L{_n(i.x2)} {_n(-i.y2)}" for i in lines)
            yield f'<path d="{path}"/>'
        for item in own:
            if isinstance(item, Circle):
                yield f'<circle cx="{_n(item.x)}" cy="{_n(-item.y)}" r="{_n(item.r)}"/>'
            elif isinstance(item, Polyline):
                path = "M" + "L".join(f"{_n(x)} {_n(-y)}" for x, y in item.points) + ("Z" if item.closed else "")
                yield f'<path d="{path}"{" fill=" + quoteattr("#1D2930") if item.filled else ""}/>'
        yield "</g>"


def _letters(text: Text, glyphs: dict[str, str]) -> str:
    """A line of text as its glyphs, each outline kept once."""
    face = _face(text.narrow)
    scale = text.height * em_per_cap(text.narrow) / face.units
    long = text_width(text.text, text.height, text.narrow)
    left = {"l": 0.0, "c": -long / 2, "r": -long}[text.anchor]
    placed, at = [], 0.0
    for letter in text.text:
        name, advance = face.glyph(letter)
        id = f"{'n' if text.narrow else 'w'}{ord(letter):x}"
        if path := face.path(name):
            glyphs.setdefault(id, path)
            placed.append(f'<use xlink:href="#{id}" x="{_n(at, 0)}"/>')
        at += advance
    turn = f"translate({_n(text.x)} {_n(-text.y)}) rotate({_n(-text.angle)})"
    drawn = f"translate({_n(left)} {_n(text.height / 2)}) scale({_n(scale, 6)} {_n(-scale, 6)})"
    return f'<g transform="{turn} {drawn}" fill="#1D2930" stroke="none">{"".join(placed)}</g>'


class _Face:
    """A lettering face: each letter's glyph, its advance in the font's units, and its outline."""

    def __init__(self, narrow: bool) -> None:
        self._font = TTFont(io.BytesIO(face_bytes(narrow)))
        self._names, self._glyphs = self._font.getBestCmap(), self._font.getGlyphSet()
        self.units: int = self._font["head"].unitsPerEm
        self._paths: dict[str, str] = {}

    def glyph(self, letter: str) -> tuple[str, float]:
        name = self._names.get(ord(letter), ".notdef")
        return name, float(self._glyphs[name].width)

    def path(self, name: str) -> str:
        if name not in self._paths:
            pen = SVGPathPen(self._glyphs, ntos=lambda v: _n(v, 0))
            self._glyphs[name].draw(pen)
            self._paths[name] = pen.getCommands()
        return self._paths[name]


@cache
def _face(narrow: bool) -> _Face:
    return _Face(narrow)


def _n(value: float, places: int = 2) -> str:
    """A number as short as it can be written."""
    return f"{value:.{places}f}".rstrip("0").rstrip(".") or "0" if places else f"{value:.0f}"
