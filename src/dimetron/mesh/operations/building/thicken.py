"""Give a sheet a thickness."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import Drag, choice, length
from dimetron.mesh.select import Selection
from dimetron.mesh.shells import shell

_SIDES = (("out", "out"), ("in", "in"), ("both", "half to each"))


@dataclass(frozen=True)
class Thicken:
    """By how much, and to which side."""

    thickness: float = length(2.0, low=1e-6, drag=Drag.ACROSS, hint="How thick the sheet becomes")
    side: str = choice(
        "out", _SIDES, hint="To the side the faces look to, to the other one, or half to each"
    )


@operation("thicken", title="Thicken", icon="thicken", order=20)
def thicken(mesh: Mesh, chosen: Selection, how: Thicken) -> Edited:
    """Make a shell of a sheet: a second surface beside it, and walls along its borders.

    A closed mesh gets an inner surface. The walls are selected.
    """
    if not mesh.topology.face_count:
        raise MeshError("There are no faces to thicken.")
    t = how.thickness
    outer, inner = {"out": (t, 0.0), "in": (0.0, -t), "both": (t / 2, -t / 2)}[how.side]
    return shell(mesh, outer, inner)
