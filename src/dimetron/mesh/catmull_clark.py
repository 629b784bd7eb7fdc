"""Catmull-Clark subdivision as matrices: how the finer points follow from the coarser ones.

Source: E. Catmull and J. Clark, Recursively generated B-spline surfaces on arbitrary topological
meshes, Computer-Aided Design 10 (1978); creases after T. DeRose, M. Kass and T. Truong, Subdivision
surfaces in character animation, SIGGRAPH 1998.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING
from weakref import WeakKeyDictionary

import numpy as np

from dimetron.mesh.arrays import MOST_CORNERS, Floats, Ints, MeshError
from dimetron.mesh.layers import CREASE, PEAK
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import Topology

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

#: A crease below one is sharp for so many levels times its value, and smooth from there on.
_LEVELS = 10.0
#: Sharp for ever.
_FOR_EVER = 1e9


@dataclass(frozen=True, eq=False)
class Level:
    """One refinement. weights (n', n): the finer points by the coarser ones; edges (e',): the
    coarser edge of which each finer one is a half, -1 for those within faces; sharp (e',), peaks
    (n',): how many levels edges and vertices stay sharp."""

    before: Topology
    finer: Topology
    weights: csr_matrix
    edges: Ints
    sharp: Floats
    peaks: Floats


def level_of(topology: Topology, sharp: Floats, peaks: Floats) -> Level:
    """Refine once. sharp (e,), peaks (n,): for how many levels more edges and vertices are
    sharp."""
    t = topology
    n, e = t.vertex_count, len(t.edges)
    to_faces = _face_means(t)
    to_edges = _edge_means(t)
    now = np.clip(np.where(t.edge_face_count == 2, sharp, 1.0), 0.0, 1.0)
    edge_points = _edge_points(t, to_faces, to_edges, now)
    vertex_points = _vertex_points(t, to_faces, to_edges, now, np.clip(peaks, 0.0, 1.0))
    weights = _stacked(vertex_points, edge_points, to_faces)
    # Each corner gives a quad: vertex, its edge, the face, the edge that leads here.
    leads = t.corner_edge[t.previous_corner]
    quads = np.stack([t.corners, n + t.corner_edge, n + e + t.corner_face, n + leads], axis=1)
    offsets = np.arange(0, quads.size + 1, 4, dtype=np.int32)
    finer = Topology(offsets, quads.ravel().astype(np.int32), n + e + t.face_count)
    halves = _halves(finer, n, e)
    # Of what is sharp for ever nothing is taken.
    less = np.maximum(sharp - (sharp < _FOR_EVER), 0.0)
    finer_sharp = np.where(halves < 0, 0.0, np.append(less, 0.0)[halves])
    finer_peaks = np.zeros(finer.vertex_count)
    finer_peaks[:n] = np.maximum(peaks - (peaks < _FOR_EVER), 0.0)
    return Level(t, finer, weights, halves, finer_sharp, finer_peaks)


def sharpness(mesh: Mesh) -> tuple[Floats, Floats]:
    """(e,), (n,) for how many levels the mesh's edges and vertices are sharp, by its layers."""
    found = []
    for name, count in ((CREASE, len(mesh.topology.edges)), (PEAK, len(mesh.positions))):
        layer = mesh.layers.get(name)
        value = np.zeros(count) if layer is None else layer.values.astype(np.float64)
        found.append(np.where(value >= 1.0, _FOR_EVER, np.clip(value, 0.0, 1.0) * _LEVELS))
    return found[0], found[1]


def as_crease(sharp: Floats) -> Floats:
    """How layers keep what is sharp for so many levels."""
    return np.asarray(np.where(sharp >= _FOR_EVER, 1.0, sharp / _LEVELS))


@dataclass(frozen=True, eq=False)
class Smooth:
    """The smooth surface of meshes of one topology and one kind of creases, by levels."""

    levels: tuple[Level, ...]

    @property
    def topology(self) -> Topology:
        """Of the finest level."""
        return self.levels[-1].finer

    def positions(self, cage: Floats) -> Floats:
        """(n', 3) where its points are when the cage's are at (n, 3)."""
        for level in self.levels:
            cage = level.weights @ cage
        return np.asarray(cage)


_known: WeakKeyDictionary[Topology, tuple[list[object], Smooth]] = WeakKeyDictionary()


def smooth_of(mesh: Mesh, levels: int) -> Smooth:
    """What makes the mesh's smooth surface, at least one level deep; kept while its topology and
    its creases are the same. Raises MeshError if it would be too fine."""
    refusal(mesh, levels)
    key: list[object] = [mesh.layers[name].values for name in (CREASE, PEAK) if name in mesh.layers]
    kept = _known.get(mesh.topology)
    if kept is not None and _same(kept[0], key) and len(kept[1].levels) >= levels:
        return Smooth(kept[1].levels[:levels])
    made: list[Level] = []
    topology = mesh.topology
    sharp, peaks = sharpness(mesh)
    for _ in range(levels):
        made.append(level_of(topology, sharp, peaks))
        topology, sharp, peaks = made[-1].finer, made[-1].sharp, made[-1].peaks
    smooth = Smooth(tuple(made))
    _known[mesh.topology] = key, smooth
    return smooth


def _same(before: list[object], now: list[object]) -> bool:
    return len(before) == len(now) and all(a is b for a, b in zip(before, now, strict=True))


def refusal(mesh: Mesh, levels: int) -> None:
    """Raises MeshError if there would be too many faces."""
    if len(mesh.topology.corners) * 4**levels > MOST_CORNERS:
        raise MeshError("That would be more faces than can be worked with; take fewer levels.")


def matrix(weights: Floats, rows: Ints, columns: Ints, shape: tuple[int, int]) -> csr_matrix:
    """A sparse matrix by its entries; those at the same place are summed."""
    from scipy.sparse import csr_matrix  # takes a while; only what is mixed needs it

    return csr_matrix((weights, (rows, columns)), shape)


def _along(values: Floats) -> csr_matrix:
    """Values along the diagonal."""
    every = np.arange(len(values))
    return matrix(values, every, every, (len(values), len(values)))


def _face_means(t: Topology) -> csr_matrix:
    """(f, n)"""
    share = np.repeat(1.0 / t.sizes, t.sizes)
    return matrix(share, t.corner_face, t.corners, (t.face_count, t.vertex_count))


def _edge_means(t: Topology) -> csr_matrix:
    """(e, n)"""
    e = len(t.edges)
    rows = np.repeat(np.arange(e), 2)
    return matrix(np.full(2 * e, 0.5), rows, t.edges.ravel(), (e, t.vertex_count))


def _edge_points(
    t: Topology, to_faces: csr_matrix, to_edges: csr_matrix, sharp: Floats
) -> csr_matrix:
    meeting = np.maximum(t.edge_face_count, 1)
    ones = np.ones(len(t.corners))
    faces = matrix(ones, t.corner_edge, t.corner_face, (len(t.edges), t.face_count))
    smooth = (to_edges + _along(1.0 / meeting) @ faces @ to_faces) * 0.5
    return _along(1.0 - sharp) @ smooth + _along(sharp) @ to_edges


def _vertex_points(
    t: Topology, to_faces: csr_matrix, to_edges: csr_matrix, sharp: Floats, peaks: Floats
) -> csr_matrix:
    n, e = t.vertex_count, len(t.edges)
    ends = t.edges.ravel()
    edge_of = np.repeat(np.arange(e), 2)
    valence = np.maximum(np.bincount(ends, minlength=n), 1).astype(np.float64)
    meeting = np.maximum(np.bincount(t.corners, minlength=n), 1).astype(np.float64)
    stay = _along(np.ones(n))
    at_edges = matrix(np.ones(2 * e), ends, edge_of, (n, e))
    at_faces = matrix(np.ones(len(t.corners)), t.corners, t.corner_face, (n, t.face_count))
    faces_mean = _along(1.0 / meeting) @ at_faces @ to_faces
    edges_mean = _along(1.0 / valence) @ at_edges @ to_edges
    smooth = _along(1.0 / valence) @ (faces_mean + 2 * edges_mean) + _along(1 - 3 / valence) @ stay
    # Along two sharp edges a vertex follows the spline, at more it stays.
    is_sharp = sharp[edge_of] > 0
    lines = np.bincount(ends, is_sharp, minlength=n)
    some = np.maximum(lines, 1)
    strength = np.bincount(ends, sharp[edge_of], minlength=n) / some
    kept = matrix(is_sharp.astype(np.float64), ends, edge_of, (n, e))
    spline = _along(0.5 / some) @ kept @ to_edges + 0.5 * stay
    firm = np.where(lines > 2, strength, 0.0)
    creased = np.where(lines == 2, strength, 0.0)
    loose = np.bincount(t.corners, minlength=n) == 0
    firm = np.where(loose, 1.0, np.maximum(firm, peaks))
    creased = np.minimum(creased, 1 - firm)
    return _along(1 - firm - creased) @ smooth + _along(creased) @ spline + _along(firm) @ stay


def _stacked(*parts: csr_matrix) -> csr_matrix:
    from scipy.sparse import csr_matrix, vstack

    whole = csr_matrix(vstack(parts))
    # Sums come out the same, whoever has looked at the matrix in between.
    whole.sort_indices()
    return whole


def _halves(finer: Topology, n: int, e: int) -> Ints:
    """(e',) the old edge of which each new one is a half; -1 for those within a face."""
    low, high = finer.edges.T
    return np.where((low < n) & (high < n + e), high - n, -1).astype(np.int32)
