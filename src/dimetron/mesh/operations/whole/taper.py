"""Wider or narrower from one end to the other."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, Drag, choice, number, station
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.stations import along


@dataclass(frozen=True)
class Taper:
    """By how much, along which axis, and from where to where."""

    times: float = number(
        0.5, low=0.0, drag=Drag.ACROSS, hint="How many times as wide it is at the end"
    )
    axis: str = choice("z", AXIS, hint="The axis along which it changes")
    begin: float = station(0.0, hint="Where it begins: 0 lowest, 1 highest")
    end: float = station(1.0, hint="Where it has its full measure")


@operation(
    "taper", title="Taper", icon="taper", takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE), order=10
)
def taper(mesh: Mesh, chosen: Selection, how: Taper) -> Edited:
    """Make it narrower or wider along an axis: as it is at the beginning, so many times at the end.

    About the middle of what is chosen.
    """
    axis = "xyz".index(how.axis)
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    place = along(mesh.positions, mine, axis, how.begin, how.end)
    times = 1 + (how.times - 1) * place.share
    points = mesh.positions[mine].copy()
    for other in {0, 1, 2} - {axis}:
        points[:, other] = place.middle[other] + (points[:, other] - place.middle[other]) * times
    return Edited(mesh.with_moved(mine, points), chosen)
