"""How a sheet reads, counted: text on text, text on lines, leaders across leaders, words off the paper; and one
figure for all."""

from __future__ import annotations

import msgspec
import numpy as np

from uncus.draw.cells import Lines
from uncus.draw.lettering import box_of
from uncus.draw.sheet import Layer, Line, Sheet, Text

_LINES = (Layer.OUTLINE, Layer.DIMENSION, Layer.STICK)


class Legibility(msgspec.Struct, frozen=True):
    texts: int
    on_text: int
    on_lines: int
    crossings: int
    off_paper: int
    leaders: float  # mm of leader line in all

    @property
    def cost(self) -> float:
        """What bench/ reports of a sheet: faults weigh a hundred, a metre of leaders one."""
        return 100.0 * (self.on_text + self.on_lines + self.crossings + self.off_paper) + self.leaders / 1000

    @property
    def clean(self) -> bool:
        return not (self.on_text or self.on_lines or self.crossings or self.off_paper)


def legibility(sheet: Sheet) -> Legibility:
    """Counts on one sheet as it prints."""
    texts = [i for i in sheet.items if isinstance(i, Text)]
    boxes = np.array([box_of(t, -0.05) for t in texts]).reshape(-1, 4)
    over = 0
    for n in range(len(boxes)):
        rest = boxes[n + 1 :]
        b = boxes[n]
        hits = (rest[:, 0] < b[2]) & (rest[:, 2] > b[0]) & (rest[:, 1] < b[3]) & (rest[:, 3] > b[1])
        over += int(hits.sum())
    lines = _lines(sheet)
    on_lines = sum(lines.through(tuple(b)) for b in boxes.tolist())
    led = np.array([(i.x1, i.y1, i.x2, i.y2) for i in sheet.items if isinstance(i, Line) and i.layer is Layer.LEADER])
    led = led.reshape(-1, 4)
    leaders, crossed = Lines(), 0
    for x1, y1, x2, y2 in led.tolist():
        crossed += leaders.across((x1, y1, x2, y2))
        leaders.add((x1, y1, x2, y2))
    off = int(((boxes[:, :2] < 0).any(axis=1) | (boxes[:, 2] > sheet.width) | (boxes[:,
        3] > sheet.height)).sum()) if len(boxes) else 0  # fmt: skip
    long = float(np.hypot(led[:, 2] - led[:, 0], led[:, 3] - led[:, 1]).sum()) if len(led) else 0.0
    return Legibility(len(texts), over, on_lines, crossed, off, long)


def culprits(sheet: Sheet) -> list[str]:
    """The words that lie on a line, for whoever mends the placing."""
    lines = _lines(sheet)
    return [t.text for t in sheet.items if isinstance(t, Text) and lines.through(box_of(t, -0.05))]


def _lines(sheet: Sheet) -> Lines:
    """The lines no text should lie on."""
    found = Lines()
    for i in sheet.items:
        if isinstance(i, Line) and i.layer in _LINES:
            found.add((i.x1, i.y1, i.x2, i.y2))
    return found
