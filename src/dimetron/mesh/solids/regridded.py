"""A solid's surface as a net over a grid."""

from __future__ import annotations

import manifold3d
import numpy as np

from dimetron.mesh.arrays import Floats, Ints, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.solids.closed import as_solid
from dimetron.mesh.solids.nets import MOST_CELLS, net, sound
from dimetron.mesh.solids.within import within

#: Cells around it.
_RIM = 2


def regridded(mesh: Mesh, size: float) -> tuple[Floats, Ints]:
    """Points (n, 3) near the surface of a closed mesh, and the quads (q, 4) between them. Raises
    MeshError."""
    low, high = mesh.bounds
    if size > float((high - low).max(initial=0.0)):
        raise MeshError("The quads are larger than the mesh; take smaller ones.")
    counts = np.ceil((high - low) / size).astype(np.int64) + 2 * _RIM
    if float(np.prod(counts.astype(float))) > MOST_CELLS:
        raise MeshError("Quads so small would be too many; choose larger ones.")
    solid = as_solid(mesh)
    first = (low + high) / 2 - size * (counts - 1) / 2
    axes = [first[k] + size * np.arange(counts[k]) for k in range(3)]
    field = np.ones(tuple(counts), np.float32)
    for at, z in enumerate(axes[2].tolist()):
        if low[2] < z < high[2]:
            field[:, :, at] -= 2 * occupied(solid, z, axes)
    inside = sound(field)
    if not inside.any():
        raise MeshError("The quads are larger than the mesh; take smaller ones.")
    points, quads, _ = net(field, inside, axes)
    return points, quads


def occupied(solid: manifold3d.Manifold, z: float, axes: list[Floats]) -> Ints:
    """(x, y) 1 where the solid is, at a height."""
    x, y = axes[0], axes[1]
    step = x[1] - x[0]
    loops = [(np.asarray(p) - (x[0], y[0])) / step for p in solid.slice(z).to_polygons()]
    return within(loops, len(y), len(x)).T.astype(np.int8)
