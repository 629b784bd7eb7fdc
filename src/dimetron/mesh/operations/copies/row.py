"""Copies in a row."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dimetron.mesh.arrays import Floats
from dimetron.mesh.edited import Edited
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import operation
from dimetron.mesh.parameters import AXIS, choice, count, length
from dimetron.mesh.repeating import repeated
from dimetron.mesh.select import Selection


@dataclass(frozen=True)
class Row:
    """How many, how far apart, and which way."""

    copies: int = count(3, low=2, high=10_000, hint="How many there are, with the first")
    step: float = length(20.0, hint="From each to the next")
    axis: str = choice("x", AXIS, hint="The axis they stand along")


@operation("row", title="In a row", icon="row", order=2)
def row(mesh: Mesh, chosen: Selection, how: Row) -> Edited:
    """Repeat the mesh along an axis, evenly apart; the copies become part of it."""
    return repeated(mesh, places(mesh, how))


def places(mesh: Mesh, how: Row) -> list[Floats]:
    """The positions (n, 3) of each copy, the mesh itself first."""
    step = how.step * (np.arange(3) == "xyz".index(how.axis))
    return [mesh.positions + step * k for k in range(how.copies)]
