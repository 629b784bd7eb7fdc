"""Faces in a row."""

from __future__ import annotations

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.rings import band as band_of
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.spreading import shared_edges


@operation("band", title="Band", icon="sel-band", order=12, takes=(Kind.EDGE, Kind.FACE))
def band(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Select the row of quads that goes on through the chosen edges, or from face to face."""
    edges = chosen.indices
    if chosen.kind is Kind.FACE:
        edges = shared_edges(mesh.topology, chosen.indices)
        if not len(edges):
            raise MeshError("Choose two faces beside each other, or an edge that the band crosses.")
    return Edited(mesh, Selection(Kind.FACE, band_of(mesh.topology, edges)))
