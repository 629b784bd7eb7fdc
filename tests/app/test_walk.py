"""The whole path through the real window: three drawings in, a mesh over them out."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from dimetron.document import aligning
from dimetron.document.container import load
from dimetron.geometry.views import View
from dimetron.mesh.select import Kind
from tests.app.conftest import Hand


def test_from_three_pictures_to_an_exported_mesh(
    hand: Hand, three: list[Path], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = hand.window
    assert window.pane_controls.empty.isVisible()

    # Bring in: each picture onto its pane.
    slots = ("elevation", "side", "plan")
    for count, (path, slot) in enumerate(zip(three, slots, strict=True), 1):
        rect = hand.board.rects()[slot]
        hand.drop([path], QPoint(int(rect.x + rect.w / 2), int(rect.y + rect.h / 2)))
        hand.wait(lambda count=count: len(hand.doc.drawings) == count)
    assert [d.view for d in hand.doc.drawings] == [View.FRONT, View.RIGHT, View.TOP]
    assert not window.pane_controls.empty.isVisible()
    front, side, plan = (d.id for d in hand.doc.drawings)
    for id_, ratio in ((front, 240 / 160), (side, 2.0), (plan, 0.6)):
        w, h = hand.doc.drawing(id_).placement.size_mm(hand.doc.size_px(hand.doc.drawing(id_)))
        assert w / h == pytest.approx(ratio)
    hand.key(Qt.Key.Key_Home)
    hand.settle()

    # Scale one drawing exactly by two picked points and a typed length.
    hand.key(Qt.Key.Key_K)
    assert hand.board.tool is window.tools["known-length"]
    a, b = hand.at("elevation", (-60, 0, 40)), hand.at("elevation", (60, 0, 41))
    first = hand.world("elevation", a)
    pixel = hand.doc.drawing(front).placement.to_px(View.FRONT.to_plane(first))
    hand.click(a)
    hand.click(b)
    hand.type_into(hand.field("Real length"), '16 1/4"')
    assert window.session.history.undo_label == "Known length 412.75 mm"
    placed = hand.doc.drawing(front).placement
    assert np.allclose(placed.to_plane(pixel), View.FRONT.to_plane(first), atol=1e-6)
    # What was scaled can be measured again.
    other = placed.to_px(View.FRONT.to_plane(first))
    assert np.allclose(other, pixel, atol=1e-6)
    assert hand.field("Real length").text() == "412.75 mm"

    # Match the others: the side's height to the front's, the plan's scale to the side's.
    window.tray.cards[side]._menus._match(hand.doc.drawing(front), 2)
    # By what is drawn, not by the paper.
    ink = {id_: window.workbench.ink(hand.doc.drawing(id_)) for id_ in (front, side)}
    mine, theirs = (
        aligning.extent_on_paper(hand.doc, hand.doc.drawing(i), ink)[:, 1] for i in (side, front)
    )
    assert mine == pytest.approx(theirs)
    window.tray.cards[plan]._menus._match(hand.doc.drawing(side), None)
    assert hand.doc.drawing(plan).placement.mm_per_px == pytest.approx(
        hand.doc.drawing(side).placement.mm_per_px
    )
    hand.key(Qt.Key.Key_Home)

    # Put a picked point on the ground; slide along one axis; nudge; type with an expression.
    hand.key(Qt.Key.Key_P)
    middle = hand.doc.drawing(front).placement.centre((240, 160))
    low = hand.at("elevation", (float(middle[0]), 0, float(middle[1]) - 20))
    picked = hand.doc.drawing(front).placement.to_px(
        View.FRONT.to_plane(hand.world("elevation", low))
    )
    hand.click(low)
    assert hand.doc.drawing(front).placement.to_plane(picked)[1] == pytest.approx(0)
    hand.key(Qt.Key.Key_A)
    before = np.array(hand.doc.drawing(front).placement.anchor_mm)
    start = hand.at("elevation", (float(middle[0]), 0, 10))
    hand.drag(start, start + QPoint(50, 7), keys=Qt.KeyboardModifier.ShiftModifier)
    after = np.array(hand.doc.drawing(front).placement.anchor_mm)
    assert after[0] - before[0] == pytest.approx(50 * hand.board.sight.mm_per_px)
    assert after[1] == before[1]
    scale = hand.doc.drawing(front).placement.mm_per_px
    hand.key(Qt.Key.Key_Left)
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    nudged = np.array(hand.doc.drawing(front).placement.anchor_mm)
    assert nudged[0] - after[0] == pytest.approx((-1 + 10 + 0.1) * scale)
    card = window.tray.cards[front]
    hand.type_into(card.across_edit, "=300/2-150")
    assert hand.doc.drawing(front).placement.centre((240, 160))[0] == pytest.approx(0, abs=1e-9)

    # Fade, hold, stand-off, turn, mirror from the card.
    hand.type_into(card.turn_edit, "1.5")
    QTest.mouseClick(card.tabs[1], Qt.MouseButton.LeftButton)
    hand.type_into(card.seen.stand, "30 cm")
    QTest.mouseClick(card.mirror, Qt.MouseButton.LeftButton)
    QTest.mouseClick(card.hold_button, Qt.MouseButton.LeftButton)
    card.fade.setValue(50)
    drawing = hand.doc.drawing(front)
    assert drawing.placement.stand_off_mm == 300
    assert drawing.placement.mirrored
    assert drawing.held
    assert drawing.opacity == 0.5
    held_at = drawing.placement
    hand.drag(start, start + QPoint(40, 0))
    assert hand.doc.drawing(front).placement == held_at
    window.commands.run("hold-all")
    assert all(d.held for d in hand.doc.drawings)

    # Add a box over them, and make its size exact.
    hand.key(Qt.Key.Key_B)
    hand.drag(hand.at("elevation", (-50, 0, 0)), hand.at("elevation", (50, 0, 80)))
    assert len(hand.doc.meshes) == 1
    body = hand.doc.meshes[0].id
    for name, text in (("Width", "100"), ("Depth", "12 cm"), ("Height", "80")):
        hand.type_into(hand.field(name), text)
    size = np.ptp(hand.doc.mesh(body).mesh.bounds, axis=0)
    assert np.allclose(size, (100, 120, 80))

    # Move the whole box by typing, then select a face and extrude it.
    hand.key(Qt.Key.Key_S)
    for axis, value in (("X", "0"), ("Y", "0"), ("Z", "40")):
        hand.type_into(hand.field(f"{axis} of the middle"), value)
    assert np.allclose(hand.doc.mesh(body).mesh.bounds, [(-50, -60, 0), (50, 60, 80)])
    hand.key(Qt.Key.Key_F)
    assert hand.session.kind is Kind.FACE
    hand.click(hand.at("plan", (0, 0, 0)))
    chosen = hand.doc.mesh(body).mesh.face_normals[hand.session.selected]
    assert np.allclose(chosen, [(0, 0, 1)])
    hand.key(Qt.Key.Key_T)
    hand.type_into(hand.field("Distance"), "2.5 cm")
    assert hand.doc.mesh(body).mesh.topology.face_count == 10
    assert hand.doc.mesh(body).mesh.bounds[1, 2] == pytest.approx(105)

    # Select vertices by a box and move them with an axis kept to.
    hand.key(Qt.Key.Key_V)
    assert len(hand.session.selected) == 4
    hand.key(Qt.Key.Key_S)
    corner = hand.at("elevation", (50, 0, 105))
    hand.drag(hand.at("elevation", (20, 0, 130)), hand.at("elevation", (70, 0, 95)))
    assert len(hand.session.selected) == 2
    hand.key(Qt.Key.Key_X)
    hand.drag(corner, corner + QPoint(30, 25))
    moved = hand.doc.mesh(body).mesh.positions[hand.session.selected]
    assert np.allclose(moved[:, 2], 105)
    assert np.allclose(moved[:, 0], 50 + 30 * hand.board.sight.mm_per_px, atol=0.01)
    hand.key(Qt.Key.Key_X)

    # Save, close, reopen: identical.
    project = tmp_path / "can.dimetron"
    window.session.path = project
    window.commands.run("save")
    hand.wait(lambda: not window.session.dirty)
    kept = hand.session.committed
    again = load(project).document
    assert again.drawings == kept.drawings
    assert again.sources == kept.sources
    assert np.array_equal(again.meshes[0].mesh.positions, kept.meshes[0].mesh.positions)
    window.commands.run("new")
    assert hand.doc.empty
    window.files.open(project)
    hand.wait(lambda: len(hand.doc.meshes) == 1)
    assert hand.doc.drawings == kept.drawings

    # Hand off as OBJ and GLB with the drawings.
    window.commands.run("station.hand-off")
    panel = window.hand_off
    for kind in ("obj", "glb"):
        out = tmp_path / f"can.{kind}"
        panel.write(out, "meshes", kind=kind, planes=True, unit="cm", up="y")
        hand.wait(lambda out=out: out.exists() and not panel.handing.busy)
        scene = trimesh.load(out)
        assert len(scene.geometry) == 4
        solid = max(scene.geometry.values(), key=lambda g: len(g.faces))
        assert np.ptp(solid.bounds[:, 1]) == pytest.approx(10.5, abs=1e-4)

    # Undo all of it and do it again.
    steps = len(hand.session.history.steps)
    assert steps == 1
    window.files.open(project)
    hand.wait(lambda: not hand.session.dirty and len(hand.session.history.steps) == 1)


def test_undo_and_redo_walk_through_every_step_with_labels(hand: Hand, three: list[Path]) -> None:
    window = hand.window
    rect = hand.board.rects()["elevation"]
    hand.drop([three[0]], QPoint(int(rect.x + 100), int(rect.y + 100)))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    id_ = hand.doc.drawings[0].id
    card = window.tray.cards[id_]
    hand.type_into(card.width_edit, "412")
    hand.type_into(card.turn_edit, "2")
    QTest.mouseClick(card.mirror, Qt.MouseButton.LeftButton)
    hand.key(Qt.Key.Key_B)
    hand.drag(hand.at("elevation", (-20, 0, 10)), hand.at("elevation", (40, 0, 60)))
    documents = [hand.doc]
    labels = [step.label for step in hand.session.history.steps]
    assert labels[1:] == [
        "Bring in one.png",
        "Set the size of one",
        "Turn one",
        "Mirror one",
        "Add a box",
    ]
    for number in range(len(labels) - 1, 0, -1):
        assert window.commands["undo"].action.text() == f"Undo: {labels[number]}"
        hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        documents.insert(0, hand.doc)
    assert [len(doc.drawings) for doc in documents] == [0, 1, 1, 1, 1, 1]
    assert [len(doc.meshes) for doc in documents] == [0, 0, 0, 0, 0, 1]
    assert window.pane_controls.empty.isVisible()
    for number in range(1, len(documents)):
        assert window.commands["redo"].action.text() == f"Redo: {labels[number]}"
        hand.key(
            Qt.Key.Key_Z,
            Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
        )
        assert hand.doc is documents[number]
