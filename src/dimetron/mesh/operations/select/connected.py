"""What hangs together."""

from __future__ import annotations

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.spreading import connected_with


@operation(
    "connected",
    title="Shell",
    icon="sel-connected",
    order=20,
    takes=(Kind.FACE, Kind.EDGE, Kind.VERTEX),
)
def connected(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Select all that hangs together with what is chosen."""
    return Edited(mesh, Selection(chosen.kind, connected_with(mesh, chosen)))
