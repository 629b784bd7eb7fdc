"""Halves and their mirror images: what belongs together on both sides of a plane, and how both
sides stay the same while one of them is edited. The planes run through the origin, square to axes.
"""

from __future__ import annotations

from weakref import WeakKeyDictionary

import numpy as np

from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.clipping import clipped
from dimetron.mesh.edited import NOTHING, Edited, Origin, rebuilt
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Selection
from dimetron.mesh.topology import Topology, topology_of

#: Vertices belong together across the plane within this share of the mesh's extent.
_NEAR = 1e-5

_known: WeakKeyDictionary[Topology, dict[int, Ints]] = WeakKeyDictionary()


def mirrored_points(positions: Floats, axis: int, at: float = 0.0) -> Floats:
    """Positions (n, 3) across a plane square to an axis."""
    image = positions.copy()
    image[:, axis] = 2 * at - positions[:, axis]
    return image


def partners(mesh: Mesh, axis: int) -> Ints:
    """(n,) the vertex across the plane from each, itself for one that stands in it; -1 for none."""
    kept = _known.setdefault(mesh.topology, {})
    known = kept.get(axis)
    image = mirrored_points(mesh.positions, axis)
    near = _NEAR * max(float(np.ptp(mesh.bounds, axis=0).max()), 1e-9)
    if known is not None and _hold(mesh, known, image, near):
        return known
    if not len(image):
        return np.zeros(0, np.int32)
    from scipy.spatial import cKDTree  # takes a while; only what is even needs it

    away, at = cKDTree(mesh.positions).query(image, distance_upper_bound=near)
    found = np.where(np.isfinite(away), at, -1).astype(np.int32)
    # Each is the other's; of several at one place only such a pair counts.
    own = np.arange(len(found))
    mutual = (found >= 0) & (found[found.clip(0)] == own)
    found[~mutual] = -1
    kept[axis] = found
    return found


def _hold(mesh: Mesh, known: Ints, image: Floats, near: float) -> bool:
    """Whether vertices that belonged together once, all of them, still do."""
    if not len(known) or (known < 0).any():
        return False
    return float(np.abs(mesh.positions[known] - image).max()) <= near


def uneven(mesh: Mesh, axis: int) -> Ints:
    """(k,) vertices that have no other one across the plane."""
    return np.flatnonzero(partners(mesh, axis) < 0).astype(np.int32)


def even_patch(mesh: Mesh, axes: tuple[str, ...], patch: Patch) -> Patch:
    """The patch with what belongs to it on the other side of every plane. What is in it on both
    sides goes by the mean of both; vertices in the plane stay there."""
    if not axes or not len(patch.vertices):
        return patch
    positions = mesh.positions.copy()
    positions[patch.vertices] = patch.positions
    moved = np.zeros(len(positions), bool)
    moved[patch.vertices] = True
    for name in axes:
        axis = "xyz".index(name)
        _even_out(positions, moved, partners(mesh, axis), axis)
    vertices = np.flatnonzero(moved).astype(np.int32)
    return Patch(vertices, positions[vertices], patch.similar and len(vertices) == len(moved))


def _even_out(positions: Floats, moved: Mask, partner: Ints, axis: int) -> None:
    mine = np.flatnonzero(moved & (partner >= 0))
    other = partner[mine]
    seam = other == mine
    positions[mine[seam], axis] = 0.0
    mine, other = mine[~seam], other[~seam]
    both = moved[other]
    image = mirrored_points(positions[mine], axis)
    mean = (image + positions[other]) / 2
    positions[other] = np.where(both[:, None], mean, image)
    moved[other] = True


def evened_positions(before: Mesh, after: Mesh, axes: tuple[str, ...]) -> Mesh:
    """A mesh of the same faces in which vertices moved since ``before``, the same on both sides."""
    moved = np.flatnonzero((before.positions != after.positions).any(axis=1)).astype(np.int32)
    if not len(moved) or not axes:
        return after
    patch = even_patch(before, axes, Patch(moved, after.positions[moved].copy()))
    same = np.array_equal(after.positions[patch.vertices], patch.positions)
    return after if same else after.with_moved(patch.vertices, patch.positions)


def evened(before: Mesh, done: Edited, axes: tuple[str, ...]) -> Edited:
    """What an operation made of an even mesh, even again: made anew of the half in which more
    changed. Raises MeshError if nothing lies there."""
    for name in axes:
        axis = "xyz".index(name)
        mesh = done.mesh
        if mesh.topology is before.topology:
            done = Edited(
                evened_positions(before, mesh, (name,)), done.selection, done.notes, done.others
            )
        elif len(uneven(mesh, axis)):
            half = clipped(mesh, axis, 0.0, _side(before, mesh, axis), done.selection)
            if not half.mesh.topology.face_count:
                continue
            made = with_mirrored(half.mesh, axis, 0.0, chosen=half.selection)
            done = Edited(made.mesh, made.selection, done.notes, done.others)
    return done


def _side(before: Mesh, after: Mesh, axis: int) -> float:
    """The side on which more vertices are new or gone: 1 or -1."""
    places = np.round(np.concatenate([before.positions, after.positions]), 9)
    places = places[np.lexsort(places.T)]
    same = (places[1:] == places[:-1]).all(axis=1)
    alone = ~(np.append(same, False) | np.append(False, same))
    balance = np.sign(places[alone, axis]).sum()
    return 1.0 if balance >= 0 else -1.0


def with_mirrored(
    mesh: Mesh, axis: int, at: float = 0.0, seam: float = 0.0, chosen: Selection = NOTHING
) -> Edited:
    """The mesh with its mirror image; vertices within ``seam`` mm of the middle are shared, and
    stand exactly there. chosen: carried along, on both sides."""
    t = mesh.topology
    n = t.vertex_count
    on = np.abs(mesh.positions[:, axis] - at) <= seam
    stood = mesh.positions.copy()
    stood[on, axis] = at
    image = np.where(on, np.arange(n), n + np.cumsum(~on) - 1)
    positions = np.concatenate([stood, mirrored_points(stood[~on], axis, at)])
    over = t.reversed_corner
    corners = np.concatenate([t.corners, image[t.corners[over]]])
    topology = topology_of(np.tile(t.sizes, 2), corners, len(positions))
    vertex: Ints = np.concatenate([np.arange(n), np.flatnonzero(~on)])
    face, corner = np.arange(t.face_count), np.arange(len(t.corners))
    origin = Origin(vertex, np.concatenate([face, face]), np.concatenate([corner, over]))
    return rebuilt(mesh, positions, topology, origin, chosen)
