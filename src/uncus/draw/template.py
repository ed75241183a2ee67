"""Sheet templates: paper, border and title block as SVG with named fields, our own or the office's.

Read: width and height in mm; `rect` and `line` (class border or thin); `text` with `data-field`, its place, size
(height of capitals) and `data-room`; other `text` as it is; two rects by id, `drawing` for views and `column` for bill
and notes. All else is passed over.
"""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ElementTree
from collections.abc import Mapping
from functools import cache
from importlib.resources import files

import msgspec
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from uncus.draw.board import Board
from uncus.draw.lettering import Box, shortened, width
from uncus.draw.sheet import Layer, Text
from uncus.job.errors import JobError
from uncus.units import Units

LINES = ("line 1", "line 2", "line 3", "line 4")
FIELDS = ("name", "sheet", "project", *LINES, "drawn", "checked", "date", "revision", "scale", "paper")
MOST = 500_000  # bytes of a template that are read
LONGEST = 200  # letters of one text of its own
_ANCHOR = {"start": "l", "middle": "c", "end": "r"}


class Field(msgspec.Struct, frozen=True):
    name: str
    x: float
    y: float
    height: float
    anchor: str
    room: float


class Template(msgspec.Struct, frozen=True):
    """Paper in mm, lines on their layers (x1, y1, x2, y2; y up), fields, words that stand on every sheet, and the boxes
    for views and for bill and notes."""

    name: str
    width: float
    height: float
    lines: tuple[tuple[Layer, float, float, float, float], ...]
    fields: tuple[Field, ...]
    labels: tuple[Text, ...]
    drawing: Box
    column: Box


def read(text: str, name: str) -> Template:
    """A template of an SVG file's text. Raises JobError with what it lacks."""
    if len(text) > MOST:
        raise JobError(f"The template {name} is too large; save it as plain SVG.")
    text = re.sub(r"^\s*<\?xml[^>]*\?>", "", text)  # what it says of its encoding held for the bytes
    try:
        root = fromstring(text, forbid_dtd=True)
        wide, tall = _mm(root.get("width", "")), _mm(root.get("height", ""))
        lines: list[tuple[Layer, float, float, float, float]] = []
        fields: list[Field] = []
        labels: list[Text] = []
        boxes: dict[str, Box] = {}
        for element in root.iter():
            tag = element.tag.rpartition("}")[2]
            if tag == "rect":
                x, y, w, h = (_number(element, k) for k in ("x", "y", "width", "height"))
                box = (x, tall - y - h, x + w, tall - y)
                if element.get("id") in ("drawing", "column"):
                    boxes[str(element.get("id"))] = box
                else:
                    a, b, c, d = box
                    ring = ((a, b, c, b), (c, b, c, d), (c, d, a, d), (a, d, a, b))
                    lines += [(_layer(element), *side) for side in ring]
            elif tag == "line":
                x1, y1, x2, y2 = (_number(element, k) for k in ("x1", "y1", "x2", "y2"))
                lines.append((_layer(element), x1, tall - y1, x2, tall - y2))
            elif tag == "text":
                anchor = _ANCHOR.get(element.get("text-anchor", "start"), "l")
                if element.get("data-field") in FIELDS:
                    height, room = (_number(element, k) for k in ("font-size", "data-room"))
                    at = _number(element, "x"), tall - _number(element, "y")
                    fields.append(Field(str(element.get("data-field")), *at, height, anchor, room))
                elif words := " ".join("".join(element.itertext()).split())[:LONGEST]:
                    at = _number(element, "x"), tall - _number(element, "y")
                    labels.append(Text(*at, words, _number(element, "font-size"), anchor))
    except DefusedXmlException:
        raise JobError(f"The template {name} defines a type or entities of its own; save it as plain SVG.") from None
    except (ElementTree.ParseError, ValueError, RecursionError) as error:
        raise JobError(f"The template {name} cannot be read: {error}.") from None
    if {"drawing", "column"} - boxes.keys():
        raise JobError(f"The template {name} needs two rects by id: “drawing” for the views and “column” for the bill.")
    if not any(f.name == "name" for f in fields):
        raise JobError(f"The template {name} has no text with data-field “name”.")
    return Template(name, wide, tall, tuple(lines), tuple(fields), tuple(labels), boxes["drawing"], boxes["column"])


def _mm(text: str) -> float:
    match = re.fullmatch(r"\s*([\d.]+)\s*(mm|in)?\s*", text)
    if not match:
        raise ValueError(f"“{text}” is no size in mm")
    value = float(match[1]) * (25.4 if match[2] == "in" else 1.0)
    if not 50 <= value <= 3000:
        raise ValueError(f"a paper of {value:g} mm is none")
    return value


def _number(element: ElementTree.Element, name: str) -> float:
    value = float(element.get(name, "nan"))
    if not math.isfinite(value):
        raise ValueError(f"a {element.tag.rpartition('}')[2]} has no {name}")
    return value


def _layer(element: ElementTree.Element) -> Layer:
    return Layer.BORDER if element.get("class") == "border" else Layer.THIN


SMALL = {Units.IMPERIAL: "11 x 17", Units.METRIC: "A3"}
LARGE = {Units.IMPERIAL: "ARCH D", Units.METRIC: "A1"}


def names() -> list[str]:
    """The templates that come along."""
    return sorted(
        f.name.removesuffix(".svg") for f in (files("uncus.draw") / "templates").iterdir() if f.name.endswith(".svg")
    )


@cache
def shipped(name: str) -> Template:
    """One of the templates that come along. Raises JobError for a name there is none of."""
    if name not in names():
        raise JobError(f"There is no sheet template “{name}”; there are {', '.join(names())}.")
    return read((files("uncus.draw") / "templates" / f"{name}.svg").read_text("utf-8"), name)


@cache
def template(name: str, own: str = "") -> Template:
    """A template by name, or the office's own where its SVG is given."""
    return read(own, name) if own else shipped(name)


def fill(board: Board, paper: Template, values: Mapping[str, str]) -> None:
    """Border, title block and its fields; what is too long is made narrow, then smaller, then shortened."""
    for layer, *line in paper.lines:
        board.line(layer, *line)
    for label in paper.labels:
        board.text(label)
    values = _by_its_fields(paper, values)
    for field in paper.fields:
        words = values.get(field.name, "")
        if words:
            since = len(board.items)
            board.text(fitted(field.x, field.y, words, field.height, field.room, field.anchor))
            board.spot(f"title|{field.name}", since, "title")


def _by_its_fields(paper: Template, values: Mapping[str, str]) -> Mapping[str, str]:
    """What a title says where a template has no field for it: the revision beside the name, who checked it and the date
    beside who drew it."""
    own = {f.name for f in paper.fields}
    said = dict(values)
    if "revision" not in own and values.get("revision"):
        said["name"] = f"{values['name']}  REV {values['revision']}"
    missing = [f for f in ("checked", "date") if f not in own]
    if missing:
        said["drawn"] = "   ".join(f"{f.upper()} {values[f]}" for f in ("drawn", *missing) if values.get(f))
    return said


def fitted(x: float, y: float, words: str, height: float, room: float, anchor: str = "l") -> Text:
    """A text made to fit its room."""
    while height > 3.0 and width(words, height) > room:
        height -= 0.5
    if width(words, height) <= room:
        return Text(x, y, words, height, anchor)
    return Text(x, y, shortened(words, height, room), height, anchor, narrow=True)
