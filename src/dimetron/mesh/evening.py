"""Halves and their mirror images."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.edited import Origin, rebuilt
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.shells import reversed_corners
from dimetron.mesh.topology import Topology


def mirrored_points(positions: Floats, axis: int, at: float = 0.0) -> Floats:
    """Positions (n, 3) across a plane square to an axis."""
    image = positions.copy()
    image[:, axis] = 2 * at - positions[:, axis]
    return image


def with_mirrored(mesh: Mesh, axis: int, at: float = 0.0, seam: float = 0.0) -> Mesh:
    """The mesh with its mirror image; vertices within ``seam`` mm of the middle are shared, and
    stand exactly there."""
    t = mesh.topology
    n = t.vertex_count
    on = np.abs(mesh.positions[:, axis] - at) <= seam
    stood = mesh.positions.copy()
    stood[on, axis] = at
    image = np.where(on, np.arange(n), n + np.cumsum(~on) - 1)
    positions = np.concatenate([stood, mirrored_points(stood[~on], axis, at)])
    over = reversed_corners(t)
    topology = Topology(
        np.concatenate([t.offsets, t.offsets[-1] + t.offsets[1:]]).astype(np.int32),
        np.concatenate([t.corners, image[t.corners[over]]]).astype(np.int32),
        len(positions),
    )
    vertex: Ints = np.concatenate([np.arange(n), np.flatnonzero(~on)])
    face, corner = np.arange(t.face_count), np.arange(len(t.corners))
    origin = Origin(vertex, np.concatenate([face, face]), np.concatenate([corner, over]))
    return rebuilt(mesh, positions, topology, origin).mesh
