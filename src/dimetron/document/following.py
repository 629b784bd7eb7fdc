"""Parts of meshes that follow one drawing where drawings disagree: a layer of the mesh, which goes
along with whatever is done to it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from dimetron.document.model import Document, with_item
from dimetron.mesh.arrays import Ints
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh

#: Of each vertex the number of a name, that of a drawing by its id; -1: it follows all.
FOLLOWS = "follows"


def followed(mesh: Mesh, drawings: Sequence[str]) -> Ints:
    """(n,) which of some drawings, by their ids, each vertex follows alone: its number among them,
    or -1 for all. Who follows one that is not there follows all."""
    layer = mesh.layers.get(FOLLOWS)
    if layer is None or layer.on is not On.VERTEX or layer.values.ndim != 1:
        return np.full(len(mesh.positions), -1)
    number = {id_: at for at, id_ in enumerate(drawings)}
    known = np.array([*(number.get(name, -1) for name in layer.names), -1])
    values = layer.values.astype(np.int64)
    return np.asarray(known[np.where((values >= 0) & (values < len(known) - 1), values, -1)])


def with_followed(doc: Document, id_: str, vertices: Ints, drawing: str) -> Document:
    """The project in which vertices of a mesh follow one drawing by its id; none for all again.
    Raises KeyError."""
    mesh = doc.mesh(id_).mesh
    before = mesh.layers.get(FOLLOWS)
    names = before.names if before is not None else ()
    values = np.full(len(mesh.positions), -1, np.int32)
    if before is not None:
        values[:] = before.values
    if drawing and drawing not in names:
        names = (*names, drawing)
    values[vertices] = names.index(drawing) if drawing else -1
    if not (values >= 0).any():
        return with_item(doc, id_, mesh=mesh.without_layer(FOLLOWS))
    return with_item(doc, id_, mesh=mesh.with_layer(FOLLOWS, Layer(On.VERTEX, values, -1, names)))
