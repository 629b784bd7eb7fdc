"""One mesh as several."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.health import shells
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import choice
from dimetron.mesh.parting import parts_of
from dimetron.mesh.select import Kind, Selection

_BY = (("chosen", "what is chosen"), ("shells", "shells"))
#: More meshes at once than this are a slip of the hand.
_MOST = 500


@dataclass(frozen=True)
class Separate:
    """Into what."""

    by: str = choice("chosen", _BY, hint="The chosen faces, or every shell, as a mesh of its own")


@operation("separate", title="Separate", icon="separate", takes=(Kind.FACE,), order=2, bare=True)
def separate(mesh: Mesh, chosen: Selection, how: Separate) -> Edited:
    """Make a mesh of its own of the chosen faces, or of every shell."""
    count = mesh.topology.face_count
    if how.by == "chosen":
        part = np.zeros(count, np.int64)
        part[chosen.indices] = 1
        if part.all():
            raise MeshError("All faces are chosen; choose those that are to be parted.")
    else:
        part = shells(mesh.topology)
    number = int(part.max()) + 1
    if number < 2:
        raise MeshError("The mesh hangs together; there is nothing to part.")
    if number > _MOST:
        raise MeshError(f"The mesh has {number} shells, too many to be parted at once.")
    first, *others = parts_of(mesh, part)
    return Edited(first, others=tuple(others))
