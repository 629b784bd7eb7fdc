"""Turned more and more from one end to the other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, Drag, angle, choice, station
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.stations import along


@dataclass(frozen=True)
class Twist:
    """By how much, about which axis, and from where to where."""

    turn: float = angle(
        45.0, drag=Drag.ACROSS, low=-36_000.0, high=36_000.0, hint="How far the end is turned"
    )
    axis: str = choice("z", AXIS, hint="The axis about which it turns")
    begin: float = station(0.0, hint="Where it begins: 0 lowest, 1 highest")
    end: float = station(1.0, hint="Where it has its full measure")


@operation(
    "twist", title="Twist", icon="twist", takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE), order=20
)
def twist(mesh: Mesh, chosen: Selection, how: Twist) -> Edited:
    """Turn it about an axis, not at all at the beginning and fully at the end.

    About the middle of what is chosen.
    """
    axis = "xyz".index(how.axis)
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    place = along(mesh.positions, mine, axis, how.begin, how.end)
    by = np.radians(how.turn) * place.share
    points = mesh.positions[mine].copy()
    a, b = (axis + 1) % 3, (axis + 2) % 3
    x, y = points[:, a] - place.middle[a], points[:, b] - place.middle[b]
    points[:, a] = place.middle[a] + x * np.cos(by) - y * np.sin(by)
    points[:, b] = place.middle[b] + x * np.sin(by) + y * np.cos(by)
    return Edited(mesh.with_moved(mine, points), chosen)
