"""Several meshes as one value, with all that is known of their elements."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.mesh.layers import Layer, layers
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.topology import topology_of


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """One after the other. Where a layer is missing its elements take the default."""
    before = np.cumsum([0, *(m.topology.vertex_count for m in meshes)])
    sizes = np.concatenate([m.topology.sizes for m in meshes])
    corners = [m.topology.corners + at for m, at in zip(meshes, before[:-1], strict=True)]
    topology = topology_of(sizes, np.concatenate(corners), int(before[-1]))
    names = list(dict.fromkeys(name for m in meshes for name in m.layers))
    # Edges of one mesh stand together, in their own order, as vertices do.
    found = {name: _layer(meshes, name) for name in names}
    return Mesh(np.concatenate([m.positions for m in meshes]), topology, layers(**found))


def _layer(meshes: Sequence[Mesh], name: str) -> Layer:
    first = next(m.layers[name] for m in meshes if name in m.layers)
    called = list(first.names)
    parts = []
    for mesh in meshes:
        own = mesh.layers.get(name)
        if own is None or own.on is not first.on or own.values.shape[1:] != first.values.shape[1:]:
            shape = (mesh.count(first.on), *first.values.shape[1:])
            parts.append(np.full(shape, first.default, first.values.dtype))
            continue
        values = own.values
        if own.names:
            called += [word for word in own.names if word not in called]
            number = np.array([called.index(word) for word in own.names] or [0])
            values = np.where(values < 0, values, number[values.clip(0, len(number) - 1)])
        parts.append(values.astype(first.values.dtype))
    return Layer(first.on, np.concatenate(parts), first.default, tuple(called))
