"""Beam splice: plates over both flanges and at both sides of the web (see `splicing`)."""

from functools import partial

from uncus.connect.kind import Kind
from uncus.connect.splicing import Plating, spliced
from uncus.connect.strength import moment


class Params(Plating, frozen=True, forbid_unknown_fields=True):
    pass


KIND = Kind(
    "beam splice",
    "Beam splice",
    Params,
    partial(spliced, Params),
    "Two lengths of a beam end to end: plates over the flanges and at the web.",
    serves="support",
    checks=moment.splice,
)
