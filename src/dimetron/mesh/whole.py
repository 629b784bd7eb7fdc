"""Operations on a mesh as a whole. Every one returns a new mesh."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from dimetron.mesh.edit import turned_over
from dimetron.mesh.mesh import Ints, Mesh, MeshError, Topology


def of_triangles(mesh: Mesh) -> Mesh:
    """The same surface of triangles; creases are left behind."""
    corners = mesh.triangles.ravel().astype(np.int32)
    offsets = np.arange(0, len(corners) + 1, 3, dtype=np.int32)
    return Mesh(mesh.positions, Topology(offsets, corners, mesh.topology.vertex_count))


def mirrored(mesh: Mesh, axis: int) -> Mesh:
    """Its mirror image about the plane across an axis (0, 1 or 2) through the origin; faces keep
    looking outward."""
    over = np.ones(3)
    over[axis] = -1.0
    return turned_over(mesh.with_positions(mesh.positions * over + 0.0))


def welded(mesh: Mesh, within_mm: float) -> Mesh:
    """Vertices that lie within a distance of each other become one, at their mean; so do those that
    lie that near by way of others. Faces that keep fewer than three corners go; creases are left
    behind. Raises MeshError for a distance that is none.
    """
    if not np.isfinite(within_mm) or within_mm < 0:
        raise MeshError("The distance to weld within must be zero or more.")
    count = mesh.topology.vertex_count
    pairs = cKDTree(mesh.positions).query_pairs(within_mm, output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs), np.int8), pairs.T), (count, count))
    group = np.asarray(connected_components(graph, directed=False)[1])
    # In the order of the first of each, so that what is not welded stays as it was.
    _, first = np.unique(group, return_index=True)
    rank = np.empty(len(first), np.int64)
    rank[np.argsort(first, kind="stable")] = np.arange(len(first))
    new = rank[group]
    share = np.bincount(new)
    sums = [np.bincount(new, mesh.positions[:, axis]) for axis in range(3)]
    means = np.stack(sums, axis=1) / share[:, None]
    return Mesh(means, _without_repeats(mesh.topology, new, len(means)))


def _without_repeats(topology: Topology, new: Ints, count: int) -> Topology:
    """The faces with their corners renamed; a corner that is the same as the one before it goes,
    and a face of fewer than three."""
    corners = new[topology.corners]
    keep = corners != corners[topology.next_corner]
    sizes = np.bincount(topology.corner_face, keep, minlength=topology.face_count).astype(np.int64)
    keep &= (sizes >= 3)[topology.corner_face]
    offsets = np.concatenate([[0], np.cumsum(sizes[sizes >= 3])]).astype(np.int32)
    return Topology(offsets, corners[keep].astype(np.int32), count)
