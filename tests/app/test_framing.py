"""Axes and pivots of whatever moves, turns and resizes."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QComboBox

from dimetron.document.edits import with_mesh
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.primitives import box
from dimetron.mesh.select import Kind
from dimetron.mesh.turning import turning
from tests.app.conftest import Hand, turn

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def two(hand: Hand) -> Hand:
    """Two boxes in one mesh, the second turned by 30 degrees about Y."""
    second = box((60, -10, 20), (100, 10, 40))
    tilted = second.with_positions(turning(1, 30, np.array([80.0, 0, 30]))(second.positions))
    hand.model(joined([box((-40, -10, 0), (0, 10, 40)), tilted]), "two")
    return hand


def mesh(hand: Hand) -> Mesh:
    return hand.doc.meshes[0].mesh


def take(hand: Hand, tool: str, **options: str) -> None:
    hand.window.commands.run(f"tool.{tool}")
    for name, value in options.items():
        turn()
        lists = hand.window.route.panel.findChildren(QComboBox)
        found = next(c for c in lists if c.findData(value) >= 0 and c.isVisible())
        assert name.lower() in found.accessibleName().lower()
        found.setCurrentIndex(found.findData(value))
        found.activated.emit(found.currentIndex())
    turn()


def faces(hand: Hand, way: np.ndarray) -> np.ndarray:
    """The faces that look a way."""
    return np.flatnonzero(mesh(hand).face_normals @ way > 0.99).astype(np.int32)


UP = np.array([0.0, 0, 1])
SLANTED = turning(1, 30, np.zeros(3))(UP[None])[0]


def test_what_is_selected_goes_along_its_own_axes(two: Hand) -> None:
    hand = two
    face = faces(hand, SLANTED)
    hand.session.select(Kind.FACE, face)
    take(hand, "shape", axes="part")
    before = mesh(hand).positions
    moved = np.unique(mesh(hand).topology.corners[mesh(hand).topology.corners_of(face)])
    hand.key(Qt.Key.Key_Z)
    at = hand.at("plan", tuple(mesh(hand).face_centres[face[0]]))
    hand.drag(at, at + QPoint(20, 0))
    by = mesh(hand).positions - before
    assert np.allclose(np.delete(by, moved, axis=0), 0)
    assert np.linalg.norm(by[moved[0]]) > 1
    assert np.allclose(by[moved] / np.linalg.norm(by[moved], axis=1)[:, None], SLANTED, atol=1e-6)
    hand.session.undo()
    hand.type_into(hand.field("Along Z"), "7")
    assert np.allclose(mesh(hand).positions[moved], before[moved] + 7 * SLANTED)
    # Kept, they stay when something else is selected.
    take(hand, "shape", axes="kept")
    hand.session.select(Kind.FACE, faces(hand, UP))
    hand.type_into(hand.field("Along Z"), "5")
    other = np.unique(mesh(hand).topology.corners[mesh(hand).topology.corners_of(faces(hand, UP))])
    assert np.allclose(mesh(hand).positions[other], before[other] + 5 * SLANTED)


def test_sizes_are_those_along_the_axes(two: Hand) -> None:
    hand = two
    hand.session.select(Kind.FACE, faces(hand, SLANTED))
    take(hand, "resize", fixed="middle", axes="part")
    assert hand.field("Along X").text().startswith("40")  # type: ignore[attr-defined]
    hand.type_into(hand.field("Along X"), "20")
    ends = mesh(hand).positions[8:]
    long = np.ptp(ends @ turning(1, 30, np.zeros(3))(np.eye(3))[0])
    assert long == pytest.approx(40), "the other face stays"
    face = faces(hand, SLANTED)
    t = mesh(hand).topology
    corners = mesh(hand).positions[np.unique(t.corners[t.corners_of(face)])]
    assert np.ptp(corners[:, 1]) == pytest.approx(20)
    assert np.linalg.norm(corners - corners.mean(axis=0), axis=1) == pytest.approx(200**0.5)


def test_the_view_s_axes_follow_the_pane(two: Hand) -> None:
    hand = two
    take(hand, "shape", axes="view")
    hand.point(hand.at("side", (0, 0, 60)))
    before = mesh(hand).positions
    hand.type_into(hand.field("Along X"), "3")
    by = mesh(hand).positions - before
    assert np.allclose(np.abs(by), (0, 3, 0))
    right = hand.at("side", (0, 3, 0)).x() - hand.at("side", (0, 0, 0)).x()
    assert (by[0, 1] > 0) == (right > 0)
    before = mesh(hand).positions
    hand.point(hand.at("plan", (0, 0, 60)))
    hand.type_into(hand.field("Along Z"), "4")
    assert np.allclose(mesh(hand).positions - before, (0, 0, 4)), "towards who looks from above"


@pytest.mark.parametrize("tool", ["turn", "resize"])
def test_each_apart_about_its_own_middle(two: Hand, tool: str) -> None:
    hand = two
    tops = np.concatenate([faces(hand, UP), faces(hand, SLANTED), faces(hand, -UP)])
    hand.session.select(Kind.FACE, tops)
    before = mesh(hand)
    if tool == "turn":
        take(hand, tool, about="each")
        hand.key(Qt.Key.Key_Y)
        hand.type_into(hand.field("Turn by"), "20")
    else:
        take(hand, tool, fixed="each")
        hand.type_into(hand.field("Times"), "0.5")
    for face in tops:
        assert np.allclose(mesh(hand).face_centres[face], before.face_centres[face])
    assert not np.allclose(mesh(hand).positions, before.positions)
    # Dragged as well, soft or not.
    hand.session.undo()
    hand.window.workbench.soft.mm = 15
    start = hand.at("elevation", (90, -10, 70))
    hand.drag(start, start + QPoint(40, 20))
    for face in tops:
        assert np.allclose(mesh(hand).face_centres[face], before.face_centres[face], atol=1e-6)
    assert not np.allclose(mesh(hand).positions, before.positions)


def test_a_picked_point_stays(two: Hand) -> None:
    hand = two
    hand.session.select(Kind.FACE, faces(hand, UP))
    take(hand, "turn")
    hand.key(Qt.Key.Key_Y)
    hand.click(hand.at("elevation", (0, -10, 40)), CTRL)
    pivot = hand.window.workbench.frame.pivot
    assert np.allclose(np.abs(pivot), (0, 10, 40)), "a corner of the mesh, not only of the pane"
    assert hand.window.tools["turn"].about_point == "picked"
    hand.type_into(hand.field("Turn by"), "90")
    first = mesh(hand).positions[:8]
    for corner in ((0, -10, 40), (0, 10, 40), (0, -10, 80), (0, 10, 80)):
        assert np.isclose(first, corner).all(axis=1).any(), "stood up about its edge"
    # The same one for resizing; elsewhere it snaps, as deep as it was.
    take(hand, "resize", fixed="picked")
    hand.click(hand.at("elevation", (30, 0, 70)), CTRL)
    moved = hand.window.workbench.frame.pivot
    assert moved[1] == pytest.approx(pivot[1]) and moved[0] == pytest.approx(30, abs=0.6)
    assert hand.session.kind is Kind.FACE and len(hand.session.selected) == 1
    hand.session.select(Kind.WHOLE, np.zeros(0, np.int32))
    before = mesh(hand).positions
    hand.type_into(hand.field("Times"), "2")
    assert np.allclose(mesh(hand).positions, moved + 2 * (before - moved))


def test_a_shape_stays_open_while_its_sizes_are_typed(hand: Hand) -> None:
    hand.window.navigation.take("cylinder")
    hand.drag(hand.at("elevation", (-20, 0, 0)), hand.at("elevation", (20, 0, 50)))
    label = hand.session.history.undo_label
    hand.type_into(hand.field("Width"), "60")
    hand.type_into(hand.field("Sides"), "8")
    assert np.ptp(mesh(hand).positions[:, 0]) == pytest.approx(60)
    assert mesh(hand).topology.vertex_count == 2 * 8 + 2
    assert hand.session.history.undo_label == label
    hand.session.undo()
    assert not hand.doc.meshes, "one step"


def test_keys_that_name_an_axis_are_no_shortcut(hand: Hand) -> None:
    commands = hand.window.commands
    taken = {command.shortcut for command in commands}
    assert not taken & {"X", "Y", "Z"}


def test_in_the_3d_pane_points_snap_to_surfaces(two: Hand) -> None:
    hand = two
    doc, _ = with_mesh(hand.doc, box((-200, 60, -50), (200, 80, 200)), "wall")
    hand.session.open(doc, None)
    hand.board.fit_all()
    id_ = hand.doc.meshes[0].id
    hand.session.choose((id_,))
    hand.session.select(Kind.VERTEX, np.array([0], np.int32))
    hand.window.commands.run("tool.shape")
    hand.session.select(Kind.VERTEX, np.zeros(0, np.int32))
    hand.window.commands.run("snap.vertex")
    top = int(np.flatnonzero(np.isclose(mesh(hand).positions, (-40, -10, 40)).all(axis=1))[0])

    def dragged(to: tuple[float, float, float], keys: Qt.KeyboardModifier) -> np.ndarray:
        hand.drag(hand.at("space", (-40, -10, 40)), hand.at("space", to), keys=keys)
        found = mesh(hand).positions[top].copy()
        hand.session.undo()
        return found

    plain = Qt.KeyboardModifier.NoModifier
    face = dragged((-100, 60, 120), plain)
    assert face == pytest.approx((-100, 60, 120), abs=2), "on the wall's front, where one points"
    assert face[1] == pytest.approx(60)
    assert dragged((-200, 60, 200), plain) == pytest.approx((-200, 60, 200)), "its corner"
    assert dragged((0, 60, 200), plain) == pytest.approx((0, 60, 200)), "the middle of its edge"
    edge = dragged((-120, 60, 200), plain)
    assert edge[1:] == pytest.approx((60, 200)) and edge[0] == pytest.approx(-120, abs=3)
    assert dragged((0, 80, -50), plain)[1] == pytest.approx(60), "what is hidden is not snapped to"
    # A little way: it does not stick to where it was itself.
    start = hand.at("space", (-40, -10, 40))
    hand.drag(start, start + QPoint(-6, -5))
    assert not np.allclose(mesh(hand).positions[top], (-40, -10, 40))
    hand.session.undo()
    hand.window.commands.run("snap.vertex")
    assert dragged((-100, 60, 120), plain)[1] != pytest.approx(60)


def test_a_turn_goes_the_way_the_pointer_does(two: Hand) -> None:
    hand = two
    hand.window.commands.run("kind.whole")
    take(hand, "turn", about="origin")
    for pane, right, up in (("elevation", 0, 2), ("plan", 0, 1), ("side", 1, 2)):
        before = mesh(hand).positions
        middle = hand.at(pane, (0, 0, 0))
        hand.drag(middle + QPoint(60, 0), middle + QPoint(55, 25))
        by = mesh(hand).positions - before
        # What lies to the right goes down, and what lies above goes to the right.
        sideways = before[:, right] * (1 if hand.at(pane, (9, 9, 9)).x() > middle.x() else -1)
        assert (by[sideways > 20, up] < 0).all() and by[:, up].min() < -1, pane
        hand.session.undo()


def test_control_lends_snapping_where_nothing_is_snapped_to(two: Hand) -> None:
    hand = two
    doc, _ = with_mesh(hand.doc, box((140, -10, 0), (160, 10, 70)), "post")
    hand.session.open(doc, None)
    hand.board.fit_all()
    hand.session.choose((hand.doc.meshes[0].id,))
    hand.window.commands.run("kind.whole")
    hand.window.commands.run("tool.shape")
    # Taken hold of near its corner, that is brought near the post's.
    near, corner = (hand.at("elevation", (-x, -10, x)) for x in (37, 40))
    beside = hand.at("elevation", (140, -10, 70)) + QPoint(3, 2) + (near - corner)

    def left(keys: Qt.KeyboardModifier) -> float:
        hand.drag(near, beside, keys=keys)
        assert hand.session.history.undo_label == "Move two"
        found = float(mesh(hand).positions[:8].min(axis=0)[0])
        hand.session.undo()
        return found

    plain = Qt.KeyboardModifier.NoModifier
    hand.window.commands.run("snap.ink")
    assert left(plain) != pytest.approx(140, abs=0.1)
    assert left(CTRL) == pytest.approx(140)
    hand.window.commands.run("snap.vertex")
    assert left(plain) == pytest.approx(140)
    assert left(CTRL) != pytest.approx(140, abs=0.1)
