"""Modelling over registered drawings in the real window: the watering can from first to last."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from threading import Event

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from dimetron.app.tray.cards.mesh import MeshCard
from dimetron.app.tray.cards.version import VersionCard
from dimetron.app.tray.mesh_rows import MeshRows
from dimetron.app.work import looking_over
from dimetron.demo import can
from dimetron.demo.project import project
from dimetron.document.container import load, save
from dimetron.document.edits import with_mesh, without_item
from dimetron.document.model import with_item
from dimetron.formats.export import export
from dimetron.geometry.views import View
from dimetron.mesh.evening import uneven
from dimetron.mesh.findings import Finding, findings
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.select_words import selected
from tests.app.conftest import NONE, Hand, over, turn

SCALE = can.scale()
#: How wide the body is at some heights.
BODY = (12, 40, 48, 150, 158, 184), (84, 82.6, 82.2, 77.6, 77.2, 75.6)
#: Y, Z and radius along the spout and its rose, the handle, and the stay, as one reads them off the
#: drawings.
SPOUT = (
    *((-60, 44, 21), (-100, 70, 18), (-125, 95, 17), (-146, 118, 15.5), (-166, 147, 14)),
    *((-182, 172, 12.5), (-207, 209, 11.2), (-213, 218, 15.5), (-222.5, 231, 34)),
    *((-225.3, 235, 36.5), (-227.6, 238, 34)),
)
HANDLE = (
    *((-74, 184, 7.5), (-75, 206, 7.5), (-70, 226, 7.5), (-60, 243, 7.5), (-42, 260, 7.5)),
    *((-20, 271, 7.5), (10, 279, 7.5), (40, 280, 7.5), (72, 272, 7.5), (100, 256, 7.5)),
    *((122, 232, 7.5), (136, 204, 7.5), (142, 175, 7.5), (141, 146, 7.5), (133, 120, 7.5)),
    *((118, 96, 7.5), (98, 80, 7.5), (76, 72, 7.5)),
)
STAY = ((-70, 182, 3.6), (-95, 173, 3.6), (-120, 166, 3.6), (-172, 160, 3.6))


@pytest.fixture
def laid(hand: Hand) -> Hand:
    """The watering can's drawings, registered, without a mesh."""
    doc = project("watering-can")
    doc = without_item(doc, doc.meshes[0].id)
    hand.session.open(doc, None)
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.board.fit_all()
    hand.window.navigation.open_station("model")
    hand.settle()
    return hand


def mesh(hand: Hand) -> Mesh:
    """The chosen mesh."""
    item = hand.session.chosen_mesh
    assert item is not None
    return item.mesh


def type_in(hand: Hand, **values: float) -> None:
    for name, value in values.items():
        hand.type_into(hand.field(name.replace("_", " ")), f"{value:.4f}")


def kind(hand: Hand, name: str) -> None:
    hand.window.commands.run(f"kind.{name}")


def start(hand: Hand, shape: str, slot: str, low: Sequence[float], high: Sequence[float]) -> None:
    """Drag a shape out in a pane."""
    hand.window.commands.run(f"tool.{shape}")
    turn()
    hand.drag(hand.at(slot, tuple(low)), hand.at(slot, tuple(high)))


def place(hand: Hand, y: float, z: float, tilt: float, size: float) -> None:
    """Put what is selected: turned about X, so wide, and its middle in the plane X = 0."""
    if abs(tilt) > 1e-6:
        hand.window.commands.run("tool.turn")
        turn()
        if hand.board.tool.axis != 0:
            hand.key(Qt.Key.Key_X)
        turn()
        type_in(hand, Turn_by=tilt)
    hand.window.commands.run("tool.resize")
    turn()
    now = float(np.ptp(mesh(hand).positions[picked(hand), 0]))
    type_in(hand, Times=size / now)
    hand.window.commands.run("tool.shape")
    turn()
    type_in(hand, X_of_the_middle=0, Y_of_the_middle=y, Z_of_the_middle=z)


def picked(hand: Hand) -> np.ndarray:
    t = mesh(hand).topology
    return np.unique(t.corners[t.corners_of(hand.session.selected)])


def lay_along(hand: Hand, path: Sequence[tuple[float, float, float]], wide: float = 1.0) -> None:
    """From the chosen cylinder's ends on along a path: its top is drawn out, turned, widened and
    put, place after place."""
    places = np.array(path, float) * SCALE
    way = np.gradient(places[:, :2], axis=0)
    tilts = np.degrees(np.unwrap(np.arctan2(-way[:, 0], way[:, 1])))
    kind(hand, "face")
    caps = np.flatnonzero(mesh(hand).topology.sizes > 4)
    caps = caps[np.argsort(mesh(hand).face_centres[caps, 2])]
    for index, face in enumerate(caps.tolist()):
        hand.session.select(Kind.FACE, np.array([face], np.int32))
        y, z, radius = places[index]
        place(hand, y, z, float(tilts[index]), 2 * radius * wide)
    for index in range(2, len(places)):
        y, z, radius = places[index]
        hand.window.commands.run("tool.extrude")
        turn()
        type_in(hand, Distance=2.0)
        place(hand, y, z, float(tilts[index] - tilts[index - 1]), 2 * radius * wide)


def outline(body: Mesh, view: View) -> shapely.LinearRing:
    """The outer boundary of what a view shows."""
    parts = [shapely.Polygon(loop).buffer(0) for loop in outline_of(body, view)]
    whole = shapely.union_all(parts)
    largest = max(getattr(whole, "geoms", [whole]), key=lambda part: part.area)
    return shapely.LinearRing(largest.exterior.coords)


def test_the_watering_can_is_modelled_over_its_drawings(laid: Hand) -> None:
    hand = laid
    # The body: a cylinder, as high as it is drawn; its rows then meet the ink.
    hand.window.commands.run("tool.cylinder")
    turn()
    type_in(hand, Sides=16, Rows=9)
    start(hand, "cylinder", "elevation", (-70, 0, 3), (70, 0, 192))
    type_in(hand, Width=150, Depth=150, Height=189.0 * SCALE)
    hand.window.commands.run("tool.shape")
    turn()
    type_in(hand, X_of_the_middle=0, Y_of_the_middle=0, Z_of_the_middle=96.5 * SCALE)
    heights = np.unique(np.round(mesh(hand).positions[:, 2], 6))
    assert len(heights) == 10
    hand.window.commands.run("tool.to-the-ink")
    turn()
    for slot in ("elevation", "side"):
        for z in heights:
            hand.click(hand.at(slot, (20.0, 20.0, float(z))))
    assert hand.session.history.undo_label == "A row to the ink"
    for z in heights[1:-1]:
        row = mesh(hand).positions[np.isclose(mesh(hand).positions[:, 2], z)]
        wide = float(np.interp(z / SCALE, *BODY))
        assert np.abs(row[:, 0]).max() == pytest.approx(wide * SCALE, abs=2.5)
    # Spout, handle and stay: from a short piece on along what is drawn.
    for path, wide in ((SPOUT, 1.0), (HANDLE, 1.5), (STAY, 1.0)):
        hand.window.commands.run("tool.cylinder")
        turn()
        type_in(hand, Sides=8, Rows=1)
        hand.option("face")
        y, z, _ = np.array(path[0]) * SCALE
        start(hand, "cylinder", "side", (0, y - 9, z - 5), (0, y + 9, z + 12))
        type_in(hand, Width=18 * wide, Depth=18)
        lay_along(hand, path, wide)
        hand.session.choose(())
    assert [m.mesh.topology.sizes.max() for m in hand.doc.meshes] == [4, 8, 8, 8]
    whole = joined([m.mesh for m in hand.doc.meshes])
    for view in (View.FRONT, View.RIGHT, View.TOP):
        miss = shapely.hausdorff_distance(
            outline(whole, view), outline(can.solid(), view), densify=0.02
        )
        assert miss < 0.02 * can.LENGTH_MM, view
    # Every one of it can be undone.
    while hand.session.history.undo_label is not None:
        hand.session.undo()
    assert hand.doc.meshes == ()


@pytest.fixture
def grid(hand: Hand) -> Hand:
    """A box of three quads along each edge, about the middle, chosen in the Model station."""
    body = by_name("loops")(box((-30, -30, 0), (30, 30, 60)), loops=2).mesh
    hand.model(body, "body")
    return hand


def card(hand: Hand) -> MeshRows:
    turn()
    id_ = hand.session.chosen[0]
    return next(c for c in hand.window.tray.findChildren(MeshCard) if c.id == id_).rows


def test_both_sides_move_while_one_is_dragged(grid: Hand) -> None:
    hand = grid
    QTest.mouseClick(card(hand).even["x"], Qt.MouseButton.LeftButton)
    assert hand.doc.meshes[0].even == ("x",)
    assert hand.session.history.undo_label == "body even about X"
    kind(hand, "vertex")
    start_at, end = hand.at("elevation", (30, -30, 60)), hand.at("elevation", (45, -30, 75))
    seen: list[float] = []
    hand.drag(start_at, end, before_release=lambda: seen.extend(mesh(hand).bounds[:, 0]))
    assert seen[0] == pytest.approx(-seen[1], abs=1e-9), "while it is dragged, too"
    assert seen[1] > 40
    assert not len(uneven(mesh(hand), 0))
    hand.session.undo()
    kind(hand, "face")
    top = selected(mesh(hand), "faces:facing=+x").indices[:1]
    hand.session.select(Kind.FACE, top)
    hand.window.commands.run("tool.extrude")
    turn()
    type_in(hand, Distance=7)
    assert mesh(hand).bounds[:, 0].tolist() == [-37, 37]
    assert len(hand.session.selected) == 2
    QTest.mouseClick(card(hand).even["x"], Qt.MouseButton.LeftButton)
    assert hand.doc.meshes[0].even == ()


def test_a_smooth_surface_is_shown_over_its_cage_and_goes_out_in_files(
    grid: Hand, tmp_path: Path
) -> None:
    hand = grid
    before = hand.picture()
    rows = card(hand)
    rows.view.setValue(2)
    rows.export.setValue(1)
    smooth = hand.doc.meshes[0].smooth
    assert (smooth.view, smooth.export, smooth.shown) == (2, 1, "both")
    both = hand.picture()
    assert np.abs(both - before).max() > 40
    card(hand).shown.setCurrentIndex(1)
    card(hand).shown.activated.emit(1)
    assert np.abs(hand.picture() - both).max() > 40, "the cage is gone"
    export(hand.doc, tmp_path / "body.obj")
    faces = sum(line.startswith("f ") for line in (tmp_path / "body.obj").read_text().splitlines())
    assert faces == 54 * 4
    save(hand.doc, tmp_path / "kept.dimetron")
    again = load(tmp_path / "kept.dimetron").document.meshes[0]
    assert again.smooth == hand.doc.meshes[0].smooth
    strong = hand.picture()
    card(hand).fade.setValue(40)
    assert hand.doc.meshes[0].opacity == 0.4
    assert hand.session.history.undo_label == "Opacity of body"
    assert np.abs(hand.picture() - strong).max() > 15
    # Set aside it is seen through, and out of reach.
    QTest.mouseClick(card(hand).aside, Qt.MouseButton.LeftButton)
    assert not hand.doc.free(hand.doc.meshes[0])
    hand.session.choose(())
    hand.click(hand.at("elevation", (0, -30, 30)))
    assert hand.session.chosen == ()


@pytest.mark.parametrize(("way", "count"), [("box", 4), ("lasso", 3), ("brush", 1)])
def test_a_sweep_selects_by_box_lasso_or_brush(grid: Hand, way: str, count: int) -> None:
    hand = grid
    kind(hand, "vertex")
    hand.option(way)
    places = {
        "box": [(-36, 64), (-5, 35)],
        "lasso": [(-36, 35), (-36, 64), (-5, 64), (-5, 50), (-25, 50), (-25, 35)],
        "brush": [(-36, 60), (-31, 60)],
    }[way]
    spots = [hand.at("elevation", (x, -30, z)) for x, z in places]
    hand.point(spots[0])
    QTest.mousePress(hand.board, Qt.MouseButton.LeftButton, NONE, spots[0])
    for spot in spots[1:]:
        over(hand.board, spot, Qt.MouseButton.LeftButton)
        turn()
    QTest.mouseRelease(hand.board, Qt.MouseButton.LeftButton, NONE, spots[-1])
    found = mesh(hand).positions[hand.session.selected]
    corners = np.unique(np.round(found[:, [0, 2]], 6), axis=0)
    assert len(corners) == count
    assert [-30, 60] in corners.tolist()
    # Where one sees through, front and back are both taken in.
    assert {-30, 30} <= set(found[:, 1].tolist())


def test_what_lies_around_goes_along_softly(grid: Hand) -> None:
    hand = grid
    kind(hand, "vertex")
    turn()
    type_in(hand, Soft_within=50)
    before = mesh(hand)
    corner = hand.at("elevation", (30, -30, 60))
    hand.drag(corner, hand.at("elevation", (45, -30, 60)))
    by = np.linalg.norm(mesh(hand).positions - before.positions, axis=1)
    assert (by > 1e-9).sum() > 4
    away = np.linalg.norm(before.positions - before.positions[int(np.argmax(by))], axis=1)
    assert (by[away >= 50] == 0).all()
    assert by[(away > 0) & (away < 25)].max() < by.max()


@pytest.mark.parametrize(
    ("tool", "typed", "value"), [("turn", "Turn by", 30), ("resize", "Times", 2)]
)
def test_turning_and_resizing_are_as_soft_as_moving(
    grid: Hand, tool: str, typed: str, value: float
) -> None:
    hand = grid
    kind(hand, "face")
    hand.session.select(Kind.FACE, selected(mesh(hand), "faces:facing=+z").indices)
    turn()
    type_in(hand, Soft_within=50)
    before = mesh(hand).positions

    def went() -> list[float]:
        """How far vertices went, by height."""
        by = np.linalg.norm(mesh(hand).positions - before, axis=1)
        return [float(by[before[:, 2] == z].max()) for z in (0, 20, 40, 60)]

    hand.window.navigation.take(tool)
    turn()
    hand.type_into(hand.field(typed), str(value))
    far = went()
    assert far[0] == 0 < far[1] < far[2] < far[3]
    hand.session.undo()
    start = hand.at("plan", (30, -30, 60))
    hand.drag(start, start + QPoint(40, -60))
    far = went()
    assert far[0] == 0 < far[1] < far[2] < far[3]


def test_faces_are_cut_across_from_click_to_click(grid: Hand) -> None:
    hand = grid
    hand.window.commands.run("tool.cut-across")
    hand.click(hand.at("elevation", (-30, -30, 20)))
    hand.click(hand.at("elevation", (30, -30, 40)))
    hand.key(Qt.Key.Key_Return)
    assert hand.session.history.undo_label == "Cut across"
    assert mesh(hand).topology.face_count == 57
    assert (hand.session.kind, len(hand.session.selected)) == (Kind.EDGE, 3)
    hand.click(hand.at("elevation", (-30, -30, 0)))
    hand.key(Qt.Key.Key_Escape)
    hand.key(Qt.Key.Key_Return)
    assert mesh(hand).topology.face_count == 57, "taken back, nothing is cut"


def test_what_is_not_sound_is_listed_shown_and_mended(grid: Hand) -> None:
    hand = grid
    hand.session.select(Kind.FACE, selected(mesh(hand), "faces:facing=+z").indices)
    hand.key(Qt.Key.Key_Delete)
    assert "12 open edges" in card(hand).health.text()
    hand.window.commands.run("tool.health")
    hand.act("see-open")
    assert (hand.session.kind, len(hand.session.selected)) == (Kind.EDGE, 12)
    hand.act("mend-open")
    assert (mesh(hand).topology.edge_face_count == 2).all()
    hand.act("mend-ngons")
    assert mesh(hand).topology.sizes.max() == 4
    turn()
    acts = [b.property("act") for b in hand.window.route.panel.findChildren(QPushButton)]
    assert [a for a in acts if a and a.startswith(("see", "mend"))] == ["see-poles"]
    for _ in range(3):
        hand.session.undo()
    turn()
    assert hand.window.route.panel._told.text() == "body is sound: nothing was found."


def test_a_large_mesh_is_looked_over_while_the_window_goes_on(
    grid: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand, looked = grid, Event()

    def late(mesh: Mesh) -> tuple[Finding, ...]:
        looked.wait(20)
        return findings(mesh)

    monkeypatch.setattr(looking_over, "findings", late)
    fine = by_name("subdivide")(mesh(hand), levels=4).mesh
    open_ = by_name("delete")(fine, Selection(Kind.FACE, np.array([0], np.int32))).mesh
    hand.session.commit(with_item(hand.doc, hand.session.chosen[0], mesh=open_), "Open it")
    assert "being looked over" in card(hand).health.text()
    hand.window.commands.run("tool.health")
    assert "being looked over" in hand.window.route.panel._told.text()
    looked.set()
    hand.wait(lambda: "4 open edges" in card(hand).health.text())
    hand.act("see-open")
    assert (hand.session.kind, len(hand.session.selected)) == (Kind.EDGE, 4)


def test_several_meshes_become_one_and_one_several(grid: Hand) -> None:
    hand = grid
    doc, other = with_mesh(hand.session.committed, box((0, 0, 30), (50, 50, 90)), "lid")
    hand.session.commit(doc, "Add")
    body = hand.doc.meshes[0].id
    commands = hand.window.commands
    assert not commands["do.union"].action.isEnabled()
    hand.key(Qt.Key.Key_W)
    hand.session.choose((body,))
    hand.click(hand.at("elevation", (45, 0, 80)), Qt.KeyboardModifier.ShiftModifier)
    assert hand.session.chosen == (body, other)
    commands.run("do.union")
    assert [m.name for m in hand.doc.meshes] == ["body"]
    assert hand.session.chosen == (body,)
    hand.session.undo()
    hand.session.choose((body, other))
    commands.run("do.join")
    commands.run("do.separate")
    assert "All faces are chosen" in hand.notice()
    hand.session.select(Kind.FACE, np.arange(6, dtype=np.int32))
    commands.run("do.separate")
    assert [m.mesh.topology.face_count for m in hand.doc.meshes] == [54, 6]
    assert hand.doc.meshes[1].name == "body 2"


def test_selecting_makes_no_step_and_its_numbers_stay_open(grid: Hand) -> None:
    hand = grid
    steps = len(hand.session.history.steps)
    hand.window.commands.run("do.sharp")
    assert (hand.session.kind, len(hand.session.selected)) == (Kind.EDGE, 36)
    slip = hand.window.route.slip
    assert slip.isVisible()
    field = next(f.edit for f in slip.panel.fields if f.edit.accessibleName() == "Least")
    hand.type_into(field, "95")
    assert field.property("wrong")
    assert len(hand.session.history.steps) == steps
    hand.window.commands.run("do.loop")
    assert not slip.isVisible(), "it asks for nothing"


def test_the_steps_done_so_far_are_a_list_to_go_back_and_forth_in(grid: Hand) -> None:
    hand = grid
    for name in ("do.subdivide", "do.flip", "do.triangulate"):
        hand.window.commands.run(name)
    hand.window.commands.run("ledger")
    ledger = hand.window.ledger
    ledger.turn_to("steps")
    words = [
        ledger.tables["steps"].item(row, 1).text()
        for row in range(ledger.tables["steps"].rowCount())
    ]
    assert words == ["Triangles", "Turn over", "Subdivide 1", "as it was opened"]
    ledger.tables["steps"].chosen.emit("0")
    assert mesh(hand).topology.face_count == 54
    assert ledger.tables["steps"].item(0, 1).text() == "Triangles  (undone)"
    ledger.tables["steps"].chosen.emit("3")
    assert (mesh(hand).topology.sizes == 3).all()
    hand.session.go_to(99)
    assert hand.session.history.at == 3


def test_what_a_step_leaves_is_told_and_shown(grid: Hand) -> None:
    hand = grid
    corner = by_name("bevel").made(width=4.0, segments=3)
    hand.session.select(Kind.EDGE, selected(mesh(hand), "edges:sharp=30").indices)
    hand.window.operating.do(by_name("bevel"), corner)
    turn()
    slip = hand.window.route.slip
    assert "8 faces of more than four corners" in slip.panel._told.text()
    show = next(b for b in slip.panel.findChildren(QPushButton) if b.property("act") == "show")
    QTest.mouseClick(show, Qt.MouseButton.LeftButton)
    assert hand.session.kind is Kind.FACE
    assert (mesh(hand).topology.sizes[hand.session.selected] > 4).all()
    assert len(hand.session.selected) == 8


def test_a_version_is_kept_and_returned_to_by_its_card(grid: Hand) -> None:
    hand = grid
    before = mesh(hand)
    hand.key(Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    hand.window.commands.run("do.subdivide")
    turn()
    card_ = next(iter(hand.window.tray.findChildren(VersionCard)))
    assert card_.badge.text() == "Version of body"
    QTest.mouseClick(card_.back, Qt.MouseButton.LeftButton)
    assert mesh(hand) is before
    assert hand.session.history.undo_label == "Return to body, version 1"
    hand.session.undo()
    assert mesh(hand).topology.face_count == 54 * 4


def test_points_snap_to_middles_and_edges_and_ctrl_lets_go(grid: Hand) -> None:
    hand = grid
    doc, _ = with_mesh(hand.session.committed, box((60, -5, 0), (80, 5, 60)), "post")
    hand.session.commit(doc, "Add")
    hand.board.fit_all()
    for name in ("grid", "ink"):
        if name in hand.window.workbench.snaps:
            hand.window.workbench.toggle_snap(name)
    if "vertex" not in hand.window.workbench.snaps:
        hand.window.workbench.toggle_snap("vertex")
    kind(hand, "vertex")
    hand.session.choose((hand.doc.meshes[0].id,))
    begin = hand.at("elevation", (30, -30, 60))
    for end, x, z in (((60.6, 0, 31), 60, 30), ((60.6, 0, 14), 60, None)):
        hand.drag(begin, hand.at("elevation", end))
        top = mesh(hand).positions[np.argmax(mesh(hand).positions[:, 0])]
        assert top[0] == pytest.approx(x)
        if z is not None:
            assert top[2] == pytest.approx(z), "the middle catches"
        hand.session.undo()
    # Held while it is dragged, Control lets go.
    end = hand.at("elevation", (62, 0, 31))
    hand.point(begin)
    QTest.mousePress(hand.board, Qt.MouseButton.LeftButton, NONE, begin)
    for spot in ((begin + end) / 2, end):
        over(hand.board, spot, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier)
        turn()
    QTest.mouseRelease(hand.board, Qt.MouseButton.LeftButton, NONE, end)
    assert mesh(hand).positions[:, 0].max() == pytest.approx(62, abs=0.8)


def test_knots_of_a_lattice_are_dragged_and_stay_to_be_changed(grid: Hand) -> None:
    hand = grid
    hand.window.commands.run("tool.lattice")
    steps = len(hand.session.history.steps)
    seen: list[float] = []
    hand.drag(
        hand.at("elevation", (30, -30, 60)),
        hand.at("elevation", (30, -30, 75)),
        before_release=lambda: seen.append(float(mesh(hand).bounds[1, 2])),
    )
    assert seen[0] > 70, "it is shown while it is dragged"
    assert mesh(hand).bounds[1, 2] == pytest.approx(75, abs=1)
    low = mesh(hand).positions[mesh(hand).positions[:, 0] < -29]
    assert low[:, 2].max() == pytest.approx(60), "the far side stays"
    hand.drag(hand.at("elevation", (-30, -30, 60)), hand.at("elevation", (-30, -30, 75)))
    assert len(hand.session.history.steps) == steps + 1, "still one step"
    assert mesh(hand).positions[:, 0].min() == pytest.approx(-30)
    hand.key(Qt.Key.Key_Return)
    hand.drag(hand.at("elevation", (30, -30, 75)), hand.at("elevation", (40, -30, 75)))
    assert len(hand.session.history.steps) == steps + 2, "a new one"
    hand.session.undo()
    hand.session.undo()
    assert mesh(hand).bounds[1, 2] == pytest.approx(60)


def test_a_part_is_placed_by_points_matched_across_views(grid: Hand) -> None:
    hand = grid
    for name in ("grid", "ink"):
        if name in hand.window.workbench.snaps:
            hand.window.workbench.toggle_snap(name)
    hand.window.commands.run("tool.place-part")
    turn()
    before = mesh(hand).positions
    # A lower corner goes to the right and down; in the side view it is said how deep.
    hand.click(hand.at("elevation", (30, -30, 0)))
    hand.click(hand.at("elevation", (36, -30, 10)))
    assert hand.session.previewing
    hand.click(hand.at("side", (0, -10, 10)))
    hand.key(Qt.Key.Key_Return)
    assert hand.session.history.undo_label == "Place body"
    assert not hand.session.previewing
    by = mesh(hand).positions - before
    assert np.allclose(by, by[0], atol=1e-3), "one point moves it and does not turn it"
    assert by[0] == pytest.approx([6, 20, 10], abs=1.0)
    hand.click(hand.at("space", (0, 0, 30)))
    assert "look along an axis" in hand.notice()


@pytest.mark.parametrize("tool", ["to-the-ink", "cut-across", "lattice", "place-part", "cone"])
def test_whoever_asks_for_faces_gets_a_hand_that_selects_them(grid: Hand, tool: str) -> None:
    hand = grid
    hand.window.commands.run(f"tool.{tool}")
    hand.key(Qt.Key.Key_F)
    assert hand.board.tool is hand.window.tools["shape"]
    hand.click(hand.at("elevation", (0, -30, 30)))
    assert (hand.session.kind, len(hand.session.selected)) == (Kind.FACE, 1)
    hand.key(Qt.Key.Key_T)
    hand.key(Qt.Key.Key_V)
    assert hand.board.tool is hand.window.tools["extrude"], "this one works on what is selected"
