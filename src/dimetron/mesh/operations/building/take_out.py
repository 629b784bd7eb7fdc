"""Edges or vertices go, and the faces around them become one."""

from __future__ import annotations

import numpy as np

from dimetron.counting import counted
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.dissolving import without_edges
from dimetron.mesh.edited import Edited, Note
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection, none, vertices_of


@operation("take-out", title="Take out", icon="take-out", takes=(Kind.EDGE, Kind.VERTEX), order=70)
def take_out(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Take edges or vertices out; the faces around them become one, so that the surface stays.

    A vertex that is left with two edges goes too. An edge stays where a face would get a hole.
    """
    topology = mesh.topology
    mine = np.zeros(topology.vertex_count, bool)
    mine[vertices_of(mesh, chosen.kind, chosen.indices)] = True
    if chosen.kind is Kind.VERTEX:
        out = np.asarray(mine[topology.edges].any(axis=1))
    else:
        out = np.zeros(len(topology.edges), bool)
        out[chosen.indices] = True
    if not (out & (topology.edge_face_count == 2)).any():
        raise MeshError("Only edges between two faces can be taken out; delete the others.")
    done, kept = without_edges(mesh, out, mine)
    notes: tuple[Note, ...] = ()
    if len(kept):
        words = f"{counted(len(kept), 'edge stays', 'edges stay')}: a face would have had a hole."
        ends = np.unique(topology.edges[kept]).astype(np.int32)
        notes = (Note(words, Kind.VERTEX, ends[ends < done.mesh.topology.vertex_count]),)
    return Edited(done.mesh, Selection(chosen.kind, none()), notes)
