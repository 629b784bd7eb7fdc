"""Selections that are kept under a name, as layers of the mesh: they go along with whatever is done
to it."""

from __future__ import annotations

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.select import Kind, Selection

#: Layers of selections begin with this; uint8.
PREFIX = "selection:"
_ON = {Kind.VERTEX: On.VERTEX, Kind.EDGE: On.EDGE, Kind.FACE: On.FACE}
_KINDS = {on: kind for kind, on in _ON.items()}
#: Names are not longer than this.
_LONGEST = 60


def names_of(mesh: Mesh) -> list[str]:
    """What selections of a mesh are called, in order."""
    found = (name for name in mesh.layers if name.startswith(PREFIX) and _is_plain(mesh, name))
    return sorted((name[len(PREFIX) :] for name in found), key=str.casefold)


def _is_plain(mesh: Mesh, name: str) -> bool:
    """Whether a layer says of parts that they are selected; files may hold anything."""
    layer = mesh.layers[name]
    return layer.on in _KINDS and layer.values.ndim == 1


def named(mesh: Mesh, name: str) -> Selection:
    """The selection of a name; empty where nothing is left of it. Raises MeshError."""
    if name not in names_of(mesh):
        raise MeshError(f"The mesh has no selection “{name}”.")
    layer = mesh.layers[PREFIX + name]
    return Selection(_KINDS[layer.on], np.flatnonzero(layer.values > 0).astype(np.int32))


def with_named(mesh: Mesh, name: str, chosen: Selection) -> Mesh:
    """With a selection kept under a name, in place of the one of that name. Raises MeshError."""
    if not name.strip() or len(name) > _LONGEST or not name.isprintable():
        raise MeshError(f"A selection needs a name of 1 to {_LONGEST} letters.")
    if chosen.kind is Kind.WHOLE or not len(chosen.indices):
        raise MeshError("Select vertices, edges or faces first.")
    on = _ON[chosen.kind]
    values = np.zeros(mesh.count(on), np.uint8)
    values[chosen.indices] = 1
    return mesh.with_layer(PREFIX + name, Layer(on, values))


def without_named(mesh: Mesh, name: str) -> Mesh:
    """Without the selection of a name."""
    return mesh.without_layer(PREFIX + name)
