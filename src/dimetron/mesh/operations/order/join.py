"""Several meshes as one."""

from __future__ import annotations

from collections.abc import Sequence

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Selection


@operation("join", title="Join", icon="join", several=True, order=1)
def join(meshes: Sequence[Mesh], chosen: Selection, how: NoParameters) -> Edited:
    """Make one mesh of several; their faces stay as they are."""
    if len(meshes) < 2:
        raise MeshError("Joining needs two meshes or more; choose them together.")
    return Edited(joined(meshes))
