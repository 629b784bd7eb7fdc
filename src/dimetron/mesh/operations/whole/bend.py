"""Bent along an arc."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, Drag, angle, choice, station
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.stations import along

_TOWARD = (("+x", "+X"), ("-x", "−X"), ("+y", "+Y"), ("-y", "−Y"), ("+z", "+Z"), ("-z", "−Z"))
#: Less than this, in radians, is no bend.
_STRAIGHT = 1e-9


@dataclass(frozen=True)
class Bend:
    """By how much, along which axis and toward which, and from where to where."""

    bend: float = angle(
        45.0, drag=Drag.ACROSS, low=-720.0, high=720.0, hint="By how much the end is turned"
    )
    axis: str = choice("z", AXIS, hint="The axis along which it is bent")
    toward: str = choice("+x", _TOWARD, hint="Where the end goes")
    begin: float = station(0.0, hint="Where it begins: 0 lowest, 1 highest")
    end: float = station(1.0, hint="Where it has its full measure")


@operation("bend", title="Bend", icon="bend", takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE), order=25)
def bend(mesh: Mesh, chosen: Selection, how: Bend) -> Edited:
    """Bend it along an arc between two stations; what lies beyond goes straight on.

    The line through the middle of what is chosen keeps its length.
    """
    axis, side = "xyz".index(how.axis), "xyz".index(how.toward[1])
    if axis == side:
        raise MeshError("It is bent toward another axis than the one it lies along.")
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    place = along(mesh.positions, mine, axis, how.begin, how.end)
    total = np.radians(how.bend) * (1 if how.toward[0] == "+" else -1)
    if abs(total) < _STRAIGHT:
        return Edited(mesh, chosen)
    points = mesh.positions[mine].copy()
    radius = (place.high - place.low) / total
    by = total * place.share
    # How far a vertex lies off the arc's own part of the axis, before it or beyond it.
    rest = points[:, axis] - (place.low + place.share * (place.high - place.low))
    off = radius - (points[:, side] - place.middle[side])
    points[:, axis] = place.low + off * np.sin(by) + rest * np.cos(by)
    points[:, side] = place.middle[side] + radius - off * np.cos(by) + rest * np.sin(by)
    return Edited(mesh.with_moved(mine, points), chosen)
