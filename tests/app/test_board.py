"""Looking: tied panes, projection lines, zoom, pan, borders, arrangement, what is redrawn."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from dimetron.app.board.layout import Layout
from dimetron.app.board.sight import Sight
from dimetron.app.tools.slots import FLAT_SLOTS
from dimetron.document.edits import slid, with_mesh
from dimetron.document.model import Document
from dimetron.document.naming import without
from dimetron.document.sizing import scaled_project
from dimetron.geometry.units import Unit, format_length
from dimetron.geometry.views import Projection, View
from dimetron.mesh.primitives import box
from dimetron.render.scene import Section, Shading
from tests.app.conftest import Hand

NONE = Qt.KeyboardModifier.NoModifier


def with_box(hand: Hand) -> str:
    doc, id_ = with_mesh(Document(), box((-50, -60, 0), (50, 60, 80)), "body")
    hand.session.open(doc, None)
    hand.board.fit_all()
    hand.settle()
    return id_


def wheel(hand: Hand, at: QPoint, notches: int) -> None:
    where = QPointF(at)
    event = QWheelEvent(
        where,
        QPointF(hand.board.mapToGlobal(at)),
        QPoint(),
        QPoint(0, 120 * notches),
        Qt.MouseButton.NoButton,
        NONE,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(hand.board, event)


@pytest.mark.parametrize("projection", Projection)
def test_features_run_straight_across_the_borders(projection: Projection) -> None:
    layout = Layout(projection)
    rects = layout.rects(900, 700)
    sight = Sight(focus=(3.0, -7.0, 40.0), mm_per_px=0.5)
    point = (20.0, 31.0, 55.0)
    px = {}
    for slot in FLAT_SLOTS:
        x, y = sight.camera(slot, rects[slot]).project(point)
        px[slot] = rects[slot].x + x, rects[slot].y + y
    assert px["plan"][0] == pytest.approx(px["elevation"][0])
    assert px["side"][1] == pytest.approx(px["elevation"][1])
    third = projection is Projection.THIRD_ANGLE
    assert (rects["plan"].y < rects["elevation"].y) == third
    assert (rects["side"].x > rects["elevation"].x) == third


def test_panning_one_pane_moves_its_neighbours_along_the_shared_axis(hand: Hand) -> None:
    with_box(hand)
    before = {slot: hand.at(slot, (0, 0, 0)) for slot in FLAT_SLOTS}
    start = hand.at("elevation", (0, 0, 40))
    hand.drag(start, start + QPoint(30, 20), Qt.MouseButton.RightButton)
    moved = {slot: hand.at(slot, (0, 0, 0)) - before[slot] for slot in FLAT_SLOTS}
    assert moved["elevation"] == QPoint(30, 20)
    assert moved["plan"] == QPoint(30, 0)
    assert moved["side"] == QPoint(0, 20)


def test_space_and_drag_pans_and_the_3d_pane_turns(hand: Hand) -> None:
    with_box(hand)
    start = hand.at("elevation", (0, 0, 40))
    before = hand.at("elevation", (0, 0, 0))
    QTest.keyPress(hand.board, Qt.Key.Key_Space)
    hand.drag(start, start + QPoint(25, 0))
    QTest.keyRelease(hand.board, Qt.Key.Key_Space)
    assert hand.at("elevation", (0, 0, 0)) - before == QPoint(25, 0)
    rect = hand.board.rects()["space"]
    corner = QPoint(int(rect.x + rect.w - 140), int(rect.y + rect.h - 40))
    orbit = hand.board.sight.orbit
    hand.drag(corner, corner + QPoint(50, 0))
    assert hand.board.sight.orbit.azimuth_deg == pytest.approx(orbit.azimuth_deg - 20)
    hand.drag(corner, corner + QPoint(0, 30), Qt.MouseButton.RightButton)
    assert hand.board.sight.orbit.target != orbit.target


def test_the_wheel_zooms_at_the_pointer_down_to_a_hair_on_three_metres(hand: Hand) -> None:
    doc, _ = with_mesh(Document(), box((-1500, -1500, 0), (1500, 1500, 3000)), "big")
    hand.session.open(doc, None)
    hand.board.fit_all()
    at = hand.at("elevation", (1500, 0, 3000))
    corner = hand.world("elevation", at)
    for _ in range(90):
        wheel(hand, at, 1)
    assert hand.board.sight.mm_per_px * 100 < 0.07
    assert np.allclose(hand.world("elevation", at), corner, atol=1e-6)
    hand.settle()
    for _ in range(90):
        wheel(hand, at, -1)
    assert np.allclose(hand.world("elevation", at), corner, atol=1e-6)


def test_the_pointer_throws_projection_lines_into_the_other_flat_panes(hand: Hand) -> None:
    with_box(hand)
    hand.board.show_grid = False
    rects = hand.board.rects()
    spot = hand.at("elevation", (30, 0, 60))
    hand.point(QPoint(int(rects["space"].x + 50), int(rects["space"].y + 50)))
    without = hand.picture()
    hand.point(spot)
    seen = hand.picture()
    changed = np.abs(seen - without).max(axis=2) > 25
    plan, side = rects["plan"], rects["side"]
    down = slice(int(plan.y) + 40, int(plan.y + plan.h) - 5)
    across = slice(int(side.x) + 5, int(side.x + side.w) - 5)
    # Dashed lines: about half of their length is drawn.
    assert changed[down, spot.x() - 1 : spot.x() + 2].any(axis=1).mean() > 0.4
    assert changed[spot.y() - 1 : spot.y() + 2, across].any(axis=0).mean() > 0.4


def test_software_frames_are_drawn_smooth_once_things_rest(hand: Hand) -> None:
    with_box(hand)
    if not hand.board.canvas.software:
        pytest.skip("a graphics card draws smooth at once")
    orbit = hand.board.sight.orbit.turned(17, 5)
    hand.board.look(replace(hand.board.sight, orbit=orbit))
    hand.board.repaint()
    rough = hand.board.grabFramebuffer()
    hand.wait(lambda: not hand.board._rest.isActive())
    smooth = hand.board.grabFramebuffer()

    def shades(image: object) -> int:
        rect = hand.board.rects()["space"]
        part = image.copy(int(rect.x), int(rect.y), int(rect.w), int(rect.h))
        return len(
            {part.pixel(x, y) for x in range(part.width()) for y in range(0, part.height(), 4)}
        )

    assert shades(smooth) > shades(rough)


def test_what_is_deleted_leaves_no_buffers_behind(hand: Hand) -> None:
    body = with_box(hand)
    meshes = hand.board.canvas.renderer.meshes
    assert body in meshes.held
    hand.session.commit(without(hand.doc, (body,)), "Delete")
    hand.wait(lambda: not meshes.held)


def test_pictures_that_arrive_one_by_one_are_drawn_together(
    hand: Hand, monkeypatch: pytest.MonkeyPatch
) -> None:
    canvas, pictures = hand.board.canvas, hand.window.pictures
    hand.wait(lambda: not hand.board._rest.isActive())
    frames = []

    def slow(*args: object) -> bool:
        canvas.panes_drawn += 1
        frames.append(time.monotonic())
        time.sleep(0.1)
        return False

    monkeypatch.setattr(canvas, "draw", slow)
    hand.board.update()
    hand.wait(lambda: len(frames) == 1)
    for _ in range(40):
        last = time.monotonic()
        pictures.ready.emit(None)
        QTest.qWait(20)
    # A tenth of a second each, and three of that to wait.
    assert 2 <= len(frames) <= 2 + (time.monotonic() - frames[0]) / 0.4
    # What came last is shown, whenever its turn comes.
    hand.wait(lambda: frames[-1] > last)


def test_only_panes_that_changed_are_drawn_again(hand: Hand, three: list[Path]) -> None:
    # Every frame smooth, and none of the first ones still to be smoothed.
    hand.board.drafts = False
    with_box(hand)
    hand.wait(lambda: not hand.board._rest.isActive())
    canvas = hand.board.canvas
    hand.settle()
    drawn = canvas.panes_drawn
    hand.point(hand.at("elevation", (10, 0, 10)))
    hand.settle()
    assert canvas.panes_drawn == drawn, "pointing draws no pane"
    hand.board.look(hand.board.sight.with_shading("side", Shading.WIRE))
    hand.settle()
    assert canvas.panes_drawn == drawn + 1
    orbit = hand.board.sight.orbit.turned(10, 0)
    hand.board.look(replace(hand.board.sight, orbit=orbit))
    hand.settle()
    assert canvas.panes_drawn == drawn + 2
    rect = hand.board.rects()["side"]
    hand.drop([three[0]], QPoint(int(rect.x + 50), int(rect.y + 50)))
    hand.wait(lambda: len(hand.doc.drawings) == 1)
    hand.session.choose(())
    hand.settle()
    before = canvas.panes_drawn
    hand.key(Qt.Key.Key_Right)
    hand.session.choose((hand.doc.drawings[0].id,))
    hand.settle()
    settled = canvas.panes_drawn
    hand.key(Qt.Key.Key_Right)
    hand.settle()
    # Nudging a drawing of the right view: that pane and the 3D pane.
    assert canvas.panes_drawn == settled + 2
    assert before <= settled


def test_one_pane_fills_the_board_and_back(hand: Hand) -> None:
    with_box(hand)
    hand.point(hand.at("plan", (0, 0, 0)))
    hand.key(Qt.Key.Key_O)
    assert set(hand.board.rects()) == {"plan"}
    assert hand.board.rects()["plan"].w == hand.board.width()
    hand.settle()
    hand.key(Qt.Key.Key_O)
    assert len(hand.board.rects()) == 4


def test_borders_are_dragged(hand: Hand) -> None:
    with_box(hand)
    fx, fy = hand.board.layout_.split
    at = QPoint(round(hand.board.width() * fx), round(hand.board.height() * fy))
    hand.drag(at, at + QPoint(60, -40))
    moved = hand.board.layout_.split
    assert moved[0] == pytest.approx(fx + 60 / hand.board.width(), abs=0.005)
    assert moved[1] == pytest.approx(fy - 40 / hand.board.height(), abs=0.005)
    hand.drag(at + QPoint(60, -40), QPoint(2, at.y() - 40))
    assert hand.board.layout_.split[0] >= 0.12


def test_first_angle_on_a_click_and_as_a_step_to_undo(hand: Hand) -> None:
    with_box(hand)
    QTest.mouseClick(hand.window.title_block.symbol, Qt.MouseButton.LeftButton)
    assert hand.doc.projection is Projection.FIRST_ANGLE
    rects = hand.board.rects()
    assert rects["plan"].y > rects["elevation"].y
    hand.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert hand.board.layout_.projection is Projection.THIRD_ANGLE


def test_the_title_block_tells_where_the_pointer_is(hand: Hand) -> None:
    with_box(hand)
    at = hand.at("elevation", (50, 0, 80))
    hand.point(at)
    x, _, z = hand.world("elevation", at)
    shown = hand.window.title_block.pointer.text().split()
    told = f"X {format_length(x, Unit.MM)} Z {format_length(z, Unit.MM)}"
    assert shown == told.split()
    hand.window.commands.run("unit.in")
    hand.point(at + QPoint(1, 0))
    assert '"' in hand.window.title_block.pointer.text()
    assert np.allclose(hand.doc.meshes[0].mesh.bounds, [(-50, -60, 0), (50, 60, 80)])


def test_panes_show_the_opposite_view_and_every_shading(hand: Hand) -> None:
    with_box(hand)
    hand.board.look(hand.board.sight.with_view("elevation", View.BACK))
    hand.settle()
    assert hand.window.pane_controls.names["elevation"].name.text() == "Back"
    hand.point(hand.at("elevation", (0, 0, 40)))
    looks = set()
    for _ in Shading:
        hand.key(Qt.Key.Key_Q)
        looks.add(hand.board.sight.shading["elevation"])
        hand.settle()
    assert looks == set(Shading)


def test_perspective_grid_and_theme_are_remembered(hand: Hand) -> None:
    window = hand.window
    hand.key(Qt.Key.Key_C)
    hand.key(Qt.Key.Key_G)
    hand.key(Qt.Key.Key_N)
    hand.settle()
    assert window.theme.name == "night"
    from dimetron.app.shell.window import Window
    from dimetron.app.work.settings import Settings

    other = Window(Settings())
    assert other.board.sight.orbit.perspective
    assert not other.board.show_grid
    assert other.theme.name == "night"
    other.switch_theme()
    other.files.close()
    other.deleteLater()


def test_nothing_is_smaller_than_eleven_pixels_and_text_contrasts(hand: Hand) -> None:
    from dimetron.app.kit.theme import DAY_CHROME, NIGHT_CHROME

    def luminance(code: str) -> float:
        parts = [int(code[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    def contrast(a: str, b: str) -> float:
        low, high = sorted((luminance(a), luminance(b)))
        return (high + 0.05) / (low + 0.05)

    for chrome in (DAY_CHROME, NIGHT_CHROME):
        for ground in (chrome.film, chrome.panel, chrome.field, chrome.hover):
            for text in (chrome.ink, chrome.soft_ink, chrome.warning):
                assert contrast(text, ground) >= 4.5, (text, ground)
        assert contrast(chrome.on_accent, chrome.accent) >= 4.5
        assert contrast(chrome.ink, chrome.selection_wash) >= 4.5
        assert contrast(chrome.warning, chrome.warning_wash) >= 4.5
    for label in hand.window.findChildren(type(hand.window.project_name)):
        size = label.font().pixelSize()
        assert size == -1 or size >= 11


def resized(hand: Hand, factor: float) -> None:
    hand.session.commit(scaled_project(hand.session.committed, factor), "size")
    hand.settle()


def test_who_sees_everything_sees_it_again_when_it_became_larger_or_smaller(hand: Hand) -> None:
    with_box(hand)
    fitted = hand.board.sight.mm_per_px
    resized(hand, 10.0)
    assert hand.board.sight.mm_per_px == pytest.approx(10 * fitted, rel=1e-6)
    resized(hand, 0.02)
    assert hand.board.sight.mm_per_px == pytest.approx(0.2 * fitted, rel=1e-6)
    # Undone, too; and a little larger needs no other look.
    hand.session.undo()
    assert hand.board.sight.mm_per_px == pytest.approx(10 * fitted, rel=1e-6)
    before = hand.board.sight
    resized(hand, 1.04)
    assert hand.board.sight is before


def test_who_looks_at_a_part_is_not_disturbed(hand: Hand) -> None:
    with_box(hand)
    hand.point(hand.at("elevation", (30, 0, 60)))
    hand.board.zoom(6.0)
    before = hand.board.sight
    resized(hand, 3.0)
    resized(hand, 0.1)
    assert hand.board.sight is before


def test_what_goes_does_not_change_the_look(hand: Hand) -> None:
    body = with_box(hand)
    doc, _ = with_mesh(hand.doc, box((0, 0, 0), (10, 10, 10)), "small")
    hand.session.commit(doc, "add")
    before = hand.board.sight
    hand.session.commit(without(hand.doc, (body,)), "delete")
    assert hand.board.sight is before


def test_a_new_project_begins_with_the_board_of_one(hand: Hand) -> None:
    with_box(hand)
    hand.board.look(
        replace(hand.board.sight, section=Section((0.0, 0.0, 1.0), 20.0)).with_view(
            "plan", View.BOTTOM
        )
    )
    hand.board.toggle_full("side")
    hand.window.commands.run("perspective")
    hand.session.mark_saved(hand.session.committed, Path("x"))
    hand.window.files.begin(Document())
    sight = hand.board.sight
    assert sight.section is None and sight.views["plan"] is View.TOP
    assert hand.board.layout_.full is None and sight.orbit.perspective
    # There is nothing to go back to.
    assert not hand.board.look_back()


def test_what_is_slid_a_little_out_of_sight_does_not_change_the_look_and_far_does(
    hand: Hand, three: list[Path]
) -> None:
    for number, path in enumerate((three[0], three[1])):
        hand.drop([path], hand.at("elevation", (0, 0, 20)))
        hand.wait(lambda number=number: len(hand.doc.drawings) == number + 1)
    hand.board.fit_all()
    front, before = hand.doc.drawings[0].id, hand.board.sight
    wide = 40 * before.mm_per_px
    hand.session.commit(slid(hand.doc, front, (wide, 0.0)), "slide")
    assert hand.board.sight is before
    hand.session.undo()
    hand.session.commit(slid(hand.doc, front, (30 * wide, 0.0)), "slide far")
    assert hand.board.sight.focus != before.focus
