"""Hiding faces and keeping selections, in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from dimetron.app.tray.cards.mesh import MeshCard
from dimetron.app.tray.part_rows import PartRows
from dimetron.document.container import load, save
from dimetron.document.model import with_item
from dimetron.mesh.hiding import hidden_faces
from dimetron.mesh.named import names_of
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
