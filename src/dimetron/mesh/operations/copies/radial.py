"""Copies round an axis."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from dimetron.mesh.arrays import Floats
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, choice, count, length, only
from dimetron.mesh.parameters import angle as degrees
from dimetron.mesh.repeating import repeated
from dimetron.mesh.select import Selection
from dimetron.mesh.turning import turning

_ABOUT = (("origin", "the origin"), ("middle", "its middle"), ("place", "a place"))
_PLACE = only("about", "place")


@dataclass(frozen=True)
class Radial:
    """How many, and round what."""

    copies: int = count(6, low=2, high=10_000, hint="How many there are, with the first")
    axis: str = choice("z", AXIS, hint="The axis they stand round")
    about: str = choice("origin", _ABOUT, hint="What the axis runs through")
    angle: float = degrees(
        360.0,
        low=-360.0,
        high=360.0,
        hint="How far round; all the way, the last stands as far from the first as from the one "
        "before it",
    )
    x: float = length(0.0, when=_PLACE, hint="X of a place that the axis runs through")
    y: float = length(0.0, when=_PLACE, hint="Y of a place that the axis runs through")
    z: float = length(0.0, when=_PLACE, hint="Z of a place that the axis runs through")

    def through(self, place: Floats) -> Radial:
        """Round an axis through a place (3,)."""
        x, y, z = place.tolist()
        return replace(self, about="place", x=x, y=y, z=z)


@operation("radial", title="Round an axis", icon="radial", order=1)
def radial(mesh: Mesh, chosen: Selection, how: Radial) -> Edited:
    """Repeat the mesh round an axis, evenly apart; the copies become part of it."""
    return repeated(mesh, places(mesh, how))


def places(mesh: Mesh, how: Radial) -> list[Floats]:
    """The positions (n, 3) of each copy, the mesh itself first."""
    gaps = how.copies if abs(how.angle) >= 360 else how.copies - 1
    place = np.array([how.x, how.y, how.z]) if how.about == "place" else np.zeros(3)
    pivot = mesh.bounds.mean(axis=0) if how.about == "middle" else place
    return [
        turning("xyz".index(how.axis), how.angle * k / gaps, pivot)(mesh.positions)
        for k in range(how.copies)
    ]
