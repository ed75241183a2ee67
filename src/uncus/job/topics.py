"""What is talked over with others about a job: topics as BCF knows them, with remarks and the view they are seen in."""

from __future__ import annotations

import msgspec

from uncus.job.record import FAR, Point, Record

SETTLED = frozenset({"closed", "resolved", "solved", "done", "fixed", "cancelled"})  # states that ask for nothing more


class Remark(msgspec.Struct, frozen=True):
    """What somebody said of a topic; `on` is date and time (ISO 8601)."""

    id: str
    by: str
    on: str
    text: str


class Viewed(msgspec.Struct, frozen=True):
    """Where a topic is seen from: the eye and the way it looks (model, mm), its `angle` in degrees or, of a view
    without perspective, the `height` that it shows; planes that cut off what lies in their direction; the GlobalIds of
    what is picked out."""

    eye: Point
    way: Point
    up: Point
    angle: float = 60.0
    height: float = 0.0
    cuts: tuple[tuple[Point, Point], ...] = ()
    pieces: tuple[str, ...] = ()


class Topic(Record, frozen=True, tag=True):
    """Something that is asked or told of a job; its id is `topic:` and its GUID.

    `finding` is the key of what a rule found, where it is about that; `about` are the pieces it picks out, by our ids;
    `by` and `on` tell who brought it up and when.
    """

    guid: str
    title: str
    text: str = ""
    kind: str = ""
    status: str = "Open"
    by: str = ""
    on: str = ""
    finding: str = ""
    about: tuple[str, ...] = ()
    remarks: tuple[Remark, ...] = ()
    view: Viewed | None = None

    @property
    def settled(self) -> bool:
        """Whether nothing more is asked."""
        return self.status.strip().casefold() in SETTLED

    @property
    def at(self) -> Point | None:
        """What it looks at, as near as its view tells: the middle between its cuts, else what is before the eye."""
        view = self.view
        if view is None:
            return None
        if len(view.cuts) >= 2:
            n = len(view.cuts)
            x, y, z = (sum(place[k] for place, _ in view.cuts) / n for k in range(3))
            return x, y, z
        ahead = view.height or 5000.0
        x, y, z = (view.eye[k] + view.way[k] * ahead for k in range(3))
        return x, y, z

    def problem(self) -> str | None:
        if not self.title.strip():
            return "A topic needs its title."
        view = self.view
        if view is not None:
            numbers = (view.eye, view.way, view.up, (view.angle, view.height), *(p for cut in view.cuts for p in cut))
            if not all(abs(v) <= FAR for some in numbers for v in some):  # nor what is no number
                return "A topic is seen from farther away than any building is large."
        return None
