"""Edges that go straight on."""

from __future__ import annotations

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.rings import loop as loop_of
from dimetron.mesh.select import Kind, Selection


@operation("loop", title="Loop", icon="sel-loop", order=10, takes=(Kind.EDGE,))
def loop(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Select the edges that go straight on from the chosen ones, across quads or along a border."""
    return Edited(mesh, Selection(Kind.EDGE, loop_of(mesh.topology, chosen.indices)))
