"""`uncus check`: its exit says whether something wrong is open."""

import json

import pytest
from tests.check.test_rules import crossing_flats, unjoined

from uncus.cli import main
from uncus.job.job import Job
from uncus.sample.frames import frame


@pytest.fixture
def path(tmp_path):
    made = Job(frame(1, 1))
    crossing_flats(made)
    unjoined(made)
    made.save_copy(tmp_path / "a.uncus")
    return tmp_path / "a.uncus"


def run(monkeypatch, capsys, *words):
    monkeypatch.setattr("sys.argv", ["uncus", "check", *map(str, words)])
    with pytest.raises(SystemExit) as end:
        main()
    out = capsys.readouterr()
    return end.value.code or 0, out.out, out.err


def test_findings_and_what_is_put_aside(path, monkeypatch, capsys):
    code, out, _ = run(monkeypatch, capsys, path)
    assert code == 1 and "wrong, open: The brace FL100X10 and the brace FL100X10 fill the same space, 0.61 in" in out
    assert "look here, open: The beam W12X19 is held at one end alone" in out
    code, out, _ = run(monkeypatch, capsys, path, "--json")
    found = json.loads(out)
    clash = next(f for f in found["findings"] if f["rule"] == "overlap")
    assert clash["volume_mm3"] == pytest.approx(10_000, rel=1e-3) and found["wrong"] >= 1
    wrong = ",".join(str(f["number"]) for f in found["findings"] if f["severity"] == "wrong")
    code, _, err = run(monkeypatch, capsys, path, "--aside", wrong)
    assert code == 2 and "who puts this aside" in err
    code, _, err = run(monkeypatch, capsys, path, "--aside", "99", "--by", "R. Ito", "--why", "drawn for a trial")
    assert code == 2 and "no number of an open finding" in err
    code, out, _ = run(monkeypatch, capsys, path, "--aside", wrong, "--by", "R. Ito", "--why", "drawn for a trial")
    assert code == 0 and "wrong, put aside" in out
    code, out, _ = run(monkeypatch, capsys, path, "--keep")
    assert code == 0
    code, out, _ = run(monkeypatch, capsys, path, "--lens", "role is column", "--json")
    assert code == 0 and not [f for f in json.loads(out)["findings"] if f["rule"] == "overlap"]
    code, _, err = run(monkeypatch, capsys, path, "--lens", "role is column", "--keep")
    assert code == 2 and "leave the lens out" in err


@pytest.mark.parametrize("units", [(), ("--metric",)])
def test_the_tour_has_three_slips(units, tmp_path, monkeypatch, capsys):
    monkeypatch.setattr("sys.argv", ["uncus", "sample", str(tmp_path / "t.uncus"), "--tour", *units])
    with pytest.raises(SystemExit):
        main()
    code, out, _ = run(monkeypatch, capsys, tmp_path / "t.uncus", "--json")
    rules = [f["rule"] for f in json.loads(out)["findings"]]
    assert code == 1 and {"overlap", "off lines", "loose"} <= set(rules) <= {"overlap", "off lines", "loose", "heights"}
    assert rules.count("overlap") == 1 and rules.count("loose") == 2, "the stray angle holds to nothing either"


def test_a_clean_job_has_nothing(tmp_path, monkeypatch, capsys):
    Job(frame(1, 1)).save_copy(tmp_path / "b.uncus")
    assert run(monkeypatch, capsys, tmp_path / "b.uncus") == (0, "nothing found\n", "")
