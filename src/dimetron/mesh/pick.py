"""What lies under a pixel or inside a box, computed exactly from the projected mesh.

Inputs are pane pixels and depths as the cameras of ``geometry`` give them; nothing is read back
from a picture, so a pick is as exact as the geometry.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from dimetron.geometry.camera import Camera
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.mesh import Mesh


class Projected(NamedTuple):
    """A mesh as a camera sees it: pixels (n, 2) and depths (n,) of its vertices."""

    mesh: Mesh
    px: Floats
    depth: Floats


class FaceHit(NamedTuple):
    face: int
    depth: float


def projected(mesh: Mesh, camera: Camera) -> Projected:
    return Projected(mesh, camera.project(mesh.positions), camera.depths(mesh.positions))


def face_at(
    seen: Projected, at: tuple[float, float], kept: Callable[[Floats], Mask] | None = None
) -> FaceHit | None:
    """The nearest face whose triangles cover the point ``at``. ``kept`` tells which surface points
    (n, 3) are there at all; None: all of them."""
    triangles = seen.mesh.triangles
    if not len(triangles):
        return None
    near = _near_triangles(seen.px, triangles, np.array(at))
    if not len(near):
        return None
    a, b, c = (seen.px[triangles[near, i]] for i in range(3))
    weights = _barycentric(a, b, c, np.array(at))
    inside = np.flatnonzero((weights >= -1e-9).all(axis=1))
    if kept is not None:
        corners = seen.mesh.positions[triangles[near[inside]]]
        inside = inside[kept((weights[inside, :, None] * corners).sum(axis=1))]
    if not len(inside):
        return None
    depths = (weights[inside] * seen.depth[triangles[near[inside]]]).sum(axis=1)
    nearest = int(np.argmin(depths))
    face = int(seen.mesh.topology.triangle_faces[near[inside[nearest]]])
    return FaceHit(face, float(depths[nearest]))


def _near_triangles(px: Floats, triangles: Ints, at: Floats) -> Ints:
    corners = px[triangles]
    with np.errstate(invalid="ignore"):
        covers = (corners.min(axis=1) <= at) & (corners.max(axis=1) >= at)
    return np.flatnonzero(covers.all(axis=1)).astype(np.int32)


def _barycentric(a: Floats, b: Floats, c: Floats, p: Floats) -> Floats:
    """(t, 3); NaN for triangles seen edge-on."""
    u, v, w = b - a, c - a, p - a
    area = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        beta = (w[:, 0] * v[:, 1] - w[:, 1] * v[:, 0]) / area
        gamma = (u[:, 0] * w[:, 1] - u[:, 1] * w[:, 0]) / area
    return np.stack([1 - beta - gamma, beta, gamma], axis=1)


def vertices_near(seen: Projected, at: tuple[float, float], reach: float) -> Ints:
    """Vertices within ``reach`` pixels, nearest on the paper first, then nearest in depth."""
    away = np.hypot(*(seen.px - np.array(at)).T)
    close = np.flatnonzero(away <= reach)
    return close[np.lexsort((seen.depth[close], np.round(away[close], 3)))].astype(np.int32)


def edges_near(seen: Projected, at: tuple[float, float], reach: float) -> tuple[Ints, Floats]:
    """Edges within ``reach`` pixels, nearest first, and their points (k, 3) under the pixel."""
    edges = seen.mesh.topology.edges
    if not len(edges):
        return np.zeros(0, np.int32), np.zeros((0, 3))
    a, b = seen.px[edges[:, 0]], seen.px[edges[:, 1]]
    along = b - a
    length2 = np.maximum((along**2).sum(axis=1), 1e-12)
    t = (((np.array(at) - a) * along).sum(axis=1) / length2).clip(0, 1)
    away = np.hypot(*(a + t[:, None] * along - np.array(at)).T)
    depth = seen.depth[edges[:, 0]] * (1 - t) + seen.depth[edges[:, 1]] * t
    close = np.flatnonzero(away <= reach)
    close = close[np.lexsort((depth[close], np.round(away[close], 3)))]
    p = seen.mesh.positions
    points = p[edges[close, 0]] * (1 - t[close, None]) + p[edges[close, 1]] * t[close, None]
    return close.astype(np.int32), points


def in_box(px: Floats, low: tuple[float, float], high: tuple[float, float]) -> Mask:
    """(n,) which pixels (n, 2) lie in a box."""
    with np.errstate(invalid="ignore"):
        return np.asarray(((px >= low) & (px <= high)).all(axis=1))


def facing_faces(seen: Projected) -> Mask:
    """(f,) faces that turn their outside to the eye; those seen edge-on do not."""
    topology = seen.mesh.topology
    if not topology.face_count:
        return np.zeros(0, bool)
    p = seen.px[topology.corners]
    q = p[topology.next_corner]
    twice = np.add.reduceat(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0], topology.offsets[:-1])
    # Pixels count downwards, so what is counter-clockwise in space turns the other way here.
    return np.asarray(twice < -1e-6)


def facing_vertices(seen: Projected) -> Mask:
    """(n,) vertices of faces that turn to the eye; the others can only be seen from behind."""
    topology = seen.mesh.topology
    mask = np.zeros(topology.vertex_count, bool)
    mask[topology.corners[facing_faces(seen)[topology.corner_face]]] = True
    return mask


def facing_edges(seen: Projected) -> Mask:
    """(e,) edges of faces that turn to the eye."""
    topology = seen.mesh.topology
    mask = np.zeros(len(topology.edges), bool)
    mask[topology.corner_edge[facing_faces(seen)[topology.corner_face]]] = True
    return mask
