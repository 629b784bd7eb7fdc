"""Operations in the real window: dragged, typed, changed afterwards, done again."""

from __future__ import annotations

import textwrap
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QToolButton

import dimetron.app.stations
import dimetron.formats.kinds
import dimetron.mesh.operations.building
from dimetron.app.kit.iconset import icon
from dimetron.app.kit.instrument import Instrument, Option
from dimetron.app.route.slip import ROOM as SLIP_ROOM
from dimetron.app.route.tool_panel import ToolPanel
from dimetron.app.stations import order
from dimetron.app.tools.operate import tool_for
from dimetron.app.work.numbers import Numbers
from dimetron.document.edits import with_mesh, without_item
from dimetron.document.model import Document, with_item
from dimetron.formats import format as formats
from dimetron.mesh import operation
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import Operation, by_name, families, operations
from dimetron.mesh.parameters import Drag, count, length, switch
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind, Selection
from docs.guide_list import PAGE, page
from tests.app.conftest import Hand, turn


@pytest.fixture
def boxed(hand: Hand) -> Hand:
    hand.model(box((-20, -20, 0), (20, 20, 40)), "body")
    return hand


def top(hand: Hand) -> np.ndarray:
    centres = hand.doc.meshes[0].mesh.face_centres
    return np.array([int(np.argmax(centres[:, 2]))], np.int32)


def height(hand: Hand) -> float:
    return float(hand.doc.meshes[0].mesh.bounds[1, 2])


def in_slip(hand: Hand, name: str) -> QLineEdit:
    fields = hand.window.route.slip.panel.fields
    return next(f.edit for f in fields if f.edit.accessibleName() == name)


def test_a_face_is_dragged_out_and_its_number_changed_afterwards(boxed: Hand) -> None:
    hand = boxed
    hand.key(Qt.Key.Key_T)
    steps = len(hand.session.history.steps)
    start = hand.at("elevation", (5, -20, 20))
    # Seen face on, it goes out as the pointer goes up.
    hand.drag(start, start + QPoint(0, -40), before_release=lambda: None)
    pulled = -float(hand.doc.meshes[0].mesh.bounds[0, 1]) - 20
    assert pulled > 5
    slip = hand.window.route.slip
    assert slip.isVisible()
    assert in_slip(hand, "Distance").value == pytest.approx(pulled)
    hand.type_into(in_slip(hand, "Distance"), "7")
    assert hand.doc.meshes[0].mesh.bounds[0, 1] == pytest.approx(-27)
    assert len(hand.session.history.steps) == steps + 1, "still one step"
    assert hand.session.history.undo_label == "Extrude 7 mm"
    choice = next(b for b in slip.findChildren(type(slip._close)) if b.property("value") == "z")
    QTest.mouseClick(choice, Qt.MouseButton.LeftButton)
    assert hand.doc.meshes[0].mesh.bounds[1, 2] == pytest.approx(47)
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.doc.meshes[0].mesh.topology.face_count == 6
    assert not slip.isVisible()


def test_what_is_dragged_is_of_the_kind_that_is_selected(boxed: Hand) -> None:
    hand = boxed
    hand.session.select(Kind.FACE, top(hand))
    hand.key(Qt.Key.Key_Delete)
    assert not len(hand.session.selected)
    hand.window.commands.run("kind.edge")
    hand.key(Qt.Key.Key_T)
    # A little beside the open rim, where no face is.
    rim = hand.at("elevation", (5, -20, 40)) + QPoint(0, -3)
    hand.drag(rim, rim + QPoint(0, -40), before_release=lambda: None)
    mesh = hand.doc.meshes[0].mesh
    assert (mesh.topology.vertex_count, mesh.topology.face_count) == (10, 6)
    assert height(hand) > 45
    assert (hand.session.kind, len(hand.session.selected)) == (Kind.EDGE, 1)
    hand.session.undo()
    hand.window.commands.run("kind.vertex")
    hand.window.navigation.take("bevel")
    corner = hand.at("elevation", (20, -20, 0))
    hand.drag(corner, corner + QPoint(-20, -20), before_release=lambda: None)
    assert hand.session.history.undo_label.startswith("Bevel")
    mesh = hand.doc.meshes[0].mesh
    assert sorted(mesh.topology.sizes.tolist()) == [3, 4, 4, 5, 5, 5]


def wheel(hand: Hand, at: QPoint, notches: float) -> None:
    """Turn the wheel while the left button is down."""
    local = QPointF(at)
    event = QWheelEvent(
        local,
        QPointF(hand.board.mapToGlobal(at)),
        QPoint(),
        QPoint(0, int(120 * notches)),
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(hand.board, event)
    turn()


def test_the_wheel_says_how_many_segments_while_one_drags(boxed: Hand) -> None:
    hand = boxed
    hand.window.commands.run("kind.edge")
    hand.window.navigation.take("bevel")
    before = hand.board.sight.mm_per_px
    corner = hand.at("elevation", (20, -20, 20))
    end = corner + QPoint(-20, 0)

    def turn_it() -> None:
        wheel(hand, end, 1)
        for _ in range(4):
            # As a touchpad tells it, in parts of a notch.
            wheel(hand, end, 0.25)

    hand.drag(corner, end, before_release=turn_it)
    assert hand.session.history.undo_label.startswith("Bevel")
    assert hand.doc.meshes[0].mesh.topology.face_count == 6 + 3, "three segments"
    assert in_slip(hand, "Segments").value == 3
    assert hand.board.sight.mm_per_px == before, "and does not zoom"
    hand.window.navigation.take("cylinder")
    start = hand.at("elevation", (40, 0, 0))
    low, high = start, hand.at("elevation", (70, 0, 30))
    hand.drag(low, high, before_release=lambda: wheel(hand, high, -3))
    sides = hand.window.tools["cylinder"]._how.sides
    assert (hand.doc.meshes[1].mesh.face_normals[:, 2] == 0).sum() == sides
    hand.session.undo()
    # Where there are no segments the wheel zooms, as it does without a drag.
    hand.session.choose((hand.doc.meshes[0].id,))
    hand.window.commands.run("kind.face")
    hand.window.navigation.take("extrude")
    face = hand.at("elevation", (0, -20, 20))
    before = hand.board.sight.mm_per_px

    def zooms() -> None:
        wheel(hand, face, 1)
        assert hand.board.sight.mm_per_px < before

    hand.drag(face, face + QPoint(0, -9), before_release=zooms)


def test_vertices_are_merged_to_the_one_that_was_clicked_last(boxed: Hand) -> None:
    hand = boxed
    hand.window.commands.run("kind.vertex")
    hand.click(hand.at("elevation", (-20, -20, 40)))
    hand.click(hand.at("elevation", (20, -20, 40)), Qt.KeyboardModifier.ShiftModifier)
    last = hand.session.part.last
    assert last in hand.session.selected and len(hand.session.selected) == 2
    place = hand.doc.meshes[0].mesh.positions[last]
    hand.window.commands.run("do.merge")
    choice = next(
        b for b in hand.window.route.slip.findChildren(QToolButton) if b.property("value") == "last"
    )
    QTest.mouseClick(choice, Qt.MouseButton.LeftButton)
    mesh = hand.doc.meshes[0].mesh
    assert mesh.topology.vertex_count == 7
    assert np.allclose(mesh.positions[hand.session.selected], place)


def test_a_number_typed_over_the_board_extrudes_what_is_selected(boxed: Hand) -> None:
    hand = boxed
    hand.session.select(Kind.FACE, top(hand))
    hand.key(Qt.Key.Key_T)
    QTest.keyClick(hand.board, Qt.Key.Key_2)
    field = hand.window.route.panel.fields[0].edit
    hand.wait(lambda: field.text() == "2")
    QTest.keyClicks(field, "0")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert height(hand) == pytest.approx(60)
    assert hand.session.selected.tolist() == top(hand).tolist()
    # The field is gone, and keys mean the board again.
    assert QApplication.focusWidget() is hand.board
    # Once more, the same.
    hand.key(Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier)
    assert height(hand) == pytest.approx(80)
    assert hand.doc.meshes[0].mesh.topology.face_count == 14


def test_what_asks_for_no_drag_is_done_at_once_with_its_last_numbers(boxed: Hand) -> None:
    hand, commands = boxed, boxed.window.commands
    commands.run("do.subdivide")
    assert hand.doc.meshes[0].mesh.topology.face_count == 24
    hand.type_into(in_slip(hand, "Levels"), "3")
    assert hand.doc.meshes[0].mesh.topology.face_count == 6 * 4**3
    hand.type_into(in_slip(hand, "Levels"), "99")
    assert in_slip(hand, "Levels").property("wrong")
    assert hand.doc.meshes[0].mesh.topology.face_count == 6 * 4**3
    hand.session.undo()
    commands.run("do.subdivide")
    assert hand.doc.meshes[0].mesh.topology.face_count == 6 * 4**3
    commands.run("do.weld")
    assert hand.session.kind is Kind.WHOLE, "what was chosen as a whole stays so"
    commands.run("do.mirror")
    assert hand.session.history.undo_label == "Mirror image X"
    hand.session.choose(())
    assert not commands["do.flip"].action.isEnabled()


def test_the_slip_closes_with_anything_else_that_is_done(boxed: Hand) -> None:
    hand = boxed
    hand.window.commands.run("do.flip")
    assert hand.window.route.slip.isVisible()
    hand.session.choose(())
    hand.window.commands.run("references")
    hand.window.commands.run("reference.box")
    assert not hand.window.route.slip.isVisible()
    assert not hand.window.commands["again"].action.isEnabled()


@dataclass(frozen=True)
class Lift:
    by: float = length(1.0, low=0.0, high=5.0, drag=Drag.ACROSS, hint="How far up")
    times: int = count(1, high=3, hint="How often")
    down: bool = switch(False, hint="The other way")


@operation.operation("lift", title="Lift", icon="box")
def lift(mesh: Mesh, chosen: Selection, how: Lift) -> Edited:
    """Move it up."""
    by = how.by * how.times * (-1 if how.down else 1)
    return Edited(mesh.with_positions(mesh.positions + np.array([0, 0, by])), chosen)


def test_a_drag_across_drives_a_number_within_its_limits(boxed: Hand) -> None:
    hand = boxed
    tool = tool_for(lift)(hand.window.workbench)
    hand.board.take(tool)
    start = hand.at("elevation", (0, -20, 20))
    hand.drag(start, start + QPoint(8, 3))
    scale = hand.board.sight.mm_per_px
    assert height(hand) == pytest.approx(40 + min(8 * scale, 5))
    assert [f.name for f in hand.window.route.slip.panel._current] == ["By", "Times"]
    hand.type_into(in_slip(hand, "Times"), "2")
    assert height(hand) == pytest.approx(40 + 2 * min(8 * scale, 5))
    QTest.mouseClick(
        hand.window.route.slip.panel._boxes[0], Qt.MouseButton.LeftButton, pos=QPoint(8, 8)
    )
    assert height(hand) == pytest.approx(40 - 2 * min(8 * scale, 5))
    hand.session.undo()
    hand.drag(start, start + QPoint(300, 3))
    assert height(hand) == pytest.approx(40 - 2 * 5)
    hand.session.undo()
    # To the left there is nothing below the least, so nothing is done.
    hand.drag(start, start + QPoint(-60, 3))
    assert height(hand) == pytest.approx(40)
    assert hand.session.history.undo_label is None
    hand.drag(start, start + QPoint(60, 3), before_release=lambda: hand.key(Qt.Key.Key_Escape))
    assert hand.session.history.undo_label is None


def test_nothing_to_do_it_to_is_said(boxed: Hand) -> None:
    hand = boxed
    hand.session.select(Kind.FACE, np.zeros(0, np.int32))
    hand.window.commands.run("do.delete")
    assert "Select faces first" in hand.notice()
    card = hand.doc.meshes[0]
    hand.window.commands.run("hold")
    hand.session.choose((card.id,))
    hand.window.commands.run("do.flip")
    assert "is held" in hand.notice()


def large(hand: Hand) -> tuple[Document, str]:
    """A mesh that a worker works on, whose answers come later."""
    ball = by_name("subdivide")(box((-20, -20, 0), (20, 20, 40)), levels=6).mesh
    doc, id_ = with_mesh(Document(), ball, "ball")
    hand.session.open(doc, None)
    hand.session.choose((id_,))
    hand.window.operating._waited.patience_s = 0.0
    return doc, id_


def test_a_large_mesh_is_worked_on_while_the_window_goes_on(boxed: Hand) -> None:
    hand, doc, id_ = boxed, *large(boxed)
    ball = doc.mesh(id_).mesh
    hand.window.commands.run("do.subdivide")
    assert "Subdivide" in hand.notice()
    assert hand.doc is doc
    hand.wait(lambda: hand.doc is not doc)
    assert hand.doc.meshes[0].mesh.topology.face_count == 4 * ball.topology.face_count
    assert hand.notice() == ""
    hand.session.undo()
    hand.session.choose((id_,))
    hand.window.commands.run("do.subdivide")
    hand.window.operating.abandon()
    turn()
    hand.wait(lambda: not hand.window.operating._waited.busy)
    assert hand.doc.meshes[0].mesh.topology.face_count == ball.topology.face_count


def test_what_was_done_meanwhile_stands(boxed: Hand) -> None:
    hand, doc, id_ = boxed, *large(boxed)
    ball = doc.mesh(id_).mesh
    hand.window.commands.run("do.subdivide")
    hand.session.commit(with_item(doc, id_, name="renamed"), "Rename")
    hand.wait(lambda: hand.doc.mesh(id_).mesh is not ball)
    assert hand.doc.mesh(id_).name == "renamed"
    hand.session.open(doc, None)
    hand.session.choose((id_,))
    hand.window.commands.run("do.subdivide")
    flipped = with_item(doc, id_, mesh=by_name("flip")(ball).mesh)
    hand.session.commit(flipped, "Turn over")
    hand.wait(lambda: "became another one" in hand.notice())
    assert hand.doc is flipped
    hand.window.commands.run("do.subdivide")
    hand.session.commit(without_item(flipped, id_), "Delete")
    hand.wait(lambda: not hand.window.operating._waited.busy)
    turn()
    assert not hand.doc.meshes
    # What is refused on a worker is said, too.
    hand.session.open(doc, None)
    hand.session.choose((id_,))
    operating = hand.window.operating
    operating.do(by_name("subdivide"), by_name("subdivide").made(levels=6))
    hand.wait(lambda: "more faces than can be worked with" in hand.notice())
    assert hand.doc is doc


def test_nothing_in_the_route_scrolls_or_is_cut(boxed: Hand) -> None:
    hand, route = boxed, boxed.window.route
    hand.window.resize(1280, 800)
    hand.session.select(Kind.FACE, top(hand))

    def all_there(of: str) -> None:
        hand.settle()
        assert route.column_scroll.verticalScrollBar().maximum() == 0, of
        inside = route.column_scroll.widget()
        assert inside.width() <= route.column_scroll.viewport().width(), of

    for station in order.stations():
        route.open(station.name)
        all_there(station.name)
    route.open("model")
    hand.window.commands.run("do.subdivide")
    hand.window.navigation.take("extrude")
    for name in route.families["model"]._pages:
        route.families["model"].open(name)
        all_there(name)
    for name in ("shape", "turn", "resize"):
        hand.window.navigation.take(name)
        hand.type_into(hand.field("Soft within"), "20")
        all_there(name)


def test_where_there_is_no_room_the_slip_is_a_line_that_unfolds(boxed: Hand) -> None:
    hand, route = boxed, boxed.window.route
    hand.window.resize(1280, 800)
    hand.window.commands.run("kind.face")
    operating, bar = hand.window.workbench.operating, route.column_scroll.verticalScrollBar()
    for name in ("bevel", "taper", "hide-faces"):
        hand.session.select(Kind.FACE, np.arange(5, dtype=np.int32))
        operating.do(by_name(name), by_name(name).made())
        hand.window.navigation.take("shape")
        hand.session.select(Kind.FACE, top(hand))
        hand.settle()
        assert route.slip.isVisible() and not route.slip.panel.isVisible(), name
        hand.wait(lambda: bar.maximum() == 0, 3000)
        QTest.mouseClick(route.slip._fold, Qt.MouseButton.LeftButton)
        hand.settle()
        assert route.slip.panel.isVisible() and not route.panel.isVisible()
        hand.wait(lambda: bar.maximum() == 0, 3000)
        QTest.mouseClick(route.slip._fold, Qt.MouseButton.LeftButton)
        hand.settle()
        assert route.panel.isVisible() and not route.slip.panel.isVisible()
    # With the operation's own tool in hand there is room.
    hand.session.undo()
    hand.session.select(Kind.FACE, top(hand))
    operating.do(by_name("bevel"), by_name("bevel").made())
    hand.window.navigation.take("bevel")
    hand.settle()
    assert route.slip.panel.isVisible() and not route.slip._fold.isVisible()


def test_each_operation_has_its_button_its_icon_its_command_and_stands_in_the_guide(
    hand: Hand,
) -> None:
    hand.window.navigation.open_station("model")
    buttons = {b.command.id: b for b in hand.window.route.families["model"].buttons}
    for one in operations().values():
        kind = "tool" if one.dragged else "do"
        command = hand.window.commands[f"{kind}.{one.name}"]
        assert (command.title, command.shortcut) == (one.title, one.key)
        assert command.group == "Mesh"
        assert buttons[command.id].text() == one.title
        assert not icon(one.icon, "#000000").isNull()
    for family in families().values():
        assert not icon(family.icon, "#000000").isNull()
    assert PAGE.read_text("utf-8") == page(), "write it anew: ./run guide"


def test_a_tool_taken_by_its_key_shows_its_family(boxed: Hand) -> None:
    folded = boxed.window.route.families["model"]
    for key, family in (
        (Qt.Key.Key_B, "start"),
        (Qt.Key.Key_T, "building"),
        (Qt.Key.Key_S, "select"),
    ):
        boxed.key(key)
        assert folded.open_name == family
    folded.open("order")
    assert folded.open_name == "order", "a look elsewhere leaves the tool in hand"
    assert boxed.board.tool is boxed.window.tools["shape"]


MADE_UP = {
    dimetron.mesh.operations.building: """
        from dataclasses import dataclass
        from dimetron.mesh.edited import Edited
        from dimetron.mesh.operation import operation
        from dimetron.mesh.parameters import length

        @dataclass(frozen=True)
        class Lift:
            by: float = length(3.0, hint="How far up")

        @operation("lift", title="Lift", icon="box", key="Ctrl+Alt+9")
        def lift(mesh, chosen, how: Lift) -> Edited:
            \"\"\"Move it up.\"\"\"
            return Edited(mesh.with_positions(mesh.positions + [0, 0, how.by]), chosen)
        """,
    dimetron.app.stations: """
        from dimetron.app.stations.spec import StationSpec

        STATION = StationSpec("weigh", "Weigh", 65, lambda place: "nothing on the scales")
        """,
    dimetron.formats.kinds: """
        from dimetron.formats.format import Format, Read

        def write(given, stem, ending):
            return {f"{stem}.{ending}": b"made up"}

        FORMAT = Format((".madeup",), "Made up", "mm", "z", lambda *given: Read(()), write,
                        written=(("madeup", "Made up"),))
        """,
}


@pytest.fixture
def made_up(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """One module each, laid beside the others."""
    for number, (package, text) in enumerate(MADE_UP.items()):
        folder = tmp_path / str(number)
        folder.mkdir()
        (folder / f"made_up_{number}.py").write_text(textwrap.dedent(text))
        monkeypatch.setattr(package, "__path__", [*package.__path__, str(folder)])
    caches = (
        *(operation.operations, operation.families, order.stations),
        *(formats.formats, formats.readers, formats.writers),
    )
    for cache in caches:
        cache.cache_clear()
    yield
    monkeypatch.undo()
    for cache in caches:
        cache.cache_clear()


def test_what_is_added_often_is_added_in_one_module(made_up: None) -> None:
    assert by_name("lift").family.name == "building"
    assert "madeup" in formats.writers()
    assert [s.name for s in order.stations()][-2:] == ["weigh", "hand-off"]
    assert "lift=MM" in page()


def test_every_choice_in_the_slip_can_be_read(hand: Hand) -> None:
    panel = ToolPanel(hand.session, in_rows=True, room=SLIP_ROOM)
    panel.setFixedWidth(SLIP_ROOM)
    panel.show()
    lists = 0
    for one in operations().values():
        panel.show_tool(_Choices(one))
        turn()
        for button in panel.findChildren(QToolButton):
            wide = button.fontMetrics().horizontalAdvance(button.text())
            assert wide <= button.width(), f"{one.name}: {button.text()}"
        lists += sum(box.isVisible() for box in panel.findChildren(QComboBox))
    assert lists > 2, "those that do not fit unfold"
    panel.close()


class _Choices(Instrument):
    """The choices of an operation alone."""

    name, title, icon, hint = "choices", "Choices", "", ""

    def __init__(self, operation: Operation) -> None:
        self._operation = operation

    def options(self) -> list[Option]:
        how = self._operation.made()
        return Numbers(self._operation.parameters, how, lambda _: None).options()
