"""The sample job as people open it: what was promised is there, stands, and has nothing that a check would tell."""

import pytest

from uncus.check.checking import look
from uncus.check.looked import Looked
from uncus.job.composites import Composite
from uncus.job.job import Job
from uncus.job.records import Member
from uncus.sample.outside import whole
from uncus.shop.shop import build
from uncus.steel.joint import Severity
from uncus.units import Units

PROMISED = {
    "stair with a landing": {"outside"},
    "winding stair": {"lookout"},
    "rail": {"gallery", "lookout", "lower flight", "upper flight"},
    "transition": {"hopper"},
    "grating": {"lake side", "corner", "end", "lookout"},
}


@pytest.mark.parametrize("units", [Units.IMPERIAL, pytest.param(Units.METRIC, marks=pytest.mark.long)])
def test_all_that_was_promised_stands_and_nothing_is_wrong(units):
    job = Job(whole(units))
    there = {kind: {c.name for c in job.all(Composite) if c.kind == kind} for kind in PROMISED}
    assert there == PROMISED
    shop = build(job)
    assert not list(shop.all_findings)
    found = look(Looked(job, shop)).found
    assert not [f.text for f in found if f.severity is not Severity.SAVING]
    stair = next(c for c in job.all(Composite) if c.name == "outside")
    own = [m for m in job.all(Member) if m.maker == stair.id]
    assert max(m.start[2] for m in own) > 3000.0 > min(m.start[2] for m in own)
