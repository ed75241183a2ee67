"""A piece that a question holds is found, asked for by lenses, and in no package until it is let go."""

import csv
import json

import msgspec
import pytest
from tests.check.test_rules import beam, found, put
from tests.conftest import marked

from uncus.deliver.package import produce
from uncus.draw.drawn import draw_all
from uncus.draw.issue import reasons
from uncus.draw.notes import note_lines
from uncus.draw.register import register
from uncus.draw.sheet import Text
from uncus.job.errors import JobError
from uncus.job.holds import held, next_number
from uncus.job.records import Hold, Member
from uncus.lens.criteria import named
from uncus.mark.lines import assembly_lines
from uncus.mark.marking import Marks
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
    assert [f for f in made.failures if "is held (question 1 (R. Ito): Is the opening" in f]
    rows = json.loads((tmp_path / "out" / "manifest.json").read_text())
    assert any("is held" in f for f in rows["failures"])
    model = (tmp_path / "out").glob("*.ifc")
    text = next(model).read_text()
    assert text.count("IFCELEMENTASSEMBLY(") == len(shop.shipped) - 1
    put(job, *(Hold(id=f"h{n}", member=x.id, number=2, **HOLD) for n, x in enumerate(job.all(Member))))
    with pytest.raises(JobError, match="all of its pieces are held"):
        produce(job, tmp_path / "none", only=["bills"], shop=shop)


def test_sheets_and_lists_say_what_is_held(job_and_shop, tmp_path):
    job, shop = job_and_shop
    marks = Marks(job, shop.carried)
    of_mark = assembly_lines(shop, marks)
    line = next(one for one in of_mark if len(one.assemblies) > 1)
    entries = {e.name: e for e in register(job, shop)}
    put(job, Hold(id="h", member=line.first.id, number=3, **HOLD))
    now = {e.name: e for e in register(job, shop)}
    note = f"HELD BY QUESTION 3 (R. ITO): IS THE OPENING 4' OR 5' WIDE? (1 OF {len(line.assemblies)})."
    assert note_lines(now[line.mark].job)[0] == note
    changed = {name for name in now if now[name].job.content != entries[name].job.content}
    assert changed == {line.mark}, "no other sheet is another for it"
    assert "what holds it changed" in reasons(entries[line.mark].job, now[line.mark].job)
    words = " ".join(t.text for s in draw_all(now[line.mark].job) for t in s.items if isinstance(t, Text))
    assert "HELD BY QUESTION 3" in words
    produce(job, tmp_path / "out", only=["bills"], shop=shop)
    rows = list(csv.reader((tmp_path / "out" / "bills" / "held.csv").open()))
    assert rows[-1][0] == line.mark and rows[-1][2:4] == ["3", "R. Ito"] and HOLD["question"] in rows[-1]
    put(job, msgspec.structs.replace(job.get("h", Hold), answer="4'", let_go=True))
    assert {e.name: e.job.content for e in register(job, shop)} == {n: e.job.content for n, e in entries.items()}
