"""Commands, finder, shortcuts, cards and the route."""

from __future__ import annotations

import gc
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton, QScrollArea, QVBoxLayout, QWidget

from dimetron.app.kit.wrapped import WrappedLabel
from dimetron.app.shell.bring_in import PictureDialog, view_from_name
from dimetron.app.shell.finder import Finder
from dimetron.app.shell.keys_page import KeysPage
from dimetron.app.stations.order import stations
from dimetron.document import edits
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.geometry.views import View
from dimetron.mesh.primitives import box
from tests.app.conftest import Hand, picture_file, turn


def two_drawings(hand: Hand, tmp_path: Path) -> tuple[str, str]:
    for name, slot in (("a.png", "elevation"), ("b.png", "side")):
        rect = hand.board.rects()[slot]
        count = len(hand.doc.drawings)
        hand.drop(
            [picture_file(tmp_path, name, (240, 160))], QPoint(int(rect.x + 60), int(rect.y + 60))
        )
        hand.wait(lambda count=count: len(hand.doc.drawings) == count + 1)
    first, second = (d.id for d in hand.doc.drawings)
    return first, second


def test_every_command_has_a_name_a_hint_and_a_shortcut_of_its_own(hand: Hand) -> None:
    shortcuts = []
    for command in hand.window.commands:
        assert command.title
        assert command.hint
        assert command.action.toolTip().startswith(command.hint)
        if not command.action.shortcut().isEmpty():
            shortcuts.append(command.action.shortcut().toString())
    assert len(set(shortcuts)) == len(shortcuts)


def test_the_finder_runs_what_is_typed(hand: Hand) -> None:
    hand.key(Qt.Key.Key_Period, Qt.KeyboardModifier.ControlModifier)
    finder = hand.window.findChild(Finder)
    assert finder is not None
    QTest.keyClicks(finder.line, "inch")
    assert finder.list.count() >= 1
    rows = [finder.list.item(i).text() for i in range(finder.list.count())]
    assert any("Lengths in inches" in row for row in rows)
    while "Lengths in inches" not in finder.list.currentItem().text():
        QTest.keyClick(finder.line, Qt.Key.Key_Down)
    QTest.keyClick(finder.line, Qt.Key.Key_Return)
    assert hand.doc.unit.value == "in"


def test_shortcuts_are_changed_taken_over_and_restored(hand: Hand) -> None:
    commands = hand.window.commands
    page = KeysPage(commands, hand.window)
    assert page.table.rowCount() == len(list(commands))
    lost = commands.rebind("grid", "K")
    assert lost == "Known length"
    assert commands["tool.known-length"].action.shortcut().isEmpty()
    hand.key(Qt.Key.Key_K)
    assert not hand.board.show_grid
    hand.key(Qt.Key.Key_K)
    from dimetron.app.shell.window import Window
    from dimetron.app.work.settings import Settings

    other = Window(Settings())
    assert other.commands["grid"].action.shortcut().toString() == "K"
    other.files.close()
    other.deleteLater()
    page._restore()
    assert commands["tool.known-length"].action.shortcut().toString() == "K"
    page.deleteLater()


def test_the_route_opens_stations_and_marks_the_tool_in_hand(hand: Hand) -> None:
    route = hand.window.route
    buttons = {b.accessibleName(): b for b in route.findChildren(QPushButton)}
    QTest.mouseClick(buttons["Model"], Qt.MouseButton.LeftButton)
    assert route.open_id == "model"
    assert hand.board.tool is hand.window.tools["shape"]
    # What stands below a station's line is made when it is opened.
    buttons = {b.accessibleName(): b for b in route.findChildren(QPushButton)}
    QTest.mouseClick(buttons["Extrude"], Qt.MouseButton.LeftButton)
    assert buttons["Extrude"].isChecked()
    assert not buttons["Select, move"].isChecked()
    hand.key(Qt.Key.Key_Escape)
    assert buttons["Select, move"].isChecked()
    hand.key(Qt.Key.Key_7, Qt.KeyboardModifier.AltModifier)
    assert route.open_id == "hand-off"
    hand.key(Qt.Key.Key_A)
    assert route.open_id == "place"


def test_cards_rename_fade_in_one_step_and_choose(hand: Hand, tmp_path: Path) -> None:
    first, second = two_drawings(hand, tmp_path)
    card = hand.window.tray.cards[first]
    QTest.mouseClick(card.thumb, Qt.MouseButton.LeftButton)
    assert hand.session.chosen == (first,)
    assert card.body.isVisible()
    assert not hand.window.tray.cards[second].body.isVisible()
    # A click on the name chooses; only a double click lets it be typed.
    QTest.mouseClick(card.name, Qt.MouseButton.LeftButton)
    QTest.keyClicks(card.name, "x")
    assert hand.doc.drawing(first).name == "a"
    QTest.mouseDClick(card.name, Qt.MouseButton.LeftButton)
    QTest.keyClicks(card.name, "gone")
    QTest.keyClick(card.name, Qt.Key.Key_Escape)
    assert (hand.doc.drawing(first).name, card.name.text()) == ("a", "a")
    QTest.mouseDClick(card.name, Qt.MouseButton.LeftButton)
    hand.type_into(card.name, "can, front")
    assert hand.doc.drawing(first).name == "can, front"
    steps = len(hand.session.history.steps)
    card.fade.setSliderDown(True)
    for value in (70, 60, 40):
        card.fade.setValue(value)
    assert hand.doc.drawing(first).opacity == 0.4
    card.fade.setSliderDown(False)
    assert len(hand.session.history.steps) == steps + 1
    assert hand.session.history.undo_label == "Fade can, front"
    QTest.mouseClick(card.show_button, Qt.MouseButton.LeftButton)
    assert not hand.doc.drawing(first).shown
    hand.key(Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
    assert hand.doc.drawing(first).shown


def test_released_aspect_lets_width_and_height_differ(hand: Hand, tmp_path: Path) -> None:
    first, _ = two_drawings(hand, tmp_path)
    hand.session.choose((first,))
    card = hand.window.tray.cards[first]
    hand.type_into(card.width_edit, "300")
    assert edits.extent(hand.doc, first, 2) == pytest.approx(200)
    QTest.mouseClick(card.aspect, Qt.MouseButton.LeftButton)
    hand.type_into(card.height_edit, "250")
    assert edits.extent(hand.doc, first, 0) == pytest.approx(300)
    assert edits.extent(hand.doc, first, 2) == pytest.approx(250)
    hand.type_into(card.width_edit, "100")
    assert edits.extent(hand.doc, first, 2) == pytest.approx(250)
    hand.type_into(card.scale_edit, "0.5")
    assert hand.doc.drawing(first).placement.mm_per_px == pytest.approx(0.5)


def test_the_match_menu_lists_what_the_views_share(hand: Hand, tmp_path: Path) -> None:
    first, second = two_drawings(hand, tmp_path)
    card = hand.window.tray.cards[second]
    hand.session.choose((second,))
    card.match.menu().aboutToShow.emit()
    titles = [a.text() for a in card.match.menu().actions()]
    assert titles == ["Scale of a", "Height of a"]
    hand.session.choose((first,))
    hand.type_into(hand.window.tray.cards[first].height_edit, "90")
    card.match.menu().aboutToShow.emit()
    card.match.menu().actions()[1].trigger()
    assert edits.extent(hand.doc, second, 2) == pytest.approx(90)


def test_a_click_into_a_field_lets_its_value_be_typed_over(hand: Hand, tmp_path: Path) -> None:
    first, _ = two_drawings(hand, tmp_path)
    hand.session.choose((first,))
    field = hand.window.tray.cards[first].width_edit
    QTest.mouseClick(field, Qt.MouseButton.LeftButton)
    QTest.keyClicks(field, "88")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert edits.extent(hand.doc, first, 0) == pytest.approx(88)


def test_a_drawing_moves_to_another_view_from_its_card(hand: Hand, tmp_path: Path) -> None:
    first, _ = two_drawings(hand, tmp_path)
    hand.session.choose((first,))
    card = hand.window.tray.cards[first]
    card.view.setCurrentIndex(card.view.findData(View.BACK))
    card.view.activated.emit(card.view.currentIndex())
    assert hand.doc.drawing(first).view is View.BACK


def test_mesh_cards_take_sizes_and_places(hand: Hand) -> None:
    doc, id_ = with_mesh(Document(), box((-1, -2, 0), (1, 2, 3)), "body")
    hand.session.open(doc, None)
    hand.session.choose((id_,))
    card = hand.window.tray.cards[id_]
    hand.type_into(card.size_edits[2], "6")
    hand.type_into(card.place_edits[0], "10")
    low, high = hand.doc.mesh(id_).mesh.bounds
    assert (low[2], high[2], (low[0] + high[0]) / 2) == pytest.approx((0, 6, 10))
    for nothing in ("0", "1e-9"):
        hand.type_into(card.size_edits[0], nothing)
        assert card.size_edits[0].property("wrong")
        card.size_edits[0].drop()
    assert hand.doc.mesh(id_).mesh.bounds[1, 2] == pytest.approx(6)


@pytest.mark.parametrize(
    ("name", "view"),
    [
        ("Can FRONT.png", View.FRONT),
        ("prop_side_2.jpg", View.RIGHT),
        ("plan.tif", View.TOP),
        ("rear.png", View.BACK),
        ("scan0001.png", None),
    ],
)
def test_names_tell_views(name: str, view: View | None) -> None:
    assert view_from_name(name) is view


def test_the_file_dialog_shows_a_preview(hand: Hand, three: list[Path], tmp_path: Path) -> None:
    dialog = PictureDialog(hand.window, str(tmp_path))
    dialog._show(str(three[0]))
    assert not dialog.preview.pixmap().isNull()
    (tmp_path / "no.png").write_text("no")
    dialog._show(str(tmp_path / "no.png"))
    assert "preview" in dialog.preview.text() or "Not a picture" in dialog.preview.text()
    dialog.deleteLater()


def test_the_demo_opens_on_a_worker(hand: Hand) -> None:
    buttons = hand.window.pane_controls.empty.findChildren(QPushButton)
    QTest.mouseClick(next(b for b in buttons if "demo" in b.text()), Qt.MouseButton.LeftButton)
    hand.wait(lambda: len(hand.doc.drawings) == 3, 60000)
    hand.wait(lambda: len(hand.window.pictures.pyramids) == 3)
    assert not hand.session.dirty
    hand.settle()
    for drawing in hand.doc.drawings:
        assert not hand.window.tray.cards[drawing.id].thumb.pixmap().isNull()


def test_nothing_stands_in_a_window_of_its_own_that_belongs_into_this_one(hand: Hand) -> None:
    """Whichever stations were opened yet, with nothing in the project and with something."""

    def alone() -> bool:
        turn()
        # Widgets of windows that are gone may not be collected while they are being listed.
        gc.collect()
        gc.disable()
        shown = [w for w in QGuiApplication.topLevelWindows() if w.isVisible()]
        gc.enable()
        return shown == [hand.window.windowHandle()]

    assert alone()
    for spec in stations():
        hand.window.navigation.open_station(spec.name)
        assert alone(), spec.name
        assert not hand.window.route.box(spec.name).to_do.isWindow()
    hand.window.commands.run("ledger")
    hand.session.commit(with_mesh(hand.doc, box((0, 0, 0), (1, 1, 1)), "body")[0], "Box")
    assert alone()
    hand.session.open(Document(), None)
    assert alone()


def test_words_in_a_column_that_scrolls_are_given_the_lines_they_need(qapp: QApplication) -> None:
    scroll, inner, panel, words = QScrollArea(), QWidget(), QWidget(), WrappedLabel()
    QVBoxLayout(inner).addWidget(panel)
    column = QVBoxLayout(panel)
    buttons = [QPushButton(f"{number}") for number in range(6)]
    for part in (*buttons[:3], words, *buttons[3:]):
        column.addWidget(part)
    scroll.setWidgetResizable(True)
    scroll.setWidget(inner)
    scroll.resize(160, 120)
    scroll.show()
    for text in ("short", "many words " * 12, "", "some words " * 5):
        words.setText(text)
        for _ in range(3):
            turn()
        assert words.height() >= words.heightForWidth(words.width())
        assert all(b.height() >= b.minimumSizeHint().height() for b in buttons)
    for width in (110, 240):
        scroll.resize(width, 120)
        for _ in range(3):
            turn()
        needed = words.heightForWidth(words.width())
        needed += sum(b.minimumSizeHint().height() for b in buttons)
        assert inner.minimumSizeHint().height() >= needed
    scroll.close()


def test_long_words_do_not_widen_the_window(hand: Hand) -> None:
    block = hand.window.title_block
    before = hand.window.minimumSizeHint().width()
    block.words.setText("Click, and click again. " * 40)
    hand.settle()
    assert hand.window.minimumSizeHint().width() == before
    assert block.words.shown_words().endswith("…")
    assert block.words.geometry().right() <= block.pointer.geometry().left()
