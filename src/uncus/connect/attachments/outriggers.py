"""Outriggers: short lengths that stand out square from a member's web to carry an edge, welded on in the shop."""

from typing import Annotated

import numpy as np

from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import section
from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup
from uncus.connect.section_weld import ring_of
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    section: Annotated[
        str | None, About("Section", unit="section", help="Nothing: a small channel, by the job's units.")
    ] = None
    long: Annotated[float, About("Length", low=50, high=5000, help="From the web's face.")] = 457.2
    side: Annotated[str, About("Side", unit="choice", choices=("near", "far"))] = "near"
    at: Annotated[float, About("Above the middle", low=-1000, high=1000)] = 0.0
    spacing: Annotated[float, About("Spacing", low=20, high=20_000)] = 1219.2
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The lengths and their welds all round."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    own = section(p.section or ("C4X5.4" if fit.inch else "UPN100"))
    flat = s.d / 2 - max(s.k, s.tf + s.r) if s.flanged else s.d / 2 - s.r
    if abs(p.at) + own.d / 2 > flat:
        fit.find(f"A {own.name} does not stand on the flat of the {body.words}; choose a smaller one or move it.")
        return fit.done()
    side = -1.0 if p.side == "near" else 1.0
    face = side * (s.tw / 2 if s.form == "I" else s.b / 2)
    if s.form == "U":
        face = -s.b / 2 if side < 0 else -s.b / 2 + s.tw
    for n, x in enumerate(stations(fit, fitting, p, "outriggers"), 1):
        if not fitting.left + own.b / 2 < x < fitting.right - own.b / 2:
            fit.find(f"An outrigger runs past the end of the {body.words} and is left out.")
            continue
        out, up = side * body.frame.y, body.frame.z
        frame = Placement(body.frame.to_model((x, face, p.at)), np.column_stack([out, np.cross(up, out), up]))
        id = fit.length(str(n), frame, own, p.long, body.id, "outrigger", usual_grade(own))
        path = [frame.to_model((0.0, y, z)) for y, z in ring_of(own)]
        fit.weld(str(n), p.weld or fit.rules.tab_weld, path, (body.id, id), 1, around=True)
    return fit.done()


KIND = AttachmentKind(
    "outriggers",
    "Outriggers",
    Params,
    build,
    lambda body: body.section.form in ("I", "U", "BOX"),
    "Short lengths welded square to the web, to carry an edge or a screen.",
)
