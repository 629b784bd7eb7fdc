"""The station Check, in the real window."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPushButton

from dimetron.document import edits
from dimetron.document.checks import ties_of
from dimetron.document.following import followed
from dimetron.document.model import Document, source_from, with_item
from dimetron.document.outline import with_outline
from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.imaging.read import probe
from dimetron.mesh.joined import joined
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from dimetron.mesh.select_words import selected
from dimetron.outlines.shapes import rectangle
from dimetron.registration.problem import Landmark
from dimetron.render.overlays import Corner, Label, Legend, Segments
from tests.app.conftest import Hand, over, picture_file, turn

#: Half of what the frames on the pictures measure, and their middle.
_HALF = np.array([54.5, 44.5, 34.5])
_MIDDLE = np.array([0.0, 0.0, 40.0])


@pytest.fixture
def framed(hand: Hand, tmp_path: Path) -> Hand:
    """A front and a right view, each a frame, and the block they show."""
    doc = Document()
    for view, size in ((View.FRONT, (240, 160)), (View.RIGHT, (200, 160))):
        data = picture_file(tmp_path, f"{view.key}.png", size).read_bytes()
        info = probe(data, f"{view.key}.png")
        source = source_from(data, view.key, info.extension, info.size_px, None)
        doc, id_ = edits.with_drawing(doc, source, view)
        place = Placement(0.5, (size[0] / 2, size[1] / 2), (0.0, 40.0))
        doc = with_item(doc, id_, placement=place)
    doc, _ = edits.with_mesh(doc, box(_MIDDLE - _HALF, _MIDDLE + _HALF), "block")
    hand.session.open(doc, None)
    hand.window.files.opened.emit()
    hand.board.fit_all()
    return hand


def begin(hand: Hand) -> None:
    hand.window.commands.run("station.check")
    known(hand)


def known(hand: Hand) -> None:
    """Until the figures of what is shown are there."""
    fitting = hand.window.fitting

    def there() -> bool:
        told = all(one.miss is not None or one.problem for one in fitting.fits())
        return told and not fitting.reading and len(fitting.fits()) == 2

    hand.wait(there)
    hand.settle()


def largest(hand: Hand) -> dict[str, float]:
    found = {}
    for one in hand.window.fitting.fits():
        assert one.miss is not None, one.problem
        found[one.drawing.view.key] = one.miss.largest
    return found


def test_the_figures_stand_on_the_board_and_follow_a_drag(framed: Hand) -> None:
    hand = framed
    begin(hand)
    assert max(largest(hand).values()) < 0.3
    corners = [o for o in hand.board.overlays() if isinstance(o, Corner)]
    assert {c.only for c in corners} == {View.FRONT, View.RIGHT}
    assert all(c.text.startswith("mean 0") for c in corners)
    assert hand.window.title_block.miss.isVisible()
    # The whole block is drawn aside; while it is, the figures follow.
    start, end = hand.at("elevation", (0, 0, 40)), hand.at("elevation", (20, 0, 40))
    seen: list[float] = []

    def during() -> None:
        known(hand)
        seen.append(largest(hand)["front"])

    hand.drag(start, end, before_release=during)
    by = hand.doc.meshes[0].mesh.bounds.mean(axis=0)[0]
    assert 12 < by < 30
    assert seen[-1] == pytest.approx(by, abs=1.0)
    known(hand)
    after = largest(hand)
    assert after["front"] == pytest.approx(by, abs=0.3)
    assert after["right"] < 0.3
    whiskers = [o for o in hand.board.overlays() if isinstance(o, Segments)]
    assert {o.role for o in whiskers} == {"selection", "warning"}
    assert {o.only for o in whiskers} == {View.FRONT}
    labels = [o.text for o in hand.board.overlays() if isinstance(o, Label) and o.only]
    assert any(text.endswith(("over", "short")) for text in labels)
    assert "in Front" in hand.window.route.box("check").state
    hand.session.undo()
    known(hand)
    assert largest(hand)["front"] < 0.3


def test_whiskers_are_as_long_as_is_typed_and_can_be_put_away(framed: Hand) -> None:
    hand = framed
    mesh = hand.doc.meshes[0]
    moved = mesh.mesh.with_positions(mesh.mesh.positions + np.array([0, 0, 2.5]))
    hand.session.commit(with_item(hand.doc, mesh.id, mesh=moved), "Lift")
    begin(hand)
    long = {}
    for times in ("1", "3"):
        hand.type_into(hand.field("Drawn, times"), times)
        known(hand)
        spans = [
            np.linalg.norm(np.diff(o.ends, axis=1)[:, 0], axis=1).max()
            for o in hand.board.overlays()
            if isinstance(o, Segments)
        ]
        long[times] = max(spans)
    assert long["1"] == pytest.approx(2.5, abs=0.3)
    assert long["3"] == pytest.approx(7.5, abs=0.9)
    field = hand.field("Drawn, times")
    hand.type_into(field, "0")
    assert field.property("wrong")
    turn()
    boxes = hand.window.route.panel.findChildren(QCheckBox)
    next(b for b in boxes if b.text() == "Live miss").click()
    assert not any(isinstance(o, Segments | Corner) for o in hand.board.overlays())
    assert not hand.window.title_block.miss.isVisible()
    # In any station, by its key.
    hand.window.commands.run("station.model")
    hand.key(Qt.Key.Key_W, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    known(hand)
    assert any(isinstance(o, Segments) for o in hand.board.overlays())


def test_a_drawing_goes_by_its_ink_or_by_the_outlines_on_it(framed: Hand) -> None:
    hand = framed
    begin(hand)
    front = hand.doc.drawings[0]
    hand.session.choose((front.id,))
    turn()
    hand.option("outlines")
    assert hand.doc.drawing(front.id).fit_by == "outlines"
    assert hand.doc.drawings[1].fit_by == "ink"
    known(hand)
    told = hand.window.tools["miss"].told()
    assert "no closed outline is traced on it" in told
    corner = [o for o in hand.board.overlays() if isinstance(o, Corner) and o.only is View.FRONT]
    assert corner[0].text == "cannot be compared"
    low, high = (-54.5, 5.5), (54.5, 84.5)
    doc, _ = with_outline(hand.doc, rectangle(low, high), View.FRONT, "round", drawing=front.id)
    hand.session.commit(doc, "Trace")
    known(hand)
    assert largest(hand)["front"] == pytest.approx(10, abs=0.1)
    hand.session.undo()
    hand.session.undo()
    known(hand)
    assert largest(hand)["front"] < 0.3


def test_the_ledger_has_a_row_for_each_drawing(framed: Hand) -> None:
    hand = framed
    begin(hand)
    mesh = hand.doc.meshes[0]
    moved = mesh.mesh.with_positions(mesh.mesh.positions + np.array([0, 6.0, 0]))
    hand.session.commit(with_item(hand.doc, mesh.id, mesh=moved), "Shift")
    hand.window.commands.run("ledger")
    ledger = hand.window.ledger
    ledger.turn_to("fit")
    known(hand)
    ledger.refresh()
    table = ledger.tables["fit"]
    rows = [[table.item(r, c).text() for c in range(10)] for r in range(table.rowCount())]
    assert [row[0] for row in rows] == ["Front", "Right"]
    assert rows[1][4].startswith(("5.9", "6"))
    assert float(rows[1][8].rstrip("%")) == pytest.approx(100 * 83 / 95, abs=0.5)
    assert "at most 6" in ledger.words.text() or "at most 5.9" in ledger.words.text()
    table.setCurrentCell(1, 0)
    assert hand.session.chosen == (hand.doc.drawings[1].id,)
    QTest.mouseClick(ledger.copy, Qt.MouseButton.LeftButton)
    assert "Copied 2 rows of Fit" in hand.notice()


def test_without_a_mesh_or_a_drawing_it_says_what_to_do(framed: Hand) -> None:
    hand = framed
    hand.session.commit(replace(hand.doc, meshes=()), "Away")
    hand.window.commands.run("station.check")
    hand.settle()
    assert hand.window.route.box("check").to_do.text() == "Model or show a mesh first."
    assert not [o for o in hand.board.overlays() if isinstance(o, Segments | Corner)]
    hand.session.commit(replace(hand.doc, drawings=()), "Away, too")
    assert hand.window.route.box("check").to_do.text() == "Place a drawing first."
    assert not [o for o in hand.board.overlays() if isinstance(o, Segments | Corner)]


def test_the_mesh_is_pulled_to_its_drawings_as_far_as_one_wants(framed: Hand) -> None:
    hand = framed
    block = hand.doc.meshes[0].mesh
    # Square still, with vertices between the corners; and too large.
    flat = by_name("loops")(block, selected(block, "edges:all"), loops=3).mesh
    wrong = flat.with_positions((flat.positions - _MIDDLE) * 1.1 + _MIDDLE)
    hand.session.commit(with_item(hand.doc, hand.doc.meshes[0].id, mesh=wrong), "Larger")
    begin(hand)
    before = largest(hand)
    assert before["front"] > 3
    steps = len(hand.session.history.steps)
    hand.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert hand.window.navigation.instrument is hand.window.tools["pull"]
    turn()
    hand.act("pull")
    hand.wait(lambda: hand.session.previewing)
    known(hand)
    assert largest(hand)["front"] < before["front"] / 4
    assert "Before: " in hand.window.tools["pull"].told()
    hand.type_into(hand.field("How far"), "50")
    known(hand)
    assert largest(hand)["front"] == pytest.approx(before["front"] / 2, rel=0.2)
    assert len(hand.session.history.steps) == steps
    # Escape drops it, Enter keeps it, as one step.
    hand.key(Qt.Key.Key_Escape)
    assert hand.doc.meshes[0].mesh is wrong
    hand.act("pull")
    hand.wait(lambda: hand.session.previewing)
    turn()
    hand.key(Qt.Key.Key_Return)
    assert hand.session.history.undo_label == "Pull to the drawings, 100%"
    known(hand)
    assert largest(hand)["right"] < before["right"] / 4
    hand.session.undo()
    assert hand.doc.meshes[0].mesh is wrong


def test_what_is_selected_alone_is_pulled_and_what_is_held_is_not(framed: Hand) -> None:
    hand = framed
    block = hand.doc.meshes[0].mesh
    flat = by_name("loops")(block, selected(block, "edges:all"), loops=3).mesh
    wrong = flat.with_positions((flat.positions - _MIDDLE) * 1.1 + _MIDDLE)
    item = hand.doc.meshes[0].id
    hand.session.commit(with_item(hand.doc, item, mesh=wrong), "Larger")
    begin(hand)
    hand.session.choose((item,))
    top = np.flatnonzero(wrong.positions[:, 2] > 60).astype(np.int32)
    hand.session.select(Kind.VERTEX, top)
    hand.window.navigation.take("pull")
    turn()
    hand.act("pull")
    hand.wait(lambda: hand.session.previewing)
    moved = np.abs(hand.doc.meshes[0].mesh.positions - wrong.positions).max(axis=1)
    assert moved[top].max() > 2
    assert np.delete(moved, top).max() == 0
    hand.key(Qt.Key.Key_Escape)
    hand.session.choose(())
    hand.session.commit(with_item(hand.doc, item, held=True), "Hold")
    turn()
    hand.act("pull")
    assert "no mesh to pull" in hand.notice()


def test_a_part_is_left_out_by_going_around_it_and_counts_again_after_a_click(
    framed: Hand,
) -> None:
    hand = framed
    block = hand.doc.meshes[0]
    low = block.mesh.positions[:, 2] < 10
    lower = block.mesh.with_positions(block.mesh.positions - low[:, None] * np.array([0, 0, 8.0]))
    hand.session.commit(with_item(hand.doc, block.id, mesh=lower), "Lengthen")
    begin(hand)
    assert largest(hand)["front"] == pytest.approx(8, abs=0.3)
    hand.window.navigation.take("leave-out")
    corners = [(-58, 0, -7), (58, 0, -7), (58, 0, 15), (-58, 0, 15)]
    spots = [hand.at("elevation", at) for at in corners]
    hand.point(spots[0])
    QTest.mousePress(hand.board, Qt.MouseButton.LeftButton, pos=spots[0])
    for spot in spots[1:]:
        over(hand.board, spot, Qt.MouseButton.LeftButton)
        turn()
    QTest.mouseRelease(hand.board, Qt.MouseButton.LeftButton, pos=spots[-1])
    front = hand.doc.drawings[0]
    assert len(front.left_out) == 1
    assert hand.session.history.undo_label == "Leave out a part of front"
    known(hand)
    assert largest(hand)["front"] < 0.3
    assert largest(hand)["right"] == pytest.approx(8, abs=0.3)
    assert "left out of front" in hand.window.tools["leave-out"].told()
    hand.click(hand.at("elevation", (0, 0, 0)))
    assert hand.doc.drawings[0].left_out == ()
    hand.session.undo()
    turn()
    hand.act("all")
    known(hand)
    assert largest(hand)["front"] == pytest.approx(8, abs=0.3)


def test_while_a_key_is_held_the_drawings_stand_alone(framed: Hand) -> None:
    hand = framed
    begin(hand)
    hand.board.setFocus()
    both = hand.picture()
    QTest.keyPress(hand.board, Qt.Key.Key_F2)
    hand.settle()
    assert (hand.board.sight.drawings, hand.board.sight.others) == (True, False)
    alone = hand.picture()
    assert np.abs(both - alone).max() > 40
    QTest.keyRelease(hand.board, Qt.Key.Key_F2)
    assert (hand.board.sight.drawings, hand.board.sight.others) == (True, True)
    # From drawings alone it is the other way round.
    hand.window.commands.run("only-drawings")
    QTest.keyPress(hand.board, Qt.Key.Key_F2)
    assert (hand.board.sight.drawings, hand.board.sight.others) == (False, True)
    QTest.keyRelease(hand.board, Qt.Key.Key_F2)
    assert (hand.board.sight.drawings, hand.board.sight.others) == (True, False)


def test_the_mesh_is_coloured_in_3d_by_what_it_is_off(framed: Hand) -> None:
    hand = framed
    begin(hand)
    block = hand.doc.meshes[0]
    moved = block.mesh.with_positions(block.mesh.positions + np.array([0, 0, 9.0]))
    hand.session.commit(with_item(hand.doc, block.id, mesh=moved), "Lift")
    known(hand)
    rect = hand.board.rects()["space"]
    rows = slice(int(rect.y), int(rect.y + rect.h))
    columns = slice(int(rect.x), int(rect.x + rect.w))
    plain = hand.picture()[rows, columns]
    turn()
    boxes = hand.window.route.panel.findChildren(QCheckBox)
    next(b for b in boxes if b.text() == "Colours in 3D").click()
    known(hand)
    hand.wait(lambda: hand.window.fitting.tints is not None)
    tints = hand.window.fitting.tints
    assert tints is not None
    values = tints.of[block.id]
    assert values[moved.positions[:, 2] > 50].min() > 0 > values[moved.positions[:, 2] < 50].max()
    assert tints.limit == pytest.approx(10)
    coloured = hand.picture()[rows, columns]
    violet = (coloured[:, :, 2] - coloured[:, :, 1] > 60).sum()
    red = (coloured[:, :, 0] - coloured[:, :, 2] > 60).sum()
    assert violet > 300 and red > 300
    assert (plain[:, :, 2] - plain[:, :, 1] > 60).sum() < 50
    legends = [o for o in hand.board.overlays() if isinstance(o, Legend)]
    assert (legends[0].above, legends[0].below) == ("10 mm over", "10 mm short")


def rows_of(hand: Hand, page: str) -> list[list[str]]:
    ledger = hand.window.ledger
    ledger.turn_to(page)
    table = ledger.tables[page]
    columns = range(table.columnCount())
    return [[table.item(r, c).text() for c in columns] for r in range(table.rowCount())]


def test_sizes_are_checked_and_turn_when_the_mesh_does(framed: Hand) -> None:
    hand = framed
    begin(hand)
    hand.window.navigation.take("size-check")
    hand.click(hand.at("elevation", (-54.5, -44.5, 5.5)))
    hand.click(hand.at("elevation", (54.5, -44.5, 5.5)))
    (check,) = hand.doc.sizes
    assert check.mm == pytest.approx(109, abs=0.01)
    assert "holds" in hand.window.tools["size-check"].told()
    hand.window.commands.run("ledger")
    assert rows_of(hand, "sizes")[0][5] == "holds"
    assert hand.window.ledger.words.text() == "Size checks: 1 of 1 hold"
    hand.type_into(hand.field("Wanted"), "112")
    assert rows_of(hand, "sizes")[0][4:] == ["109 mm", "does not hold", "−3 mm"]
    labels = [o.text for o in hand.board.overlays() if isinstance(o, Label)]
    assert "109 mm, wanted 112 mm" in labels
    block = hand.doc.meshes[0]
    wide = block.mesh.with_positions(block.mesh.positions * np.array([112 / 109, 1, 1]))
    hand.session.commit(with_item(hand.doc, block.id, mesh=wide), "Widen")
    assert rows_of(hand, "sizes")[0][5] == "holds"
    # Typed over in the ledger, and how tall all of it is.
    table = hand.window.ledger.tables["sizes"]
    table.item(0, 0).setText("across the foot")
    assert hand.doc.sizes[0].name == "across the foot"
    table.item(0, 3).setText("soon")
    assert hand.doc.sizes[0].tolerance_mm == 0.5 and hand.notice()
    hand.session.choose(())
    turn()
    boxes = hand.window.route.panel.findChildren(QComboBox)
    what = next(b for b in boxes if b.accessibleName() == "What is checked")
    what.setCurrentIndex(what.findData("2"))
    what.activated.emit(what.currentIndex())
    turn()
    hand.act("add")
    assert [row[1] for row in rows_of(hand, "sizes")][1] == "height of all meshes"
    table.setCurrentCell(0, 0)
    QTest.mouseClick(hand.window.ledger.drop, Qt.MouseButton.LeftButton)
    assert [c.name for c in hand.doc.sizes] == ["height"]


def test_a_landmark_is_tied_to_a_vertex_that_is_brought_there(framed: Hand) -> None:
    hand = framed
    begin(hand)
    hand.window.navigation.take("tie-landmark")
    hand.click(hand.at("elevation", (54.5, -44.5, 74.5)))
    assert "Mark a landmark" in hand.notice()
    tip = Landmark("tip", (60.0, -44.5, 80.0))
    hand.session.commit(replace(hand.doc, landmarks=(tip,)), "Landmark")
    turn()
    hand.click(hand.at("elevation", (54.5, -44.5, 74.5)))
    off = float(np.hypot(5.5, 5.5))
    assert f"{off:.2f} mm off" in hand.window.tools["tie-landmark"].told()
    hand.window.commands.run("ledger")
    assert rows_of(hand, "landmarks")[0][6] == f"{off:.2f} mm"
    turn()
    hand.act("bring")
    places = hand.doc.meshes[0].mesh.positions
    assert (np.abs(places - [60, -44.5, 80]).sum(axis=1) < 1e-6).sum() == 1
    assert "0 mm off" in hand.window.tools["tie-landmark"].told()
    turn()
    hand.act("untie")
    assert "nowhere on a mesh yet" in hand.window.tools["tie-landmark"].told()


def test_a_tied_place_of_the_surface_is_dragged_to_its_landmark(framed: Hand) -> None:
    hand = framed
    begin(hand)
    block = hand.doc.meshes[0]
    tip = Landmark("tip", (10.0, -44.5, 60.0))
    hand.session.commit(replace(hand.doc, landmarks=(tip,)), "Landmark")
    hand.window.navigation.take("tie-landmark")
    start = hand.at("elevation", (0, -44.5, 40))
    hand.click(start)
    ((_, _, at),) = ties_of(hand.doc)
    assert at == pytest.approx(hand.world("elevation", start) * [1, 0, 1] + [0, -44.5, 0], abs=0.6)
    tool = hand.window.tools["tie-landmark"]
    hand.drag(start, hand.at("elevation", (10, -44.5, 60)) + QPoint(3, -2))
    ((_, _, at),) = ties_of(hand.doc)
    assert at == pytest.approx([10, -44.5, 60], abs=1e-6), "it snaps to where it belongs"
    assert "0 mm off" in tool.told()
    assert hand.session.history.undo_label == "Move tip on the mesh"
    hand.drag(hand.at("elevation", (10, -44.5, 60)), hand.at("elevation", (30, -44.5, 70)))
    ((_, _, at),) = ties_of(hand.doc)
    assert at[[0, 2]] == pytest.approx([30, 70], abs=0.6) and at[1] == pytest.approx(-44.5)
    hand.session.undo()
    hand.session.undo()
    after = hand.doc.meshes[0].mesh
    assert np.array_equal(after.positions, block.mesh.positions)
    before = hand.doc
    start = hand.at("elevation", tuple(ties_of(before)[0][2]))
    hand.drag(
        start,
        start + QPoint(30, 0),
        before_release=lambda: hand.key(Qt.Key.Key_Escape),
    )
    assert hand.doc is before


def test_a_size_is_checked_between_places_of_the_surface(framed: Hand) -> None:
    hand = framed
    begin(hand)
    hand.window.navigation.take("size-check")
    a, b = (hand.at("elevation", at) for at in ((-20, -44.5, 30), (30, -44.5, 50)))
    hand.click(a)
    hand.click(b)
    far = np.linalg.norm(hand.world("elevation", a) - hand.world("elevation", b))
    assert hand.doc.sizes[0].mm == pytest.approx(far, abs=0.01)
    assert "which holds" in hand.window.tools["size-check"].told()


def test_copies_of_a_tied_vertex_stay_where_they_are(framed: Hand) -> None:
    hand = framed
    begin(hand)
    tip = Landmark("tip", (60.0, -44.5, 80.0))
    hand.session.commit(replace(hand.doc, landmarks=(tip,)), "Landmark")
    hand.window.navigation.take("tie-landmark")
    hand.click(hand.at("elevation", (54.5, -44.5, 74.5)))
    block = hand.doc.meshes[0]
    doubled = by_name("radial")(block.mesh, copies=2).mesh
    hand.session.commit(with_item(hand.doc, block.id, mesh=doubled), "Copy")
    turn()
    hand.act("bring")
    after = hand.doc.meshes[0].mesh.positions
    assert len(after) == len(doubled.positions)
    moved = np.flatnonzero(np.abs(after - doubled.positions).sum(axis=1) > 1e-9)
    assert after[moved].tolist() == [[60.0, -44.5, 80.0]]


def test_notes_are_pinned_and_listed(framed: Hand) -> None:
    hand = framed
    begin(hand)
    hand.window.navigation.take("pin-note")
    hand.click(hand.at("elevation", (0, -44.5, 60)))
    assert "Type what the note says" in hand.notice()
    turn()
    lines = hand.window.route.panel.findChildren(QLineEdit)
    line = next(e for e in lines if e.accessibleName() == "Says")
    line.setFocus()
    QTest.keyClicks(line, "assumed")
    hand.click(hand.at("elevation", (0, -44.5, 60)))
    (note,) = hand.doc.notes
    assert (note.text, note.view) == ("assumed", "front")
    assert note.at[2] == pytest.approx(60, abs=1)
    seen = [o for o in hand.board.overlays() if isinstance(o, Label) and o.text == "assumed"]
    assert seen[0].only is View.FRONT
    hand.window.commands.run("ledger")
    assert rows_of(hand, "notes")[0][:2] == ["assumed", "Front"]
    hand.window.ledger.tables["notes"].item(0, 0).setText("measured: 2 mm")
    assert hand.doc.notes[0].text == "measured: 2 mm"
    hand.window.ledger.tables["notes"].setCurrentCell(0, 0)
    QTest.mouseClick(hand.window.ledger.drop, Qt.MouseButton.LeftButton)
    assert hand.doc.notes == ()


def test_what_is_not_sound_is_listed_shown_and_mended(framed: Hand) -> None:
    hand = framed
    begin(hand)
    block = hand.doc.meshes[0]
    hand.window.commands.run("ledger")
    assert rows_of(hand, "health") == []
    assert "sound" in hand.window.ledger.words.text()
    open_ = by_name("delete")(block.mesh, selected(block.mesh, "faces:facing=+z")).mesh
    hand.session.commit(with_item(hand.doc, block.id, mesh=open_), "Open")
    rows = rows_of(hand, "health")
    assert rows[0][0] == "block" and rows[0][2] == "Fill holes"
    hand.window.ledger.tables["health"].setCurrentCell(0, 0)
    assert hand.session.chosen == (block.id,) and len(hand.session.selected) == 4
    buttons = hand.window.ledger.findChildren(QPushButton)
    button = next(b for b in buttons if b.property("act") == "mend")
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert rows_of(hand, "health") == []
    assert hand.doc.meshes[0].mesh.topology.face_count == 6


def test_inner_lines_are_held_against_the_drawn_ones(framed: Hand) -> None:
    hand = framed
    begin(hand)
    fitting = hand.window.fitting
    box_ = next(
        b for b in hand.window.route.panel.findChildren(QCheckBox) if b.text() == "Inner lines"
    )
    box_.click()
    hand.wait(lambda: not fitting.reading and all(f.inner is not None for f in fitting.fits()))
    hand.settle()
    off = [one.inner.largest for one in fitting.fits() if one.inner is not None]
    assert max(off) < 0.6, "the block's own edges are drawn"
    hand.window.commands.run("ledger")
    hand.window.ledger.turn_to("fit")
    rows = rows_of(hand, "fit")
    assert [row[9] for row in rows][1::2] == ["inner lines", "inner lines"]
    block = hand.doc.meshes[0]
    moved = block.mesh.with_positions(block.mesh.positions + np.array([6.0, 0, 0]))
    hand.session.commit(with_item(hand.doc, block.id, mesh=moved), "Aside")
    known(hand)
    hand.wait(lambda: max(f.inner.largest for f in fitting.fits() if f.inner is not None) > 5)
    hand.settle()
    assert any(isinstance(o, Segments) and o.role == "accent" for o in hand.board.overlays())
    assert "Inner lines" in hand.window.tools["miss"].told()


def test_a_selected_part_is_told_to_follow_one_drawing(framed: Hand) -> None:
    hand = framed
    begin(hand)
    block = hand.doc.meshes[0]
    hand.window.navigation.take("pull")
    hand.session.choose((block.id,))
    hand.session.select(Kind.VERTEX, np.array([0, 1], np.int32))
    turn()
    lists = hand.window.route.panel.findChildren(QComboBox)
    choice = next(b for b in lists if b.accessibleName() == "What is selected follows")
    front = next(d for d in hand.doc.drawings if d.view is View.FRONT)
    choice.setCurrentIndex(choice.findData(front.id))
    choice.activated.emit(choice.currentIndex())
    rows = followed(hand.doc.meshes[0].mesh, [front.id])
    assert rows[:2].tolist() == [0, 0] and (rows[2:] == -1).all()
    hand.session.undo()
    assert (followed(hand.doc.meshes[0].mesh, [front.id]) == -1).all()


def test_health_lists_what_crosses_and_thin_walls(framed: Hand) -> None:
    hand = framed
    plates = joined([box((0, 0, 0), (40, 40, 2)), box((10, 10, -20), (20, 20, 30))])
    hand.model(plates, "plates")
    hand.window.commands.run("ledger")
    hand.window.ledger.turn_to("health")
    hand.wait(lambda: "looked over" not in hand.window.ledger.words.text())
    rows = rows_of(hand, "health")
    assert [row[1:] for row in rows] == [["6 faces that others run through", "Unite shells"]]
    field = hand.window.ledger._fields[0].edit
    hand.type_into(field, "3 mm")
    hand.wait(lambda: len(rows_of(hand, "health")) == 2)
    assert rows_of(hand, "health")[1][1] == "2 faces of walls under 3 mm"
    hand.type_into(field, "0")
    assert hand.window.session.looking_over.wall_mm == 3.0
    table = hand.window.ledger.tables["health"]
    hand.session.choose(())
    for _ in range(2):
        # The second click is on the row that is gone to already.
        spot = table.visualItemRect(table.item(0, 1)).center()
        QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=spot)
        assert len(hand.session.selected) == 6
        hand.session.choose(())
    hand.window.ledger._buttons[0].click()
    hand.wait(lambda: hand.doc.meshes[0].mesh is not plates)
    hand.wait(lambda: "looked over" not in hand.window.ledger.words.text())
    assert "run through" not in str(rows_of(hand, "health"))


def test_the_chosen_meshes_alone_are_compared(framed: Hand) -> None:
    hand = framed
    doc, other = edits.with_mesh(hand.doc, box((-200, -10, 0), (-150, 10, 50)), "aside")
    hand.session.commit(doc, "Another")
    begin(hand)
    assert largest(hand)["front"] > 90
    hand.window.fitting.compare_chosen(True)
    known(hand)
    assert largest(hand)["front"] > 90, "none is chosen"
    hand.session.choose((hand.doc.meshes[0].id,))
    known(hand)
    hand.wait(lambda: largest(hand)["front"] < 1)
    hand.session.choose((other,))
    known(hand)
    hand.wait(lambda: largest(hand)["front"] > 90)
    hand.window.fitting.compare_chosen(False)
