"""Edges that draw a mesh as a draughtsman would: borders, sharp edges, and its outline."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.layers import CREASE
from dimetron.mesh.mesh import Mesh

#: Faces that meet at a sharper turn than this have an edge worth drawing.
SHARP_DEG = 25.0


def feature_edges(mesh: Mesh, forward: Floats, sharp_deg: float = SHARP_DEG) -> Ints:
    """(k,) indices into ``topology.edges`` of those that show in a parallel view along ``forward``
    (3,): borders, sharp edges, and edges between a face that is seen and one that is not."""
    sharp, facing = _kinds(mesh, forward, sharp_deg)
    return np.flatnonzero(sharp | facing).astype(np.int32)


def sharp_edges(mesh: Mesh, sharp_deg: float = SHARP_DEG) -> Ints:
    """(k,) borders, sharp edges and creases, from wherever one looks."""
    sharp, _ = _kinds(mesh, np.zeros(3), sharp_deg)
    if CREASE in mesh.layers:
        sharp = sharp | (mesh.layers[CREASE].values > 0)
    return np.flatnonzero(sharp).astype(np.int32)


def _kinds(mesh: Mesh, forward: Floats, sharp_deg: float) -> tuple[Mask, Mask]:
    """(e,) which edges are borders or sharp, and (e,) which lie between a face that is seen and one
    that is not."""
    topology = mesh.topology
    count = len(topology.edges)
    if not count:
        return np.zeros(0, bool), np.zeros(0, bool)
    normals = mesh.face_normals
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = normals / np.where(lengths > 0, lengths, 1.0)
    order = np.argsort(topology.corner_edge, kind="stable")
    first = np.searchsorted(topology.corner_edge[order], np.arange(count))
    faces = topology.corner_face[order]
    a = faces[first]
    b = faces[np.minimum(first + 1, len(faces) - 1)]
    paired = topology.edge_face_count == 2
    facing = normals @ forward < 0
    turn = np.einsum("ij,ij->i", normals[a], normals[b])
    return ~paired | (turn < np.cos(np.radians(sharp_deg))), facing[a] != facing[b]
