"""The outline of a mesh as a view shows it: exact, from the mesh itself.

The border of all faces turned toward the eye is a set of closed chains; what any of them winds
around is the outline. Right for open meshes too, and without uniting triangles.
"""

from __future__ import annotations

from collections.abc import Sequence
from weakref import WeakKeyDictionary

import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.manifolds import joined_section
from dimetron.mesh.solids.within import signed_area

#: Faces that show less than this share of the square of their edges count as seen edge-on.
_EDGE_ON = 1e-9
#: Loops of less than this share of the largest's area come of faces that are not flat.
_SLIVER = 2e-5


def outline_of(mesh: Mesh, view: AnyView) -> tuple[Floats, ...]:
    """Closed polygons (n, 2) in the view's plane, holes among them; none of an empty mesh."""
    plane = view.to_plane(mesh.positions)
    return joined([plane[chain] for chain in chains_of(contour(mesh, view))])


def joined(chains: Sequence[Floats]) -> tuple[Floats, ...]:
    """What closed chains (n, 2) enclose together, as closed polygons: counter-clockwise round what
    is within, the other way round holes."""
    if not chains:
        return ()
    loops = [np.asarray(loop, np.float64) for loop in joined_section(chains).to_polygons()]
    areas = np.abs([signed_area(loop) for loop in loops])
    return tuple(
        loop for loop, area in zip(loops, areas, strict=True) if area > _SLIVER * areas.max()
    )


def contour(mesh: Mesh, view: AnyView) -> Ints:
    """(k, 2) directed edges between faces that are turned toward the eye and others, the former on
    their left. What is seen from behind, as of an open mesh, is turned round."""
    topology = mesh.topology
    if not topology.face_count:
        return np.zeros((0, 2), np.intp)
    way = _turned(mesh, view)
    # Each face adds its edges in its own sense, or the other one if it is seen from behind.
    sides = topology.sides
    between = way[sides.left] - way[sides.right]
    at = np.flatnonzero(between)
    corners = sides.odd
    odd, which = np.unique(topology.corner_edge[corners], return_inverse=True)
    sums = np.bincount(which, topology.corner_sense[corners] * way[topology.corner_face[corners]])
    kept = np.flatnonzero(sums)
    number = np.concatenate([between[at], np.rint(sums[kept]).astype(np.int8)])
    ends = topology.edges[np.concatenate([sides.edges[at], odd[kept]])]
    # Of a closed mesh every edge of the outline lies between a face before and one behind.
    number = number if (number % 2).any() else number // 2
    forward = np.where((number > 0)[:, None], ends, ends[:, ::-1])
    return np.repeat(forward, np.abs(number), axis=0)


def _turned(mesh: Mesh, view: AnyView) -> Ints:
    """(f,) 1 of faces that are seen from before, -1 from behind, 0 edge-on."""
    areas, least = _spanned(mesh)
    away = view.directions.forward @ areas
    return (away < -least).astype(np.int8) - (away > least).astype(np.int8)


def _spanned(mesh: Mesh) -> tuple[Floats, Floats]:
    """(3, f) normals as long as twice each face's area, and (f,) how much of that a face must show
    not to count as edge-on; kept for the other views."""
    known = _known.get(mesh)
    if known is None:
        sizes = mesh.topology.sizes
        alike = int(sizes.min()) == int(sizes.max()) <= 4
        areas, spans = _alike(mesh) if alike else _any(mesh)
        known = _known[mesh] = areas, _EDGE_ON * spans
    return known


_known: WeakKeyDictionary[Mesh, tuple[Floats, Floats]] = WeakKeyDictionary()


def _alike(mesh: Mesh) -> tuple[Floats, Floats]:
    """Of triangles or of quads alone."""
    corners = mesh.topology.corners.reshape(mesh.topology.face_count, -1).T
    # The diagonals of a quad span twice its area, as two sides of a triangle do.
    ends = (0, 2, 1, 3) if len(corners) == 4 else (0, 1, 0, 2)
    one, two = np.empty((3, len(corners[0]))), np.empty((3, len(corners[0])))
    for axis, values in enumerate(mesh.positions.T.copy()):
        a, b, c, d = (values[corners[k]] for k in ends)
        np.subtract(b, a, out=one[axis])
        np.subtract(d, c, out=two[axis])
    spans = np.einsum("ij,ij->j", one, one) + np.einsum("ij,ij->j", two, two)
    return _crossed(one, two), spans


def _crossed(a: Floats, b: Floats) -> Floats:
    """(3, f) cross products of (3, f); twice as quick as NumPy's own."""
    (x, y, z), (u, v, w) = a, b
    return np.stack([y * w - z * v, z * u - x * w, x * v - y * u])


def _any(mesh: Mesh) -> tuple[Floats, Floats]:
    """Of faces of any number of corners."""
    topology = mesh.topology
    first, after = topology.offsets[:-1], topology.next_corner
    # Seen from a corner of its own, lest places far off cost precision.
    origin = np.repeat(topology.corners[first], topology.sizes)
    arms = mesh.positions[topology.corners] - mesh.positions[origin]
    spans = np.add.reduceat(((arms[after] - arms) ** 2).sum(axis=1), first)
    areas = _crossed(arms.T, arms[after].T)
    return np.add.reduceat(areas, first, axis=1), spans


def chains_of(edges: Ints) -> list[Ints]:
    """Directed edges taken apart into closed chains: at every vertex as many come as go."""
    following: dict[int, int] = {}
    # Where several edges begin at a vertex, the further ones.
    more: dict[int, list[int]] = {}
    for begin, end in edges.tolist():
        if begin in following:
            more.setdefault(begin, []).append(end)
        else:
            following[begin] = end

    def refill(vertex: int) -> None:
        """The next of the edges that begin at a vertex is to be followed from now on."""
        following[vertex] = more[vertex].pop()
        if not more[vertex]:
            del more[vertex]

    chains = []
    while following:
        start, at = following.popitem()
        if start in more:
            refill(start)
        chain = [start]
        while at != start and at in following:
            chain.append(at)
            after = following.pop(at)
            if at in more:
                refill(at)
            at = after
        chains.append(np.array(chain))
    return [chain for chain in chains if len(chain) > 2]
