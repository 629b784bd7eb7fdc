"""Edges between two faces turned to the next corners."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Ints, MeshError
from dimetron.mesh.dissolving import twins
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.replaced import Faces, Replacement, replaced
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology


@operation("turn-edge", title="Turn edge", icon="turn-edge", takes=(Kind.EDGE,), order=35)
def turn_edge(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Let an edge between two faces run between the next corners of both.

    A face is turned once at most: of chosen edges of the same face the first one counts. Edges of
    a border stay. Twice back to back brings triangles back to where they were.
    """
    t = mesh.topology
    twin = twins(t)
    corners = _apart(t, twin, chosen.indices)
    if not len(corners):
        raise MeshError("Only edges between two faces can be turned; choose such edges.")
    other = twin[corners]
    begin, end = (
        t.corners[t.next_corner[t.next_corner[corners]]],
        t.corners[t.next_corner[t.next_corner[other]]],
    )
    free = t.edge_between(begin, end) < 0
    if not free.any():
        raise MeshError("There is an edge already where this one would come to lie.")
    corners, other, begin, end = corners[free], other[free], begin[free], end[free]
    faces = np.concatenate([t.corner_face[corners], t.corner_face[other]])
    made = _turned(t, corners, other)
    done = replaced(mesh, Replacement(gone=faces, faces=(made,))).mesh
    edges = np.unique(done.topology.edge_between(begin, end))
    return Edited(done, Selection(Kind.EDGE, edges.astype(np.int32)))


def _apart(t: Topology, twin: Ints, edges: Ints) -> Ints:
    """(k,) corners that the edges start at, of edges that share no face."""
    taken: set[int] = set()
    found = []
    starts, at = t.edge_corners
    for corner in at[starts[edges]].tolist():
        other = int(twin[corner])
        mine = {int(t.corner_face[corner]), int(t.corner_face[other])}
        if other >= 0 and not mine & taken:
            taken |= mine
            found.append(corner)
    return np.array(found, np.int32)


def _turned(t: Topology, corners: Ints, others: Ints) -> Faces:
    """Both faces of each edge, either with the other's next corner instead of the edge's end."""
    sizes, flat, owner = [], [], []
    for a, b in zip(corners.tolist(), others.tolist(), strict=True):
        for own, far in ((a, b), (b, a)):
            face = int(t.corner_face[own])
            low, size = int(t.offsets[face]), int(t.sizes[face])
            # From behind the edge's end round to its begin, and then the far face's next corner.
            ring = low + (own - low + 2 + np.arange(size - 1)) % size
            sizes.append(size)
            flat.append(np.append(ring, t.next_corner[t.next_corner[far]]))
            owner.append(face)
    corner = np.concatenate(flat).astype(np.int32)
    return Faces(np.array(sizes, np.int32), t.corners[corner], np.array(owner, np.int32), corner)
