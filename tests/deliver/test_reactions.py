"""The engineer's loads as a CSV: out, in, and what did not match."""

import csv
import io

import pytest

from uncus.deliver.reactions import joined, taken, to_csv
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Connection, Loads, Project
from uncus.shop.shop import build
from uncus.units import Units

KIP, KIPFT = 4448.2216, 4448.2216 * 304.8


def rows_of(data: bytes) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(data.decode())))


def test_what_is_written_is_read_back_as_it_was(sample):
    job, shop = sample
    put = [r for r in job.records.values() if not isinstance(r, Connection)]
    loaded = [Connection(**{**{f: getattr(c, f) for f in c.__struct_fields__},
        "loads": Loads(n * KIP, -2.5 * KIP, None)}) for n, c in enumerate(job.all(Connection), 1)]  # fmt: skip
    full = Job([*put, *loaded])
    data = to_csv(full, shop)
    rows = rows_of(data)
    assert len(rows) == len(joined(job, shop)) > 100 and set(rows[0]) >= {"Mark", "Place", "End", "Shear (kips)"}
    back = taken(data, job, shop)
    assert not back.told and back.without == 0
    by_end = {(c.id): c.loads for c in back.put}
    assert len(by_end) == len(rows)
    for c in loaded:
        if c.id in by_end:
            assert by_end[c.id].shear == pytest.approx(c.loads.shear, abs=3), (
                "pieces of one mark keep loads of their own"
            )
            assert by_end[c.id].axial == pytest.approx(c.loads.axial, abs=3)
    marks = {row["Mark"] for row in rows}
    assert "" not in marks, "every joint can be told by its piece's mark"


@pytest.mark.parametrize(
    ("text", "shear"),
    [
        ("Mark,End,Shear\n{m},left,25\n", 25 * KIP),
        ("mark;end;shear (kN)\n{m};left;100\n", 100e3),
        ("Mark\tEnd\tShear (kN)\n{m}\tL\t25 kips\n", 25 * KIP),
        ("\ufeffMark,Shear,Axial (kips)\r\n{m},'-12,\r\n", -12 * KIP),
    ],
)
def test_units_ends_and_separators_are_taken_as_written(sample, text, shear):
    job, shop = sample
    one = next(j for j in joined(job, shop) if j.mark and j.record.end == "left")
    found = taken(text.format(m=one.mark).encode(), job, shop)
    assert not found.told and {c.member for c in found.put} >= {one.record.member}
    assert all(c.loads.shear == pytest.approx(shear) for c in found.put)
    assert {c.end for c in found.put} == ({"left", "right"} if "Axial" in text else {"left"})


def test_rows_that_match_nothing_are_told_and_the_rest_is_taken(sample):
    job, shop = sample
    one = next(j for j in joined(job, shop) if j.mark)
    bad = [
        "ZZ99,left,5,",
        f"{one.mark},middle,5,",
        f"{one.mark},left,many,",
        ",left,5,",
        "=cmd|1,left,5,",
        f"{one.mark},,9,",
    ]
    data = "\n".join(["Mark,End,Shear,Place", *bad, ",left,5,nowhere"]).encode()
    found = taken(data, job, shop)
    assert len(found.told) == 6 and found.put
    for text, says in zip(found.told, ("no piece is marked “ZZ99”", "is no end", "many", "names no mark", "no piece",
        "no joint stands"), strict=True):  # fmt: skip
        assert says in text and text.startswith("Row ") and len(text) < 200
    assert "6 rows did not match" in found.words
    for nothing in (b"", b"a,b\n1,2\n", b"\xff\xfe\x00", b"Mark,End\nB1,left\n"):
        with pytest.raises(JobError):
            taken(nothing, job, shop)


def test_one_joint_given_two_loads_is_told(sample):
    """By mark alone all its joints; a second row that says otherwise is not taken, one that adds another load is."""
    job, shop = sample
    one = next(j for j in joined(job, shop) if j.mark and j.record.end == "left")
    lines = ["Mark,End,Shear,Axial", f"{one.mark},left,5,", f"{one.mark},left,5,3", f"{one.mark},both,7,"]
    found = taken("\n".join(lines).encode(), job, shop)
    assert len(found.told) == 1 and "row 3 gives the same joint another shear" in found.told[0]
    assert {(c.end, round(c.loads.shear / KIP), round(c.loads.axial / KIP)) for c in found.put} == {("left", 5, 3)}
    (told,) = taken(f"Mark,Place,Shear\n{one.mark},nowhere,5\n".encode(), job, shop).told
    assert "has no joint of place" in told


def test_a_place_names_a_joint_where_it_is_one_joints_alone(sample):
    job, shop = sample
    known = joined(job, shop)
    places = [j.place for j in known]
    alone = next(j for j in known if places.count(j.place) == 1)
    crowd = next(j for j in known if places.count(j.place) > 3)
    found = taken(f"Grid,Shear\n{alone.place},5\n{crowd.place},7\n".replace(", ", ", ").encode(), job,
        shop) if "," not in alone.place + crowd.place else taken(
        f"Grid;Shear\n{alone.place};5\n{crowd.place};7\n".encode(), job, shop)  # fmt: skip
    assert [c.id for c in found.put] == [alone.record.id]
    assert "joints stand at" in found.told[0] and "give the mark" in found.told[0]


def test_a_metric_job_writes_its_own_units(sample):
    job, _ = sample
    records = [Project(units=Units.METRIC) if isinstance(r, Project) else r for r in job.records.values()]
    metric = Job(records)
    heads = to_csv(metric, build(metric)).decode().partition("\n")[0]
    assert "Shear (kN)" in heads and "Moment (kNm)" in heads
