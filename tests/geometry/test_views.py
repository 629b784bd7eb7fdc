"""Auxiliary frames: tilted about a hinge, through three points, square to a face."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from dimetron.geometry import auxiliary
from dimetron.geometry.auxiliary import AuxiliaryError
from dimetron.geometry.views import Auxiliary, Hinge, View, shared_axes

angles = st.floats(-179, 179)
points = st.tuples(*[st.floats(-500, 500)] * 3)


def is_frame(view: Auxiliary | View) -> bool:
    axes = np.stack(view.directions)
    return bool(
        np.allclose(axes @ axes.T, np.eye(3), atol=1e-9)
        and np.allclose(np.cross(axes[1], axes[0]), axes[2], atol=1e-9)
    )


@given(st.sampled_from(View), angles, angles, points)
def test_a_tilted_view_keeps_its_hinge_and_turns_by_the_angle(
    base: View, tilt: float, way_deg: float, point: tuple[float, float, float]
) -> None:
    frame = base.directions
    way = np.cos(np.radians(way_deg)) * frame.right + np.sin(np.radians(way_deg)) * frame.up
    hinge = Hinge(base, point, tuple(float(w) for w in way), tilt)
    view = auxiliary.tilted("a", "tilted", hinge)
    assert is_frame(view)
    # The hinge lies in the plane, so it is seen at full length and across the line of sight.
    assert abs(view.directions.forward @ way) < 1e-9
    assert view.directions.forward @ frame.forward == pytest.approx(
        np.cos(np.radians(tilt)), abs=1e-9
    )
    assert view.through == point
    # It stands upright or lies level on the paper, and nothing is turned by more than half that.
    flat = np.abs([way @ view.directions.right, way @ view.directions.up])
    assert sorted(flat) == pytest.approx([0, 1], abs=1e-9)
    level = auxiliary.tilted_to(view, 0.0)
    assert level.directions.right @ frame.right > np.cos(np.radians(45.001))


@given(st.sampled_from(View), angles, angles, angles)
def test_a_view_that_is_tilted_on_is_as_if_tilted_at_once(
    base: View, tilt: float, further: float, way_deg: float
) -> None:
    frame = base.directions
    way = np.cos(np.radians(way_deg)) * frame.right + np.sin(np.radians(way_deg)) * frame.up
    hinge = Hinge(base, (1.0, 2.0, 3.0), tuple(float(w) for w in way), tilt)
    there = auxiliary.tilted_to(auxiliary.tilted("a", "t", hinge), further)
    at_once = auxiliary.tilted("a", "t", replace(hinge, angle_deg=further))
    assert there.hinge == at_once.hinge
    assert auxiliary.looks_like(there.directions, at_once.directions, 1e-9)


@pytest.mark.parametrize(
    ("base", "way", "angle"),
    [
        (View.RIGHT, (0, 1, 0), 30),
        (View.RIGHT, (0, 0, -1), 30),
        (View.RIGHT, (0, 1, 1), -90),
        (View.RIGHT, (0, -1, -1), 90),
        (View.FRONT, (1, 0, 0.3), 90),
        (View.TOP, (1, 1, 0), 90),
        (View.TOP, (-1, -1, 0), -90),
    ],
)
def test_a_slanted_hinge_is_first_seen_squarely_from_above_or_in_front(
    base: View, way: tuple[float, float, float], angle: float
) -> None:
    assert abs(auxiliary.first_angle(base, way)) == abs(angle)
    unit = np.array(way) / np.linalg.norm(way)
    hinge = Hinge(base, (0, 0, 0), tuple(unit), auxiliary.first_angle(base, way))
    forward = auxiliary.tilted("a", "t", hinge).directions.forward
    if abs(angle) == 90:
        assert forward[2] < -1e-3 or (abs(forward[2]) < 1e-9 and forward[1] > 0)
        assert abs(forward @ base.directions.forward) < 1e-9


def test_a_view_without_a_hinge_is_not_tilted() -> None:
    view = auxiliary.square_to("a", "lid", (1, 0, 1), (0, 0, 0))
    with pytest.raises(AuxiliaryError, match="lid has no hinge"):
        auxiliary.tilted_to(view, 10.0)


def test_a_hinge_along_an_axis_leaves_that_axis_at_full_length() -> None:
    view = auxiliary.tilted("a", "t", Hinge(View.FRONT, (0, 0, 0), (1, 0, 0), 30))
    assert view.paper_axes == (0, None)
    assert view.axes == (0,)
    assert shared_axes(view, View.TOP) == (0,)
    whole = auxiliary.tilted("a", "t", Hinge(View.FRONT, (0, 0, 0), (1, 0, 0), -90))
    assert auxiliary.principal_like(whole.directions) is View.TOP


@given(st.lists(points, min_size=3, max_size=3), st.sampled_from(View))
def test_three_points_are_seen_at_true_distances(
    picked: list[tuple[float, float, float]], facing: View
) -> None:
    corners = np.array(picked)
    try:
        view = auxiliary.through_points("a", "t", corners, facing.directions.forward)
    except AuxiliaryError as error:
        assert "lie in a line" in str(error)
        return
    assert is_frame(view)
    assert view.directions.forward @ facing.directions.forward >= -1e-9
    flat = view.to_plane(corners)
    for a, b in ((0, 1), (1, 2), (2, 0)):
        true = np.linalg.norm(corners[a] - corners[b])
        assert np.linalg.norm(flat[a] - flat[b]) == pytest.approx(true, abs=1e-6)
    assert np.allclose(corners @ view.directions.forward, view.depth_mm, atol=1e-6)


@pytest.mark.parametrize(
    "corners",
    [[(0, 0, 0), (1, 1, 1), (5, 5, 5)], [(1, 2, 3)] * 3, [(0, 0, 0), (0, 0, 0), (1, 0, 0)]],
)
def test_points_in_a_line_make_no_plane(corners: list[tuple[float, float, float]]) -> None:
    with pytest.raises(AuxiliaryError, match="lie in a line"):
        auxiliary.through_points("a", "t", corners, View.FRONT.directions.forward)


@pytest.mark.parametrize("normal", [(0, 0, 0), (float("nan"), 0, 1)])
def test_a_face_without_area_is_refused(normal: tuple[float, float, float]) -> None:
    with pytest.raises(AuxiliaryError, match="no area"):
        auxiliary.square_to("a", "t", normal, (0, 0, 0))


def test_a_hinge_of_one_point_is_refused() -> None:
    with pytest.raises(AuxiliaryError, match="two different points"):
        auxiliary.tilted("a", "t", Hinge(View.FRONT, (0, 0, 0), (0, 0, 0), 10))
    with pytest.raises(AuxiliaryError, match="finite"):
        auxiliary.tilted("a", "t", Hinge(View.FRONT, (0, 0, 0), (1, 0, 0), float("inf")))


@example((0.0, -0.00013646877276750515, -1.0))
@example((0.0, 0.0, -1.0))
@example((0.0, 1e-8, 1.0))
@given(points)
def test_square_to_looks_against_the_normal_with_the_height_upwards(
    normal: tuple[float, float, float],
) -> None:
    length = np.linalg.norm(normal)
    if length < 1e-6:
        return
    view = auxiliary.square_to("a", "t", normal, (1, 2, 3))
    assert is_frame(view)
    assert np.allclose(view.directions.forward, -np.array(normal) / length, atol=1e-9)
    tilt = np.hypot(normal[0], normal[1]) / length
    if tilt < 1e-6:
        alike = View.TOP if normal[2] > 0 else View.BOTTOM
        assert np.allclose(view.right, alike.directions.right, atol=1e-5)
        assert np.allclose(view.up, alike.directions.up, atol=1e-5)
    else:
        assert view.up[2] >= -1e-9
