"""What several solids have together, in common, or one without the others."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.closed import as_solids, told_back

_HOW = {
    "union": manifold3d.OpType.Add,
    "difference": manifold3d.OpType.Subtract,
    "intersection": manifold3d.OpType.Intersect,
}


def combined(meshes: Sequence[Mesh], how: str) -> Edited:
    """how: "union", "difference" or "intersection". Raises MeshError for fewer than two meshes, for
    open ones, and if nothing is left."""
    if len(meshes) < 2:
        raise MeshError("This needs two meshes or more; choose them together.")
    solids = as_solids(meshes)
    whole = manifold3d.Manifold.batch_boolean(solids, _HOW[how])
    return told_back(meshes[0], whole, meshes[1:])
