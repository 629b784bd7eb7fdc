"""What lies under a pixel or inside a box, computed exactly from the projected mesh.

Inputs are pane pixels and depths as the cameras of ``geometry`` give them; nothing is read back
from a picture, so a pick is as exact as the geometry. The mesh's spatial index says which few
triangles are worth looking at.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from dimetron.geometry.camera import Camera, OrbitCamera
from dimetron.mesh.arrays import Floats, Ints, Mask, distinct
from dimetron.mesh.hiding import hidden_faces
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import Topology

#: Steps along a line of sight at which the size of a pixel is measured, in mm.
_STEP_MM = 1000.0


class FaceHit(NamedTuple):
    """A face under a pixel, and its depth there: mm from the camera's focus."""

    face: int
    depth: float


def face_at(
    mesh: Mesh,
    camera: Camera,
    at: tuple[float, float],
    kept: Callable[[Floats], Mask] | None = None,
    without: Ints | None = None,
) -> FaceHit | None:
    """The nearest face whose triangles cover the pixel ``at``. ``kept`` tells which surface points
    (n, 3) are there at all; None: all of them. Triangles at vertices ``without`` (k,) do not
    count."""
    ray = camera.ray(at)
    near = mesh.index.on_ray(ray.origin, ray.direction)
    hidden = hidden_faces(mesh)
    if hidden is not None:
        near = near[~hidden[mesh.topology.triangle_faces[near]]]
    if without is not None:
        near = near[~np.isin(mesh.triangles[near], without).any(axis=1)]
    if not len(near):
        return None
    corners = mesh.positions[mesh.triangles[near]]
    px = camera.project(corners)
    weights = _barycentric(px[:, 0], px[:, 1], px[:, 2], np.array(at))
    inside = np.flatnonzero((weights >= -1e-9).all(axis=1))
    if kept is not None:
        inside = inside[kept((weights[inside, :, None] * corners[inside]).sum(axis=1))]
    if not len(inside):
        return None
    depths = (weights[inside] * camera.depths(corners[inside])).sum(axis=1)
    nearest = int(np.argmin(depths))
    face = int(mesh.topology.triangle_faces[near[inside[nearest]]])
    return FaceHit(face, float(depths[nearest]))


def _barycentric(a: Floats, b: Floats, c: Floats, p: Floats) -> Floats:
    """(t, 3); NaN for triangles seen edge-on."""
    u, v, w = b - a, c - a, p - a
    area = u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        beta = (w[:, 0] * v[:, 1] - w[:, 1] * v[:, 0]) / area
        gamma = (u[:, 0] * w[:, 1] - u[:, 1] * w[:, 0]) / area
        return np.stack([1 - beta - gamma, beta, gamma], axis=1)


@dataclass(frozen=True, eq=False)
class Near:
    """The part of a mesh within ``reach`` pixels of a pixel ``at``, and some around it: every face
    that comes so near. Indices are the mesh's own."""

    mesh: Mesh
    camera: Camera
    at: tuple[float, float]
    reach: float

    @cached_property
    def faces(self) -> Ints:
        """(f,) faces that come within reach, and some more."""
        ray = self.camera.ray(self.at)
        radius, slope = _widening(self.camera, ray.origin, ray.direction, self.reach)
        found = self.mesh.index.near_ray(ray.origin, ray.direction, radius, slope)
        faces = distinct(self.mesh.topology.triangle_faces[found])
        hidden = hidden_faces(self.mesh)
        return faces if hidden is None else faces[~hidden[faces]]

    @cached_property
    def _corners(self) -> Ints:
        return self.mesh.topology.corners_of(self.faces)

    def vertices(self) -> Ints:
        """Vertices within reach, nearest on the paper first, then nearest in depth."""
        topology = self.mesh.topology
        near = np.concatenate([topology.corners[self._corners], topology.loose_vertices])
        mine = distinct(near)
        points = self.mesh.positions[mine]
        away = np.hypot(*(self.camera.project(points) - np.array(self.at)).T)
        close = np.flatnonzero(away <= self.reach)
        depth = self.camera.depths(points[close])
        return mine[close[np.lexsort((depth, np.round(away[close], 3)))]].astype(np.int32)

    def edges(self) -> tuple[Ints, Floats]:
        """Edges within reach, nearest first, and their points (k, 3) under the pixel."""
        topology, at = self.mesh.topology, np.array(self.at)
        mine = distinct(topology.corner_edge[self._corners])
        if not len(mine):
            return np.zeros(0, np.int32), np.zeros((0, 3))
        ends = self.mesh.positions[topology.edges[mine]]
        px = self.camera.project(ends)
        a, along = px[:, 0], px[:, 1] - px[:, 0]
        length2 = np.maximum((along**2).sum(axis=1), 1e-12)
        t = (((at - a) * along).sum(axis=1) / length2).clip(0, 1)
        away = np.hypot(*(a + t[:, None] * along - at).T)
        close = np.flatnonzero(away <= self.reach)
        depths = self.camera.depths(ends[close])
        depth = depths[:, 0] * (1 - t[close]) + depths[:, 1] * t[close]
        close = close[np.lexsort((depth, np.round(away[close], 3)))]
        share = t[close, None]
        points = ends[close, 0] * (1 - share) + ends[close, 1] * share
        return mine[close].astype(np.int32), points

    def facing_vertices(self, vertices: Ints) -> Mask:
        """(k,) which of these turn to the eye by one of their faces."""
        return np.isin(vertices, self.mesh.topology.corners[self._facing_corners])

    def facing_edges(self, edges: Ints) -> Mask:
        """(k,) which of these turn to the eye by one of their faces."""
        return np.isin(edges, self.mesh.topology.corner_edge[self._facing_corners])

    @cached_property
    def _facing_corners(self) -> Ints:
        """Those of the near corners whose faces turn their outside to the eye."""
        topology = self.mesh.topology
        corners = self._corners
        if not len(corners):
            return corners
        p = self.camera.project(self.mesh.positions[topology.corners[corners]])
        follows = topology.corners[topology.next_corner[corners]]
        q = self.camera.project(self.mesh.positions[follows])
        sizes = topology.sizes[self.faces]
        facing = _turned_to_the_eye(p, q, np.cumsum(sizes) - sizes)
        return np.asarray(corners[np.repeat(facing, sizes)])


def _widening(
    camera: Camera, origin: Floats, direction: Floats, reach: float
) -> tuple[float, float]:
    """How many mm the reach is where a line of sight begins, and by how much more a mm on."""
    if not (isinstance(camera, OrbitCamera) and camera.perspective):
        return camera.mm_per_px * reach, 0.0
    near, far = (camera.mm_per_px_at(origin + s * _STEP_MM * direction) for s in (1.0, 2.0))
    slope = (far - near) / _STEP_MM
    return max(near - slope * _STEP_MM, 0.0) * reach, slope * reach


def _turned_to_the_eye(p: Floats, q: Floats, starts: Ints) -> Mask:
    """(f,) faces by their corners' pixels p (c, 2) and those of the corners that follow."""
    twice = np.add.reduceat(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0], starts)
    # Pixels count downwards, so what is counter-clockwise in space turns the other way here.
    return np.asarray(twice < -1e-6)


def in_box(px: Floats, low: tuple[float, float], high: tuple[float, float]) -> Mask:
    """(n,) which pixels (n, 2) lie in a box."""
    with np.errstate(invalid="ignore"):
        return np.asarray(((px >= low) & (px <= high)).all(axis=1))


def facing_vertices(topology: Topology, px: Floats) -> Mask:
    """(n,) vertices, seen at pixels (n, 2), of faces that turn to the eye; the others can only be
    seen from behind."""
    mask = np.zeros(topology.vertex_count, bool)
    if topology.face_count:
        p = px[topology.corners]
        facing = _turned_to_the_eye(p, p[topology.next_corner], topology.offsets[:-1])
        mask[topology.corners[facing[topology.corner_face]]] = True
    return mask
