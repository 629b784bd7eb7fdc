"""Hidden faces come back."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.hiding import hidden_faces, with_hidden
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection


@operation("show-faces", title="Show faces", icon="eye", order=61)
def show_faces(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Show all faces that were hidden, and select them."""
    hidden = hidden_faces(mesh)
    if hidden is None:
        raise MeshError("No face of the mesh is hidden.")
    shown = with_hidden(mesh, np.zeros(mesh.topology.face_count, bool))
    return Edited(shown, Selection(Kind.FACE, np.flatnonzero(hidden).astype(np.int32)))
