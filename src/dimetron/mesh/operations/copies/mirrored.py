"""A mirrored copy."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.evening import with_mirrored
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, choice, length
from dimetron.mesh.select import Kind, Selection


@dataclass(frozen=True)
class Mirrored:
    """Across which axis, and what becomes one."""

    axis: str = choice("x", AXIS, hint="The axis across which the copy is mirrored")
    at: float = length(0.0, hint="Where on the axis the middle is")
    seam: float = length(0.01, low=0.0, hint="Vertices this near to the middle are joined there")


@operation("mirrored", title="Mirrored copy", icon="mirrored", order=3, bare=True)
def mirrored(mesh: Mesh, chosen: Selection, how: Mirrored) -> Edited:
    """Add the mirror image of the mesh to it, joined where both meet in the middle.

    The copy is selected.
    """
    count = mesh.topology.face_count
    if not count:
        raise MeshError("There are no faces to copy.")
    made = with_mirrored(mesh, "xyz".index(how.axis), how.at, how.seam).mesh
    return Edited(made, Selection(Kind.FACE, np.arange(count, 2 * count, dtype=np.int32)))
