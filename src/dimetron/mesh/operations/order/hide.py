"""Faces leave the board."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.hiding import hidden_faces, with_hidden
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice
from dimetron.mesh.select import Kind, Selection

_WHAT = (("chosen", "selected"), ("others", "others"))


@dataclass(frozen=True)
class Hide:
    """Which ones."""

    what: str = choice("chosen", _WHAT, hint="The faces that are selected, or all others")


@operation(
    "hide-faces",
    title="Hide faces",
    icon="eye-off",
    takes=(Kind.FACE,),
    key="Ctrl+Shift+D",
    order=60,
    bare=True,
)
def hide_faces(mesh: Mesh, chosen: Selection, how: Hide) -> Edited:
    """Hide faces on the board, so that one reaches what lies behind them. Whatever is done to the
    mesh is done to them as well, and files get them."""
    before = hidden_faces(mesh)
    hidden = np.zeros(mesh.topology.face_count, bool)
    hidden[chosen.indices] = True
    if how.what == "others":
        hidden = ~hidden
    if before is not None:
        hidden |= before
    if hidden.all():
        raise MeshError("Nothing of the mesh would be left to see; hide the mesh itself.")
    return Edited(with_hidden(mesh, hidden), Selection(Kind.FACE, np.zeros(0, np.int32)))
