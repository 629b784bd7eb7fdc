from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from dimetron.geometry import placement as place
from dimetron.geometry.placement import Placement, PlacementError
from dimetron.geometry.views import View, shared_axes

coordinate = st.floats(-5000, 5000)
points = st.tuples(coordinate, coordinate)
placements = st.builds(
    Placement,
    mm_per_px=st.floats(1e-3, 100),
    anchor_px=points,
    anchor_mm=points,
    rotation_deg=st.floats(-180, 180),
    mirrored=st.booleans(),
    stand_off_mm=coordinate,
    pixel_aspect=st.floats(0.2, 5),
)


@given(placements, points)
def test_pixels_to_plane_and_back(p: Placement, px: tuple[float, float]) -> None:
    assert np.allclose(p.to_px(p.to_plane(px)), px, atol=1e-6)


@given(placements, points, points, st.floats(0.1, 1e4), st.sampled_from([None, 0, 1]))
def test_known_length_is_met_and_the_first_point_stays(
    p: Placement, a: tuple[float, float], b: tuple[float, float], length: float, axis: int | None
) -> None:
    way = p.to_plane(b) - p.to_plane(a)
    now = np.hypot(*way) if axis is None else abs(way[axis])
    assume(now > p.mm_per_px)
    assume(1e-5 < p.mm_per_px * length / now < 1e5 / max(p.pixel_aspect, 1))
    assume(np.abs(np.array(p.anchor_mm)).max() * length / now < 1e6)
    # Scaled about the first point, the anchor must stay within what a placement takes.
    assume(np.abs(p.anchor_mm - p.to_plane(a)).max() * length / now < 1e6)
    scaled = place.to_known_length(p, a, b, length, axis)
    after = scaled.to_plane(b) - scaled.to_plane(a)
    assert (np.hypot(*after) if axis is None else abs(after[axis])) == pytest.approx(length)
    assert np.allclose(scaled.to_plane(a), p.to_plane(a), atol=1e-4)


@given(placements, points, st.floats(-720, 720))
def test_turning_keeps_the_pivot_and_reaches_the_angle(
    p: Placement, pivot: tuple[float, float], angle: float
) -> None:
    turned = place.turned(p, angle, pivot)
    assert np.allclose(turned.to_plane(pivot), p.to_plane(pivot), atol=1e-4)
    assert np.cos(np.radians(turned.rotation_deg - angle)) == pytest.approx(1)


@given(placements, points)
def test_mirroring_reflects_what_is_seen(p: Placement, px: tuple[float, float]) -> None:
    pivot = (100.0, 50.0)
    once = place.flipped(p, pivot)
    about = p.to_plane(pivot)
    before, after = p.to_plane(px) - about, once.to_plane(px) - about
    assert np.allclose(after, before * [-1, 1], atol=1e-5 * (1 + np.abs(before).max()))
    twice = place.flipped(once, pivot)
    assert np.allclose(twice.to_plane(px), p.to_plane(px), atol=1e-4)


def test_counter_clockwise_as_seen() -> None:
    p = Placement(1.0, (0, 0), (0, 0), rotation_deg=90)
    assert np.allclose(p.to_plane((1, 0)), (0, 1))


@pytest.mark.parametrize("bad", [0.0, -1.0, float("nan"), float("inf")])
def test_sizes_without_meaning_are_refused(bad: float) -> None:
    p = Placement(1.0, (0, 0), (0, 0))
    with pytest.raises(PlacementError):
        place.resized_about(p, bad, (0, 0))
    with pytest.raises(PlacementError):
        place.to_known_length(p, (0, 0), (10, 0), bad)
    with pytest.raises(PlacementError):
        Placement(bad, (0, 0), (0, 0))


def test_two_picks_at_one_place_are_refused() -> None:
    p = Placement(1.0, (0, 0), (0, 0))
    with pytest.raises(PlacementError, match="same place"):
        place.to_known_length(p, (5, 5), (5, 5), 10)
    with pytest.raises(PlacementError, match="same place"):
        place.to_known_length(p, (5, 5), (9, 5), 10, axis=1)
    with pytest.raises(PlacementError, match="same place"):
        place.to_known_length(p, (5, 5), (5.005, 5), 10)
    fine = Placement(1e-4, (0, 0), (0, 0))
    assert place.to_known_length(fine, (5, 5), (6, 5), 10).mm_per_px == pytest.approx(10)


@given(placements, st.integers(-8, 8))
def test_half_a_turn_is_told_one_way(p: Placement, turns: int) -> None:
    assert place.turned(p, 180.0 + 360.0 * turns, (0, 0)).rotation_deg == 180.0


@given(placements, st.integers(1, 4000), st.integers(1, 4000))
def test_sides_are_as_long_as_the_corners_lie_apart(p: Placement, w: int, h: int) -> None:
    corners = p.corners((w, h))
    sides = np.linalg.norm(np.diff(corners, axis=0), axis=1)
    assert np.allclose(sides[:2], p.size_mm((w, h)))
    assert np.allclose(corners.mean(axis=0), p.centre((w, h)), atol=1e-6)


def test_a_height_beyond_all_measure_is_refused() -> None:
    for pixel_aspect in (1e-7, 1e7):
        with pytest.raises(PlacementError):
            Placement(1.0, (0, 0), (0, 0), pixel_aspect=pixel_aspect)


@pytest.mark.parametrize("view", View)
def test_view_frames_are_right_handed(view: View) -> None:
    right, up, forward = view.directions
    assert np.allclose(np.cross(right, up), -forward)
    assert np.allclose(view.opposite.directions.forward, -forward)
    assert sorted((*view.axes, view.depth_axis)) == [0, 1, 2]


@given(st.sampled_from(View), points, coordinate)
def test_world_and_plane(view: View, plane: tuple[float, float], depth: float) -> None:
    world = view.to_world(np.array(plane), depth)
    assert np.allclose(view.to_plane(world), plane)
    assert world @ view.directions.forward == pytest.approx(depth)


def test_front_looks_along_y_and_shares_height_with_right() -> None:
    assert np.array_equal(View.FRONT.directions.forward, (0, 1, 0))
    assert shared_axes(View.FRONT, View.RIGHT) == (2,)
    assert shared_axes(View.TOP, View.FRONT) == (0,)
    assert shared_axes(View.LEFT, View.RIGHT) == (1, 2)
