"""Faces of one flat place."""

from __future__ import annotations

from dataclasses import dataclass

from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import angle
from dimetron.mesh.select import Kind, Selection
from dimetron.mesh.spreading import flat_from


@dataclass(frozen=True)
class Flat:
    """How flat."""

    most: float = angle(
        5.0, low=0.0, high=180.0, hint="Neighbours that turn by no more than this belong to it"
    )


@operation("flat", title="Flat", icon="sel-flat", order=41, takes=(Kind.FACE,), bare=True)
def flat(mesh: Mesh, chosen: Selection, how: Flat) -> Edited:
    """Select the faces around the chosen ones as far as the surface hardly turns."""
    return Edited(mesh, Selection(Kind.FACE, flat_from(mesh, chosen.indices, how.most)))
