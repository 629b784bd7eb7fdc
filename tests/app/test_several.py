"""Operations that look at further meshes, and such as take a while, in the real window."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt

from dimetron.document.edits import with_mesh
from dimetron.document.model import with_item
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from tests.app.conftest import Hand, turn
from tests.app.test_modelling import grid

__all__ = ["grid"]


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
