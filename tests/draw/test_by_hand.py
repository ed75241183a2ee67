"""Edits by hand: made once, the model changed, the sheet redone: kept, not doubled; told where their feature is
gone."""

import base64
from itertools import pairwise

import msgspec
import numpy as np
import pytest
from tests.conftest import marked

from uncus.draw.annotation import Chain, Stop
from uncus.draw.by_hand import applied
from uncus.draw.cells import meet, passes
from uncus.draw.drawn import draw_all, sheets
from uncus.draw.entry import State
from uncus.draw.issue import changed_boxes, opened, packed, reasons
from uncus.draw.keeping import (
    by_marks,
    edited,
    flagged,
    issue_of,
    next_mark,
    of_plate,
    reset,
    revised,
    sectioned,
    sent,
)
from uncus.draw.register import register
from uncus.draw.sheet import Layer, Polyline
from uncus.draw.states import why
from uncus.job.drawings import Hidden, Merged, Moved, Reached, Recut, Scaled, Spanned, Split, Written
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, Drawing, End, Member, Project, Role, SheetPreset
from uncus.job.start import usual_rules
from uncus.mark.content import part_content
from uncus.shop.shop import build
from uncus.units import Units

replace = msgspec.structs.replace


@pytest.fixture
def yard(sample):
    """The marked sample, to be changed freely: job, shop that follows."""
    job = Job(sample[0].records.values())
    shop = build(job)
    job.follow(shop.follow)
    return job, shop


def entry_of(yard, title="beam W16X31"):
    return next(e for e in register(*yard) if e.title == title and e.kind == "assembly")


def again(yard, entry):
    return next(e for e in register(*yard) if e.kind == entry.kind and set(e.pieces) & set(entry.pieces))


def put(yard, *records):
    with yard[0].change("by hand") as change:
        for record in records:
            change.put(record)


def spot(entry, start):
    return next(s for s in sheets(entry)[0].spots if s.key.startswith(start))


def disturb(yard, entry):
    """Another change to the piece's model: longer by an inch at its right."""
    member = yard[0].get(entry.piece, Member)
    put(yard, replace(member, right_back=member.right_back - 25.4))


def test_what_is_moved_stays_moved_when_the_sheet_is_redone(yard):
    entry = entry_of(yard)
    key = spot(entry, "front|along").key
    before = spot(entry, key)
    put(yard, edited(entry, Moved(key, 0.0, -9.0)))
    moved = spot(again(yard, entry), key)
    assert moved.stops[1][2] - moved.stops[0][2] == 0
    disturb(yard, entry)
    redone = again(yard, entry)
    kept = [s for s in sheets(redone)[0].spots if s.key == key]
    frame = next(f for f in sheets(redone)[0].frames if f.name == "front")
    assert len(kept) == 1 and kept[0].stops[0][2] - frame.box[1] == pytest.approx(-16.0)
    first = next(f for f in sheets(entry)[0].frames if f.name == "front")
    assert before.stops[0][2] - first.box[1] == pytest.approx(-7.0)
    put(yard, edited(redone, Moved(key, 0.0, -1.0)))
    moves = [e for e in again(yard, entry).hand.edits if isinstance(e, Moved)]
    assert moves == [Moved(key, 0.0, -10.0)], "moves of one thing add up"
    put(yard, reset(again(yard, entry), key))
    assert not again(yard, entry).hand.edits


def test_words_and_weld_symbols_land_where_they_are_dropped(yard):
    entry = entry_of(yard)
    for start in ("front|mark", "front|weld"):
        before = spot(entry, start)
        put(yard, edited(again(yard, entry), Moved(before.key, 6.0, 4.0)))
        after = spot(again(yard, entry), before.key)
        was, now = before.texts[0][1], after.texts[0][1]
        frames = [next(f for f in sheets(e)[0].frames if f.name == "front") for e in (entry, again(yard, entry))]
        moved = [now[i] - was[i] - (getattr(frames[1], "xy"[i]) - getattr(frames[0], "xy"[i])) for i in (0, 1)]
        assert moved == pytest.approx([6.0, 4.0], abs=0.01), start


def test_hidden_dropped_split_merged_and_added_are_kept(yard):
    entry = entry_of(yard)
    chain = spot(entry, "front|along")
    keys = [k for k, _, _ in chain.stops]
    gages = [s.key for s in sheets(entry)[0].spots if s.key.startswith("front|gage")]
    column = keys[2]
    edits = [
        Hidden(chain.key, keys[1]),
        Spanned("front|own 1", "front", "left end", column, "u"),
        Written("front|note 1", "front", 500.0, 60.0, "GRIND SMOOTH"),
    ]
    if len(gages) > 1:
        edits.append(Hidden(gages[1]))
    put(yard, edited(entry, *edits))
    disturb(yard, entry)
    redone = again(yard, entry)
    found = {s.key: s for s in sheets(redone)[0].spots}
    assert keys[1] not in [k for k, _, _ in found[chain.key].stops] and column in [
        k for k, _, _ in found[chain.key].stops
    ]
    assert found["front|note 1"].words == "GRIND SMOOTH" and found["front|own 1"].words
    assert len(gages) < 2 or gages[1] not in found
    assert not sheets(redone)[0].lost
    assert edited(redone, *edits).edits == redone.hand.edits, "the same edits made again change nothing"
    put(yard, edited(redone, Reached(chain.key, keys[1])))
    assert again(yard, entry).hand.edits[-1] == Reached(chain.key, keys[1])
    assert not reset(redone).edits


def test_an_edit_whose_feature_is_gone_is_told(yard):
    entry = entry_of(yard)
    key = next(s.key for s in sheets(entry)[0].spots if s.key.startswith("front|mark"))
    put(yard, edited(entry, Moved(key, 5.0, 5.0), Written("section nowhere|n", "section nowhere", 0, 0, "X")))
    maker = key.partition("|mark ")[2].partition("/")[0]
    with yard[0].change("drop") as change:
        change.drop(maker)
    redone = again(yard, entry)
    assert len(sheets(redone)[0].lost) == 2 and any("moved" in w for w in sheets(redone)[0].lost)
    assert not [s for s in sheets(redone)[0].spots if s.key == key]


def test_a_place_of_a_shortened_view_is_found_again_on_the_paper(drawn):
    found = [f for e, sheets in drawn("sample") if e.kind == "assembly" for f in sheets[0].frames if f.short.stretches]
    assert len(found) > 10
    for frame in found:
        for x, y, u, v in frame.points.values():
            assert frame.own(x, y) == pytest.approx((u, v), abs=1e-6)


def test_chains_are_merged_and_split_by_their_stops():
    a = Chain("v|a", "below", (Stop("0", 0.0), Stop("1", 10.0), Stop("2", 20.0)))
    b = Chain("v|b", "below", (Stop("0", 0.0), Stop("3", 15.0)))
    points = {"9": (5.0, 0.0)}
    made = {c.key: c for c in applied([a, b], [Merged("v|a", "v|b"), Reached("v|a", "9")], points).annotations}
    assert [s.at for s in made["v|a"].stops] == [0.0, 5.0, 10.0, 15.0, 20.0] and "v|b" not in made
    made = {c.key: c for c in applied([a], [Split("v|a", "1")], points).annotations}
    assert [s.at for s in made["v|a"].stops] == [0.0, 10.0] and [s.at for s in made["v|a+1"].stops] == [10.0, 20.0]
    run = replace(a, how="running")
    made = {c.key: c for c in applied([run], [Split("v|a", "1")], points).annotations}
    assert [s.at for s in made["v|a+1"].stops] == [0.0, 20.0], "both run from the same end"
    lost = applied(
        [a], [Split("v|a", "0"), Hidden("v|zz"), Reached("v|a", "none"), Merged("v|a", "v|none")], points
    ).lost
    assert len(lost) == 4


def test_a_view_keeps_its_own_scale_and_its_cut(yard):
    entry = next(
        e for e in register(*yard) if e.kind == "assembly" and any(not s.at_end for s in e.job.subject.sections())
    )
    cut = next(s for s in entry.job.subject.sections() if not s.at_end)
    usual = sheets(entry)[0].scale
    put(yard, edited(entry, Scaled(cut.view, 2 * usual)))
    put(yard, edited(again(yard, entry), Scaled(cut.view, 3 * usual)))
    put(yard, edited(again(yard, entry), Recut(cut.view, cut.x + 500.0)))
    disturb(yard, entry)
    redone = again(yard, entry)
    assert len(redone.hand.edits) == 2, "the last scale holds"
    frames = {f.name: f for s in sheets(redone) for f in s.frames}
    assert frames[cut.view].scale == 3 * usual and frames["front"].scale == sheets(redone)[0].scale
    assert not sheets(redone)[0].lost
    letter = next(s for s in sheets(redone)[0].spots if s.kind == "cut" and cut.view in s.key)
    assert frames["front"].own(letter.stops[0][1], 0.0)[0] == pytest.approx(cut.x + 500.0, abs=0.5)
    (view, *_), *_ = [s.key.partition("|") for s in sheets(redone)[0].spots if s.key.startswith("section")] or [
        ("none",)
    ]
    assert view in (cut.view, "none"), "no plate stands where it is cut now"
    put(yard, reset(redone, cut.view))
    assert not again(yard, entry).hand.edits
    put(yard, edited(again(yard, entry), Recut("section nowhere", 100.0)))
    assert sheets(again(yard, entry))[0].lost == ("cut elsewhere: section nowhere",)
    assert Drawing(piece="p", kind="assembly", edits=(Scaled("front", 9999.0),)).problem()


def test_a_view_at_its_own_scale_takes_no_more_room_along_the_piece_than_the_others(yard):
    """More is taken out of it where it is shown larger, and less where smaller."""
    entry = next(e for e in register(*yard) if e.kind == "assembly" and len(e.job.subject.views) > 1
        and e.job.subject.main.length > 6500)  # fmt: skip
    view, length = next(v for v in entry.job.subject.views if v != "front"), entry.job.subject.main.length
    usual = sheets(entry)[0]
    room = next(f for f in usual.frames if f.name == "front").short.u(length) / usual.scale
    taken = []
    for times in (0.75, 1.0, 2.0):
        put(yard, edited(again(yard, entry), Scaled(view, times * usual.scale)))
        frame = next(f for s in sheets(again(yard, entry)) for f in s.frames if f.name == view)
        assert frame.scale == times * usual.scale and frame.short.u(length) / frame.scale <= room + 1.0
        taken.append(length - frame.short.u(length))
    assert taken[0] > taken[1] >= taken[2]
    put(yard, reset(again(yard, entry), view))


def test_a_plan_is_moved_written_on_and_revised_like_any_sheet(yard):
    plan = next(e for e in register(*yard) if e.title.startswith("plan"))
    issued(yard, plan)
    key = spot(plan, "plan|mark").key
    other = [s.key for s in sheets(plan)[0].spots if s.key.startswith("plan|mark")][1]
    edits = (Moved(key, 7.0, 3.0), Hidden(other), Written("plan|note a", "plan", 1000.0, 1000.0, "SEE ENGINEER"),
        Hidden("plan|mark gone"))  # fmt: skip
    put(yard, edited(plan, *edits))
    now = next(e for e in register(*yard) if e.name == plan.name)
    shown = {s.key: s for s in sheets(now)[0].spots}
    shift = [b - a for a, b in zip(spot(plan, key).box[:2], shown[key].box[:2], strict=True)]
    assert all(
        shown[k].box == s.box for k in shown if k not in (key, "plan|note a") and (s := spot(plan, k)).kind == "note"
    )
    assert shift == pytest.approx([7.0, 3.0]) and other not in shown and shown["plan|note a"].words == "SEE ENGINEER"
    assert sheets(now)[0].lost == ("left out: mark gone in the plan view",)
    assert now.state is State.STALE and why(now) == ["edited by hand"]
    put(yard, *revised([now], "2026-11-23", "marks moved", drawn="AB"))
    under_way = next(e for e in register(*yard) if e.name == plan.name)
    title = {s.key.removeprefix("title|"): s.words for s in sheets(under_way)[0].spots if s.kind == "title"}
    assert clouds(sheets(under_way)[0]) and title["name"] == plan.name
    assert [title[cell] for cell in ("revision", "date", "drawn", "sheet")] == ["1", "2026-11-23", "AB", "1 OF 1"]


def test_plates_gathered_on_a_sheet_are_edited_each_for_itself(yard):
    put(yard, SheetPreset(id="p", name="plates", kinds=("part",), several=6))
    together = next(e for e in register(*yard) if e.plates and len(e.plates) > 2)
    second = together.plates[1]
    chain = next(s for s in sheets(together)[0].spots if s.key.startswith(f"{second.name} front|overall"))
    owner, edit = of_plate(together, Moved(chain.key, 0.0, -6.0))
    assert owner is second and edit == Moved("front|overall", 0.0, -6.0)
    put(yard, edited(owner, edit))
    redone = next(e for e in register(*yard) if e.plates and second.name in [p.name for p in e.plates])
    assert next(p for p in redone.plates if p.name == second.name).hand.edits == (edit,) and redone.hand is None
    assert redone.job.content != together.job.content
    with pytest.raises(JobError, match="another plate"):
        of_plate(together, Merged(chain.key, f"{together.plates[0].name} front|height"))
    with pytest.raises(JobError, match="one of the plates"):
        of_plate(together, Hidden("title|name"))
    put(yard, issue_of(redone, "2026-11-01"), *revised([redone], "2026-11-02", "moved"))
    assert next(e for e in register(*yard) if e.name == redone.name).revision == "1"
    assert not next(p for p in redone.plates if p.name == second.name).revision


def clouds(sheet):
    return [i for i in sheet.items if isinstance(i, Polyline) and i.layer is Layer.CLOUD]


def issued(yard, entry, on="2026-11-01"):
    put(yard, issue_of(entry, on))


def test_reasons_and_clouds_match_the_edits(yard):
    """Known edits of the model, each told in words, and clouds round exactly what they changed."""
    entry = entry_of(yard, "beam W12X19")
    issued(yard, entry)
    assert again(yard, entry).state is State.CURRENT and not why(again(yard, entry))
    first = opened(again(yard, entry).issue.packed)[1]
    assert first == sheets(again(yard, entry))
    day = next(w for s in first for spot in s.spots if spot.key == "title|date" for w, _ in spot.texts)
    assert day == "2026-11-01", "until it is revised or something changes"
    disturb(yard, entry)  # its marks are firm: the changed piece keeps its sheet
    stale = again(yard, entry)
    assert stale.state is State.STALE
    told = why(stale)
    assert any(w.startswith("1 longer") for w in told), told
    assert not [w for w in told if "gone" in w or "added" in w or "bolts" in w]
    changed = changed_boxes(first, sheets(stale)[0])
    assert changed
    inside = [w for s in sheets(stale)[0].spots for w, b in s.texts
        if any(c[0] <= b[0] and b[2] <= c[2] and c[1] <= b[1] and b[3] <= c[3] for c in changed)]  # fmt: skip
    was = {w for s in first[0].spots for w, _ in s.texts}
    fresh = {w for s in sheets(stale)[0].spots for w, _ in s.texts} - was
    assert fresh <= set(inside) | {sheets(stale)[0].spots[0].words}, fresh - set(inside)
    assert len(changed_boxes(first, first[0])) == 0


def on_member(**changes):
    return lambda job, entry: [replace(job.get(entry.piece, Member), **changes)]


def on_tab(**params):
    def made(job, entry):
        tab = next(c for c in job.all(Connection) if c.kind == "shear tab" and c.support == entry.piece)
        return [replace(tab, params={**tab.params, **params})]

    return made


def on_left_end(**params):
    return lambda job, entry: [replace(c, params={**c.params, **params}) for c in job.all(Connection)
        if c.member == entry.piece and c.end is End.LEFT]  # fmt: skip


KNOWN = {
    "run on": (on_member(right_back=-38.1), ["1 1/2 longer"]),
    "camber": (on_member(camber=19.05), ["camber changed"]),
    "grade": (on_member(grade="A36"), ["grade A36 against A992"]),
    "section": (on_member(section="W16X36"), ["W16X36 against W16X31"]),
    "finish": (on_member(finish="galvanised"), ["finish “galvanised” against “one coat shop primer”",
        "p9 finish “galvanised” against “one coat shop primer”", "paint changed"]),
    "a thicker tab": (on_tab(thickness=12.7), ["p9 1/2 thick against 3/8", "the weld of p9 changed"]),
    "a shorter tab": (on_tab(rows=2), ["p9 6 wide against 9", "p9 1 web hole fewer"]),
    "holes at one end": (on_left_end(down=101.6), ["web hole column 1 moved 1 lower"]),
    "a preset": (lambda job, entry: [SheetPreset(name="x", kinds=("beam",), degrees=True)], ["what is shown changed"]),
    "the project": (lambda job, entry: [replace(job.project, name="Other")], ["project changed"]),
}  # fmt: skip


@pytest.mark.parametrize("name", KNOWN)
def test_a_known_edit_is_told_in_just_these_words_and_clouded_just_there(yard, name):
    """Every cloud goes round a figure that reads otherwise, or a hole that is elsewhere; every such figure is in
    one."""
    entry = entry_of(yard)
    issued(yard, entry)
    first = sheets(again(yard, entry))
    made, told = KNOWN[name]
    put(yard, *made(yard[0], entry))
    stale = again(yard, entry)
    assert stale.state is State.STALE and why(stale) == told
    was = {(s.key, w) for s in first[0].spots for w, _ in s.texts}
    now = {(s.key, w): b for s in sheets(stale)[0].spots for w, b in s.texts}
    said = {s.key: s.words for s in first[0].spots}
    at = {(f.name, k): p[2:] for f in first[0].frames for k, p in f.points.items()}
    moved = [p[:2] for f in sheets(stale)[0].frames for k, p in f.points.items()
        if np.hypot(*np.subtract(p[2:], at.get((f.name, k), (1e9, 1e9)))) > 0.8]  # fmt: skip
    boxes = changed_boxes(first, sheets(stale)[0])
    for box in boxes:
        words = [s.key for s in sheets(stale)[0].spots if said.get(s.key) != s.words and meet(s.box, box)]
        assert words or any(box[0] < x < box[2] and box[1] < y < box[3] for x, y in moved), box
    unsaid = [k for k, b in now.items() if k not in was and not k[0].startswith("title|") and
        not any(meet(b, box) for box in boxes)]  # fmt: skip
    assert not unsaid, unsaid


def test_a_revision_has_its_mark_clouds_and_keeps_the_old_copy(yard):
    entry = entry_of(yard, "beam W12X19")
    issued(yard, entry)
    disturb(yard, entry)
    with pytest.raises(JobError, match="few words"):
        revised([again(yard, entry)], "2026-11-23", " ")
    put(yard, *revised([again(yard, entry)], "2026-11-23", "right end run on", drawn="AB"))
    under_way = again(yard, entry)
    assert under_way.revision == "1" and next_mark(under_way) == "2"
    shown = sheets(under_way)[0]
    assert clouds(shown)
    edges = [(*a, *b) for c in clouds(shown) for a, b in pairwise(c.points)]
    words = [(w, b) for s in shown.spots for w, b in s.texts]
    assert not [w for w, b in words if any(passes(e, b) for e in edges)], "no cloud lies over a figure"
    assert "right end run on" in [t for s in shown.spots for t, _ in s.texts] or any("right end"
        in getattr(i, "text", "") for i in shown.items)  # fmt: skip
    (copy,) = sent([under_way], {under_way.name: packed(under_way.job, sheets(under_way))}, "2026-11-24")
    put(yard, copy)
    now = again(yard, entry)
    assert now.state is State.CURRENT and now.issue.number == 2
    assert not clouds(sheets(now)[0])
    assert not sent([now], {now.name: "x"}, "2026-11-25"), "what went out as it is is not kept twice"
    with pytest.raises(JobError, match="has a revision 1"):
        revised([now], "2026-11-25", "again", mark="1")


def test_edits_follow_the_piece_and_flags_make_a_worklist(yard):
    entries = [e for e in register(*yard) if e.kind == "assembly"]
    put(yard, *flagged(by_marks(entries, "B1-B3 C2"), "worklist", True))
    flags = {e.name for e in register(*yard) if e.hand and "worklist" in e.hand.flags}
    assert flags == {"B1", "B2", "B3", "C2"}
    assert not flagged([e for e in register(*yard) if e.name == "B1"], "worklist", True)
    with pytest.raises(JobError, match="Z9"):
        by_marks(entries, "Z9")


def test_what_is_kept_outlives_the_piece_it_was_kept_by(yard):
    entry = next(e for e in register(*yard) if len(e.pieces) > 1 and e.kind == "assembly" and e.title == "beam W12X19")
    put(yard, *revised([entry], "2026-11-01", "first"), issue_of(entry, "2026-11-02"))
    with yard[0].change("gone") as change:
        for c in yard[1].connections_at(entry.piece):
            change.drop(c.id)
        change.drop(entry.piece)
    left = next(e for e in register(*yard) if e.name == entry.name)
    assert left.piece != entry.piece and left.revision == "1" and left.issue is not None and left.state is State.STALE


def test_copies_that_are_damaged_are_refused_and_inputs_compare(yard):
    entry = entry_of(yard)
    copy = packed(entry.job, draw_all(entry.job))
    job, kept = opened(copy)
    assert kept == draw_all(entry.job) and not reasons(job, entry.job)
    before = base64.b85encode(base64.b64decode(copy[1:])).decode()  # as copies were written before job version 19
    assert opened(before) == opened(copy)
    for bad in ("", "zz", copy[: len(copy) // 2], copy[:50] + "~~~~~" + copy[55:]):
        with pytest.raises(JobError):
            opened(bad)
    assert Drawing(piece="p", kind="assembly", scale=5000.0).problem()


def test_edits_follow_to_another_piece_of_the_mark_when_the_one_they_were_made_on_goes(yard):
    """On what lies in the same places there: a plate's mark moved, a chain of a joint's holes left out."""
    job, shop = yard
    mains = {id: part_content(a.main.part) for id, a in shop.assemblies.items()}
    entry = next(e for e in register(*yard) if e.kind == "assembly" and e.job.subject.fixed
        and sum(mains[id] == mains[e.piece] for id in e.own) > 1 and set(e.job.subject.sources) - {"own"})  # fmt: skip
    fixed = {f.id for f in entry.job.subject.fixed}
    joints = set(entry.job.subject.sources) - {"own"}
    there = [s.key for s in sheets(entry)[0].spots]
    plate = next(key for key in there if any(key.endswith(f"mark {id}") for id in fixed))
    holes = next(key for key in there if any(id in key for id in joints) and key not in (plate,))
    put(yard, edited(entry, Moved(plate, 3.0, 2.0), Hidden(holes)))
    before = next(e for e in register(*yard) if e.name == entry.name)
    assert holes not in [s.key for s in sheets(before)[0].spots]
    with job.change("gone") as change:
        for record in (*shop.connections_at(entry.piece), *shop.attachments_at(entry.piece)):
            change.drop(record.id)
        change.drop(entry.piece)
    after = next(e for e in register(*yard) if e.name == entry.name)
    assert mains[after.piece] == part_content(after.job.subject.main) == mains[entry.piece], (
        "drawn from what lies alike"
    )
    assert after.piece != entry.piece and set(after.own) == set(entry.own) - {entry.piece}
    moved, hidden = after.job.hand.edits
    assert (moved.dx, moved.dy) == (3.0, 2.0) and moved.key != plate and hidden.key != holes
    new = [s.key for s in sheets(after)[0].spots]
    assert moved.key in new and hidden.key not in new
    assert len(new) == len(there) - 1
    job.undo()
    assert next(e for e in register(*yard) if e.name == entry.name).job.hand.edits == before.job.hand.edits


@pytest.mark.parametrize(
    "kind,places,which,aside",
    [
        ("lifting lugs", ("2'", "8'"), "assembly", True),
        ("lifting lugs", ("2'", "8'"), "part", False),  # the plain beam between them lies alike both ways
        ("safety holes", ("36", "84"), "assembly", True),
        ("safety holes", ("36", "84"), "part", True),
    ],
)
def test_edits_are_set_aside_and_told_where_only_pieces_turned_end_for_end_are_left(kind, places, which, aside):
    """Drawn on at the wrong end they would leave out what is wanted; kept all the same, as the piece may come back."""
    ten = 3048.0
    records = [Project(), usual_rules(Units.IMPERIAL)]
    for n, (xs, at) in enumerate(zip(((0.0, ten), (ten, 0.0)), places, strict=True)):
        start, end = ((x, 900.0 * n, 0.0) for x in xs)
        records.append(Member(id=f"b{n}", role=Role.BEAM, section="W12X26", start=start, end=end))
        records.append(Attachment(id=f"a{n}", kind=kind, member=f"b{n}", params={"by": "places", "places": at}))
    yard = marked(records)
    yard[0].follow(yard[1].follow)
    entry = next(e for e in register(*yard) if e.kind == which and e.job.subject.main.section and "b0" in e.pieces)
    assert set(entry.pieces) == {"b0", "b1"}
    chain = "front|overall"
    put(yard, edited(entry, Hidden(chain)))
    put(yard, sectioned(again(yard, entry), 500.0))
    before = again(yard, entry)
    assert before.hand.edits == (Hidden(chain),) and not before.job.aside
    with yard[0].change("gone") as change:
        change.drop("a0")
        change.drop("b0")
    after = again(yard, before)
    there = chain in [s.key for s in sheets(after)[0].spots]
    told = [w for w in sheets(after)[0].lost if "the other way round" in w]
    assert after.pieces == ("b1",) and after.hand.edits == (Hidden(chain),), "nothing is lost"
    assert (there, bool(told), bool(after.job.aside)) == (aside,) * 3
    assert after.job.hand.sections == ((ten - 500.0) if aside else 500.0,), "where it was on the steel"
    written = Written("front|note", "front", 10.0, 0.0, "SEE 1")
    anew = edited(after, written)
    assert anew.edits == ((written,) if aside else (Hidden(chain), written))
    put(yard, anew)
    assert not again(yard, after).job.aside and not sheets(again(yard, after))[0].lost
    for _ in range(2):
        yard[0].undo()
    assert again(yard, before).job == before.job
