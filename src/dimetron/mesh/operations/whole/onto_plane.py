"""Vertices onto a plane that can be tilted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError, extent
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, angle, choice, number
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.turning import rotation

_ALONG = (("axis", "the axis"), ("square", "square to it"))
#: A plane that is tilted more than this along the way vertices go is never met, as a cosine.
_LEVEL = 0.02


@dataclass(frozen=True)
class OntoPlane:
    """Which plane, how tilted, and which way."""

    axis: str = choice("z", AXIS, hint="The axis the plane is square to, before it is tilted")
    tilt: float = angle(0.0, low=-90.0, high=90.0, hint="Tilted about the next axis: X, Y, Z, X")
    lean: float = angle(0.0, low=-90.0, high=90.0, hint="Tilted about the one after that")
    place: float = number(
        0.5, low=-10.0, high=10.0, hint="What it tilts about: 0 lowest along the axis, 1 highest"
    )
    along: str = choice("axis", _ALONG, hint="Vertices go along the axis, or square to the plane")


@operation(
    "onto-plane",
    title="Onto a plane",
    icon="onto-plane",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    order=45,
    bare=True,
)
def onto_plane(mesh: Mesh, chosen: Selection, how: OntoPlane) -> Edited:
    """Bring vertices into a plane, which can still be tilted while its numbers are open; along an
    axis, so that they look the same from there, or square to the plane."""
    axis = "xyz".index(how.axis)
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    points = mesh.positions[mine]
    box = extent(points)
    through = box.mean(axis=0)
    through[axis] = box[0, axis] + how.place * (box[1, axis] - box[0, axis])
    turn = rotation((axis + 1) % 3, how.tilt) @ rotation((axis + 2) % 3, how.lean)
    normal = (np.eye(3) @ turn)[axis]
    way = normal if how.along == "square" else np.eye(3)[axis]
    meets = float(way @ normal)
    if abs(meets) < _LEVEL:
        raise MeshError("The plane runs along the axis; tilt it less, or go square to it.")
    by = ((points - through) @ normal) / meets
    return Edited(mesh.with_moved(mine, points - by[:, None] * way), chosen)
