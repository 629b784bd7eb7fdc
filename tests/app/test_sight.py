"""Layout and sight as values: where panes lie and what they look at."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.app.board.canvas import device_box
from dimetron.app.board.layout import Layout, Rect
from dimetron.app.board.pointing import pointed_place, thrown_lines
from dimetron.app.board.sight import Sight
from dimetron.app.tools.slots import FLAT_SLOTS, SLOTS, SPACE
from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.geometry.views import Projection
from dimetron.render.scene import PaneScene, Shading, fitted_orbit, fitted_ortho

shares = st.floats(0.0, 1.0)
layouts = st.builds(
    Layout, st.sampled_from(Projection), st.tuples(st.floats(0.12, 0.88), st.floats(0.12, 0.88))
)
sizes = st.tuples(st.integers(300, 2000), st.integers(240, 1500))
boxes = st.tuples(
    st.tuples(*[st.floats(-3000, 3000)] * 3), st.tuples(*[st.floats(0.5, 4000)] * 3)
).map(lambda b: np.array([b[0], np.add(b[0], b[1])]))


@given(layouts, sizes)
def test_panes_cover_the_board_without_overlapping(layout: Layout, size: tuple[int, int]) -> None:
    w, h = size
    rects = layout.rects(w, h)
    assert set(rects) == set(SLOTS)
    for x in np.linspace(0.5, w - 0.5, 23):
        for y in np.linspace(0.5, h - 0.5, 17):
            covering = [s for s, r in rects.items() if r.contains(x, y)]
            assert len(covering) <= 1
            if not covering:
                split_x, split_y = round(w * layout.split[0]), round(h * layout.split[1])
                assert abs(x - split_x) <= 1 or abs(y - split_y) <= 1


@given(layouts, shares, shares)
def test_dragged_borders_leave_room_on_both_sides(layout: Layout, fx: float, fy: float) -> None:
    moved = layout.with_split(fx, fy)
    assert all(0.12 <= share <= 0.88 for share in moved.split)
    assert layout.with_split(None, fy).split[0] == layout.split[0]


@given(
    st.sampled_from(Projection),
    st.tuples(st.floats(1, 1e4), st.floats(1, 1e4), st.floats(1, 1e4)),
)
def test_borders_follow_the_object(
    projection: Projection, extents: tuple[float, float, float]
) -> None:
    layout = Layout(projection).proportioned(extents)
    width, depth, height = extents
    rects = layout.rects(1000, 1000)
    if width > depth:
        assert rects["elevation"].w >= rects["side"].w - 2
    if depth > height:
        assert rects["plan"].h >= rects["elevation"].h - 2
    assert all(0.4 <= share <= 0.6 for share in layout.split)


@given(layouts, sizes)
def test_panes_keep_their_size_in_the_other_arrangement(
    layout: Layout, size: tuple[int, int]
) -> None:
    other = layout.arranged(layout.projection.other)
    before, after = layout.rects(*size), other.rects(*size)
    for slot in SLOTS:
        assert after[slot].w == pytest.approx(before[slot].w, abs=2)
        assert after[slot].h == pytest.approx(before[slot].h, abs=2)
    assert other.arranged(layout.projection).split == pytest.approx(layout.split)
    assert layout.arranged(layout.projection) is layout


def test_the_grip_is_near_the_border_only() -> None:
    layout = Layout(split=(0.5, 0.25))
    assert layout.grip_at(502, 700, 1000, 800) == (True, False)
    assert layout.grip_at(500, 200, 1000, 800) == (True, True)
    assert layout.grip_at(100, 400, 1000, 800) == (False, False)
    assert replace(layout, full="plan").grip_at(500, 200, 1000, 800) == (False, False)


@given(boxes, layouts, sizes)
def test_fitting_shows_the_whole_box_in_every_pane(
    box: np.ndarray, layout: Layout, size: tuple[int, int]
) -> None:
    rects = layout.rects(*size)
    sight = Sight().fitted(box, box, rects)
    corners = np.array(np.meshgrid(*box.T)).reshape(3, -1).T
    for slot, rect in rects.items():
        px = sight.camera(slot, rect).project(corners)
        assert (px >= -1e-6).all()
        assert (px <= np.array([rect.w, rect.h]) + 1e-6).all()


@given(
    st.sampled_from(FLAT_SLOTS),
    st.tuples(st.floats(-80, 80), st.floats(-80, 80)),
    st.floats(0.25, 4),
    st.tuples(st.floats(5, 300), st.floats(5, 200)),
)
def test_zooming_and_panning_keep_the_panes_tied(
    slot: str, by: tuple[float, float], factor: float, at: tuple[float, float]
) -> None:
    rects = Layout().rects(900, 700)
    sight = Sight(focus=(4.0, 5.0, 6.0), mm_per_px=0.7)
    camera = sight.camera(slot, rects[slot])
    assert isinstance(camera, OrthoCamera)
    moved = sight.panned(slot, camera, by)
    point = camera.point_at(at)
    shifted = moved.camera(slot, rects[slot]).project(point) - camera.project(point)
    assert np.allclose(shifted, by, atol=1e-6)
    zoomed = moved.zoomed(slot, moved.camera(slot, rects[slot]), factor, at)
    feature = np.array([11.0, -3.0, 27.0])
    px = {s: zoomed.camera(s, rects[s]).project(feature) for s in FLAT_SLOTS}
    assert px["plan"][0] == pytest.approx(px["elevation"][0], abs=1e-6)
    assert px["side"][1] == pytest.approx(px["elevation"][1], abs=1e-6)


def scenes(sight: Sight, rects: dict[str, Rect]) -> dict[str, PaneScene]:
    return {
        slot: PaneScene(sight.camera(slot, rect), Shading.WIRE, (), (), 100.0)
        for slot, rect in rects.items()
    }


@pytest.mark.parametrize(
    ("slot", "other", "upright", "level"),
    [
        ("elevation", "plan", True, False),
        ("elevation", "side", False, True),
        ("plan", "side", True, False),
        ("side", "plan", False, True),
    ],
)
def test_each_shared_axis_throws_one_line(
    slot: str, other: str, upright: bool, level: bool
) -> None:
    rects = Layout().rects(900, 700)
    sight = Sight(focus=(0.0, 0.0, 0.0), mm_per_px=1.0)
    made = scenes(sight, rects)
    place = pointed_place(made[slot], slot, made[slot].camera.ray((40.0, 60.0)), None)
    assert place is not None
    thrown = thrown_lines(made, place)
    lines = thrown[other]
    assert len(lines) == upright + level
    point = made[slot].camera.point_at((40.0, 60.0))
    x, y = made[other].camera.project(point)
    if upright:
        assert np.allclose(lines[0][:, 0], x)
    if level:
        assert np.allclose(lines[-1][:, 1], y)
    assert slot not in thrown
    # In 3D the line of sight is seen, from end to end.
    ends = made[SPACE].camera.project(
        place.point + np.outer([-9, 9], place.way) - np.dot(place.point, place.way) * place.way
    )
    (line,) = thrown[SPACE]
    way, along = line[1] - line[0], ends[1] - ends[0]
    assert way[0] * along[1] - way[1] * along[0] == pytest.approx(0, abs=1e-6)


def test_nothing_in_3d_means_no_place() -> None:
    made = scenes(Sight(), Layout().rects(900, 700))
    assert pointed_place(made[SPACE], SPACE, made[SPACE].camera.ray((5.0, 5.0)), None) is None


def test_device_boxes_count_from_the_lower_left() -> None:
    assert device_box(Rect(10, 20, 100, 50), 2.0, 800) == (20, 660, 200, 100)


@given(boxes)
def test_single_cameras_fit_too(box: np.ndarray) -> None:
    from dimetron.geometry.views import View

    corners = np.array(np.meshgrid(*box.T)).reshape(3, -1).T
    for view in View:
        px = fitted_ortho(box, view, (300.0, 200.0)).project(corners)
        assert (px >= 0).all()
        assert (px <= [300, 200]).all()
    px = fitted_orbit(box, OrbitCamera(size=(300.0, 200.0))).project(corners)
    assert (px >= 0).all()
    assert (px <= [300, 200]).all()
