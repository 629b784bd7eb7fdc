"""Solids joined with a fillet along where they meet: what a ball of a radius cannot reach from
outside is filled."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt

from dimetron.mesh.arrays import Floats, Ints, Mask, MeshError
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.nearest import Surface
from dimetron.mesh.solids.closed import as_solids
from dimetron.mesh.solids.manifolds import as_mesh
from dimetron.mesh.solids.nets import MOST_CELLS, net, sound
from dimetron.mesh.solids.regridded import occupied

#: Cells beyond what a ball of the radius reaches.
_RIM = 3
#: Points nearer to the old surface than this share of a cell lie on it.
_ON_IT = 0.8
_ROUNDS = 6


def rounded_union(meshes: Sequence[Mesh], radius: float, size: float) -> tuple[Floats, Ints]:
    """Points (n, 3) and quads (q, 4), about ``size`` mm large, of what closed meshes enclose
    together, rounded where they meet by a ball of ``radius`` mm: the morphological closing of their
    union, near the places where two of them are. Raises MeshError."""
    solids = as_solids(meshes)
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    if whole.is_empty():
        raise MeshError("Nothing would be left.")
    box = np.array(whole.bounding_box()).reshape(2, 3)
    rim = int(np.ceil(radius / size)) + _RIM
    counts = np.ceil((box[1] - box[0]) / size).astype(np.int64) + 2 * rim
    if float(np.prod(counts.astype(float))) > MOST_CELLS:
        raise MeshError("Quads so small would be too many; choose larger ones.")
    first = box.mean(axis=0) - size * (counts - 1) / 2
    axes = [first[k] + size * np.arange(counts[k]) for k in range(3)]
    parts = [_inside(solid, axes) for solid in solids]
    field = _closed(parts, radius, size)
    filled = sound(field)
    if not filled.any():
        raise MeshError("The quads are larger than the meshes; take smaller ones.")
    points, quads, _ = net(field, filled, axes)
    return _settled(points, quads, as_mesh(whole), size), quads


def _inside(solid: manifold3d.Manifold, axes: list[Floats]) -> Mask:
    low, high = np.array(solid.bounding_box()).reshape(2, 3)[:, 2]
    found = np.zeros(tuple(len(axis) for axis in axes), bool)
    for at, z in enumerate(axes[2].tolist()):
        if low < z < high:
            found[:, :, at] = occupied(solid, z, axes)
    return found


def _distance(inside: Mask, size: float) -> NDArray[np.float32]:
    """How far each place lies outside, less than nothing within; the surface runs halfway between
    places."""
    out, within = (distance_transform_edt(part) * size for part in (~inside, inside))
    away = np.where(inside, size / 2 - within, out - size / 2)
    return np.asarray(away, np.float32)


def _closed(parts: Sequence[Mask], radius: float, size: float) -> NDArray[np.float32]:
    away = _distance(np.logical_or.reduce(parts), size)
    grown = away <= radius
    closing = (radius - (distance_transform_edt(grown) * size - size / 2)).astype(np.float32)
    # Only where two of them are near: other hollows stay as they are.
    near = sum((_distance(part, size) <= 2 * radius).astype(np.int8) for part in parts)
    return np.asarray(np.where(np.asarray(near) >= 2, np.minimum(closing, away), away))


def _settled(points: Floats, quads: Ints, union: Mesh, size: float) -> Floats:
    """Points amid their neighbours; those near the old surface lie on it."""
    surface = Surface(union, size / 3)
    a, b, c = quads.ravel(), np.roll(quads, -1, 1).ravel(), np.roll(quads, 1, 1).ravel()
    count = np.bincount(a, minlength=len(points))[:, None] * 2
    for _ in range(_ROUNDS):
        sums = [
            np.bincount(a, points[b, k] + points[c, k], minlength=len(points)) for k in range(3)
        ]
        points = np.stack(sums, axis=1) / count
        on = surface.nearest(points).positions
        close = np.linalg.norm(on - points, axis=1) < _ON_IT * size
        points = np.where(close[:, None], on, points)
    return points
