"""A gesture whose object is gone ends quietly, with every tool and in every way it can go."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from dimetron.app.stations.order import board_tools, sheet_tools
from dimetron.document import edits, preparing, registering
from dimetron.document.container import load, save
from dimetron.document.model import Document, source_from
from dimetron.document.serial import check
from dimetron.geometry.views import View
from dimetron.imaging.frame import Crop
from dimetron.mesh.mesh import from_faces
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from dimetron.render.taken import Taken
from tests.app.conftest import Hand, over, picture_file, turn

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def full(hand: Hand, tmp_path: Path) -> Hand:
    """Three drawings, cut and whole, marked, beside a mesh of which a face is selected."""
    doc = Document()
    for view in (View.FRONT, View.RIGHT, View.TOP):
        data = picture_file(tmp_path, f"{view.value}.png").read_bytes()
        source = source_from(data, f"{view.value}.png", "png", (240, 160))
        doc, id_ = edits.with_drawing(doc, source, view)
        for name, px in (("nose", (40.0, 50.0)), ("tail", (180.0, 120.0)), ("ear", (99.0, 20.0))):
            doc = registering.marked(doc, name, id_, px)
    sheet = doc.sheets[0].id
    doc, crop = preparing.cut(doc, sheet, Crop(30, 30, 90, 90), View.LEFT)
    doc, body = edits.with_mesh(doc, box((-60, -60, 0), (60, 60, 90)), "body")
    hand.session.open(doc, None)
    hand.window.files.opened.emit()
    hand.session.commit(replace(doc, solo=()), "something to undo")
    hand.wait(lambda: len(hand.window.pictures.pyramids) >= 4)
    hand.session.choose((crop,))
    hand.session.choose((body,))
    hand.session.select(Kind.FACE, np.array([0], np.int32))
    hand.board.fit_all()
    hand.settle()
    return hand


def _delete(hand: Hand) -> None:
    doc = hand.session.committed
    for item in doc.items:
        doc = edits.without_item(doc, item.id)
    hand.session.commit(doc, "Delete everything")


def _another(hand: Hand) -> None:
    hand.session.open(Document(), None)
    hand.window.files.opened.emit()


def _coarser(hand: Hand) -> None:
    """The mesh becomes another one under the hand."""
    doc = hand.session.committed
    body = from_faces([[0, 0, 0], [1, 0, 0], [0, 0, 1]], [[0, 1, 2]])
    meshes = tuple(replace(m, mesh=body) for m in doc.meshes)
    hand.session.commit(replace(doc, meshes=meshes), "Make it small")


def _one_pane(hand: Hand) -> None:
    hand.board.look(layout=replace(hand.board.layout_, full="side"))


def _options(hand: Hand) -> None:
    tool = hand.window.navigation.instrument
    for option in tool.options():
        for value, _ in option.choices:
            option.choose(value)
    for switch in tool.switches():
        switch.turn(not switch.on)


WAYS: dict[str, Callable[[Hand], None]] = {
    "deleted": _delete,
    "undone": lambda hand: hand.session.undo(),
    "another project": _another,
    "another mesh": _coarser,
    "another pane": _one_pane,
    "options": _options,
}


@pytest.mark.parametrize("way", WAYS)
def test_of_every_tool_of_the_board(full: Hand, way: str) -> None:
    hand, doc = full, full.session.committed
    at = hand.at("elevation", (0, 0, 45))
    for number, kind in enumerate(board_tools()):
        hand.session.open(doc, None)
        hand.session.commit(replace(doc, solo=()), "something to undo")
        chosen = (doc.meshes[0].id,) if number % 2 else (doc.drawings[0].id,)
        hand.session.choose(chosen)
        hand.window.navigation.take(kind.name)
        QTest.mouseClick(hand.board, LEFT, NONE, at + QPoint(30, 10))
        hand.drag(at, at + QPoint(40, -25), before_release=lambda: WAYS[way](hand))
        hand.point(at + QPoint(3, 3))
        for key in (Qt.Key.Key_Left, Qt.Key.Key_X, Qt.Key.Key_Return):
            hand.key(key)
        hand.session.undo()
        hand.settle()
        check(hand.session.committed)
        hand.board.look(layout=replace(hand.board.layout_, full=None))
        hand.key(Qt.Key.Key_Escape)


@pytest.mark.parametrize("way", [w for w in WAYS if w not in ("another pane", "another mesh")])
def test_of_every_tool_of_the_sheet(full: Hand, way: str) -> None:
    hand, doc = full, full.session.committed
    view = hand.window.sheet_view
    for kind in sheet_tools():
        hand.session.open(doc, None)
        hand.session.commit(replace(doc, solo=()), "something to undo")
        hand.window.navigation.take_at_sheet(kind.name)
        hand.window.desk.lay(doc.sheets[0].id)
        hand.session.choose((doc.drawings[-1].id,))
        view.fit_all()
        turn()
        for start in (QPoint(300, 300), QPoint(view.width() // 2, view.height() // 2)):
            over(view, start)
            QTest.mousePress(view, LEFT, NONE, start)
            over(view, start + QPoint(30, 20), LEFT)
            WAYS[way](hand)
            over(view, start + QPoint(50, 30), LEFT)
            QTest.mouseRelease(view, LEFT, NONE, start + QPoint(50, 30))
            for key in (Qt.Key.Key_Left, Qt.Key.Key_Return):
                hand.key(key, widget=view)
            hand.session.undo()
        view.repaint()
        check(hand.session.committed)


@pytest.mark.parametrize("how", list(Taken))
def test_a_snapshot_of_whatever_is_there(full: Hand, how: Taken, tmp_path: Path) -> None:
    hand, command = full, f"snapshot.{how.value}"
    hand.point(hand.at("elevation", (0, 0, 45)))
    hand.window.commands.run(command)
    taken = len(hand.doc.drawings)
    hand.settle()
    doc, _ = edits.with_mesh(Document(), box((0, 0, 0), (1e-9, 1e-9, 1e-9)), "a speck")
    hand.session.open(doc, None)
    hand.window.commands.run(command)
    assert hand.doc is doc and "less than 1 km per pixel" in hand.notice()
    none = from_faces([[0, 0, 0], [5, 0, 0], [0, 0, 5]], np.zeros((0, 3), np.int32))
    doc, _ = edits.with_mesh(Document(), none, "points alone")
    hand.session.open(doc, None)
    hand.settle()
    hand.window.commands.run(command)
    assert "no mesh to take a snapshot of" in hand.notice()
    assert taken == 5
    save(hand.doc, tmp_path / "a.dimetron")
    assert load(tmp_path / "a.dimetron").document.meshes[0].mesh.topology.face_count == 0
