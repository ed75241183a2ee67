"""What stands about the boathouse: a gallery round its lake side and its corner, with grating and a rail; an outside
stair whose landing turns it half round; a lookout with a curved stair between climbing channels; a rainwater hopper."""

from __future__ import annotations

from functools import partial

import numpy as np

from uncus.catalog.sections import section
from uncus.compose import dogleg
from uncus.compose.following import amended
from uncus.compose.grating import ACROSS, ALONG
from uncus.compose.kind import part_id
from uncus.compose.kinds import COMPOUNDS
from uncus.compose.making import given_to, hung_on
from uncus.frame.axes import member_frame
from uncus.frame.placement import Vec, point_of
from uncus.job.composites import Anchor, Composite
from uncus.job.job import Job
from uncus.job.records import AnyRecord, Attachment, Line, Member, Role, derived_id
from uncus.sample.boathouse import AISLES, BAYS, EAVES, FLOOR, METRIC, frame_records
from uncus.sample.frames import connected, placed
from uncus.units import FOOT, INCH, Units

_member = partial(placed, "outside")
_SHAPES = {
    Units.IMPERIAL: ("W8X18", "W10X22", "C10X15.3", "HSS5X5X1/4"),
    Units.METRIC: ("IPE240", "IPE270", "UPN240", "HFRHS100X100X6"),
}
RULE = {Units.IMPERIAL: "OSHA, standard stairs", Units.METRIC: "ISO 14122-3"}
_OUT = 25.0  # mm by which a rail's posts stand out of the middle of their beams, beside the grating


class Site:
    """The boathouse's measures in a job's units, and the shapes used about it."""

    def __init__(self, units: Units) -> None:
        self.units = units
        self.scale = METRIC if units is Units.METRIC else 1.0
        self.beam, self.girder, self.channel, self.post = _SHAPES[units]
        self.xs = [self.foot(0), *np.cumsum([b * self.scale for b in BAYS]).tolist()]
        self.north = sum(AISLES) * self.scale
        self.floor, self.lookout = FLOOR * self.scale, self.foot(9)
        self.grating = COMPOUNDS["grating"].metric["depth"] if units is Units.METRIC else 31.75

    def foot(self, feet: float) -> float:
        return feet * FOOT * self.scale

    def under(self, shape: str) -> float:
        """How far the head of a post stands under the top of a beam that it carries, its cap plate between."""
        return section(shape).d + 0.62 * INCH

    def made(self, kind: str, name: str, anchors: tuple[Anchor, ...], **params: object) -> Composite:
        """A composite with the kind's usual values in the job's units, and some of its own."""
        usual = dict(COMPOUNDS[kind].metric) if self.units is Units.METRIC else {}
        return Composite(id=derived_id("outside", kind, name), kind=kind, name=name, anchors=anchors,
            params={**usual, **params})  # fmt: skip


def _gallery(site: Site) -> list[Member]:
    """Beams from the columns out over posts, and others between these, along the lake side and round the corner."""
    z, past = site.floor, site.foot(1)
    y0, y1, x1 = site.north, site.north + site.foot(5), -site.foot(5)
    beam = partial(_member, Role.BEAM, site.beam, lot="2")
    inner = site.foot(4)  # posts stand a foot inside the edge
    spots = [(x, y0 + inner) for x in site.xs] + [(-inner, y0), (-inner, y0 / 2), (x1 + site.foot(1), y1)]
    head = z - site.under(site.beam)
    found = [_member(Role.POST, site.post, (x, y, 0.0), (x, y, head), Line.CENTRE) for x, y in spots]
    found += [beam((x, y0, z), (x, y1 + past, z)) for x in site.xs]
    found += [beam((0.0, y, z), (x1 - past, y, z)) for y in (y0, y0 / 2)]
    found += [beam((a, y1, z), (b, y1, z)) for a, b in zip(site.xs, site.xs[1:], strict=False)]
    found += [
        beam((0.0, y1, z), (x1 - past, y1, z)),
        beam((x1, y0, z), (x1, y1, z)),
        beam((x1, y0 / 2, z), (x1, y0, z)),
    ]
    return found


def _lookout(site: Site) -> list[Member]:
    """A platform on four posts before the boat bays; the channel along its south side turns its back to the stair."""
    z, past = site.lookout, site.foot(1)
    x0, x1, y0, y1 = site.foot(8), site.foot(16), -site.foot(20), -site.foot(12)
    head = z - site.under(site.girder)
    found = [_member(Role.POST, site.post, (x, y, 0.0), (x, y, head), Line.CENTRE)
        for x in (x0, x1) for y in (y0 + past, y1 - past)]  # fmt: skip
    found += [_member(Role.BEAM, site.girder, (x, y0 - past, z), (x, y1 + past, z), lot="2") for x in (x0, x1)]
    found += [_member(Role.BEAM, site.beam, (x0, y, z), (x1, y, z), lot="2") for y in ((y0 + y1) / 2, y1)]
    s = section(site.channel)
    at = y0 + s.b / 2, z - s.d / 2
    return [*found, _member(Role.BEAM, site.channel, (x0, *at), (x1, *at), Line.CENTRE, lot="2")]


def _under(beams: list[Member], a: Vec, b: Vec) -> Member:
    """The beam that lies under a stretch of a path. Raises LookupError."""
    for m in beams:
        start = np.asarray(m.start)
        way = np.subtract(m.end, start)
        along, across = (
            np.array([p - start for p in (a, b)]) @ v / np.linalg.norm(way) for v in (way, (-way[1], way[0], 0))
        )
        if np.abs(across).max() < 80.0 and along.min() > -200.0 and along.max() < np.linalg.norm(way) + 200.0:
            return m
    raise LookupError(f"no beam under {a} to {b}")


def _railed(
    site: Site, name: str, path: list[tuple[float, float]], z: float, members: list[Member], **params: object
) -> Composite:
    """A rail along the tops of beams at a height, whichever lies under each stretch of its path."""
    beams = [m for m in members if m.role is Role.BEAM and abs(m.start[2] - z) < 200.0]
    points = [np.array([x, y, z]) for x, y in path]
    hosts = [_under(beams, a, b) for a, b in zip(points, points[1:], strict=False)]
    anchors = tuple(hung_on(p, host, "top") for p, host in zip(points, [*hosts, hosts[-1]], strict=True))
    height = 42 * INCH if site.units is Units.IMPERIAL else 1100.0
    params |= {
        "height": height + site.grating,
        "foot": "welded on",
        "rule": RULE[site.units],
        "toe": 4 * INCH,
        "rails": 1 if site.units is Units.IMPERIAL else 2,
    }
    return site.made("rail", name, anchors, aside=-_OUT, **params)


def _gallery_floor(site: Site, members: list[Member]) -> list[AnyRecord]:
    """Grating in three panels, cut round the columns, and the rail along the outer edge and round the corner."""
    z, y0, y1, x1, end = site.floor, site.north, site.north + site.foot(5), -site.foot(5), site.xs[-1]
    edge = 5.0  # from the middles of the beams, of which each side carries its own
    top = z + site.grating
    columns = [(x, y0) for x in site.xs]

    def panel(name: str, *at: tuple[float, float], bearing: str) -> Composite:
        anchors = tuple(Anchor((*p, top)) for p in at)
        return site.made("grating", name, anchors, clear=14 * INCH, bearing=bearing)

    path = [(end, y1), *((x, y1) for x in reversed(site.xs[:-1])), (x1, y1), (x1, y0), (x1, y0 / 2)]
    return [
        panel("lake side", (edge, y0 + edge), (end - edge, y1 - edge), *columns, bearing=ACROSS),
        panel("corner", (x1 + edge, y0 + edge), (-edge, y1 - edge), (0.0, y0), bearing=ACROSS),
        panel("end", (x1 + edge, y0 / 2 + edge), (-edge, y0 - edge), (0.0, y0), (0.0, y0 / 2), bearing=ALONG),
        _railed(site, "gallery", path, z, members, corners="bent", from_end=site.foot(1), removable="2"),
    ]


def _stair(site: Site, members: list[Member]) -> list[AnyRecord]:
    """The outside stair up to the gallery's end, its upper flight bolted to the web of the last beam, and a rail up
    either flight's outer stringer."""
    end, imperial = site.xs[-1], site.units is Units.IMPERIAL
    head = next(m for m in members if m.section == site.beam and m.start[0] == end == m.end[0])
    top = np.array([end + section(site.beam).b / 2, site.north + site.foot(2.5), site.floor + site.grating])
    on = hung_on(top, head, "top")
    job = Job([*frame_records(site.units), *members])

    def stair(foot: Vec) -> Composite:
        anchors = Anchor(point_of(foot)), Anchor(point_of(foot + (1000.0, 0.0, 0.0))), on
        return site.made("stair with a landing", "outside", anchors, turns=dogleg.BACK_LEFT,
            head="on a beam's web, with a tab", tread="grating", tread_thickness=site.grating, held="bolted",
            between=site.foot(1.2), going=279.4 if imperial else 280.0)  # fmt: skip

    trial = dogleg.laid_out(given_to(stair(np.zeros(3)), job.records)).second
    last = trial.at.to_model(((trial.risers - 1) * trial.going, 0.0, 0.0))
    made = stair(np.array([*(top - last)[:2], 0.0]))
    return [made, *_stair_rails(site, made, job)]


def _stair_rails(site: Site, stair: Composite, job: Job) -> list[Composite]:
    """Along the outer stringer of each flight, which is the right one of a stair that turns to the left."""
    given = given_to(stair, job.records)
    found = []
    for flight in (laid := dogleg.laid_out(given)).first, laid.second:
        key = f"{flight.name} right stringer"
        on = dogleg.build(given)[key]
        assert isinstance(on, Member)
        y = -(given.params.width + section(given.params.stringer).b) / 2
        ends = (
            flight.at.to_model((x, y, flight.nosing(x) + given.params.over))
            for x in (flight.going, (flight.risers - 1.5) * flight.going)
        )
        anchors = tuple(hung_on(p, on) for p in ends)
        found.append(
            site.made("rail", f"{flight.name} flight", anchors, foot="welded on", rule=RULE[site.units], rails=2)
        )
    return found


def _lookout_works(site: Site, members: list[Member]) -> list[AnyRecord]:
    """The lookout's grating, its rail and the curved stair up to it."""
    z, top = site.lookout, site.lookout + site.grating
    x0, x1, y0, y1 = site.foot(8), site.foot(16), -site.foot(20), -site.foot(12)
    inner, outer, turn = site.foot(2), site.foot(5), 150.0
    axis = np.array([x0 - site.foot(1.2), y0, 0.0])
    south = next(m for m in members if m.section == site.channel)
    first = axis + np.array([np.cos(np.radians(-turn)), np.sin(np.radians(-turn)), 0.0]) * outer
    stair = site.made("winding stair", "lookout", (Anchor(point_of(axis)), Anchor(point_of(first)),
        hung_on(np.array([axis[0] + outer, y0, top]), south, "top")), about="between two stringers", turn=turn,
        stringer=site.channel, inner=inner, outer=outer, head="against a face, with an end plate",
        rule="OSHA, standard stairs" if site.units is Units.IMPERIAL else "comfort alone")  # fmt: skip
    half = section(site.channel).b / 2 + _OUT
    path = [(axis[0] + outer + site.foot(0.6), y0 + half), (x1, y0 + half), (x1, y1), (x0, y1), (x0, y0)]
    return [
        site.made("grating", "lookout", (Anchor((x0 + 5.0, y0 + 5.0, top)), Anchor((x1 - 5.0, y1 - 5.0, top)))),
        stair,
        _railed(site, "lookout", path, z, members, from_end=site.foot(0.75)),
    ]


def _hopper(site: Site, members: list[AnyRecord]) -> list[AnyRecord]:
    """A square to round hopper out of centre under the eaves, its flange welded to a column."""
    x, wide, t = site.xs[-2], site.foot(1), 4.7625 if site.units is Units.IMPERIAL else 5.0
    column = next(
        m for m in members if isinstance(m, Member) and m.role is Role.COLUMN and np.allclose(m.start[:2], (x, 0.0))
    )
    frame, s = member_frame(column, section(column.section)), section(column.section)
    reach = abs(float(frame.y[1])) * s.b / 2 + abs(float(frame.z[1])) * s.d / 2
    flange = 2 * INCH if site.units is Units.IMPERIAL else 50.0
    high = EAVES * site.scale - site.foot(2)
    middle = np.array([x, -(reach + flange + t + wide / 2), high])
    outlet = middle + np.array([site.foot(0.25), site.foot(0.2), -site.foot(1)])
    hopper = site.made("transition", "hopper", (Anchor(point_of(middle)), Anchor(point_of(outlet))), first_wide=wide,
        first_deep=wide, second_wide=wide / 3, flange="at the first end", flange_width=flange, thickness=t,
        flange_hole=0.0)  # fmt: skip
    weld = Attachment(id=derived_id("outside", "hopper"), kind="welded on", member=part_id(hopper.id, "end 1 flange"),
        mate=column.id)  # fmt: skip
    return [hopper, weld]


def whole(units: Units = Units.IMPERIAL) -> list[AnyRecord]:
    """The sample job as it is opened: the boathouse and what stands about it, connected and not yet marked."""
    site = Site(units)
    members = [*_gallery(site), *_lookout(site)]
    base = connected([*frame_records(units), *members], without=("knee",))
    job = Job(base)
    job.amend(amended)
    works = _gallery_floor(site, members), _stair(site, members), _lookout_works(site, members), _hopper(site, base)
    for own in works:
        with job.change("outside") as change:
            for record in own:
                change.put(record)
    return list(job.records.values())
