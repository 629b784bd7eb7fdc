"""Selections that follow from what is chosen: what touches it, hangs together with it, is like
it."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.around import components
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError, unit
from dimetron.mesh.health import face_areas
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.rings import lengths
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.topology import Topology


def shared_edges(topology: Topology, faces: Ints) -> Ints:
    """(k,) edges between two of the faces."""
    edge = topology.corner_edge[topology.corners_of(faces)]
    return np.flatnonzero(np.bincount(edge, minlength=len(topology.edges)) == 2).astype(np.int32)


def grown(mesh: Mesh, chosen: Selection) -> Ints:
    """What is chosen and what touches it: faces and edges at a common vertex, vertices at a common
    face."""
    t = mesh.topology
    there = _mask(t.vertex_count, vertices_of(mesh, chosen.kind, chosen.indices))
    if chosen.kind is Kind.EDGE:
        return np.flatnonzero(there[t.edges].any(axis=1)).astype(np.int32)
    faces = _mask(t.face_count, t.corner_face[there[t.corners]])
    if chosen.kind is Kind.FACE:
        return np.flatnonzero(faces).astype(np.int32)
    there[t.corners[faces[t.corner_face]]] = True
    return np.flatnonzero(there).astype(np.int32)


def connected_with(mesh: Mesh, chosen: Selection) -> Ints:
    """All of the same kind that hangs together with it by edges."""
    t = mesh.topology
    part = components(t.vertex_count, t.edges)
    mine = _mask(t.vertex_count, part[vertices_of(mesh, chosen.kind, chosen.indices)])[part]
    if chosen.kind is Kind.EDGE:
        return np.flatnonzero(mine[t.edges[:, 0]]).astype(np.int32)
    if chosen.kind is Kind.FACE:
        return np.flatnonzero(mine[t.corners[t.offsets[:-1]]]).astype(np.int32)
    return np.flatnonzero(mine).astype(np.int32)


def flat_from(mesh: Mesh, faces: Ints, most: float) -> Ints:
    """The faces that hang together with some by edges at which they turn by no more than so many
    degrees."""
    t = mesh.topology
    starts, own = t.edge_faces
    pairs = np.flatnonzero(t.edge_face_count == 2)
    a, b = own[starts[pairs]], own[starts[pairs] + 1]
    cosine = (mesh.face_normals[a] * mesh.face_normals[b]).sum(axis=1).clip(-1, 1)
    flat = np.degrees(np.arccos(cosine)) <= most + 1e-9
    part = components(t.face_count, np.stack([a[flat], b[flat]], axis=1))
    mine = _mask(t.face_count, part[faces])
    return np.flatnonzero(mine[part]).astype(np.int32)


def similar_to(mesh: Mesh, chosen: Selection, by: str, within: float) -> Ints:
    """by: "size", "corners" or "way"; within: by what share it may differ. Raises MeshError for
    what such parts do not have."""
    if by == "way":
        ways = _ways(mesh, chosen.kind)
        return _alike_ways(ways, ways[chosen.indices], chosen.kind, within)
    values = _sizes(mesh, chosen.kind) if by == "size" else _corners(mesh, chosen.kind)
    wanted = np.unique(values[chosen.indices])
    low = np.searchsorted(wanted, values * (1 - within) - 1e-12)
    high = np.searchsorted(wanted, values * (1 + within) + 1e-12, side="right")
    return np.flatnonzero(high > low).astype(np.int32)


def _sizes(mesh: Mesh, kind: Kind) -> Floats:
    t = mesh.topology
    if kind is Kind.EDGE:
        return lengths(mesh.positions, t, np.arange(len(t.edges)))
    if kind is Kind.FACE:
        return face_areas(mesh)
    raise MeshError("Vertices have no size; choose edges or faces, or go by their corners.")


def _corners(mesh: Mesh, kind: Kind) -> Floats:
    t = mesh.topology
    if kind is Kind.FACE:
        return t.sizes.astype(np.float64)
    if kind is Kind.EDGE:
        return t.edge_face_count.astype(np.float64)
    return t.valence.astype(np.float64)


def _ways(mesh: Mesh, kind: Kind) -> Floats:
    if kind is Kind.FACE:
        return mesh.face_normals
    if kind is Kind.EDGE:
        a, b = mesh.topology.edges.T
        return unit(mesh.positions[b] - mesh.positions[a])
    raise MeshError("Vertices have no direction; choose edges or faces.")


def _alike_ways(ways: Floats, wanted: Floats, kind: Kind, within: float) -> Ints:
    """Those whose direction is one of some, within so much of a right angle."""
    least = np.cos(within * np.pi / 2) - 1e-9
    found = np.zeros(len(ways), bool)
    for way in np.unique(np.round(wanted, 6), axis=0):
        cosine = ways @ way
        found |= (np.abs(cosine) if kind is Kind.EDGE else cosine) >= least
    return np.flatnonzero(found).astype(np.int32)


def _mask(count: int, indices: Ints) -> Mask:
    there = np.zeros(count, bool)
    there[indices] = True
    return there
