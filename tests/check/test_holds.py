"""A piece that a question holds is found, asked for by lenses, and in no package until it is let go."""

import json

import msgspec
import pytest
from tests.check.test_rules import beam, found, put
from tests.conftest import marked

from uncus.deliver.package import produce
from uncus.job.errors import JobError
from uncus.job.holds import held, next_number
from uncus.job.records import Hold, Member
from uncus.lens.criteria import named
from uncus.sample.frames import frame

HOLD = {"question": "Is the opening 4' or 5' wide?", "whom": "R. Ito", "on": "2026-11-28"}


@pytest.fixture
def job_and_shop():
    return marked(frame(1, 1))


def test_a_held_piece_is_told_and_let_go(job_and_shop):
    job, _ = job_and_shop
    m = beam(job, "W18X35")
    put(job, Hold(id="h", member=m.id, number=next_number(job), **HOLD))
    (one,) = found(job, "held")
    assert one.about == (m.id, "h") and "question 1 to R. Ito (2026-11-28): Is the opening" in one.text
    assert held(job).keys() == {m.id} and next_number(job) == 2
    put(job, msgspec.structs.replace(job.get("h", Hold), answer="4'", let_go=True))
    assert not found(job, "held") and not held(job) and next_number(job) == 2, "numbers are not given again"
    with pytest.raises(JobError, match="needs its question"):
        put(job, Hold(member=m.id, number=2, question=" "))


def test_packages_leave_it_out_and_say_so(job_and_shop, tmp_path):
    job, shop = job_and_shop
    m = beam(job, "W18X35")
    put(job, Hold(id="h", member=m.id, number=1, **HOLD))
    lens = named("held is no", job, shop, lambda: None)
    assert [id for id, a in shop.assemblies.items() if not lens(a)] == [m.id]
    made = produce(job, tmp_path / "out", only=["bills", "ifc"], shop=shop)
    assert [f for f in made.failures if "is held (question 1: Is the opening" in f]
    rows = json.loads((tmp_path / "out" / "manifest.json").read_text())
    assert any("is held" in f for f in rows["failures"])
    model = (tmp_path / "out").glob("*.ifc")
    text = next(model).read_text()
    assert text.count("IFCELEMENTASSEMBLY(") == len(shop.shipped) - 1
    put(job, *(Hold(id=f"h{n}", member=x.id, number=2, **HOLD) for n, x in enumerate(job.all(Member))))
    with pytest.raises(JobError, match="all of its pieces are held"):
        produce(job, tmp_path / "none", only=["bills"], shop=shop)
