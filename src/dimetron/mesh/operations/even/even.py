"""Make both sides of a mesh the same."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.clipping import clipped
from dimetron.mesh.edited import Edited
from dimetron.mesh.evening import with_mirrored
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, SIDES, choice, length
from dimetron.mesh.select import Selection


@dataclass(frozen=True)
class Even:
    """Across which axis, and from which side."""

    axis: str = choice("x", AXIS, hint="The axis across which both sides become the same")
    half: str = choice("positive", SIDES, hint="The half that the other one is made from")
    at: float = length(0.0, hint="Where on the axis the middle is")


@operation("even", title="Make even", icon="flip-horizontal", order=1, bare=True)
def even(mesh: Mesh, chosen: Selection, how: Even) -> Edited:
    """Make one half of the mesh the mirror image of the other, joined along the middle.

    Faces that cross the middle are cut there.
    """
    axis, sign = "xyz".index(how.axis), 1.0 if how.half == "positive" else -1.0
    half = clipped(mesh, axis, how.at, sign).mesh
    if not half.topology.face_count:
        raise MeshError(f"Nothing of the mesh lies on the {how.half} side of {how.axis.upper()}.")
    return Edited(with_mirrored(half, axis, how.at).mesh)
