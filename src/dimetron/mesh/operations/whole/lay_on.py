"""Vertices onto the surface of other meshes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.joined import joined
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.nearest import Surface
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import length, number
from dimetron.mesh.select import Kind, Selection, vertices_of

#: The surface is sampled this share of its extent apart.
_FINE = 0.01


@dataclass(frozen=True)
class LayOn:
    """How far, and how far off."""

    share: float = number(1.0, low=0.0, high=1.0, hint="1: all the way; less: only part of it")
    off: float = length(0.0, hint="So far off the surface, to the side its faces look to")


@operation(
    "lay-on",
    title="Lay on guides",
    icon="lay-on",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    order=50,
    asides=True,
    bare=True,
)
def lay_on(meshes: Sequence[Mesh], chosen: Selection, how: LayOn) -> Edited:
    """Bring vertices to the nearest place of the meshes that are set aside; on the command line, of
    all further meshes."""
    mesh, *others = meshes
    others = [other for other in others if other.topology.face_count]
    if not others:
        raise MeshError("There is no surface to lay it on; it needs a further mesh with faces.")
    under = joined(others)
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    surface = Surface(under, _FINE * max(float(np.ptp(under.bounds, axis=0).max()), 1e-9))
    found = surface.nearest(mesh.positions[mine])
    to = found.positions + how.off * under.face_normals[found.faces]
    points = mesh.positions[mine]
    return Edited(mesh.with_moved(mine, points + how.share * (to - points)), chosen)
