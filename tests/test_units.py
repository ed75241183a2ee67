import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uncus.catalog.sections import UnknownSection, section
from uncus.frame.planes import level_plane
from uncus.frame.typed import typed_point
from uncus.job.records import Grid, Level
from uncus.units import (
    FOOT,
    INCH,
    SIXTEENTH,
    UnitError,
    Units,
    chain,
    counted,
    format_elevation,
    format_length,
    format_typed,
    format_weight,
    parse_angle,
    parse_force,
    parse_length,
    parse_lengths,
    parse_moment,
    parse_stress,
    parse_weight,
)

I, M = Units.IMPERIAL, Units.METRIC


@pytest.mark.parametrize(
    ("text", "units", "mm"),
    [
        ("12'-6 1/2", I, 150.5 * INCH),
        ("12-6.5", I, 150.5 * INCH),
        ("12-6 1/2", I, 150.5 * INCH),
        ('150.5"', I, 150.5 * INCH),
        ("12' 6 1/2\"", M, 150.5 * INCH),
        ("20'", I, 20 * FOOT),
        ("0'-7 1/2", I, 7.5 * INCH),
        ("7 1/2", I, 7.5 * INCH),
        ("7-1/2", I, 7.5 * INCH),
        ("1/2", I, 0.5 * INCH),
        ("-6", I, -6 * INCH),
        ("−6", I, -6 * INCH),
        ("3825", M, 3825.0),
        ("3.825m", M, 3825.0),
        ("3.825 m", I, 3825.0),
        ("3825mm", I, 3825.0),
        ("6", M, 6.0),
        ('6"', M, 6 * INCH),
        (".5", I, 0.5 * INCH),
    ],
)
def test_lengths_are_read_as_people_type_them(text, units, mm):
    assert parse_length(text, units) == pytest.approx(mm, abs=1e-9)


@pytest.mark.parametrize("text", ["", "foot", "1/0", "12'-6'", "1e9", "nan", "--5", "5 5", "'"])
def test_what_is_no_length_is_refused_with_a_sentence(text):
    with pytest.raises(UnitError) as refused:
        parse_length(text)
    assert str(refused.value).endswith(".")


@pytest.mark.parametrize(
    ("mm", "shown"),
    [
        (170.625 * INCH, "14'-2 5/8"),
        (7.5 * INCH, "7 1/2"),
        (12 * INCH, "1'-0"),
        (11.97 * INCH, "1'-0"),
        (0.0, "0"),
        (SIXTEENTH, "1/16"),
        (-6 * INCH, "-6"),
        (240 * INCH, "20'-0"),
    ],
)
def test_lengths_print_in_reduced_sixteenths(mm, shown):
    assert format_length(mm, I) == shown


def test_metric_prints_whole_mm_and_tenths_where_needed():
    assert [format_length(v, M) for v in (3825.0, 12.5, 12.04, -3.0)] == ["3825", "12.5", "12", "-3"]


@given(st.integers(-200_000, 200_000))
def test_every_sixteenth_reads_back(n):
    assert parse_length(format_length(n * SIXTEENTH, I), I) == pytest.approx(n * SIXTEENTH, abs=1e-6)


@given(st.floats(-1e6, 1e6, allow_nan=False), st.sampled_from([I, M]))
def test_what_a_field_shows_loses_nothing_that_matters(mm, units):
    assert abs(parse_length(format_typed(mm, units), units) - mm) < 0.01


@given(st.lists(st.floats(0, 1e5), min_size=2, max_size=20), st.sampled_from([I, M]))
def test_chains_add_up_as_printed(positions, units):
    positions = sorted(positions)
    steps = chain(positions, units)
    total = parse_length(format_length(positions[-1], units), units) - parse_length(
        format_length(positions[0], units), units
    )
    printed = sum(parse_length(format_length(step, units), units) for step in steps)
    assert printed == pytest.approx(total, abs=0.11 if units is M else 1e-6)


def test_lists_of_spacings():
    assert parse_lengths("3@24', 20', 2@18'-6") == pytest.approx([24 * FOOT] * 3 + [20 * FOOT] + [18.5 * FOOT] * 2)
    for bad in ("x@3", "0@3", "100000@1"):
        with pytest.raises(UnitError):
            parse_lengths(bad)


def test_angles_elevations_and_weights():
    assert parse_angle("12:12") == pytest.approx(45)
    assert parse_angle("-12.5°") == -12.5
    with pytest.raises(UnitError):
        parse_angle("steep")
    assert [format_elevation(z, I) for z in (0.0, 12 * FOOT, -6 * INCH)] == ["+0'-0", "+12'-0", "-0'-6"]
    assert (format_weight(45.359237, I), format_weight(45.36, M), format_weight(145.4, M)) == (
        "100 lb",
        "45.4 kg",
        "145 kg",
    )


@pytest.mark.parametrize(
    ("text", "inches"),
    [
        ("20'/3", 80),
        ("(24'-6 - 8\")/3", 286 / 3),
        ("3*6 1/2", 19.5),
        ("3 × 6'", 216),
        ("12'-0 - 6", 138),
        ("12' - 6", 150),  # a hyphen after feet joins the inches
        ("-(3+4)", -7),
        ("1'-0 + 25.4mm", 13),
        ("6 + 1'", 18),
        ("((2))*3'", 72),
    ],
)
def test_sums_of_lengths(text, inches):
    assert parse_length(text) == pytest.approx(inches * INCH)


@pytest.mark.parametrize("text", ["5'*5'", "3/(1-1)", "(3", "7+", "3 + four", "()", "2'/0", "*3", "3'/2'", "(" * 5000])
def test_sums_that_cannot_be_worked_out(text):
    with pytest.raises(UnitError):
        parse_length(text)


def test_sums_in_a_metric_job_take_bare_numbers_as_millimetres():
    assert parse_length("2*(3600 + 0.2m)", Units.METRIC) == pytest.approx(7600)


def test_counts_in_words():
    assert [counted(n, "member") for n in (0, 1, 2, 1200)] == ["0 members", "1 member", "2 members", "1,200 members"]


HOSTILE = [
    ("9" * 5000, "too long"),
    ("1" + " " * 3000 + "x", "too long"),
    ("1/" + "7" * 5000, "too long"),
    ("(" * 25 + "1" + ")" * 25, "brackets in one another|is not a"),
    ("(" * 140 + "1" + ")" * 140, "brackets in one another|is not a"),
    ("9" * 200, "out of reach|is not a|is not an angle|"),
    ("9" * 150 + "*" + "9" * 140, "out of reach|is not a"),
    ("²@5", "is not a"),
    ("\0", "is not a"),
]


@pytest.mark.parametrize(("text", "says"), HOSTILE, ids=range(len(HOSTILE)))
@pytest.mark.parametrize("parse", [parse_length, parse_lengths, parse_force, parse_moment, parse_stress, parse_weight])
def test_hostile_text_is_refused_at_once_in_a_short_sentence(parse, text, says):
    began = time.process_time()
    with pytest.raises(UnitError, match=says) as refused:
        parse(text, Units.METRIC)
    assert len(str(refused.value)) < 220 and time.process_time() - began < 1
    with pytest.raises(UnitError, match="too long to be an angle"):
        parse_angle("9" * 5000)


def test_long_names_of_sections_and_points_are_refused_at_once():
    plane = level_plane(Level(name="g", elevation=0))
    for text in ("W12X" + " " * 70_000, "9" * 70_000, "1 " * 300_000):
        began = time.process_time()
        with pytest.raises(UnknownSection):
            section(text)
        with pytest.raises(UnitError, match=r"too long to be a point|is not a length"):
            typed_point(text, plane, Grid(), Units.METRIC)
        assert time.process_time() - began < 1


def test_weights_are_typed_in_the_jobs_units_or_any():
    for text, units, kg in (
        ("20000", Units.IMPERIAL, 9071.8474), ("9 t", Units.IMPERIAL, 9000.0), ("2 tons", Units.METRIC, 1814.36948),
        ("500", Units.METRIC, 500.0), ("500 lb", Units.METRIC, 226.796185),
    ):  # fmt: skip
        assert parse_weight(text, units) == pytest.approx(kg, rel=1e-9)
        assert parse_weight(format_weight(kg, units), units) == pytest.approx(kg, rel=1e-3)
