"""What values measure, shown on the steel: found for every kind's lengths, and true where it is found."""

from collections import defaultdict

import numpy as np
import pytest
from msgspec.structs import replace

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kinds import KINDS
from uncus.job.forms import checked, fields
from uncus.job.job import Job
from uncus.job.records import Connection, End, Line, Member, Project, Role, ShopRules
from uncus.sample.joints import joints
from uncus.shop.meaning import measure
from uncus.shop.shop import build

# lengths by which nothing goes in any joint of the gallery: they are for other values of its choices
ELSEWHERE = {
    "lap", "weld", "clear", "margin", "spacing", "last", "high", "gage", "apart", "rod_length", "doubler_thickness",
    "continuity_thickness", "end_edge", "pitch", "edge", "support_gage", "thickness", "gap", "lug", "setback", "over",
}  # fmt: skip


@pytest.fixture(scope="module")
def found():
    """Of each kind's lengths, what was found in any joint of the gallery."""
    seen = defaultdict(list)
    for words, records in joints():
        job = Job(records)
        shop, record = build(job), job.records["joint"]
        kind = (KINDS if isinstance(record, Connection) else ATTACHMENTS)[record.kind]
        values = checked(kind.params, record.params)
        for name, about in fields(kind.params).items():
            if about.unit == "length" and about.counts(values):
                seen[record.kind, name].append((words, getattr(values, name), measure(shop, record, name)))
    return seen


def test_every_length_of_every_kind_is_shown_on_the_steel(found):
    missing = {key for key, all_of in found.items() if all(m is None for *_, m in all_of)}
    assert {name for _, name in missing} <= ELSEWHERE and len(missing) < 0.13 * len(found)
    kinds = {kind for kind, _ in found}
    assert kinds == {kind for kind, _ in found.keys() - missing}, "each kind shows some"
    dimensions = sum(m is not None and not m.moved for all_of in found.values() for *_, m in all_of)
    assert dimensions > 0.68 * sum(map(len, found.values()))


def test_what_is_shown_is_as_long_as_the_value(found):
    for key, all_of in found.items():
        for words, value, m in all_of:
            if m is not None and not m.path and not m.moved:
                assert np.linalg.norm(m.b - m.a) == pytest.approx(abs(m.value), abs=0.01), (key, words)
                if value:
                    assert abs(m.value) == pytest.approx(abs(value), abs=0.1), (key, words)


def test_a_pitch_and_an_edge_by_hand():
    """A tab's bolts, three inches apart: the dimension stands between two of them, or holes of them."""
    post = Member(id="post", role=Role.COLUMN, section="W14X90", start=(0, 0, 0), end=(0, 0, 6000.0), roll=90.0)
    beam = Member(id="beam", role=Role.BEAM, section="W18X35", start=(0, 0, 4000.0), end=(8000.0, 0, 4000.0),
        line=Line.TOP)  # fmt: skip
    joint = Connection(id="c", kind="shear tab", member="beam", end=End.LEFT, support="post", params={"pitch": 80.0})
    shop = build(Job([Project(), ShopRules(), post, beam, joint]))
    m = measure(shop, joint, "pitch")
    assert np.allclose(np.abs(m.b - m.a), (0, 0, 80.0), atol=0.01)
    bolts = [np.array(p) for p in shop.connections["c"].fasteners[0].points]
    assert min(np.linalg.norm((p - m.b)[[0, 2]]) for p in bolts) < 45.0, "at the bolts, not anywhere"
    m = measure(shop, replace(joint, params={}), "pitch")
    assert np.linalg.norm(m.b - m.a) == pytest.approx(76.2, abs=0.01), "as the shop has it"
    assert measure(shop, replace(joint, kind="of another age"), "pitch") is None
