"""Tools through the window: selecting, snapping, axes, escape, typed values."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from dimetron.document.edits import with_mesh
from dimetron.document.model import Document
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from dimetron.render.scene import Shading
from tests.app.conftest import Hand

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def body(hand: Hand) -> str:
    """A box of 100 x 120 x 80 mm on the ground, chosen in the Model station."""
    doc, id_ = with_mesh(Document(), box((-50, -60, 0), (50, 60, 80)), "body")
    hand.session.open(doc, None)
    hand.window.navigation.take("shape")
    hand.session.choose((id_,))
    hand.board.fit_all()
    hand.settle()
    return id_


def mesh(hand: Hand, id_: str) -> object:
    return hand.doc.mesh(id_).mesh


def test_clicks_add_toggle_and_clear(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_V)
    a, b = hand.at("elevation", (50, 0, 80)), hand.at("elevation", (-50, 0, 80))
    hand.click(a)
    (first,) = hand.session.selected
    # The nearer of the two corners that lie behind each other.
    assert np.allclose(mesh(hand, body).positions[first], (50, -60, 80))
    hand.click(b, SHIFT)
    assert len(hand.session.selected) == 2
    hand.click(b, SHIFT)
    assert list(hand.session.selected) == [first]
    hand.click(hand.at("elevation", (0, 0, 87)))
    assert len(hand.session.selected) == 0
    hand.key(Qt.Key.Key_A, CTRL)
    assert len(hand.session.selected) == 8
    hand.key(Qt.Key.Key_Escape)
    assert len(hand.session.selected) == 0


@pytest.mark.parametrize(
    ("shading", "count"), [(Shading.SEE_THROUGH, 4), (Shading.WIRE, 4), (Shading.SOLID, 2)]
)
def test_a_box_takes_what_is_in_reach(hand: Hand, body: str, shading: Shading, count: int) -> None:
    hand.board.look(hand.board.sight.with_shading("elevation", shading))
    hand.key(Qt.Key.Key_V)
    hand.drag(hand.at("elevation", (-58, 0, 87)), hand.at("elevation", (58, 0, 70)))
    assert len(hand.session.selected) == count
    seen = mesh(hand, body).positions[hand.session.selected]
    assert np.allclose(seen[:, 2], 80)
    if shading is Shading.SOLID:
        assert np.allclose(seen[:, 1], -60)


def test_edges_by_click_and_box(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_E)
    hand.click(hand.at("elevation", (50, 0, 40)))
    (edge,) = hand.session.selected
    ends = mesh(hand, body).positions[mesh(hand, body).topology.edges[edge]]
    assert np.allclose(ends[:, 0], 50)
    assert np.allclose(ends[:, 1], -60)
    hand.drag(hand.at("elevation", (-58, 0, 87)), hand.at("elevation", (58, 0, 70)))
    assert len(hand.session.selected) == 4


def test_the_back_face_is_out_of_reach_in_front(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_F)
    hand.click(hand.at("elevation", (0, 0, 40)))
    (face,) = hand.session.selected
    assert np.allclose(mesh(hand, body).face_normals[face], (0, -1, 0))


def test_a_whole_mesh_is_dragged_in_any_flat_pane_and_in_3d(hand: Hand, body: str) -> None:
    for slot, axes in (("elevation", (0, 2)), ("side", (1, 2)), ("plan", (0, 1))):
        before = mesh(hand, body).bounds.mean(axis=0)
        start = hand.at(slot, tuple(before + 3))
        hand.drag(start, start + QPoint(20, -10))
        moved = mesh(hand, body).bounds.mean(axis=0) - before
        scale = hand.board.sight.mm_per_px
        expected = np.zeros(3)
        expected[list(axes)] = 20 * scale, 10 * scale
        assert np.allclose(moved, expected, atol=1e-6)
    before = mesh(hand, body).bounds.mean(axis=0)
    start = hand.at("space", tuple(before))
    hand.drag(start, start + QPoint(15, 0))
    moved = mesh(hand, body).bounds.mean(axis=0) - before
    assert np.allclose(moved @ hand.board.sight.orbit.forward, 0, atol=1e-6)
    assert np.linalg.norm(moved) == pytest.approx(15 * hand.board.sight.orbit.mm_per_px)


@pytest.mark.parametrize(("key", "axis"), [(Qt.Key.Key_X, 0), (Qt.Key.Key_Z, 2)])
def test_axis_keys_keep_to_an_axis_also_in_3d(
    hand: Hand, body: str, key: Qt.Key, axis: int
) -> None:
    for slot in ("elevation", "space"):
        before = mesh(hand, body).bounds.mean(axis=0)
        start = hand.at(slot, tuple(before))

        def keep_to() -> None:
            hand.key(key)

        hand.drag(start, start + QPoint(24, -18), before_release=keep_to)
        moved = mesh(hand, body).bounds.mean(axis=0) - before
        others = [i for i in range(3) if i != axis]
        assert np.allclose(moved[others], 0, atol=1e-9)
        assert abs(moved[axis]) > 1
        hand.key(key)


def test_escape_while_dragging_abandons(hand: Hand, body: str) -> None:
    start = hand.at("elevation", (0, 0, 40))
    before = hand.doc
    hand.drag(
        start,
        start + QPoint(40, 0),
        before_release=lambda: hand.key(Qt.Key.Key_Escape),
    )
    assert hand.doc is before
    assert hand.session.history.undo_label is None


def test_snapping_to_the_grid_and_to_vertices(hand: Hand, body: str) -> None:
    hand.window.commands.run("snap.grid")
    hand.key(Qt.Key.Key_V)
    corner = hand.at("elevation", (50, 0, 80))
    hand.click(corner)
    vertex = int(hand.session.selected[0])
    hand.drag(corner, corner + QPoint(33, -21))
    from dimetron.geometry.graduation import graduation
    from dimetron.geometry.units import Unit

    step = graduation(hand.board.sight.mm_per_px, Unit.MM).fine
    moved = mesh(hand, body).positions[vertex]
    assert np.allclose(moved[[0, 2]] / step, np.round(moved[[0, 2]] / step))
    assert moved[1] == -60
    hand.window.commands.run("snap.grid")
    hand.window.commands.run("snap.vertex")
    assert "vertices" in hand.window.title_block.snap.text()
    here = hand.at("elevation", tuple(moved))
    near = hand.at("elevation", (-50, 0, 80)) + QPoint(4, 3)
    hand.drag(here, near)
    assert np.allclose(mesh(hand, body).positions[vertex], (-50, -60, 80))


def test_resize_by_dragging_and_by_typing(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_R)
    start = hand.at("elevation", (50, 0, 80))
    origin = hand.at("elevation", (0, 0, 0))
    hand.drag(start, start + (start - origin) * 0.5)
    size = np.ptp(mesh(hand, body).bounds, axis=0)
    assert np.allclose(size, np.array([100, 120, 80]) * 1.5, rtol=0.03)
    assert mesh(hand, body).bounds[0, 2] == pytest.approx(0)
    hand.type_into(hand.field("Height"), "10 cm")
    assert np.ptp(mesh(hand, body).bounds, axis=0)[2] == pytest.approx(100)
    hand.option("z")
    hand.type_into(hand.field("Times"), "2")
    after = np.ptp(mesh(hand, body).bounds, axis=0)
    assert after[2] == pytest.approx(200)
    assert after[0] == pytest.approx(size[0])
    hand.type_into(hand.field("Times"), "0")
    assert hand.field("Times").property("wrong")


def test_extrude_by_dragging_in_a_pane_that_shows_the_normal(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_F)
    hand.click(hand.at("plan", (0, 0, 0)))
    hand.key(Qt.Key.Key_T)
    # Take hold of the front face in Front: it looks at us, so up the pane is out.
    start = hand.at("elevation", (0, 0, 40))
    hand.drag(start, start + QPoint(0, -25))
    grown = mesh(hand, body)
    assert grown.topology.face_count == 10
    assert grown.bounds[0, 1] == pytest.approx(-60 - 25 * hand.board.sight.mm_per_px)
    assert (grown.topology.edge_face_count == 2).all()
    assert hand.session.kind is Kind.FACE
    hand.key(Qt.Key.Key_Z, CTRL)
    assert mesh(hand, body).topology.face_count == 6


def test_a_number_typed_over_the_board_is_the_tools_value(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_F)
    hand.click(hand.at("plan", (0, 0, 0)))
    hand.key(Qt.Key.Key_T)
    QTest.keyClicks(hand.board, "2")
    field = hand.field("Distance")
    assert field.hasFocus()
    QTest.keyClicks(field, "0")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert mesh(hand, body).bounds[1, 2] == pytest.approx(100)
    assert not field.hasFocus()


def test_deleting_faces_and_meshes(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_V)
    hand.click(hand.at("elevation", (50, 0, 80)))
    hand.key(Qt.Key.Key_Delete)
    # With a corner go the three faces it is of.
    assert mesh(hand, body).topology.face_count == 3
    assert hand.session.history.undo_label == "Delete vertices"
    hand.session.undo()
    hand.key(Qt.Key.Key_F)
    hand.click(hand.at("plan", (0, 0, 0)))
    hand.key(Qt.Key.Key_Delete)
    assert mesh(hand, body).topology.face_count == 5
    hand.key(Qt.Key.Key_W)
    hand.window.commands.run("hold")
    hand.key(Qt.Key.Key_Delete)
    assert "is not deleted" in hand.notice()
    hand.window.commands.run("hold")
    hand.key(Qt.Key.Key_Delete)
    assert hand.doc.meshes == ()


def test_held_and_hidden_meshes_are_out_of_reach(hand: Hand, body: str) -> None:
    hand.window.commands.run("hold")
    hand.session.choose(())
    hand.click(hand.at("elevation", (0, 0, 40)))
    assert hand.session.chosen == ()
    hand.session.choose((body,))
    hand.key(Qt.Key.Key_H)
    assert not hand.doc.mesh(body).shown
    hand.settle()
    hand.key(Qt.Key.Key_H, SHIFT)
    assert hand.doc.mesh(body).shown


def test_distance_is_told_in_real_units(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_D)
    hand.window.commands.run("snap.vertex")
    hand.click(hand.at("elevation", (-50, 0, 0)) + QPoint(2, 1))
    hand.click(hand.at("elevation", (50, 0, 80)) - QPoint(3, 1))
    words = hand.window.title_block.words.text()
    assert "Distance 128.06 mm" in words
    assert "X 100 mm" in words
    assert "Z 80 mm" in words
    hand.settle()


def test_known_length_along_one_axis(hand: Hand, three: list[Path]) -> None:
    rect = hand.board.rects()["elevation"]
    hand.drop([three[0]], QPoint(int(rect.x + 90), int(rect.y + 90)))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    hand.board.fit_all()
    hand.key(Qt.Key.Key_K)
    a, b = hand.at("elevation", (-50, 0, 30)), hand.at("elevation", (40, 0, 70))
    low, high = hand.world("elevation", a), hand.world("elevation", b)
    hand.click(a)
    hand.click(b)
    field = hand.field("Real length")
    assert field.hasFocus(), "the length waits to be typed"
    hand.option("across")
    before = hand.doc.drawings[0].placement.mm_per_px
    hand.type_into(field, "1 ft")
    factor = 304.8 / (high[0] - low[0])
    assert hand.doc.drawings[0].placement.mm_per_px == pytest.approx(before * factor)
    hand.settle()


def test_put_a_point_onto_the_centreline_and_the_origin(hand: Hand, three: list[Path]) -> None:
    rect = hand.board.rects()["side"]
    hand.drop([three[1]], QPoint(int(rect.x + 90), int(rect.y + 90)))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    hand.board.fit_all()
    for onto, expected in (("centreline", [True, False]), ("origin", [True, True])):
        hand.key(Qt.Key.Key_P)
        hand.option(onto)
        at = hand.at("side", (0, 21, 37))
        drawing = hand.doc.drawings[0]
        px = drawing.placement.to_px(drawing.view.to_plane(hand.world("side", at)))
        hand.click(at)
        now = hand.doc.drawings[0].placement.to_plane(px)
        assert [abs(n) < 1e-9 for n in now] == expected


def test_a_box_without_drawings_and_one_made_by_command(hand: Hand) -> None:
    hand.key(Qt.Key.Key_B)
    hand.drag(hand.at("plan", (-30, -20, 0)), hand.at("plan", (30, 20, 0)))
    (item,) = hand.doc.meshes
    low, high = item.mesh.bounds
    assert low[2] == 0
    assert high[2] == pytest.approx(high[0] - low[0])
    assert hand.session.chosen == (item.id,)
    hand.click(hand.at("plan", (0, 0, 0)))
    assert len(hand.doc.meshes) == 1, "a click makes no box"
