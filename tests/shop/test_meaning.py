"""What values measure, shown on the steel: found for every kind's lengths, and true where it is found."""

from collections import defaultdict

import numpy as np
import pytest
from msgspec.structs import replace

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kinds import KINDS
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.job.forms import checked, fields
from uncus.job.job import Job
from uncus.job.records import Connection, End, Line, Member, Project, Role, ShopRules
from uncus.sample.joints import joints
from uncus.shop.choices import frame_pictures, pictures
from uncus.shop.meaning import measure, measure_frame
from uncus.shop.shop import build
from uncus.units import Units

# lengths by which nothing goes in any joint of the gallery: they are for other values of its choices
ELSEWHERE = {
    "lap", "weld", "clear", "margin", "spacing", "last", "high", "gage", "apart", "rod_length", "doubler_thickness",
    "continuity_thickness", "end_edge", "pitch", "edge", "support_gage", "thickness", "gap", "lug", "setback", "over",
    "slot",
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


def test_choices_have_pictures_of_the_joint_as_it_would_be():
    """Of every kind in the gallery; none where a choice shows in words alone, such as the bolts' own."""
    of, seen = set(), set()
    for _, records in joints():
        job = Job(records)
        shop, record = build(job), job.records["joint"]
        params = (KINDS if isinstance(record, Connection) else ATTACHMENTS)[record.kind].params
        values = checked(params, record.params)
        for name in (n for n, a in fields(params).items() if a.choices and (record.kind, n) not in seen):
            of.add((record.kind, name))
            found = pictures(shop, record, name)
            if not found:
                continue
            first = record.kind not in {kind for kind, _ in seen}
            seen.add((record.kind, name))
            assert found.keys() <= set(fields(params)[name].choices)
            if not first:
                continue
            other = next(words for words in found if words != getattr(values, name))
            put = replace(record, params={**record.params, name: other})
            again = pictures(build(Job([put if r is record else r for r in records])), put, name)
            assert again[other].like(found[other]), (record.kind, name)
    assert len(seen) > 0.6 * len(of) and len({kind for kind, _ in seen}) > 0.85 * len({kind for kind, _ in of})


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


PICKS = {
    2: [(0, 0, 0), (12_000.0, 0, 4_000.0)],
    3: [(0, 0, 3_000.0), (0, 12_000.0, 3_000.0), (6_000.0, 0, 4_000.0)],
    4: [(0, 0, 0), (6_000.0, 300.0, 0), (6_500.0, 5_000.0, 0), (0, 5_200.0, 0)],
}
CASES = (  # and what has no two places so far apart along its own way: what moves is shown
    ("portal frame", {"haunch": 1_500.0}, ()),
    ("bay of bracing", {"pair": "back to back", "drop": 100.0, "lift": 150.0}, ("gap", "spacing")),
    ("bracing between four corners", {"pair": "star"}, ("gap", "spacing")),
    ("run of purlins or girts", {"first": 200.0, "last": 300.0}, ("largest",)),
    ("flat truss", {}, ("gap",)),
    ("flat truss", {"form": "pitched", "depth": 400.0}, ("gap",)),
    ("flat truss", {"form": "scissors"}, ("gap", "inset")),
    ("plate in a wall", {"up": 60.0}, ("up",)),
)


@pytest.mark.parametrize("name", BY_NUMBERS)
def test_what_a_frame_is_chosen_from_has_pictures(name):
    """Where the choice shows in lines: not which of two braces is cut, nor on which leg one lies."""
    kind = BY_NUMBERS[name]
    of = {n for n, a in fields(kind.params).items() if a.choices}
    seen = {n for n in of if len(frame_pictures(kind, kind.params(), (), Units.IMPERIAL, n)) > 1}
    assert of - seen <= {"pair", "turnbuckles", "crossing", "ends", "role", "line", "below", "leg"} and (seen or not of)


def test_every_frame_by_numbers_is_among_the_cases():
    assert {name for name, *_ in CASES} == BY_NUMBERS.keys()


@pytest.mark.parametrize("units", Units)
@pytest.mark.parametrize(("name", "having", "moving"), CASES)
def test_every_length_of_a_frame_by_numbers_is_shown_before_it_is_made(name, having, moving, units):
    kind = BY_NUMBERS[name]
    about, given = fields(kind.params), {} if units is Units.IMPERIAL else dict(kind.metric)
    values = checked(kind.params, given | having)
    lengths = [name for name, a in about.items() if a.unit == "length" and a.counts(values)]
    assert lengths
    for name in lengths:
        m = measure_frame(kind, values, PICKS[len(kind.picks)], units, name)
        assert m is not None and bool(m.moved or m.path) == (name in moving), name
        if name not in moving:
            assert np.linalg.norm(m.b - m.a) == pytest.approx(abs(getattr(values, name)), abs=0.1), name
