"""What gestures do to vertices and faces. Every one returns a new mesh."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike

from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.edited import Origin, rebuilt
from dimetron.mesh.frames import WORLD
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import Topology


def translated(mesh: Mesh, vertices: Ints, by: ArrayLike) -> Mesh:
    """Move vertices (k,) by a vector (3,)."""
    return mesh.with_moved(vertices, mesh.positions[vertices] + np.asarray(by, dtype=np.float64))


def scaling(
    factors: ArrayLike, about: ArrayLike, axes: Floats = WORLD
) -> Callable[[Floats], Floats]:
    """What scales points (n, 3) by factors (3,) along axes (3, 3) about a point (3,), or about one
    (n, 3) of each.

    Raises MeshError for a factor of zero, which would flatten a mesh for good.
    """
    by = np.asarray(factors, dtype=np.float64)
    if not np.isfinite(by).all() or np.any(np.abs(by) < 1e-9):
        raise MeshError("A size of zero would flatten the mesh for good.")
    centre = np.asarray(about, dtype=np.float64)
    if axes is WORLD:
        return lambda points: (points - centre) * by + centre
    along = (axes.T * by) @ axes
    return lambda points: (points - centre) @ along + centre


def scaled(
    mesh: Mesh, vertices: Ints, factors: ArrayLike, about: ArrayLike, axes: Floats = WORLD
) -> Mesh:
    """Scale vertices (k,) by factors (3,) along axes (3, 3) about a point (3,), or about one (k, 3)
    of each. Raises MeshError."""
    by = np.asarray(factors, dtype=np.float64)
    moved = mesh.with_moved(vertices, scaling(by, about, axes)(mesh.positions[vertices]))
    # An odd number of negative factors turns the surface inside out.
    whole = len(np.unique(vertices)) == len(mesh.positions)
    return turned_over(moved) if whole and np.prod(np.sign(by)) < 0 else moved


def turned_over(mesh: Mesh, faces: Ints | None = None) -> Mesh:
    """Reverse faces (k,), or all of them, so that they face the other way."""
    topology = mesh.topology
    corner = topology.reversed_corner
    if faces is not None:
        chosen = np.zeros(topology.face_count, bool)
        chosen[faces] = True
        corner = np.where(chosen[topology.corner_face], corner, np.arange(len(corner)))
    over = Topology(topology.offsets, topology.corners[corner], topology.vertex_count)
    vertex = np.arange(topology.vertex_count, dtype=np.int32)
    face = np.arange(topology.face_count, dtype=np.int32)
    return rebuilt(mesh, mesh.positions, over, Origin(vertex, face, corner)).mesh


def region_normal(mesh: Mesh, faces: Ints) -> Floats:
    """Unit mean normal (3,) of faces (k,); up if they cancel out."""
    total = mesh.face_normals[faces].sum(axis=0)
    length = float(np.linalg.norm(total))
    return np.array([0.0, 0.0, 1.0]) if length < 1e-9 else np.asarray(total / length)
