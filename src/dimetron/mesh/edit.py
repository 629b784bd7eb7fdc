"""Operations on vertices and faces. Every one returns a new mesh."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from dimetron.mesh.mesh import Floats, Ints, Mask, Mesh, MeshError, Topology


def translated(mesh: Mesh, vertices: Ints, by: ArrayLike) -> Mesh:
    """Move vertices (k,) by a vector (3,)."""
    return mesh.with_moved(vertices, mesh.positions[vertices] + np.asarray(by, dtype=np.float64))


def scaled(mesh: Mesh, vertices: Ints, factors: ArrayLike, about: ArrayLike) -> Mesh:
    """Scale vertices (k,) by factors (3,) about a point (3,).

    Raises MeshError for a factor of zero, which would flatten the mesh for good.
    """
    by = np.asarray(factors, dtype=np.float64)
    if not np.isfinite(by).all() or np.any(np.abs(by) < 1e-9):
        raise MeshError("A size of zero would flatten the mesh for good.")
    centre = np.asarray(about, dtype=np.float64)
    moved = mesh.with_moved(vertices, (mesh.positions[vertices] - centre) * by + centre)
    # An odd number of negative factors turns the surface inside out.
    whole = len(np.unique(vertices)) == len(mesh.positions)
    return turned_over(moved) if whole and np.prod(np.sign(by)) < 0 else moved


def turned_over(mesh: Mesh) -> Mesh:
    """Reverse every face, so that it faces the other way."""
    topology = mesh.topology
    within = np.arange(len(topology.corners)) - topology.offsets[topology.corner_face]
    last = topology.offsets[topology.corner_face + 1] - 1
    corners = topology.corners[last - within]
    over = Topology(topology.offsets, corners, topology.vertex_count)
    return Mesh(mesh.positions, over, mesh.crease)


def extruded(mesh: Mesh, faces: Ints, by: ArrayLike) -> tuple[Mesh, Ints]:
    """Push faces (k,) out by a vector (3,) with walls along the rim of the region.

    Returns the mesh and the faces' indices in it (they keep their order and come where they were).
    Creases are kept where the edge is. Raises MeshError if no face is given.
    """
    if not len(faces):
        raise MeshError("Choose at least one face to extrude.")
    topology = mesh.topology
    chosen = np.zeros(topology.face_count, bool)
    chosen[faces] = True
    of_region = chosen[topology.corner_face]
    ring = np.unique(topology.corners[of_region])
    copy_of = np.full(topology.vertex_count, -1, np.int32)
    copy_of[ring] = topology.vertex_count + np.arange(len(ring), dtype=np.int32)

    corners = np.where(of_region, copy_of[topology.corners], topology.corners)
    walls = _rim_walls(topology, of_region, copy_of)
    sizes = np.concatenate([topology.sizes, np.full(len(walls), 4, np.int32)])
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    all_corners = np.concatenate([corners, walls.ravel()]).astype(np.int32)
    lifted = mesh.positions[ring] + np.asarray(by, dtype=np.float64)
    positions = np.concatenate([mesh.positions, lifted])
    grown = Topology(offsets, all_corners, len(positions))
    origin = np.concatenate([np.arange(topology.vertex_count, dtype=np.int32), ring])
    pushed = Mesh(positions, grown, _carried_crease(mesh, grown, origin))
    return without_loose_vertices(pushed), np.flatnonzero(chosen).astype(np.int32)


def _rim_walls(topology: Topology, of_region: Mask, copy_of: Ints) -> Ints:
    """(w, 4) quads between the rim of the region and its copy."""
    inside = np.bincount(topology.corner_edge[of_region], minlength=len(topology.edges))
    rim = of_region & (inside[topology.corner_edge] == 1)
    a = topology.corners[rim]
    b = topology.corners[topology.next_corner[rim]]
    return np.stack([a, b, copy_of[b], copy_of[a]], axis=1).astype(np.int32)


def without_faces(mesh: Mesh, faces: Ints) -> Mesh:
    """Delete faces (k,) and the vertices that no face uses any more."""
    topology = mesh.topology
    keep = np.ones(topology.face_count, bool)
    keep[faces] = False
    sizes = topology.sizes[keep]
    offsets = np.concatenate([[0], np.cumsum(sizes)]).astype(np.int32)
    corners = topology.corners[keep[topology.corner_face]]
    left = Topology(offsets, corners, topology.vertex_count)
    origin = np.arange(topology.vertex_count, dtype=np.int32)
    return without_loose_vertices(Mesh(mesh.positions, left, _carried_crease(mesh, left, origin)))


def without_loose_vertices(mesh: Mesh) -> Mesh:
    """Drop vertices that no face uses; the same mesh if there are none."""
    topology = mesh.topology
    used = np.zeros(topology.vertex_count, bool)
    used[topology.corners] = True
    if used.all():
        return mesh
    new_index = np.cumsum(used, dtype=np.int32) - 1
    corners = new_index[topology.corners].astype(np.int32)
    fewer = Topology(topology.offsets, corners, int(used.sum()))
    # The used vertices keep their order, and with them the edges theirs.
    return Mesh(mesh.positions[used], fewer, mesh.crease)


def _carried_crease(before: Mesh, topology: Topology, origin: Ints) -> NDArray[np.float32]:
    """Creases (e,) for a new topology; ``origin`` (n,) names the old vertex behind each new one."""
    if not len(before.crease):
        return before.crease
    count = max(before.topology.vertex_count, 1)
    known = before.topology.edges.astype(np.int64) @ [count, 1]
    ends = np.sort(origin[topology.edges].astype(np.int64), axis=1)
    keys = ends @ [count, 1]
    at = np.searchsorted(known, keys).clip(0, len(known) - 1)
    return np.where(known[at] == keys, before.crease[at], 0).astype(np.float32)


def region_normal(mesh: Mesh, faces: Ints) -> Floats:
    """Unit mean normal (3,) of faces (k,); up if they cancel out."""
    total = mesh.face_normals[faces].sum(axis=0)
    length = float(np.linalg.norm(total))
    return np.array([0.0, 0.0, 1.0]) if length < 1e-9 else np.asarray(total / length)
