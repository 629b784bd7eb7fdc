from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.geometry.camera import (
    FARTHEST_MM,
    MAX_MM_PX,
    MIN_MM_PX,
    Camera,
    OrbitCamera,
    OrthoCamera,
    clamped_zoom,
    within_reach,
)
from dimetron.geometry.graduation import graduation, snapped, ticks
from dimetron.geometry.units import Unit
from dimetron.geometry.views import View

coordinate = st.floats(-500, 500)
points = st.tuples(coordinate, coordinate, coordinate)
pixels = st.tuples(st.floats(0, 800), st.floats(0, 600))
ortho = st.builds(
    OrthoCamera, st.sampled_from(View), points, st.floats(1e-3, 10), st.just((800.0, 600.0))
)
orbit = st.builds(
    OrbitCamera,
    points,
    st.floats(-180, 180),
    st.floats(-89, 89),
    st.floats(0.5, 10),
    st.booleans(),
    st.just((800.0, 600.0)),
)


def clip_to_px(camera: Camera, clip: np.ndarray) -> np.ndarray:
    ndc = clip[:3] / clip[3]
    w, h = camera.size
    return np.array([(ndc[0] + 1) * w / 2, (1 - ndc[1]) * h / 2])


@given(st.one_of(ortho, orbit), pixels)
def test_a_point_under_a_pixel_projects_onto_it(camera: Camera, px: tuple[float, float]) -> None:
    assert np.allclose(camera.project(camera.point_at(px)), px, atol=1e-4)
    ray = camera.ray(px)
    on_ray = camera.project(ray.origin + ray.direction * (1e6 + 10))
    if np.isfinite(on_ray).all():
        assert np.allclose(on_ray, px, atol=1e-2)


@given(st.one_of(ortho, orbit), points, points)
def test_the_gpu_matrix_agrees_with_the_projection(
    camera: Camera, point: tuple[float, ...], origin: tuple[float, ...]
) -> None:
    px = camera.project(point)
    if not np.isfinite(px).all():
        return
    matrix = camera.clip_matrix(origin, 5000.0)
    clip = matrix @ np.array([*(np.array(point) - origin), 1.0])
    assert np.allclose(clip_to_px(camera, clip), px, atol=1e-3, rtol=1e-6)


@given(orbit, pixels, st.floats(0.2, 5))
def test_zoom_keeps_what_is_under_the_pointer(
    camera: OrbitCamera, px: tuple[float, float], factor: float
) -> None:
    kept = camera.point_at(px)
    assert np.allclose(camera.zoomed(factor, px).project(kept), px, atol=1e-3)


@given(orbit, pixels, st.tuples(st.floats(-300, 300), st.floats(-300, 300)))
def test_what_is_dragged_goes_along_with_the_pointer(
    camera: OrbitCamera, px: tuple[float, float], by: tuple[float, float]
) -> None:
    taken = camera.point_at(px)
    assert np.allclose(camera.panned(by).project(taken), np.add(px, by), atol=1e-3)


@given(orbit, points)
def test_a_pixel_is_as_large_as_two_points_that_it_parts(
    camera: OrbitCamera, point: tuple[float, float, float]
) -> None:
    size = camera.mm_per_px_at(point)
    right = camera.axes[0]
    ends = camera.project(np.array([point, np.add(point, right * size)]))
    if np.isfinite(ends).all():
        assert np.allclose(ends[1] - ends[0], (1, 0), atol=1e-6)


@given(orbit, st.floats(-200, 200), st.floats(-200, 200))
def test_turning_goes_round_and_stops_straight_above_and_below(
    camera: OrbitCamera, across: float, up: float
) -> None:
    turned = camera.turned(across, up)
    assert -180 <= turned.azimuth_deg <= 180
    assert turned.elevation_deg == pytest.approx(np.clip(camera.elevation_deg + up, -90, 90))
    assert camera.turned(0, 500).elevation_deg == 90
    assert camera.turned(0, -500).elevation_deg == -90


@given(st.tuples(*[st.floats(allow_nan=True, allow_infinity=True)] * 3))
def test_what_is_looked_at_stays_within_reach(point: tuple[float, float, float]) -> None:
    kept = within_reach(np.array(point))
    for was, now in zip(point, kept, strict=True):
        assert abs(now) <= FARTHEST_MM
        assert now == (0.0 if was != was else np.clip(was, -FARTHEST_MM, FARTHEST_MM))


@given(st.floats(0, 1e12))
def test_zoom_has_an_end_on_either_side(mm_per_px: float) -> None:
    assert clamped_zoom(mm_per_px) == np.clip(mm_per_px, MIN_MM_PX, MAX_MM_PX)


@given(orbit.filter(lambda c: c.perspective))
def test_depth_grows_away_from_the_eye_however_far_things_reach(camera: OrbitCamera) -> None:
    matrix = camera.clip_matrix((0, 0, 0), 1e5)
    at = camera.target + camera.forward * np.array([[-0.5], [0.0], [0.5]]) * camera.distance
    clip = np.column_stack([at, np.ones(3)]) @ matrix.T
    depth = clip[:, 2] / clip[:, 3]
    assert (np.abs(depth) <= 1).all() and (np.diff(depth) > 0).all()


def test_dimetric_opening_shows_width_and_height_alike_and_depth_half() -> None:
    camera = OrbitCamera(mm_per_px=1.0, size=(100.0, 100.0))
    origin = camera.project((0, 0, 0))
    lengths = [np.hypot(*(camera.project(axis) - origin)) for axis in np.eye(3)]
    assert lengths[0] == pytest.approx(lengths[2])
    assert lengths[1] == pytest.approx(lengths[0] / 2)


def test_points_behind_the_eye_have_no_pixel() -> None:
    camera = OrbitCamera(perspective=True, size=(100.0, 100.0))
    behind = -camera.forward * (camera.distance + 10)
    assert np.isnan(camera.project(behind)).all()


@given(st.floats(1e-6, 1e4), st.sampled_from(Unit))
def test_grid_lines_keep_their_distance(mm_per_px: float, unit: Unit) -> None:
    step = graduation(mm_per_px, unit)
    assert step.fine / mm_per_px >= 9 * (1 - 1e-6)
    assert step.coarse > step.fine
    assert step.coarse / step.fine == pytest.approx(round(step.coarse / step.fine))


def test_metric_steps_are_one_two_five() -> None:
    fine = {f"{graduation(m, Unit.MM).fine:.0e}"[0] for m in np.geomspace(0.01, 10, 60)}
    assert fine == {"1", "2", "5"}
    coarse = {f"{graduation(m, Unit.MM).coarse:.0e}"[0] for m in np.geomspace(0.01, 10, 60)}
    assert coarse == {"1", "5"}


def test_inches_are_halved_and_then_counted_in_feet() -> None:
    inch = 25.4
    steps = {round(graduation(m, Unit.INCH).fine / inch, 9) for m in np.geomspace(0.01, 300, 400)}
    assert steps >= {1 / 64, 1 / 32, 1 / 16, 1 / 8, 1 / 4, 1 / 2, 1.0, 3.0, 6.0, 12.0, 24.0, 60.0}
    shown = graduation(0.08, Unit.INCH)
    assert (shown.fine / inch, shown.coarse / inch) == (1 / 32, 1 / 8)


@given(st.floats(-1e3, 1e3), st.integers(1, 30), st.sampled_from([0.1, 0.5, 1.0, 25.4]))
def test_a_tick_stands_on_either_end_of_a_range_of_whole_steps(
    start: float, count: int, step: float
) -> None:
    first = round(start / step)
    found = ticks(first * step, (first + count) * step, step)
    assert len(found) == count + 1


@given(st.floats(-1e4, 1e4), st.floats(0.1, 100), st.floats(0.01, 5))
def test_ticks_cover_the_range(low: float, step: float, share: float) -> None:
    high = low + step * 20 * share
    found = ticks(low, high, step)
    assert all(low - step * 1e-6 <= t <= high + step * 1e-6 for t in found)
    assert len(found) == pytest.approx((high - low) / step, abs=1.01)


def test_snapping() -> None:
    assert snapped(12.4, 5) == 10
    assert snapped(-12.6, 5) == -15
