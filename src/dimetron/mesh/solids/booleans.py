"""What several solids have together, in common, or one without the others."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.health import volume
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
    _need_several(meshes)
    solids = as_solids(meshes)
    whole = manifold3d.Manifold.batch_boolean(solids, _HOW[how])
    return told_back(meshes[0], whole, meshes[1:])


#: More shells than this are no solids that somebody modeled.
_MOST_SHELLS = 2000


def of_shells(mesh: Mesh, parts: Sequence[Mesh]) -> Edited:
    """The closed shells of a mesh as one solid, those that look inward taken from it. Raises
    MeshError for open ones, and if nothing is left."""
    if len(parts) > _MOST_SHELLS:
        raise MeshError(f"The mesh has {len(parts)} shells, too many to be made one at once.")
    inward = [volume(part) < 0 for part in parts]
    solids = as_solids(parts)
    filled, hollow = (
        manifold3d.Manifold.batch_boolean(
            [solid for solid, way in zip(solids, inward, strict=True) if way is turned],
            manifold3d.OpType.Add,
        )
        for turned in (False, True)
    )
    return told_back(parts[0], filled - hollow, parts[1:])


def parted(meshes: Sequence[Mesh], keep: str) -> Edited:
    """The first mesh cut along the surfaces of the others. keep: what lies "inside" them, "outside"
    or "both", the part inside as a further mesh; faces that are not the first one's own are
    selected. Raises MeshError for
    fewer than two meshes, for open ones, and where they have no part in common."""
    _need_several(meshes)
    first, *others = as_solids(meshes)
    cutters = manifold3d.Manifold.batch_boolean(others, manifold3d.OpType.Add)
    outside, inside = first - cutters, first ^ cutters
    if inside.is_empty() or outside.is_empty():
        raise MeshError("The others do not cut it: it lies wholly inside or outside them.")
    kept = {"both": (outside, inside), "inside": (inside,), "outside": (outside,)}[keep]
    first_part, *more = (told_back(meshes[0], solid, meshes[1:]) for solid in kept)
    return Edited(first_part.mesh, first_part.selection, others=tuple(part.mesh for part in more))


def _need_several(meshes: Sequence[Mesh]) -> None:
    if len(meshes) < 2:
        raise MeshError("This needs two meshes or more; choose them together.")
