"""What the shop needs is on the sheet: every hole and cut of every part can be set out from the printed figures alone."""

import pytest

from uncus.bill.lists import all_lists
from uncus.draw.register import draw, register
from uncus.draw.sheet import Text
from uncus.mark.marking import Marks
from uncus.units import Units, format_length


@pytest.fixture(scope="module")
def parts(sample):
    return [(e, draw(e.job)) for e in register(*sample) if e.kind == "part"]


def words(sheet):
    return [i.text for i in sheet.items if isinstance(i, Text)]


def test_overall_lengths_are_printed(parts):
    for entry, sheet in parts:
        assert format_length(entry.job.subject.main.length) in words(sheet), entry.name


def test_copes_are_dimensioned_and_their_radius_noted(parts):
    seen = 0
    for entry, sheet in parts:
        for cope in entry.job.subject.main.copes:
            printed = words(sheet)
            assert format_length(cope.length) in printed and format_length(cope.depth) in printed
            assert f"COPE RADIUS {format_length(cope.radius)}." in printed
            seen += 1
    assert seen > 4


def test_notches_are_said_with_their_figures(parts):
    """The sample's beams that stand between columns have their bottom flange cut flush beside the tabs."""
    seen = set()
    for entry, sheet in parts:
        main = entry.job.subject.main
        for notch in main.notches if main.section else ():
            xs = [min(max(x, 0.0), main.length) for x, _ in notch.outline]
            figure = format_length(max(xs) - min(xs))
            texts = [w for w in words(sheet) if figure in w and ("FLANGE" in w or "SLOT" in w or "ACCESS" in w)]
            assert texts, (entry.name, figure)
            seen |= {t.partition(" CUT")[0] for t in texts}
    assert any(s.startswith("BOTTOM FLANGE") for s in seen)


def test_assembly_sheets_show_every_mark_and_weld_of_the_bill(sample):
    for entry in register(*sample):
        if entry.kind != "assembly":
            continue
        sheet = draw(entry.job)
        printed = words(sheet)
        for mark, part, count in entry.job.bill[1:]:
            labels = [w for w in printed if w == mark or w.startswith(mark + " ")]
            assert len(labels) > 1, f"{mark} stands in the bill and at the part on {entry.name}"
            welds = {format_length(f.weld.size) for f in entry.job.subject.fixed if f.mark == mark and f.weld}
            assert welds <= set(printed)
            assert (part.thickness or part.section) and count


def test_sheets_and_lists_tell_the_same_numbers(sample):
    job, shop = sample
    assemblies, part_rows, *_ = all_lists(shop, Marks(job), Units.IMPERIAL)
    numbers = {row[0]: row[1] for row in (*assemblies.rows, *part_rows.rows)}
    for entry in register(job, shop):
        if entry.kind == "erection":
            continue
        assert entry.job.required == numbers[entry.name]
        title = next(w for w in words(draw(entry.job)) if "REQUIRED" in w)
        assert title.startswith(f"{numbers[entry.name]} REQUIRED")


def test_plans_count_every_member_once(sample):
    job, shop = sample
    shown = [id for e in register(job, shop) if e.kind == "erection" for id in e.pieces]
    assert sorted(shown) == sorted(shop.shipped)
