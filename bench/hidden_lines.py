"""Hidden lines of the sample's parts: ours against a CAD kernel's exact ones, the same parts from the same side.

usage: pip install cadquery-ocp; PYTHONPATH=src python bench/hidden_lines.py
The kernel gets the same solids as faceted shells and removes hidden lines by its exact algorithm.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial

import numpy as np

from uncus.draw.projection import View, _projected, project
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import build
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh, plain_normals, plain_sides, sharp_edges


def kernel_shape(part: Part):  # type: ignore[no-untyped-def]
    """The part's mesh as a sewn shell of the kernel."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon, BRepBuilderAPI_Sewing
    from OCP.gp import gp_Pnt
    from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain

    made = plain_mesh(part)
    sewing = BRepBuilderAPI_Sewing(1e-3)
    for corners in made.points[made.triangles]:
        ring = BRepBuilderAPI_MakePolygon(*(gp_Pnt(*p) for p in corners.tolist()), True)
        sewing.Add(BRepBuilderAPI_MakeFace(ring.Wire()).Face())
    sewing.Perform()
    whole = ShapeUpgrade_UnifySameDomain(sewing.SewedShape())
    whole.Build()
    return whole.Shape()


def kernel_view(shape) -> int:  # type: ignore[no-untyped-def]
    """Edges of the view from the front, hidden ones removed; how many."""
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.HLRAlgo import HLRAlgo_Projector
    from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape

    algorithm = HLRBRep_Algo()
    algorithm.Add(shape)
    algorithm.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, -1, 0), gp_Dir(1, 0, 0))))
    algorithm.Update()
    algorithm.Hide()
    made = HLRBRep_HLRToShape(algorithm)
    return int(not made.VCompound().IsNull())


def best(work: Callable[[], object], times: int = 5) -> float:
    """Seconds of the quickest of some runs."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def project_anew(part: Part) -> View:
    """The view, though it was made before."""
    _projected.cache_clear()
    return project([(part, Placement(np.zeros(3), np.eye(3)))], "front")


def main() -> None:
    shop = build(Job(boathouse()))
    parts = list({p.part for p in shop.pieces() if not p.part.is_formed})
    parts = sorted(parts, key=lambda p: -len(p.features))[:24]
    ours, theirs = [], []
    for part in parts:
        (
            sharp_edges(part),
            plain_normals(part),
            plain_sides(part),
        )  # which edges there are, as the kernel's sewn shape knows: once a part
        ours.append(best(partial(project_anew, part)))
        shape = kernel_shape(part)
        theirs.append(best(partial(kernel_view, shape)))
    a, b = np.median(ours) * 1000, np.median(theirs) * 1000
    print(f"{len(parts)} parts, median of a view: ours {a:.1f} ms, the kernel's {b:.1f} ms, ours/kernel {a / b:.2f}")


if __name__ == "__main__":
    main()
