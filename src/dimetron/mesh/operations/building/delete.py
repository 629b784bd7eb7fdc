"""Take parts away."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.edited import Edited, without_faces, without_loose_vertices
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection, none


@operation(
    "delete",
    title="Delete",
    icon="trash",
    takes=(Kind.FACE, Kind.EDGE, Kind.VERTEX),
    order=90,
)
def delete(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Take faces away, and the vertices that only they had; with edges or vertices go the faces
    they are of."""
    t = mesh.topology
    if chosen.kind is Kind.FACE:
        return Edited(without_faces(mesh, chosen.indices).mesh, Selection(Kind.FACE, none()))
    gone = np.zeros(t.vertex_count if chosen.kind is Kind.VERTEX else len(t.edges), bool)
    gone[chosen.indices] = True
    there = gone[t.corners if chosen.kind is Kind.VERTEX else t.corner_edge]
    faces = np.unique(t.corner_face[there])
    left = without_faces(mesh, faces).mesh if len(faces) else without_loose_vertices(mesh)
    return Edited(left, Selection(chosen.kind, none()))
