"""The Place station through the window: handles, typed formulas, alignment, auxiliary views,
points matched, sections, snapshots."""

from __future__ import annotations

import io
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from dimetron.document import aligning, edits, formulas, placing, preparing, registering
from dimetron.document.edits import with_mesh
from dimetron.document.model import Document, source_from, with_item
from dimetron.document.placing import pivots
from dimetron.geometry.views import Auxiliary, View
from dimetron.imaging.frame import Crop
from dimetron.mesh.primitives import box
from dimetron.render.overlays import Strokes
from dimetron.render.scene import Section
from tests.app.conftest import Hand, picture_file
from tests.document.test_edits import picture

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier


@pytest.fixture
def placed(hand: Hand, tmp_path: Path) -> tuple[str, str, str]:
    """Front and side drawings with a frame of ink, and a box between them."""
    doc = Document()
    ids = []
    for name, view in (("front", View.FRONT), ("side", View.RIGHT)):
        data = picture_file(tmp_path, f"{name}.png").read_bytes()
        source = source_from(data, f"{name}.png", "png", (240, 160), 1.0)
        doc, id_ = edits.with_drawing(doc, source, view)
        ids.append(id_)
    doc, body = with_mesh(doc, box((-40, -30, 0), (40, 30, 90)), "body")
    hand.session.open(doc, None)
    hand.window.pictures.follow(doc)
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.window.navigation.take("arrange")
    hand.board.fit_all()
    hand.settle()
    return ids[0], ids[1], body


def corner(hand: Hand, id_: str, name: str) -> QPoint:
    drawing = hand.doc.drawing(id_)
    at = drawing.view.to_world(pivots(hand.doc, drawing)[name])
    slot = "elevation" if drawing.view is View.FRONT else "side"
    return hand.at(slot, tuple(at))


# Moving, sizing, turning by hand.


def test_corner_handles_size_about_the_opposite_corner(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, _, _ = placed
    hand.session.choose((front,))
    before = hand.doc.drawing(front).placement.corners((240, 160))
    hand.drag(corner(hand, front, "top-right"), corner(hand, front, "top-right") + QPoint(-30, 20))
    after = hand.doc.drawing(front).placement.corners((240, 160))
    assert np.allclose(after[3], before[3])
    sizes = np.ptp(after, axis=0)
    assert sizes[0] < 225
    assert sizes[0] / sizes[1] == pytest.approx(1.5)
    assert hand.session.history.undo_label == "Size front"


def test_an_edge_handle_stretches_only_what_is_released(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, _, _ = placed
    hand.session.choose((front,))
    hand.settle()
    top = corner(hand, front, "top")
    hand.drag(top, top + QPoint(0, 25), keys=CTRL)
    sizes = np.ptp(hand.doc.drawing(front).placement.corners((240, 160)), axis=0)
    assert sizes[0] == pytest.approx(240)
    assert sizes[1] < 150
    # Pulled through the opposite edge nothing would be left: the last sensible size stays.
    top = corner(hand, front, "top")
    hand.drag(top, corner(hand, front, "bottom") + QPoint(0, 30), keys=CTRL)
    assert np.ptp(hand.doc.drawing(front).placement.corners((240, 160))[:, 1]) > 0


def test_turning_handles_turn_about_the_pivot_in_steps_with_shift(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, _, _ = placed
    hand.session.choose((front,))
    hand.settle()
    spot = corner(hand, front, "top-right")
    middle = corner(hand, front, "centre")
    away = spot - middle
    grip = spot + QPoint(
        round(17 * away.x() / np.hypot(away.x(), away.y())),
        round(17 * away.y() / np.hypot(away.x(), away.y())),
    )
    centre = hand.doc.drawing(front).placement.centre((240, 160))
    hand.drag(grip, grip + QPoint(-26, -18), keys=SHIFT)
    placement = hand.doc.drawing(front).placement
    assert placement.rotation_deg == pytest.approx(15.0)
    assert np.allclose(placement.centre((240, 160)), centre)


def test_nudges_go_down_to_a_tenth_of_a_pixel_and_a_hundredth_of_a_degree(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, _, _ = placed
    hand.session.choose((front,))
    hand.board.setFocus()
    hand.key(Qt.Key.Key_Left, CTRL)
    assert hand.doc.drawing(front).placement.centre((240, 160))[0] == pytest.approx(-0.1)
    hand.key(Qt.Key.Key_Left, ALT)
    hand.key(Qt.Key.Key_Left, ALT | CTRL)
    assert hand.doc.drawing(front).placement.rotation_deg == pytest.approx(0.11)
    hand.key(Qt.Key.Key_Up, ALT)
    assert hand.doc.drawing(front).placement.size_mm((240, 160))[0] == pytest.approx(241)


def test_pictures_snap_to_axes_and_to_other_drawings(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    hand.window.workbench.toggle_snap("drawing")
    hand.window.workbench.toggle_snap("axis")
    doc = edits.slid(hand.session.committed, side, (0.0, 47.0))
    hand.session.commit(edits.slid(doc, front, (33.0, 0.0)), "move")
    start = corner(hand, front, "centre") + QPoint(0, 20)
    step = 1 / hand.board.sight.mm_per_px
    # Nearly onto the centreline, and its lower edge nearly level with that of the side view.
    hand.drag(start, start + QPoint(round(-33 * step) + 4, round(-47 * step) + 3))
    low, high = aligning.extent_on_paper(hand.doc, hand.doc.drawing(front))
    assert (low[0] + high[0]) / 2 == pytest.approx(0, abs=1e-9)
    assert low[1] == pytest.approx(47, abs=1e-9)


def test_an_edge_snaps_to_a_landmark_marked_in_another_drawing(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    px = hand.doc.drawing(side).placement.to_px((30.0, 63.0))
    doc = registering.marked(hand.session.committed, "rim", side, (float(px[0]), float(px[1])))
    hand.session.commit(doc, "mark")
    hand.window.workbench.toggle_snap("landmark")
    start = corner(hand, front, "centre") + QPoint(0, 20)
    step = 1 / hand.board.sight.mm_per_px
    hand.drag(start, start + QPoint(0, round(-63 * step) + 3))
    low, _ = aligning.extent_on_paper(hand.doc, hand.doc.drawing(front))
    assert low[1] == pytest.approx(63, abs=1e-6)


def test_typed_formulas_follow_and_circles_are_refused_in_place(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    hand.session.choose((side,))
    hand.type_into(hand.field("Depth"), "=front.width/2")
    assert edits.extent(hand.doc, side, 1) == pytest.approx(120)
    hand.session.choose((front,))
    hand.type_into(hand.field("Width"), "300")
    assert edits.extent(hand.doc, side, 1) == pytest.approx(150)
    field = hand.field("Width")
    hand.type_into(field, "=side.depth")
    assert field.property("wrong")
    assert edits.extent(hand.doc, front, 0) == pytest.approx(300)
    hand.session.choose((side,))
    assert hand.field("Depth").text() == "= 150 mm"
    card = hand.window.tray.cards[side]
    hand.type_into(card.width_edit, "0")
    assert card.width_edit.property("wrong")
    assert edits.extent(hand.doc, side, 1) == pytest.approx(150)


def test_a_number_follows_the_ink_of_a_drawing_and_goes_along_when_its_picture_changes(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    hand.session.choose((side,))
    hand.type_into(hand.field("Middle Z"), "=front.ink.bottom")

    def low() -> float:
        drawing = hand.doc.drawing(front)
        ink = {front: hand.window.workbench.ink(drawing)}
        return aligning.edge_of(hand.doc, drawing, "bottom", ink)

    def middle() -> float:
        return formulas.value_of(hand.doc, hand.doc.drawing(side), "z")

    drawing = hand.doc.drawing(front)
    assert aligning.edge_of(hand.doc, drawing, "bottom") + 1 < low() == pytest.approx(middle())
    w, h = hand.doc.size_px(drawing)
    upper = preparing.recropped(hand.session.committed, front, Crop(0, 0, w, h / 2))
    was = low()
    hand.session.commit(upper, "Crop")
    hand.wait(lambda: middle() > was + 5)
    assert low() == pytest.approx(middle())


def test_a_picked_point_stays_when_a_size_is_typed(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, _, _ = placed
    hand.session.choose((front,))
    tool = hand.window.tools["arrange"]
    tool.options()[1].choose("picked")
    spot = hand.at("elevation", (20, 0, 30))
    fixed = View.FRONT.to_plane(hand.world("elevation", spot))
    px = hand.doc.drawing(front).placement.to_px(fixed)
    hand.click(spot)
    hand.type_into(hand.field("Height"), "80")
    assert np.allclose(hand.doc.drawing(front).placement.to_plane(px), fixed)


def test_a_copied_placement_is_pasted_and_a_duplicate_keeps_it(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    hand.session.choose((front,))
    hand.type_into(hand.field("Turned"), "2.5")
    hand.key(Qt.Key.Key_C, CTRL)
    hand.session.choose((side,))
    hand.key(Qt.Key.Key_V, CTRL | SHIFT)
    assert hand.doc.drawing(side).placement.rotation_deg == pytest.approx(2.5)
    hand.session.choose((front,))
    hand.key(Qt.Key.Key_D, CTRL)
    (copy,) = hand.session.chosen
    assert hand.doc.drawing(copy).placement == hand.doc.drawing(front).placement


# Aligning and matching.


def test_align_grounds_and_centres_by_ink(hand: Hand, placed: tuple[str, str, str]) -> None:
    front, side, _ = placed
    doc = edits.slid(hand.session.committed, front, (13.0, 21.0))
    hand.session.commit(doc, "move")
    hand.key(Qt.Key.Key_J)
    hand.click(corner(hand, front, "centre"))
    hand.act("stand")
    hand.act("centre")
    ink = {front: (10.0, 10.0, 230.0, 150.0)}
    low, high = aligning.extent_on_paper(hand.doc, hand.doc.drawing(front), ink)
    assert low[1] == pytest.approx(0, abs=1e-6)
    assert low[0] == pytest.approx(-high[0])
    # A half-width is typed without a sign, whichever side it is.
    hand.window.tools["align"].options()[1].choose("left")
    hand.type_into(hand.field("Out to the left of the centreline"), "=side.depth/2")
    low, _ = aligning.extent_on_paper(hand.doc, hand.doc.drawing(front), ink)
    assert low[0] == pytest.approx(-120)
    # Level with another drawing, clicked in another pane.
    hand.window.tools["align"].options()[1].choose("top")
    hand.session.commit(edits.slid(hand.session.committed, side, (0, 55)), "move")
    hand.act("level")
    hand.click(corner(hand, side, "centre"))
    tops = [aligning.edge_of(hand.doc, hand.doc.drawing(i), "top") for i in (front, side)]
    assert tops[0] == pytest.approx(tops[1])


def test_a_card_matches_by_ink_and_takes_sizes_of_meshes(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    hand.session.choose((front,))
    menu = hand.window.tray.cards[front].match.menu()
    menu.aboutToShow.emit()
    next(a for a in menu.actions() if a.text() == "Height of body").trigger()
    ink = {front: (10.0, 10.0, 230.0, 150.0), side: (10.0, 10.0, 230.0, 150.0)}
    up = aligning.extent_on_paper(hand.doc, hand.doc.drawing(front), ink)[:, 1]
    assert up == pytest.approx([0, 90], abs=0.2)
    menu.aboutToShow.emit()
    next(a for a in menu.actions() if a.text() == "Height of side").trigger()
    mine, theirs = (
        aligning.extent_on_paper(hand.doc, hand.doc.drawing(i), ink)[:, 1] for i in (front, side)
    )
    assert mine == pytest.approx(theirs, abs=0.2)


def framed(hand: Hand, role: str) -> list[np.ndarray]:
    """Frames that lie over the board, as lowest and highest world corner."""
    lines = [m.points for m in hand.board.overlays() if isinstance(m, Strokes) and m.role == role]
    return [np.stack([p.min(axis=0), p.max(axis=0)]) for p in lines if len(p) == 5]


def test_the_ink_that_a_card_would_match_by_is_shown_before(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    front, side, _ = placed
    hand.window.navigation.take("mark")
    hand.session.choose((front,))
    menu = hand.window.tray.cards[front].match.menu()
    menu.aboutToShow.emit()
    boxes = {}
    for name in (front, side):
        drawing = hand.doc.drawing(name)
        ends = drawing.placement.to_plane([[10.0, 150.0], [230.0, 10.0]])
        boxes[name] = np.sort(drawing.view.to_world(ends), axis=0)
    assert not framed(hand, "selection")
    menu.setActiveAction(next(a for a in menu.actions() if a.text() == "Height of side"))
    assert np.allclose(framed(hand, "selection"), [boxes[front], boxes[side]], atol=0.2)
    menu.setActiveAction(next(a for a in menu.actions() if a.text() == "Scale of side"))
    assert not framed(hand, "selection")
    menu.setActiveAction(next(a for a in menu.actions() if a.text() == "Height of body"))
    assert np.allclose(framed(hand, "selection"), [boxes[front]], atol=0.2)
    menu.aboutToHide.emit()
    assert not framed(hand, "selection")


def test_faint_strokes_that_align_leaves_out_are_framed_and_told(hand: Hand) -> None:
    pixels = np.full((200, 300), 255, np.uint8)
    pixels[60:140, 100:104] = pixels[60:64, 100:200] = 20
    # A wing in pale pencil, far beyond the rest.
    pixels[100, 20:90] = 242
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    source = source_from(out.getvalue(), "glider.png", "png", (300, 200), 1.0)
    doc, id_ = edits.with_drawing(Document(), source, View.FRONT)
    hand.session.open(doc, None)
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.window.navigation.take("align")
    hand.session.choose((id_,))
    hand.settle()
    (wing,) = framed(hand, "warning")
    drawing = hand.doc.drawing(id_)
    assert drawing.placement.to_px(View.FRONT.to_plane(wing))[:, 0] == pytest.approx(
        [20, 90], abs=2
    )
    tool = hand.window.tools["align"]
    assert "Faint strokes of glider do not count" in tool.told()
    tool.options()[0].choose("picture")
    assert not framed(hand, "warning") and not tool.told()


def test_only_what_shows_the_height_is_grounded(hand: Hand, placed: tuple[str, str, str]) -> None:
    front, _, _ = placed
    doc, plan = edits.with_drawing(hand.session.committed, picture("plan.png"), View.TOP)
    doc = edits.slid(edits.slid(doc, front, (0.0, 9.0)), plan, (0.0, 30.0))
    hand.session.commit(doc, "move")
    hand.window.navigation.take("align")
    hand.window.tools["align"].options()[0].choose("picture")
    hand.session.choose((front, plan))
    hand.act("stand")
    assert hand.doc.drawing(plan) is doc.drawing(plan)
    assert aligning.edge_of(hand.doc, hand.doc.drawing(front), "bottom") == pytest.approx(0)
    hand.session.choose((plan,))
    hand.act("stand")
    assert hand.doc.drawing(plan) is doc.drawing(plan)
    assert "plan does not show the height" in hand.window.notices.words.text()


def test_two_points_are_matched_with_four_clicks(hand: Hand, placed: tuple[str, str, str]) -> None:
    front, _, _ = placed
    hand.key(Qt.Key.Key_M)
    before = hand.doc.drawing(front).placement
    points = [hand.at("elevation", p) for p in ((-60, 0, 40), (60, 0, 40))]
    targets = [hand.at("elevation", p) for p in ((-40, 0, 20), (40, 0, 25))]
    px = [before.to_px(View.FRONT.to_plane(hand.world("elevation", p))) for p in points]
    wanted = [View.FRONT.to_plane(hand.world("elevation", t)) for t in targets]
    hand.click(points[0])
    hand.click(targets[0])
    moved = hand.doc.drawing(front).placement
    second = moved.to_plane(px[1])
    hand.click(hand.at("elevation", tuple(View.FRONT.to_world(second))))
    hand.click(targets[1])
    after = hand.doc.drawing(front).placement
    assert np.allclose(after.to_plane(px[0]), wanted[0], atol=1e-6)
    assert np.allclose(after.to_plane(px[1]), wanted[1], atol=1.2)
    assert hand.session.history.undo_label == "Match two points of front"


# Auxiliary views.


def test_a_plane_is_tilted_about_a_hinge_and_worked_in_squarely(
    hand: Hand, placed: tuple[str, str, str], tmp_path: Path
) -> None:
    front, _, _ = placed
    hand.window.commands.run("tool.auxiliary")
    hand.click(hand.at("elevation", (-50, 0, 60)))
    hand.click(hand.at("elevation", (50, 0, 60)))
    (view,) = hand.doc.auxiliaries
    # Neither where it was picked nor where the hinge is seen end-on.
    assert hand.board.sight.views == {
        "plan": view, "elevation": View.FRONT, "side": View.RIGHT, "space": None
    }  # fmt: skip
    assert view.paper_axes[0] == 0
    hand.type_into(hand.field("Angle"), "50")
    (view,) = hand.doc.auxiliaries
    assert view.hinge is not None and view.hinge.angle_deg == pytest.approx(50)
    assert hand.board.sight.views["plan"] == view
    assert view.directions.forward @ View.FRONT.directions.forward == pytest.approx(
        np.cos(np.radians(50))
    )
    start = hand.at("elevation", (0, 0, 0))
    hand.drag(start, start + QPoint(0, -20))
    assert hand.doc.auxiliaries[0].hinge.angle_deg == pytest.approx(60)
    # Where the hinge is seen end-on the plane turns with the pointer round it.
    hand.drag(hand.at("side", (0, -40, 60)), hand.at("side", (0, 0, 20)))
    assert abs(hand.doc.auxiliaries[0].hinge.angle_deg - 60) == pytest.approx(90, abs=3)
    hand.type_into(hand.field("Angle"), "60")
    # A drawing is laid into it and moved there squarely.
    hand.session.choose((front,))
    hand.act("lay")
    drawing = hand.doc.drawing(front)
    assert isinstance(drawing.view, Auxiliary)
    hand.window.navigation.take("arrange")
    hand.board.fit_all()
    rect = hand.board.rects()["plan"]
    middle = QPoint(int(rect.x + rect.w / 2), int(rect.y + rect.h / 2))
    was = drawing.placement.anchor_mm
    hand.drag(middle, middle + QPoint(24, 0))
    now = hand.doc.drawing(front).placement.anchor_mm
    assert now[0] - was[0] == pytest.approx(24 * hand.board.sight.mm_per_px)
    assert now[1] == pytest.approx(was[1])
    # A picture dropped on its pane lies in its plane.
    hand.drop([picture_file(tmp_path, "detail.png")], middle)
    hand.wait(lambda: len(hand.doc.drawings) == 3 and not hand.window.bringer.active)
    assert hand.doc.drawings[-1].view == hand.doc.auxiliaries[0]


def test_a_slanted_hinge_stands_level_and_its_pane_is_given_back(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    hand.window.commands.run("tool.auxiliary")
    panes = dict(hand.board.sight.views)
    for y, z in ((-40, 20), (40, 60)):
        hand.click(hand.at("side", (0, y, z)), CTRL)
    (view,) = hand.doc.auxiliaries
    assert view.hinge is not None and abs(view.hinge.angle_deg) == 90
    assert hand.board.sight.views == {**panes, "plan": view}
    assert abs(view.directions.right @ np.array(view.hinge.way)) == pytest.approx(1)
    assert view.directions.forward[2] < 0
    # Another one takes the pane that is not needed for it; the first one's is given back.
    for z in (10, 90):
        hand.click(hand.at("elevation", (30, 0, z)), CTRL)
    other = hand.doc.auxiliaries[1]
    assert hand.board.sight.views == {**panes, "side": other}
    tool = hand.window.tools["auxiliary"]
    tool.options()[2].choose(view.id)
    assert hand.board.sight.views == {**panes, "plan": view}
    tool.options()[1].choose("space")
    assert hand.board.sight.views == {**panes, "space": view}
    hand.window.navigation.take("arrange")
    assert hand.board.sight.views == panes
    # One that is chosen for a pane stays until its button is pressed or it is removed.
    for end in ("button", "remove"):
        hand.board.look(hand.board.sight.with_view("elevation", other))
        hand.board.look(hand.board.sight.with_view("elevation", view))
        hand.window.navigation.take("align")
        hand.settle()
        back = hand.window.pane_controls.names["elevation"].back
        assert back.isVisible() and back.toolTip() == "Show Front here again"
        if end == "button":
            QTest.mouseClick(back, Qt.MouseButton.LeftButton)
        else:
            hand.session.commit(placing.without_auxiliary(hand.doc, view.id), "remove")
        assert hand.board.sight.views == panes
        hand.settle()
        assert not back.isVisible()


def test_a_view_square_to_three_points_or_a_face(hand: Hand, placed: tuple[str, str, str]) -> None:
    hand.window.commands.run("hold-all")
    hand.window.commands.run("tool.auxiliary")
    tool = hand.window.tools["auxiliary"]
    tool.options()[0].choose("points")
    for corner_ in ((-40, -30, 90), (40, -30, 90), (40, -30, 0)):
        hand.click(hand.at("space", corner_))
    # This plane is square to the front view, which is shown instead of a new one.
    assert "square to front" in hand.notice()
    assert hand.doc.auxiliaries == ()
    for corner_ in ((-40, -30, 0), (40, -30, 90), (40, 30, 90)):
        hand.click(hand.at("space", corner_))
    (view,) = hand.doc.auxiliaries
    assert np.allclose(
        np.array([[-40, -30, 0], [40, 30, 90]]) @ view.directions.forward, view.depth_mm
    )
    for _ in range(3):
        hand.click(hand.at("space", (40, -30, 90)))
    assert "lie in a line" in hand.notice()
    assert len(hand.doc.auxiliaries) == 1


# Sections and snapshots.


def test_a_section_cuts_what_is_seen_and_what_is_picked(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    hand.window.commands.run("hide-drawings")
    hand.window.commands.run("tool.section")
    hand.window.tools["section"].options()[0].choose("2")
    hand.type_into(hand.field("At Z"), "30")
    assert hand.board.sight.section == Section((0.0, 0.0, 1.0), 30.0)
    hand.point(hand.at("space", (0, 0, 200)))
    cut = hand.picture()
    hand.board.look(replace(hand.board.sight, section=None))
    whole = hand.picture()
    above = hand.at("elevation", (0, 0, 60))
    below = hand.at("elevation", (0, 0, 15))
    changed = np.abs(cut - whole).max(axis=2) > 12
    spot = slice(above.y() - 3, above.y() + 3), slice(above.x() + 5, above.x() + 12)
    assert changed[spot].all()
    kept = slice(below.y() - 3, below.y() + 3), slice(below.x() + 5, below.x() + 12)
    assert not changed[kept].any()


def test_a_cut_can_keep_the_other_side(hand: Hand, placed: tuple[str, str, str]) -> None:
    hand.window.navigation.take("section")
    hand.option("2")
    hand.type_into(hand.field("At Z"), "30")
    (switch,) = hand.window.tools["section"].switches()
    assert switch.name == "Keep the other side" and not switch.on
    switch.turn(True)
    section = hand.board.sight.section
    assert section is not None
    points = np.array([(0.0, 0.0, 10.0), (0.0, 0.0, 50.0)])
    assert section.keeps(points).tolist() == [False, True]
    hand.type_into(hand.field("At Z"), "60")
    assert hand.board.sight.section.keeps(points).tolist() == [False, False]


@pytest.mark.parametrize("how", ["silhouette", "lines", "shaded"])
def test_a_snapshot_is_a_drawing_placed_where_it_was_taken(
    hand: Hand, placed: tuple[str, str, str], how: str
) -> None:
    hand.point(hand.at("plan", (0, 0, 0)))
    hand.point(hand.at("elevation", (0, 0, 45)))
    before = len(hand.doc.drawings)
    hand.window.commands.run(f"snapshot.{how}")
    assert len(hand.doc.drawings) == before + 1
    drawing = hand.doc.drawings[-1]
    assert drawing.view is View.FRONT and drawing.name == f"front {how}"
    hand.wait(lambda: not hand.window.pictures.busy)
    box_px = hand.window.workbench.ink(drawing)
    assert box_px is not None
    low, high = aligning.extent_on_paper(hand.doc, drawing, {drawing.id: box_px})
    assert np.allclose([*low, *high], [-40, 0, 40, 90], atol=0.3)


def test_a_snapshot_of_the_3d_pane_brings_its_view_along(
    hand: Hand, placed: tuple[str, str, str]
) -> None:
    hand.point(hand.at("plan", (0, 0, 0)))
    hand.point(hand.at("space", (0, 0, 45)))
    forward = hand.board.sight.orbit.forward
    hand.window.commands.run("snapshot.lines")
    (view,) = hand.doc.auxiliaries
    assert np.allclose(view.directions.forward, forward)
    assert hand.doc.drawings[-1].view == view
    # Taken again from there it goes onto the same view, behind the mesh.
    hand.window.commands.run("snapshot.silhouette")
    assert hand.doc.auxiliaries == (view,)
    corners = edits.world_corners(hand.doc, hand.doc.drawings[-1])
    assert (corners @ forward).min() > (hand.doc.meshes[0].mesh.positions @ forward).max()
    empty = edits.without_item(hand.session.committed, placed[2])
    hand.session.commit(empty, "no mesh")
    hand.window.commands.run("snapshot.lines")
    assert len(hand.doc.drawings) == 4


def test_a_hundred_drawings_have_a_hundred_cards(hand: Hand) -> None:
    doc = Document()
    for number in range(100):
        doc, id_ = edits.with_drawing(doc, picture(f"{number}.png", (20, 10)), View.FRONT)
        doc = with_item(doc, id_, shown=number < 3)
    hand.session.open(doc, None)
    # Made a few at a time, so that the window goes on meanwhile.
    assert 0 < len(hand.window.tray.cards) < 100
    hand.wait(lambda: len(hand.window.tray.cards) == 100)
    boxes = [hand.window.tray.cards[d.id].geometry() for d in doc.drawings]
    assert all(a.bottom() < b.top() for a, b in pairwise(boxes)), "below each other"
    assert hand.window.tray.foot_words.text() == "97 hidden"
    QTest.mouseClick(hand.window.tray.show_all, Qt.MouseButton.LeftButton)
    assert all(d.shown for d in hand.doc.drawings)
    assert hand.window.tray.foot.isHidden()
    hand.settle()


def test_pictures_of_a_project_that_was_left_are_not_made(hand: Hand) -> None:
    doc = Document()
    for number in range(40):
        doc, _ = edits.with_drawing(doc, picture(f"{number}.png", (900, 600)), View.FRONT)
    hand.session.open(doc, None)
    assert hand.window.pictures.busy
    hand.session.open(Document(), None)
    hand.wait(lambda: not hand.window.pictures.busy)
    assert len(hand.window.pictures.pyramids) < 40
    # And when it comes back, all of them are, each of them once.
    made: list[object] = []
    hand.window.pictures.ready.connect(made.append)
    hand.session.open(doc, None)
    hand.session.open(Document(), None)
    hand.session.open(doc, None)
    hand.wait(lambda: len(hand.window.pictures.pyramids) == 40)
    hand.wait(lambda: not hand.window.pictures.busy)
    assert len(made) < 60


def test_the_list_of_sheets_is_there_when_it_is_shown(hand: Hand) -> None:
    doc = Document()
    for view in (View.FRONT, View.TOP):
        doc, _ = edits.with_drawing(doc, picture(f"{view.value}.png", (90, 60)), view)
    hand.session.open(doc, None)
    hand.window.navigation.open_station("prepare")
    # Two sheets, each with its drawing.
    assert hand.window.sheet_view.picker.count() == 4
