"""The board's panes: which, how tied, how they look, what they looked at, and pointing."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog, QPushButton

from dimetron.app.board import looks
from dimetron.app.board.layout import Layout
from dimetron.app.board.sight import Sight
from dimetron.app.tools.slots import ELEVATION, PLAN, SIDE, SLOTS, SPACE
from dimetron.document import placing
from dimetron.document.edits import with_mesh
from dimetron.geometry.views import Projection, View
from dimetron.mesh.primitives import box
from dimetron.render import compass
from dimetron.render.scene import Shading
from tests.app.conftest import Hand
from tests.document.test_edits import two_views
from tests.document.test_place import TILTED

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
some_slots = st.sets(st.sampled_from(SLOTS), min_size=1).map(tuple)
splits = st.tuples(st.floats(0.2, 0.8), st.floats(0.2, 0.8))


@given(some_slots, st.sampled_from(Projection), splits)
def test_any_panes_fill_the_board_without_overlapping(
    slots: tuple[str, ...], projection: Projection, split: tuple[float, float]
) -> None:
    layout = Layout(projection, split).with_slots(slots)
    rects = layout.rects(1000, 700)
    assert set(rects) == set(slots)
    area = sum(r.w * r.h for r in rects.values())
    # All but the borders.
    assert 1000 * 700 - 2 * (1000 + 700) <= area <= 1000 * 700
    for x, y in ((5, 5), (995, 5), (5, 695), (995, 695), (503.5, 351.5)):
        assert sum(r.contains(x, y) for r in rects.values()) <= 1


@given(splits, st.tuples(*[st.floats(-100, 100)] * 3))
def test_three_panes_stay_in_line_with_each_other(
    split: tuple[float, float], focus: tuple[float, float, float]
) -> None:
    layout = Layout(split=split).with_slots((PLAN, ELEVATION, SIDE))
    rects, homes = layout.rects(1000, 700), layout.homes(1000, 700)
    sight = Sight(focus=focus)
    point = np.array([12.0, -7.0, 31.0])
    at = {
        slot: sight.camera(slot, rects[slot], homes[slot]).project(point)
        + np.array(rects[slot][:2])
        for slot in rects
    }
    assert at[PLAN][0] == pytest.approx(at[ELEVATION][0])
    assert at[SIDE][1] == pytest.approx(at[ELEVATION][1])


@given(st.sampled_from((0, 1, 2)), st.tuples(*[st.floats(-200, 200)] * 2))
def test_an_untied_axis_leaves_the_other_panes_alone_until_it_is_tied(
    axis: int, by: tuple[float, float]
) -> None:
    rects = Layout().rects(1000, 700)
    free = Sight().with_tie(axis, False)
    camera = free.camera(ELEVATION, rects[ELEVATION])
    moved = free.panned(ELEVATION, camera, by)
    tied = Sight().panned(ELEVATION, camera, by)
    for slot in (PLAN, SIDE):
        now, plain = (s.camera(slot, rects[slot]) for s in (moved, tied))
        was = Sight().camera(slot, rects[slot])
        for a in range(3):
            wanted = was.focus[a] if a == axis else plain.focus[a]
            assert now.focus[a] == pytest.approx(wanted)
    assert moved.camera(ELEVATION, rects[ELEVATION]) == tied.camera(ELEVATION, rects[ELEVATION])
    again = moved.with_tie(axis, True)
    assert not again.strays


def test_an_untied_scale_zooms_one_pane_and_keeps_what_is_under_the_pointer() -> None:
    rects = Layout().rects(1000, 700)
    sight = Sight().with_scale_tie(False)
    camera = sight.camera(PLAN, rects[PLAN])
    zoomed = sight.zoomed(PLAN, camera, 3.0, (40.0, 60.0))
    after = zoomed.camera(PLAN, rects[PLAN])
    assert after.mm_per_px == pytest.approx(camera.mm_per_px / 3)
    assert np.allclose(after.point_at((40, 60)), camera.point_at((40, 60)))
    assert zoomed.camera(SIDE, rects[SIDE]).mm_per_px == sight.mm_per_px
    assert zoomed.with_scale_tie(True).scales == {}


def test_a_look_is_kept_with_its_views_and_comes_back_without_a_view_that_is_gone() -> None:
    doc, front, _ = two_views()
    doc = placing.with_auxiliary(doc, TILTED)
    sight = Sight().with_view(SIDE, TILTED).with_shading(PLAN, Shading.WIRE).with_opacity(PLAN, 0.3)
    layout = Layout().with_slots((PLAN, SIDE))
    look = looks.saved(doc, sight, layout, 1)
    doc = looks.with_look(doc, look)
    back, laid = looks.recalled(look, doc, Sight(focus=(9.0, 9.0, 9.0)), Layout())
    assert (back.views, back.shading, back.focus) == (sight.views, sight.shading, sight.focus)
    assert laid.slots == (PLAN, SIDE)
    gone = placing.without_auxiliary(doc, TILTED.id)
    assert looks.recalled(look, gone, Sight(), Layout())[0].views[SIDE] is View.RIGHT
    hidden = replace(doc, drawings=tuple(replace(d, shown=False) for d in doc.drawings))
    assert looks.with_shown(hidden, look).drawing(front).shown


# Through the window.


@pytest.fixture
def body(hand: Hand) -> str:
    doc, _, _ = two_views()
    doc, id_ = with_mesh(doc, box((-40, -30, 0), (40, 30, 90)), "body")
    hand.session.open(doc, None)
    hand.board.fit_all()
    hand.settle()
    return id_


def test_arrangements_step_and_the_names_follow(hand: Hand, body: str) -> None:
    names = hand.window.pane_controls.names
    hand.key(Qt.Key.Key_O, SHIFT)
    assert set(hand.board.rects()) == {PLAN, ELEVATION, SIDE}
    assert names[SPACE].isHidden()
    hand.key(Qt.Key.Key_O, SHIFT)
    assert set(hand.board.rects()) == {ELEVATION, SPACE}
    hand.window.commands.run("panes.plan-side")
    assert set(hand.board.rects()) == {PLAN, SIDE}
    hand.settle()
    hand.key(Qt.Key.Key_O, SHIFT)
    assert set(hand.board.rects()) == set(SLOTS)


def test_looks_are_kept_and_recalled_by_key_also_while_turning(
    hand: Hand, body: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    hand.key(Qt.Key.Key_1, CTRL | SHIFT)
    kept = hand.board.sight
    start = hand.at(SPACE, (0, 0, 45)) + QPoint(120, 60)
    hand.drag(
        start,
        start + QPoint(80, 30),
        Qt.MouseButton.MiddleButton,
        before_release=lambda: hand.key(Qt.Key.Key_1, CTRL),
    )
    assert hand.board.sight.orbit.azimuth_deg == pytest.approx(kept.orbit.azimuth_deg)
    assert hand.doc.looks[0].name == "look 1"
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("spout, close", True))
    hand.window.notices.findChildren(QPushButton)[0].click()
    assert hand.window.commands["look.1"].action.text() == "Look 1: spout, close"
    hand.key(Qt.Key.Key_1, CTRL | SHIFT)
    assert [look.name for look in hand.doc.looks] == ["spout, close"]
    assert not hand.window.commands["look.2"].action.isEnabled()


def test_backspace_goes_back_to_what_was_looked_at(hand: Hand, body: str) -> None:
    before = hand.board.sight
    QTest.qWait(750)
    start = hand.at(PLAN, (0, 0, 0))
    hand.drag(start, start + QPoint(40, 10), Qt.MouseButton.RightButton)
    assert hand.board.sight.focus != before.focus
    hand.board.setFocus()
    hand.key(Qt.Key.Key_Backspace)
    assert hand.board.sight.focus == before.focus


def test_the_orientation_mark_turns_the_3d_view(hand: Hand, body: str) -> None:
    camera = hand.board.camera(SPACE)
    rect = hand.board.rects()[SPACE]
    knobs = compass.knobs(camera)
    at = QPoint(round(rect.x + knobs["top"][0]), round(rect.y + knobs["top"][1]))
    hand.click(at)
    assert hand.board.sight.orbit.elevation_deg == pytest.approx(90, abs=1.0)


def test_pointing_shows_the_same_place_in_every_pane(hand: Hand, body: str) -> None:
    def on_surface() -> bool:
        place = hand.board.place()
        return place is not None and place.way is None

    hand.point(hand.at(ELEVATION, (10, 0, 50)))
    # The meshes are asked what lies under the pointer once things rest.
    hand.wait(on_surface)
    place = hand.board.place()
    assert place is not None
    assert place.point[1] == pytest.approx(-30, abs=0.5)
    hand.point(hand.at(ELEVATION, (80, 0, 50)))
    hand.settle()
    place = hand.board.place()
    assert place is not None and place.way is not None
    assert np.allclose(np.abs(place.way), (0, 1, 0))
    assert place.on_drawings[0][0] == pytest.approx(80, abs=0.6)


def test_panning_redraws_only_panes_that_are_tied(hand: Hand, body: str) -> None:
    def panned() -> list[str]:
        known = hand.board.scenes()
        start = hand.at(ELEVATION, (70, 0, 80))
        hand.drag(start, start + QPoint(0, 9), Qt.MouseButton.RightButton)
        now = hand.board.scenes()
        return [slot for slot in SLOTS if now[slot] is not known[slot]]

    # A picture that comes meanwhile is another scene, too.
    hand.wait(lambda: not hand.window.pictures.busy)
    hand.settle()
    # Straight up: the plan shows no height, the 3D pane is not tied.
    assert panned() == [ELEVATION, SIDE]
    hand.window.commands.run("tie.z")
    assert panned() == [ELEVATION]


def test_all_drawings_or_all_else_go_and_come_back_by_one_key(hand: Hand, body: str) -> None:
    hand.key(Qt.Key.Key_D, SHIFT)
    assert all(not scene.planes for scene in hand.board.scenes().values())
    assert "drawings hidden" in hand.window.pane_controls.names[PLAN].look.text()
    hand.key(Qt.Key.Key_D, SHIFT)
    hand.key(Qt.Key.Key_B, SHIFT)
    scenes = hand.board.scenes()
    assert all(not scene.meshes for scene in scenes.values())
    assert scenes[ELEVATION].planes
    hand.key(Qt.Key.Key_B, SHIFT)
    hand.key(Qt.Key.Key_I)
    assert {d.opacity for d in hand.doc.drawings} == {0.55}


def test_each_pane_has_its_own_shading_fade_and_grid(hand: Hand, body: str) -> None:
    menu = hand.window.pane_controls.names[PLAN].look.menu()
    menu.aboutToShow.emit()
    titles = [a.text() for a in menu.actions()]
    for shading in Shading:
        assert shading.value in titles
    for title in ("silhouette", "drawings faint", "grid in this pane"):
        menu.aboutToShow.emit()
        next(a for a in menu.actions() if a.text() == title).trigger()
    scenes = hand.board.scenes()
    assert scenes[PLAN].shading is Shading.SILHOUETTE and not scenes[PLAN].grid
    assert scenes[ELEVATION].shading is not Shading.SILHOUETTE and scenes[ELEVATION].grid
    hand.window.commands.run("opacity.30")
    hand.window.commands.run("colour.rose")
    assert hand.board.scenes()[SIDE].mesh_look.colour == "rose"
    hand.settle()
