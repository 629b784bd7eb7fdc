"""Edges that draw a mesh as a draughtsman would: borders, sharp edges, and its outline."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh

#: Faces that meet at a sharper turn than this have an edge worth drawing.
SHARP_DEG = 25.0


def feature_edges(mesh: Mesh, forward: Floats, sharp_deg: float = SHARP_DEG) -> Ints:
    """(k,) indices into ``topology.edges`` of those that show in a parallel view along ``forward``
    (3,): borders, sharp edges, and edges between a face that is seen and one that is not."""
    topology = mesh.topology
    count = len(topology.edges)
    if not count:
        return np.zeros(0, np.int32)
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
    shows = ~paired | (turn < np.cos(np.radians(sharp_deg))) | (facing[a] != facing[b])
    return np.flatnonzero(shows).astype(np.int32)
