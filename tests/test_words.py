"""Sentences stay short and on one line, whatever went into them; reports of faults hold nothing of the job."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus import faults
from uncus.job.errors import JobError
from uncus.words import one_line, quoted


@given(st.text(max_size=400))
def test_any_text_can_stand_in_a_sentence(text):
    for words in (str(JobError(f"{text} is wrong; see {quoted(text)} and “{text}”.")), quoted(text), one_line(text)):
        assert words.isprintable() or not set(words) & set("\n\r\t\x0b\x0c\x00\u2028\x85\u202e")
        words.encode("utf-8")
    assert len(quoted(text)) <= 82


@pytest.mark.parametrize("size", [80, 81, 5_000, 3_000_000])
def test_what_is_quoted_is_short(size):
    assert len(str(JobError(f"There is no “{'x' * size}”; there are “a” and “b”."))) < 130
    assert len(str(JobError("x" * size))) <= 600
    assert str(JobError(f"“{'”' * size}” is no mark.")).endswith("is no mark.")


def test_a_report_of_a_fault_tells_where_and_nothing_of_the_job(tmp_path):
    def fails(secret):
        raise TypeError(f"no such client as {secret}")

    try:
        try:
            fails("Riverside Rowing")
        except TypeError as error:
            raise ValueError("Riverside Rowing again") from error
    except ValueError as error:
        found = error
    piece = "2f1c3a52-1d3b-4a7e-9c41-2b7a6f0e8d11"
    text = faults.report(found, "following a change", [piece, f"mark:assembly:{piece}", "sent:Riverside"])
    assert "ValueError" in text and "TypeError" in text and "in fails" in text and text.count(piece) == 2
    assert "Riverside" not in text and "following a change" in text
    kept = [faults.keep(tmp_path / "state", text) for _ in range(25)]
    assert kept[-1].read_text() == text and len(list((tmp_path / "state").iterdir())) == 20
    (tmp_path / "file").write_text("")
    assert faults.keep(tmp_path / "file", text) is None
