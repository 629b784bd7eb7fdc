"""Longer or shorter between two stations."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, Drag, choice, number, station
from dimetron.mesh.select import Kind, Selection, vertices_of
from dimetron.mesh.stations import along


@dataclass(frozen=True)
class Stretch:
    """By how much, along which axis, and from where to where."""

    times: float = number(
        1.5, low=0.0, drag=Drag.ACROSS, hint="How many times as long it becomes in between"
    )
    axis: str = choice("z", AXIS, hint="The axis along which it is stretched")
    begin: float = station(0.25, hint="First station: 0 lowest, 1 highest")
    end: float = station(0.75, hint="Second station")


@operation(
    "stretch",
    title="Stretch",
    icon="stretch",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    order=30,
)
def stretch(mesh: Mesh, chosen: Selection, how: Stretch) -> Edited:
    """Lengthen or shorten it between two stations of an axis; what lies beyond moves along.

    What lies before the first station stays.
    """
    axis = "xyz".index(how.axis)
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    place = along(mesh.positions, mine, axis, how.begin, how.end)
    points = mesh.positions[mine].copy()
    points[:, axis] += place.share * ((how.times - 1) * (place.high - place.low))
    return Edited(mesh.with_moved(mine, points), chosen)
