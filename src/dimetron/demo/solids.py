"""Building blocks of the props: turned bodies, tubes along a curve, and their union."""

from __future__ import annotations

import manifold3d
import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import CubicSpline

from dimetron.mesh.arrays import Floats
from dimetron.mesh.mesh import Mesh, from_faces


def turned_body(profile: ArrayLike, segments: int = 96) -> manifold3d.Manifold:
    """Revolve a closed profile (n, 2) of (radius, height) about Z."""
    section = manifold3d.CrossSection([np.asarray(profile, dtype=np.float64)])
    return manifold3d.Manifold.revolve(section, segments)


def tube(
    path: Floats, radii: ArrayLike, segments: int = 32, flatten: float = 1.0
) -> manifold3d.Manifold:
    """A closed tube along points (n, 3) with radii (n,); ``flatten`` scales it across X.

    The section is carried along without twist about X, which suits paths in the X = 0 plane.
    """
    radii = np.broadcast_to(np.asarray(radii, dtype=np.float64), len(path))
    along = np.gradient(path, axis=0)
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    side = np.tile([1.0, 0.0, 0.0], (len(path), 1))
    up = np.cross(along, side)
    turn = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    ring = (
        np.cos(turn)[None, :, None] * side[:, None] * flatten
        + np.sin(turn)[None, :, None] * up[:, None]
    )
    points = (path[:, None] + ring * radii[:, None, None]).reshape(-1, 3)
    return _closed(points, len(path), segments)


def _closed(points: Floats, rings: int, segments: int) -> manifold3d.Manifold:
    """Skin between successive rings, and flat ends."""
    i, j = np.meshgrid(np.arange(rings - 1), np.arange(segments), indexing="ij")
    a = (i * segments + j).ravel()
    b = (i * segments + (j + 1) % segments).ravel()
    skin = np.concatenate(
        [np.stack([a, b, b + segments], 1), np.stack([a, b + segments, a + segments], 1)]
    )
    k = np.arange(1, segments - 1)
    first = np.stack([np.zeros_like(k), k + 1, k], axis=1)
    last = np.stack([np.zeros_like(k), k, k + 1], axis=1) + (rings - 1) * segments
    triangles = np.concatenate([skin, first, last]).astype(np.uint32)
    solid = manifold3d.Manifold(manifold3d.Mesh(points.astype(np.float32), triangles))
    if solid.volume() < 0:
        solid = manifold3d.Manifold(
            manifold3d.Mesh(points.astype(np.float32), triangles[:, ::-1].copy())
        )
    return solid


def smooth_path(points: ArrayLike, count: int = 40) -> Floats:
    """(count, 3) along a smooth curve through points (n, 3)."""
    knots = np.asarray(points, dtype=np.float64)
    t = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(knots, axis=0), axis=1))])
    return np.asarray(CubicSpline(t, knots)(np.linspace(0, t[-1], count)), dtype=np.float64)


def as_mesh(solid: manifold3d.Manifold) -> Mesh:
    """A solid's surface as a triangle mesh."""
    raw = solid.to_mesh()
    return from_faces(
        np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts, dtype=np.int32)
    )
