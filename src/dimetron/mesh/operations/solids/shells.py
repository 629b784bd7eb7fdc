"""What the shells of one mesh enclose together."""

from __future__ import annotations

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.health import shells
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.parting import parts_of
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.booleans import of_shells


@operation("shells-union", title="Unite shells", icon="layers-union", order=6)
def shells_union(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Make one solid of the closed shells of a mesh, so that none runs through another; shells that
    look inward stay cavities."""
    part = shells(mesh.topology)
    if len(part) == 0 or part.max() < 1:
        raise MeshError("The mesh is one shell already.")
    return of_shells(mesh, parts_of(mesh, part))
