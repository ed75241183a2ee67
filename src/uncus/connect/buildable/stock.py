"""What must be bought: plates the shop keeps, and bolts of a length and thread that fit.

Thread lengths: ASME B18.2.6 (inch), ISO 4014 (metric), as the bolt's size has them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from uncus.catalog.bolts import LONGEST, bolt_size, thread_length
from uncus.connect.buildable.blocks import Blocks
from uncus.connect.buildable.site import Site
from uncus.steel.joint import FastenerKind, Fasteners, WeldForm

_LEAST = 6.4  # mm of leg that a shop lays in one pass on anything
_SAME = 0.06  # mm within which a thickness is one in stock
FILLS = ("shim", "fill", "pack")  # words of plates that are made up to a gap


def inspect(site: Site) -> Iterator[str]:
    yield from _plates(site)
    yield from _fillets(site)
    for group in site.made.fasteners:
        if group.kind is FastenerKind.BOLT:
            yield from _bolt(site, group)


def _plates(site: Site) -> Iterator[str]:
    said = set()
    for new in site.made.parts:
        t = new.part.thickness
        if not new.part.is_plate or new.part.item or (new.words, t) in said:
            continue
        said.add((new.words, t))
        if t > site.rules.thickest + _SAME:
            yield (
                f"The {new.words} is {site.said(t)} thick, over the {site.said(site.rules.thickest)} the shop takes "
                f"without asking; ask, or make it thinner."
            )
        elif site.rules.stock and not any(w in new.words for w in FILLS):
            nearest = min(site.rules.stock, key=lambda one: abs(one - t))
            if abs(nearest - t) > _SAME:
                more = next((one for one in sorted(site.rules.stock) if one > t), nearest)
                thick = site.said(t) if site.said(t) != site.said(more) else f"{t:.4g} mm"  # what rounding would hide
                yield f"The {new.words} is {thick} thick, which the shop does not keep; take {site.said(more)}."


def _fillets(site: Site) -> Iterator[str]:
    """Fillets that are larger than the plate they hold is thick: more weld than the plate can use, and heat that
    bends it."""
    plates = {f"{site.about}/{p.key}": p for p in site.made.parts if p.part.is_plate}
    for weld in site.made.welds:
        held = [plates[j] for j in weld.joins if j in plates]
        thin = min(held, key=lambda p: p.part.thickness, default=None)
        if weld.form is WeldForm.FILLET and thin is not None and weld.size > max(thin.part.thickness, _LEAST) + _SAME:
            yield (
                f"The {site.said(weld.size)} fillet of the {thin.words} is larger than the "
                f"{site.said(thin.part.thickness)} plate; make it smaller or the plate thicker."
            )
            return


def _bolt(site: Site, group: Fasteners) -> Iterator[str]:
    size = bolt_size(group.size)
    longest = LONGEST[size.system]
    if group.length > longest + _SAME:
        yield (
            f"{size.name} bolts {site.said(group.length)} long are over the usual {site.said(longest)}; order them "
            f"early or thin the plies."
        )
        return
    body = group.length - thread_length(size, group.length)
    if body > group.grip + 2 * size.washer_t + _SAME:
        washers = math.ceil((body - group.grip) / size.washer_t - 1e-4)
        yield (
            f"{size.name} bolts {site.said(group.length)} long would end their thread before the plies; put {washers} "
            f"washers under the nuts."
        )
    if site.rules.threads == "excluded":
        plane = _last_plane(site, group)
        if plane is not None and body < plane - _SAME:
            yield (
                f"The thread of the {size.name} bolts reaches {site.said(plane - body)} into the plies at the nut; a "
                f"washer more "
                "under the head, a thicker last ply, or design with threads included."
            )


def _last_plane(site: Site, group: Fasteners) -> float | None:
    """How far from the head the shear plane nearest to the nut is."""
    wanted = [
        b for b in site.blocks if b.piece in {j.removeprefix(f"{site.about}/") for j in group.joins} | set(group.joins)
    ]
    start, axis = np.asarray(group.points[:1]), np.asarray(group.axis)
    through, enter, _ = Blocks(wanted).passed(start, axis, group.grip)
    planes = enter[through]
    return float(planes.max()) if len(planes) > 1 else None
