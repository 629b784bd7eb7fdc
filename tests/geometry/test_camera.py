from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera
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


@given(st.floats(-1e4, 1e4), st.floats(0.1, 100), st.floats(0.01, 5))
def test_ticks_cover_the_range(low: float, step: float, share: float) -> None:
    high = low + step * 20 * share
    found = ticks(low, high, step)
    assert all(low - step * 1e-6 <= t <= high + step * 1e-6 for t in found)
    assert len(found) == pytest.approx((high - low) / step, abs=1.01)


def test_snapping() -> None:
    assert snapped(12.4, 5) == 10
    assert snapped(-12.6, 5) == -15
