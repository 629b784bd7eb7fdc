"""Solids joined with a rounding where they meet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import length
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.rounded import rounded_union


@dataclass(frozen=True)
class RoundedJoin:
    """How round, and how fine."""

    radius: float = length(5.0, low=1e-3, hint="The radius of the rounding where they meet")
    size: float = length(2.0, low=1e-3, hint="About how long the edges of its quads are")


@operation(
    "rounded-join", title="Rounded join", icon="rounded-join", several=True, slow=True, order=10
)
def rounded_join(meshes: Sequence[Mesh], chosen: Selection, how: RoundedJoin) -> Edited:
    """Make one solid of several closed meshes, anew of even quads, rounded where they meet as if a
    ball of the radius had been rolled along.

    The quads have to be smaller than the radius.
    """
    if len(meshes) < 2:
        raise MeshError("This needs two meshes or more; choose them together.")
    if how.size > how.radius:
        raise MeshError("The quads have to be smaller than the radius of the rounding.")
    points, quads = rounded_union(meshes, how.radius, how.size)
    made = from_faces(points, quads)
    none = np.full(made.topology.face_count, -1, np.int32)
    corner = np.full(len(made.topology.corners), -1, np.int32)
    origin = Origin(np.full(len(points), -1, np.int32), none, corner)
    return Edited(rebuilt(meshes[0], points, made.topology, origin).mesh)
