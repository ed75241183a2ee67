"""Jobs that test sheets: one joint of every kind side by side, and a building of skewed and sloping pieces."""

import msgspec
from tests.connect.sound import LEVEL, beam, column, girder
from tests.connect.test_kinds import (
    BIG,
    BOX,
    BRACES,
    FLANGE,
    WEB,
    at_each_gusset,
    beside_web,
    brace,
    in_plan,
)

from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Double, End, Leg, Line, Member, Project, Role
from uncus.job.start import SERIES, usual_rules
from uncus.lens.office import connect
from uncus.units import Units

replace = msgspec.structs.replace
_APART = 40_000.0  # mm


def _situations():
    """Kind, members (and joints they need), what else the joint is told, and its values."""
    for turn, slope in ((0, 0), (25, 0), (-35, 0), (0, 12), (20, -8)):
        for support in (FLANGE, girder("W21X44")):
            yield "shear tab", [support, beam(turn, slope=slope)], {}, {}
    yield "shear tab", [WEB, beam(180, "W8X18")], {}, {}
    for support in (FLANGE, WEB, BOX):
        yield "double angle", [support, beam(0)], {}, {}
        yield "seat", [support, beam(0)], {}, {}
    yield "double angle", [girder("W21X44"), beam(0, "C12X20.7")], {}, {"to_beam": "welded"}
    yield "double angle", [girder("W21X44"), beam(30, slope=8)], {}, {}
    yield "seat", [BIG, beam(15, slope=-12, start=(188.0, 0.0))], {}, {"to_support": "bolted"}
    yield "flange plates", [WEB, beam(0, "W18X35")], {}, {}
    yield "flange plates", [BIG, beam(15, "W18X35", 10, start=(188.0, 0.0))], {}, {}
    yield "welded moment", [WEB, beam(180, "W18X35")], {}, {}
    yield "welded moment", [BIG, beam(-20, "W18X35", -12, start=(188.0, 0.0))], {}, {}
    yield "moment end plate", [BIG, beam(20, "W18X35", 12, start=(188.0, 0.0))], {}, {}
    yield "through plate", [BOX, beam(15)], {}, {}
    yield "shear end plate", [girder("W21X44"), beam(30)], {}, {}
    yield "shear end plate", [FLANGE, beam(0, slope=10)], {}, {"shims": 6.0}
    yield "moment end plate", [FLANGE, beam(0, "W18X35", 10)], {}, {"layout": "past the top", "doubler": "both sides"}
    yield "flange plates", [FLANGE, beam(180, "W18X35")], {}, {"doubler": "near side"}
    yield "welded moment", [FLANGE, beam(0, "W18X35")], {}, {}
    yield "knee", [column("W14X53", roll=90, top=3000.0), beam(0, "W18X35", 14)], {}, {"deep": 300.0, "long": 1500.0}
    yield "end tee", [BOX, beam(20, "HSS6X4X1/4", 25, LEVEL - 200, line=Line.CENTRE)], {}, {"columns": 2}
    for tube in (BOX, column("PIPE8STD")):
        yield "through plate", [tube, beam(0)], {}, {}
    low, high = (0.0, 0.0, 4000.0), (0.0, 0.0, 8000.0)
    upper = Member(id="beam", role=column().role, section="W12X65", start=low, end=high)
    yield "column splice", [column("W12X87", top=4000.0), upper], {}, {}
    yield "beam splice", [beam(180, "W16X40", id="support", right=True), beam(0, "W16X31")], {}, {"web_lines": 2}
    for section, more in (("HSS6X6X1/4", {}), ("L4X3X3/8", {"double": Double()}), ("WT6X20", {})):
        line = {"line": Line.CENTRE, **more}
        yield "brace splice", [beam(180, section, id="support", right=True, **line), beam(0, section, **line)], {}, {}
    yield "apex", [beam(180, "W14X22", -14, id="support", right=True), beam(0, "W14X22", -20)], {}, {"deep": 200.0}
    post = column("HSS8X8X1/4", id="beam", top=4000.0)
    post = replace(post, start=post.end, end=post.start)
    yield "cap plate", [girder("W16X40", z=4500.0), post], {}, {"bolts": 2}
    yield "base plate", [column("PIPE8STD", id="beam", roll=30.0)], {"support": None}, {"lug": 100.0, "grout": 30.0}
    for section, more in (
        BRACES[0],
        BRACES[3],
        BRACES[4],
        BRACES[7],
        BRACES[9],
        ("L5X3X3/8", {"double": Double(leg=Leg.SHORT)}),
    ):
        for kind, members, roles in at_each_gusset(section, more, False, {}):
            yield kind, members, roles, {}
    for name in ("L4X4X3/8", "HSS4X4X1/4"):
        members, roles = in_plan(70, name)
        yield "plan gusset", members, roles, {}
    for kind, members, roles in list(at_each_gusset("W8X31", {"line": Line.CENTRE}, False, {}))[-3:-2]:
        yield kind, members, roles, {}
    floor, post = beam(0, "W16X31", id="floor"), column("W14X90", roll=90, id="col")
    one = beside_web(brace("HSS6X6X1/4", (3500.0, 0.0, 5600.0), line=Line.CENTRE), floor, "near")
    yield "gusset and tab", [post, floor, one], {"support": "col", "others": ("floor",)}, {"side": "near"}


def truss(
    panels=4, panel=1500.0, deep=1500.0, y=0.0, post="", name="truss", z=3000.0, chord="HSS8X8X3/8", web="HSS3X3X1/4"
) -> list:
    """A Warren truss of tubes welded in the shop, with posts over the panel points of its lower chord where asked
    for."""
    low, high = (
        [(panel * n, y, z) for n in range(panels + 1)],
        [(panel * (n + 0.5), y, z + deep) for n in range(panels)],
    )
    shape, chord = web, {"role": Role.BEAM, "section": chord}
    ends = (low[0], low[-1]), (high[0] if not post else (0.0, y, z + deep), high[-1])
    past = {"low": 250.0, "high": 180.0}  # chords run on past their last webs, each by its own
    found = [
        Member(id=f"{name}-{n}", start=(a[0] - past[n], *a[1:]), end=(b[0] + past[n] + 20.0, *b[1:]), **chord)
        for n, (a, b) in zip(("low", "high"), ends, strict=True)
    ]
    webs = [(low[n], high[n]) for n in range(panels)] + [(high[n], low[n + 1]) for n in range(panels)]
    webs += [(low[0], (0.0, y, z + deep))] if post else []
    for n, (a, b) in enumerate(webs):
        web = f"{name}-{n}"
        found.append(Member(id=web, role=Role.BRACE, section=post or shape, start=a, end=b))
        for end, at in ((End.LEFT, a), (End.RIGHT, b)):
            support = f"{name}-{'low' if at[2] == z else 'high'}"
            found.append(Connection(id=f"{web}-{end}", kind="welded end", member=web, end=end, support=support))
    return found


def _placed(record, number: int):
    """A record of one situation among the others: its own ids, its own place."""

    def own(id):
        return f"{number}-{id}" if id is not None else None

    if isinstance(record, Member):
        (x, y, z), (a, b, c) = record.start, record.end
        dx = number * _APART
        return replace(record, id=own(record.id), start=(x + dx, y, z), end=(a + dx, b, c))
    ends = {"support": own(record.support), "others": tuple(map(own, record.others))}
    return replace(record, id=own(record.id), member=own(record.member), **ends)


def gallery(units: Units = Units.IMPERIAL) -> list:
    """The job's records."""
    found = [Project(name="Gallery", number="8", units=units), usual_rules(units), *SERIES]
    for number, (kind, members, roles, params) in enumerate(_situations()):
        joint = {"support": "support", "others": (), **roles}
        joins = Connection(id="c", kind=kind, member="beam", end=End.LEFT, params=params, **joint)
        found += [_placed(one, number) for one in (*members, joins)]
    posts = ("stiffeners", "nailer holes", "shelf plates", "lifting lugs", "outriggers", "studs", "edge plates",
        "safety holes", "end plates")  # fmt: skip
    for number, kind in enumerate(posts):
        one = beam(0, "W16X31", id=f"at-{kind}", start=(0.0, -60_000.0 - number * _APART))
        found += [one, Attachment(id=f"on-{kind}", member=one.id, kind=kind, params={})]
    for n, values in enumerate(({}, {"anchors": "straps"}, {"rows": 3, "columns": 1, "gage": 60.0, "side": "near"})):
        wall = Member(id=f"wall{n}", role=Role.EMBED, section="PL3/4X12", start=(0.0, -70_000.0 - n * _APART, 0.0),
            end=(0.0, -70_000.0 - n * _APART, 400.0), aside=9.525)  # fmt: skip
        found += [wall, Attachment(id=f"anchors{n}", member=wall.id, kind="concrete anchors", params=values)]
    round_ = truss(2, 2000.0, 1600.0, -54_000.0, name="round", chord="PIPE8STD", web="HSS4.000X0.250")
    square = truss(5, 1800.0, 1300.0, -52_000.0, "HSS2-1/2X2-1/2X1/4", "other")
    return [*found, *truss(y=-50_000.0), *square, *round_]


def hard() -> list:
    """Skewed, sloping, rolled and deep pieces of every form, with attachments, in metric."""
    columns = [Member(id=f"c{i}", role=Role.COLUMN, section="HEB240", start=(x, y, 0), end=(x, y, 8000)) for i, (x, y)
        in enumerate(((0, 0), (7200, 0), (0, 6000), (7200, 6000)))]  # fmt: skip
    girders = [
        Member(id=f"g{i}", role=Role.BEAM, section="IPE400", start=(x, 0, 4000), end=(x, 6000, 4000), line=Line.TOP)
        for i, x in enumerate((0.0, 7200.0))
    ]
    skewed = [
        Member(id=f"s{i}", role=Role.BEAM, section=name, start=(0, y0, 4000), end=(7200, y1, 4000), line=Line.TOP)
        for i, (name, y0, y1) in enumerate((("IPE300", 1000, 2500), ("IPE270", 4500, 3000), ("UPN200", 5200, 5200)))
    ]
    sloped = [
        Member(id="r", role=Role.RAFTER, section="IPE330", start=(0, 0, 6000), end=(0, 6000, 7400), line=Line.TOP)
    ]
    fixed = [
        Attachment(id="n", member="g0", kind="nailer holes", params={}),
        Attachment(id="t", member="g1", kind="stiffeners", params={"by": "count", "count": 2, "last": 2600.0}),
        Attachment(id="u", member="s0", kind="safety holes", params={"by": "count"}),
    ]
    members = [*columns, *girders, *skewed, *sloped]
    records = [
        Project(name="Hard", number="9", units=Units.METRIC),
        usual_rules(Units.METRIC),
        *SERIES,
        *members,
        *fixed,
    ]
    return [*records, *connect(Job(records), [m.id for m in members]).made]
