"""The mirror image of a mesh."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edit import turned_over
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, choice
from dimetron.mesh.select import Selection


@dataclass(frozen=True)
class Mirror:
    """Across which axis."""

    axis: str = choice("x", AXIS, hint="The axis across which it is mirrored, at the origin")


@operation("mirror", title="Mirror image", icon="flip-horizontal")
def mirror(mesh: Mesh, chosen: Selection, how: Mirror) -> Edited:
    """Mirror the mesh across an axis, about the origin; faces keep looking outward."""
    over = np.ones(3)
    over["xyz".index(how.axis)] = -1.0
    return Edited(turned_over(mesh.with_positions(mesh.positions * over + 0.0)), chosen)
