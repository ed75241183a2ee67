"""Marking in the window: an edit, what a run would do, conflicts settled, applied and undone; series, typed marks
and rules."""

import msgspec
from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtWidgets import QLabel, QPushButton

from uncus.app import marking
from uncus.app.commands import BY_ID
from uncus.app.stages.laid import LaidView
from uncus.app.stages.series import SeriesDialog
from uncus.job.records import AdvanceMark, Mark, Member, Series, StandardPart
from uncus.job.start import SERIES
from uncus.mark.content import mark_id
from uncus.mark.proposal import State

KEY = Qt.Key


def press(d, words, root=None):
    found = [b for b in (root or d.window).findChildren(QPushButton) if b.text().startswith(words) and b.isVisible()]
    assert found, f"no button says {words}"
    found[-1].click()


def row_of(d, piece, part=False):
    return next(r for r in d.window.session.proposal.rows if r.part == part and piece in r.pieces)


def beam_of(d, section="W16X31"):
    return next(m for m in d.job.all(Member) if m.section == section)


def behind(d):
    return " ".join(label.text() for label in d.window.mark.detail.widget().findChildren(QLabel))


def test_an_edit_a_proposal_a_conflict_settled_applied_and_undone(full):
    d, session, panel = full, full.window.session, full.window.mark
    session.go("Mark")
    press(d, "Rules")
    d.choose("Marks: Marks are", "frozen")
    assert d.job.mark_rules.policy == "frozen" and d.window.facts.isVisible()
    press(d, "Apply")
    before = {m.id: m.mark for m in d.job.all(Mark)}
    beam = beam_of(d)
    alone = next(m for m in d.job.all(Member) if len(row_of(d, m.id).pieces) == 1 and m.section == "W16X31")
    session.change("heavier", (msgspec.structs.replace(alone, section="W16X40"),))
    row = row_of(d, alone.id)
    assert row.state is State.CONFLICT and "in conflict" in panel.counts.text()
    panel.table.pick(row)
    assert alone.id in session.selection and "frozen and these changed" in behind(d)
    press(d, "a new mark", panel.detail)
    assert {m.id: m.mark for m in d.job.all(Mark)} == before, "an answer writes nothing"
    assert row_of(d, alone.id).state is State.MOVED
    press(d, "Drop")
    assert row_of(d, alone.id).state is State.CONFLICT
    panel.table.pick(row_of(d, alone.id))
    press(d, "a new mark", panel.detail)
    press(d, "Apply")
    after = {m.id: m.mark for m in d.job.all(Mark)}
    assert after[mark_id(alone.id, False)] not in before.values() and session.choices.given == {}
    session.undo()
    assert {m.id: m.mark for m in d.job.all(Mark)} == before and beam.id in session.shop.assemblies


def test_a_piece_picked_in_the_model_finds_its_row_and_a_mark_its_pieces(full):
    d, session, panel = full, full.window.session, full.window.mark
    session.go("Mark")
    press(d, "Apply")
    beam = beam_of(d)
    session.select([beam.id])
    (row,) = panel.table.picked()
    assert beam.id in row.pieces and session.selection == {beam.id}, "picked alone, though its row has others"
    part = d.job.get(mark_id(beam.id, True), Mark).mark
    d.window.palette_field.open()
    words = next(w for w in d.window.palette_field._entries if w.startswith(f"{part}: part, in"))
    d.window.palette_field._entries[words].do()
    assert beam.id in session.selection


def test_rows_are_filtered_sorted_by_several_and_explained(full):
    session, panel = full.window.session, full.window.mark
    session.go("Mark")
    table = panel.table
    full.enter("Filter What", "W16X31")
    shown = [table.model().index(r, 3).data() for r in range(table.model().rowCount())]
    assert shown and set(shown) == {"W16X31"}
    full.enter("Filter What", "")
    heads = table.rows.heads
    table.sortByColumn(heads.index("Length"), Qt.SortOrder.DescendingOrder)
    table.sortByColumn(heads.index("Kind"), Qt.SortOrder.AscendingOrder)
    rows = [(table.model().index(r, heads.index("Kind")).data(),
        table.rows.keys[table._sorter.mapToSource(table.model().index(r, 0)).row()]) for r
        in range(table.model().rowCount())]  # fmt: skip
    assert [kind for kind, _ in rows] == sorted(kind for kind, _ in rows)
    lengths = [panel._pieces[key.pieces[0]].part.length for kind, key in rows if kind == "assembly"]
    assert all(a >= b - 1.0 for a, b in zip(lengths, lengths[1:], strict=False)), "ties keep the order before"
    two = [key for kind, key in rows if kind == "assembly" and key.mark.startswith("B")][:2]
    model, flag = table.selectionModel(), QItemSelectionModel.SelectionFlag
    model.clearSelection()
    for key in two:
        model.select(
            table._sorter.mapFromSource(table.rows.index(table.rows.keys.index(key), 0)), flag.Select | flag.Rows
        )
    assert f"{two[0].mark} against {two[1].mark}" in behind(full)
    assert panel.detail.widget().findChildren(LaidView)


def test_marks_typed_unique_left_out_ordered_and_standard(full):
    d, session = full, full.window.session
    session.go("Mark")
    press(d, "Apply")
    beam = beam_of(d)
    session.select([beam.id])
    d.window.facts.setVisible(True)
    d.enter("Mark", "HEADER-1")
    assert d.job.get(mark_id(beam.id, False), Mark).how == "typed"
    assert row_of(d, beam.id).mark == "HEADER-1"
    d.enter("Mark", "no mark!")
    assert "is no mark" in d.said
    other = next(m for m in d.job.all(Member) if m.section == "W12X26")
    session.select([other.id])
    d.window.do(BY_ID["unique"])
    assert row_of(d, other.id).pieces == (other.id,)
    d.window.do(BY_ID["leave out"])
    assert row_of(d, other.id).state is State.LEFT_OUT
    session.select([beam.id])
    assert marking.keep_advance(session, "AB-1") and not marking.keep_advance(session, "AB-2"), "ordered once, for good"
    kept = [a for a in d.job.all(AdvanceMark) if not a.part]
    assert [(a.mark, a.package) for a in kept] == [("HEADER-1", "AB-1")] or kept[0].package == "AB-1"
    session.change("longer", (msgspec.structs.replace(beam, section="W16X40"),))
    press(d, "Apply")
    assert d.job.get(kept[0].id, AdvanceMark) == kept[0]
    assert "changed since" in next(r for r in d.window.mark.table.rows.rows if r[1] == "HEADER-1")[10]
    session.select([beam.id])
    assert marking.make_standard(session) and d.job.all(StandardPart)


def test_series_are_edited_and_a_run_over_some_leaves_the_rest(full):
    d, session = full, full.window.session
    session.go("Mark")
    d.window.do(BY_ID["series"])
    dialog = d.window.keep_open(SeriesDialog)
    dialog.table.pick("series columns")
    d.enter("Series first", "101")
    assert d.job.get("series columns", Series).start == 101
    assert any(r.mark == "C101" for r in session.proposal.rows)
    d.enter("Series prefix", "7")
    assert "must not end in a figure" in dialog.said.text() and d.job.get("series columns", Series).prefix == "C"
    dialog.add()
    assert len(d.job.all(Series)) == 1 + len(SERIES) and dialog.one.start == 201
    dialog.remove()
    dialog.close()
    columns = [m for m in d.job.all(Member) if m.role == "column"]
    session.select([columns[0].id])
    press(d, "Only selected")
    assert {p for r in session.proposal.rows if not r.part for p in r.pieces} == {columns[0].id}
    press(d, "Apply")
    assert [m.piece for m in d.job.all(Mark) if not m.part] == [columns[0].id] and session.mark_only is None
