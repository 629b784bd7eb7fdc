"""Which way vertices look, and which way they go when all faces around them move out by the same
distance."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, unit
from dimetron.mesh.mesh import Mesh

#: Directions in which faces around a vertex hardly differ say nothing.
_FLAT = 1e-3
#: At a sharp point a vertex goes this many times the distance at most.
_LONGEST = 8.0


def vertex_normals(mesh: Mesh, corners: Ints | None = None) -> Floats:
    """(n, 3) unit mean normals of the faces at each vertex, of those that corners (c,) are of if
    they are given; zero where there is none."""
    t = mesh.topology
    at, face = t.corners, t.corner_face
    if corners is not None:
        at, face = at[corners], face[corners]
    normal = mesh.face_normals[face]
    total = [np.bincount(at, normal[:, k], minlength=t.vertex_count) for k in range(3)]
    # Of no corners the sums are whole numbers.
    return unit(np.stack(total, axis=1).astype(np.float64))


def offset_ways(mesh: Mesh) -> Floats:
    """(n, 3) where each vertex goes for a distance of one: as near as can be to the planes of all
    its faces moved out by one; nowhere for loose vertices.

    By least squares over the faces' normals, without the directions in which these do not differ.
    """
    t = mesh.topology
    n = t.vertex_count
    normal = mesh.face_normals[t.corner_face]
    total = np.stack([np.bincount(t.corners, normal[:, k], minlength=n) for k in range(3)], axis=1)
    square = np.empty((n, 3, 3))
    for i in range(3):
        for j in range(i, 3):
            products = np.bincount(t.corners, normal[:, i] * normal[:, j], minlength=n)
            square[:, i, j] = square[:, j, i] = products
    values, vectors = np.linalg.eigh(square)
    most = np.maximum(values[:, -1:], 1e-12)
    counts = values > _FLAT * most
    inverse = np.where(counts, 1.0 / np.where(counts, values, 1.0), 0.0)
    along = np.einsum("nji,nj->ni", vectors, total) * inverse
    way = np.einsum("nij,nj->ni", vectors, along)
    long = np.linalg.norm(way, axis=1, keepdims=True)
    return np.asarray(way * np.minimum(1.0, _LONGEST / np.maximum(long, 1e-12)))
