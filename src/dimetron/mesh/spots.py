"""Vertices that are marked by a key, as layers of the mesh: they go along with whatever is done to
it."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import Floats, Ints
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh

#: Layers of marked vertices begin with this; uint8.
PREFIX = "spot:"


def with_spot(mesh: Mesh, key: str, vertex: int) -> Mesh:
    """With a vertex marked by a key, in place of what was marked by it."""
    values = np.zeros(len(mesh.positions), np.uint8)
    values[vertex] = 1
    return mesh.with_layer(PREFIX + key, Layer(On.VERTEX, values))


def without_spot(mesh: Mesh, key: str) -> Mesh:
    """Without what is marked by a key."""
    return mesh.without_layer(PREFIX + key)


def marked(mesh: Mesh, key: str) -> Ints:
    """(n,) the vertices that are marked by a key: its copies are, too."""
    layer = mesh.layers.get(PREFIX + key)
    if layer is None or layer.on is not On.VERTEX or layer.values.ndim != 1:
        return np.zeros(0, np.int32)
    return np.flatnonzero(layer.values > 0).astype(np.int32)


def spot_of(mesh: Mesh, key: str, seen: Floats | None = None) -> Floats | None:
    """(3,) where what is marked by a key stands; None if nothing is any more. seen (m, 3): where
    the vertices are seen, of a cage those of its surface, if not where they are."""
    found = marked(mesh, key)
    places = mesh.positions if seen is None else seen
    # Of copies, the first is what was marked.
    return np.asarray(places[found[0]]) if len(found) else None


def spots_of(mesh: Mesh) -> list[str]:
    """The keys by which something is marked."""
    keys = (name[len(PREFIX) :] for name in mesh.layers if name.startswith(PREFIX))
    return [key for key in keys if spot_of(mesh, key) is not None]
