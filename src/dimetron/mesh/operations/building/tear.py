"""Open a mesh along edges."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.around import corners_at, sectors
from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.replaced import Points, Replacement, replaced
from dimetron.mesh.select import Kind, Selection


@operation("tear", title="Tear open", icon="tear", takes=(Kind.EDGE,), order=75)
def tear(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Open the mesh along edges: the faces on both sides no longer share them.

    A single edge within a surface opens nothing, as its ends still hold both sides together; a
    chain of them opens between its ends. The borders that come of it are selected.
    """
    t = mesh.topology
    split = np.zeros(len(t.edges), bool)
    split[chosen.indices] = True
    corners = corners_at(t, np.unique(t.edges[chosen.indices]))
    part = sectors(t, corners, split)
    vertex = np.zeros(int(part.max()) + 1, np.int32)
    vertex[part] = t.corners[corners]
    # The first sector of a vertex keeps it.
    _, first = np.unique(vertex, return_index=True)
    fresh = np.ones(len(vertex), bool)
    fresh[first] = False
    if not fresh.any():
        raise MeshError("Nothing opens: choose edges that lead on to one another, or to a border.")
    name = np.full(len(vertex), -1)
    name[fresh] = t.vertex_count + np.arange(int(fresh.sum()))
    moved = name[part] >= 0
    what = Replacement(
        points=Points(mesh.positions[vertex[fresh]], vertex[fresh]),
        renamed=(corners[moved], name[part][moved].astype(np.int32)),
    )
    done = replaced(mesh, what).mesh
    new = done.topology
    near = np.zeros(new.vertex_count, bool)
    near[vertex] = True
    near[t.vertex_count :] = True
    border = (new.edge_face_count == 1) & near[new.edges].all(axis=1)
    return Edited(done, Selection(Kind.EDGE, np.flatnonzero(border).astype(np.int32)))
