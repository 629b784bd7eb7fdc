"""Vertices become one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.around import components
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, merged
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice, switch
from dimetron.mesh.select import Kind, Selection, vertices_of

_AT = (("middle", "the middle"), ("last", "the last"))


@dataclass(frozen=True)
class Merge:
    """Where to; all, or each group."""

    at: str = choice("middle", _AT, title="to", hint="Into the middle, or to the one picked last")
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
    """Make one vertex of the chosen ones, in their middle or where the one is that was picked last;
    or of each edge or group for itself.

    Faces that keep fewer than three corners go. The new vertices are selected.
    """
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    if len(mine) < 2:
        raise MeshError("Merging needs two vertices or more.")
    n = mesh.topology.vertex_count
    group = np.arange(n)
    if how.apart:
        held = np.zeros(n, bool)
        held[mine] = True
        edges = mesh.topology.edges
        if chosen.kind is Kind.EDGE:
            joined = edges[chosen.indices]
        else:
            joined = edges[held[edges].all(axis=1)]
        group = components(n, joined)
    else:
        group[mine] = mine[0]
    if how.at == "last":
        if chosen.kind is not Kind.VERTEX or chosen.last not in mine:
            raise MeshError("Select vertices, the one to merge to last of all, by a click.")
        with_it = mine[group[mine] == group[chosen.last]]
        there = np.repeat(mesh.positions[[chosen.last]], len(with_it), axis=0)
        mesh = mesh.with_moved(with_it, there)
    return merged(mesh, group, Selection(Kind.VERTEX, mine))
