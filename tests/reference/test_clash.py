"""Steel held against others' models: what stands in them is found, what touches them or is not shown is not."""

import numpy as np
import pytest

from tests.reference.made_up import Written, moved
from uncus.check.looked import Looked
from uncus.check.rule import NoValues
from uncus.check.rules.others import KIND
from uncus.job.job import Job
from uncus.job.records import Member, Role, Taken
from uncus.job.start import new_job
from uncus.reference.laying import laid
from uncus.sample.architect import reference_of, write_file
from uncus.sample.outside import whole
from uncus.shop.shop import build
from uncus.units import Units

BEAM = Member(id="b", role=Role.BEAM, section="HEB200", start=(0, 0, 3000), end=(6000, 0, 3000))


def found(tmp_path, put, *records, **more):
    """What the rule finds of a beam beside a model that `put` writes."""
    w = Written("IFC4", "mm")
    put(w)
    w.save(tmp_path / "a.ifc")
    path = tmp_path / "j.uncus"
    job = Job.create(path, [*new_job("j", "1", Units.METRIC), BEAM, *records], replace=True)
    of, _, _ = laid(tmp_path / "a.ifc", job)
    with job.change("lay") as change:
        change.put(type(of)(**{n: getattr(of, n) for n in of.__struct_fields__} | {"id": "r"} | more))
    looked = Looked(job, build(job))
    try:
        rows = _asked(looked)
        aside = job.copied()  # as long work is given it: it finds what lies beside the job all the same
        assert _asked(Looked(aside, build(aside))) == rows
        return rows
    finally:
        job.close()


def _asked(looked):
    return list(KIND.whole(looked, NoValues()))


def wall(w, at=(3000, 0, 2000), **more):
    w.product(
        "IfcWall", w.shape(w.box(200, 2000, 2000, (-100, -1000, 0))), moved(*at), name="Wall", guid="w" * 22, **more
    )


def sheet(w):
    """A shell that encloses nothing, through the beam."""
    points = np.array([(3000.0, -500, 2500), (3000, 500, 2500), (3000, 500, 3500), (3000, -500, 3500)])
    w.product(
        "IfcCovering", w.shape(w.faceted(points, np.array([(0, 1, 2), (0, 2, 3)])), kind="Tessellation"), name="Sheet"
    )


@pytest.mark.parametrize(
    ("put", "count"),
    [
        (wall, 1),
        (sheet, 1),
        (lambda w: wall(w, (6099, 0, 2000)), 0),  # within what it may touch
        (lambda w: wall(w, (6050, 0, 2000)), 1),
        (lambda w: wall(w, (3000, 0, 3200)), 0),
    ],
)
def test_what_stands_in_it_is_found_and_what_touches_is_not(put, count, tmp_path):
    rows = found(tmp_path, put)
    assert len(rows) == count
    if put is wall:
        (row,) = rows
        assert row.about == ("b", f"r/{'w' * 22}") and row.depth == pytest.approx(200, abs=0.5)
        assert row.volume == pytest.approx(200 * 78.1e2, rel=0.02)
        assert row.at == pytest.approx((3000, 0, 3000), abs=1.0) and "Wall" in row.text


def test_hidden_put_aside_or_made_into_members_it_is_none(tmp_path):
    assert not found(tmp_path, wall, shown=False)
    assert not found(tmp_path, wall, hidden=("class/IfcWall",))
    assert not found(tmp_path, wall, clashes=False)
    assert not found(tmp_path, wall, Taken(id="t", reference="r", product="w" * 22, member="b"))
    assert len(found(tmp_path, wall, scale=1.0, origin=(0.0, 0.0, 100.0))) == 1
    assert not found(tmp_path, wall, origin=(0.0, 5000.0, 0.0))


def test_the_architects_model_clashes_with_nothing_of_the_sample(tmp_path):
    path = tmp_path / "s.uncus"
    job = Job.create(path, [*whole(Units.IMPERIAL), reference_of(path)])
    write_file(path)
    of, model, notes = laid(tmp_path / f"{reference_of(path).path}", job)
    assert of.sum == reference_of(path).sum and not notes and len(model.products) == 13
    looked = Looked(job, build(job))
    assert [r.id for r, _ in looked.others] == ["reference architect"]
    assert not _asked(looked)
    job.close()
