"""Linked copies, in the real window."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from tests.app.conftest import Hand, turn
from tests.app.test_modelling import grid

__all__ = ["grid"]


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


def test_copies_stand_round_the_place_that_is_picked(grid: Hand) -> None:
    hand = grid
    hand.window.commands.run("tool.linked-copies")
    hand.settle()
    with pytest.raises(StopIteration):
        hand.field("X")
    hand.click(hand.at("elevation", (30, -30, 20)), Qt.KeyboardModifier.ControlModifier)
    right = hand.session.document.meshes[1].mesh.bounds[1, 0]
    assert 80 < right < 120, "beyond the axis from the first"
    hand.type_into(hand.field("X"), "50")
    hand.type_into(hand.field("Copies"), "2")
    hand.key(Qt.Key.Key_Return)
    body, copies = hand.doc.meshes
    turned = 100 - body.mesh.bounds[::-1, 0]
    assert np.allclose(copies.mesh.bounds[:, 0], turned), "half a turn round the axis through 50"
