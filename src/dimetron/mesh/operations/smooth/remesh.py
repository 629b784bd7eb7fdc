"""A mesh anew, of even quads."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.nearest import Surface
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import length
from dimetron.mesh.select import Selection
from dimetron.mesh.solids.regridded import regridded


@dataclass(frozen=True)
class Remesh:
    """How fine."""

    size: float = length(5.0, low=1e-6, hint="About how long the edges of its quads are")


@operation("remesh", title="Even quads", icon="grid", slow=True, order=40)
def remesh(mesh: Mesh, chosen: Selection, how: Remesh) -> Edited:
    """Make a closed mesh anew of even quads on the same surface; thin parts and sharp edges are
    kept as far as the quads are fine."""
    points, quads = regridded(mesh, how.size)
    surface = Surface(mesh, how.size / 4)
    a, b, c = quads.ravel(), np.roll(quads, -1, 1).ravel(), np.roll(quads, 1, 1).ravel()
    count = np.bincount(a, minlength=len(points))[:, None] * 2
    for _ in range(4):
        sums = [
            np.bincount(a, points[b, k] + points[c, k], minlength=len(points)) for k in range(3)
        ]
        points = surface.nearest(np.stack(sums, axis=1) / count).positions
    made = from_faces(points, quads)
    if not made.topology.face_count:
        raise MeshError("The quads are larger than the mesh; take smaller ones.")
    face = surface.nearest(made.face_centres).faces.astype(np.int32)
    none = np.full(len(made.topology.corners), -1, np.int32)
    origin = Origin(np.full(len(points), -1, np.int32), face, none)
    return Edited(rebuilt(mesh, points, made.topology, origin).mesh)
