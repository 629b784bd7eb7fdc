"""Hiding faces and keeping selections, in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QWidget

from dimetron.app.tray.cards.mesh import MeshCard
from dimetron.app.tray.part_rows import PartRows
from dimetron.document.container import load, save
from dimetron.document.edits import with_mesh
from dimetron.document.model import with_item
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.hiding import hidden_faces
from dimetron.mesh.named import names_of
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from tests.app.conftest import Hand, turn
from tests.app.test_modelling import grid

__all__ = ["grid"]


def rows(hand: Hand) -> PartRows:
    turn()
    id_ = hand.doc.meshes[0].id
    return next(c for c in hand.window.tray.findChildren(MeshCard) if c.id == id_).parts


def front(hand: Hand) -> np.ndarray:
    return np.flatnonzero(hand.doc.meshes[0].mesh.face_centres[:, 1] < -29).astype(np.int32)


@pytest.mark.parametrize("levels", [0, 2])
def test_one_reaches_what_lies_behind_hidden_faces(grid: Hand, levels: int) -> None:
    hand = grid
    if levels:
        smooth = hand.doc.meshes[0].smooth
        smooth = type(smooth)(view=levels, export=smooth.export, shown="smooth")
        hand.session.commit(with_item(hand.doc, hand.doc.meshes[0].id, smooth=smooth), "Smooth")
    hand.key(Qt.Key.Key_F)
    before = hand.picture()
    hand.session.select(Kind.FACE, front(hand))
    hand.key(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert hand.session.history.undo_label == "Hide faces selected"
    assert np.array_equal(np.flatnonzero(hidden_faces(hand.doc.meshes[0].mesh)), front(hand))
    assert not len(hand.session.selected)
    assert np.abs(hand.picture() - before).max() > 40
    hand.click(hand.at("elevation", (0, -30, 30)))
    chosen = hand.session.selected
    assert hand.doc.meshes[0].mesh.face_centres[chosen, 1].tolist() == [30]
    hand.key(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    assert len(hand.session.selected) == 54 - 9
    assert rows(hand).hidden.text() == "9 faces" and rows(hand).hidden.isVisible()
    QTest.mouseClick(rows(hand).show_hidden, Qt.MouseButton.LeftButton)
    assert hidden_faces(hand.doc.meshes[0].mesh) is None
    assert not rows(hand).hidden.isVisible()
    hand.session.choose(())
    hand.session.undo()
    assert hidden_faces(hand.doc.meshes[0].mesh) is not None


def test_a_selection_is_kept_on_the_card_and_taken_up_again(
    grid: Hand, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    hand = grid
    asked = []

    def answer(*_: object, text: str = "", **__: object) -> tuple[str, bool]:
        asked.append(text)
        return names.pop(0), True

    names = ["  front   side ", "", "lid"]
    monkeypatch.setattr(QInputDialog, "getText", answer)
    assert not rows(hand).keep.isEnabled(), "nothing is selected"
    hand.key(Qt.Key.Key_F)
    hand.session.select(Kind.FACE, front(hand))
    QTest.mouseClick(rows(hand).keep, Qt.MouseButton.LeftButton)
    assert hand.session.history.undo_label == "Keep the selection front side"
    assert rows(hand).names.currentText() == "front side" and rows(hand).forget.isEnabled()
    QTest.mouseClick(rows(hand).keep, Qt.MouseButton.LeftButton)
    assert "needs a name" in hand.notice()
    top = np.flatnonzero(hand.doc.meshes[0].mesh.face_centres[:, 2] > 59).astype(np.int32)
    hand.session.select(Kind.FACE, top)
    QTest.mouseClick(rows(hand).keep, Qt.MouseButton.LeftButton)
    assert asked == ["faces 1", "faces 1", "faces 1"], "never the name of one that is there"
    assert [rows(hand).names.itemText(i) for i in range(2)] == ["front side", "lid"]
    hand.key(Qt.Key.Key_V)
    hand.session.choose(())
    rows(hand).names.setCurrentIndex(0)
    rows(hand).names.activated.emit(0)
    assert (hand.session.kind, hand.session.selected.tolist()) == (Kind.FACE, front(hand).tolist())
    save(hand.doc, tmp_path / "kept.dimetron")
    again = load(tmp_path / "kept.dimetron").document.meshes[0].mesh
    assert names_of(again) == ["front side", "lid"]
    QTest.mouseClick(rows(hand).forget, Qt.MouseButton.LeftButton)
    assert names_of(hand.doc.meshes[0].mesh) == ["lid"]
    hand.session.undo()
    turn()
    assert [rows(hand).names.itemText(i) for i in range(2)] == ["front side", "lid"]


def test_linked_copies_are_made_changed_and_follow(grid: Hand) -> None:
    hand = grid
    hand.window.commands.run("tool.linked-copies")
    hand.settle()
    hand.type_into(hand.field("Copies"), "4")
    assert len(hand.session.document.meshes) == 2, "shown beforehand"
    assert len(hand.session.committed.meshes) == 1
    hand.key(Qt.Key.Key_Return)
    body, copies = hand.doc.meshes
    assert hand.session.history.undo_label == "Linked copies of body"
    assert copies.mesh.topology.face_count == 3 * 54
    assert hand.session.chosen == (copies.id,)
    turn()
    cards = hand.window.tray.findChild(QWidget, "cards")
    assert cards is not None and cards.width() <= hand.window.tray.width(), "nothing is cut off"
    hand.type_into(hand.field("Copies"), "2")
    assert hand.doc.meshes[1].mesh.topology.face_count == 54
    # They follow whatever is done to the mesh.
    hand.session.choose((body.id,))
    hand.window.navigation.take("resize")
    hand.type_into(hand.field("Height"), "20")
    assert np.ptp(hand.doc.meshes[1].mesh.positions[:, 2]) == pytest.approx(20)
    hand.session.undo()
    assert np.ptp(hand.doc.meshes[1].mesh.positions[:, 2]) == pytest.approx(60)
    # By hand they become plain, and one may take that back.
    hand.session.choose((copies.id,))
    hand.window.commands.run("kind.whole")
    hand.window.navigation.take("shape")
    hand.type_into(hand.field("X of the middle"), "50")
    assert hand.doc.meshes[1].made is None
    assert "copies was edited by hand" in hand.notice()


def test_what_no_mesh_is_chosen_for_is_not_made(grid: Hand) -> None:
    hand = grid
    hand.session.choose(())
    hand.window.commands.run("tool.linked-copies")
    hand.settle()
    assert hand.session.committed.meshes == hand.doc.meshes
    hand.key(Qt.Key.Key_Return)
    assert len(hand.doc.meshes) == 1
    hand.click(hand.at("elevation", (0, -30, 30)))
    assert len(hand.session.document.meshes) == 2
    hand.key(Qt.Key.Key_Escape)
    assert len(hand.session.document.meshes) == 1, "dropped"


def test_what_takes_a_while_is_made_while_the_window_goes_on(grid: Hand) -> None:
    hand = grid
    operating, remesh = hand.window.workbench.operating, by_name("remesh")
    told: list[str] = []
    operating.busy.connect(told.append)
    operating.do(remesh, remesh.made(size=1.0))
    assert told == ["Even quads…"], "of a small mesh, too"
    assert hand.doc.meshes[0].mesh.topology.face_count == 54
    hand.wait(lambda: hand.doc.meshes[0].mesh.topology.face_count > 10_000)
    assert told[-1] == "" and str(hand.session.history.undo_label).startswith("Even quads")
    operating.do(remesh, remesh.made(size=1.0))
    operating.abandon()
    before = hand.doc
    hand.wait(lambda: not operating._waited.busy)
    turn()
    assert hand.doc is before, "dropped"


def test_a_mesh_is_laid_on_what_is_set_aside(grid: Hand) -> None:
    hand = grid
    id_ = hand.doc.meshes[0].id
    lay_on = by_name("lay-on")
    hand.window.commands.run("do.lay-on")
    assert "Set the mesh to lay it on aside first" in hand.notice()
    doc, wall = with_mesh(hand.doc, box((-50, 40, -50), (50, 45, 90)), "wall")
    hand.session.commit(with_item(doc, wall, guide=True), "A wall set aside")
    hand.session.choose((id_,))
    hand.key(Qt.Key.Key_F)
    back = np.flatnonzero(hand.doc.mesh(id_).mesh.face_centres[:, 1] > 29).astype(np.int32)
    hand.session.select(Kind.FACE, back)
    hand.window.workbench.operating.do(lay_on, lay_on.made())
    moved = hand.doc.mesh(id_).mesh
    assert moved.face_centres[back, 1].tolist() == pytest.approx([40] * 9)
    assert len(hand.doc.meshes) == 2, "what it is laid on stays"
    assert hand.session.selected.tolist() == back.tolist()
    hand.session.commit(with_item(hand.doc, wall, shown=False), "Hidden")
    hand.session.choose((id_,))
    with pytest.raises(MeshError, match="aside first"):
        hand.window.workbench.operating.do(lay_on, lay_on.made())
