"""Reads a DXF drawing in a process of its own: `python -m uncus.reference.dxf_reader FILE OUT MEGABYTES`.

A drawing becomes a `Model` of one product a layer, whose shape is lines: what shows, hides, snaps to and compares
models does so with drawings too. Curves are taken in pieces that stray no more than a millimetre, blocks as they are
placed.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from uncus.reference.limited import Refused, run, tell
from uncus.reference.model import Facts, Model, Product, Shape, Words

_UNITS = {1: 25.4, 2: 304.8, 3: 1609344.0, 4: 1.0, 5: 10.0, 6: 1000.0, 7: 1e6, 9: 0.0254, 10: 914.4, 14: 100.0}
_MOST, _MOST_WORDS = 2_000_000, 5_000  # pieces of line; texts
_DEEP = 12  # blocks within one another
_STRAY = 1.0  # mm


def read(path: Path) -> Model:
    """Raises Refused."""
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    try:
        document, _ = recover.readfile(path)
        entities = document.modelspace()
    except MemoryError:
        raise
    except (DXFError, OSError, ValueError, TypeError, AttributeError, KeyError, IndexError) as error:
        raise Refused(f"cannot be read as DXF: {str(error)[:120] or type(error).__name__}") from None
    notes: list[str] = []
    try:
        unit = int(document.header.get("$INSUNITS", 0))
    except (TypeError, ValueError):
        unit = 0
    scale = _UNITS.get(unit)
    if scale is None:
        notes.append("It names no unit of length: a millimetre to its unit; scale it by two points where it is placed.")
        scale = 1.0
    lines: dict[str, list[Any]] = defaultdict(list)
    words: list[Words] = []
    count, left = 0, 0
    for e in _all(entities, 0):
        layer = str(e.dxf.get("layer", "0"))
        if e.dxftype() in ("TEXT", "MTEXT", "ATTRIB"):
            if len(words) < _MOST_WORDS and (said := _words(e, layer, scale)) is not None:
                words.append(said)
            continue
        points = _points(e, _STRAY / scale)
        if points is None:
            left += 1
            continue
        for run_ in points:
            run_ = np.asarray(run_, dtype=np.float64).reshape(-1, 3) * scale
            if len(run_) > 1 and np.isfinite(run_).all() and np.abs(run_).max() < 1e12:
                lines[layer].append(run_)
                count += len(run_)
        if count > _MOST:
            raise Refused(f"holds more than {_MOST:,} pieces of line; save the layers that are wanted alone")
        if count % 1000 < 5:
            tell(step="looking", done=count, of=0)
    if not lines:
        raise Refused("holds no line that can be laid under the steel")
    if left:
        notes.append(f"{left:,} of its things are no lines (fills, solids, pictures) and are left out.")
    return _model(lines, tuple(words), tuple(notes))


def _all(entities: Any, deep: int) -> Iterator[Any]:
    """Entities, those of blocks as they are placed."""
    from ezdxf.lldxf.const import DXFError

    for e in entities:
        if e.dxftype() in ("INSERT", "DIMENSION") and deep < _DEEP:
            try:
                yield from _all(list(e.virtual_entities()), deep + 1)
                if e.dxftype() == "INSERT":
                    yield from e.attribs
            except (DXFError, ValueError, TypeError, AttributeError, KeyError, IndexError, ZeroDivisionError):
                continue
        else:
            yield e


def _points(e: Any, stray: float) -> list[Any] | None:
    """Runs of points of what is a line; None for what is none."""
    from ezdxf import path as paths
    from ezdxf.lldxf.const import DXFError

    try:
        if e.dxftype() == "LINE":
            return [[tuple(e.dxf.start), tuple(e.dxf.end)]]
        made = paths.make_path(e)
        if not len(made):
            return None
        return [[tuple(v) for v in one.flattening(stray, segments=4)] for one in made.sub_paths()]
    except (DXFError, TypeError, ValueError, AttributeError, KeyError, IndexError, ZeroDivisionError, OverflowError):
        return None


def _words(e: Any, layer: str, scale: float) -> Words | None:
    try:
        several = e.dxftype() == "MTEXT"
        at, text = e.dxf.insert, e.plain_text() if several else e.dxf.text
        height = float(e.dxf.get("char_height" if several else "height", 2.5)) * scale
        turn = float(e.dxf.get("rotation", 0.0))
        place = tuple(float(v) * scale for v in at)
    except (AttributeError, TypeError, ValueError):
        return None
    if not text.strip() or not all(math.isfinite(v) for v in (*place, height, turn)):
        return None
    return Words(" ".join(text.split())[:200], (place[0], place[1], place[2]), layer, height, turn)


def _model(lines: dict[str, list[Any]], words: tuple[Words, ...], notes: tuple[str, ...]) -> Model:
    products, shapes, stands = [], [], []
    for n, (layer, runs) in enumerate(sorted(lines.items())):
        points = np.concatenate(runs)
        middle = np.round((points.min(axis=0) + points.max(axis=0)) / 2)
        starts = np.cumsum([0, *(len(run) for run in runs)])[:-1]
        numbers = np.arange(len(points) - 1)
        ends = np.isin(numbers + 1, starts)
        pairs = np.column_stack([numbers, numbers + 1])[~ends].astype(np.int32)
        shapes.append(Shape((points - middle).astype(np.float32), np.zeros((0, 3), dtype=np.int32), pairs))
        stands.append((n, n, np.column_stack([np.eye(3), middle]), (0.3, 0.35, 0.4)))
        products.append(Product(f"layer {layer}", "Layer", layer, layer=layer))
    return Model.of(Facts("DXF", tuple(products), notes=notes, words=words), shapes, stands)


if __name__ == "__main__":
    run(read)
