"""Cameras: from world millimetres to pane pixels and back. Values, float64, no OpenGL.

Pane pixels run from the pane's top-left corner, y down. ``clip_matrix`` is relative to an origin
near the geometry, so that what is handed to the GPU in float32 stays small and steady.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from dimetron.geometry.views import AnyView, Vector

#: Zoom limits, mm per pixel: a thousandth of a hair, and a small town across a pane.
MIN_MM_PX, MAX_MM_PX = 1e-6, 1e4
#: What is looked at lies within 10 km of the origin.
FARTHEST_MM = 1e7

#: ISO 5456-3 dimetric: X and Z at full scale, depth at half.
DIMETRIC_AZIMUTH_DEG = math.degrees(math.asin(math.sqrt(1 / 8)))
DIMETRIC_ELEVATION_DEG = math.degrees(math.asin(1 / 3))


class Ray(NamedTuple):
    """A line of sight: where it begins (3,), and its unit vector (3,)."""

    origin: Vector
    direction: Vector


@dataclass(frozen=True, slots=True)
class OrthoCamera:
    """Looks along a view's line of sight. ``focus`` (3,) lies at the centre of the pane."""

    view: AnyView
    focus: tuple[float, float, float]
    mm_per_px: float
    size: tuple[float, float]

    def project(self, points: ArrayLike) -> Vector:
        """World (..., 3) to pane pixels (..., 2)."""
        away = self.view.to_plane(np.asarray(points, dtype=np.float64) - self.focus)
        half = np.array(self.size) / 2
        return np.asarray(away * [1, -1] / self.mm_per_px + half, dtype=np.float64)

    def depths(self, points: ArrayLike) -> Vector:
        """Distance of world points (..., 3) along the line of sight, from the focus; (...)."""
        away = np.asarray(points, dtype=np.float64) - self.focus
        return np.asarray(away @ self.view.directions.forward, dtype=np.float64)

    def plane_at(self, px: ArrayLike) -> Vector:
        """Pane pixels (..., 2) to view-plane millimetres (..., 2)."""
        half = np.array(self.size) / 2
        away = (np.asarray(px, dtype=np.float64) - half) * [1, -1] * self.mm_per_px
        return np.asarray(away + self.view.to_plane(np.array(self.focus)), dtype=np.float64)

    def point_at(self, px: ArrayLike) -> Vector:
        """World point (3,) under a pixel, in the plane through the focus."""
        depth = float(np.array(self.focus) @ self.view.directions.forward)
        return self.view.to_world(self.plane_at(px), depth)

    def ray(self, px: ArrayLike) -> Ray:
        """The line of sight through a pixel (2,), from far before everything."""
        forward = self.view.directions.forward
        return Ray(self.point_at(px) - forward * 1e6, forward)

    def mm_per_px_at(self, point: ArrayLike) -> float:
        """Size of a pixel at the depth of a world point (3,): everywhere the same."""
        return self.mm_per_px

    def clip_matrix(self, origin: ArrayLike, reach: float) -> Vector:
        """(4, 4) from (world - origin) to clip space; ``reach`` mm before and behind are kept."""
        directions = self.view.directions
        offset = np.asarray(origin, dtype=np.float64) - self.focus
        w, h = self.size
        rows = np.stack(
            [
                directions.right * (2 / (w * self.mm_per_px)),
                directions.up * (2 / (h * self.mm_per_px)),
                directions.forward / reach,
            ]
        )
        matrix = np.eye(4)
        matrix[:3, :3] = rows
        matrix[:3, 3] = rows @ offset
        return matrix

    @property
    def forward(self) -> Vector:
        """(3,) the unit vector of the line of sight."""
        return self.view.directions.forward


@dataclass(frozen=True, slots=True)
class OrbitCamera:
    """Turns about ``target``. Perspective with a 35 mm-like field, or parallel."""

    target: tuple[float, float, float] = (0.0, 0.0, 0.0)
    azimuth_deg: float = DIMETRIC_AZIMUTH_DEG
    elevation_deg: float = DIMETRIC_ELEVATION_DEG
    mm_per_px: float = 1.0
    perspective: bool = False
    size: tuple[float, float] = (100.0, 100.0)

    #: Half the vertical field of view, as a tangent.
    TAN_HALF_FIELD = math.tan(math.radians(17.5))

    @property
    def axes(self) -> Vector:
        """(3, 3) rows: right, up, forward; read-only."""
        return _orbit_axes(self.azimuth_deg, self.elevation_deg)

    @property
    def forward(self) -> Vector:
        """(3,) the unit vector from the eye to the target."""
        return np.asarray(self.axes[2])

    @property
    def distance(self) -> float:
        """From the eye to the target, so that the target's plane shows at ``mm_per_px``."""
        return self.mm_per_px * self.size[1] / 2 / self.TAN_HALF_FIELD

    def _in_eye(self, points: ArrayLike) -> Vector:
        """(..., 3): right, up, forward from the target."""
        away = np.asarray(points, dtype=np.float64) - self.target
        return np.asarray(away @ self.axes.T, dtype=np.float64)

    def project(self, points: ArrayLike) -> Vector:
        """World (..., 3) to pane pixels (..., 2); NaN for what lies behind the eye."""
        eye = self._in_eye(points)
        scale = np.full(eye.shape[:-1], 1 / self.mm_per_px)
        if self.perspective:
            depth = eye[..., 2] / self.distance + 1
            with np.errstate(divide="ignore", invalid="ignore"):
                scale = np.where(depth > 1e-3, scale / depth, np.nan)
        half = np.array(self.size) / 2
        return np.asarray(eye[..., :2] * [1, -1] * scale[..., None] + half, dtype=np.float64)

    def depths(self, points: ArrayLike) -> Vector:
        """Distance of world points (..., 3) along the line of sight, from the target; (...)."""
        return np.asarray(self._in_eye(points)[..., 2], dtype=np.float64)

    def ray(self, px: ArrayLike) -> Ray:
        """The line of sight through a pixel (2,); in perspective from the eye."""
        half = np.array(self.size) / 2
        across = (np.asarray(px, dtype=np.float64) - half) * [1, -1] * self.mm_per_px
        right, up, forward = self.axes
        on_target_plane = np.array(self.target) + across[0] * right + across[1] * up
        if not self.perspective:
            return Ray(on_target_plane - forward * 1e6, forward)
        eye = np.array(self.target) - forward * self.distance
        way = on_target_plane - eye
        return Ray(eye, way / np.linalg.norm(way))

    def point_at(self, px: ArrayLike) -> Vector:
        """World point (3,) under a pixel, in the plane through the target that faces the eye."""
        ray = self.ray(px)
        along = (np.array(self.target) - ray.origin) @ self.forward
        return np.asarray(
            ray.origin + ray.direction * (along / (ray.direction @ self.forward)), dtype=np.float64
        )

    def mm_per_px_at(self, point: ArrayLike) -> float:
        """Size of a pixel at the depth of a world point (3,)."""
        if not self.perspective:
            return self.mm_per_px
        return self.mm_per_px * max(1e-3, float(self.depths(point)) / self.distance + 1)

    def clip_matrix(self, origin: ArrayLike, reach: float) -> Vector:
        """(4, 4) from (world - origin) to clip space; ``reach`` mm about the target are kept."""
        axes = self.axes
        offset = axes @ (np.asarray(origin, dtype=np.float64) - self.target)
        w, h = self.size
        matrix = np.zeros((4, 4))
        sx, sy = 2 / (w * self.mm_per_px), 2 / (h * self.mm_per_px)
        matrix[0, :3], matrix[0, 3] = axes[0] * sx, offset[0] * sx
        matrix[1, :3], matrix[1, 3] = axes[1] * sy, offset[1] * sy
        if not self.perspective:
            matrix[2, :3], matrix[2, 3] = axes[2] / reach, offset[2] / reach
            matrix[3, 3] = 1.0
            return matrix
        far = self.distance + reach
        near = max(self.distance - reach, far * 1e-4)
        a, b = (far + near) / (far - near), -2 * far * near / (far - near)
        depth_offset = offset[2] + self.distance
        matrix[2, :3], matrix[2, 3] = axes[2] * a, depth_offset * a + b
        matrix[3, :3], matrix[3, 3] = axes[2], depth_offset
        # x and y so far suit w = 1 at the target; w counts millimetres there.
        matrix[:2] *= self.distance
        return matrix

    def turned(self, azimuth: float, elevation: float) -> OrbitCamera:
        """Turn by degrees; the elevation stops at straight up and down."""
        return replace(
            self,
            azimuth_deg=math.remainder(self.azimuth_deg + azimuth, 360.0),
            elevation_deg=min(90.0, max(-90.0, self.elevation_deg + elevation)),
        )

    def panned(self, by_px: ArrayLike) -> OrbitCamera:
        """Moved by a drag (2,) in pane pixels."""
        dx, dy = np.asarray(by_px, dtype=np.float64) * self.mm_per_px
        right, up, _ = self.axes
        return replace(self, target=within_reach(np.array(self.target) - right * dx + up * dy))

    def zoomed(self, factor: float, at_px: ArrayLike) -> OrbitCamera:
        """Make things ``factor`` times as large; what is under ``at_px`` stays there."""
        scale = clamped_zoom(self.mm_per_px / factor)
        kept = self.point_at(at_px)
        target = kept + (np.array(self.target) - kept) * (scale / self.mm_per_px)
        return replace(self, mm_per_px=scale, target=within_reach(target))


@lru_cache(maxsize=64)
def _orbit_axes(azimuth_deg: float, elevation_deg: float) -> Vector:
    """Asked for with every plane of every frame."""
    a, e = math.radians(azimuth_deg), math.radians(elevation_deg)
    forward = np.array([-math.sin(a) * math.cos(e), math.cos(a) * math.cos(e), -math.sin(e)])
    right = np.array([math.cos(a), math.sin(a), 0.0])
    axes = np.stack([right, np.cross(right, forward), forward])
    axes.setflags(write=False)
    return axes


Camera = OrthoCamera | OrbitCamera


def within_reach(point: Vector) -> tuple[float, float, float]:
    """The nearest point (3,) that can be looked at; the origin for what is no number."""
    x, y, z = (
        min(max(n, -FARTHEST_MM), FARTHEST_MM) if n == n else 0.0
        for n in np.asarray(point).tolist()
    )
    return x, y, z


def clamped_zoom(mm_per_px: float) -> float:
    """A zoom within what can be looked at, mm per pixel."""
    return min(MAX_MM_PX, max(MIN_MM_PX, mm_per_px))
