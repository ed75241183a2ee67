"""What a kind of attachment is, what it is given, and how a row of them is spread along a member."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated

import msgspec

from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.frame.placement import Vec
from uncus.job.forms import About
from uncus.job.records import Attachment, BoughtItem, End, ShopRules
from uncus.steel.joint import Contribution
from uncus.units import UnitError, Units, format_length, parse_lengths


class Fitting(msgspec.Struct, frozen=True, eq=False):
    """What `build` is given: the record, its member, the shop's rules; where the member's steel begins and ends
    along its x, where others load it, which of its ends have joints, the other member, for a kind that takes two, and
    the job's own bought item that its values name."""

    record: Attachment
    member: Body
    rules: ShopRules
    left: float
    right: float
    loads: tuple[float, ...] = ()
    joined: tuple[End, ...] = ()
    units: Units = Units.IMPERIAL
    mate: Body | None = None
    item: BoughtItem | None = None

    @property
    def bodies(self) -> tuple[Body, ...]:
        return (self.member, self.mate) if self.mate else (self.member,)

    def is_as(self, other: Fitting) -> bool:
        """Whether it is given the same things as another."""
        of = ((self.record, self.member, self.mate, self.rules, self.item),
            (other.record, other.member, other.mate, other.rules, other.item))  # fmt: skip
        asked = (self.left, self.right, self.loads, self.joined, self.units)
        return all(a is b for a, b in zip(*of, strict=True)) and asked == (
            other.left, other.right, other.loads, other.joined, other.units)  # fmt: skip

    @property
    def length(self) -> float:
        return self.right - self.left


class AttachmentKind(msgspec.Struct, frozen=True):
    """A kind of attachment; `fits` says whether it goes on a member's section, `reading` tells in words what its values
    come to, where they can be misread. `places`: it sets things beside the member along its length, not only holes in
    it or plates at its ends. `rolls`: what it sets is short enough to stand on a member
    rolled to an arc. `crosses`, of a kind that takes two members, says whether two of them can have it. `beside`, of
    such a kind that does nothing to the other member and asks no more of it than how it lies beside its own: points of
    its own that all it asks of lies near."""

    name: str
    words: str
    params: type
    build: Callable[[Fitting], Contribution]
    fits: Callable[[Body], bool]
    help: str
    reading: Callable[[object, Units], str] = lambda params, units: ""
    places: bool = True
    rolls: bool = True
    crosses: Callable[[Body, Body], bool] | None = None
    beside: Callable[[Body], Vec] | None = None

    @property
    def repeats(self) -> bool:
        """Whether it is spread along the member, so that each piece of a split one has its own."""
        return issubclass(self.params, Spread)


BY = ("spacing", "count", "loads", "places")
FROM = ("left end", "right end", "centre")


class Spread(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Where a row of things stands along a member."""

    by: Annotated[
        str,
        About(
            "Spread by", unit="choice", choices=BY, help="A spacing, a count, where others frame in, or typed places."
        ),
    ] = "spacing"
    spacing: Annotated[float, About("Spacing", low=20, high=20_000)] = 609.6
    count: Annotated[int, About("Count", unit="count", low=1, high=2000)] = 2
    places: Annotated[str, About("Places", unit="spacings", help="Distances one from the next, such as 2', 3@4'.")] = ""
    start: Annotated[str, About("Measured from", unit="choice", choices=FROM)] = "left end"
    first: Annotated[float, About("First from the end", low=0, high=50_000)] = 304.8
    last: Annotated[float, About("Least to the other end", low=0, high=50_000)] = 76.2


def stations(fit: Fitup, fitting: Fitting, p: Spread, thing: str) -> list[float]:
    """x of each thing along the member; what does not fit any more is a finding, never steel in the air."""
    length = fitting.length
    room = length - p.first - p.last
    said = format_length(length, fitting.units)
    if p.by == "loads":
        found = [x for x in fitting.loads if fitting.left + 1 < x < fitting.right - 1]
        if not found:
            fit.look(f"Nothing frames into the {fitting.member.words}, so it has no {thing} at loads.")
        return found
    if p.by == "places":
        return _typed(fit, fitting, p, thing)
    if room < 0:
        fit.find(f"No {thing} fits the {fitting.member.words} any more: it is {said} long; give smaller end distances.")
        return []
    if p.by == "count":
        steps = [p.first + room * (n / (p.count - 1) if p.count > 1 else 0.5) for n in range(p.count)]
    else:
        number = math.floor(room / p.spacing + 1e-4) + 1
        slack = (room - (number - 1) * p.spacing) / 2 if p.start == "centre" else 0.0
        steps = [p.first + slack + n * p.spacing for n in range(number)]
    return _placed(fitting, p, steps)


def _typed(fit: Fitup, fitting: Fitting, p: Spread, thing: str) -> list[float]:
    try:
        gaps = parse_lengths(p.places, fitting.units)
    except UnitError as error:
        fit.find(str(error))
        return []
    steps, at = [], 0.0
    for gap in gaps:
        at += gap
        steps.append(at)
    if p.start == "centre" and steps:
        middle = (steps[0] + steps[-1]) / 2
        steps = [fitting.length / 2 + s - middle for s in steps]
    kept = [s for s in steps if 0.0 < s < fitting.length]
    if not gaps:
        fit.look(f"No places are typed for the {thing} of the {fitting.member.words}.")
    if len(kept) < len(steps):
        fit.find(
            f"{len(steps) - len(kept)} of {len(steps)} {thing} do not fit the {fitting.member.words} any more and are "
            f"left out.")  # fmt: skip
    return _placed(fitting, p, kept)


def _placed(fitting: Fitting, p: Spread, steps: list[float]) -> list[float]:
    if p.start == "right end":
        return sorted(fitting.right - s for s in steps)
    return [fitting.left + s for s in steps]
