"""Makes the pictures of the guide (src/uncus/guide/*.svg) from the sample job, by our own writers. No screen is needed:

PYTHONPATH=src:. python tools/guide_pictures.py
"""

from pathlib import Path

import numpy as np

from uncus.deliver.svg import svg_text
from uncus.draw.drawn import draw_all
from uncus.draw.register import register
from uncus.draw.sheet import Circle, Layer, Line, Sheet, Text
from uncus.frame.grids import runs
from uncus.job.job import Job
from uncus.job.records import Grid, Member, Role
from uncus.mark.marking import apply, propose
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build
from uncus.units import Units

OUT = Path(__file__).parent.parent / "src" / "uncus" / "guide"
_ACROSS = np.array([[0.866, -0.866, 0.0], [0.5, 0.5, 0.816]])  # isometric: paper from model
_SHEETS = {"sheet": ("assembly", "B1", None), "bracing": ("assembly", "V1", (0, 105, 311, 279)),
    "part": ("part", "p9", None), "plan": ("erection", "E2", (0, 40, 300, 279))}  # fmt: skip


def frame_picture(job: Job, wanted: set[Role] | None, width: float = 180.0) -> Sheet:
    """Members as sticks, seen from the south-west and above, with the grid and its bubbles."""
    members = [m for m in job.all(Member) if wanted is None or m.role in wanted]
    ends = np.array([(m.start, m.end) for m in members]).reshape(-1, 3)
    grid = next(iter(job.all(Grid)))
    lines = [(run.label, np.array([[*run.at(run.first), 0.0], [*run.at(run.last), 0.0]])) for run in runs(grid, 1500.0)]
    every = np.vstack([ends, *(line for _, line in lines)]) @ _ACROSS.T
    low, size = every.min(axis=0), np.ptp(every, axis=0)
    scale = (width - 20.0) / size[0]

    def flat(points):
        return ((points @ _ACROSS.T) - low) * scale + 10.0

    items = []
    for label, line in lines:
        (x1, y1), (x2, y2) = sorted(flat(line).tolist(), key=lambda p: p[1])  # bubbles stand before the steel
        items.append(Line(Layer.CENTRE, x1, y1, x2, y2))
        run = np.array([x1 - x2, y1 - y2])
        x, y = (np.array([x1, y1]) + run / np.linalg.norm(run) * 3.2).tolist()
        items += [Circle(Layer.THIN, x, y, 3.2), Text(x, y, label, 2.5, "c")]
    for (x1, y1), (x2, y2) in flat(ends).reshape(-1, 2, 2).tolist():
        items.append(Line(Layer.OUTLINE, x1, y1, x2, y2))
    return Sheet("frame", "", "picture", width, float(size[1] * scale + 20.0), 100, tuple(items))


def main() -> None:
    job = Job(boathouse(Units.IMPERIAL))
    shop = build(job)
    apply(job, propose(job, shop))
    columns = {Role.COLUMN, Role.POST}
    for name, wanted in (("grid", set()), ("columns", columns), ("frame", None)):
        picture = frame_picture(job, wanted if name != "grid" else columns)
        if name == "grid":
            kept = tuple(i for i in picture.items if getattr(i, "layer", None) is not Layer.OUTLINE)
            picture = Sheet("grid", "", "picture", picture.width, picture.height, 100, kept)
        (OUT / f"{name}.svg").write_text(svg_text(picture), encoding="utf-8")
    entries = {(e.kind, e.name): e for e in register(job, shop)}
    for name, (kind, mark, box) in _SHEETS.items():
        sheet = draw_all(entries[kind, mark].job)[0]
        (OUT / f"{name}.svg").write_text(svg_text(sheet, box), encoding="utf-8")


if __name__ == "__main__":
    main()
