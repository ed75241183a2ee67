"""How wide lettering runs: the sheet face's own figures, so that layout and every writer agree."""

from __future__ import annotations

import bisect
import math
from functools import cache
from importlib.resources import files

from uncus.draw.sheet import Text

FACES = {False: "RoutedGothic.ttf", True: "RoutedGothic-Narrow.ttf"}


def face_bytes(narrow: bool) -> bytes:
    return (files("uncus") / "fonts" / FACES[narrow]).read_bytes()


@cache
def _metrics(narrow: bool) -> tuple[dict[int, str], dict[str, int], float]:
    from fontTools.ttLib import TTFont

    with (files("uncus") / "fonts" / FACES[narrow]).open("rb") as source:
        font = TTFont(source, lazy=False)
    widths = {name: advance for name, (advance, _) in font["hmtx"].metrics.items()}
    cap = float(font["OS/2"].sCapHeight or 0) or font["head"].unitsPerEm * 0.7
    return font.getBestCmap(), widths, cap


@cache
def em_per_cap(narrow: bool = False) -> float:
    """Font size over the height of capitals."""
    from fontTools.ttLib import TTFont

    with (files("uncus") / "fonts" / FACES[narrow]).open("rb") as source:
        font = TTFont(source, lazy=True)
        return float(font["head"].unitsPerEm) / _metrics(narrow)[2]


def knows(char: str) -> bool:
    return ord(char) in _metrics(False)[0]


def clean(text: str) -> str:
    """The text with what the lettering does not have turned into what it has."""
    swaps = {"–": "-", "—": "-", "’": "'", "“": '"', "”": '"', "×": "x", "·": ".", "°": "°"}
    return "".join(c if knows(c) else swaps.get(c, "?") for c in text)


@cache
def width(text: str, height: float = 2.5, narrow: bool = False) -> float:
    """Width in mm of a line of text whose capitals are `height` high."""
    cmap, widths, cap = _metrics(narrow)
    return sum(widths[cmap[ord(c)]] for c in clean(text)) * height / cap


def shortened(words: str, height: float, room: float) -> str:
    """As much of a text as fits its room in narrow letters, with dots where something is left out."""
    if width(words, height, True) <= room:
        return words
    most = bisect.bisect(range(len(words)), room, key=lambda n: width(words[:n] + "...", height, True))
    return words[: max(1, most - 1)] + "..."


Box = tuple[float, float, float, float]


MARGIN = 0.4  # mm about a text that nothing else is written in


def box_of(text: Text, margin: float = MARGIN) -> Box:
    """The upright box around a text, in mm."""
    w, h = width(text.text, text.height, text.narrow), text.height * 1.25
    left = {"l": 0.0, "c": -w / 2, "r": -w}[text.anchor]
    if text.angle == 0.0:  # nearly all of them
        x, y = text.x, text.y
        return x + left - margin, y - h / 2 - margin, x + (left + w) + margin, y + h / 2 + margin
    if text.angle == 90.0:  # nearly all of the others
        x, y = text.x, text.y
        return x - h / 2 - margin, y + left - margin, x + h / 2 + margin, y + (left + w) + margin
    c, s = math.cos(math.radians(text.angle)), math.sin(math.radians(text.angle))
    corners = [(left, -h / 2), (left + w, -h / 2), (left + w, h / 2), (left, h / 2)]
    xs = [text.x + c * a - s * b for a, b in corners]
    ys = [text.y + s * a + c * b for a, b in corners]
    return min(xs) - margin, min(ys) - margin, max(xs) + margin, max(ys) + margin
