"""Cards, groups and loose pictures through the window."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from dimetron.app.shell.bring_in import Wish
from dimetron.app.tray import carrying
from dimetron.app.work import actions
from dimetron.document import edits, groups, loosening
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document, with_item
from dimetron.document.parts import Order, Seen
from dimetron.geometry.units import Unit
from dimetron.geometry.views import View
from dimetron.mesh.primitives import box
from tests.app.conftest import Hand, picture_file, turn
from tests.document.test_edits import picture, two_views

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def views(hand: Hand) -> tuple[str, str, str]:
    doc, front, side = two_views()
    doc, body = with_mesh(doc, box((-40, -30, 0), (40, 30, 90)), "body")
    hand.session.open(doc, None)
    hand.board.fit_all()
    hand.settle()
    return front, side, body


def carried(hand: Hand, id_: str, onto: QWidget, share: float) -> None:
    """Drop a card at a share of another's height, as a drag would."""
    tray = hand.window.tray
    at = onto.mapTo(tray, QPoint(20, round(onto.height() * share)))
    mime = QMimeData()
    mime.setData(carrying.CARD, id_.encode())
    QApplication.sendEvent(tray, QDragEnterEvent(at, Qt.DropAction.MoveAction, mime, LEFT, NONE))
    QApplication.sendEvent(tray, QDragMoveEvent(at, Qt.DropAction.MoveAction, mime, LEFT, NONE))
    assert not tray._line.isHidden()
    QApplication.sendEvent(
        tray, QDropEvent(QPointF(at), Qt.DropAction.MoveAction, mime, LEFT, NONE)
    )
    assert tray._line.isHidden()
    turn()


def order(hand: Hand) -> list[str]:
    return [part.id for part in groups.tray_order(hand.doc)]


def test_a_card_is_kept_unfolded_when_another_is_chosen(
    hand: Hand, views: tuple[str, str, str]
) -> None:
    front, side, body = views
    cards = hand.window.tray.cards
    hand.session.choose((front,))
    QTest.mouseClick(cards[front].keep_button, LEFT)
    hand.session.choose((side,))
    assert cards[front].body.isVisible() and cards[side].body.isVisible()
    # Its fields go on being its own.
    hand.type_into(cards[front].width_edit, "123")
    assert edits.extent(hand.doc, front, 0) == pytest.approx(123)
    assert hand.session.chosen == (side,)
    hand.session.choose((body,))
    assert cards[front].body.isVisible() and not cards[side].body.isVisible()
    QTest.mouseClick(cards[front].keep_button, LEFT)
    assert not cards[front].body.isVisible() and cards[body].body.isVisible()


@pytest.mark.parametrize("unit", [Unit.FEET_INCHES, Unit.M])
def test_cards_fit_whatever_the_unit(hand: Hand, views: tuple[str, str, str], unit: Unit) -> None:
    doc, large = with_mesh(hand.doc, box((-1240, -1330, 0), (1740, 1831, 1291)), "block")
    hand.session.commit(replace(doc, unit=unit), "A block")
    tray = hand.window.tray
    for id_ in (views[0], large):
        hand.session.choose((id_,))
        hand.settle()
        assert tray._inner.minimumSizeHint().width() <= tray._scroll.viewport().width()
    words = tray.cards[large].size_words
    assert words.minimumSizeHint().width() <= words.width()
    if unit is Unit.FEET_INCHES:
        assert words.text().replace("\u00a0", " ") == "9' 9.32\" × 10' 4.45\" × 4' 2.83\""


def test_what_is_arranged_with_all_chosen_is_no_mesh_and_nothing_held(
    hand: Hand, views: tuple[str, str, str]
) -> None:
    front, side, body = views
    doc, held = edits.with_drawing(hand.doc, picture("held.png"), View.FRONT)
    hand.session.commit(with_item(doc, held, held=True), "Another, held")
    hand.window.navigation.take("arrange")
    hand.session.choose(tuple(item.id for item in hand.doc.items))
    was = hand.doc
    start = hand.at("elevation", (70, 0, 60))
    hand.drag(start, start + QPoint(25, 0))
    moved = hand.doc
    by = np.subtract(
        moved.drawing(front).placement.anchor_mm, was.drawing(front).placement.anchor_mm
    )
    assert by[0] > 10 and by[1] == pytest.approx(0)
    assert moved.drawing(held).placement is was.drawing(held).placement
    assert moved.mesh(body).mesh is was.mesh(body).mesh
    hand.board.setFocus()
    hand.key(Qt.Key.Key_Up)
    assert hand.doc.drawing(side).placement is not moved.drawing(side).placement
    assert hand.doc.drawing(held).placement is was.drawing(held).placement
    assert hand.doc.mesh(body).mesh is was.mesh(body).mesh


def test_cards_are_carried_about_and_into_groups(hand: Hand, views: tuple[str, str, str]) -> None:
    front, side, body = views
    tray = hand.window.tray
    carried(hand, front, tray.cards[body], 0.9)
    assert order(hand) == [side, body, front]
    hand.session.choose((side, front))
    hand.key(Qt.Key.Key_G, CTRL)
    (group,) = hand.doc.groups
    assert order(hand) == [group.id, side, front, body]
    turn()
    carried(hand, body, tray.headers[group.id], 0.8)
    assert hand.doc.mesh(body).group == group.id
    assert order(hand) == [group.id, body, side, front]
    hand.key(Qt.Key.Key_Z, CTRL)
    assert hand.doc.mesh(body).group is None


def test_a_group_is_shown_held_folded_and_shown_alone_whatever_is_folded(
    hand: Hand, views: tuple[str, str, str]
) -> None:
    front, side, _ = views
    doc, heap = groups.grouped(hand.session.committed, [front], "fronts")
    hand.session.commit(doc, "group")
    tray = hand.window.tray
    header = tray.headers[heap]
    steps = len(hand.session.history.steps)
    QTest.mouseClick(header.fold, LEFT)
    assert tray.cards[front].isHidden()
    assert len(hand.session.history.steps) == steps
    QTest.mouseClick(header.alone, LEFT)
    assert not hand.doc.visible(hand.doc.drawing(side))
    assert hand.window.tray.foot_words.text() == "1 hidden"
    QTest.mouseClick(header.alone, LEFT)
    QTest.mouseClick(header.hold_button, LEFT)
    assert not hand.doc.free(hand.doc.drawing(front))
    QTest.mouseClick(header.show_button, LEFT)
    assert not hand.doc.visible(hand.doc.drawing(front))
    hand.key(Qt.Key.Key_H, SHIFT)
    assert hand.doc.visible(hand.doc.drawing(front))
    QTest.mouseDClick(header.name, LEFT)
    hand.type_into(header.name, "elevations")
    assert hand.doc.groups[0].name == "elevations"
    QTest.mouseClick(header.apart, LEFT)
    assert hand.doc.groups == () and not tray.cards[front].isHidden()


def test_the_board_never_picks_what_is_held(hand: Hand, views: tuple[str, str, str]) -> None:
    front, _, _ = views
    hand.window.commands.run("hold-all")
    hand.window.navigation.take("arrange")
    spot = hand.at("elevation", (60, 0, 70))
    hand.drag(spot, spot + QPoint(30, 0))
    assert hand.session.chosen == ()
    assert hand.doc.drawing(front).placement == two_views()[0].drawings[0].placement
    hand.window.commands.run("hold-all")
    hand.click(spot)
    assert hand.session.chosen == (front,)


def test_how_a_drawing_is_seen_is_told_on_its_card(hand: Hand, views: tuple[str, str, str]) -> None:
    front, _, _ = views
    hand.session.choose((front,))
    card = hand.window.tray.cards[front]
    QTest.mouseClick(card.tabs[1], LEFT)
    page = card.seen
    for choice, index in ((page.seen, 3), (page.order, 1), (page.tint, 2)):
        choice.setCurrentIndex(index)
        choice.activated.emit(index)
    QTest.mouseClick(page.clear, LEFT, pos=QPoint(6, 8))
    QTest.mouseClick(page.both, LEFT, pos=QPoint(6, 8))
    showing = hand.doc.drawing(front).showing
    assert (showing.seen, showing.order) == (Seen.EVERYWHERE, Order.FRONT)
    assert showing.clear and not showing.both_sides and showing.tint is not None
    automatic = edits.stand_off(hand.doc, hand.doc.drawing(front))
    QTest.mouseClick(page.auto, LEFT)
    assert hand.doc.drawing(front).placement.stand_off_mm == automatic
    hand.type_into(page.stand, "12 cm")
    assert edits.stand_off(hand.doc, hand.doc.drawing(front)) == 120


def test_back_to_back_from_the_card(hand: Hand, views: tuple[str, str, str]) -> None:
    front, _, _ = views
    doc, back = edits.with_drawing(hand.session.committed, picture("back.png"), View.BACK)
    hand.session.commit(doc, "back")
    hand.session.choose((back,))
    menu = hand.window.tray.cards[back].more.menu()
    menu.aboutToShow.emit()
    next(a for a in menu.actions() if a.text() == "Stand back to back with front").trigger()
    planes = [edits.world_corners(hand.doc, hand.doc.drawing(i))[:, 1] for i in (front, back)]
    assert np.allclose(planes[0], planes[1])


def test_a_newer_scan_of_other_proportions_is_told(
    hand: Hand, views: tuple[str, str, str], tmp_path: Path
) -> None:
    front, _, _ = views
    newer = picture_file(tmp_path, "newer.png", (400, 260))
    hand.window.bringer.bring([Wish("newer.png", None, path=newer, into=front)])
    hand.wait(lambda: not hand.window.bringer.active)
    assert hand.doc.size_px(hand.doc.drawing(front)) == (400, 260)
    assert edits.extent(hand.doc, front, 0) == pytest.approx(200)
    assert "30.0 % taller" in hand.notice()
    hand.key(Qt.Key.Key_Z, CTRL)
    assert hand.doc.size_px(hand.doc.drawing(front)) == (200, 100)


# Loose pictures.


@pytest.fixture
def loose(hand: Hand, views: tuple[str, str, str], tmp_path: Path) -> str:
    hand.drop([picture_file(tmp_path, "mood.png", (600, 400))], QPoint(40, 600), hand.window.tray)
    hand.wait(lambda: bool(hand.doc.loose) and not hand.window.pictures.busy)
    return hand.doc.loose[0].id


def test_a_picture_dropped_on_the_tray_is_loose_and_zooms_on_its_own(
    hand: Hand, loose: str
) -> None:
    assert hand.session.chosen == (loose,)
    view = hand.window.tray.cards[loose].view
    turn()
    spot = QPointF(view.width() * 0.7, view.height() * 0.5)
    before = view.spot(spot)
    item = view.item()
    assert item is not None and before is not None

    view.look(loosening.looked_at(item, 4.0, before))
    assert np.allclose(view.spot(spot), before, atol=1e-9)
    steps = len(hand.session.history.steps)
    hand.wait(lambda: hand.doc.loose[0].zoom == 4.0)
    assert len(hand.session.history.steps) == steps


def test_a_loose_picture_floats_moves_and_is_pinned_again(hand: Hand, loose: str) -> None:
    card = hand.window.tray.cards[loose]
    QTest.mouseClick(card.float_button, LEFT)
    frame = hand.window.loose_frames.floating[loose]
    assert frame.isVisible() and frame.parent() is hand.board
    was = frame.pos()
    start = QPoint(60, 10)
    QTest.mousePress(frame, LEFT, NONE, start)
    end = start + QPoint(35, 22)
    over = QPointF(frame.mapToGlobal(end))
    moved = QMouseEvent(QEvent.Type.MouseMove, QPointF(end), over, LEFT, LEFT, NONE)
    QApplication.sendEvent(frame, moved)
    QTest.mouseRelease(frame, LEFT, NONE, start)
    assert frame.pos() == was + QPoint(35, 22)
    floating = hand.doc.loose[0].floating
    assert floating is not None and floating.slot == "plan"
    QTest.mouseClick(frame.pin, LEFT)
    assert hand.doc.loose[0].floating is None
    assert not hand.window.loose_frames.floating


def test_the_window_of_its_own_reads_colours(hand: Hand, loose: str) -> None:
    QTest.mouseClick(hand.window.tray.cards[loose].window_button, LEFT)
    own = hand.window.loose_frames.window
    assert own is not None
    turn()
    QTest.mouseClick(own.pick, LEFT)
    middle = own.view.rect().center()
    assert own.view.colour_at(QPointF(middle)) == "#FFFFFF"
    QTest.mouseClick(own.view, LEFT, NONE, middle)
    assert QGuiApplication.clipboard().text() == "#FFFFFF"
    assert "Copied the colour #FFFFFF" in hand.notice()
    own.close()
    assert hand.window.loose_frames.window is None


def test_a_loose_picture_becomes_a_drawing_and_back(hand: Hand, loose: str) -> None:
    card = hand.window.tray.cards[loose]
    card.onto.setCurrentIndex(card.onto.findData(View.TOP))
    QTest.mouseClick(card.align, LEFT)
    assert hand.doc.drawing(loose).view is View.TOP
    assert hand.doc.loose == ()
    menu = hand.window.tray.cards[loose].more.menu()
    menu.aboutToShow.emit()
    next(a for a in menu.actions() if a.text() == "Make it a loose picture").trigger()
    assert hand.doc.loose[0].id == loose


def test_a_card_whose_picture_is_gone_says_so(hand: Hand, loose: str) -> None:
    doc = hand.session.committed
    source = doc.source(doc.sheet(doc.loose[0].sheet).source)
    sources = tuple(
        type(s)(s.id, s.name, s.extension, s.size_px, s.sha256, None) if s is source else s
        for s in doc.sources
    )
    hand.window.pictures.leave(True)
    hand.session.open(
        Document(sources=sources, sheets=doc.sheets, loose=doc.loose, drawings=doc.drawings), None
    )
    assert hand.window.tray.cards[loose].size_words.text() == "picture missing"
    hand.session.choose((loose,))
    hand.settle()


# Size references.


def test_references_are_typed_moved_and_left_out_of_fits_and_exports(
    hand: Hand, views: tuple[str, str, str]
) -> None:
    hand.window.commands.run("reference.ruler")
    (ruler,) = hand.doc.references
    card = hand.window.tray.cards[ruler.id]
    hand.type_into(card.size_edits[0], "50 cm")
    assert hand.doc.references[0].size[0] == 500
    hand.type_into(card.size_edits[2], "-1")
    assert card.size_edits[2].property("wrong")
    hand.type_into(card.place_edits[0], "0")
    hand.window.navigation.take("arrange")
    hand.window.commands.run("hide-drawings")
    spot = hand.at("elevation", (100, 0, 4))
    hand.drag(spot, spot + QPoint(0, -40))
    risen = hand.doc.references[0].at[2]
    assert risen == pytest.approx(40 * hand.board.sight.mm_per_px)
    hand.session.commit(with_item(hand.session.committed, ruler.id, shown=False), "hide")
    assert hand.window.tray.foot_words.text() == "1 hidden"


def test_a_card_says_what_is_true_of_its_drawing_beside_itself(
    hand: Hand, views: tuple[str, str, str]
) -> None:
    front, side, _ = views
    card, other = hand.window.tray.cards[front], hand.window.tray.cards[side]
    assert card.badge.text() == "Front"
    actions.pin(hand.session, front)
    assert (card.badge.text(), other.badge.text()) == ("Front  ·  pinned", "Right")
    actions.pin(hand.session, front)
    assert card.badge.text() == "Front"
    hand.window.tray.mismatch = lambda id_: 1.25 if id_ == side else None
    hand.window.tray.refresh()
    assert (card.badge.text(), other.badge.text()) == ("Front", "Right  ·  off 1.25 mm")
