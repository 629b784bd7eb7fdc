"""Slide edges along the faces beside them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import components, corners_at
from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, number
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.topology import Topology

#: As far as an edge slides, so that no face loses its area.
_MOST = 0.98


@dataclass(frozen=True)
class Slide:
    """How far, and to which side."""

    share: float = number(
        0.25,
        low=-1.0,
        high=1.0,
        drag=Drag.ACROSS,
        hint="How far toward the next edges on one side (1) or on the other (−1)",
    )


@operation("slide", title="Slide", icon="slide", takes=(Kind.EDGE,), order=5)
def slide(mesh: Mesh, chosen: Selection, how: Slide) -> Edited:
    """Slide edges along those that cross them, toward their neighbours on one side or the other."""
    t = mesh.topology
    cut = np.zeros(len(t.edges), bool)
    cut[chosen.indices] = True
    side = _sides(t, cut, chosen.indices)
    mine = np.unique(t.edges[chosen.indices])
    target, there = _targets(mesh, cut, mine, side, 1 if how.share >= 0 else 0)
    if not there.any():
        raise MeshError("Nothing lies beside these edges on that side to slide along.")
    share = abs(how.share) * _MOST
    moved = mine[there]
    placed = mesh.positions[moved] * (1 - share) + target[there] * share
    return Edited(mesh.with_moved(moved.astype(np.int32), placed), chosen)


def _sides(t: Topology, cut: Mask, edges: Ints) -> Ints:
    """(f,) 0 or 1 for the faces at the edges, by side; -1 for others. Neighbours along the chain
    are of one side; of each chain the side of its first edge's first face is 1."""
    starts, corners = t.edge_corners
    near = np.unique(t.corner_face[corners_at(t, np.unique(t.edges[edges]))])
    number = np.full(t.face_count, -1)
    number[near] = np.arange(len(near))
    inside = np.unique(t.corner_edge[t.corners_of(near)])
    pairs = inside[(t.edge_face_count[inside] == 2) & ~cut[inside]]
    a, b = (number[t.corner_face[corners[starts[pairs] + k]]] for k in (0, 1))
    both = (a >= 0) & (b >= 0)
    part = components(len(near), np.stack([a[both], b[both]], axis=1))
    first = number[t.corner_face[corners[starts[edges]]]]
    # A face that runs along the chain in the chain's own sense lies to one side of it.
    ends, chained = np.unique(t.edges[edges], return_inverse=True)
    chain = components(len(ends), chained.reshape(-1, 2))
    _, leaders = np.unique(chain[chained.reshape(-1, 2)[:, 0]], return_index=True)
    side = np.full(t.face_count, -1)
    side[near] = np.isin(part, part[first[leaders]])
    return side


def _targets(mesh: Mesh, cut: Mask, mine: Ints, side: Ints, which: int) -> tuple[Floats, Mask]:
    """(k, 3) the mean of the vertices that each of ``mine`` is joined to by edges on a side, and
    (k,) whether there is one."""
    t = mesh.topology
    corners = corners_at(t, mine)
    corners = corners[side[t.corner_face[corners]] == which]
    before = t.previous_corner[corners]
    own = np.concatenate([t.corners[corners], t.corners[corners]])
    edge = np.concatenate([t.corner_edge[corners], t.corner_edge[before]])
    other = np.concatenate([t.corners[t.next_corner[corners]], t.corners[before]])
    free = ~cut[edge]
    own, other = own[free], other[free]
    n = t.vertex_count
    count = np.bincount(own, minlength=n)
    sums = [np.bincount(own, mesh.positions[other, k], minlength=n) for k in range(3)]
    means = np.stack(sums, axis=1)[mine] / np.maximum(count[mine], 1)[:, None]
    return means, count[mine] > 0
