from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QPushButton

from dimetron.demo.shelf import project
from dimetron.document import container
from dimetron.document.guide import guides_of
from dimetron.document.making import makers
from dimetron.document.model import with_item
from dimetron.document.outline import Outline, outlines_of, whole_paths, with_outline
from dimetron.geometry.views import View
from dimetron.mesh.health import health
from dimetron.mesh.mesh import Mesh
from dimetron.outlines.path import bounds, path_of, sampled
from dimetron.outlines.shapes import ellipse, rectangle
from dimetron.outlines.trace import distances
from tests.app.conftest import Hand, over, turn

LEFT = Qt.MouseButton.LeftButton
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
#: Places on the lower line of the can's spout, as its side drawing has it.
SPOUT = ((0, -222, 213), (0, -170, 130), (0, -100, 46))


@pytest.fixture
def tracing(hand: Hand) -> Hand:
    """The watering can's drawings, read, and the Trace station open."""
    doc = project("watering-can")
    hand.session.open(doc, None)
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.board.fit_all()
    hand.window.navigation.open_station("trace")
    hand.settle()
    return hand


def _take(hand: Hand, name: str) -> None:
    hand.window.navigation.take(name)
    hand.settle()


def _outline(hand: Hand) -> Outline:
    (item,) = outlines_of(hand.doc)
    return item


def _put(hand: Hand, path: object, view: View = View.FRONT, name: str = "it") -> Outline:
    """An outline as if it had been drawn, chosen."""
    doc, made = with_outline(hand.doc, path, view, name)  # type: ignore[arg-type]
    hand.session.commit(doc, "Draw")
    hand.session.choose((made,))
    item = hand.doc.item(made)
    assert isinstance(item, Outline)
    hand.settle()
    return item


def _panel(hand: Hand) -> str:
    turn()
    return hand.window.board.tool.told()  # type: ignore[union-attr]


def test_an_outline_follows_the_spout_between_clicks(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "follow-ink")
    for place in SPOUT[:2]:
        hand.click(hand.at("side", place))
    hand.point(hand.at("side", SPOUT[2]))
    labels = [getattr(mark, "text", "") for mark in hand.board.tool.overlays()]
    assert any("next piece" in text and "off, largest" in text for text in labels)
    hand.click(hand.at("side", SPOUT[2]))
    hand.key(Qt.Key.Key_Return)
    item = _outline(hand)
    assert hand.session.chosen == (item.id,)
    assert item.view is View.RIGHT
    assert item.drawing == next(d.id for d in hand.doc.drawings if d.view is View.RIGHT)
    assert 2 <= len(item.path) <= 9
    # It bends as the spout does, far from the straight way between the clicks.
    straight = path_of([item.path.points[0], item.path.points[-1]])
    assert distances(straight, item.path.points).max() > 8
    assert "off" in _panel(hand)
    hand.session.undo()
    assert not outlines_of(hand.doc)


def test_ctrl_goes_straight_escape_takes_back_and_the_beginning_closes(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "follow-ink")
    corners = [(0, 60, 240), (0, 140, 240), (0, 140, 300), (0, 60, 300)]
    for corner in corners:
        hand.click(hand.at("side", corner), CTRL)
    hand.key(Qt.Key.Key_Escape)
    hand.key(Qt.Key.Key_Escape)
    assert hand.window.board.tool.name == "follow-ink"  # type: ignore[union-attr]
    for corner in corners[2:]:
        hand.click(hand.at("side", corner), CTRL)
    hand.click(hand.at("side", corners[0]), CTRL)
    item = _outline(hand)
    assert item.path.closed and len(item.path) == 4
    assert np.ptp(bounds(item.path), axis=0) == pytest.approx([80, 60], abs=2)


def test_taking_another_tool_keeps_what_was_drawn(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "follow-ink")
    for corner in ((0, 60, 240), (0, 140, 240), (0, 140, 300)):
        hand.click(hand.at("side", corner), CTRL)
    _take(hand, "points")
    assert len(_outline(hand).path) >= 2


def test_a_half_of_the_can_is_mirrored_and_turned(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "follow-ink")
    hand.option("x")
    hand.click(hand.at("elevation", (1, 0, 0)))
    for place in ((84, 0, 0), (83, 0, 100), (77, 0, 190)):
        hand.click(hand.at("elevation", place))
    hand.click(hand.at("elevation", (1, 0, 193)), CTRL)
    hand.key(Qt.Key.Key_Return)
    item = _outline(hand)
    assert item.half == "x"
    (whole,) = whole_paths(item)
    assert whole.closed
    box = bounds(whole)
    assert box[0, 0] == pytest.approx(-box[1, 0])
    assert box[1, 0] == pytest.approx(87, abs=1.5)
    _take(hand, "make-solid")
    hand.window.board.tool._maker = makers()["turned"]  # type: ignore[union-attr]
    hand.act("make")
    made = hand.doc.meshes[-1]
    assert health(made.mesh).closed
    assert made.mesh.bounds[:, 1] == pytest.approx(box[:, 0], abs=0.5)
    assert made.made is not None and made.made.of == (item.id,)
    # The outline moves, and what is made of it with it.
    hand.session.choose((item.id,))
    _take(hand, "points")
    before = health(made.mesh).volume_mm3
    hand.click(hand.at("elevation", (77, 0, 190)))
    hand.drag(hand.at("elevation", (77, 0, 190)), hand.at("elevation", (60, 0, 190)))
    assert health(hand.doc.mesh(made.id).mesh).volume_mm3 != before


def test_points_are_dragged_typed_put_in_and_taken_out(tracing: Hand) -> None:
    hand = tracing
    item = _put(hand, rectangle((-60, 20), (60, 120)))
    _take(hand, "points")
    at = hand.at("elevation", (60, 0, 120))
    hand.drag(at, hand.at("elevation", (90, 0, 150)))
    moved = _outline(hand).path.points[2]
    assert moved == pytest.approx([90, 150], abs=1.5)
    hand.type_into(hand.field("X"), "75")
    hand.type_into(hand.field("Z"), "14 cm")
    assert _outline(hand).path.points[2] == pytest.approx([75, 140])
    hand.type_into(hand.field("Radius"), "10")
    assert len(whole_paths(_outline(hand))[0]) > 4
    hand.click(hand.at("elevation", (0, 0, 20)), CTRL)
    assert len(_outline(hand).path) == 5
    hand.board.tool.key("delete", None)
    assert len(_outline(hand).path) == 4
    hand.session.undo()
    hand.click(hand.at("elevation", (0, 0, 20)))
    hand.act("smooth")
    assert _outline(hand).path.corner.sum() == 4
    assert hand.doc.item(item.id) is not None


def test_delete_takes_out_selected_points_and_else_the_outline(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-60, 220), (60, 300)))
    _take(hand, "points")
    hand.click(hand.at("elevation", (-60, 0, 300)))
    hand.key(Qt.Key.Key_Delete)
    assert len(_outline(hand).path) == 3
    hand.key(Qt.Key.Key_Delete)
    assert not outlines_of(hand.doc)


def test_a_box_selects_points_and_arrows_move_them(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-60, 20), (60, 120)))
    _take(hand, "points")
    hand.drag(hand.at("elevation", (-75, 0, 135)), hand.at("elevation", (75, 0, 105)))
    assert hand.board.tool.selected() == (2, 3)  # type: ignore[union-attr]
    hand.key(Qt.Key.Key_Up)
    top = _outline(hand).path.points[2:, 1]
    assert (top > 120).all()
    assert _outline(hand).path.points[:2, 1].tolist() == [20, 20]


def test_two_open_outlines_are_joined_and_a_point_snaps_to_another(tracing: Hand) -> None:
    hand = tracing
    one = _put(hand, path_of([[-60, 220], [0, 220]]))
    other = _put(hand, path_of([[10, 230], [60, 260]]))
    hand.window.workbench.toggle_snap("vertex")
    _take(hand, "points")
    at, to = hand.at("elevation", (10, 0, 230)), hand.at("elevation", (1, 0, 221))
    hand.drag(at, to)
    hand.window.workbench.toggle_snap("vertex")
    moved = hand.doc.item(other.id)
    assert isinstance(moved, Outline)
    assert moved.path.points[0] == pytest.approx([0, 220])
    hand.session.choose((one.id, other.id))
    hand.act("join")
    assert len(_outline(hand).path) == 3


def test_straight_pieces_lie_square_and_begin_where_outlines_cross(tracing: Hand) -> None:
    hand = tracing
    _put(hand, path_of([[-100, 230], [-60, 270]]))
    _put(hand, path_of([[-100, 270], [-60, 230]]))
    kept = hand.doc
    hand.window.workbench.toggle_snap("vertex")
    _take(hand, "follow-ink")
    hand.click(hand.at("elevation", (-79, 0, 251)))
    hand.window.workbench.toggle_snap("vertex")
    hand.click(hand.at("elevation", (-50, 0, 255)), SHIFT)
    over(hand.board, hand.at("elevation", (-49, 0, 280)), keys=SHIFT)
    labels = [getattr(mark, "text", "") for mark in hand.board.tool.overlays()]
    assert any("straight" in text for text in labels)
    hand.click(hand.at("elevation", (-49, 0, 280)), SHIFT)
    hand.key(Qt.Key.Key_Return)
    (drawn,) = (item for item in outlines_of(hand.doc) if kept.item(item.id) is None)
    first, second, third = drawn.path.points
    assert first == pytest.approx([-80, 250], abs=1e-6)
    assert second[1] == pytest.approx(250, abs=1e-6) and second[0] > -60
    assert third[0] == pytest.approx(second[0], abs=1e-6) and third[1] > 270


def test_straight_pieces_touch_an_outline_or_stand_square_to_it(tracing: Hand) -> None:
    hand = tracing
    _put(hand, ellipse((0, 150), (40, 40)))
    _take(hand, "follow-ink")
    hand.window.workbench.toggle_snap("ink")
    hand.click(hand.at("elevation", (-100, 0, 150)))
    begin = hand.board.tool._first  # type: ignore[union-attr]
    far = np.array([0, 150]) - begin
    long = np.hypot(*far)
    turn = np.arctan2(far[1], far[0]) + np.pi - np.arccos(40 / long)
    touch = np.array([0, 150]) + 40 * np.array([np.cos(turn), np.sin(turn)])
    over(hand.board, hand.at("elevation", (touch[0], 0, touch[1] + 1)), keys=SHIFT)
    labels = [getattr(mark, "text", "") for mark in hand.board.tool.overlays()]
    assert any("touches the outline" in text for text in labels)
    hand.click(hand.at("elevation", (touch[0], 0, touch[1] + 1)), SHIFT)
    hand.key(Qt.Key.Key_Return)
    line = outlines_of(hand.doc)[-1].path.points
    assert line[1] == pytest.approx(touch, abs=0.6)
    way = np.diff(line, axis=0)[0]
    assert abs(way @ (line[1] - (0, 150))) / np.hypot(*way) / 40 < 0.02


def test_drawings_and_outlines_are_shown_apart_by_one_key(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-60, 220), (60, 300)))
    hand.session.choose(())
    spot = hand.at("elevation", (0, 0, 300))

    def seen() -> np.ndarray:
        return hand.picture()[spot.y() - 2 : spot.y() + 3, spot.x() - 2 : spot.x() + 3]

    with_it = seen()
    hand.window.commands.run("drawings-or-outlines")
    assert np.abs(seen() - with_it).max() > 60
    assert hand.board.sight.drawings
    hand.window.commands.run("drawings-or-outlines")
    assert not hand.board.sight.drawings
    assert np.abs(seen() - with_it).max() < 90
    hand.window.commands.run("drawings-or-outlines")
    assert np.abs(seen() - with_it).max() == 0


def test_guides_lie_where_they_are_typed_and_points_snap_to_them(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "guides")
    hand.click(hand.at("elevation", (100, 0, 231)), CTRL)
    (guide,) = guides_of(hand.doc)
    hand.type_into(hand.field("At Z"), "233.3")
    assert guides_of(hand.doc)[0].at == pytest.approx(233.3)
    assert "233.3" in hand.window.tray.cards[guide.id].size_words.text()
    spot = hand.at("side", (0, -280, 233.3))
    line = hand.picture()[spot.y() - 2 : spot.y() + 3, spot.x()]
    hand.session.commit(with_item(hand.doc, guide.id, shown=False), "Hide")
    assert np.abs(hand.picture()[spot.y() - 2 : spot.y() + 3, spot.x()] - line).max() > 20
    hand.session.undo()
    _take(hand, "shape-outline")
    hand.option("rectangle")
    hand.drag(hand.at("elevation", (-90, 0, 260)), hand.at("elevation", (-60, 0, 234)))
    assert bounds(_outline(hand).path)[0, 1] == pytest.approx(233.3)
    _take(hand, "guides")
    hand.option("circle")
    hand.drag(hand.at("side", (0, 60, 260)), hand.at("side", (0, 90, 260)))
    hand.type_into(hand.field("Radius"), "40")
    assert guides_of(hand.doc)[-1].radius == 40
    hand.drag(hand.at("elevation", (-100, 0, 233.3)), hand.at("elevation", (-100, 0, 210)))
    assert guides_of(hand.doc)[0].at < 220


def test_a_point_is_tied_to_an_axis_and_stays_there(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-60, 220), (60, 300)))
    _take(hand, "points")
    hand.click(hand.at("elevation", (-60, 0, 300)))
    turn()
    boxes = hand.window.route.panel.findChildren(QComboBox)
    box = next(b for b in boxes if b.accessibleName() == "Tied to" and not b.isHidden())
    box.setCurrentIndex(box.findText("X = 0"))
    box.activated.emit(box.currentIndex())
    assert _outline(hand).path.points[3].tolist() == [0, 300]
    hand.drag(hand.at("elevation", (0, 0, 300)), hand.at("elevation", (-30, 0, 280)))
    x, z = _outline(hand).path.points[3]
    assert x == 0
    assert z == pytest.approx(280, abs=1.5)


def test_an_outline_beside_the_line_is_laid_on_it(tracing: Hand) -> None:
    hand = tracing
    front = next(d for d in hand.doc.drawings if d.view is View.FRONT)
    beside = path_of([[79, 60], [76.5, 140]])
    item = _put(hand, beside)
    _take(hand, "points")
    before = _panel(hand)
    hand.act("lay")
    after = hand.doc.item(item.id)
    assert isinstance(after, Outline)
    assert after.drawing == front.id
    assert after.path.points[:, 0].mean() > beside.points[:, 0].mean() + 1
    assert _panel(hand) != before


def _ring_around(hand: Hand, places: object, keys: Qt.KeyboardModifier) -> None:
    """Drag a free line around places of the front view."""
    px = [hand.at("elevation", (x, 0, z)) for x, z in places]  # type: ignore[attr-defined]
    over(hand.board, px[0], keys=keys)
    QTest.mousePress(hand.board, LEFT, keys, px[0])
    for at in px[1:]:
        over(hand.board, at, LEFT, keys)
    QTest.mouseRelease(hand.board, LEFT, keys, px[-1])
    turn()


def test_a_drawing_is_traced_by_itself_and_pieces_are_left(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "trace-itself")
    tool = hand.board.tool
    hand.click(hand.at("elevation", (30, 0, 100)))
    hand.wait(lambda: bool(tool._found))  # type: ignore[union-attr]
    assert "1 of 1" in _panel(hand)
    hand.option("auto")
    hand.wait(lambda: len(tool._found) > 3)  # type: ignore[union-attr]
    found = len(tool._found)  # type: ignore[union-attr]
    path = tool._found[0][0]  # type: ignore[union-attr]
    x, z = path.pieces[0].mean(axis=0)
    hand.click(hand.at("elevation", (float(x), 0.0, float(z))))
    assert len(tool._taken) == found - 1  # type: ignore[union-attr]
    left = sorted(tool._taken)  # type: ignore[union-attr]
    _ring_around(hand, ((0, 300), (-130, 200), (0, 195), (130, 200)), CTRL)
    held = sorted(tool._taken)  # type: ignore[union-attr]
    lines = [sampled(one, 0.05) for one, _ in tool._found]  # type: ignore[union-attr]
    ring = np.array([[0, 300], [-130, 200], [0, 195], [130, 200]], np.float32)
    least = [
        min(cv2.pointPolygonTest(ring, tuple(p), True) for p in line.tolist()) for line in lines
    ]
    assert held == [k for k, away in enumerate(least) if away > 0] and held != left
    assert min(abs(away) for away in least) > 0.5
    # With Shift they are left; a click takes the one again.
    _ring_around(hand, ((0, 300), (-130, 200), (0, 195), (130, 200)), CTRL | SHIFT)
    assert not tool._taken  # type: ignore[union-attr]
    _ring_around(hand, ((-130, -20), (130, -20), (130, 310), (-130, 310)), CTRL)
    assert len(tool._taken) == found  # type: ignore[union-attr]
    hand.click(hand.at("elevation", (float(x), 0.0, float(z))))
    hand.act("take")
    assert len(outlines_of(hand.doc)) == found - 1
    hand.session.undo()
    assert not outlines_of(hand.doc)


def test_a_part_of_a_drawing_is_traced_alone(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "trace-itself")
    hand.option("auto")
    tool = hand.board.tool
    # The handle, from beside the drawing to above the can's rim.
    hand.drag(hand.at("side", (0, 130, 60)), hand.at("side", (0, 175, 300)))
    hand.wait(lambda: bool(tool._found))  # type: ignore[union-attr]
    part = [path for path, _ in tool._found]  # type: ignore[union-attr]
    every = np.concatenate([bounds(path) for path in part])
    assert every[:, 0].min() > 129 and every[:, 1].min() > 59 and every[:, 1].max() < 301
    # Other numbers trace the same part anew; Escape forgets it.
    hand.option("centre")
    hand.wait(lambda: bool(tool._found))  # type: ignore[union-attr]
    again = np.concatenate([bounds(path) for path, _ in tool._found])  # type: ignore[union-attr]
    assert again.min(axis=0) == pytest.approx(every.min(axis=0), abs=2)
    hand.key(Qt.Key.Key_Escape)
    assert not tool._found  # type: ignore[union-attr]


def test_letters_of_a_shape_are_stamped_through_a_plate(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "shape-outline")
    hand.option("rectangle")
    hand.drag(hand.at("elevation", (-60, 0, 30)), hand.at("elevation", (60, 0, 150)))
    hand.type_into(hand.field("Across"), "100")
    plate = _outline(hand)
    assert np.ptp(bounds(plate.path), axis=0)[0] == pytest.approx(100)
    _take(hand, "make-solid")
    hand.type_into(hand.field("Thickness"), "5")
    hand.act("make")
    slab = hand.doc.meshes[-1]
    before = health(slab.mesh).volume_mm3 or 0
    hole = _put(hand, ellipse(bounds(plate.path).mean(axis=0), (10, 10)), name="hole")
    hand.session.choose((slab.id, hole.id))
    turn()
    hand.act("outside")
    after = hand.doc.mesh(slab.id)
    assert after.made is None
    # That is asked about once, and can be taken back.
    assert "edited by hand" in hand.notice()
    back = hand.window.notices.findChildren(QPushButton)
    next(b for b in back if b.text() == "Take it back").click()
    assert not hand.notice()
    assert hand.doc.mesh(slab.id).made is not None
    hand.window.commands.run("redo")
    assert before - (health(after.mesh).volume_mm3 or 0) == pytest.approx(np.pi * 100 * 5, rel=0.01)
    # Only so deep: typed, or told by a click in the side view.
    hand.session.undo()
    hand.session.choose((slab.id, hole.id))
    turn()
    hand.type_into(hand.field("Cut to"), "2")
    hand.act("outside")
    cut = health(hand.doc.mesh(slab.id).mesh).volume_mm3 or 0
    assert before - cut == pytest.approx(np.pi * 100 * 2, rel=0.01)
    hand.session.undo()
    hand.session.choose((slab.id, hole.id))
    turn()
    spot = hand.at("side", (0, -0.5, 260))
    hand.click(spot, CTRL)
    told = hand.world("side", spot)[1] + 2.5
    hand.act("outside")
    cut = health(hand.doc.mesh(slab.id).mesh).volume_mm3 or 0
    assert before - cut == pytest.approx(np.pi * 100 * told, rel=0.01)


def test_typed_letters_are_outlines_in_a_group(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "letters")
    turn()
    line = next(
        w
        for w in hand.window.route.panel.findChildren(QLineEdit)
        if w.accessibleName() == "Text" and not w.isHidden()
    )
    QTest.keyClicks(line, "Bo")
    hand.type_into(hand.field("Height"), "25")
    hand.click(hand.at("elevation", (-30, 0, 60)))
    found = outlines_of(hand.doc)
    assert len(found) == 5
    assert [group.name for group in hand.doc.groups] == ["Bo"]
    assert {item.group for item in found} == {hand.doc.groups[0].id}
    box = np.array([bounds(item.path) for item in found])
    assert box[:, 1, 1].max() - box[:, 0, 1].min() == pytest.approx(25, abs=1)
    line.textEdited.emit("\N{SNAIL}")
    assert "no letter" in _panel(hand)


def test_numbers_of_what_is_made_can_be_changed_until_it_is_made_plain(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-20, 0), (20, 40)))
    before = len(hand.doc.meshes)
    _take(hand, "make-solid")
    assert len(hand.doc.meshes) == before + 1
    assert len(hand.session.committed.meshes) == before
    hand.act("make")
    slab = hand.doc.meshes[-1]
    hand.type_into(hand.field("Thickness"), "31")
    assert np.ptp(hand.doc.mesh(slab.id).mesh.bounds[:, 1]) == pytest.approx(31)
    assert "follows" in _panel(hand)
    card = hand.window.tray.cards[slab.id]
    assert "Slab" in card.badge.text()
    assert "Made of it" in card.made_words.text() and "thickness 31" in card.made_words.text()
    hand.act("plain")
    assert hand.doc.mesh(slab.id).made is None


def test_a_click_in_another_view_catches_how_deep_it_goes(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-20, 0), (20, 40)))
    _take(hand, "make-solid")
    hand.option("away")
    hand.click(hand.at("side", (0, 55, 250)), CTRL)
    hand.act("make")
    low, high = hand.doc.meshes[-1].mesh.bounds[:, 1]
    assert low == pytest.approx(0)
    assert high == pytest.approx(55, abs=1.5)


def _switch(hand: Hand, title: str) -> None:
    turn()
    boxes = hand.window.route.panel.findChildren(QCheckBox)
    next(b for b in boxes if b.text() == title and b.isVisible()).click()
    turn()


def _make(hand: Hand, value: str) -> None:
    turn()
    boxes = hand.window.route.panel.findChildren(QComboBox)
    box = next(b for b in boxes if b.accessibleName() == "Make" and not b.isHidden())
    box.setFocus()
    box.setCurrentIndex(box.findData(value))
    box.activated.emit(box.currentIndex())
    turn()


def test_edges_are_picked_that_are_rounded_more(tracing: Hand, tmp_path: Path) -> None:
    hand = tracing
    _put(hand, rectangle((-60, 30), (60, 150)), name="plate")
    _take(hand, "make-solid")
    hand.type_into(hand.field("Thickness"), "20")
    hand.act("make")
    slab = hand.doc.meshes[-1]
    sharp = health(slab.mesh).volume_mm3 or 0
    _switch(hand, "Pick places")
    hand.click(hand.at("elevation", (60, 0, 80)))
    hand.type_into(hand.field("Edges here"), "6")
    rounded = hand.doc.mesh(slab.id)
    lacks = 2 * (1 - np.pi / 4) * 36
    assert lacks * 100 < sharp - (health(rounded.mesh).volume_mm3 or 0) < lacks * 120
    labels = [getattr(mark, "text", "") for mark in hand.board.tool.overlays()]
    assert "6 mm" in labels
    hand.click(hand.at("elevation", (-60, 0, 80)))
    both = health(hand.doc.mesh(slab.id).mesh).volume_mm3 or 0
    assert lacks * 200 < sharp - both < lacks * 240
    # A click on a place chooses it; Delete takes it away.
    hand.click(hand.at("elevation", (60, 0, 80)))
    hand.key(Qt.Key.Key_Delete)
    (place,) = dict(hand.doc.mesh(slab.id).made.numbers)["others"]  # type: ignore[union-attr]
    assert place == pytest.approx((0.0, 50 / 120, 6.0), abs=0.01)
    # None is chosen now; Delete deletes neither the other one nor the mesh.
    hand.key(Qt.Key.Key_Delete)
    assert len(dict(hand.doc.mesh(slab.id).made.numbers)["others"]) == 1  # type: ignore[union-attr]
    # It stays with its edge when the plate is made anew, and when the project is kept.
    file = tmp_path / "plate.dimetron"
    container.save(hand.doc, file)
    assert container.load(file).document.mesh(slab.id).made == hand.doc.mesh(slab.id).made
    hand.session.undo()
    assert len(dict(hand.doc.mesh(slab.id).made.numbers)["others"]) == 2  # type: ignore[union-attr]
    hand.key(Qt.Key.Key_Escape)
    assert not hand.board.tool.overlays()
    # What is picked before it is made holds for that alone.
    disc = _put(hand, ellipse((0, 230), (30, 30)), name="disc")
    _switch(hand, "Pick places")
    hand.click(hand.at("elevation", (30, 0, 230)))
    hand.act("make")
    assert dict(hand.doc.meshes[-1].made.numbers)["others"]  # type: ignore[union-attr]
    hand.session.choose((disc.id,))
    hand.act("make")
    numbers = dict(hand.doc.meshes[-1].made.numbers)  # type: ignore[union-attr]
    assert not numbers["others"] and numbers["thickness"] == 20


def test_a_sheet_is_cut_along_a_line_and_a_click_says_what_stays(tracing: Hand) -> None:
    hand = tracing
    _put(hand, rectangle((-60, 30), (60, 150)), name="plate")
    _take(hand, "make-solid")
    _make(hand, "sheet")
    assert hand.board.hasFocus()
    hand.type_into(hand.field("Beyond"), "10")
    hand.act("make")
    sheet = hand.doc.meshes[-1]
    assert np.ptp(sheet.mesh.bounds, axis=0) == pytest.approx([140, 0, 140])
    line = _put(hand, path_of([[-30, 60], [30, 120]]), name="cut")
    hand.session.choose((sheet.id,))
    hand.click(hand.at("elevation", (0, 0, 90)), SHIFT)
    assert hand.session.chosen == (sheet.id, line.id)
    assert _panel(hand) == "plate sheet can be cut along cut."
    hand.act("part")
    assert "side that is to stay" in hand.board.tool.words()
    hand.key(Qt.Key.Key_Escape)
    hand.act("part")
    hand.click(hand.at("elevation", (-50, 0, 140)))
    cut = hand.doc.mesh(sheet.id)
    assert health(cut.mesh).area_mm2 == pytest.approx(140 * 140 / 2, rel=0.01)
    assert hand.session.chosen == (sheet.id,)
    assert _panel(hand) == "No outline is chosen."
    hand.session.undo()
    assert hand.doc.mesh(sheet.id).mesh is sheet.mesh


def test_the_drawings_are_blocked_out(tracing: Hand) -> None:
    hand = tracing
    _take(hand, "block-out")
    hand.type_into(hand.field("Quads"), "9")
    before = len(hand.doc.meshes)
    hand.act("block")
    hand.wait(lambda: len(hand.doc.meshes) > before)
    mesh = hand.doc.meshes[-1].mesh
    assert health(mesh).closed and (mesh.topology.sizes == 4).all()
    assert np.ptp(mesh.bounds, axis=0) == pytest.approx([173, 412, 292], abs=4)


def test_an_outline_is_marked_as_an_opening(tracing: Hand) -> None:
    hand = tracing
    item = _put(hand, ellipse((0, 100), (20, 20)))
    _take(hand, "points")
    hand.click(hand.at("elevation", (20, 0, 100)))
    _switch(hand, "Opening")
    assert _outline(hand).opening
    assert "opening" in hand.window.tray.cards[item.id].badge.text()
    _take(hand, "block-out")
    assert "has an opening" in _panel(hand)
    hand.act("block")
    hand.wait(lambda: len(hand.doc.meshes) > 1)
    assert _euler(hand.doc.meshes[-1].mesh) == 0


def _euler(mesh: Mesh) -> int:
    """Euler's number: 2 for a ball, 0 with one hole through it."""
    topology = mesh.topology
    return topology.vertex_count - len(topology.edges) + topology.face_count


def test_what_cannot_be_made_says_why_and_makes_nothing(tracing: Hand) -> None:
    hand = tracing
    _put(hand, path_of([[0, 0], [10, 0], [10, 30]]))
    _take(hand, "make-solid")
    hand.click(hand.at("elevation", (5, 0, 0)))
    assert "is open; close it first" in _panel(hand)
    meshes = len(hand.doc.meshes)
    hand.key(Qt.Key.Key_Return)
    assert len(hand.doc.meshes) == meshes
    assert "close it" in hand.notice()


def test_curves_of_a_dropped_dxf_become_outlines(tracing: Hand, tmp_path: Path) -> None:
    from dimetron.formats.export import export

    hand = tracing
    doc, _ = with_outline(hand.doc, ellipse((0, 50), (30, 20)), View.FRONT, "ring")
    export(doc, tmp_path / "ring.dxf")
    hand.drop([tmp_path / "ring.dxf"], hand.at("side", (0, 0, 100)))
    hand.wait(lambda: bool(outlines_of(hand.doc)))
    item = _outline(hand)
    assert item.view is View.RIGHT
    assert bounds(item.path) == pytest.approx(np.array([[-30, 30], [30, 70]]), abs=0.05)
    card = hand.window.tray.cards[item.id]
    assert "Right" in card.badge.text()
    assert isinstance(hand.at("side", (0, 0, 0)), QPoint)
