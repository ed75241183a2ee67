"""An office's logo from an SVG, as lines: what a sheet can carry to any writer."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from xml.etree.ElementTree import ParseError

import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from uncus.job.errors import JobError

Ring = tuple[tuple[float, float], ...]
_LARGEST, _MOST = 200_000, 20_000  # letters of the file, points
_STEPS = np.linspace(0.0, 1.0, 9)[1:]


@lru_cache(maxsize=16)
def logo(svg: str) -> tuple[Ring, ...]:
    """The outlines of an SVG's shapes, its larger side from 0 to 1, y upwards; curves in short lines. Raises
    JobError."""
    if len(svg) > _LARGEST:
        raise JobError("The logo is too large; save it as a plain SVG of its outlines.")
    try:
        fromstring(svg, forbid_dtd=True)  # looked at before another reader has it
        rings = _outlines(svg)
    except (ParseError, DefusedXmlException, ValueError, LookupError, TypeError, NotImplementedError) as error:
        raise JobError(f"The logo cannot be read as SVG ({str(error)[:80] or type(error).__name__}).") from None
    points = np.concatenate([np.array(r) for r in rings]) if rings else np.zeros((0, 2))
    if not len(points) or len(points) > _MOST or not np.isfinite(points).all() or np.ptp(points, axis=0).max() <= 0.0:
        raise JobError("The logo holds no outlines, or too many; save it as a plain SVG of its outlines.")
    low, size = points.min(axis=0), float(np.ptp(points, axis=0).max())
    high = float(points[:, 1].max())
    return tuple(tuple(((x - low[0]) / size, (high - y) / size) for x, y in ring) for ring in rings)


def _outlines(svg: str) -> list[list[tuple[float, float]]]:
    from fontTools.pens.recordingPen import RecordingPen
    from fontTools.svgLib import SVGPath

    pen = RecordingPen()
    SVGPath.fromstring(svg.encode()).draw(pen)
    rings: list[list[tuple[float, float]]] = []
    for how, points in pen.value:
        if how == "moveTo":
            rings.append([points[0]])
        elif how == "closePath":
            rings[-1].append(rings[-1][0])
        elif points:
            rings[-1] += _curve([rings[-1][-1], *points])
    return [ring for ring in rings if len(ring) > 1]


def _curve(control: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Points along a line or a curve of any degree by its control points (de Casteljau), the first left out."""
    if len(control) == 2:
        return [control[1]]
    points = np.repeat(np.array(control, dtype=np.float64)[None], len(_STEPS), axis=0)
    while points.shape[1] > 1:
        points = points[:, :-1] + (points[:, 1:] - points[:, :-1]) * _STEPS[:, None, None]
    return [(float(x), float(y)) for x, y in points[:, 0]]
