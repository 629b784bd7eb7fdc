"""Where it ends."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection


@operation("rim", title="Rim", icon="sel-rim", order=32)
def rim(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Select the edges round the chosen faces; of the whole mesh its open borders."""
    t = mesh.topology
    if chosen.kind is not Kind.FACE or not len(chosen.indices):
        edges = np.flatnonzero(t.edge_face_count == 1)
        words = "The mesh has no open border."
    else:
        edge = t.corner_edge[t.corners_of(chosen.indices)]
        edges = np.flatnonzero(np.bincount(edge, minlength=len(t.edges)) == 1)
        words = "These faces are closed all round; they have no rim."
    if not len(edges):
        raise MeshError(words)
    return Edited(mesh, Selection(Kind.EDGE, edges.astype(np.int32)))
