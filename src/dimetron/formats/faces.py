"""From a file's arrays to a mesh: what has no meaning is left out and told."""

from __future__ import annotations

import warnings
from collections.abc import Mapping

import numpy as np

from dimetron.counting import counted
from dimetron.formats.format import MeshFileError
from dimetron.mesh.arrays import Floats, Ints, Mask
from dimetron.mesh.layers import Layer, On, layers
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import topology_of


def mesh_of(
    positions: Floats,
    sizes: Ints,
    corners: Ints,
    odd: list[str],
    given: Mapping[str, Layer] | None = None,
) -> Mesh:
    """positions (n, 3) as they came; sizes (f,) corners of each face; corners (c,) vertices; given:
    layers on all of them.

    Faces that name no vertex, or one whose place is no number, or have fewer than three corners are
    left out; so are vertices whose place is no number. What was left out is added to ``odd``.
    """
    number = np.asarray(np.isfinite(positions).all(axis=1))
    inside = (corners >= 0) & (corners < len(positions))
    good = inside.copy()
    good[inside] = number[corners[inside]]
    flat = sizes < 3
    lost = _any_of(~inside, sizes) & ~flat
    unplaced = _any_of(inside & ~good, sizes) & ~flat & ~lost
    for mask, one, many in (
        (flat, "face has fewer than three corners", "faces have fewer than three corners"),
        (lost, "face names a vertex that does not exist", "faces name vertices that do not exist"),
        (unplaced, "face has a corner that lies nowhere", "faces have corners that lie nowhere"),
    ):
        if mask.any():
            left = "was" if mask.sum() == 1 else "were"
            odd.append(f"{counted(int(mask.sum()), one, many)} and {left} left out")
    keep = ~(flat | lost | unplaced)
    kept = {On.FACE: keep, On.CORNER: np.repeat(keep, sizes), On.VERTEX: number}
    found = {n: v.with_values(v.values[kept[v.on]]) for n, v in (given or {}).items()}
    corners, sizes = corners[kept[On.CORNER]], sizes[keep]
    if not number.all():
        gone = int((~number).sum())
        words = counted(gone, "vertex has a place that is no number", "vertices have no number")
        odd.append(f"{words} and {'was' if gone == 1 else 'were'} left out")
        corners = (np.cumsum(number) - 1)[corners]
        positions = positions[number]
    return _made(positions, sizes, corners, found)


def _any_of(corner: Mask, sizes: Ints) -> Mask:
    """(f,) of which faces any corner is meant."""
    face = np.repeat(np.arange(len(sizes)), sizes)
    return np.bincount(face[corner], minlength=len(sizes)) > 0


def _made(positions: Floats, sizes: Ints, corners: Ints, given: Mapping[str, Layer]) -> Mesh:
    if len(positions) > np.iinfo(np.int32).max or len(corners) > np.iinfo(np.int32).max:
        raise MeshFileError("holds more than a mesh can; reduce it first.")
    topology = topology_of(sizes, corners, len(positions))
    return Mesh(np.ascontiguousarray(positions, np.float64), topology, layers(**given))


def only_used(mesh: Mesh, also: Mask) -> Mesh:
    """The mesh without vertices of no face, but for those of ``also`` (n,)."""
    used = also.copy()
    used[mesh.topology.corners] = True
    corners = (np.cumsum(used) - 1)[mesh.topology.corners]
    kept = {
        name: layer.with_values(layer.values[used]) if layer.on is On.VERTEX else layer
        for name, layer in mesh.layers.items()
    }
    return _made(mesh.positions[used], mesh.topology.sizes, corners, kept)


def joined_corners(points: Floats) -> tuple[Floats, Ints]:
    """Corners (c, 3) that stand at exactly the same place as one vertex: vertices (n, 3) in the
    order of their first corner, and (c,) the vertex of each corner."""
    if not len(points):
        return points, np.zeros(0, np.int64)
    points = points + 0.0  # so that minus zero is zero
    order = np.lexsort(points.T)
    risen = points[order]
    first = np.concatenate([[True], (risen[1:] != risen[:-1]).any(axis=1)])
    # lexsort is stable, so the first of a run is the first corner there.
    run = np.cumsum(first) - 1
    leader = order[first]
    rank = np.empty(len(leader), np.int64)
    rank[np.argsort(leader, kind="stable")] = np.arange(len(leader))
    vertex = np.empty(len(points), np.int64)
    vertex[order] = rank[run]
    return points[np.sort(leader)], vertex


def numbers_of(text: bytes, count: int) -> Floats | None:
    """``count`` numbers that stand in a text with white space between them, or None if it holds
    others, or something else."""
    with warnings.catch_warnings():
        # That it came upon something else is seen by the count, and by what the last one is.
        warnings.simplefilter("ignore", DeprecationWarning)
        try:
            found = np.fromstring(text, np.float64, sep=" ")
        except ValueError:
            return None
    return found if len(found) == count else None
