"""Places on a mesh that are marked by a key, as layers: they go along with whatever is done to it.

A place is a vertex, or lies within a triangle of vertices that each have a share in it. The layer
says which of them a vertex is, counted from 1; its names are their shares.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.nearest import on_triangles

#: Layers of marked places begin with this; uint8.
PREFIX = "spot:"


@dataclass(frozen=True, slots=True)
class Spot:
    """vertices: of which it lies in the midst; shares: of each in it, together 1."""

    vertices: tuple[int, ...]
    shares: tuple[float, ...] = (1.0,)

    def place(self, positions: Floats) -> Floats:
        """(3,) where it is when vertices are at positions (n, 3)."""
        return np.asarray(np.array(self.shares) @ positions[list(self.vertices)])


def spot_on(mesh: Mesh, face: int, point: Floats) -> Spot:
    """The place of a face that is nearest to a point (3,), as shares of a triangle of it."""
    t = mesh.topology
    first = int(t.first_triangle[face])
    triangles = mesh.triangles[first : first + int(t.sizes[face]) - 2]
    corners = mesh.positions[triangles]
    places = on_triangles(np.tile(point, (len(corners), 1)), *corners.swapaxes(0, 1))
    best = int(np.linalg.norm(places - point, axis=1).argmin())
    a, b, c = (float(share) for share in _shares(corners[best], places[best]))
    u, v, w = (int(vertex) for vertex in triangles[best])
    return Spot((u, v, w), (a, b, c))


def _shares(corners: Floats, place: Floats) -> Floats:
    """(3,) barycentric coordinates of a place in a triangle (3, 3)."""
    ways = np.stack([corners[1] - corners[0], corners[2] - corners[0]], axis=1)
    b, c = np.linalg.lstsq(ways, place - corners[0], rcond=None)[0]
    shares = np.clip(np.array([1 - b - c, b, c]), 0.0, None)
    return np.asarray(shares / shares.sum())


def with_spot(mesh: Mesh, key: str, spot: Spot) -> Mesh:
    """With a place marked by a key, instead of what was marked by it."""
    values = np.zeros(len(mesh.positions), np.uint8)
    values[list(spot.vertices)] = np.arange(1, len(spot.vertices) + 1)
    names = tuple(repr(share) for share in spot.shares) if len(spot.shares) > 1 else ()
    return mesh.with_layer(PREFIX + key, Layer(On.VERTEX, values, 0.0, names))


def without_spot(mesh: Mesh, key: str) -> Mesh:
    """Without what is marked by a key."""
    return mesh.without_layer(PREFIX + key)


def marked(mesh: Mesh, key: str) -> Spot | None:
    """The place that is marked by a key; None if nothing of it is left. Where some of its vertices
    are gone it is what the others have of it; of copies, the first is what was marked."""
    layer = mesh.layers.get(PREFIX + key)
    if layer is None or layer.on is not On.VERTEX or layer.values.ndim != 1:
        return None
    numbers, first = np.unique(layer.values, return_index=True)
    there = [(int(v), _share(layer, int(n))) for n, v in zip(numbers, first, strict=True) if n > 0]
    whole = sum(share for _, share in there)
    if whole <= 0:
        return None
    return Spot(tuple(v for v, _ in there), tuple(share / whole for _, share in there))


def _share(layer: Layer, number: int) -> float:
    """That of the vertices of a number; a damaged one counts for nothing."""
    if not layer.names:
        return 1.0 if number == 1 else 0.0
    try:
        share = float(layer.names[number - 1])
    except (IndexError, ValueError):
        return 0.0
    return share if 0 <= share <= 1 else 0.0


def spot_of(mesh: Mesh, key: str, seen: Floats | None = None) -> Floats | None:
    """(3,) where what is marked by a key stands; None if nothing is any more. seen (m, 3): where
    the vertices are seen, of a cage those of its surface, if not where they are."""
    found = marked(mesh, key)
    return None if found is None else found.place(mesh.positions if seen is None else seen)


def spots_of(mesh: Mesh) -> list[str]:
    """The keys by which something is marked."""
    keys = (name[len(PREFIX) :] for name in mesh.layers if name.startswith(PREFIX))
    return [key for key in keys if spot_of(mesh, key) is not None]
