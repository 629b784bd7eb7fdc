"""Take faces away."""

from __future__ import annotations

from dimetron.mesh.edited import Edited, without_faces
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import NoParameters
from dimetron.mesh.select import Kind, Selection, none


@operation("delete", title="Delete faces", icon="trash", needs=Kind.FACE, order=90)
def delete(mesh: Mesh, chosen: Selection, how: NoParameters) -> Edited:
    """Take the faces away, and the vertices that only they had."""
    return Edited(without_faces(mesh, chosen.indices).mesh, Selection(Kind.FACE, none()))
