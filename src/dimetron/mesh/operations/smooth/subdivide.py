"""Catmull-Clark subdivision."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.layers import CREASE
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import count
from dimetron.mesh.select import Selection
from dimetron.mesh.topology import Topology

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

#: More corners than this are beyond what a mesh is worked on with.
_MOST_CORNERS = 60_000_000


@dataclass(frozen=True)
class Subdivide:
    """How often."""

    levels: int = count(1, high=6, hint="How often each face is divided")


@operation("subdivide", title="Subdivide", icon="circle-dotted", key="U")
def subdivide(mesh: Mesh, chosen: Selection, how: Subdivide) -> Edited:
    """Divide every face into quads that lie on a smooth surface (Catmull-Clark).

    Border edges follow the cubic spline's rule, creased ones in the measure of their crease.
    Source: E. Catmull and J. Clark, Recursively generated B-spline surfaces on arbitrary
    topological meshes, Computer-Aided Design 10 (1978); creases after T. DeRose, M. Kass and
    T. Truong, Subdivision surfaces in character animation, SIGGRAPH 1998.
    """
    if len(mesh.topology.corners) * 4**how.levels > _MOST_CORNERS:
        raise MeshError("That would be more faces than can be worked with; take fewer levels.")
    done = Edited(mesh, chosen)
    for _ in range(how.levels):
        done = _once(done.mesh, done.selection)
    return done


def _once(mesh: Mesh, chosen: Selection) -> Edited:
    t = mesh.topology
    n, e = t.vertex_count, len(t.edges)
    to_faces = _face_means(t)
    to_edges = _edge_means(t)
    sharp = _sharpness(mesh)
    edge_points = _edge_points(t, to_faces, to_edges, sharp)
    vertex_points = _vertex_points(t, to_faces, to_edges, sharp)
    weights = _stacked(vertex_points, edge_points, to_faces)
    # Each corner gives a quad: vertex, its edge, the face, the edge that leads here.
    before = np.empty(len(t.corners), np.int32)
    before[t.next_corner] = t.corner_edge
    quads = np.stack([t.corners, n + t.corner_edge, n + e + t.corner_face, n + before], axis=1)
    offsets = np.arange(0, quads.size + 1, 4, dtype=np.int32)
    finer = Topology(offsets, quads.ravel().astype(np.int32), n + e + t.face_count)
    origin = Origin(weights, t.corner_face, _corner_weights(t), _halves(finer, n, e))
    return rebuilt(mesh, weights @ mesh.positions, finer, origin, chosen)


def _sharpness(mesh: Mesh) -> Floats:
    """(e,) 0 to 1: how much of the border's rule each edge follows."""
    t = mesh.topology
    crease = mesh.layers.get(CREASE)
    sharp = np.zeros(len(t.edges)) if crease is None else crease.values.astype(np.float64)
    return np.where(t.edge_face_count == 2, np.clip(sharp, 0.0, 1.0), 1.0)


def _matrix(weights: Floats, rows: Ints, columns: Ints, shape: tuple[int, int]) -> csr_matrix:
    from scipy.sparse import csr_matrix  # takes a while; only what is mixed needs it

    return csr_matrix((weights, (rows, columns)), shape)


def _along(values: Floats) -> csr_matrix:
    """Values along the diagonal."""
    every = np.arange(len(values))
    return _matrix(values, every, every, (len(values), len(values)))


def _face_means(t: Topology) -> csr_matrix:
    """(f, n)"""
    share = np.repeat(1.0 / t.sizes, t.sizes)
    return _matrix(share, t.corner_face, t.corners, (t.face_count, t.vertex_count))


def _edge_means(t: Topology) -> csr_matrix:
    """(e, n)"""
    e = len(t.edges)
    rows = np.repeat(np.arange(e), 2)
    return _matrix(np.full(2 * e, 0.5), rows, t.edges.ravel(), (e, t.vertex_count))


def _edge_points(
    t: Topology, to_faces: csr_matrix, to_edges: csr_matrix, sharp: Floats
) -> csr_matrix:
    meeting = np.maximum(t.edge_face_count, 1)
    ones = np.ones(len(t.corners))
    faces = _matrix(ones, t.corner_edge, t.corner_face, (len(t.edges), t.face_count))
    smooth = (to_edges + _along(1.0 / meeting) @ faces @ to_faces) * 0.5
    return _along(1.0 - sharp) @ smooth + _along(sharp) @ to_edges


def _vertex_points(
    t: Topology, to_faces: csr_matrix, to_edges: csr_matrix, sharp: Floats
) -> csr_matrix:
    n, e = t.vertex_count, len(t.edges)
    ends = t.edges.ravel()
    edge_of = np.repeat(np.arange(e), 2)
    valence = np.maximum(np.bincount(ends, minlength=n), 1).astype(np.float64)
    meeting = np.maximum(np.bincount(t.corners, minlength=n), 1).astype(np.float64)
    stay = _along(np.ones(n))
    at_edges = _matrix(np.ones(2 * e), ends, edge_of, (n, e))
    at_faces = _matrix(np.ones(len(t.corners)), t.corners, t.corner_face, (n, t.face_count))
    faces_mean = _along(1.0 / meeting) @ at_faces @ to_faces
    edges_mean = _along(1.0 / valence) @ at_edges @ to_edges
    smooth = _along(1.0 / valence) @ (faces_mean + 2 * edges_mean) + _along(1 - 3 / valence) @ stay
    # Along two sharp edges a vertex follows the spline, at more it stays.
    is_sharp = sharp[edge_of] > 0
    lines = np.bincount(ends, is_sharp, minlength=n)
    some = np.maximum(lines, 1)
    strength = np.bincount(ends, sharp[edge_of], minlength=n) / some
    kept = _matrix(is_sharp.astype(np.float64), ends, edge_of, (n, e))
    spline = _along(0.5 / some) @ kept @ to_edges + 0.5 * stay
    firm = np.where(lines > 2, strength, 0.0)
    creased = np.where(lines == 2, strength, 0.0)
    loose = np.bincount(t.corners, minlength=n) == 0
    firm = np.where(loose, 1.0, firm)
    return _along(1 - firm - creased) @ smooth + _along(creased) @ spline + _along(firm) @ stay


def _stacked(*parts: csr_matrix) -> csr_matrix:
    from scipy.sparse import csr_matrix, vstack

    return csr_matrix(vstack(parts))


def _corner_weights(t: Topology) -> csr_matrix:
    """(4c, c) how the new corners lie between the old ones of their face."""
    c = len(t.corners)
    own = np.arange(c)
    before = np.empty(c, np.int64)
    before[t.next_corner] = own
    size = t.sizes[t.corner_face]
    mates = t.corners_of(t.corner_face)
    rows = [4 * own, *[4 * own + 1] * 2, np.repeat(4 * own + 2, size), *[4 * own + 3] * 2]
    columns = [own, own, t.next_corner, mates, own, before]
    half = np.full(c, 0.5)
    weights = [np.ones(c), half, half, np.repeat(1.0 / size, size), half, half]
    places = np.concatenate(rows), np.concatenate(columns)
    return _matrix(np.concatenate(weights), *places, (4 * c, c))


def _halves(finer: Topology, n: int, e: int) -> Ints:
    """(e',) the old edge of which each new one is a half; -1 for those within a face."""
    low, high = finer.edges.T
    return np.where((low < n) & (high < n + e), high - n, -1).astype(np.int32)
