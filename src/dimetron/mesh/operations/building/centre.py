"""Bring the middle of what is chosen onto an axis' zero."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.arrays import extent
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, choice
from dimetron.mesh.select import Kind, Selection, vertices_of


@dataclass(frozen=True)
class Centre:
    """Along which axis."""

    axis: str = choice("x", AXIS, hint="The axis on which its middle comes to zero")


@operation(
    "centre",
    title="Centre",
    icon="centre",
    takes=(Kind.VERTEX, Kind.EDGE, Kind.FACE),
    order=115,
    bare=True,
)
def centre(mesh: Mesh, chosen: Selection, how: Centre) -> Edited:
    """Move what is chosen so that its middle lies at zero along an axis."""
    mine = vertices_of(mesh, chosen.kind, chosen.indices)
    points = mesh.positions[mine].copy()
    points[:, "xyz".index(how.axis)] -= extent(points).mean(axis=0)["xyz".index(how.axis)]
    return Edited(mesh.with_moved(mine, points), chosen)
