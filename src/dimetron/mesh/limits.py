"""Where the points of a cage come to lie on its smooth surface, and cages that are made to keep it.

Source: M. Halstead, M. Kass and T. DeRose, Efficient, fair interpolation using Catmull-Clark
surfaces, SIGGRAPH 1993, for the weights of the limit; Y. Chen and G. Medioni, Object modelling by
registration of multiple range images, Image and Vision Computing 10 (1992), for fitting to planes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.catmull_clark import matrix, smooth_of
from dimetron.mesh.edited import without_faces
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.offsets import vertex_normals
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.smooth_surface import surface_of
from dimetron.mesh.spreading import grown
from dimetron.mesh.topology import Topology

if TYPE_CHECKING:
    from scipy.sparse import csr_matrix

#: Levels after which creases have run out or stay for ever, as good as; and how sharp an edge is
#: then that stays so.
_LEVELS, _SHARP = 2, 0.5
#: What is worked out for a part of a mesh holds where so many rings of faces lie around it.
_RINGS = 3
#: The old surface is looked up at about so many points at most, and the new one fitted so often,
#: vertices held back so much.
_POINTS, _TIMES, _HELD = 300_000, 4, 0.1


def limit_weights(mesh: Mesh, rows: Ints | None = None) -> csr_matrix:
    """(m, n) the points of the smooth surface at the vertices of its second level, or at some of
    them (m,), by the cage's; the cage's own come first, then those in the middle of its edges and
    faces. Of a part of a mesh rather than of one with many faces. Raises MeshError if it is too
    large."""
    smooth = smooth_of(mesh, _LEVELS)
    first, last = smooth.levels
    limit = _limit(last.finer, last.sharp, last.peaks)
    if rows is not None:
        return limit[rows] @ last.weights @ first.weights
    return limit @ (last.weights @ first.weights)


def _limit(t: Topology, sharp: Floats, peaks: Floats) -> csr_matrix:
    """(n, n) the limit of each vertex of a mesh of quads."""
    n, ends = t.vertex_count, t.edges.ravel()
    edge_of = np.repeat(np.arange(len(t.edges)), 2)
    valence = np.maximum(np.bincount(ends, minlength=n), 1).astype(np.float64)
    is_sharp = (sharp > _SHARP) | (t.edge_face_count != 2)
    lines = np.bincount(ends, is_sharp[edge_of], minlength=n)
    firm = (lines > 2) | (peaks > _SHARP) | (np.bincount(t.corners, minlength=n) == 0)
    creased = (lines == 2) & ~firm
    smooth = ~firm & ~creased
    other = t.edges[edge_of].sum(axis=1) - ends
    opposite = t.corners[t.next_corner[t.next_corner]]
    every = np.arange(n)
    share = 1.0 / (valence * (valence + 5))
    own = np.where(firm, 1.0, np.where(creased, 4 / 6, valence**2 * share))
    along = np.where(smooth[ends], 4 * share[ends], 0.0)
    along = np.where(creased[ends] & is_sharp[edge_of], 1 / 6, along)
    across = np.where(smooth[t.corners], share[t.corners], 0.0)
    return matrix(
        np.concatenate([own, along, across]),
        np.concatenate([every, ends, t.corners]),
        np.concatenate([every, other, opposite]),
        (n, n),
    )


@dataclass(frozen=True, eq=False)
class Part:
    """Some faces of a mesh as one of their own. vertices (k,): its vertices as the whole counts
    them."""

    mesh: Mesh
    vertices: Ints


def part_around(mesh: Mesh, faces: Ints, rings: int) -> Part:
    """The faces (k,) and those around them, ring after ring."""
    t = mesh.topology
    for _ in range(rings):
        faces = grown(mesh, Selection(Kind.FACE, faces))
    rest = np.setdiff1d(np.arange(t.face_count), faces)
    return Part(without_faces(mesh, rest).mesh, vertices_of(mesh, Kind.FACE, faces))


def surface_kept(before: Mesh, after: Mesh, faces: Ints) -> Mesh:
    """A mesh in which faces (f,) of ``before`` were divided, so that it has further vertices at the
    end; those and the vertices around them moved so that the smooth surface stays as it was, as
    nearly as this cage can have it."""
    t = after.topology
    new = np.unique(t.corner_face[t.corners >= len(before.positions)])
    free, around = part_around(after, new, 1).vertices, part_around(after, new, _RINGS)
    number = np.full(t.vertex_count, -1)
    number[around.vertices] = np.arange(len(around.vertices))
    old = _Old(part_around(before, faces, _RINGS + 1).mesh)
    return after.with_moved(free, _fitted(around.mesh, number[free], old))


class _Old:
    """A smooth surface as points with normals."""

    def __init__(self, mesh: Mesh) -> None:
        from scipy.spatial import cKDTree  # takes a while; only what keeps a surface needs it

        levels = 1
        while levels < 4 and len(mesh.topology.corners) * 4**levels < _POINTS:
            levels += 1
        fine = surface_of(mesh, levels)
        self._points, self._normals = fine.positions, vertex_normals(fine)
        self._tree = cKDTree(self._points)

    def off(self, points: Floats) -> tuple[Floats, Floats]:
        """(k,) how far the surface lies off points (k, 3), and (k, 3) along which normal."""
        at = self._tree.query(points)[1]
        normals = self._normals[at]
        return ((self._points[at] - points) * normals).sum(axis=1), normals


def _fitted(mesh: Mesh, free: Ints, old: _Old) -> Floats:
    """(k, 3) where vertices (k,) of the cage go so that its surface lies on the old one: they are
    moved along its normals until the planes there meet, each no farther than it has to be."""
    from scipy.sparse import diags, hstack, identity, vstack
    from scipy.sparse.linalg import lsmr

    weights = limit_weights(mesh)
    counts = np.asarray(abs(weights[:, free]).sum(axis=1)).ravel() > 1e-3
    weights = weights[counts]
    own = weights[:, free]
    held = _HELD * identity(3 * len(free))
    positions, rest = mesh.positions.copy(), np.zeros(3 * len(free))
    for _ in range(_TIMES):
        off, normals = old.off(weights @ positions)
        along = hstack([diags(normals[:, axis]) @ own for axis in range(3)])
        moved = lsmr(vstack([along, held]).tocsr(), np.concatenate([off, rest]))[0]
        positions[free] += moved.reshape(3, -1).T
    return np.asarray(positions[free])
