"""The outline of a mesh as a view shows it: exact, from the mesh itself.

The border of all faces turned toward the eye is a set of closed chains; what any of them winds
around is the outline. Right for open meshes too, and without uniting triangles.
"""

from __future__ import annotations

import numpy as np

from dimetron.geometry.views import AnyView
from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.manifolds import joined_section
from dimetron.mesh.solids.within import signed_area

#: Faces as good as edge-on count as turned away: this share of their area is seen at most.
_EDGE_ON = 1e-9
#: Loops of less than this share of the largest's area come of faces that are not flat.
_SLIVER = 2e-5


def outline_of(mesh: Mesh, view: AnyView) -> tuple[Floats, ...]:
    """Closed polygons (n, 2) in the view's plane, holes among them; none of an empty mesh."""
    chains = _chains(_border(mesh, view))
    if not chains:
        return ()
    plane = view.to_plane(mesh.positions)
    section = joined_section([plane[chain] for chain in chains])
    loops = [np.asarray(loop, np.float64) for loop in section.to_polygons()]
    areas = np.abs([signed_area(loop) for loop in loops])
    return tuple(
        loop for loop, area in zip(loops, areas, strict=True) if area > _SLIVER * areas.max()
    )


def _border(mesh: Mesh, view: AnyView) -> Ints:
    """(k, 2) directed edges between faces that are turned toward the eye and others. What is seen
    from behind, as of an open mesh, is turned round."""
    topology = mesh.topology
    if not topology.face_count:
        return np.zeros((0, 2), np.intp)
    toward = -(mesh.face_normals @ view.directions.forward)
    way = np.where(np.abs(toward) > _EDGE_ON, np.sign(toward), 0.0)
    start = topology.corners
    on = np.arange(len(start)) + 1
    ends = topology.offsets[1:] - 1
    on[ends] = topology.offsets[:-1]
    stop = start[on]
    # Each face adds its edges in its own sense, or the other one if it is seen from behind.
    turn = way[topology.corner_face]
    sense = np.where(start < stop, 1.0, -1.0) * turn
    sums = np.bincount(topology.corner_edge, sense, minlength=len(topology.edges))
    number = np.rint(sums).astype(np.intp)
    kept = np.flatnonzero(number)
    low, high = np.sort(topology.edges[kept], axis=1).T
    forward = np.where(
        (number[kept] > 0)[:, None], np.stack([low, high], 1), np.stack([high, low], 1)
    )
    return np.repeat(forward, np.abs(number[kept]), axis=0)


def _chains(edges: Ints) -> list[Ints]:
    """Directed edges taken apart into closed chains: at every vertex as many come as go."""
    order = np.argsort(edges[:, 0], kind="stable")
    starts, stops = edges[order].T if len(edges) else (edges[:, 0], edges[:, 1])
    first = {int(v): int(k) for v, k in zip(*np.unique(starts, return_index=True), strict=True)}
    following = dict(first)
    ends = stops.tolist()
    begins = starts.tolist()
    used = [False] * len(ends)
    chains = []
    for number in range(len(ends)):
        if used[number]:
            continue
        chain, at = [], number
        while not used[at]:
            used[at] = True
            chain.append(begins[at])
            vertex = ends[at]
            at = following.get(vertex, number)
            while at < len(ends) and begins[at] == vertex and used[at]:
                at += 1
            if at >= len(ends) or begins[at] != vertex:
                break
            following[vertex] = at
        chains.append(np.array(chain))
    return [chain for chain in chains if len(chain) > 2]
