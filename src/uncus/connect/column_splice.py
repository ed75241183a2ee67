"""Column splice: plates over both flanges and at both sides of the web (see `splicing`)."""

from typing import Annotated

import msgspec

from uncus.connect import params as p_
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind
from uncus.connect.splicing import Plating, in_line, plate_up
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    flange: Annotated[float | None, About("Flange plates' thickness", low=5, high=100)] = None
    flange_rows: Annotated[
        int, About("Bolt rows in a flange", unit="count", low=1, high=20, help="At each side of the splice.")
    ] = 2
    web: Annotated[float | None, About("Web plates' thickness", low=5, high=60)] = None
    web_rows: Annotated[int | None, About("Bolt rows in the web", unit="count", low=2, high=30)] = 2
    web_lines: Annotated[
        int,
        About("Bolt lines in the web", unit="count", low=0, high=4, help="At each side; none leaves the web plain."),
    ] = 1
    bolt: p_.Bolt = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    gap: Annotated[float, About("Gap", low=0, high=50, help="None where the ends bear on each other.")] = 0.0


def build(joint: Joint) -> Contribution:
    """Plates, fills and bolts; a finding alone where the two are not in one line."""
    p: Params = checked(Params, joint.record.params)
    fit, rules = Fitup(joint), joint.rules
    line = in_line(joint)
    if isinstance(line, str):
        return fit.refused(line)
    gap = p.gap
    plating = Plating(
        p.flange,
        p.flange_rows,
        p.web,
        p.web_rows,
        p.web_lines,
        p.pitch or rules.pitch,
        p.edge or rules.edge,
        gap,
        p.bolt,
    )
    plate_up(fit, line, plating)
    return fit.done()


KIND = Kind(
    "column splice",
    "Column splice",
    Params,
    build,
    "Two lengths of a column end to end: plates over the flanges and at the web, with fills where sizes change.",
    serves="support",
)
