"""The history: snapshots against what is worked out, going back and forth, single changes taken back, names of
moments, in memory and on disk."""

import random

import pytest
from msgspec.structs import replace

from uncus.job.errors import JobError
from uncus.job.history import records_at, since, take_back
from uncus.job.job import Job
from uncus.job.records import Attachment, Level, Member, Project, Role


def beam(n, z=0.0):
    return Member(id=f"m{n}", role=Role.BEAM, section="W12X26", start=(0, n * 1000.0, z), end=(5000, n * 1000.0, z))


@pytest.fixture(params=["in memory", "on disk"])
def job(request, tmp_path):
    if request.param == "in memory":
        yield Job([Project()])
    else:
        with Job.create(tmp_path / "a.uncus", [Project()]) as made:
            yield made


def grown(job, seed=1, steps=25):
    """Random changes; a snapshot of the records after each, the first before any."""
    rng, snaps = random.Random(seed), [dict(job.records)]
    for n in range(steps):
        with job.change(f"change {n + 1}") as change:
            for _ in range(rng.randrange(1, 4)):
                k = rng.randrange(8)
                if rng.random() < 0.3:
                    change.drop(f"m{k}")
                else:
                    change.put(beam(k, rng.random()))
            change.put(Level(id="level", name="Roof", elevation=float(n)))
        snaps.append(dict(job.records))
    return snaps


@pytest.mark.parametrize("seed", range(3))
def test_every_moment_is_as_it_was_and_can_be_gone_to(job, seed):
    snaps = grown(job, seed)
    assert [p.label for p in job.past()] == [f"change {n}" for n in range(1, 26)] and job.head == 25
    assert all(p.at.startswith("20") for p in job.past())
    seen = []
    job.follow(seen.append)
    rng = random.Random(seed)
    for _ in range(12):
        number = rng.randrange(26)
        assert records_at(job, number) == snaps[number]
        job.travel(number)
        assert dict(job.records) == snaps[number] and job.head == number
    replayed = dict(snaps[25])
    for delta in seen:  # what follows the job is told all of it
        for edit in delta.edits:
            assert replayed.get(edit.id) == edit.before
            replayed = (
                {**replayed, edit.id: edit.after} if edit.after else {k: v for k, v in replayed.items() if k != edit.id}
            )
    assert replayed == dict(job.records)


def test_what_changed_since(job):
    snaps = grown(job)
    found = since(job, 10)
    now = dict(job.records)
    assert {r.id for r in found.new} == now.keys() - snaps[10].keys()
    assert {r.id for r in found.gone} == snaps[10].keys() - now.keys()
    assert {r.id for r in found.changed} == {i for i in now.keys() & snaps[10].keys() if now[i] != snaps[10][i]}
    assert since(job, 25).words == "nothing differs"


def test_a_single_change_is_taken_back_where_nothing_stands_on_it(job):
    for n in range(3):
        with job.change(f"beam {n}") as change:
            change.put(beam(n))
    with job.change("raise") as change:
        change.put(beam(1, 300.0))
    with job.change("stiffen") as change:
        change.put(Attachment(id="a", kind="stiffeners", member="m2"))
    assert take_back(job, 1) == "Take back: beam 0" and "m0" not in job.records
    with pytest.raises(JobError, match="“raise” came after it on the same thing"):
        take_back(job, 2)
    with pytest.raises(JobError, match="1 record made later, such as an attachment, stands on what it made"):
        take_back(job, 3)
    take_back(job, 4)
    assert job.records["m1"] == beam(1)
    take_back(job, 5)
    take_back(job, 3)
    assert "m2" not in job.records
    with pytest.raises(JobError, match="came after it"):
        take_back(job, 3)
    job.undo()
    assert "m2" in job.records
    with pytest.raises(JobError, match="taken back already"):
        take_back(job, job.head + 1)


def test_moments_are_named_and_stay_named_when_the_job_is_opened_again(tmp_path):
    path = tmp_path / "a.uncus"
    with Job.create(path, [Project()]) as job:
        grown(job, steps=5)
        job.name_moment(3, "Sent for approval")
        with pytest.raises(JobError, match="no such change"):
            job.name_moment(9, "x")
        job.undo()
    with Job.open(path) as job:
        assert [p.moment for p in job.past()] == ["", "", "Sent for approval", "", ""] and not job.notes
        job.travel(1)
        job.travel(4)
        assert [p.moment for p in job.past()][2] == "Sent for approval"
        job.travel(2)
        with job.change("another way") as change:
            change.put(replace(job.project, name="Else"))
        assert [p.label for p in job.past()] == ["change 1", "change 2", "another way"], "what was taken back is gone"
