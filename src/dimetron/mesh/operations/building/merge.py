"""Vertices become one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import components
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, merged
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import switch
from dimetron.mesh.select import Kind, Selection, vertices_of


@dataclass(frozen=True)
class Merge:
    """All, or each group."""

    apart: bool = switch(False, hint="Each group that hangs together becomes a vertex of its own")


@operation(
    "merge",
    title="Merge",
    icon="merge",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    key="Ctrl+Shift+J",
    order=60,
    bare=True,
)
def merge(mesh: Mesh, chosen: Selection, how: Merge) -> Edited:
    """Make one vertex of the chosen ones, in their middle; or of each edge or group for itself.

    Faces that keep fewer than three corners go. The new vertices are selected.
    """
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    if len(mine) < 2:
        raise MeshError("Merging needs two vertices or more.")
    n = mesh.topology.vertex_count
    group = np.arange(n)
    if how.apart:
        there = np.zeros(n, bool)
        there[mine] = True
        edges = mesh.topology.edges
        if chosen.kind is Kind.EDGE:
            joined = edges[chosen.indices]
        else:
            joined = edges[there[edges].all(axis=1)]
        group = components(n, joined)
    else:
        group[mine] = mine[0]
    return merged(mesh, group, Selection(Kind.VERTEX, mine))
