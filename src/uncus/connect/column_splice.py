"""Column splice: plates over both flanges and at both sides of the web (see `splicing`)."""

from functools import partial
from typing import Annotated

from uncus.connect.kind import Kind
from uncus.connect.splicing import Plating, spliced
from uncus.connect.strength import moment
from uncus.job.forms import About


class Params(Plating, frozen=True, forbid_unknown_fields=True):
    flange_rows: Annotated[
        int, About("Bolt rows in a flange", unit="count", low=1, high=20, help="At each side of the splice.")
    ] = 2
    web_rows: Annotated[int | None, About("Bolt rows in the web", unit="count", low=2, high=30)] = 2
    gap: Annotated[float | None, About("Gap", low=0, high=50, help="None where the ends bear on each other.")] = 0.0


KIND = Kind(
    "column splice",
    "Column splice",
    Params,
    partial(spliced, Params),
    "Two lengths of a column end to end: plates over the flanges and at the web, with fills where sizes change.",
    serves="support",
    checks=moment.splice,
)
