"""What holds what, against a table made by hand."""

import pytest
from tests.check.test_rules import alone, beam, put

from uncus.check.ties import GROUND, Ties
from uncus.job.job import Job
from uncus.job.records import Connection, Member, Role
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.units import Units


@pytest.fixture
def job():
    return Job(frame(1, 1))


def ties(job) -> Ties:
    shop = build(job)
    return Ties(shop.assemblies, shop.connections, Units.IMPERIAL)


def joint(job, kind, member) -> str:
    return next(c.id for c in job.all(Connection) if c.kind == kind and c.member == member)


def test_from_a_piece_all_that_is_shop_fixed_to_it(job):
    column = next(m for m in job.all(Member) if m.role is Role.COLUMN)
    own = ties(job)
    steps = own.fixed_in_the_shop(column.id)
    plate = joint(job, "base plate", column.id)
    tabs = {c.id for c in job.all(Connection) if c.support == column.id}
    assert steps[0].piece == column.id and steps[0].tie is None
    assert {s.piece.partition("/")[0] for s in steps[1:]} == {plate, *tabs}
    assert all(s.deep == 1 and not s.tie.field and "weld" in s.tie.words for s in steps[1:])
    assert {t.words for t in own.at(f"{plate}/plate") if t.field} == {"4 3/4 F1554-36 anchor rods"}


def test_between_two_things_by_which_welds_and_bolts(job):
    m, own = beam(job), ties(job)
    c = next(c for c in job.all(Connection) if c.member == m.id)
    steps = own.between(m.id, c.support)
    assert [s.tie.said for s in steps[1:]] == ["3 3/4 A325 bolts, on site", steps[2].tie.said]
    assert steps[2].tie.said.startswith("fillet weld 1/4") and steps[2].tie.said.endswith("in the shop")
    assert [s.piece.partition("/")[0] for s in steps] == [m.id, c.id, c.support]
    assert own.between(m.id, GROUND)[-1].tie.words.endswith("anchor rods")
    assert own.between(m.id, "nothing") == []


def test_loose_hanging_and_standing(job):
    alone(job)
    own, girder = ties(job), job.get("girder", Member)
    (lot,) = own.loose()
    assert {"girder", "joist"} < set(lot) and len(lot) == 3
    assert own.hanging(job.get("joist", Member)).maker == "tie"
    assert own.hanging(girder) is None, "held amid its length"
    m = beam(job)
    assert own.hanging(m) is None
    put(job, drop=[next(c.id for c in job.all(Connection) if c.member == m.id)])
    assert ties(job).hanging(m) is not None
    assert own.between("joist", m.id) == [], "not by way of the ground"


def test_a_frame_that_stands_on_nothing_holds_to_its_largest_lot(job):
    put(job, drop=[c.id for c in job.all(Connection) if c.kind == "base plate"])
    assert ties(job).loose() == []
    alone(job)
    assert len(ties(job).loose()) == 1
