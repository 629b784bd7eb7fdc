"""Make one of vertices that lie together."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited, merged
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import length
from dimetron.mesh.select import Kind, Selection


@dataclass(frozen=True)
class Weld:
    """How near is the same."""

    within: float = length(0.01, low=0.0, hint="Vertices that lie this near become one")


@operation("weld", title="Weld", icon="circle-dot", needs=Kind.VERTEX)
def weld(mesh: Mesh, chosen: Selection, how: Weld) -> Edited:
    """Make one vertex of those that lie within a distance of each other.

    It stands at their mean; so do those that lie that near by way of others. Faces that keep fewer
    than three corners go.
    """
    from scipy.sparse import coo_matrix  # these take a while; only welding needs them
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    count, mine = mesh.topology.vertex_count, chosen.indices
    pairs = cKDTree(mesh.positions[mine]).query_pairs(how.within, output_type="ndarray")
    graph = coo_matrix((np.ones(len(pairs), np.int8), mine[pairs].T), (count, count))
    group = np.asarray(connected_components(graph, directed=False)[1])
    # In the order of the first of each, so that what is not welded stays as it was.
    _, first = np.unique(group, return_index=True)
    rank = np.empty(len(first), np.int64)
    rank[np.argsort(first, kind="stable")] = np.arange(len(first))
    new = rank[group]
    sums = [np.bincount(new, mesh.positions[:, axis]) for axis in range(3)]
    means = np.stack(sums, axis=1) / np.bincount(new)[:, None]
    return merged(mesh, new, means, chosen)
