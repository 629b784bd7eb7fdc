"""What is not the same on both sides."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.evening import uneven as uneven_about
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, choice
from dimetron.mesh.select import Kind, Selection


@dataclass(frozen=True)
class Uneven:
    """About which axis."""

    axis: str = choice("x", AXIS, hint="The axis across which both sides are compared")


@operation("uneven", title="Where uneven", icon="sel-similar", order=20, bare=True)
def uneven(mesh: Mesh, chosen: Selection, how: Uneven) -> Edited:
    """Select the vertices that have no other one across the middle."""
    found = uneven_about(mesh, "xyz".index(how.axis))
    if not len(found):
        raise MeshError(f"Both sides of {how.axis.upper()} are the same.")
    return Edited(mesh, Selection(Kind.VERTEX, found))
