"""Edges across quads."""

from __future__ import annotations

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.rings import ring as ring_of
from dimetron.mesh.select import Kind, Selection


@operation("ring", title="Ring", icon="sel-ring", order=11, takes=(Kind.EDGE,))
def ring(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Select the edges that lie across from the chosen ones, quad after quad."""
    return Edited(mesh, Selection(Kind.EDGE, ring_of(mesh.topology, chosen.indices).edges))
